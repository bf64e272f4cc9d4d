//! Handles: the names of a profile, looked up once at start-up and checked for their kind.

use alloc::borrow::ToOwned;
use alloc::string::String;
use alloc::vec::Vec;
use core::fmt;

use crate::linkage::{Linkage, names};
use crate::profile::Kind;

/// What a name stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Noun {
    /// An action of this kind.
    Action(Kind),
    /// A fact.
    Fact,
    /// A mode.
    Mode,
}

impl fmt::Display for Noun {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Noun::Action(kind) => write!(f, "an action of kind \"{}\"", kind.name()),
            Noun::Fact => f.write_str("a fact"),
            Noun::Mode => f.write_str("a mode"),
        }
    }
}

/// A typed handle: a name of a profile, looked up.
///
/// A handle is good on every seat of its profile, remapped or not, and stays good on a seat that is relinked to a changed
/// profile: there it is found again by its name. On a seat of another profile every question about it answers with rest, and
/// a debug build panics with the handle, as that is a mistake in the game.
pub trait Handle: Copy + sealed::Sealed {
    /// What the name must stand for.
    const NOUN: Noun;

    /// One number for other languages; see [`AnyHandle::to_bits`].
    fn to_bits(self) -> u64 {
        self.any().to_bits()
    }

    /// The handle of a number; `None` if it is none of this kind. See [`AnyHandle::from_bits`].
    fn from_bits(bits: u64) -> Option<Self> {
        AnyHandle::from_bits(bits).filter(|any| any.noun == Self::NOUN).map(Self::of)
    }
}

/// A handle of an action: it has presses, releases and pulls. All but [`Fact`] and [`Mode`].
pub trait ActionHandle: Handle {}

/// Any handle: where its name stands in the profile that it was found in, that profile, and the name's hash.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
pub struct AnyHandle {
    pub(crate) number: u16,
    pub(crate) noun: Noun,
    pub(crate) stamp: u32,
    pub(crate) name: u64,
}

/// A name's hash takes these bits of a number, its noun the ones above: 52 bits in all, so that a double holds it exactly.
const NAME_BITS: u32 = crate::linkage::names::HASH_BITS;
const NAME: u64 = (1 << NAME_BITS) - 1;
/// No linkage has this stamp: such a handle is found by its name.
const BY_NAME: u32 = u32::MAX;

impl AnyHandle {
    /// One that fits no seat.
    fn missing(noun: Noun) -> AnyHandle {
        AnyHandle { number: u16::MAX, noun, stamp: 0, name: 0 }
    }

    /// Whether it came of a number, and every seat looks for its name.
    pub(crate) fn is_by_name(self) -> bool {
        self.stamp == BY_NAME
    }

    /// One number for other languages, never 0: a hash of the name, and what the name stands for. It is the same in every
    /// profile that has the name, and stays the same from version to version of a profile.
    ///
    /// ```
    /// use tidy_lever::handle::Handle;
    /// use tidy_lever::profile::Action;
    /// use tidy_lever::{Button, Fact, Linkage, Moment, Profile};
    ///
    /// let linkage = Linkage::build(&Profile::new("Otter Post").action(Action::button("hop").keys("Space")))?;
    /// let bits = linkage.find::<Button>("hop").unwrap().to_bits();
    /// let hop = Button::from_bits(bits).unwrap();
    /// assert!(linkage.seat(Moment::ZERO).knows(hop) && Fact::from_bits(bits).is_none());
    /// # Ok::<(), tidy_lever::profile::Faults>(())
    /// ```
    pub fn to_bits(self) -> u64 {
        let noun = match self.noun {
            Noun::Action(Kind::Button) => 1,
            Noun::Action(Kind::Axis) => 2,
            Noun::Action(Kind::Stick) => 3,
            Noun::Action(Kind::Sweep) => 4,
            Noun::Action(Kind::Pointer) => 5,
            Noun::Action(Kind::Gauge) => 6,
            Noun::Fact => 7,
            Noun::Mode => 8,
        };
        (self.name & NAME) | noun << NAME_BITS
    }

