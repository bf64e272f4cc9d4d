//! The command line's shape: commands, options, help.

use std::path::PathBuf;
use std::time::Duration;

use clap::{Args, Parser, Subcommand};
use clap_complete::Shell;
use clap_complete::engine::ArgValueCompleter;

use crate::completers::{actions, families, recipes, sticks, tapes_and_actions};

/// Turn raw input into character actions, and show what happened.
#[derive(Debug, Parser)]
#[command(name = "tidy-lever", version, max_term_width = 100, arg_required_else_help = true)]
#[command(after_help = "Start here:  tidy-lever demo\nExit status: 0 done, 1 a check failed, 2 could not run")]
pub(crate) struct Arguments {
    #[command(subcommand)]
    pub(crate) command: Command,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Play the shipped demo, or a recipe, and show what happened
    Demo(Demo),
    /// Write a small commented profile to start from
    New(New),
    /// List the names of controls
    Controls(Controls),
    /// Find mistakes in a profile, and print its actions
    Check(Check),
    /// Play a tape (recorded input) through a profile and print what happened
    Play(Play),
    /// Change a player's file (key bindings and settings over a profile)
    Remap(Remap),
    /// Explain why each attempt on a tape succeeded or missed, and by how much
    Why(Why),
    /// Draw pictures of a profile or a tape, as SVG or PNG
    #[command(subcommand)]
    Draw(Draw),
    /// Open a window on a profile: play it, see what happens, move its numbers, record
    Try(tidy_lever_try::Options),
    /// Let model hands play a profile, and count how many of their attempts it finds
    Rehearse(Rehearse),
    /// Find the best values of an action's numbers from tapes of real players
    Tune(Tune),
    /// Show on one page who will manage a profile's actions, and what players' tapes say
    Report(Report),
    /// Print a completion script for a shell
    Completions(Completions),
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever demo steer-keys")]
pub(crate) struct Demo {
    /// The recipe to show; without one, the main demo plays
    #[arg(add = ArgValueCompleter::new(recipes))]
    pub(crate) recipe: Option<String>,
    /// List the recipes
    #[arg(long, conflicts_with = "recipe")]
    pub(crate) list: bool,
}

#[derive(Debug, Args)]
#[command(after_help = "Examples:\n  tidy-lever new my-game.toml\n  tidy-lever new --for side-view my-game.toml")]
pub(crate) struct New {
    /// The file to write; an existing file is never overwritten. `-` prints the profile instead
    pub(crate) file: PathBuf,
    /// Start from a profile for this kind of game, with a tape beside it that plays at once
    #[arg(long = "for", value_enum, value_name = "KIND")]
    pub(crate) template: Option<Template>,
}

/// What a new profile is for.
#[derive(Clone, Copy, Debug, clap::ValueEnum)]
pub(crate) enum Template {
    /// Seen from the side: walk, jump with a buffer and coyote time, dash, throw
    SideView,
    /// Seen from above: walk, look around, tap or hold, a menu
    FromAbove,
    /// A duel: motions, chords, and who wins
    Duel,
    /// A touch screen: two thumbs, and keys beside them
    TouchScreen,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever controls pad")]
pub(crate) struct Controls {
    /// Show only this family: keys, mouse, pad or touch
    #[arg(add = ArgValueCompleter::new(families))]
    pub(crate) family: Option<String>,
    /// Print one JSON object per line
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever check profile.toml")]
pub(crate) struct Check {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// A player's file to apply over the profile
    #[arg(long, value_name = "FILE")]
    pub(crate) remap: Option<PathBuf>,
    /// Say what this tape tells of its devices: bounces, resting places, reach. The profile's actions are not listed then
    #[arg(long, value_name = "TAPE", conflicts_with = "numbers")]
    pub(crate) tape: Option<PathBuf>,
    /// Treat warnings as faults
    #[arg(long)]
    pub(crate) strict: bool,
    /// The screen to check a touch panel on; the default is a phone
    #[arg(long, value_name = "WxH[@DPI]", value_parser = screen, default_value = "2340x1080@400")]
    pub(crate) screen: Screen,
    /// List every number of the profile with its path, range, default and place, instead of the actions
    #[arg(long)]
    pub(crate) numbers: bool,
    /// Print one JSON object per line
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
    /// One or more tapes; `-` is standard input. They are played in parallel; the output keeps their order
    #[arg(value_name = "TAPE", required = true)]
    pub(crate) tapes: Vec<PathBuf>,
    /// A player's file to apply over the profile
    #[arg(long, value_name = "FILE")]
    pub(crate) remap: Option<PathBuf>,
    /// Print one JSON object per line, in order of time
    #[arg(long)]
    pub(crate) json: bool,
    /// Show presses and releases as well; in text, show the whole list
    #[arg(long)]
    pub(crate) all: bool,
    /// Add the values of sticks and axes, N times a second
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=100_000))]
    pub(crate) sample: Option<u32>,
    /// With --sample: only the values of these actions
    #[arg(long, value_name = "ACTION", requires = "sample", value_delimiter = ',', add = ArgValueCompleter::new(actions))]
    pub(crate) of: Vec<String>,
    /// Run N ticks per second; the output is the same at any N
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=1_000_000))]
    pub(crate) ticks: Option<u32>,
    /// Compare with a file that --json printed earlier; exit 1 if anything differs
    #[arg(long, value_name = "FILE")]
    pub(crate) expect: Option<PathBuf>,
    /// Show what an action reports on each tick; 60 ticks per second unless --ticks is given
    #[arg(long, value_name = "ACTION", conflicts_with_all = ["json", "expect"], add = ArgValueCompleter::new(actions))]
    pub(crate) each: Option<String>,
    /// Play at most N tapes at a time [default: the number of cores]
    #[arg(long, value_name = "N", value_parser = jobs)]
    pub(crate) jobs: Option<usize>,
}

