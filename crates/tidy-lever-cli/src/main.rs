//! `tidy-lever`: check profiles, play tapes, see what came of them.

mod arguments;
mod attempts;
mod command;
mod input;
mod lanes;
mod outcome;
mod paint;
mod run;
mod story;
mod view;

use std::process::ExitCode;

use clap::Parser;

use arguments::{Arguments, Command};

/// How a command ended, when it ran at all.
enum Answer {
    /// Done, or yes.
    Yes,
    /// The answer is no: faults, or an expectation that was not met.
    No,
}

fn main() -> ExitCode {
    let arguments = Arguments::parse();
    let answer = match arguments.command {
        Command::Demo(demo) => command::demo::run(&demo),
        Command::New(new) => command::new::run(&new),
        Command::Controls(controls) => command::controls::run(&controls),
        Command::Check(check) => command::check::run(&check),
        Command::Play(play) => command::play::run(&play),
        Command::Remap(remap) => command::remap::run(&remap),
        Command::Why(why) => command::why::run(&why),
        Command::Draw(draw) => command::draw::run(&draw),
        Command::Completions(completions) => command::completions::run(&completions),
    };
    match answer {
        Ok(Answer::Yes) => ExitCode::SUCCESS,
        Ok(Answer::No) => ExitCode::from(1),
        // Whoever reads our output may stop reading; that is no failure.
        Err(error) if is_broken_pipe(&error) => ExitCode::SUCCESS,
        Err(error) => {
            anstream::eprintln!("{}tidy-lever:{} {error:#}", paint::BAD, paint::PLAIN);
            ExitCode::from(2)
        }
    }
}

fn is_broken_pipe(error: &anyhow::Error) -> bool {
    let kind =
        |cause: &(dyn std::error::Error + 'static)| cause.downcast_ref::<std::io::Error>().map(std::io::Error::kind);
    error.chain().filter_map(kind).any(|kind| kind == std::io::ErrorKind::BrokenPipe)
}
