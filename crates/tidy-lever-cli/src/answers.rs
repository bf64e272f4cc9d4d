//! What a game would answer to a pull: from the command line, or from the file beside the profile.

use std::path::Path;

use anyhow::{Result, anyhow, bail};
use tidy_lever::Linkage;
use tidy_lever_tuning::{Answer, answers_beside, read_answers};

use crate::input;

/// The answers that were given; without any, those of the file beside the profile, if there is one. With where they are from.
pub(crate) fn of(profile: &Path, given: &[Answer], linkage: &Linkage) -> Result<(Vec<Answer>, Option<String>)> {
    for answer in given {
        answer.check(linkage).map_err(|problem| anyhow!("--answer '{answer}': {problem}"))?;
    }
    if !given.is_empty() {
        return Ok((given.to_vec(), Some("--answer".into())));
    }
    let beside = answers_beside(profile);
    if profile == Path::new("-") || !beside.is_file() {
        return Ok((Vec::new(), None));
    }
    let name = input::name(&beside);
    match read_answers(&input::text(&beside)?, &name, linkage) {
        Ok(answers) => {
            let from = (!answers.is_empty()).then_some(name);
            Ok((answers, from))
        }
        Err(faults) => {
            let told: Vec<String> = faults.iter().map(ToString::to_string).collect();
            bail!("{}", told.join("\n"))
        }
    }
}