/// How much is done at once.
fn jobs(text: &str) -> Result<usize, String> {
    text.parse().ok().filter(|jobs| (1..=1_024).contains(jobs)).ok_or("write a number from 1 to 1024".into())
}

#[derive(Debug, Args)]
#[command(
    after_help = "Examples:\n  tidy-lever remap profile.toml player.toml --list\n  tidy-lever remap profile.toml player.toml --set hop.keys=KeyJ --clash swap\n  tidy-lever remap profile.toml player.toml --set steer.keys.up=KeyI,ArrowUp --reset toss"
)]
pub(crate) struct Remap {
    /// The profile
    pub(crate) profile: PathBuf,
    /// The player's file; it is created if it does not exist
    pub(crate) file: PathBuf,
    /// Bind one or more controls: ACTION.FAMILY=CONTROL,… or ACTION.FAMILY.LEG=…; nothing after = unbinds
    #[arg(long, value_name = "TARGET=CONTROLS")]
    pub(crate) set: Vec<String>,
    /// Reset ACTION, ACTION.FAMILY or ACTION.FAMILY.LEG to the profile's controls
    #[arg(long, value_name = "ACTION", add = ArgValueCompleter::new(actions))]
    pub(crate) reset: Vec<String>,
    /// Reset everything to the profile
    #[arg(long)]
    pub(crate) reset_all: bool,
    /// What to do when another action already uses the control in the same mode
    #[arg(long, value_enum, default_value_t = ClashWord::Refuse)]
    pub(crate) clash: ClashWord,
    /// Print all bindings after the change
    #[arg(long)]
    pub(crate) list: bool,
}

/// The three answers to a conflict.
#[derive(Clone, Copy, Debug, clap::ValueEnum)]
pub(crate) enum ClashWord {
    /// Change nothing, name the other action, exit 1
    Refuse,
    /// Give the other action the old control of this one
    Swap,
    /// Let both actions use it
    Share,
}

