//! A JSON document as a tree whose every node can tell its place in the text.
//!
//! `serde_json` reads the text once and gives no places. So a text tells its place by where it is
//! borrowed from, the value of an entry by where its key is, and everything else by reading the
//! list that it is in once more, when it is asked: that is, when a problem is to be shown. Lists of
//! whole numbers are kept as such, four bytes each.

use std::borrow::Cow;
use std::cell::RefCell;
use std::fmt;

use rustc_hash::FxHashMap;
use serde::de::{DeserializeSeed, Deserializer, Error, MapAccess, SeqAccess, Visitor};
use serde_json::Number;
use serde_json::value::RawValue;

/// A document that was read.
#[derive(Debug)]
pub(crate) struct Tree<'a> {
    text: &'a str,
    items: Vec<Item<'a>>,
    root: u32,
    /// Where the values of a list or an object lie, for those that were asked.
    places: RefCell<FxHashMap<u32, Vec<Span>>>,
}

#[derive(Debug)]
struct Item<'a> {
    /// The list or object that it is in.
    parent: u32,
    /// Which of its values it is.
    place: u32,
    value: Value<'a>,
}

#[derive(Debug)]
enum Value<'a> {
    Null,
    Boolean(bool),
    Number(Number),
    Text(Cow<'a, str>),
    List(Vec<u32>),
    /// A list of nothing but whole numbers.
    Whole(Vec<i32>),
    Object(Vec<(Cow<'a, str>, u32)>),
}

/// One value of a document.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Node<'a> {
    tree: &'a Tree<'a>,
    item: u32,
    /// Which of the numbers of the item, where it is a list of them.
    element: Option<u32>,
}

/// One entry of an object.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Entry<'a> {
    pub(crate) key: &'a str,
    pub(crate) value: Node<'a>,
}

/// A part of a text in bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Span {
    pub(crate) start: usize,
    pub(crate) len: usize,
}

/// The whole numbers of a list.
#[derive(Debug)]
pub(crate) enum WholeNumbers<'a> {
    Small(&'a [i32]),
    Large(Vec<i64>),
}

impl WholeNumbers<'_> {
    pub(crate) fn len(&self) -> usize {
        match self {
            WholeNumbers::Small(numbers) => numbers.len(),
            WholeNumbers::Large(numbers) => numbers.len(),
        }
    }

    /// Some of them, in their order.
    pub(crate) fn part(&self, range: std::ops::Range<usize>, into: &mut Vec<i64>) {
        into.clear();
        match self {
            WholeNumbers::Small(all) => into.extend(all[range].iter().copied().map(i64::from)),
            WholeNumbers::Large(all) => into.extend_from_slice(&all[range]),
        }
    }
}

impl<'a> Tree<'a> {
    /// Reads a text of at most so many values; whole numbers in a list of nothing else do not count.
    pub(crate) fn of(text: &'a str, most: u64) -> Result<Tree<'a>, serde_json::Error> {
        let mut items = Items { list: Vec::new(), most };
        let mut deserializer = serde_json::Deserializer::from_str(text);
        let made =
            Seed { items: &mut items, parent: 0, place: 0 }.deserialize(&mut deserializer)?;
        deserializer.end()?;
        let root = made.item(&mut items, 0, 0)?;
        Ok(Tree { text, items: items.list, root, places: RefCell::default() })
    }

    /// How many values there are; whole numbers in a list of nothing else do not count.
    pub(crate) fn count(&self) -> u64 {
        self.items.len() as u64
    }

    pub(crate) fn root(&self) -> Node<'_> {
        Node { tree: self, item: self.root, element: None }
    }

