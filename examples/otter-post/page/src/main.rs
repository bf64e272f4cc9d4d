//! Writes Otter Post as a web page into `target/web/`, and shows it on this machine.
//!
//! ```text
//!   build: game ──compiler──▶ .wasm ──bindings──▶ target/web/ (three files)
//!   show:  target/web/ ──▶ http://127.0.0.1:PORT/
//! ```

mod building;
mod compiler;
mod showing;

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::{Parser, Subcommand};

/// Otter Post as a web page.
#[derive(Debug, Parser)]
#[command(name = "page", bin_name = "cargo page", version)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Write the page into target/web/
    Build,
    /// Show the page on this machine until the command is ended
    Show {
        /// The port to listen on; 0 takes a free one
        #[arg(long, value_name = "NUMBER", default_value_t = 8000)]
        port: u16,
    },
}

/// The project's own folder.
fn root() -> PathBuf {
    let own = Path::new(env!("CARGO_MANIFEST_DIR"));
    own.ancestors().nth(3).unwrap_or(own).to_owned()
}

fn main() -> ExitCode {
    let web = root().join("target/web");
    let done = match Arguments::parse().command {
        Command::Build => building::build(&root(), &web),
        Command::Show { port } => showing::show(&web, port),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(problem) => {
            eprintln!("page: {problem:#}");
            ExitCode::from(2)
        }
    }
}
