//! What the command takes.

use std::path::PathBuf;

use clap::Parser;

/// Otter Post: Pim carries the post. A small game that plays on Tidy Lever.
///
/// Prints what happens to standard output, one JSON object per line.
#[derive(Debug, Parser)]
#[command(name = "otter-post", version, args_override_self = true)]
#[command(group(clap::ArgGroup::new("picture").multiple(true)))]
pub(crate) struct Arguments {
    /// The profile to use; the game reloads it whenever the file is saved [default: demo/otter-post.toml, or the one
    /// inside the game]
    #[arg(long, value_name = "FILE")]
    pub(crate) profile: Option<PathBuf>,

    /// The player's file, with the key bindings and settings from the menu [default: otter-post/player.toml in your
    /// settings folder]
    #[arg(long, value_name = "FILE")]
    pub(crate) player: Option<PathBuf>,

    /// Play a tape (recorded input) instead of real devices
    #[arg(long, value_name = "FILE")]
    pub(crate) tape: Option<PathBuf>,

    /// Record inputs and the game's facts as a tape
    #[arg(long, value_name = "FILE")]
    pub(crate) record: Option<PathBuf>,

    /// Plug in a simulated pad that plays this script (a tape of pad lines)
    #[arg(long, value_name = "FILE")]
    pub(crate) pad: Option<PathBuf>,

    /// Let the first pad move a second otter. Without it, the first pad moves Pim, and another pad joins by pressing start
    #[arg(long)]
    pub(crate) two: bool,

    /// Render N frames, 60 per second, without a window, then exit
    #[arg(long, value_name = "N", requires = "picture")]
    pub(crate) frames: Option<u32>,

    /// Write the last of these frames to this PNG file
    #[arg(long, value_name = "FILE", requires = "frames", group = "picture", value_parser = picture)]
    pub(crate) shot: Option<PathBuf>,

    /// Write these frames to this file as an animated PNG
    #[arg(long, value_name = "FILE", requires = "frames", group = "picture", value_parser = picture)]
    pub(crate) film: Option<PathBuf>,

    /// Replace the files of --record, --shot and --film if they exist
    #[arg(long)]
    pub(crate) replace: bool,

    /// With --film: leave the first N frames out
    #[arg(long, value_name = "N", default_value_t = 0)]
    pub(crate) film_from: u32,

    /// With --film: keep one frame of N
    #[arg(long, value_name = "N", default_value_t = 5, value_parser = clap::value_parser!(u16).range(1..=60))]
    pub(crate) film_every: u16,

    /// The size of the frames or the window, in pixels
    #[arg(long, value_name = "WxH", default_value = "1280x800", value_parser = size)]
    pub(crate) size: (u32, u32),

    /// Show the input view at the start; Tab shows and hides it
    #[arg(long)]
    pub(crate) inputs: bool,

    /// Show the device in use in a corner, and captions of what its presses did
    #[arg(long, conflicts_with = "inputs")]
    pub(crate) captions: bool,

    /// Print nothing to standard output
    #[arg(long)]
    pub(crate) quiet: bool,
}

/// A file whose name says that it is a picture.
fn picture(text: &str) -> Result<PathBuf, String> {
    let path = PathBuf::from(text);
    if path.extension().is_some_and(|ending| ending == "png") {
        Ok(path)
    } else {
        Err("the name must end in .png".into())
    }
}

/// A size, within what a picture can be.
fn size(text: &str) -> Result<(u32, u32), String> {
    let (width, height) = text.split_once('x').ok_or("expected a width and a height, as in 1280x800")?;
    let side = |text: &str| text.trim().parse::<u32>().ok().filter(|side| (160..=8192).contains(side));
    side(width)
        .zip(side(height))
        .ok_or_else(|| "width and height must be from 160 to 8192 pixels, as in 1280x800".into())
}
