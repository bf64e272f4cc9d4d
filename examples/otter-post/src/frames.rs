//! Playing with no window at all: the same game, 60 pictures a second of its own time, the last one written.

use std::path::Path;

use anyhow::{Context, Result};
use tidy_lever::{Event, Moment};
use tidy_lever_pads::script;

use crate::game::Game;
use crate::player;
use crate::script::Script;
use crate::view::View;
use crate::world::STEPS_A_SECOND;

/// Pictures a second.
const RATE: u32 = 60;

/// Plays this many pictures and writes the last one.
///
/// # Errors
/// If a tape can't be played, or the picture can't be written.
pub(crate) fn run(
    game: &mut Game,
    view: &mut View,
    count: u32,
    tape: Option<&Path>,
    pad: Option<&Path>,
    shot: &Path,
) -> Result<()> {
    let mut script = tape.map(|tape| Script::begin(tape, game)).transpose()?;
    let mut pad = pad.map(script::lines).transpose()?.map(|lines| (lines.peekable(), Vec::new()));
    // Step by step, so that the game hears each event in the step that it belongs to.
    for step in 1..=u64::from(count) * u64::from(STEPS_A_SECOND / RATE) {
        let to = Moment::of_tick(step, STEPS_A_SECOND);
        if let Some(script) = &mut script {
            script.play(to, game)?;
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
    }
    game.end();
    let png = view
        .picture(game, Moment::of_tick(u64::from(count), RATE), 1.0)
        .encode_png()
        .context("the picture can't be encoded")?;
    Ok(player::write(shot, &png)?)
}
