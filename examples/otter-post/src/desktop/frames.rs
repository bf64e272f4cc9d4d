//! Playing with no window at all: the same game, 60 pictures a second of its own time, the last one written.

use std::path::Path;

use anyhow::{Context, Result, bail};
use tidy_lever::{Event, Moment};
use tidy_lever_files::Outputs;
use tidy_lever_pads::script;

use super::film::Film;
use crate::game::Game;
use crate::view::View;
use crate::world::STEPS_A_SECOND;

/// Pictures a second.
const RATE: u32 = 60;

/// A film of the pictures from one on, one of so many.
pub(crate) struct Filming<'p> {
    pub(crate) path: &'p Path,
    pub(crate) from: u32,
    pub(crate) every: u16,
    pub(crate) size: (u32, u32),
}

impl Filming<'_> {
    fn begin(&self, count: u32) -> Result<Film> {
        let pictures = count.saturating_sub(self.from) / u32::from(self.every);
        if pictures == 0 {
            bail!("--film-from {} leaves nothing of {count} frames to film", self.from);
        }
        Film::new(self.path, self.size, pictures, self.every)
    }

    fn has(&self, frame: u64) -> bool {
        frame > u64::from(self.from) && (frame - u64::from(self.from)).is_multiple_of(u64::from(self.every))
    }
}

/// Plays this many pictures, and writes the last one, or a film of them.
///
/// # Errors
/// If a tape can't be played, or a picture can't be written.
pub(crate) fn run(
    game: &mut Game,
    view: &mut View,
    count: u32,
    (tape, pad): (Option<&Path>, Option<&Path>),
    shot: Option<&Path>,
    filming: Option<Filming<'_>>,
    outputs: &Outputs,
) -> Result<()> {
    let mut film = filming.as_ref().map(|filming| filming.begin(count)).transpose()?;
    let steps = u64::from(STEPS_A_SECOND / RATE);
    let mut script = tape.map(|tape| game.begin_tape(tape)).transpose()?;
    let mut pad = pad.map(script::lines).transpose()?.map(|lines| (lines.peekable(), Vec::new()));
    // Step by step, so that the game hears each event in the step that it belongs to.
    for step in 1..=u64::from(count) * steps {
        let to = Moment::of_tick(step, STEPS_A_SECOND);
        if let Some(script) = &mut script {
            script.play(to, |line| game.line(line))?;
        }
        if let Some((lines, pads)) = &mut pad {
            while let Some(line) = lines.next_if(|line| line.as_ref().map_or(true, |line| line.at <= to)) {
                let line = line?;
                if let Some(event) = script::event(&line, pads) {
                    game.feed(Event { at: line.at, ..event });
                }
            }
        }
        game.play(to);
        if let (Some(film), Some(filming)) = (&mut film, &filming)
            && step.is_multiple_of(steps)
            && filming.has(step / steps)
        {
            film.add(view.picture(game, to, 1.0))?;
        }
    }
    game.end();
    if let Some(film) = film {
        film.end()?;
    }
    let Some(shot) = shot else { return Ok(()) };
    let png = view
        .picture(game, Moment::of_tick(u64::from(count), RATE), 1.0)
        .encode_png()
        .context("the picture can't be encoded")?;
    Ok(outputs.write(shot, &png)?)
}