    /// The handle of a number that [`to_bits`](AnyHandle::to_bits) gave; `None` where its upper bits name nothing. Each
    /// question looks for the name, which takes a little longer than by a handle that was found; a seat whose profile has no such
    /// name answers with rest.
    pub fn from_bits(bits: u64) -> Option<AnyHandle> {
        let noun = match bits >> NAME_BITS {
            1 => Noun::Action(Kind::Button),
            2 => Noun::Action(Kind::Axis),
            3 => Noun::Action(Kind::Stick),
            4 => Noun::Action(Kind::Sweep),
            5 => Noun::Action(Kind::Pointer),
            6 => Noun::Action(Kind::Gauge),
            7 => Noun::Fact,
            8 => Noun::Mode,
            _ => return None,
        };
        Some(AnyHandle { number: u16::MAX, noun, stamp: BY_NAME, name: bits & NAME })
    }
}

impl fmt::Debug for AnyHandle {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} (number {})", self.noun, self.number)
    }
}

mod sealed {
    use super::AnyHandle;

    pub trait Sealed: Sized {
        fn of(any: AnyHandle) -> Self;
        fn any(self) -> AnyHandle;
    }
}

impl<H: Handle> From<H> for AnyHandle {
    fn from(handle: H) -> AnyHandle {
        handle.any()
    }
}

macro_rules! handles {
    ($($(#[$doc:meta])* $name:ident = $noun:expr;)*) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, Hash)]
        pub struct $name(AnyHandle);

        impl sealed::Sealed for $name {
            fn of(any: AnyHandle) -> Self {
                Self(any)
            }
            fn any(self) -> AnyHandle {
                self.0
            }
        }

        impl Handle for $name {
            const NOUN: Noun = $noun;
        }

        impl fmt::Debug for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                write!(f, concat!(stringify!($name), "({})"), self.0.number)
            }
        }
    )*};
}

macro_rules! actions {
    ($($name:ident),*) => {$(impl ActionHandle for $name {})*};
}

actions!(Button, Axis, Stick, Sweep, Pointer, Gauge);

handles! {
    /// A handle to an action of kind `button`, or to a direction of a stick or an axis (`steer.up`, `dive.plus`).
    Button = Noun::Action(Kind::Button);
    /// A handle to an action of kind `axis`.
    Axis = Noun::Action(Kind::Axis);
    /// A handle to an action of kind `stick`.
    Stick = Noun::Action(Kind::Stick);
    /// A handle to an action of kind `sweep`.
    Sweep = Noun::Action(Kind::Sweep);
    /// A handle to an action of kind `pointer`.
    Pointer = Noun::Action(Kind::Pointer);
    /// A handle to an action of kind `gauge`.
    Gauge = Noun::Action(Kind::Gauge);
    /// A handle to a fact.
    Fact = Noun::Fact;
    /// A handle to a mode.
    Mode = Noun::Mode;
}

/// One name that a game asked for and a profile hasn't got.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct MissingName {
    /// The name.
    pub name: String,
    /// What the game takes it for.
    pub wanted: Noun,
    /// What the profile has under this name, if anything.
    pub found: Option<Noun>,
    /// The nearest name of the wanted sort.
    pub nearest: Option<String>,
}

/// All names that a game asked for and a profile hasn't got, in the order asked. Never empty.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub struct Missing(Vec<MissingName>);

impl Missing {
    /// The names one by one.
    pub fn iter(&self) -> impl Iterator<Item = &MissingName> {
        self.0.iter()
    }
}

impl<'m> IntoIterator for &'m Missing {
    type Item = &'m MissingName;
    type IntoIter = core::slice::Iter<'m, MissingName>;

    fn into_iter(self) -> core::slice::Iter<'m, MissingName> {
        self.0.iter()
    }
}

impl fmt::Display for Missing {
    /// One line a name.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (i, missing) in self.0.iter().enumerate() {
            if i > 0 {
                f.write_str("\n")?;
            }
            let MissingName { name, wanted, found, nearest } = missing;
            match found {
                Some(found) => write!(f, "`{name}` is {found}, not {wanted}")?,
                None => write!(f, "the profile has no `{name}` ({wanted})")?,
            }
            if let Some(nearest) = nearest {
                write!(f, "; did you mean `{nearest}`?")?;
            }
        }
        Ok(())
    }
}

