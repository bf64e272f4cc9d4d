//! Colours by meaning. They reach terminals only; `anstream` takes them out elsewhere.

use anstyle::{AnsiColor, Reset, Style};

pub(crate) const BAD: Style = AnsiColor::Red.on_default().bold();
pub(crate) const WARN: Style = AnsiColor::Yellow.on_default();
pub(crate) const GOOD: Style = AnsiColor::Green.on_default();
pub(crate) const NAME: Style = AnsiColor::Cyan.on_default();
pub(crate) const HEAD: Style = Style::new().bold();
pub(crate) const FAINT: Style = Style::new().dimmed();
pub(crate) const PLAIN: Reset = Reset;

/// A text in a style.
pub(crate) fn in_style(style: Style, text: impl std::fmt::Display) -> String {
    format!("{style}{text}{style:#}")
}
