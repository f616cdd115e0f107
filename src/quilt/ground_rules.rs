use std::collections::HashMap;
use std::sync::Arc;

use crate::name_error::NameError;
use crate::picture::Color;
use crate::stamp::{Birth, Hint, Stamp};
use crate::units::{Side, Sides};

/// The handle of a ground class of one map: what a place is to a body. Valid for the map and all its
/// clones.
///
/// It knows its class: in another map it is no class, and never another one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct GroundClass {
    birth: Stamp,
    index: Hint,
}

impl GroundClass {
    /// The most classes a map can have.
    pub const MAX_COUNT: usize = 64;

    /// Returns the place among the map's classes, counted from 0. One that was added later may have another
    /// place after a class before it was taken back.
    pub const fn index(self) -> usize {
        self.index.0 as usize
    }
}

/// The handle of a mover of one map. Valid for the map and all its clones.
///
/// It knows its mover: in another map it is no mover, and never another one. A mover that is put in
/// the place of one with its name has the same handle.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct MoverId {
    birth: Stamp,
    index: Hint,
}

impl MoverId {
    /// Where it most likely is among the movers.
    pub(crate) const fn hint(self) -> usize {
        self.index.0 as usize
    }

    pub(crate) const fn birth(self) -> Stamp {
        self.birth
    }
}

/// The way in which one kind of body takes a ground class, the outside of the map, or a place that
/// is not loaded.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[non_exhaustive]
pub enum Treatment {
    /// It passes at full speed.
    #[default]
    Pass,
    /// It cannot be there.
    Block,
    /// It passes at a factor of its speed, greater than 0 and at most 1.
    Slow(f64),
    /// It passes at full speed, and there is a finite number to it that means something to the
    /// game: damage, noise, cost.
    Value(f64),
    /// It is stopped where it comes in by one of these sides, and passes by the others; within, it
    /// moves freely. `Sides::TOP` is a platform: a body stands on it, and jumps up through it.
    OneWay(Sides),
}

impl Treatment {
    /// The same treatment, with a factor that is none of its range as what it comes to.
    fn in_range(self) -> Treatment {
        match self {
            Treatment::Slow(factor) if factor >= 1.0 => Treatment::Pass,
            Treatment::Slow(factor) if factor > 0.0 => self,
            Treatment::Slow(_) => Treatment::Block,
            Treatment::Value(value) if !value.is_finite() => Treatment::Pass,
            Treatment::OneWay(sides) if sides.is_empty() => Treatment::Pass,
            other => other,
        }
    }

    /// Returns whether a body cannot be there.
    pub const fn blocks(self) -> bool {
        matches!(self, Treatment::Block)
    }

    /// Returns the factor of the body's speed: 1 where it passes, 0 where it cannot be.
    pub const fn speed(self) -> f64 {
        match self {
            Treatment::Pass | Treatment::Value(_) | Treatment::OneWay(_) => 1.0,
            Treatment::Block => 0.0,
            Treatment::Slow(factor) => factor,
        }
    }

    /// Returns whether a body cannot come in by a side.
    pub const fn stops_at(self, side: Side) -> bool {
        match self {
            Treatment::Block => true,
            Treatment::OneWay(sides) => sides.contains(side),
            _ => false,
        }
    }

    /// Returns the number of the game's own; 0 where none is stated.
    pub const fn value(self) -> f64 {
        match self {
            Treatment::Value(value) => value,
            _ => 0.0,
        }
    }
}

/// A kind of body, and how it treats each ground class.
///
/// A class that is not named is passed, and so is a cell of which nothing is said. The outside of
/// the map is a wall, and so is what is not loaded. For each of these something else can be said.
///
/// ```
/// use sturdy_quilt::quilt::Treatment;
/// use sturdy_quilt::Mover;
///
/// let cart = Mover::new("cart").slow("mud", 0.5).block("channel").with_outside(Treatment::Pass);
/// assert_eq!(cart.treatment("mud"), Treatment::Slow(0.5));
/// assert_eq!(cart.treatment("steam"), Treatment::Pass);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Mover {
    name: Arc<str>,
    treatments: Vec<(Arc<str>, Treatment)>,
    outside: Outside,
    empty: Treatment,
    unloaded: Treatment,
    birth: Birth,
}

