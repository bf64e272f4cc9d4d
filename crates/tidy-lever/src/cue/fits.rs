//! What keeps a cue that was built in code from being one.

use alloc::format;
use alloc::string::String;

use super::line::is_name;
use super::rule::{Cue, Rule};
use crate::direction::Direction;

impl Cue {
    /// What keeps a cue that was built in code from being one: what its line could not say.
    pub(crate) fn unfit(&self) -> Option<String> {
        let names = self.subject.iter().chain(match &self.rule {
            Rule::With { other, .. } => core::slice::from_ref(other),
            Rule::Rolls { then: Some(then), .. } => core::slice::from_ref(then),
            _ => &[],
        });
        let listed = if let Rule::Order { names, .. } = &self.rule { names.as_slice() } else { &[] };
        let is_direction = |name: &String| Direction::from_name(name).is_some();
        let mut wrong = names.filter(|name| !is_name(name));
        let wrong = wrong.next().or_else(|| listed.iter().find(|name| !is_name(name) && !is_direction(name)));
        match wrong {
            Some(name) => Some(format!("`{name}` can't be a name")),
            None => self.rule.unfit(),
        }
    }
}
