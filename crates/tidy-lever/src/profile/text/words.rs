//! The words of a line, and what its numbers go with.

use alloc::format;
use alloc::string::String;
use alloc::vec::Vec;

use super::super::keys::{NumberKey, Unit};

/// A word of a line, with its neighbours; empty where there is none.
#[derive(Clone, Copy, Debug)]
pub(super) struct Word<'l> {
    pub(super) text: &'l str,
    pub(super) before: &'l str,
    /// The one before that.
    pub(super) further: &'l str,
    pub(super) behind: &'l str,
}

/// The words of a line; commas and brackets part them.
pub(super) fn of<'l>(line: &'l str) -> Vec<Word<'l>> {
    let plain = |c: char| c.is_whitespace() || "(),".contains(c);
    let all: Vec<&str> = line.split(plain).filter(|word| !word.is_empty()).collect();
    let at = |place: Option<usize>| place.and_then(|place| all.get(place)).copied().unwrap_or_default();
    let neighbours = |place: usize| (at(place.checked_sub(1)), at(place.checked_sub(2)), at(Some(place + 1)));
    let word = |(place, text): (usize, &&'l str)| {
        let (before, further, behind) = neighbours(place);
        Word { text, before, further, behind }
    };
    all.iter().enumerate().map(word).collect()
}

/// What a number of a cue is called, what it is and what it is for; `None` for words that are not numbers of their own.
pub(super) fn of_cue(word: &Word<'_>) -> Option<(String, NumberKey)> {
    let span = NumberKey::span(None);
    if !word.text.starts_with(|c: char| c.is_ascii_digit() || c == '.') {
        return None;
    }
    let count = NumberKey::new(Unit::Count, 2.0, 64.0, None);
    let (name, key, meaning) = match (word.before, word.behind) {
        (_, "taps") => ("taps", count, "how many taps"),
        (_, "apart") => ("apart", span, "the longest gap between two taps"),
        ("within", _) => ("within", span, "the time limit"),
        ("hold", _) => ("hold", span, "how long it must be held"),
        ("under", _) => ("under", span, "let go sooner than this it is a tap"),
        ("after", _) => ("after", span, "from the press to the first repeat"),
        ("every", _) => ("every", span, "from one repeat to the next"),
        ("mash", _) => ("mash", count, "how many presses"),
        ("charge", _) => ("from", span, "from here on a charge counts, as 0"),
        ("to", _) => ("to", span, "from here on a charge is full, as 1"),
        ("spins", _) => ("spins", NumberKey::new(Unit::Turns, 0.25, 4.0, None), "how many turns"),
        ("over", _) => ("over", NumberKey::new(Unit::Level, 0.1, 1.0, None), "how far out the stick must come"),
        ("held", _) => {
            return Some((format!("{}.held", word.further), span.means("how long the position must be held")));
        }
        _ => return None,
    };
    Some((name.into(), key.means(meaning)))
}