    fn value(&self, item: u32) -> &Value<'a> {
        self.items.get(item as usize).map_or(&Value::Null, |item| &item.value)
    }

    /// Where a part of the text stands; `None` for a text that was spelled with escapes.
    fn span_of(&self, part: &str) -> Option<Span> {
        let start = (part.as_ptr() as usize).checked_sub(self.text.as_ptr() as usize)?;
        let is_inside = start + part.len() <= self.text.len();
        is_inside.then_some(Span { start, len: part.len() })
    }

    /// Where a value begins.
    fn start(&self, item: u32) -> usize {
        let blank = |at: usize| {
            let rest = self.text.get(at..).unwrap_or_default();
            at + rest.len() - rest.trim_start().len()
        };
        if item == self.root {
            return blank(0);
        }
        let Some(Item { parent, place, .. }) = self.items.get(item as usize) else { return 0 };
        if let Value::Object(entries) = self.value(*parent)
            && let Some(key) = entries.get(*place as usize).and_then(|(key, _)| self.span_of(key))
        {
            // Behind the key come its quote and a colon.
            let colon = blank(key.start + key.len + 1);
            return blank(colon + 1);
        }
        self.place_in(*parent, *place).start
    }

    /// Where one of the values of a list or an object lies.
    fn place_in(&self, parent: u32, place: u32) -> Span {
        if !self.places.borrow().contains_key(&parent) {
            let spans = self.read_places(self.start(parent));
            self.places.borrow_mut().insert(parent, spans);
        }
        let places = self.places.borrow();
        let found = places.get(&parent).and_then(|spans| spans.get(place as usize));
        found.copied().unwrap_or(Span { start: 0, len: 1 })
    }

    /// Where all values of the list or object lie that begins here.
    fn read_places(&self, start: usize) -> Vec<Span> {
        let rest = self.text.get(start..).unwrap_or_default();
        let mut deserializer = serde_json::Deserializer::from_str(rest);
        let values = match rest.starts_with('{') {
            true => deserializer.deserialize_map(ValuesVisitor),
            false => deserializer.deserialize_seq(ValuesVisitor),
        };
        let values = values.unwrap_or_default();
        values.into_iter().filter_map(|value| self.span_of(value)).collect()
    }

    /// How long the value is that begins here.
    fn length(&self, start: usize) -> usize {
        let rest = self.text.get(start..).unwrap_or_default();
        let mut values = serde_json::Deserializer::from_str(rest).into_iter::<&RawValue>();
        values.next().and_then(Result::ok).map_or(1, |value| value.get().len())
    }
}

impl<'a> Node<'a> {
    fn value_of(self) -> &'a Value<'a> {
        self.tree.value(self.item)
    }

    /// The number that it is within a list of whole ones.
    fn whole(self) -> Option<i64> {
        match (self.element, self.value_of()) {
            (Some(at), Value::Whole(numbers)) => numbers.get(at as usize).copied().map(i64::from),
            _ => None,
        }
    }

    /// The part of the text that spells it.
    pub(crate) fn span(self) -> Span {
        if let Some(element) = self.element {
            return self.tree.place_in(self.item, element);
        }
        if let Value::Text(text) = self.value_of()
            && let Some(inner) = self.tree.span_of(text)
        {
            return Span { start: inner.start.saturating_sub(1), len: inner.len + 2 };
        }
        let start = self.tree.start(self.item);
        Span { start, len: self.tree.length(start) }
    }

    /// Its first byte.
    pub(crate) fn start(self) -> Span {
        let start = match self.element {
            Some(element) => self.tree.place_in(self.item, element).start,
            None => self.tree.start(self.item),
        };
        Span { start, len: 1 }
    }

    /// Where a text stands, and where anything else begins.
    pub(crate) fn spot(self) -> Span {
        if self.is_text() { self.span() } else { self.start() }
    }

