//! What `try` is asked to do: the command line of both programs that know it.

use std::path::PathBuf;

use clap::Args;
use tidy_lever_tuning::Answer;

use crate::keys::ToolKey;

/// What `try` is asked to do.
#[derive(Clone, Debug, Args)]
#[command(
    after_help = "Examples:\n  tidy-lever try profile.toml\n  tidy-lever try profile.toml --answer 'hop: grounded = false for 520ms' --record round.jsonl\n  tidy-lever try profile.toml --tape round.jsonl --frames 600 --shot picture.png"
)]
pub struct Options {
    /// The profile; it is watched, and taken over whenever it is saved
    pub profile: PathBuf,
    /// A player's file to apply over the profile
    #[arg(long, value_name = "FILE")]
    pub remap: Option<PathBuf>,
    /// Record a tape of all that is done, with the profile beside it
    #[arg(long, value_name = "TAPE")]
    pub record: Option<PathBuf>,
    /// Play a tape (recorded input) instead of real devices
    #[arg(long, value_name = "TAPE")]
    pub tape: Option<PathBuf>,
    /// Plug in a simulated pad that plays this script (a tape of pad lines)
    #[arg(long, value_name = "SCRIPT")]
    pub pad: Option<PathBuf>,
    /// How many may play. The first has keys, mouse and the first pad; other pads join by pressing start
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u8).range(1..=8))]
    pub seats: u8,
    /// What the game would answer to a pull: `hop: grounded = false for 520ms`, `… after 40ms`. Repeatable; without any,
    /// PROFILE.answers.toml beside the profile is read
    #[arg(long = "answer", value_name = "ANSWER")]
    pub answers: Vec<Answer>,
    /// Give a tool another key than the first free function key: freeze=F9. The tools are freeze, undo, save, keep, meant,
    /// answers and pointer
    #[arg(long = "tool-key", value_name = "TOOL=KEY")]
    pub tool_keys: Vec<ToolKey>,
    /// Print what happens as it happens, one JSON object per line, as `play --json` does
    #[arg(long)]
    pub json: bool,
    /// Play N frames, 60 per second, without a window, then exit
    #[arg(long, value_name = "N", requires = "shot")]
    pub frames: Option<u32>,
    /// Write the last of these frames to this PNG file
    #[arg(long, value_name = "FILE", requires = "frames", value_parser = shot)]
    pub shot: Option<PathBuf>,
    /// Replace the files of --record and --shot if they exist
    #[arg(long)]
    pub replace: bool,
    /// The size of the window or the picture, in pixels; the window is larger on a screen that the system scales
    #[arg(long, value_name = "WxH", default_value = "1280x800", value_parser = size)]
    pub size: (u32, u32),
    /// Draw letters and everything else this much larger, from 0.5 to 4
    #[arg(long, value_name = "FACTOR", default_value_t = 1.0, value_parser = scale)]
    pub scale: f32,
}

/// A picture of pixels.
fn shot(text: &str) -> Result<PathBuf, String> {
    let path = PathBuf::from(text);
    match path.extension().and_then(|ending| ending.to_str()) {
        Some("png") => Ok(path),
        _ => Err("the name must end in .png".into()),
    }
}

/// How much larger all is drawn.
fn scale(text: &str) -> Result<f32, String> {
    let factor = text.trim().parse::<f32>().ok().filter(|factor| (0.5..=4.0).contains(factor));
    factor.ok_or_else(|| "the factor must be from 0.5 to 4, as in 1.5".into())
}

/// A size, within what a window can be.
fn size(text: &str) -> Result<(u32, u32), String> {
    let sides = text.split_once('x').and_then(|(wide, high)| {
        let side = |text: &str| text.trim().parse::<u32>().ok().filter(|side| (320..=8192).contains(side));
        side(wide).zip(side(high))
    });
    sides.ok_or_else(|| "width and height must be from 320 to 8192 pixels, as in 1280x800".into())
}
