//! `tidy-lever`: check profiles, play tapes, see what happens.

mod answers;
mod arguments;
mod attempts;
mod command;
mod completers;
mod evidence;
mod input;
mod lines;
mod lanes;
mod meant;
mod out;
mod outcome;
mod page;
mod paint;
mod progress;
mod rehearsing;
mod rough;
mod run;
mod search;
mod shipped;
mod story;
mod ready_tape;
mod swallowed;
mod values;
mod view;
mod wear;

use std::io::ErrorKind;
use std::process::ExitCode;

use clap::Parser;

use arguments::{Arguments, Command};
use paint::{BAD, in_style};

/// How a command ended, when it ran at all.
enum Answer {
    /// The command is done, and every check passed.
    Yes,
    /// A check failed: the profile has faults, or the output is not what was expected.
    No,
    /// It was stopped with Ctrl-C, and told what it knew.
    Stopped,
}

/// The status of what was stopped with Ctrl-C, as shells have it.
const STOPPED: u8 = 130;

fn main() -> ExitCode {
    command::completions::answer();
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
        Command::Try(_) => command::try_out::run(),
        Command::Report(report) => command::report::run(&report),
        Command::Rehearse(rehearse) => command::rehearse::run(&rehearse),
        Command::Tune(tune) => command::tune::run(&tune),
        Command::Completions(completions) => command::completions::run(&completions),
    };
    let status = match answer {
        Ok(Answer::Yes) => 0,
        Ok(Answer::No) => 1,
        Ok(Answer::Stopped) => STOPPED,
        Err(error) => {
            paint::tell(format!("{} {error:#}", in_style(BAD, "tidy-lever:")));
            2
        }
    };
    match out::failure() {
        // Whoever reads our output may stop reading; that is not a failure.
        None | Some(ErrorKind::BrokenPipe) => ExitCode::from(status),
        Some(kind) => {
            paint::tell(format!("{} standard output can't be written to: {kind}", in_style(BAD, "tidy-lever:")));
            ExitCode::from(2)
        }
    }
}
