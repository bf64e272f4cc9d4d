//! Any text as a player's file over the demo's profile: it never breaks the profile, and what it says stays in it.
#![no_main]

use std::sync::LazyLock;

use libfuzzer_sys::fuzz_target;
use tidy_lever::remap::{Clash, Remap};
use tidy_lever::{Moment, Profile};

static DEMO: LazyLock<Profile> = LazyLock::new(|| {
    Profile::from_toml(include_str!("../../demo/otter-post.toml")).expect("the demo's profile is right")
});

fuzz_target!(|text: &str| {
    let Ok(mut remap) = Remap::from_toml(text) else { return };
    let laid = remap.over(&DEMO).expect("a remap is not a fault of the profile");
    laid.linkage.seat(Moment::ZERO).advance(Moment::from_millis(100));
    let again = Remap::from_toml(&remap.to_toml()).expect("what was read is written so that it can be read");
    assert_eq!(again.to_toml(), remap.to_toml());
    let before = remap.to_toml();
    let target = "hop.keys".parse().expect("it is there");
    if remap.bind(&DEMO, &target, &["KeyP"], Clash::Swap).is_ok() {
        remap.over(&DEMO).expect("still none");
        assert!(remap.undo());
    }
    assert_eq!(remap.to_toml(), before, "undone, or never done");
});