/// The space beyond the bounds of the map for a mover.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub enum Outside {
    /// Everywhere the same.
    Treated(Treatment),
    /// The map again, from its other side.
    Wrapped,
}

impl Mover {
    /// Returns a body that passes every class.
    pub fn new(name: impl Into<Arc<str>>) -> Mover {
        Mover {
            name: name.into(),
            treatments: Vec::new(),
            outside: Outside::Treated(Treatment::Block),
            empty: Treatment::Pass,
            unloaded: Treatment::Block,
            birth: Birth::default(),
        }
    }

    /// When it was added to its map.
    pub(crate) const fn birth(&self) -> Stamp {
        self.birth.0
    }

    /// The same mover, added to a map now.
    pub(crate) fn born(self) -> Mover {
        Mover { birth: Birth::now(), ..self }
    }

    /// Returns this mover, blocked by a class.
    #[must_use]
    pub fn block(self, class: impl Into<Arc<str>>) -> Mover {
        self.with_treatment(class, Treatment::Block)
    }

    /// Returns this mover, slowed by a class to a factor of its speed. A factor that is not greater
    /// than 0 blocks, one of 1 or more passes.
    #[must_use]
    pub fn slow(self, class: impl Into<Arc<str>>, factor: f64) -> Mover {
        self.with_treatment(class, Treatment::Slow(factor))
    }

    /// Returns this mover, stopped by a class where it comes in by one of these sides.
    #[must_use]
    pub fn one_way(self, class: impl Into<Arc<str>>, sides: Sides) -> Mover {
        self.with_treatment(class, Treatment::OneWay(sides))
    }

    /// Returns this mover with another treatment of a class.
    #[must_use]
    pub fn with_treatment(mut self, class: impl Into<Arc<str>>, treatment: Treatment) -> Mover {
        let class = class.into();
        self.treatments.retain(|(held, _)| *held != class);
        self.treatments.push((class, treatment.in_range()));
        self
    }

    /// Returns this mover with another treatment of the outside of the map.
    #[must_use]
    pub fn with_outside(mut self, treatment: Treatment) -> Mover {
        self.outside = Outside::Treated(treatment.in_range());
        self
    }

    /// Returns this mover, to which the map goes on from its other side.
    #[must_use]
    pub fn with_wrap(mut self) -> Mover {
        self.outside = Outside::Wrapped;
        self
    }

    /// Returns this mover with another treatment of cells whose ground nothing states.
    #[must_use]
    pub fn with_empty(mut self, treatment: Treatment) -> Mover {
        self.empty = treatment.in_range();
        self
    }

    /// Returns this mover, to which a class has a number of the game's own. A number that is not
    /// finite is none.
    #[must_use]
    pub fn with_value(self, class: impl Into<Arc<str>>, value: f64) -> Mover {
        self.with_treatment(class, Treatment::Value(value))
    }

    /// Returns this mover with another treatment of places that are not loaded.
    #[must_use]
    pub fn with_unloaded(mut self, treatment: Treatment) -> Mover {
        self.unloaded = treatment.in_range();
        self
    }

    /// Returns its name, which no other mover of its map has.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Returns how it treats a class.
    pub fn treatment(&self, class: &str) -> Treatment {
        let found = self.treatments.iter().find(|(held, _)| **held == *class);
        found.map(|(_, treatment)| *treatment).unwrap_or_default()
    }

    /// Returns the classes that it names, with their treatment, in the order in which they were
    /// stated.
    pub fn treatments(&self) -> impl Iterator<Item = (&str, Treatment)> {
        self.treatments.iter().map(|(class, treatment)| (&**class, *treatment))
    }

    /// Returns what lies beyond the bounds of the map.
    pub const fn outside(&self) -> Outside {
        self.outside
    }

