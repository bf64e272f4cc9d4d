//! Promise: the game is played by a mocked pad of the kernel, in its real window.
#![cfg(all(target_os = "linux", feature = "real-pads"))]
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

mod common;

use std::process::Command;

use common::{Display, Running, is_here};
use serde_json::json;

/// Its stick walks, its button hops; then it is unplugged with the stick held, and comes back.
const SCRIPT: &str = "plug layout 5\nstart\nwait 4000\nmark\n5 +0 3 0 32767\nwait 400\nmark\n5 +0 3 0 0\nwait 300\n\
    mark\n5 +0 1 130 1\nwait 60\nmark\n5 +0 1 130 0\nwait 1200\nmark\n5 +0 3 0 -32768\nwait 300\nunplug 5\nwait 700\n\
    plug layout 8\nwait 400\nmark\n8 +0 1 130 1\nwait 900\n";

#[test]
fn a_pad_walks_hops_is_unplugged_while_it_walks_and_comes_back() {
    if !is_here("umockdev-wrapper", &["true"]) || !is_here("/usr/bin/python3", &["-c", "import gi"]) {
        return;
    }
    let Some(display) = Display::open() else { return };
    let folder = tempfile::tempdir().unwrap();
    let script = folder.path().join("script");
    std::fs::write(&script, SCRIPT).unwrap();
    let bed = concat!(env!("CARGO_MANIFEST_DIR"), "/../../crates/tidy-lever-pads/tests/kernel/bed.py");
    let mut command = Command::new("umockdev-wrapper");
    command.args(["/usr/bin/python3", bed]).args([&script, folder.path()]);
    command.arg(env!("CARGO_BIN_EXE_otter-post")).args(common::arguments(folder.path()));
    let mut game = Running::start(command.env("DISPLAY", &display.name).args(["--size", "640x400"]));
    game.hears(&json!({ "game": "ready" }));
    display.focus_on("Otter Post");
    game.hears(&json!({ "game": "focus", "focused": true }));
    game.hears(&json!({ "game": "otter", "state": "walk", "facing": "right" }));
    game.hears(&json!({ "game": "otter", "state": "idle" }));
    game.hears(&json!({ "action": "hop", "what": "pulled" }));
    game.hears(&json!({ "game": "otter", "state": "walk", "facing": "left" }));
    // Nobody holds it: it stops by itself, with the cable.
    game.hears(&json!({ "game": "otter", "state": "idle" }));
    game.hears(&json!({ "action": "hop", "what": "pulled" }));
}
