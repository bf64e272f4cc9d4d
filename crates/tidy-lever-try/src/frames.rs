//! Playing with no window at all: 60 frames a second of its own time, the last one written as a picture.

use std::path::Path;

use anyhow::{Context as _, Result};
use tidy_lever::{Event, Moment};
use tidy_lever_files::Outputs;
use tidy_lever_pads::script;

use crate::options::Options;
use crate::screen::Screen;
use crate::session::Session;

/// Frames a second.
const RATE: u32 = 60;

/// Plays this many frames and writes the picture of the last one.
pub(crate) fn run(mut session: Session, options: &Options, count: u32, shot: &Path, outputs: &Outputs) -> Result<()> {
    let mut tape = options.tape.as_deref().map(|tape| session.begin_tape(tape)).transpose()?;
    let mut pad = options.pad.as_deref().map(script::lines).transpose()?.map(|lines| (lines.peekable(), Vec::new()));
    let mut screen = Screen::new(options.size, &options.tool_keys)?;
    screen.set_scale(options.scale_on(1.0));
    session.set_view(screen.stage_size(&session));
    for frame in 1..=u64::from(count) {
        let to = Moment::of_tick(frame, RATE);
        if let Some(tape) = &mut tape {
            tape.play(to, |line| session.line(line))?;
        }
        if let Some((lines, pads)) = &mut pad {
            while let Some(line) = lines.next_if(|line| line.as_ref().map_or(true, |line| line.at <= to)) {
                let line = line?;
                if let Some(event) = script::event(&line, pads) {
                    // Behind the keyboard, the mouse and the screen.
                    let device = tidy_lever::Device::new(event.device.number() + 3).unwrap_or(event.device);
                    session.feed(Event { at: line.at, device, ..event });
                }
            }
        }
        session.play(to);
    }
    let told = session.end();
    let picture = screen.draw(&session, &tidy_lever::prompt::Labels::default(), session.played);
    let png = picture.encode_png().context("the picture can't be encoded")?;
    outputs.write(shot, &png)?;
    told.into_iter().for_each(|told| eprintln!("{told}"));
    Ok(())
}