#[derive(Debug, Args)]
#[command(
    after_help = "Examples:\n  tidy-lever why profile.toml tape.jsonl\n  tidy-lever why profile.toml tape.jsonl skim --missed-by 50ms\n  tidy-lever why profile.toml tape.jsonl --at 12.3s"
)]
pub(crate) struct Why {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// One or more tapes (`-` is standard input), then optionally an action. Tapes are played in parallel; the output keeps their
    /// order. With an action only its attempts are shown, all of them
    #[arg(value_name = "TAPE [ACTION]", required = true, add = ArgValueCompleter::new(tapes_and_actions))]
    pub(crate) words: Vec<PathBuf>,
    /// A player's file to apply over the profile
    #[arg(long, value_name = "FILE")]
    pub(crate) remap: Option<PathBuf>,
    /// Show only near misses, by at most this span (50ms)
    #[arg(long, value_name = "SPAN", value_parser = span)]
    pub(crate) missed_by: Option<Duration>,
    /// Show only what happened within 250 ms of this moment (12.3s)
    #[arg(long, value_name = "MOMENT", value_parser = moment)]
    pub(crate) at: Option<Duration>,
    /// Show every attempt, including pulls and attempts that look unintended
    #[arg(long)]
    pub(crate) all: bool,
    /// Print one JSON object per attempt, in order of time
    #[arg(long)]
    pub(crate) json: bool,
    /// Play at most N tapes at a time [default: the number of cores]
    #[arg(long, value_name = "N", value_parser = jobs)]
    pub(crate) jobs: Option<usize>,
}

/// A moment of a tape, `12.3s`; a number alone is in seconds, as commands print them.
fn moment(text: &str) -> Result<Duration, String> {
    match text.parse::<f64>() {
        Ok(seconds) => Duration::try_from_secs_f64(seconds).map_err(|_| "a moment is 0 s or later".to_owned()),
        Err(_) => span(text),
    }
}

/// A span, `50ms` or `0.2s`; 0 is one, too.
fn span(text: &str) -> Result<Duration, String> {
    tidy_lever::time::parse_span(text).map_err(|error| error.to_string())
}

#[derive(Debug, Subcommand)]
pub(crate) enum Draw {
    /// Draw the response of a stick: its dead zone, edge, curve and directions
    Stick(DrawStick),
    /// Draw the touch panel on a screen
    Panel(DrawPanel),
    /// Draw a tape in lanes: controls, directions, facts, pulls, buffers, windows and near misses
    Timeline(DrawTimeline),
    /// Draw how many attempts of model hands are found, over a range of one number
    Rehearsal(DrawRehearsal),
    /// Draw all time limits, tolerances and buffers of a profile on one time line
    Spans(DrawSpans),
}

/// The picture that is drawn.
#[derive(Debug, Args)]
pub(crate) struct Picture {
    /// The picture to write, ending in .svg or .png
    #[arg(short, long, value_name = "FILE", value_parser = picture)]
    pub(crate) output: PathBuf,
    /// Replace the picture if it exists
    #[arg(long)]
    pub(crate) replace: bool,
}

/// A file whose name says which kind of picture it is.
fn picture(text: &str) -> Result<PathBuf, String> {
    let path = PathBuf::from(text);
    match path.extension().and_then(|ending| ending.to_str()) {
        Some("svg" | "png") => Ok(path),
        _ => Err("the name must end in .svg or .png".into()),
    }
}

/// Who rehearses, how often, and in which world.
#[derive(Clone, Debug, Args)]
pub(crate) struct Company {
    /// A hand: practised, average, clumsy, or a file (TOML). Repeatable; all three without it
    #[arg(long = "skill", value_name = "HAND")]
    pub(crate) skills: Vec<String>,
    /// What the hands play on: new, worn-keys, worn-stick, cheap-dpad or wireless
    #[arg(long, value_name = "DEVICE", default_value = "new", value_parser = worn)]
    pub(crate) device: tidy_lever_hands::Wear,
    /// How often each hand performs each action
    #[arg(long, value_name = "N", default_value_t = 1_000, value_parser = clap::value_parser!(u32).range(1..=1_000_000))]
    pub(crate) count: u32,
    /// The same seed gives the same trials
    #[arg(long, value_name = "N", default_value_t = 1)]
    pub(crate) seed: u64,
    /// What the game would answer to a pull: `hop: grounded = false for 520ms`. Repeatable; without any,
    /// PROFILE.answers.toml beside the profile is read
    #[arg(long = "answer", value_name = "ANSWER")]
    pub(crate) answers: Vec<tidy_lever_tuning::Answer>,
}

