//! The profile that comes with the game, and any other that it can play on.

use tidy_lever::remap::Remap;
use tidy_lever::{Linkage, Profile};
use tidy_lever_tuning::Broken;

use crate::hands::Hands;

/// The profile inside the game.
pub(crate) const SHIPPED: &str = include_str!("../../../demo/otter-post.toml");

/// A profile that the game can play on, with a player's file over it.
#[derive(Clone, Debug)]
pub(crate) struct Tuned {
    /// Its text.
    pub(crate) text: String,
    pub(crate) profile: Profile,
    pub(crate) linkage: Linkage,
    pub(crate) hands: Hands,
    /// What the player's file says without effect here.
    pub(crate) left_alone: Vec<String>,
}

impl Tuned {
    /// Builds what a text says, with a player's file over it.
    pub(crate) fn new(text: &str, remap: &Remap) -> Result<Tuned, Broken> {
        Tuned::of(text.to_owned(), Profile::from_toml(text)?, remap)
    }

    /// The same profile with another remap.
    pub(crate) fn with(&self, remap: &Remap) -> Result<Tuned, Broken> {
        Tuned::of(self.text.clone(), self.profile.clone(), remap)
    }

    fn of(text: String, profile: Profile, remap: &Remap) -> Result<Tuned, Broken> {
        let laid = remap.over(&profile)?;
        let problem =
            |missing: tidy_lever::handle::Missing| Broken::because(format!("the game can't play on it: {missing}"));
        let hands = Hands::find(&laid.linkage).map_err(problem)?;
        let left_alone = laid.left_alone.iter().map(ToString::to_string).collect();
        Ok(Tuned { text, profile, linkage: laid.linkage, hands, left_alone })
    }
}
