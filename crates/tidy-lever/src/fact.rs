//! Facts: what the game tells, each with its first value.

use alloc::string::String;
use alloc::vec::Vec;

/// A fact made ready. A flag's values are `false` and `true`, in this order.
#[derive(Clone, Debug, Hash)]
pub(crate) struct FactPlan {
    pub(crate) name: String,
    pub(crate) words: Vec<String>,
    pub(crate) flag: bool,
    pub(crate) first: u16,
}

impl FactPlan {
    /// The number of a value by its word; flags know `true` and `false`.
    pub(crate) fn value(&self, word: &str) -> Option<u16> {
        self.words.iter().position(|w| w == word).map(|i| i as u16)
    }

    /// The number of a value, if the fact can be that.
    pub(crate) fn number(&self, value: FactValue) -> Option<u16> {
        match value {
            FactValue::Flag(flag) => Some(u16::from(flag)).filter(|_| self.flag),
            FactValue::Word(word) => Some(word).filter(|word| !self.flag && usize::from(*word) < self.words.len()),
        }
    }
}

/// What can be told of a fact: true or false, or one of its words.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Told<'w> {
    /// For facts that are true or false.
    Flag(bool),
    /// For facts that are one of some words.
    Word(&'w str),
}

impl From<bool> for Told<'_> {
    fn from(flag: bool) -> Self {
        Told::Flag(flag)
    }
}

impl<'w> From<&'w str> for Told<'w> {
    fn from(word: &'w str) -> Self {
        Told::Word(word)
    }
}

/// What a fact is told to be: true or false, or one of its words, by the word's number in the profile
/// ([`Linkage::fact_value`](crate::Linkage::fact_value)).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum FactValue {
    /// For facts that are true or false.
    Flag(bool),
    /// For facts that are one of some words: which, from 0.
    Word(u16),
}

impl From<bool> for FactValue {
    fn from(flag: bool) -> FactValue {
        FactValue::Flag(flag)
    }
}