/// Looks up many names and gathers what is missing, for one error. [`levers!`](crate::levers) uses it.
#[derive(Debug)]
pub struct Finder<'l> {
    linkage: &'l Linkage,
    missing: Vec<MissingName>,
}

impl<'l> Finder<'l> {
    /// A finder over the names of this linkage.
    pub fn new(linkage: &'l Linkage) -> Finder<'l> {
        Finder { linkage, missing: Vec::new() }
    }

    /// The handle of that name; one that fits no seat if it is missing, which [`Finder::done`] then reports.
    pub fn find<H: Handle>(&mut self, name: &str) -> H {
        let found = self.linkage.noun(name, H::NOUN);
        if let Some((number, noun)) = found
            && noun == H::NOUN
        {
            return H::of(AnyHandle { number, noun, stamp: self.linkage.stamp(), name: names::hash(name) });
        }
        let nearest = crate::nearest::nearest(name, self.linkage.names(H::NOUN)).map(ToOwned::to_owned);
        let found = found.map(|(_, noun)| noun);
        self.missing.push(MissingName { name: name.to_owned(), wanted: H::NOUN, found, nearest });
        H::of(AnyHandle::missing(H::NOUN))
    }

    /// Ends the search.
    ///
    /// # Errors
    /// All that was missing or of the wrong kind, at once.
    pub fn done(self) -> Result<(), Missing> {
        if self.missing.is_empty() { Ok(()) } else { Err(Missing(self.missing)) }
    }
}

/// A struct of handles, as [`levers!`](crate::levers) declares it: for code that works with anybody's, such as an engine's plugin.
pub trait Levers: Copy {
    /// Looks up every handle by its name.
    ///
    /// # Errors
    /// All names that are missing or of the wrong kind, at once.
    fn find(linkage: &Linkage) -> Result<Self, Missing>;
}

/// Declares a struct of handles and a `find` that looks them all up in a linkage, with one error for all that is missing.
///
/// A field's name is the name in the profile; `field as "name": Kind` says another. Kinds are the handle types of
/// [`handle`](crate::handle): `Button`, `Axis`, `Stick`, `Sweep`, `Pointer`, `Gauge`, `Fact`, `Mode`.
///
/// ```
/// use tidy_lever::{Linkage, Profile};
///
/// tidy_lever::levers! {
///     pub struct Pim { hop: Button, walk as "move": Stick }
/// }
///
/// let linkage = Linkage::build(&Profile::from_toml("tidy-lever = 1\n[action.hopp]\nkind = \"button\"\n")?)?;
/// let missing = Pim::find(&linkage).unwrap_err();
/// assert_eq!(
///     missing.to_string(),
///     "the profile has no `hop` (an action of kind \"button\"); did you mean `hopp`?\n\
///      the profile has no `move` (an action of kind \"stick\")"
/// );
/// # Ok::<(), tidy_lever::profile::Faults>(())
/// ```
#[macro_export]
macro_rules! levers {
    ($(#[$meta:meta])* $vis:vis struct $name:ident {
        $($(#[$field_meta:meta])* $field:ident $(as $text:literal)? : $kind:ident),* $(,)?
    }) => {
        $(#[$meta])*
        #[derive(Clone, Copy, Debug)]
        #[allow(dead_code, missing_docs)]
        $vis struct $name {
            $($(#[$field_meta])* pub $field: $crate::handle::$kind,)*
        }

        impl $name {
            /// Looks up every handle by its name.
            ///
            /// # Errors
            /// All names that are missing or of the wrong kind, at once.
            #[allow(dead_code)]
            $vis fn find(linkage: &$crate::linkage::Linkage) -> ::core::result::Result<Self, $crate::handle::Missing> {
                let mut finder = $crate::handle::Finder::new(linkage);
                let found = Self {
                    $($field: finder.find($crate::levers!(@name $field $($text)?)),)*
                };
                finder.done()?;
                ::core::result::Result::Ok(found)
            }
        }

        impl $crate::handle::Levers for $name {
            fn find(linkage: &$crate::linkage::Linkage) -> ::core::result::Result<Self, $crate::handle::Missing> {
                $name::find(linkage)
            }
        }
    };
    (@name $field:ident $text:literal) => { $text };
    (@name $field:ident) => { ::core::stringify!($field) };
}

impl Linkage {
    /// One handle by its name; [`levers!`](crate::levers) finds many at once.
    ///
    /// # Errors
    /// [`Missing`] if the profile has no such name, or something else under it.
    pub fn find<H: Handle>(&self, name: &str) -> Result<H, Missing> {
        let mut finder = Finder::new(self);
        let handle = finder.find(name);
        finder.done().map(|()| handle)
    }

    /// The handle of an action of any kind by its name.
    ///
    /// # Errors
    /// [`Missing`] if the profile has no action of this name.
    pub fn find_action(&self, name: &str) -> Result<AnyHandle, Missing> {
        match self.noun(name, Button::NOUN) {
            Some((number, noun @ Noun::Action(_))) => {
                Ok(AnyHandle { number, noun, stamp: self.stamp(), name: names::hash(name) })
            }
            _ => self.find::<Button>(name).map(AnyHandle::from),
        }
    }

    /// What a name stands for; `wanted` decides where actions, facts and modes share one.
    pub(crate) fn noun(&self, name: &str, wanted: Noun) -> Option<(u16, Noun)> {
        let plan = &*self.0;
        let hash = names::hash(name);
        let action = plan.names.actions.find(hash).find(|number| plan.actions[*number].name == name);
        let action = action.map(|number| (number, Noun::Action(plan.actions[number].kind)));
        let fact = plan.names.facts.find(hash).find(|number| plan.world.facts[*number].name == name);
        let mode = plan.names.modes.find(hash).find(|number| plan.world.modes[*number].name == name);
        let (fact, mode) = (fact.map(|number| (number, Noun::Fact)), mode.map(|number| (number, Noun::Mode)));
        let all = [action, fact, mode];
        let found = all.iter().flatten().find(|(_, noun)| *noun == wanted).or(all.iter().flatten().next());
        found.map(|(number, noun)| (*number as u16, *noun))
    }

    /// The name that a handle stands for here; `None` if the profile hasn't got it.
    pub fn name_of(&self, handle: impl Into<AnyHandle>) -> Option<&str> {
        let (handle, plan) = (handle.into(), &*self.0);
        let own = handle.stamp == self.stamp();
        let number = if own { usize::from(handle.number) } else { self.found_again(handle)? };
        match handle.noun {
            Noun::Action(_) => plan.actions.get(number).map(|action| action.name.as_str()),
            Noun::Fact => plan.world.facts.get(number).map(|fact| fact.name.as_str()),
            Noun::Mode => plan.world.modes.get(number).map(|mode| mode.name.as_str()),
        }
    }

    /// Where the name of a handle that was found elsewhere stands here.
    pub(crate) fn found_again(&self, handle: AnyHandle) -> Option<usize> {
        let plan = &*self.0;
        match handle.noun {
            Noun::Action(kind) => {
                plan.names.actions.find(handle.name).find(|number| plan.actions[*number].kind == kind)
            }
            Noun::Fact => plan.names.facts.find(handle.name).next(),
            Noun::Mode => plan.names.modes.find(handle.name).next(),
        }
    }

    /// All names of one sort.
    pub(crate) fn names(&self, noun: Noun) -> impl Iterator<Item = &str> {
        let plan = &*self.0;
        let actions = plan.actions.iter().filter(move |a| noun == Noun::Action(a.kind)).map(|a| a.name.as_str());
        let facts = plan.world.facts.iter().filter(move |_| noun == Noun::Fact).map(|f| f.name.as_str());
        let modes = plan.world.modes.iter().filter(move |_| noun == Noun::Mode).map(|m| m.name.as_str());
        actions.chain(facts).chain(modes)
    }
}
