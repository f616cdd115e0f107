//! Reading a text into the items of a tree, and the texts that spell the values of a list.

use std::borrow::Cow;
use std::fmt;

use serde::de::{DeserializeSeed, Deserializer, Error, MapAccess, SeqAccess, Visitor};
use serde_json::Number;
use serde_json::value::RawValue;

use super::{Item, Value};

/// What was read: a whole number, which may become one of a list of them, or an item.
pub(super) enum Made {
    Whole(i32),
    Item(u32),
}

impl Made {
    /// An item in any case.
    pub(super) fn item<E: Error>(
        self,
        items: &mut Items<'_>,
        parent: u32,
        place: u32,
    ) -> Result<u32, E> {
        match self {
            Made::Whole(number) => {
                items.push(Item { parent, place, value: Value::Number(number.into()) })
            }
            Made::Item(item) => Ok(item),
        }
    }
}

/// The items that were read, and how many there may be.
pub(super) struct Items<'a> {
    pub(super) list: Vec<Item<'a>>,
    pub(super) most: u64,
}

impl<'a> Items<'a> {
    fn push<E: Error>(&mut self, item: Item<'a>) -> Result<u32, E> {
        if self.list.len() as u64 >= self.most {
            return Err(E::custom(too_many(self.most)));
        }
        self.list.push(item);
        Ok(self.list.len() as u32 - 1)
    }
}

/// In words that a text has too many values.
pub(in crate::document) fn too_many(most: u64) -> String {
    format!("there are more than the {most} JSON values allowed")
}

/// Reads one value into the items of a tree.
pub(super) struct Seed<'s, 'a> {
    pub(super) items: &'s mut Items<'a>,
    pub(super) parent: u32,
    pub(super) place: u32,
}

impl<'a> Seed<'_, 'a> {
    fn made<E: Error>(self, value: Value<'a>) -> Result<Made, E> {
        let Seed { items, parent, place } = self;
        Ok(Made::Item(items.push(Item { parent, place, value })?))
    }
}

impl<'de> DeserializeSeed<'de> for Seed<'_, 'de> {
    type Value = Made;

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<Made, D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for Seed<'_, 'de> {
    type Value = Made;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a value")
    }

    fn visit_unit<E: Error>(self) -> Result<Made, E> {
        self.made(Value::Null)
    }

    fn visit_bool<E: Error>(self, value: bool) -> Result<Made, E> {
        self.made(Value::Boolean(value))
    }

    fn visit_i64<E: Error>(self, number: i64) -> Result<Made, E> {
        match i32::try_from(number) {
            Ok(whole) => Ok(Made::Whole(whole)),
            Err(_) => self.made(Value::Number(number.into())),
        }
    }

    fn visit_u64<E: Error>(self, number: u64) -> Result<Made, E> {
        match i32::try_from(number) {
            Ok(whole) => Ok(Made::Whole(whole)),
            Err(_) => self.made(Value::Number(number.into())),
        }
    }

    fn visit_f64<E: Error>(self, number: f64) -> Result<Made, E> {
        // JSON has no numbers that are not finite.
        self.made(Number::from_f64(number).map_or(Value::Null, Value::Number))
    }

    fn visit_borrowed_str<E: Error>(self, text: &'de str) -> Result<Made, E> {
        self.made(Value::Text(Cow::Borrowed(text)))
    }

    fn visit_str<E: Error>(self, text: &str) -> Result<Made, E> {
        self.made(Value::Text(Cow::Owned(text.to_owned())))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Made, A::Error> {
        let Seed { items, parent, place } = self;
        let index = items.push(Item { parent, place, value: Value::Null })?;
        let (mut numbers, mut others): (Vec<i32>, Option<Vec<u32>>) = (Vec::new(), None);
        let mut place = 0;
        while let Some(made) =
            list.next_element_seed(Seed { items: &mut *items, parent: index, place })?
        {
            match (made, &mut others) {
                (Made::Whole(number), None) => numbers.push(number),
                (made, Some(others)) => others.push(made.item(items, index, place)?),
                (Made::Item(item), None) => {
                    // Not only whole numbers after all.
                    let item_of = |(number, place)| Made::Whole(number).item(items, index, place);
                    let all = numbers.drain(..).zip(0..).map(item_of);
                    let mut all: Vec<u32> = all.collect::<Result<_, _>>()?;
                    all.push(item);
                    others = Some(all);
                }
            }
            place += 1;
        }
        items.list[index as usize].value = others.map_or(Value::Whole(numbers), Value::List);
        Ok(Made::Item(index))
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Made, A::Error> {
        let Seed { items, parent, place } = self;
        let index = items.push(Item { parent, place, value: Value::Null })?;
        let mut entries = Vec::new();
        let mut place = 0;
        while let Some(Text(key)) = map.next_key::<Text<'de>>()? {
            let made = map.next_value_seed(Seed { items: &mut *items, parent: index, place })?;
            entries.push((key, made.item(items, index, place)?));
            place += 1;
        }
        items.list[index as usize].value = Value::Object(entries);
        Ok(Made::Item(index))
    }
}

/// A text that is borrowed where it has no escapes.
struct Text<'a>(Cow<'a, str>);

impl<'de: 'a, 'a> serde::Deserialize<'de> for Text<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct TextVisitor;
        impl<'de> Visitor<'de> for TextVisitor {
            type Value = Text<'de>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a text")
            }

            fn visit_borrowed_str<E>(self, text: &'de str) -> Result<Text<'de>, E> {
                Ok(Text(Cow::Borrowed(text)))
            }

            fn visit_str<E>(self, text: &str) -> Result<Text<'de>, E> {
                Ok(Text(Cow::Owned(text.to_owned())))
            }
        }
        deserializer.deserialize_str(TextVisitor)
    }
}

/// The texts that spell the values of a list or an object.
pub(super) struct ValuesVisitor;

impl<'de> Visitor<'de> for ValuesVisitor {
    type Value = Vec<&'de str>;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a list or an object")
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Self::Value, A::Error> {
        let mut values = Vec::new();
        while let Some(value) = list.next_element::<&'de RawValue>()? {
            values.push(value.get());
        }
        Ok(values)
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self::Value, A::Error> {
        let mut values = Vec::new();
        while let Some((_, value)) = map.next_entry::<Text<'de>, &'de RawValue>()? {
            values.push(value.get());
        }
        Ok(values)
    }
}
