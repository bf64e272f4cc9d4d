//! Playing with no window at all: the same game, 60 pictures a second of its own time, the last one written.

use std::path::Path;

use anyhow::{Context, Result};
use tidy_lever::Moment;

use crate::game::Game;
use crate::pad;
use crate::player;
use crate::script::{self, Script};
use crate::view::View;
use crate::world::STEPS_A_SECOND;

/// Pictures a second.
const RATE: u32 = 60;

/// Plays so many pictures and writes the last one.
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
    let mut pad = pad.map(script::lines).transpose()?.map(|lines| (lines, None, Vec::new()));
    let mut last = Moment::ZERO;
    for frame in 1..=count {
        let now = Moment::of_tick(u64::from(frame), RATE);
        // Step by step, so that the game hears each event in the step that it belongs to.
        for half in (0..STEPS_A_SECOND / RATE).rev() {
            let steps = u64::from(frame) * u64::from(STEPS_A_SECOND / RATE) - u64::from(half);
            let to = Moment::of_tick(steps, STEPS_A_SECOND);
            if let Some(script) = &mut script {
                script.play(to, game)?;
            }
            if let Some((lines, next, pads)) = &mut pad {
                loop {
                    if next.is_none() {
                        *next = lines.next().transpose()?;
                    }
                    let Some(line) = next.take_if(|line| line.at <= to) else { break };
                    if let Some(mut event) = pad::event(&line, pads) {
                        event.at = line.at;
                        game.feed(event);
                    }
                }
            }
            game.play(to);
        }
        last = now;
    }
    game.end();
    let png = view.picture(game, last, 1.0).encode_png().context("the picture can't be encoded")?;
    player::write_bytes(shot, &png)
}
