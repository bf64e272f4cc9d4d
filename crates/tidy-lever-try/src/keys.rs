//! The tool's own keys: function keys that the profile leaves unbound.

#[cfg(feature = "window")]
use std::collections::HashSet;

use tidy_lever::Control;
#[cfg(feature = "window")]
use tidy_lever::Linkage;

/// What a key of the tool does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Tool {
    /// Freezes the lanes, and lets them run again.
    Freeze,
    /// Takes the last move of a number back.
    Undo,
    /// Saves the moved numbers into the profile's file.
    Save,
    /// Saves the last seconds as a tape.
    Keep,
    /// Marks on the tape that the chosen action is meant here.
    Meant,
    /// Writes the answers to a file beside the profile.
    Answers,
    /// Captures the pointer, and frees it.
    Pointer,
}

impl Tool {
    /// All of them, in the order in which keys are chosen.
    pub const ALL: [Tool; 7] =
        [Tool::Freeze, Tool::Undo, Tool::Save, Tool::Keep, Tool::Meant, Tool::Answers, Tool::Pointer];

    /// Its name in `--tool-key`.
    pub const fn name(self) -> &'static str {
        match self {
            Tool::Freeze => "freeze",
            Tool::Undo => "undo",
            Tool::Save => "save",
            Tool::Keep => "keep",
            Tool::Meant => "meant",
            Tool::Answers => "answers",
            Tool::Pointer => "pointer",
        }
    }
}

/// A tool and the key that it gets: `freeze=F9`.
///
/// ```
/// use tidy_lever_try::{Tool, ToolKey};
///
/// let key: ToolKey = "freeze=F9".parse()?;
/// assert_eq!(key.tool, Tool::Freeze);
/// assert!("freze=F9".parse::<ToolKey>().unwrap_err().ends_with("did you mean `freeze`?"));
/// # Ok::<(), String>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ToolKey {
    /// The tool.
    pub tool: Tool,
    /// Its key.
    pub key: Control,
}

impl std::str::FromStr for ToolKey {
    type Err = String;

    fn from_str(text: &str) -> Result<ToolKey, String> {
        let (tool, key) = text.split_once('=').ok_or("a tool's key is a tool and a key: freeze=F9")?;
        let (tool, key) = (tool.trim(), key.trim());
        let known = || Tool::ALL.into_iter().map(Tool::name);
        let found = Tool::ALL.into_iter().find(|known| known.name() == tool).ok_or_else(|| {
            let near = tidy_lever::profile::nearest(tool, known());
            let all: Vec<&str> = known().collect();
            let near = near.map_or(String::new(), |near| format!("; did you mean `{near}`?"));
            format!("no tool is called `{tool}`; they are {}{near}", all.join(", "))
        })?;
        let key = format!("keys:{key}").parse::<Control>().map_err(|error| error.to_string())?;
        Ok(ToolKey { tool: found, key })
    }
}

/// Which key each tool has in a profile; none, where the profile uses all function keys.
#[cfg(feature = "window")]
pub(crate) fn chosen(linkage: &Linkage, asked: &[ToolKey]) -> Vec<(Tool, Option<Control>)> {
    let bound: HashSet<Control> =
        linkage.actions().flat_map(|action| action.controls()).map(|view| view.control).collect();
    let is_free = |key: &Control| !bound.contains(key) && !asked.iter().any(|asked| asked.key == *key);
    let function = |number: u32| format!("keys:F{number}").parse::<Control>().ok();
    let mut free = (1..=12).filter_map(function).filter(is_free);
    let mut key =
        |tool: Tool| asked.iter().find(|asked| asked.tool == tool).map(|asked| asked.key).or_else(|| free.next());
    Tool::ALL.into_iter().map(|tool| (tool, key(tool))).collect()
}

#[cfg(all(test, feature = "window"))]
mod tests {
    use super::*;
    use tidy_lever::Profile;

    #[test]
    fn tools_take_the_function_keys_that_are_left() {
        let keys = |text: &str, asked: &[&str]| -> Vec<String> {
            let text = format!("tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = {text}\n");
            let linkage = Profile::from_toml(&text).and_then(|profile| Linkage::build(&profile));
            let asked: Vec<ToolKey> = asked.iter().filter_map(|text| text.parse().ok()).collect();
            let chosen = linkage.map(|linkage| chosen(&linkage, &asked)).unwrap_or_default();
            chosen.into_iter().map(|(_, key)| key.map_or("-".into(), |key| key.name().to_string())).collect()
        };
        let all: Vec<String> = (1..=12).map(|number| format!("\"F{number}\"")).collect();
        assert_eq!(keys("\"Space\"", &[]), ["F1", "F2", "F3", "F4", "F5", "F6", "F7"]);
        assert_eq!(keys("[\"F1\", \"F3\"]", &["save=F2"]), ["F4", "F5", "F2", "F6", "F7", "F8", "F9"]);
        assert_eq!(keys(&format!("[{}]", all.join(", ")), &["undo=KeyU"]), ["-", "KeyU", "-", "-", "-", "-", "-"]);
    }
}
