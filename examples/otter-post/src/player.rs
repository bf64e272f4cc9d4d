//! The player's own file: keys that were changed in the menu, and access. Saved whole or not at all.

use tidy_lever::remap::Remap;

/// Where the player's file is kept.
pub(crate) trait Store: std::fmt::Debug {
    /// Shows what is kept, if it can be read, and writes what is to be there instead, if anything is. Nobody else writes it
    /// meanwhile.
    ///
    /// # Errors
    /// Says why it can't be written; it is as it was.
    fn change(&self, put: &mut dyn FnMut(Option<Remap>) -> Option<String>) -> Result<(), String>;
}

/// Reads the text of a player's file; the sentence names it.
pub(crate) fn parse(text: &str, name: &str) -> anyhow::Result<Remap> {
    Remap::from_toml(text).map_err(|faults| {
        let faults: Vec<String> = faults.iter().map(ToString::to_string).collect();
        anyhow::anyhow!("{name}: {}; mend it, or move it away", faults.join("; "))
    })
}
