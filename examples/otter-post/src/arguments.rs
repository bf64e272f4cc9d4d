//! What the command takes.

use std::path::PathBuf;

use clap::Parser;

/// Otter Post: Pim carries the post. A small game that plays on Tidy Lever.
///
/// What happens goes to standard output, one JSON object a line.
#[derive(Debug, Parser)]
#[command(name = "otter-post", version, args_override_self = true)]
pub(crate) struct Arguments {
    /// The profile to play on; watched, and taken over whenever it is saved [default: demo/otter-post.toml, or the one
    /// inside the game]
    #[arg(long, value_name = "FILE")]
    pub(crate) profile: Option<PathBuf>,

    /// Your own file, with keys and access as changed in the menu [default: otter-post/player.toml among your settings]
    #[arg(long, value_name = "FILE")]
    pub(crate) player: Option<PathBuf>,

    /// Play a tape instead of hands
    #[arg(long, value_name = "FILE")]
    pub(crate) tape: Option<PathBuf>,

    /// Record what hands do, and what the game tells, as a tape
    #[arg(long, value_name = "FILE")]
    pub(crate) record: Option<PathBuf>,

    /// Plug in a simulated pad that plays this script, a tape of pad lines
    #[arg(long, value_name = "FILE")]
    pub(crate) pad: Option<PathBuf>,

    /// Pads move a second otter; else the first pad moves Pim, and another one joins by pressing start
    #[arg(long)]
    pub(crate) two: bool,

    /// Play so many pictures, 60 a second, with no window at all, and end
    #[arg(long, value_name = "N", requires = "shot")]
    pub(crate) frames: Option<u32>,

    /// Where the last of these pictures goes, as PNG
    #[arg(long, value_name = "FILE", requires = "frames")]
    pub(crate) shot: Option<PathBuf>,

    /// The picture's, or the window's, size in pixels
    #[arg(long, value_name = "WxH", default_value = "1280x800", value_parser = size)]
    pub(crate) size: (u32, u32),

    /// Begin with the input view shown; Tab shows and hides it
    #[arg(long)]
    pub(crate) inputs: bool,

    /// Say nothing on standard output
    #[arg(long)]
    pub(crate) quiet: bool,
}

/// A size, within what a picture can be.
fn size(text: &str) -> Result<(u32, u32), String> {
    let (width, height) = text.split_once('x').ok_or("expected a width and a height, as in 1280x800")?;
    let side = |text: &str| text.trim().parse::<u32>().ok().filter(|side| (160..=8192).contains(side));
    side(width).zip(side(height)).ok_or_else(|| "a side has 160 to 8192 pixels, as in 1280x800".into())
}