    /// What kind of value it is, in words.
    pub(crate) fn kind(self) -> &'static str {
        match self.value_of() {
            _ if self.element.is_some() => "a number",
            Value::Object(_) => "an object",
            Value::List(_) | Value::Whole(_) => "a list",
            Value::Text(_) => "a text",
            Value::Boolean(_) => "true or false",
            Value::Null => "null",
            Value::Number(_) => "a number",
        }
    }

    pub(crate) fn is_null(self) -> bool {
        self.element.is_none() && matches!(self.value_of(), Value::Null)
    }

    pub(crate) fn is_text(self) -> bool {
        matches!(self.value_of(), Value::Text(_))
    }

    pub(crate) fn is_object(self) -> bool {
        matches!(self.value_of(), Value::Object(_))
    }

    /// The value of an entry of an object: the first with this key.
    pub(crate) fn get(self, key: &str) -> Option<Node<'a>> {
        self.entries()?.iter().find(|entry| entry.key == key).map(|entry| entry.value)
    }

    /// The entries of an object in their order, repeated keys included.
    pub(crate) fn entries(self) -> Option<Vec<Entry<'a>>> {
        let Value::Object(entries) = self.value_of() else { return None };
        let entry = |(key, item): &'a (Cow<'a, str>, u32)| Entry {
            key,
            value: Node { item: *item, ..self },
        };
        Some(entries.iter().map(entry).collect())
    }

    /// The items of a list.
    pub(crate) fn items(self) -> Option<Vec<Node<'a>>> {
        match (self.element, self.value_of()) {
            (None, Value::List(items)) => {
                Some(items.iter().map(|&item| Node { item, ..self }).collect())
            }
            (None, Value::Whole(numbers)) => {
                let elements = 0..numbers.len() as u32;
                Some(elements.map(|at| Node { element: Some(at), ..self }).collect())
            }
            _ => None,
        }
    }

    pub(crate) fn text(self) -> Option<Cow<'a, str>> {
        match self.value_of() {
            Value::Text(text) => Some(Cow::Borrowed(text)),
            _ => None,
        }
    }

    pub(crate) fn number(self) -> Option<f64> {
        if let Some(whole) = self.whole() {
            return Some(whole as f64);
        }
        match self.value_of() {
            Value::Number(number) => number.as_f64(),
            _ => None,
        }
    }

    pub(crate) fn integer(self) -> Option<i64> {
        self.whole().or_else(|| match self.value_of() {
            Value::Number(number) => number.as_i64(),
            _ => None,
        })
    }

    /// A list of whole numbers and nothing else.
    pub(crate) fn whole_numbers(self) -> Option<WholeNumbers<'a>> {
        match (self.element, self.value_of()) {
            (None, Value::Whole(numbers)) => Some(WholeNumbers::Small(numbers)),
            (None, Value::List(_)) => {
                let items = self.items()?.into_iter();
                Some(WholeNumbers::Large(items.map(Node::integer).collect::<Option<_>>()?))
            }
            _ => None,
        }
    }

    pub(crate) fn boolean(self) -> Option<bool> {
        match self.value_of() {
            Value::Boolean(value) => Some(*value),
            _ => None,
        }
    }

    /// The values of a list or an object; none of a list of whole numbers, which are kept as such.
    fn inner(self) -> impl Iterator<Item = Node<'a>> {
        let (entries, items): (&[_], &[u32]) = match self.value_of() {
            Value::Object(entries) => (entries, &[]),
            Value::List(items) => (&[], items),
            _ => (&[], &[]),
        };
        let items = entries.iter().map(|(_, item)| item).chain(items);
        items.map(move |&item| Node { item, ..self })
    }

    /// How deep lists and objects are nested in it: 0 for a value that is neither.
    pub(crate) fn depth(self) -> usize {
        match (self.element, self.value_of()) {
            (None, Value::Object(_) | Value::List(_)) => {
                1 + self.inner().map(Node::depth).max().unwrap_or(0)
            }
            (None, Value::Whole(_)) => 1,
            _ => 0,
        }
    }

    /// How many values it is: itself, and all that it holds.
    pub(crate) fn count(self) -> u64 {
        match (self.element, self.value_of()) {
            (None, Value::Whole(numbers)) => 1 + numbers.len() as u64,
            _ => 1 + self.inner().map(Node::count).sum::<u64>(),
        }
    }

    /// The value as such.
    pub(crate) fn value(self) -> serde_json::Value {
        if let Some(whole) = self.whole() {
            return whole.into();
        }
        match self.value_of() {
            Value::Null => serde_json::Value::Null,
            Value::Boolean(value) => (*value).into(),
            Value::Number(number) => number.clone().into(),
            Value::Text(text) => text.as_ref().into(),
            Value::Whole(numbers) => numbers.iter().copied().collect(),
            Value::List(_) => self.items().into_iter().flatten().map(Node::value).collect(),
            Value::Object(_) => {
                let entries = self.entries().into_iter().flatten();
                entries.map(|entry| (entry.key.to_owned(), entry.value.value())).collect()
            }
        }
    }
}

impl Entry<'_> {
    /// The part of the text that spells the key, or its value where the key is spelled with
    /// escapes.
    pub(crate) fn key_span(&self) -> Span {
        match self.value.tree.span_of(self.key) {
            Some(inner) => Span { start: inner.start.saturating_sub(1), len: inner.len + 2 },
            None => self.value.span(),
        }
    }
}

/// What was read: a whole number, which may become one of a list of them, or an item.
enum Made {
    Whole(i32),
    Item(u32),
}

impl Made {
    /// An item in any case.
    fn item<E: Error>(self, items: &mut Items<'_>, parent: u32, place: u32) -> Result<u32, E> {
        match self {
            Made::Whole(number) => {
                items.push(Item { parent, place, value: Value::Number(number.into()) })
            }
            Made::Item(item) => Ok(item),
        }
    }
}

/// The items that were read, and how many there may be.
struct Items<'a> {
    list: Vec<Item<'a>>,
    most: u64,
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
pub(super) fn too_many(most: u64) -> String {
    format!("there are more than the {most} JSON values allowed")
}

/// Reads one value into the items of a tree.
struct Seed<'s, 'a> {
    items: &'s mut Items<'a>,
    parent: u32,
    place: u32,
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
struct ValuesVisitor;

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
