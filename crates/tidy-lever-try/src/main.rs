//! `tidy-lever-try PROFILE`: the window that `tidy-lever try` opens.

use std::process::ExitCode;

use clap::Parser;
use tidy_lever_try::Options;

/// Open a window on a profile: play it, see what happens, move its numbers, record
#[derive(Debug, Parser)]
#[command(name = tidy_lever_try::PROGRAM, version, max_term_width = 100, arg_required_else_help = true)]
struct Arguments {
    #[command(flatten)]
    options: Options,
}

fn main() -> ExitCode {
    match tidy_lever_try::run(&Arguments::parse().options) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("{}: {error:#}", tidy_lever_try::PROGRAM);
            ExitCode::from(2)
        }
    }
}
