//! Reading a line word by word: what cues and gates are read with.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;
use core::ops::RangeInclusive;
use core::time::Duration;

use winnow::LocatingSlice;
use winnow::combinator::{cut_err, opt};
use winnow::error::{ContextError, ErrMode, StrContext, StrContextValue};
use winnow::prelude::*;
use winnow::stream::Location;
use winnow::token::{take, take_while};

use crate::time::parse_span;
use crate::words::is_reserved;

/// Why a text is not a cue line.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("at character {}: expected {expected}, found {found}{}", at + 1, self.hint())]
#[non_exhaustive]
pub struct CueError {
    /// At which character, from 0.
    pub at: usize,
    /// What would fit there.
    pub expected: String,
    /// What stands there.
    pub found: String,
}

impl CueError {
    /// What is missing at the end of a line, to paste.
    fn hint(&self) -> &'static str {
        let lacks_limit = self.found == "the end" && self.expected.contains("`within`");
        if lacks_limit { "; add the time limit, as in `within 350ms`" } else { "" }
    }
}

pub(crate) type Input<'i> = LocatingSlice<&'i str>;
pub(crate) type Read<T> = ModalResult<T>;

/// The counts that a rule takes.
const COUNTS: RangeInclusive<u32> = 2..=64;

/// What keeps a count that was built in code from being one.
pub(super) fn unfit_count(count: u32) -> Option<String> {
    (!COUNTS.contains(&count)).then(|| format!("the count must be 2 to 64, found {count}"))
}

/// Reads a whole line; an error points at the word that doesn't fit. `any` is what is expected where nothing else is said.
pub(crate) fn read_whole<T>(
    line: &str,
    mut parser: impl FnMut(&mut Input<'_>) -> Read<T>,
    any: &'static str,
) -> Result<T, CueError> {
    let mut input = LocatingSlice::new(line);
    let mut whole = |input: &mut Input<'_>| -> Read<T> {
        let read = parser(input)?;
        blank(input)?;
        if !input.is_empty() {
            return fail("the end of the line", input);
        }
        Ok(read)
    };
    whole(&mut input).map_err(|error| {
        let context = match error {
            ErrMode::Backtrack(context) | ErrMode::Cut(context) => context,
            ErrMode::Incomplete(_) => ContextError::new(),
        };
        // Errors are raised where the wrong word begins.
        let at = input.current_token_start().min(line.len());
        let rest = line.get(at..).unwrap_or_default();
        let start = rest.trim_start();
        let at = at + (rest.len() - start.len());
        let word = one_word(start);
        let found = if word.is_empty() { "the end".to_owned() } else { format!("`{word}`") };
        let expected = context.context().find_map(|context| match context {
            StrContext::Expected(StrContextValue::Description(text)) => Some(*text),
            _ => None,
        });
        let at = line.get(..at).map_or(at, |before| before.chars().count());
        CueError { at, expected: expected.unwrap_or(any).to_owned(), found }
    })
}

/// The word that a text begins with: up to white space, a bracket or a comma; or one of these by itself.
pub(crate) fn one_word(text: &str) -> &str {
    let end = text.find(|c: char| c.is_whitespace() || "(),".contains(c)).unwrap_or(text.len());
    let end = if end == 0 { text.chars().next().filter(|c| !c.is_whitespace()).map_or(0, char::len_utf8) } else { end };
    &text[..end]
}

fn blank(input: &mut Input<'_>) -> Read<()> {
    take_while(0.., char::is_whitespace).void().parse_next(input)
}

pub(super) fn fail<T>(expected: &'static str, _: &mut Input<'_>) -> Read<T> {
    let mut error = ContextError::new();
    error.push(StrContext::Expected(StrContextValue::Description(expected)));
    Err(ErrMode::Cut(error))
}

/// The next word, whatever it is; nothing is taken when it isn't one that `which` wants.
pub(super) fn word_that<T>(which: impl Fn(&str) -> Option<T>) -> impl FnMut(&mut Input<'_>) -> Read<T> {
    move |input| {
        let before = *input;
        blank(input)?;
        let length = one_word(input.as_ref()).len();
        let word = take(length).parse_next(input)?;
        match which(word) {
            Some(value) => Ok(value),
            None => {
                *input = before;
                Err(ErrMode::Backtrack(ContextError::new()))
            }
        }
    }
}

/// Any word at all.
pub(crate) fn any_word(input: &mut Input<'_>) -> Read<String> {
    word_that(|word| (!word.is_empty()).then(|| word.to_owned())).parse_next(input)
}

pub(crate) fn word(wanted: &'static str) -> impl FnMut(&mut Input<'_>) -> Read<()> {
    word_that(move |word| (word == wanted).then_some(()))
}

/// A word that must come here.
pub(super) fn must(wanted: &'static str, told: &'static str) -> impl FnMut(&mut Input<'_>) -> Read<()> {
    move |input| cut_err(word(wanted)).context(expected(told)).parse_next(input)
}

pub(crate) fn expected(text: &'static str) -> StrContext {
    StrContext::Expected(StrContextValue::Description(text))
}

pub(crate) fn span(input: &mut Input<'_>) -> Read<Duration> {
    cut_err(word_that(|word| parse_span(word).ok().filter(|span| !span.is_zero())))
        .context(expected("a span, as in 300ms"))
        .parse_next(input)
}

pub(super) fn count(input: &mut Input<'_>) -> Read<u32> {
    word_that(|word| word.parse().ok().filter(|count| COUNTS.contains(count))).parse_next(input)
}

/// A name: of an action, or of a direction of one.
pub(super) fn is_name(word: &str) -> bool {
    let plain = word.split('.').next().unwrap_or_default();
    plain.starts_with(|c: char| c.is_ascii_alphabetic()) && !is_reserved(plain)
}

pub(crate) fn name(input: &mut Input<'_>) -> Read<String> {
    word_that(|word| is_name(word).then(|| word.to_owned())).parse_next(input)
}

pub(super) fn comma(input: &mut Input<'_>) -> Read<bool> {
    Ok(opt(word(",")).parse_next(input)?.is_some())
}

/// One of several that are listed with commas.
pub(super) fn listed<T>(
    mut one: impl FnMut(&mut Input<'_>) -> Read<T>,
) -> impl FnMut(&mut Input<'_>) -> Read<alloc::vec::Vec<T>> {
    move |input| {
        let mut all = alloc::vec![one(input)?];
        while comma(input)? {
            all.push(one(input)?);
        }
        Ok(all)
    }
}

pub(super) fn on_release(input: &mut Input<'_>) -> Read<bool> {
    if opt(word("counted")).parse_next(input)?.is_none() {
        return Ok(false);
    }
    must("on", "`on release`")(input)?;
    must("release", "`release`")(input)?;
    Ok(true)
}
