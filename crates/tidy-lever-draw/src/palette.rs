//! Colours and sizes that all pictures share.

pub(crate) const PAPER: &str = "#ffffff";
pub(crate) const INK: &str = "#1b1f24";
pub(crate) const FAINT: &str = "#6a737d";
pub(crate) const GRID: &str = "#e3e6ea";

/// Okabe and Ito's colours, the strong ones first.
pub(crate) const SERIES: [&str; 5] = ["#0072b2", "#d55e00", "#009e73", "#cc79a7", "#56b4e9"];

/// What went wrong.
pub(crate) const BAD: &str = "#c0392b";

/// What shows where nothing happens, and where all does.
pub(crate) const DEAD: &str = "#e69f00";
pub(crate) const EDGE: &str = "#009e73";
/// The window of a cue.
pub(crate) const WINDOW: &str = "#7b5ea7";
/// Where the direction before is kept.
pub(crate) const KEPT: &str = "#56b4e9";
