//! What a remap binds, by its name: `hop.keys`, `steer.keys.up`.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;
use core::fmt;
use core::str::FromStr;

use crate::control::Family;
use crate::profile::Leg;

/// What a remap binds: an action's controls of one family, or one leg of them.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Target {
    /// The action.
    pub action: String,
    /// The family.
    pub family: Family,
    /// One leg of a cross or a pair; without one, all of the family's controls.
    pub leg: Option<Leg>,
}

impl Target {
    /// All of an action's controls of a family.
    pub fn new(action: &str, family: Family) -> Target {
        Target { action: action.to_owned(), family, leg: None }
    }

    /// One leg of them.
    pub fn leg(mut self, leg: Leg) -> Target {
        self.leg = Some(leg);
        self
    }

    pub(super) fn path(&self) -> String {
        let leg = self.leg.map_or(String::new(), |leg| format!(".{}", leg.name()));
        format!("action.{}.{}{leg}", self.action, self.family)
    }
}

impl fmt::Display for Target {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.path().trim_start_matches("action."))
    }
}

impl FromStr for Target {
    type Err = TargetError;

    /// `hop.keys` or `steer.keys.up`.
    fn from_str(text: &str) -> Result<Target, TargetError> {
        let mut parts = text.split('.');
        let (action, family) = (parts.next().unwrap_or_default(), parts.next().unwrap_or_default());
        let family = Family::from_name(family).filter(|_| !action.is_empty());
        let family = family.ok_or_else(|| TargetError::NoBinding(text.into()))?;
        let leg = match parts.next() {
            None => None,
            Some(name) => Some(leg_named(name).ok_or_else(|| TargetError::NoLeg(name.into()))?),
        };
        if let Some(more) = parts.next() {
            return Err(TargetError::TooMuch { text: text.into(), more: more.into() });
        }
        Ok(Target { action: action.to_owned(), family, leg })
    }
}

/// Why a text is not a [`Target`].
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum TargetError {
    /// It has no family.
    #[error("`{0}` names no binding; write ACTION.FAMILY or ACTION.FAMILY.LEG, as in hop.keys or steer.keys.up")]
    NoBinding(String),
    /// Its last part is not a leg.
    #[error("`{0}` is not a leg; the legs are up, left, down, right, minus and plus")]
    NoLeg(String),
    /// It goes on behind the leg.
    #[error("`{text}` has a part too many: `{more}`")]
    TooMuch {
        /// The text.
        text: String,
        /// The part that is too many.
        more: String,
    },
}

/// The leg of this name.
pub(super) fn leg_named(name: &str) -> Option<Leg> {
    Leg::CROSS.into_iter().chain(Leg::PAIR).find(|leg| leg.name() == name)
}

/// A control's name within its family; a full name is welcome, too.
pub(super) fn plain(control: &str, family: Family) -> &str {
    control.strip_prefix(family.name()).and_then(|rest| rest.strip_prefix(':')).unwrap_or(control)
}
