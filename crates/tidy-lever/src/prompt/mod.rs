//! Prompts: what to tell a player to press, as a plain name and a stable id for the game's own icons.

mod names;
mod steps;

pub use steps::{PromptAct, PromptStep};

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;

use crate::control::{Bindable, Control, Family, Part};
use crate::linkage::{ControlView, Linkage};
use crate::profile::Leg;

/// What to show for one control of an action.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Prompt {
    /// The control's full name, `keys:KeyW` or `pad:left-stick.up`. It never changes, so a game can look up a picture by it.
    pub id: String,
    /// The name for people: `W`, `left stick up`.
    pub text: String,
    /// The leg of a cross that it stands on.
    pub leg: Option<Leg>,
}

impl Prompt {
    fn of(view: &ControlView, labels: &Labels) -> Prompt {
        let full = view.name.split_once(':').map_or(view.name.as_str(), |(_, name)| name);
        let name = full.split('.').next().unwrap_or_default();
        let bindable = Bindable { control: view.control, part: view.part };
        Prompt { id: view.name.to_string(), text: labels.text(bindable, name), leg: view.leg }
    }
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

    /// The plain name of a control, or of a part of it, that has this name within its family.
    fn text(&self, Bindable { control, part }: Bindable, name: &str) -> String {
        let name = self.get(control).map_or_else(|| names::plain(control, name), str::to_owned);
        match part {
            Part::Whole => name,
            Part::X => format!("{name} across"),
            Part::Y => format!("{name} up and down"),
            half => format!("{name} {}", half.name()),
        }
    }
}

impl Linkage {
    /// What to show for an action's controls of a family, in the order of the profile; empty if it has none.
    pub fn prompts(&self, action: &str, family: Family, labels: &Labels) -> Vec<Prompt> {
        let Some(action) = self.action(action) else { return Vec::new() };
        let own = action.controls().iter().filter(|view| view.control.family() == family);
        own.map(|view| Prompt::of(view, labels)).collect()
    }

    /// The plain name of one control or part of a control: what is printed on a key, else its position's name. For menus in
    /// which a player binds controls, and for conflicts.
    ///
    /// ```
    /// use tidy_lever::control::{Bindable, Part};
    /// use tidy_lever::prompt::Labels;
    /// use tidy_lever::{Control, Linkage, Profile};
    ///
    /// let linkage = Linkage::build(&Profile::new("Otter Post"))?;
    /// let mut labels = Labels::default();
    /// labels.set("keys:KeyW".parse()?, "Z");
    /// assert_eq!(linkage.label("keys:KeyW".parse::<Control>()?, &labels), "Z");
    /// assert_eq!(linkage.label(Control::PAD_SOUTH, &labels), "south button");
    /// assert_eq!(linkage.label(Bindable { control: Control::LEFT_STICK, part: Part::Up }, &labels), "left stick up");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn label(&self, control: impl Into<Bindable>, labels: &Labels) -> String {
        let bindable = control.into();
        let patch = bindable.control.patch_number().and_then(|number| self.0.inputs.patches.get(number)).cloned();
        let name = patch.unwrap_or_else(|| bindable.control.name().to_string());
        labels.text(bindable, &name)
    }
}
