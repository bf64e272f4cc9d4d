//! Otter Post: a small game that plays on Tidy Lever.
//!
//! ```text
//!   window, pad, tape ──▶ game (seats, hands) ──▶ world ──▶ view
//!                             ▲ tuning, menu, player's file
//! ```

mod arguments;
mod camera;
mod film;
mod frames;
mod game;
mod hands;
mod menu;
mod player;
mod recorder;
mod report;
mod script;
mod town;
mod tuning;
mod view;
mod window;
mod world;

use std::process::ExitCode;

use anyhow::{Context, Result};
use clap::Parser;

use arguments::Arguments;
use game::{Game, Setup};
use recorder::Tape;
use report::Report;
use tuning::Tuned;
use view::View;
use window::Opening;

fn main() -> ExitCode {
    match run(&Arguments::parse()) {
        Ok(()) => ExitCode::SUCCESS,
        Err(problem) => {
            eprintln!("otter-post: {problem:#}");
            ExitCode::from(2)
        }
    }
}

fn run(arguments: &Arguments) -> Result<()> {
    let file = tuning::file(arguments.profile.clone());
    // Pictures for tests are of the profile alone, unless a player is named.
    let own = || player::path().filter(|_| arguments.frames.is_none());
    let own_file = arguments.player.clone().or_else(own);
    let remap = own_file.as_deref().map(player::read).transpose()?.unwrap_or_default();
    let named = file.as_ref().map_or_else(|| "the profile".to_owned(), |file| file.display().to_string());
    let tuned = Tuned::new(&tuning::text(file.as_deref())?, &remap).with_context(|| named)?;
    let tape_out = Tape::new(arguments.record.as_deref())?;
    let setup = Setup {
        player: own_file,
        two: arguments.two,
        taped: arguments.tape.is_some(),
        live: arguments.frames.is_none(),
    };
    let mut game = Game::new(tuned, remap, setup, Report::new(!arguments.quiet), tape_out);
    let mut view = View::new(arguments.size, arguments.inputs)?;
    game.set_covered(view.covered());
    game.set_view(arguments.size);
    let (tape, pad) = (arguments.tape.as_deref(), arguments.pad.as_deref());
    match arguments.frames {
        Some(count) => {
            let film = arguments.film.as_deref().map(|path| frames::Filming {
                path,
                from: arguments.film_from,
                every: arguments.film_every,
                size: arguments.size,
            });
            frames::run(&mut game, &mut view, count, (tape, pad), arguments.shot.as_deref(), film)
        }
        None => window::run(game, view, Opening { size: arguments.size, profile: file.as_deref(), tape, pad }),
    }
}
