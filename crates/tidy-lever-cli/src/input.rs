//! Files and standard input.

use std::fs::File;
use std::io::{BufRead, BufReader, Read};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use tidy_lever::profile::{Fault, Faults, Severity};
use tidy_lever::remap::Remap;
use tidy_lever::{Linkage, Profile};

use crate::paint::{self, BAD, FAINT, WARN, in_style};

/// The largest profile that is read.
const LARGEST_PROFILE: u64 = 16 * 1024 * 1024;

/// A path's name for people.
pub(crate) fn name(path: &Path) -> String {
    if path == Path::new("-") { "standard input".into() } else { path.display().to_string() }
}

/// Opens a file, or standard input for `-`.
pub(crate) fn open(path: &Path) -> Result<Box<dyn BufRead>> {
    if path == Path::new("-") {
        return Ok(Box::new(BufReader::new(std::io::stdin())));
    }
    if path.is_dir() {
        bail!("{} is a folder; name a file in it", name(path));
    }
    let file = File::open(path).with_context(|| format!("{} can't be opened", name(path)))?;
    Ok(Box::new(BufReader::with_capacity(1 << 16, file)))
}

/// Standard input can be read once.
pub(crate) fn only_one_is_standard<'p>(files: impl Iterator<Item = &'p PathBuf>) -> Result<()> {
    if files.filter(|file| **file == Path::new("-")).nth(1).is_some() {
        bail!("the profile and the tape can't both be standard input; name a file for one of them");
    }
    Ok(())
}

/// Reads a whole text.
pub(crate) fn text(path: &Path) -> Result<String> {
    let mut text = String::new();
    let mut limited = open(path)?.take(LARGEST_PROFILE + 1);
    limited.read_to_string(&mut text).with_context(|| format!("{} is not readable text", name(path)))?;
    if text.len() as u64 > LARGEST_PROFILE {
        bail!("{} is larger than 16 MiB; no profile is", name(path));
    }
    Ok(text)
}

/// A profile from its text, and what is built of it.
pub(crate) fn read(text: &str) -> Result<(Profile, Linkage), Faults> {
    let profile = Profile::from_toml(text)?;
    let linkage = Linkage::build(&profile)?;
    Ok((profile, linkage))
}

/// Reads and builds a profile for a command that only needs it to be right.
pub(crate) fn built(path: &Path) -> Result<Linkage> {
    Ok(built_from(path, &text(path)?)?.1)
}

fn built_from(path: &Path, text: &str) -> Result<(Profile, Linkage)> {
    read(text).map_err(|faults| {
        let count = if faults.len() == 1 { "a fault".into() } else { format!("{} faults", faults.len()) };
        anyhow::anyhow!("{} has {count}:\n{}", name(path), all_told(faults.iter(), &name(path), text))
    })
}

/// The most faults that are printed at once.
pub(crate) const MOST_FAULTS: usize = 20;

/// Faults one after the other, the first ones if there are many.
pub(crate) fn all_told<'f>(mut faults: impl Iterator<Item = &'f Fault>, file: &str, text: &str) -> String {
    let mut all: String = faults.by_ref().take(MOST_FAULTS).map(|fault| told(fault, file, text)).collect();
    let more = faults.count();
    if more > 0 {
        all += &format!("and {more} more\n");
    }
    all
}

/// A player's file.
pub(crate) fn remap(path: &Path) -> Result<Remap> {
    let text = text(path)?;
    Remap::from_toml(&text).map_err(|faults| {
        anyhow::anyhow!("{} can't be read:\n{}", name(path), all_told(faults.iter(), &name(path), &text))
    })
}

/// A profile with a player's file over it.
#[derive(Clone, Debug)]
pub(crate) struct Laid {
    pub(crate) text: String,
    pub(crate) profile: Profile,
    pub(crate) remap: Remap,
    pub(crate) linkage: Linkage,
}

/// Reads a profile, once, and builds it with a player's file over it, if there is one; tells what of that has no effect.
pub(crate) fn overlaid(path: &Path, over: Option<&Path>) -> Result<Laid> {
    let text = text(path)?;
    // The profile's own faults are told as ever.
    let (profile, linkage) = built_from(path, &text)?;
    let Some(over) = over else { return Ok(Laid { text, profile, remap: Remap::new(), linkage }) };
    let remap = remap(over)?;
    let laid = remap.over(&profile)?;
    for fault in &laid.left_alone {
        paint::note(format!("{}: {fault}", name(over)));
    }
    Ok(Laid { text, profile, remap, linkage: laid.linkage })
}

/// The longest line that is shown with a fault, and the most that is shown of its own text.
const LONGEST_LINE: usize = 400;

/// A text of which an endless word is not shown whole.
fn cut(text: &str) -> std::borrow::Cow<'_, str> {
    match text.char_indices().nth(LONGEST_LINE) {
        Some((end, _)) => format!("{}…", &text[..end]).into(),
        None => text.into(),
    }
}

/// A fault with its place, the line it stands in, and a pointer.
pub(crate) fn told(fault: &Fault, file: &str, text: &str) -> String {
    let (style, word) = match fault.severity {
        Severity::Fault => (BAD, "fault"),
        Severity::Warning => (WARN, "warning"),
    };
    let place = if fault.spot.is_some() {
        format!("{file}:{}:{}", fault.spot.line, fault.spot.column)
    } else {
        file.to_owned()
    };
    let path = if fault.path.is_empty() { String::new() } else { format!("{}: ", cut(&fault.path)) };
    let mut told = format!("{} {place}: {path}{}", in_style(style, word), cut(&fault.problem));
    if let Some(nearest) = &fault.nearest {
        told += &format!("; did you mean `{nearest}`?");
    }
    told.push('\n');
    if let Some(line) = (fault.spot.line as usize).checked_sub(1).and_then(|n| text.lines().nth(n)) {
        let before: String =
            line.chars().take(fault.spot.column as usize - 1).map(|c| if c == '\t' { c } else { ' ' }).collect();
        // Of an endless line the place is enough.
        if line.len() > LONGEST_LINE {
            return told;
        }
        told += &format!("  {} {line}\n", in_style(FAINT, format!("{:>4} |", fault.spot.line)));
        told += &format!("  {} {before}{}\n", in_style(FAINT, "     |"), in_style(style, "^"));
    }
    told
}