    /// Returns how it treats cells whose ground nothing states.
    pub const fn empty(&self) -> Treatment {
        self.empty
    }

    /// Returns how it treats what is not loaded.
    pub const fn unloaded(&self) -> Treatment {
        self.unloaded
    }
}

/// The ground classes and movers of a map.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct GroundRules {
    classes: Vec<Class>,
    movers: Vec<Mover>,
    /// The places of the movers by their names, which come from strangers.
    by_name: HashMap<Arc<str>, u16>,
}

/// A ground class of a map.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Class {
    name: Arc<str>,
    birth: Birth,
    color: Option<Color>,
}

impl Class {
    /// A new class without a colour.
    pub(crate) fn new(name: &str) -> Class {
        Class { name: name.into(), birth: Birth::now(), color: None }
    }

    /// The same class in another colour.
    pub(crate) fn with_color(self, color: Option<Color>) -> Class {
        Class { color, ..self }
    }

    pub(crate) const fn name(&self) -> &Arc<str> {
        &self.name
    }

    pub(crate) const fn color(&self) -> Option<Color> {
        self.color
    }
}

/// The error of a ground class or a mover that cannot be added.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum GroundRulesError {
    /// The name cannot be one: `outside`, `empty` and `unloaded` mean something else in a mover.
    #[error(
        "`{0}` cannot name a ground class: it must have a name other than `outside`, `empty` and `unloaded`"
    )]
    ReservedName(String),
    /// There are as many classes as a map can have.
    #[error("a map can have at most {} ground classes", GroundClass::MAX_COUNT)]
    TooManyClasses,
    /// There are as many movers as a map can have.
    #[error("a map can have at most 65535 movers")]
    TooManyMovers,
    /// The mover names a class that is not there.
    #[error("mover `{mover}` treats an unknown class")]
    UnknownClass {
        /// The mover.
        mover: String,
        /// The class.
        #[source]
        source: NameError,
    },
}

impl GroundRules {
    /// Returns the classes, in the order in which they were stated.
    pub fn classes(&self) -> impl ExactSizeIterator<Item = &str> + Clone {
        self.classes.iter().map(|class| &*class.name)
    }

    /// Returns the name of a class, or `None` for a handle of another map.
    pub fn class_name(&self, class: GroundClass) -> Option<&str> {
        Some(&*self.class_of(class)?.name)
    }

    /// Returns the colour in which pictures for people show a class, if the map states one; `None`
    /// for a handle of another map, too.
    pub fn class_color(&self, class: GroundClass) -> Option<Color> {
        self.class_of(class)?.color
    }

    fn class_of(&self, class: GroundClass) -> Option<&Class> {
        let is_it = |held: &&Class| held.birth.0 == class.birth;
        let hinted = self.classes.get(class.index()).filter(is_it);
        hinted.or_else(|| self.classes.iter().find(is_it))
    }

    /// The classes, in the order in which they were stated.
    pub(crate) fn all_classes(&self) -> impl Iterator<Item = &Class> {
        self.classes.iter()
    }

    /// The handles of the classes, in their order.
    pub(crate) fn handles(&self) -> impl Iterator<Item = GroundClass> {
        let births = self.classes.iter().zip(0..);
        births.map(|(class, at)| GroundClass { birth: class.birth.0, index: Hint(at) })
    }

    /// Returns the handle of a class.
    ///
    /// # Errors
    /// A name that no class has.
    pub fn class(&self, name: &str) -> Result<GroundClass, NameError> {
        let found = self.classes().position(|class| class == name);
        let found = found.and_then(|index| self.handles().nth(index));
        found.ok_or_else(|| NameError::new("ground class", name, self.classes()))
    }

    /// Whether there is a class of this name.
    pub(crate) fn has_class(&self, name: &str) -> bool {
        self.classes().any(|class| class == name)
    }

    /// Returns the movers, in the order in which they were stated.
    pub fn movers(&self) -> &[Mover] {
        &self.movers
    }

