//! What keeps a cue that was built in code from being one.

use alloc::format;
use alloc::string::String;

use super::line::is_name;
use super::rule::Cue;
use crate::direction::Direction;

impl Cue {
    /// What keeps a cue that was built in code from being one: what its line could not say.
    pub(crate) fn unfit(&self) -> Option<String> {
        let mut names = self.subject.as_deref().into_iter().chain(self.rule.with()).chain(self.rule.finished_by());
        let mut listed = self.rule.hears_only().unwrap_or_default().iter().map(String::as_str);
        let is_direction = |name: &str| Direction::from_name(name).is_some();
        let wrong = names.find(|name| !is_name(name));
        let wrong = wrong.or_else(|| listed.find(|name| !is_name(name) && !is_direction(name)));
        match wrong {
            Some(name) => Some(format!("`{name}` can't be a name")),
            None => self.rule.unfit(),
        }
    }
}
