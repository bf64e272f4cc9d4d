//! A simulated pad: plays a script, a tape of pad lines, in real time, as a device would.

use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use anyhow::Result;
use tidy_lever::event::{Device, Event};
use tidy_lever::tape::{Line, Said};
use tidy_lever::{Control, Moment};

use crate::script;

/// What a pad's line says, without its time; `None` for what no pad says.
pub(crate) fn event(line: &Line, pads: &mut Vec<String>) -> Option<Event> {
    let mut device = |id: &str| {
        let number = pads.iter().position(|known| known == id).unwrap_or_else(|| {
            pads.push(id.to_owned());
            pads.len() - 1
        });
        Device::new(number)
    };
    let at = Moment::ZERO;
    match &line.said {
        Said::Level { device: id, control, value } => {
            Some(Event::level(at, device(id)?, control.parse::<Control>().ok()?, *value as f32))
        }
        Said::Pair { device: id, control, x, y } => {
            Some(Event::pair(at, device(id)?, control.parse::<Control>().ok()?, *x as f32, *y as f32))
        }
        Said::Plugged { device: id, plugged } => Some(Event::plugged(at, device(id)?, *plugged)),
        _ => None,
    }
}

/// Plays a script on a thread of its own; each event is handed over at its time, to be stamped as it arrives.
///
/// # Errors
/// If the script can't be read.
pub(crate) fn plug_in(path: &Path, hand: impl Fn(Event) -> bool + Send + 'static) -> Result<()> {
    let lines = script::lines(path)?;
    let began = Instant::now();
    let path: PathBuf = path.to_owned();
    std::thread::Builder::new().name("pad".into()).spawn(move || {
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
    })?;
    Ok(())
}
