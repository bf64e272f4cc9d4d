//! A profile as an asset. One with faults is never used: they are logged with their places, and the last good one plays on.

use bevy_asset::Asset;
use bevy_asset::io::Reader;
use bevy_asset::{AssetEvent, AssetLoadFailedEvent, AssetLoader, Assets, LoadContext};
use bevy_ecs::error::BevyError;
use bevy_ecs::prelude::*;
use bevy_reflect::TypePath;
use tidy_lever::{Linkage, Profile};

use crate::players::Players;

/// A profile that was read and built.
#[derive(Asset, Clone, Debug, TypePath)]
pub struct ProfileAsset {
    /// The profile, for a player's file to be laid over.
    pub profile: Profile,
    /// It compiled.
    pub linkage: Linkage,
}

/// Reads files that end in `.lever.toml`.
#[derive(Clone, Copy, Debug, Default, TypePath)]
pub struct ProfileLoader;

impl AssetLoader for ProfileLoader {
    type Asset = ProfileAsset;
    type Settings = ();
    type Error = BevyError;

    async fn load(
        &self,
        reader: &mut dyn Reader,
        (): &(),
        _context: &mut LoadContext<'_>,
    ) -> Result<ProfileAsset, BevyError> {
        let mut bytes = Vec::new();
        reader.read_to_end(&mut bytes).await?;
        let profile = Profile::from_toml(&String::from_utf8(bytes)?)?;
        let linkage = Linkage::build(&profile)?;
        Ok(ProfileAsset { profile, linkage })
    }

    fn extensions(&self) -> &[&str] {
        &["lever.toml"]
    }
}

/// What is wrong with the profile's file as it is now, to be shown on the screen; `None` while it is good.
#[derive(Debug, Default, Resource)]
pub struct Problem(pub Option<String>);

/// Goes over to a profile that was loaded, if it has all that the game's levers name.
pub(crate) fn adopt(
    mut loaded: MessageReader<AssetEvent<ProfileAsset>>,
    mut failed: MessageReader<AssetLoadFailedEvent<ProfileAsset>>,
    assets: Res<Assets<ProfileAsset>>,
    mut players: ResMut<Players>,
    mut problem: ResMut<Problem>,
) {
    for failed in failed.read().filter(|failed| failed.id == players.asset.id()) {
        // The engine logs it, too.
        problem.0 = Some(failed.error.to_string());
    }
    let own = players.asset.id();
    let is_own = |event: &&AssetEvent<ProfileAsset>| match event {
        AssetEvent::Added { id } | AssetEvent::Modified { id } => *id == own,
        _ => false,
    };
    if loaded.read().filter(is_own).count() == 0 {
        return;
    }
    let Some(asset) = assets.get(own) else { return };
    match players.fits(&asset.linkage) {
        Ok(()) => {
            problem.0 = None;
            players.change(asset.clone());
        }
        Err(missing) => {
            bevy_log_error(&missing);
            problem.0 = Some(missing);
        }
    }
}

/// As the engine logs.
fn bevy_log_error(problem: &str) {
    tracing::error!("the profile does not fit this game, which keeps using the previous one: {problem}");
}