    /// Returns the mover of a handle, or `None` for a handle of another map.
    pub fn mover(&self, mover: MoverId) -> Option<&Mover> {
        let is_it = |held: &&Mover| held.birth.0 == mover.birth;
        let hinted = self.movers.get(mover.hint()).filter(is_it);
        hinted.or_else(|| self.movers.iter().find(is_it))
    }

    pub(crate) fn find_mover(&self, name: &str) -> Option<MoverId> {
        let index = *self.by_name.get(name)?;
        let mover = self.movers.get(usize::from(index))?;
        Some(MoverId { birth: mover.birth.0, index: Hint(index) })
    }

    /// Checks the name of a class that may be new.
    pub(crate) fn check_class(&self, name: &str) -> Result<(), GroundRulesError> {
        if name.trim().is_empty() || matches!(name, "outside" | "empty" | "unloaded") {
            Err(GroundRulesError::ReservedName(name.to_owned()))
        } else if self.classes.len() >= GroundClass::MAX_COUNT && !self.has_class(name) {
            Err(GroundRulesError::TooManyClasses)
        } else {
            Ok(())
        }
    }

    /// A class with its place among the others.
    pub(crate) fn class_at(&self, name: &str) -> Option<(usize, &Class)> {
        self.classes.iter().enumerate().find(|(_, class)| *class.name == *name)
    }

    /// Puts a class in the place of the one with its name. Without one, adds it in a place, or behind the
    /// last one.
    pub(crate) fn put_class(&mut self, at: usize, class: Class) {
        match self.class_at(&class.name).map(|(at, held)| (at, held.birth)) {
            Some((at, birth)) => self.classes[at] = Class { birth, ..class },
            None => self.classes.insert(at.min(self.classes.len()), class),
        }
    }

    pub(crate) fn remove_class(&mut self, name: &str) {
        self.classes.retain(|class| *class.name != *name);
    }

    /// Checks a mover, new or in the place of the one with its name.
    pub(crate) fn check_mover(&self, mover: &Mover) -> Result<(), GroundRulesError> {
        if let Some(source) = self.unknown_class(mover) {
            let mover = mover.name().to_owned();
            return Err(GroundRulesError::UnknownClass { mover, source });
        }
        let is_full = self.movers.len() >= usize::from(u16::MAX);
        if is_full && !self.by_name.contains_key(mover.name()) {
            return Err(GroundRulesError::TooManyMovers);
        }
        Ok(())
    }

    /// The first class that a mover treats and that is not there.
    pub(crate) fn unknown_class(&self, mover: &Mover) -> Option<NameError> {
        mover.treatments().find_map(|(class, _)| self.class(class).err())
    }

    /// A mover with its place among the others.
    pub(crate) fn mover_at(&self, name: &str) -> Option<(usize, &Mover)> {
        let at = usize::from(*self.by_name.get(name)?);
        Some((at, self.movers.get(at)?))
    }

    /// Puts a mover in the place of the one with its name, whose handle it gets. Without one, adds it in a
    /// place, or behind the last one.
    pub(crate) fn put_mover(&mut self, at: usize, mover: Mover) {
        match self.mover_at(mover.name()).map(|(at, held)| (at, held.birth)) {
            Some((at, birth)) => self.movers[at] = Mover { birth, ..mover },
            None if at >= self.movers.len() => {
                self.by_name.insert(Arc::clone(&mover.name), self.movers.len() as u16);
                self.movers.push(mover);
            }
            None => {
                self.movers.insert(at, mover);
                self.find_movers();
            }
        }
    }

    pub(crate) fn remove_mover(&mut self, name: &str) {
        self.movers.retain(|mover| mover.name() != name);
        self.find_movers();
    }

    /// Finds the places of all movers by their names.
    fn find_movers(&mut self) {
        let places = self.movers.iter().zip(0..);
        self.by_name = places.map(|(mover, at)| (Arc::clone(&mover.name), at)).collect();
    }
}
