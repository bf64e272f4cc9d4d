//! The game as a program: a window, or pictures without one; files beside it.

mod arguments;
mod film;
mod frames;
pub(crate) mod player_file;
mod profile_file;
mod tape_file;
mod window;

use std::io::Write;
use std::path::PathBuf;
use std::process::ExitCode;

use anyhow::{Context, Result};
use clap::Parser;
use tidy_lever_files::Outputs;

use crate::game::{Game, Setup};
use crate::player::Store;
use crate::recorder::Tape;
use crate::report::{Listener, Report};
use crate::tuning::Tuned;
use crate::view::View;
use arguments::Arguments;
use player_file::PlayerFile;
use window::Opening;

pub(crate) fn main() -> ExitCode {
    match run(&Arguments::parse()) {
        Ok(()) => ExitCode::SUCCESS,
        Err(problem) => {
            eprintln!("otter-post: {problem:#}");
            ExitCode::from(2)
        }
    }
}

/// Lines to standard output; a closed pipe ends them.
fn output() -> Listener {
    Box::new(|line| {
        let mut out = std::io::stdout().lock();
        writeln!(out, "{line}").and_then(|()| out.flush()).is_ok()
    })
}

fn run(arguments: &Arguments) -> Result<()> {
    let file = profile_file::file(arguments.profile.clone());
    // Pictures for tests are of the profile alone, unless a player is named.
    let own = || player_file::path().filter(|_| arguments.frames.is_none());
    let own_file = arguments.player.clone().or_else(own);
    let inputs = [file.as_ref(), own_file.as_ref(), arguments.tape.as_ref(), arguments.pad.as_ref()];
    let mut outputs = Outputs::new(inputs.into_iter().flatten().map(PathBuf::as_path)).replacing(arguments.replace);
    arguments.shot.iter().chain(&arguments.film).try_for_each(|picture| outputs.claim(picture))?;
    let remap = own_file.as_deref().map(player_file::read).transpose()?.unwrap_or_default();
    let named = file.as_ref().map_or_else(|| "the profile".to_owned(), |file| file.display().to_string());
    let tuned = Tuned::new(&profile_file::text(file.as_deref())?, &remap).with_context(|| named)?;
    let tape_out =
        arguments.record.as_deref().map_or_else(|| Ok(Tape::off()), |path| tape_file::open(path, &mut outputs))?;
    let setup = Setup {
        player: own_file.clone().map(|path| Box::new(PlayerFile(path)) as Box<dyn Store>),
        two: arguments.two,
        taped: arguments.tape.is_some(),
        live: arguments.frames.is_none(),
        touch: false,
    };
    let mut game = Game::new(tuned, remap, setup, Report::new((!arguments.quiet).then(output)), tape_out);
    let mut view = View::new(arguments.size, arguments.inputs)?;
    view.captions = arguments.captions;
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
            frames::run(&mut game, &mut view, count, (tape, pad), arguments.shot.as_deref(), film, &outputs)
        }
        None => {
            let (profile, player) = (file.as_deref(), own_file.as_deref());
            window::run(game, view, Opening { size: arguments.size, profile, player, tape, pad })
        }
    }
}
