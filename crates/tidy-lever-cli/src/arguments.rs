//! The command line's shape: commands, options, help.

use std::path::PathBuf;
use std::time::Duration;

use clap::{Args, Parser, Subcommand};
use clap_complete::Shell;
use clap_complete::engine::ArgValueCompleter;

use crate::command::completions::{actions, families, recipes, sticks};

/// Turns raw input into character actions, and says what came of it.
#[derive(Debug, Parser)]
#[command(name = "tidy-lever", version, max_term_width = 100, arg_required_else_help = true)]
#[command(
    after_help = "Start here:  tidy-lever demo\nExit status: 0 done, 1 the answer is no (faults, expectation not met), 2 could not run"
)]
pub(crate) struct Arguments {
    #[command(subcommand)]
    pub(crate) command: Command,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Play shipped data and show what came of it
    Demo(Demo),
    /// Start a profile: a small one with comments
    New(New),
    /// List the names of controls
    Controls(Controls),
    /// Find what is wrong with a profile, and print its actions
    Check(Check),
    /// Play a tape through a profile and print what came of it
    Play(Play),
    /// Change a player's file: bindings laid over a profile
    Remap(Remap),
    /// Tell why a tape's attempts pulled or missed, and by how much
    Why(Why),
    /// Draw pictures of a profile or a tape, as SVG or PNG
    #[command(subcommand)]
    Draw(Draw),
    /// Print a completion script for a shell
    Completions(Completions),
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever demo steer-keys")]
pub(crate) struct Demo {
    /// A recipe to show; without one, a morning's round through the town
    #[arg(add = ArgValueCompleter::new(recipes))]
    pub(crate) recipe: Option<String>,
    /// List the recipes
    #[arg(long, conflicts_with = "recipe")]
    pub(crate) list: bool,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever new my-game.toml")]
pub(crate) struct New {
    /// The file to write; never one that exists. `-` prints it
    pub(crate) file: PathBuf,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever controls pad")]
pub(crate) struct Controls {
    /// Only this family: keys, mouse, pad or touch
    #[arg(add = ArgValueCompleter::new(families))]
    pub(crate) family: Option<String>,
    /// One JSON object a line
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever check profile.toml")]
pub(crate) struct Check {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// A player's file, laid over the profile
    #[arg(long, value_name = "FILE")]
    pub(crate) remap: Option<PathBuf>,
    /// Take warnings as faults
    #[arg(long)]
    pub(crate) strict: bool,
    /// The screen that a touch panel is judged on: a phone's, unless said otherwise
    #[arg(long, value_name = "WxH[@DPI]", value_parser = screen, default_value = "2340x1080@400")]
    pub(crate) screen: Screen,
    /// One JSON object a line
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, Args)]
#[command(
    after_help = "Examples:\n  tidy-lever play profile.toml tape.jsonl\n  tidy-lever play profile.toml tape.jsonl --json --sample 60 > out.jsonl\n  tidy-lever play profile.toml tape.jsonl --each hop --ticks 10"
)]
pub(crate) struct Play {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// The tape; `-` is standard input
    pub(crate) tape: PathBuf,
    /// A player's file, laid over the profile
    #[arg(long, value_name = "FILE")]
    pub(crate) remap: Option<PathBuf>,
    /// One JSON object a line, in order of time
    #[arg(long)]
    pub(crate) json: bool,
    /// Also what was pressed and released; as text, every line of the list
    #[arg(long)]
    pub(crate) all: bool,
    /// Also the values of sticks and axes, so often a second
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=100_000))]
    pub(crate) sample: Option<u32>,
    /// Cut time into so many ticks a second; what comes out stays the same
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=1_000_000))]
    pub(crate) ticks: Option<u32>,
    /// Compare with a file of lines as --json prints them; exit 1 if anything differs
    #[arg(long, value_name = "FILE")]
    pub(crate) expect: Option<PathBuf>,
    /// What an action reports on each tick (60 a second unless --ticks says otherwise)
    #[arg(long, value_name = "ACTION", conflicts_with_all = ["json", "expect"], add = ArgValueCompleter::new(actions))]
    pub(crate) each: Option<String>,
}

#[derive(Debug, Args)]
#[command(
    after_help = "Examples:\n  tidy-lever remap profile.toml player.toml --list\n  tidy-lever remap profile.toml player.toml --set hop.keys=KeyJ --clash swap\n  tidy-lever remap profile.toml player.toml --set steer.keys.up=KeyI,ArrowUp --reset toss"
)]
pub(crate) struct Remap {
    /// The profile
    pub(crate) profile: PathBuf,
    /// The player's file; made if it isn't there yet
    pub(crate) file: PathBuf,
    /// Bind a control, or several: ACTION.FAMILY=CONTROL,… or ACTION.FAMILY.LEG=…; nothing behind = unbinds
    #[arg(long, value_name = "TARGET=CONTROLS")]
    pub(crate) set: Vec<String>,
    /// Take an action's controls, or those of ACTION.FAMILY or ACTION.FAMILY.LEG, from the profile again
    #[arg(long, value_name = "ACTION", add = ArgValueCompleter::new(actions))]
    pub(crate) reset: Vec<String>,
    /// Take everything from the profile again
    #[arg(long)]
    pub(crate) reset_all: bool,
    /// What to do where another action hears the control in the same mode
    #[arg(long, value_enum, default_value_t = ClashWord::Refuse)]
    pub(crate) clash: ClashWord,
    /// Print the bindings as they are then
    #[arg(long)]
    pub(crate) list: bool,
}