#[derive(Debug, Args)]
#[command(
    after_help = "Examples:\n  tidy-lever rehearse profile.toml\n  tidy-lever rehearse profile.toml skim dash\n  tidy-lever rehearse profile.toml --vary dash.within=150ms..400ms\n  tidy-lever rehearse profile.toml skim --skill average --tape skim.jsonl"
)]
pub(crate) struct Rehearse {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// Only these actions, with all details; the others are still played, for false pulls
    #[arg(value_name = "ACTION", add = ArgValueCompleter::new(actions))]
    pub(crate) actions: Vec<String>,
    #[command(flatten)]
    pub(crate) company: Company,
    /// Rehearse over a range of one number: dash.within=150ms..400ms. `check --numbers` lists all numbers. Shows the named
    /// actions, or the one whose number it is
    #[arg(long, value_name = "NUMBER=FROM..TO")]
    pub(crate) vary: Option<String>,
    /// With --vary: at how many values
    #[arg(long, value_name = "N", default_value_t = 11, value_parser = clap::value_parser!(u32).range(2..=200))]
    pub(crate) steps: u32,
    /// Write the trials of one action and one hand to this tape, for `play`, `why` and `draw timeline`
    #[arg(long, value_name = "TAPE", conflicts_with = "vary")]
    pub(crate) tape: Option<PathBuf>,
    /// With --tape: replace the tape if it exists
    #[arg(long, requires = "tape")]
    pub(crate) replace: bool,
    /// Print one JSON object per line
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever draw rehearsal profile.toml --vary dash.within=150ms..400ms -o dash.png")]
pub(crate) struct DrawRehearsal {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// The number and its range: dash.within=150ms..400ms
    #[arg(long, value_name = "NUMBER=FROM..TO")]
    pub(crate) vary: String,
    /// At how many values
    #[arg(long, value_name = "N", default_value_t = 21, value_parser = clap::value_parser!(u32).range(2..=200))]
    pub(crate) steps: u32,
    #[command(flatten)]
    pub(crate) company: Company,
    #[command(flatten)]
    pub(crate) output: Picture,
}

#[derive(Debug, Args)]
#[command(
    after_help = "Examples:\n  tidy-lever report profile.toml -o report.html\n  tidy-lever report profile.toml ana.jsonl ben.jsonl -o report.html --count 300"
)]
pub(crate) struct Report {
    /// The profile
    pub(crate) profile: PathBuf,
    /// Tapes of players: their near misses, their devices, and the best values of each number
    #[arg(value_name = "TAPE")]
    pub(crate) tapes: Vec<PathBuf>,
    /// Write the page to this file
    #[arg(short, long, value_name = "FILE.html", value_parser = html)]
    pub(crate) output: PathBuf,
    /// Replace the page if it exists
    #[arg(long)]
    pub(crate) replace: bool,
    #[command(flatten)]
    pub(crate) company: Company,
}

/// A file whose name says that it is a page.
fn html(text: &str) -> Result<PathBuf, String> {
    let path = PathBuf::from(text);
    let is_page = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("html"));
    is_page.then_some(path).ok_or_else(|| "the name must end in .html".into())
}

