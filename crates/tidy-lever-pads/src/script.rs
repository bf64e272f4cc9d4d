//! A tape that plays instead of hands, and a simulated pad, which plays a tape of pad lines as a device would.

use std::fs::File;
use std::io::BufReader;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use tidy_lever::event::{Device, Event};
use tidy_lever::tape::{Header, Line, LineKind, Reader, TapeError};
use tidy_lever::{Control, Moment};

/// Why a script can't be played.
#[derive(Debug, thiserror::Error)]
#[error("{path}{problem}")]
pub struct ScriptError {
    path: String,
    problem: String,
}

impl ScriptError {
    fn opened(path: &Path, error: &std::io::Error) -> ScriptError {
        ScriptError { path: path.display().to_string(), problem: format!(" can't be opened: {error}") }
    }

    fn read(path: &Path, error: &TapeError) -> ScriptError {
        ScriptError { path: path.display().to_string(), problem: format!(": {error}") }
    }
}

/// The lines of a script, one by one.
///
/// # Errors
/// [`ScriptError`] if there is no such tape.
pub fn lines(path: &Path) -> Result<Reader<BufReader<File>>, ScriptError> {
    let file = File::open(path).map_err(|error| ScriptError::opened(path, &error))?;
    Reader::new(BufReader::new(file)).map_err(|error| ScriptError::read(path, &error))
}

/// A tape that plays line by line, as time goes on.
#[derive(Debug)]
pub struct Script {
    lines: Reader<BufReader<File>>,
    next: Option<Line>,
    path: PathBuf,
}

impl Script {
    /// Opens a tape.
    ///
    /// # Errors
    /// [`ScriptError`] if there is no such tape, or its first line can't be read.
    pub fn begin(path: &Path) -> Result<Script, ScriptError> {
        let mut script = Script { lines: lines(path)?, next: None, path: path.to_owned() };
        script.read_on()?;
        Ok(script)
    }

    /// The tape's header.
    pub fn header(&self) -> &Header {
        self.lines.header()
    }

    /// The folder that the tape is in; files that it names are there.
    pub fn folder(&self) -> &Path {
        self.path.parent().unwrap_or(Path::new(""))
    }

    fn read_on(&mut self) -> Result<(), ScriptError> {
        self.next = self.lines.next().transpose().map_err(|error| ScriptError::read(&self.path, &error))?;
        Ok(())
    }

    /// Hands out the lines that are due by a moment, in order.
    ///
    /// # Errors
    /// [`ScriptError`] with the line's number, if it can't be read or `put` refuses it.
    pub fn play(&mut self, to: Moment, mut put: impl FnMut(&Line) -> Result<(), String>) -> Result<(), ScriptError> {
        while let Some(line) = self.next.take_if(|line| line.at <= to) {
            let number = self.lines.line_number();
            put(&line).map_err(|problem| ScriptError {
                path: self.path.display().to_string(),
                problem: format!(", line {number}: {problem}"),
            })?;
            self.read_on()?;
        }
        Ok(())
    }

    /// When the next line is due; `None` once all of it was played.
    pub fn next(&self) -> Option<Moment> {
        self.next.as_ref().map(|line| line.at)
    }
}

/// What a pad's line says, without its time, from the device of that place among the names seen so far; `None` for what no pad says.
pub fn event(line: &Line, pads: &mut Vec<String>) -> Option<Event> {
    let mut device = |id: &str| {
        let number = pads.iter().position(|known| known == id).unwrap_or_else(|| {
            pads.push(id.to_owned());
            pads.len() - 1
        });
        Device::new(number)
    };
    let at = Moment::ZERO;
    match &line.kind {
        LineKind::Level { device: id, control, value } => {
            Some(Event::level(at, device(id)?, control.parse::<Control>().ok()?, *value as f32))
        }
        LineKind::Pair { device: id, control, x, y } => {
            Some(Event::pair(at, device(id)?, control.parse::<Control>().ok()?, *x as f32, *y as f32))
        }
        LineKind::Plugged { device: id, plugged } => Some(Event::plugged(at, device(id)?, *plugged)),
        _ => None,
    }
}

/// Plays a script on a thread of its own; each event is handed over at its time, to be stamped as it arrives.
///
/// # Errors
/// [`ScriptError`] if the script can't be read. What is wrong further on is told on standard error, and the pad falls silent.
pub fn plug_in(path: &Path, hand: impl Fn(Event) -> bool + Send + 'static) -> Result<(), ScriptError> {
    let lines = lines(path)?;
    let began = Instant::now();
    let path = path.to_owned();
    std::thread::spawn(move || {
        let mut pads = Vec::new();
        for line in lines {
            let line = match line {
                Ok(line) => line,
                Err(problem) => return eprintln!("{}: {problem}; the pad falls silent", path.display()),
            };
            let due = Duration::from_micros(line.at.as_micros());
            std::thread::sleep(due.saturating_sub(began.elapsed()));
            let Some(event) = event(&line, &mut pads) else { continue };
            if !hand(event) {
                return;
            }
        }
    });
    Ok(())
}
