//! What a game would answer to a pull: facts told in its stead.
//!
//! ```text
//!   hop: grounded = false for 520ms
//!   board: state = afloat after 40ms
//! ```

use std::fmt;
use std::path::{Path, PathBuf};
use std::time::Duration;

use tidy_lever::Linkage;
use tidy_lever::profile::nearest;
use tidy_lever::seat::Told;
use tidy_lever::time::parse_span;
use toml::de::{DeTable, DeValue};

/// The longest that an answer may wait or hold.
const LONGEST: Duration = Duration::from_secs(3600);

/// An answer to an action's pulls: a fact is told, at the pull + 1 µs or later, for good or for a while.
///
/// ```
/// use tidy_lever_tuning::Answer;
///
/// let answer: Answer = "hop: grounded = false for 520ms after 40ms".parse()?;
/// assert_eq!((answer.action.as_str(), answer.fact.as_str()), ("hop", "grounded"));
/// assert_eq!(answer.to_string(), "hop: grounded = false for 520ms after 40ms");
/// # Ok::<(), String>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Answer {
    /// Whose pulls are answered.
    pub action: String,
    /// The fact that is told.
    pub fact: String,
    /// `true`, `false`, or one of the fact's words.
    pub value: String,
    /// For how long; then it is what it was before.
    pub lasts: Option<Duration>,
    /// How long after the pull.
    pub after: Duration,
}

/// A fact's value as a seat is told it: `true` and `false` are flags, everything else is a word.
pub fn told(value: &str) -> Told<'_> {
    match value {
        "true" => Told::Flag(true),
        "false" => Told::Flag(false),
        word => Told::Word(word),
    }
}

fn span(text: Option<&str>, word: &str) -> Result<Duration, String> {
    let text = text.ok_or_else(|| format!("`{word}` needs a span behind it, as in `{word} 520ms`"))?;
    let span = parse_span(text).map_err(|error| error.to_string())?;
    if span > LONGEST { Err(format!("`{text}` is longer than an hour")) } else { Ok(span) }
}

impl std::str::FromStr for Answer {
    type Err = String;

    fn from_str(text: &str) -> Result<Answer, String> {
        let shape = "an answer is an action, a fact and its value: `hop: grounded = false for 520ms`";
        let (action, rest) = text.split_once(':').ok_or(shape)?;
        let (fact, rest) = rest.split_once('=').ok_or(shape)?;
        let mut words = rest.split_whitespace();
        let value = words.next().ok_or(shape)?.to_owned();
        let (action, fact) = (action.trim().to_owned(), fact.trim().to_owned());
        if action.is_empty() || fact.is_empty() {
            return Err(shape.into());
        }
        let mut answer = Answer { action, fact, value, lasts: None, after: Duration::ZERO };
        while let Some(word) = words.next() {
            match word {
                "for" => answer.lasts = Some(span(words.next(), word)?),
                "after" => answer.after = span(words.next(), word)?,
                other => return Err(format!("`{other}` is not known here; a span follows `for` or `after`")),
            }
        }
        Ok(answer)
    }
}

impl fmt::Display for Answer {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {} = {}", self.action, self.fact, self.value)?;
        let in_ms = |span: Duration| span.as_micros() as f64 / 1e3;
        if let Some(lasts) = self.lasts {
            write!(f, " for {}ms", in_ms(lasts))?;
        }
        if !self.after.is_zero() {
            write!(f, " after {}ms", in_ms(self.after))?;
        }
        Ok(())
    }
}

impl Answer {
    /// Whether a profile has what it names.
    ///
    /// # Errors
    /// What it names wrong, with the nearest right name.
    pub fn check(&self, linkage: &Linkage) -> Result<(), String> {
        if linkage.action(&self.action).is_none() {
            let near = nearest(&self.action, linkage.actions().map(|action| action.name()));
            let near = near.map_or(String::new(), |near| format!("; did you mean `{near}`?"));
            return Err(format!("the profile has no action `{}`{near}", self.action));
        }
        let fact = linkage.find::<tidy_lever::Fact>(&self.fact).map_err(|missing| missing.to_string())?;
        // A seat of its own says whether the value fits.
        let mut seat = linkage.seat(tidy_lever::Moment::ZERO);
        seat.tell(fact, told(&self.value)).map_err(|_| {
            let values: Vec<&str> = linkage.fact_values(&self.fact).collect();
            format!("`{}` can't be `{}`; it is {}", self.fact, self.value, values.join(" or "))
        })
    }
}

/// What is wrong with a file of answers, or one of them.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{place}{problem}")]
pub struct AnswerFault {
    /// Where it stands: `file:line: `.
    pub place: String,
    /// What is wrong.
    pub problem: String,
}

/// The file of answers beside a profile: `duel.toml` has `duel.answers.toml`.
pub fn answers_beside(profile: &Path) -> PathBuf {
    let stem = profile.file_stem().unwrap_or_default().to_string_lossy();
    profile.with_file_name(format!("{stem}.answers.toml"))
}

/// Reads a file of answers and checks each against a profile.
///
/// ```toml
/// answers = [
///   "hop: grounded = false for 520ms",
/// ]
/// ```
///
/// # Errors
/// All [`AnswerFault`]s, each with its line.
pub fn read_answers(text: &str, file: &str, linkage: &Linkage) -> Result<Vec<Answer>, Vec<AnswerFault>> {
    let line = |at: usize| text[..at.min(text.len())].matches('\n').count() + 1;
    let fault = |at: usize, problem: String| AnswerFault { place: format!("{file}:{}: ", line(at)), problem };
    let (root, errors) = DeTable::parse_recoverable(text);
    if let Some(error) = errors.first() {
        return Err(vec![fault(error.span().map_or(0, |span| span.start), format!("no TOML: {}", error.message()))]);
    }
    let shape = "a file of answers is `answers = [\"hop: grounded = false for 520ms\"]`";
    let mut faults: Vec<AnswerFault> = Vec::new();
    for (key, _) in root.get_ref().iter().filter(|(key, _)| key.get_ref() != "answers") {
        faults.push(fault(key.span().start, format!("`{}` is not known here; {shape}", key.get_ref())));
    }
    let list = root.get_ref().get("answers");
    let mut answers = Vec::new();
    match list.map(|list| (list.span(), list.get_ref())) {
        Some((_, DeValue::Array(list))) => {
            for item in list.iter() {
                let read = item.get_ref().as_str().ok_or_else(|| shape.to_owned()).and_then(str::parse::<Answer>);
                match read.and_then(|answer| answer.check(linkage).map(|()| answer)) {
                    Ok(answer) => answers.push(answer),
                    Err(problem) => faults.push(fault(item.span().start, problem)),
                }
            }
        }
        Some((span, _)) => faults.push(fault(span.start, shape.to_owned())),
        None if faults.is_empty() => faults.push(fault(0, shape.to_owned())),
        None => {}
    }
    if faults.is_empty() { Ok(answers) } else { Err(faults) }
}

/// A file of answers, to begin with: those that there are, and how to write more.
pub fn write_answers(answers: &[Answer]) -> String {
    let mut text = String::from(
        "# What the game would answer, while the profile is tried without it.\n\
         # ACTION: FACT = VALUE [for SPAN] [after SPAN]\n\
         answers = [\n",
    );
    for answer in answers {
        text += &format!("  \"{answer}\",\n");
    }
    if answers.is_empty() {
        text += "  # \"hop: grounded = false for 520ms\",\n";
    }
    text + "]\n"
}
