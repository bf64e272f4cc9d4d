//! The grammar of cue lines.
//!
//! ```text
//!   cue    = [ subject ] rule
//!   rule   = "press" | "release" | "toggle" | "hold" span | "tap" "under" span
//!          | count "taps" span "apart" [ on ] | "double" "tap" "within" span [ on ] | "twice" "within" span [ "until" "neutral" ]
//!          | "repeat" "after" span "every" span | "mash" count "within" span | "with" name "within" span
//!          | "charge" span "to" span | "order" name { "," name } "within" span
//!          | "rolls" path [ "then" name ] "within" span [ on ] | "spins" turns "within" span
//!          | "flicks" "over" level "within" span
//!   on     = "counted" "on" "release"
//!   path   = digits | step { "," step }     step = [ "maybe" ] position [ "held" span ]
//! ```

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;

use winnow::combinator::{cut_err, opt};
use winnow::prelude::*;

use super::line::{CueError, Input, Read, expected, name, one_word, read_whole};
use super::plan::{all_words, read_rule};
use super::rule::Cue;

const RULES: &str = "a rule: press, release, toggle, hold, tap, repeat, mash, with, charge, twice, 2 taps, double tap, order, rolls, spins or flicks";

fn read(line: &str) -> Result<Cue, CueError> {
    read_whole(line, cue, RULES).map_err(|error| {
        // A rule's word that is misspelt looks like a subject; blame it, and not what follows.
        let first = line.split_whitespace().next().unwrap_or_default();
        if error.expected == RULES && nearest_rule(first).is_some() {
            let at = line.chars().take_while(|c| c.is_whitespace()).count();
            return CueError { at, expected: RULES.to_owned(), found: format!("`{first}`") };
        }
        error
    })
}

impl Cue {
    /// Reads a cue line.
    ///
    /// ```
    /// use tidy_lever::cue::{Cue, Rule};
    /// use std::time::Duration;
    ///
    /// let cue = Cue::read("use hold 0.35s")?;
    /// assert_eq!(cue, Cue::of("use", Rule::Hold { span: Duration::from_millis(350) }));
    /// assert_eq!(cue.to_string(), "use hold 350ms");
    ///
    /// let error = Cue::read("hold long").unwrap_err();
    /// assert_eq!((error.at, error.to_string().as_str()), (5, "at character 6: expected a span, as in 300ms, found `long`"));
    /// # Ok::<(), tidy_lever::cue::CueError>(())
    /// ```
    ///
    /// # Errors
    /// A [`CueError`] that points at the character and says what would fit.
    pub fn read(line: &str) -> Result<Cue, CueError> {
        read(line)
    }
}

/// The rule's word that a misspelt one is near to.
pub(crate) fn nearest_rule(word: &str) -> Option<&'static str> {
    let words = || all_words().filter(|word| *word != "with").chain(["taps"]);
    if words().any(|known| known == word) { None } else { crate::nearest::nearest(word, words()) }
}

/// The name before the rule. A rule's word is a name only where another rule follows: `tap hold 300ms` listens to an action
/// called `tap`, `tap under 200ms` is a tap.
fn subject(input: &mut Input<'_>) -> Read<Option<String>> {
    let before = *input;
    let Some(first) = opt(name).parse_next(input)? else { return Ok(None) };
    if is_rules_word(&first) {
        let mut words = input.as_ref().split_whitespace().map(one_word);
        let (second, third) = (words.next().unwrap_or_default(), words.next().unwrap_or_default());
        let counts_taps = third == "taps" && second.parse::<u32>().is_ok();
        if !is_rules_word(second) && !counts_taps {
            *input = before;
            return Ok(None);
        }
    }
    Ok(Some(first))
}

/// Whether a rule can begin with a word.
fn is_rules_word(word: &str) -> bool {
    all_words().any(|known| known == word)
}

fn cue(input: &mut Input<'_>) -> Read<Cue> {
    let subject = subject(input)?;
    let rule = cut_err(read_rule).context(expected(RULES)).parse_next(input)?;
    Ok(Cue { subject, rule })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::cue::{CompiledRule, RulePlan};

    /// One of each rule, as it is written.
    const LINES: [&str; 17] = [
        "press",
        "release",
        "toggle",
        "hold 300ms",
        "tap under 200ms",
        "2 taps 240ms apart",
        "double tap within 240ms",
        "steer twice within 240ms",
        "repeat after 400ms every 80ms",
        "mash 8 within 1s",
        "with hop within 50ms",
        "charge 200ms to 1200ms",
        "order left, hop within 2s",
        "steer rolls down, right then hop within 350ms",
        "steer spins 1 within 900ms",
        "steer flicks over 0.8 within 90ms",
        "blink",
    ];

    #[test]
    fn each_rule_is_read_written_and_made_ready_by_its_own_file() {
        for line in LINES {
            let cue = Cue::read(line).unwrap_or_else(|error| panic!("{line}: {error}"));
            assert_eq!(Cue::read(&cue.to_string()), Ok(cue.clone()), "{line}");
            assert!(RulePlan::of(&cue.rule).is_some(), "no file makes `{line}` ready, so it would be a press");
        }
    }

    #[test]
    fn all_words_of_rules_stand_in_the_lines_above_and_in_what_a_misspelt_one_is_told() {
        for word in all_words() {
            assert!(LINES.iter().any(|line| line.split_whitespace().any(|own| own == word)), "a line with `{word}`");
            // Nobody but a test is told of its rule.
            assert!(word == "blink" || RULES.contains(word), "`{word}` in {RULES:?}");
        }
    }
}