#[derive(Debug, Args)]
#[command(
    after_help = "Examples:\n  tidy-lever tune profile.toml ana.jsonl ben.jsonl\n  tidy-lever tune profile.toml *.jsonl --action skim --write"
)]
pub(crate) struct Tune {
    /// The profile
    pub(crate) profile: PathBuf,
    /// Tapes of players, as `try --record` and games write them
    #[arg(value_name = "TAPE", required = true)]
    pub(crate) tapes: Vec<PathBuf>,
    /// Only this action
    #[arg(long, value_name = "ACTION", add = ArgValueCompleter::new(actions))]
    pub(crate) action: Option<String>,
    /// Count attempts that failed and were repeated at once as meant, too
    #[arg(long)]
    pub(crate) probably: bool,
    /// What the game would answer to a pull: the world is simulated with it instead of the tapes' own facts. Repeatable; without
    /// any, PROFILE.answers.toml beside the profile is read
    #[arg(long = "answer", value_name = "ANSWER")]
    pub(crate) answers: Vec<tidy_lever_tuning::Answer>,
    /// Save the advised values in the profile; nothing else of it changes
    #[arg(long)]
    pub(crate) write: bool,
    /// Use at most N cores [default: all]
    #[arg(long, value_name = "N", value_parser = jobs)]
    pub(crate) jobs: Option<usize>,
    /// Print one JSON object per line
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever draw spans profile.toml --actions hop,skim -o spans.png")]
pub(crate) struct DrawSpans {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// Draw only the spans of these actions
    #[arg(long, value_name = "NAMES", value_delimiter = ',', add = ArgValueCompleter::new(actions))]
    pub(crate) actions: Vec<String>,
    #[command(flatten)]
    pub(crate) output: Picture,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever draw panel profile.toml --screen 2340x1080@400 -o panel.png")]
pub(crate) struct DrawPanel {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// The screen: width and height in pixels, and dots per inch
    #[arg(long, value_name = "WxH[@DPI]", value_parser = screen, default_value = "2340x1080@400")]
    pub(crate) screen: Screen,
    #[command(flatten)]
    pub(crate) output: Picture,
}

/// A screen: its size in pixels and its dots per inch.
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
        _ => Err("a screen is a width and height in pixels, and dots per inch: 2340x1080@400".into()),
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
    #[command(flatten)]
    pub(crate) output: Picture,
    /// Start at this moment of the tape (51s)
    #[arg(long, value_name = "MOMENT", value_parser = moment)]
    pub(crate) from: Option<Duration>,
    /// End at this moment
    #[arg(long, value_name = "MOMENT", value_parser = moment)]
    pub(crate) to: Option<Duration>,
    /// Draw only these actions
    #[arg(long, value_name = "NAMES", value_delimiter = ',', add = ArgValueCompleter::new(actions))]
    pub(crate) actions: Vec<String>,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever draw stick profile.toml steer --tape tape.jsonl -o steer.png")]
pub(crate) struct DrawStick {
    /// The profile; `-` is standard input
    pub(crate) profile: PathBuf,
    /// The name of the stick
    #[arg(add = ArgValueCompleter::new(sticks))]
    pub(crate) action: String,
    #[command(flatten)]
    pub(crate) output: Picture,
    /// Draw this tape's samples as dots
    #[arg(long, value_name = "FILE")]
    pub(crate) tape: Option<PathBuf>,
}

#[derive(Debug, Args)]
#[command(after_help = "Example:  tidy-lever completions bash > ~/.local/share/bash-completion/completions/tidy-lever")]
pub(crate) struct Completions {
    /// The shell
    pub(crate) shell: Shell,
}

/// What hands play on, by its name.
fn worn(name: &str) -> Result<tidy_lever_hands::Wear, String> {
    let names = tidy_lever_hands::Wear::ALL.map(tidy_lever_hands::Wear::name);
    tidy_lever_hands::Wear::named(name).ok_or_else(|| {
        let near = tidy_lever::profile::nearest(name, names.iter().copied());
        let near = near.map_or(String::new(), |near| format!("; did you mean `{near}`?"));
        format!("no device of that name; they are {}{near}", names.join(", "))
    })
}
