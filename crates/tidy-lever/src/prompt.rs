//! Prompts: what to tell a player to press, as a plain name and a stable id for the game's own icons.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;

use crate::control::{Control, Family, Part};
use crate::linkage::{ControlView, Linkage};
use crate::profile::Leg;

/// What to show for one control of an action.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Prompt {
    /// The control's full name, `keys:KeyW` or `pad:left-stick.up`. It never changes, so a game can look up a picture by it.
    pub id: String,
    /// The name for people: `W`, `left stick up`.
    pub text: String,
    /// The leg of a cross that it stands on.
    pub leg: Option<Leg>,
}

/// What is printed on the keys of this player's keyboard, as far as the adapter knows. A key without a label is named
/// after its position.
///
/// ```
/// use tidy_lever::prompt::Labels;
/// use tidy_lever::{Family, Linkage, Profile};
///
/// let profile = Profile::from_toml("tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = [\"KeyW\", \"ShiftLeft\"]\n")?;
/// let linkage = Linkage::build(&profile)?;
/// let mut labels = Labels::default();
/// labels.set("keys:KeyW".parse()?, "Z");
/// let texts: Vec<String> =
///     linkage.prompts("hop", Family::Keys, &labels).into_iter().map(|prompt| prompt.text).collect();
/// assert_eq!(texts, ["Z", "left shift"]);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Labels(Vec<(Control, String)>);

impl Labels {
    /// Sets what is printed on a key; an empty text removes it.
    pub fn set(&mut self, key: Control, label: &str) {
        self.0.retain(|(known, _)| *known != key);
        if !label.trim().is_empty() {
            self.0.push((key, label.trim().to_owned()));
        }
    }

    /// What is printed on a key.
    pub fn get(&self, key: Control) -> Option<&str> {
        self.0.iter().find(|(known, _)| *known == key).map(|(_, label)| label.as_str())
    }

    fn text(&self, view: &ControlView) -> String {
        let name = self.get(view.control).map_or_else(|| plain(view), str::to_owned);
        match view.part {
            Part::Whole => name,
            Part::X => format!("{name} across"),
            Part::Y => format!("{name} up and down"),
            half => format!("{name} {}", half.name()),
        }
    }
}

/// A control's name for people, by its place on the device and no maker's signs.
fn plain(view: &ControlView) -> String {
    let full = view.name.split_once(':').map_or(view.name.as_str(), |(_, name)| name);
    let name = full.split('.').next().unwrap_or_default();
    match view.control.family() {
        Family::Keys => key(name),
        Family::Mouse => match name {
            "move" => "mouse".into(),
            "place" => "pointer".into(),
            "wheel-up" | "wheel-down" | "wheel-left" | "wheel-right" => name.replace('-', " "),
            _ => format!("{name} mouse button"),
        },
        Family::Pad => match name {
            "south" | "east" | "west" | "north" => format!("{name} button"),
            "left-thumb" => "left stick pressed in".into(),
            "right-thumb" => "right stick pressed in".into(),
            "dpad" => "directional pad".into(),
            _ => name.replace('-', " "),
        },
        Family::Touch if view.control == Control::TOUCH_PLACE => "screen".into(),
        Family::Touch => name.replace(['-', '_'], " "),
    }
}

/// A key by its position's name: `KeyW` is W, `ArrowUp` the up arrow, `ShiftLeft` the left shift.
fn key(code: &str) -> String {
    let letter = code.strip_prefix("Key").or(code.strip_prefix("Digit")).filter(|rest| rest.len() == 1);
    if let Some(letter) = letter {
        return letter.to_owned();
    }
    if let Some(way) = code.strip_prefix("Arrow") {
        return format!("{} arrow", way.to_lowercase());
    }
    let (code, pad) = code.strip_prefix("Numpad").map_or((code, ""), |rest| (rest, "keypad "));
    // A side comes first; other words as they stand, apart.
    let side = ["Left", "Right"].into_iter().find(|side| code.ends_with(side) && code.len() > side.len());
    let (stem, side) = side
        .map_or((code, String::new()), |side| (&code[..code.len() - side.len()], format!("{} ", side.to_lowercase())));
    let mut words = String::new();
    for letter in stem.chars() {
        if letter.is_ascii_uppercase() && words.ends_with(|last: char| last.is_ascii_lowercase()) {
            words.push(' ');
        }
        words.push(letter);
    }
    let function = stem.starts_with('F') && stem[1..].parse::<u8>().is_ok();
    let words = if function { words } else { words.to_lowercase() };
    format!("{pad}{side}{words}")
}

impl Linkage {
    /// What to show for an action's controls of a family, in the order of the profile; empty if it has none.
    pub fn prompts(&self, action: &str, family: Family, labels: &Labels) -> Vec<Prompt> {
        let Some(action) = self.action(action) else { return Vec::new() };
        let own = action.controls().iter().filter(|view| view.control.family() == family);
        own.map(|view| Prompt { id: view.name.to_string(), text: labels.text(view), leg: view.leg }).collect()
    }
}
