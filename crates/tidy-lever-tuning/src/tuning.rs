//! A profile that is tuned while it plays: its file, the numbers that were moved and not saved yet, what plays now.

use std::path::{Path, PathBuf};

use tidy_lever::profile::{Movable, NotMoved, Number, numbers, with_number};
use tidy_lever::remap::Remap;
use tidy_lever::{Linkage, Profile};
use tidy_lever_files::{Kept, WriteError};

use crate::Broken;

/// What became of a profile's file that was read again.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Reread {
    /// It says what it said before.
    Same,
    /// It plays now, with the moved numbers over it; those that it hasn't got any more are named.
    Changed {
        /// The paths of numbers that were moved and are gone.
        gone: Vec<String>,
    },
    /// It is broken; what played before plays on.
    Broken(Broken),
}

/// Why moved numbers were not saved. The file is as it was.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum SaveError {
    /// Another program wrote it after it was read.
    #[error("{0} was changed by another program meanwhile and is left as it is; it is read again, then save again")]
    Changed(String),
    /// It has faults, or isn't there.
    #[error("{0}")]
    Broken(Broken),
    /// More than the moved numbers would have changed.
    #[error("{0} is left as it is: more than the moved numbers would change; move them by hand")]
    MoreWouldChange(String),
    /// A number can't be put into its text.
    #[error("{0}")]
    NotMoved(#[from] NotMoved),
    /// It can't be written.
    #[error("{0}")]
    Write(#[from] WriteError),
}

/// A profile's file, and what plays of it.
///
/// ```
/// use tidy_lever::remap::Remap;
/// use tidy_lever_tuning::Tuning;
///
/// let path = std::env::temp_dir().join(format!("tuning-{}.toml", std::process::id()));
/// let text = "tidy-lever = 1 # a hop\r\n[action.hop]\r\nkind = \"button\"\r\nkeys = \"Space\"\r\ncue = \"hold 300ms\"\r\n";
/// std::fs::write(&path, text)?;
/// let mut tuning = Tuning::open(&path, Remap::new())?;
/// tuning.set("hop.hold", 280.0)?;
/// assert_eq!(tuning.linkage().actions().next().unwrap().cue().unwrap().to_string(), "hold 280ms");
/// tuning.save()?;
/// assert_eq!(std::fs::read_to_string(&path)?, text.replace("300ms", "280ms"));
/// std::fs::remove_file(&path)?;
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Tuning {
    path: PathBuf,
    /// The file as it was read or saved last.
    on_disk: String,
    /// What plays: what was good last, with the moved numbers; nothing while the file has faults from the start.
    playing: Movable,
    remap: Remap,
    linkage: Linkage,
    fault: Option<Broken>,
    /// Numbers that were moved and are not saved, with what a profile writes for them.
    moved: Vec<(String, String)>,
    /// How they stood before each move that can be undone.
    before: Vec<Vec<(String, String)>>,
    /// The number that is being moved, whose further moves are one with the first.
    moving: Option<String>,
}

/// What is good, built.
struct Good {
    profile: Movable,
    linkage: Linkage,
}

fn built(text: &str, remap: &Remap) -> Result<Good, Broken> {
    laid(Movable::from_toml(text)?, remap)
}

fn laid(profile: Movable, remap: &Remap) -> Result<Good, Broken> {
    let linkage = remap.over(profile.profile())?.linkage;
    Ok(Good { profile, linkage })
}

/// A text with numbers moved.
fn with_all(text: &str, moved: &[(String, String)]) -> Result<String, NotMoved> {
    moved.iter().try_fold(text.to_owned(), |text, (path, value)| with_number(&text, path, value))
}

impl Tuning {
    /// Reads a profile's file. One with faults is taken all the same: nothing plays until it is mended, and
    /// [`fault`](Tuning::fault) tells why.
    ///
    /// # Errors
    /// [`Broken`] if it can't be read at all.
    pub fn open(path: &Path, remap: Remap) -> Result<Tuning, Broken> {
        let on_disk = read(path)?;
        let mut tuning = Tuning {
            path: path.to_owned(),
            on_disk,
            playing: Movable::from_toml("")?,
            remap,
            linkage: Linkage::build(&Profile::new(""))?,
            fault: None,
            moved: Vec::new(),
            before: Vec::new(),
            moving: None,
        };
        match built(&tuning.on_disk, &tuning.remap) {
            Ok(good) => tuning.take(good),
            Err(broken) => tuning.fault = Some(broken),
        }
        Ok(tuning)
    }

    fn take(&mut self, good: Good) {
        (self.playing, self.linkage) = (good.profile, good.linkage);
    }

    /// The file.
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// The text that plays; the file's own where nothing plays yet.
    pub fn text(&self) -> &str {
        if self.playing.text().is_empty() { &self.on_disk } else { self.playing.text() }
    }

    /// What plays.
    pub fn linkage(&self) -> &Linkage {
        &self.linkage
    }

    /// The profile that plays, without the player's file over it.
    pub fn profile(&self) -> &Profile {
        self.playing.profile()
    }

    /// What is wrong with the file, while something older plays.
    pub fn fault(&self) -> Option<&Broken> {
        self.fault.as_ref()
    }

    /// Every number of what plays.
    pub fn numbers(&self) -> &[Number] {
        self.playing.numbers()
    }

    /// The numbers that were moved and are not saved, with what a profile writes for them.
    pub fn moved(&self) -> &[(String, String)] {
        &self.moved
    }

    /// Whether there is a move that can be undone.
    pub fn can_undo(&self) -> bool {
        !self.before.is_empty()
    }

    /// Moves a number by its path; spans in milliseconds. What a profile writes for it. Moves of one number until
    /// [`settle`](Tuning::settle) are undone as one.
    ///
    /// # Errors
    /// [`Broken`] if the profile would have faults with it, or has no such number. Nothing is changed then.
    pub fn set(&mut self, path: &str, value: f64) -> Result<String, Broken> {
        let number = self.numbers().iter().find(|number| number.path == path);
        let Some(number) = number else { return Err(Broken::because(format!("the profile has no number `{path}`"))) };
        let written = number.written_as(value.clamp(number.least, number.most));
        let mut moved = self.playing.clone();
        moved.set(path, &written).map_err(|error| Broken::because(error.to_string()))?;
        let good = laid(moved, &self.remap)?;
        if self.moving.as_deref() != Some(path) {
            self.before.push(self.moved.clone());
            self.moving = Some(path.to_owned());
        }
        match self.moved.iter_mut().find(|(known, _)| known == path) {
            Some((_, value)) => value.clone_from(&written),
            None => self.moved.push((path.to_owned(), written.clone())),
        }
        self.take(good);
        Ok(written)
    }

    /// Plays another player's file over the profile.
    ///
    /// # Errors
    /// [`Broken`] if the profile has faults. Nothing is changed then.
    pub fn set_remap(&mut self, remap: Remap) -> Result<(), Broken> {
        self.linkage = remap.over(self.playing.profile())?.linkage;
        self.remap = remap;
        Ok(())
    }

    /// The hand is off: the next move is one of its own.
    pub fn settle(&mut self) {
        self.moving = None;
    }

    /// Takes the last move back; the numbers that stand otherwise now, with what a profile writes for them. `None` if there is
    /// none, or the profile has no place for it any more.
    pub fn undo(&mut self) -> Option<Vec<(String, String)>> {
        self.moving = None;
        let moved = self.before.pop()?;
        let text = with_all(&self.on_disk, &moved).ok()?;
        let good = built(&text, &self.remap).ok()?;
        let old: Vec<(String, f64)> = self.numbers().iter().map(|number| (number.path.clone(), number.value)).collect();
        self.moved = moved;
        self.take(good);
        let is_other = |number: &&Number| !old.contains(&(number.path.clone(), number.value));
        Some(self.numbers().iter().filter(is_other).map(|one| (one.path.clone(), one.written_as(one.value))).collect())
    }

    /// Reads the file again, after it was saved by somebody. Numbers that were moved are laid over what it says now.
    pub fn reread(&mut self) -> Reread {
        let text = match read(&self.path) {
            Ok(text) => text,
            Err(broken) => {
                self.fault = Some(broken.clone());
                return Reread::Broken(broken);
            }
        };
        if text == self.on_disk && self.fault.is_none() {
            return Reread::Same;
        }
        let (kept, gone): (Vec<_>, Vec<_>) =
            self.moved.iter().cloned().partition(|(path, value)| with_number(&text, path, value).is_ok());
        let laid = with_all(&text, &kept).unwrap_or_else(|_| text.clone());
        match built(&laid, &self.remap) {
            Ok(good) => {
                (self.on_disk, self.moved, self.fault) = (text, kept, None);
                self.before.clear();
                self.moving = None;
                self.take(good);
                Reread::Changed { gone: gone.into_iter().map(|(path, _)| path).collect() }
            }
            Err(broken) => {
                self.fault = Some(broken.clone());
                Reread::Broken(broken)
            }
        }
    }

    /// Puts the moved numbers into the file: their own digits are replaced, a key that wasn't written is added, and nothing else
    /// changes. The file is locked, compared with what was read, and the result is read back before it is written whole.
    ///
    /// # Errors
    /// A [`SaveError`]; the file is as it was.
    pub fn save(&mut self) -> Result<(), SaveError> {
        self.moving = None;
        let name = || self.path.display().to_string();
        let kept = Kept::lock(&self.path)?;
        let now = read(&self.path).map_err(SaveError::Broken)?;
        if now != self.on_disk {
            return Err(SaveError::Changed(name()));
        }
        let text = with_all(&now, &self.moved)?;
        let good = built(&text, &self.remap).map_err(SaveError::Broken)?;
        let others = |text: &str| -> Vec<(String, f64)> {
            let all = numbers(text).unwrap_or_default().into_iter().map(|number| (number.path, number.value));
            let mut all: Vec<_> = all.filter(|(path, _)| !self.moved.iter().any(|(moved, _)| moved == path)).collect();
            all.sort_by(|one, other| one.0.cmp(&other.0));
            all
        };
        if others(&text) != others(&now) {
            return Err(SaveError::MoreWouldChange(name()));
        }
        kept.write(text.as_bytes())?;
        self.on_disk = text;
        self.take(good);
        self.moved.clear();
        self.before.clear();
        Ok(())
    }
}

/// The largest profile that is read.
const LARGEST: u64 = 16 * 1024 * 1024;

fn read(path: &Path) -> Result<String, Broken> {
    let problem = |problem: String| Broken::because(format!("{} {problem}", path.display()));
    let found = std::fs::metadata(path).map_err(|error| problem(format!("can't be read: {error}")))?;
    if found.len() > LARGEST {
        return Err(problem("is larger than 16 MiB; no profile is".into()));
    }
    std::fs::read_to_string(path).map_err(|error| problem(format!("can't be read: {error}")))
}