/// The three answers to a conflict.
#[derive(Clone, Copy, Debug, clap::ValueEnum)]
pub(crate) enum ClashWord {
    /// Change nothing, tell who hears it, exit 1
    Refuse,
    /// The other action gets what this one had
    Swap,
    /// Both hear it
    Share,
}

#[derive(Debug, Args)]
#[command(
    after_help = "Examples:\n  tidy-lever why profile.toml tape.jsonl\n  tidy-lever why profile.toml tape.jsonl skim --missed-by 50ms\n  tidy-lever why profile.toml tape.jsonl --at 12.3s"
)]
pub(crate) struct Why {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// The tape; `-` is standard input
    pub(crate) tape: PathBuf,
    /// A player's file, laid over the profile
    #[arg(long, value_name = "FILE")]
    pub(crate) remap: Option<PathBuf>,
    /// Only this action, with all its attempts
    #[arg(add = ArgValueCompleter::new(actions))]
    pub(crate) action: Option<String>,
    /// Only near misses, by up to so much
    #[arg(long, value_name = "SPAN", value_parser = span)]
    pub(crate) missed_by: Option<Duration>,
    /// Only what was under way around this moment of the tape
    #[arg(long, value_name = "MOMENT", value_parser = span)]
    pub(crate) at: Option<Duration>,
    /// Every story, those that ended at their first step and those that pulled, too
    #[arg(long)]
    pub(crate) all: bool,
    /// One JSON object an attempt, in order of time
    #[arg(long)]
    pub(crate) json: bool,
}

/// A span or a moment, `50ms` or `12.3s`; 0 is one, too.
fn span(text: &str) -> Result<Duration, String> {
    tidy_lever::time::parse_span(text).map_err(|error| error.to_string())
}

#[derive(Debug, Subcommand)]
pub(crate) enum Draw {
    /// The response of a stick: its dead zone, edge, curve and directions
    Stick(DrawStick),
    /// The touch panel on a screen
    Panel(DrawPanel),
    /// A tape in lanes: controls, directions, facts, pulls, keeps, windows and near misses
    Timeline(DrawTimeline),
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever draw panel profile.toml --screen 2340x1080@400 -o panel.png")]
pub(crate) struct DrawPanel {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// The screen in pixels, and its dots an inch
    #[arg(long, value_name = "WxH[@DPI]", value_parser = screen, default_value = "1280x720@160")]
    pub(crate) screen: Screen,
    /// The picture to write, ending in .svg or .png
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: PathBuf,
}

/// A screen: its size in pixels and its dots an inch.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Screen {
    pub(crate) size: (u32, u32),
    pub(crate) dpi: f64,
}

/// `1280x720`, `2340x1080@400`.
fn screen(text: &str) -> Result<Screen, String> {
    let (size, dpi) = text.split_once('@').unwrap_or((text, "160"));
    let whole = |text: &str| text.trim().parse::<u32>().ok().filter(|n| (16..=32_768).contains(n));
    let dpi = dpi.trim().parse::<f64>().ok().filter(|dpi| (10.0..=2_000.0).contains(dpi));
    let parts = size.split_once('x').and_then(|(wide, high)| Some((whole(wide)?, whole(high)?)));
    match (parts, dpi) {
        (Some(size), Some(dpi)) => Ok(Screen { size, dpi }),
        _ => Err("a screen is its width and height in pixels, and its dots an inch, as in 2340x1080@400".into()),
    }
}

#[derive(Debug, Args)]
#[command(
    after_help = "Examples:\n  tidy-lever draw timeline profile.toml tape.jsonl -o tape.png\n  tidy-lever draw timeline profile.toml tape.jsonl --from 51s --to 54s --actions skim,toss -o miss.svg"
)]
pub(crate) struct DrawTimeline {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// The tape; `-` is standard input
    pub(crate) tape: PathBuf,
    /// The picture to write, ending in .svg or .png
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: PathBuf,
    /// From this moment of the tape on
    #[arg(long, value_name = "MOMENT", value_parser = span)]
    pub(crate) from: Option<Duration>,
    /// Up to this moment
    #[arg(long, value_name = "MOMENT", value_parser = span)]
    pub(crate) to: Option<Duration>,
    /// Only these actions
    #[arg(long, value_name = "NAMES", value_delimiter = ',', add = ArgValueCompleter::new(actions))]
    pub(crate) actions: Vec<String>,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever draw stick profile.toml steer --tape tape.jsonl -o steer.png")]
pub(crate) struct DrawStick {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// The stick
    #[arg(add = ArgValueCompleter::new(sticks))]
    pub(crate) action: String,
    /// The picture to write, ending in .svg or .png
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: PathBuf,
    /// Draw this tape's samples as dots
    #[arg(long, value_name = "FILE")]
    pub(crate) tape: Option<PathBuf>,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever completions bash > ~/.local/share/bash-completion/completions/tidy-lever")]
pub(crate) struct Completions {
    /// Which shell
    pub(crate) shell: Shell,
}
