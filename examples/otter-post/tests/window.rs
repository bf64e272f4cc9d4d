//! Promise: the real window is played by real key events, under a virtual display.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

mod common;

use std::fs;

use common::{Display, Running, demo, program, script};
use serde_json::json;

#[test]
fn keys_walk_hop_and_dash() {
    let Some(display) = Display::open() else { return };
    let folder = tempfile::tempdir().unwrap();
    let mut game = display.play(&mut program(folder.path()));
    display.down("d");
    let began = game.hears(&json!({ "game": "otter", "state": "walk", "facing": "right" }));
    display.up("d");
    let stopped = game.hears(&json!({ "game": "otter", "state": "idle" }));
    let x = |line: &serde_json::Value| line["x"].as_f64().unwrap();
    // At 3.4 m/s, whatever the picture rate was.
    let seconds = (stopped["at"].as_f64().unwrap() - began["at"].as_f64().unwrap()) / 1e6;
    assert!((x(&stopped) - x(&began) - seconds * 3.4).abs() < 0.06, "{began} {stopped}");
    display.tap("space");
    let hop = game.hears(&json!({ "action": "hop", "what": "pulled", "stage": 1 }));
    assert!(hop["acted"].as_u64() >= hop["at"].as_u64(), "{hop}");
    game.hears(&json!({ "game": "otter", "grounded": false }));
    game.hears(&json!({ "game": "otter", "grounded": true }));
    // Away from the heron.
    display.xdotool(&["keydown", "a", "sleep", "0.05", "keyup", "a", "sleep", "0.05", "keydown", "a"]);
    game.hears(&json!({ "action": "dash", "what": "pulled" }));
    game.hears(&json!({ "game": "otter", "state": "dash", "facing": "left" }));
    display.up("a");
    game.hears(&json!({ "action": "dash", "what": "ended", "cause": "let go" }));
}

/// Opens the menu and gives the hop to the key H, after something else happened; what the game says of it.
fn binds_the_hop(display: &Display, game: &mut Running, meanwhile: impl FnOnce()) -> serde_json::Value {
    display.tap("Return");
    game.hears(&json!({ "game": "menu", "open": true }));
    meanwhile();
    for row in 1..=4 {
        display.tap("Down");
        game.hears(&json!({ "game": "row", "row": row }));
    }
    display.tap("space");
    game.hears(&json!({ "game": "listening", "for": "hop.keys" }));
    display.tap("h");
    game.hears(&json!({ "game": "changed" }))
}

#[test]
fn the_menu_binds_a_key_and_the_next_run_knows_it() {
    let Some(display) = Display::open() else { return };
    let folder = tempfile::tempdir().unwrap();
    let mut game = display.play(&mut program(folder.path()));
    let changed = binds_the_hop(&display, &mut game, || ());
    assert_eq!(changed["word"], "H is bound to hop");
    display.tap("Escape");
    game.hears(&json!({ "game": "menu", "open": false }));
    display.tap("space");
    display.tap("h");
    game.hears(&json!({ "action": "hop", "what": "pulled" }));
    assert_eq!(game.count(&json!({ "action": "hop", "what": "pulled" })), 1, "space hops no more");
    drop(game);
    let saved = fs::read_to_string(folder.path().join("player.toml")).unwrap();
    assert!(saved.contains("[action.hop]\nkeys = \"KeyH\""), "{saved}");
    let mut again = display.play(&mut program(folder.path()));
    display.tap("h");
    again.hears(&json!({ "action": "hop", "what": "pulled" }));
}

#[test]
fn a_tape_beside_the_players_file_is_no_reason_to_wait_for_oneself() {
    let Some(display) = Display::open() else { return };
    let folder = tempfile::tempdir().unwrap();
    let tape = folder.path().join("round.jsonl");
    let mut game = display.play(program(folder.path()).arg("--record").arg(&tape));
    let changed = binds_the_hop(&display, &mut game, || ());
    assert_eq!(changed["word"], "H is bound to hop");
    display.tap("Escape");
    display.tap("h");
    game.hears(&json!({ "action": "hop", "what": "pulled" }));
    assert!(fs::read_to_string(folder.path().join("player.toml")).unwrap().contains("KeyH"));
    let companion = fs::read_to_string(folder.path().join("round-remap1.toml")).unwrap();
    assert!(companion.contains("KeyH"), "{companion}");
}

#[test]
fn a_players_file_with_a_mistake_is_told_and_left_as_it_is() {
    let Some(display) = Display::open() else { return };
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("player.toml");
    let broken = "tidy-lever = 1\n\n[action.lamp]\nkeys = \"KeyQ # mine\n";
    let mut game = display.play(&mut program(folder.path()));
    let changed = binds_the_hop(&display, &mut game, || fs::write(&file, broken).unwrap());
    let told = changed["not_saved"].as_str().unwrap();
    assert!(told.contains("player.toml") && told.contains("line 4"), "{told}");
    assert!(told.contains("player-unsaved.toml"), "{told}");
    assert_eq!(fs::read_to_string(&file).unwrap(), broken);
    let beside = fs::read_to_string(folder.path().join("player-unsaved.toml")).unwrap();
    assert!(beside.contains("[action.hop]\nkeys = \"KeyH\""), "{beside}");
    // It plays with the change all the same.
    display.tap("Escape");
    display.tap("h");
    game.hears(&json!({ "action": "hop", "what": "pulled" }));
}

#[test]
fn a_key_held_as_the_focus_goes_is_let_go_and_pulls_nothing() {
    let Some(display) = Display::open() else { return };
    let (folder, other) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let mut game = display.play(&mut program(folder.path()));
    let elsewhere = display.play(&mut program(other.path()));
    game.hears(&json!({ "game": "focus", "focused": false }));
    display.focus(&game);
    game.hears(&json!({ "game": "focus", "focused": true }));
    display.down("d");
    game.hears(&json!({ "game": "otter", "state": "walk" }));
    // The whistle sounds at letting go.
    display.down("q");
    display.focus(&elsewhere);
    game.hears(&json!({ "game": "focus", "focused": false }));
    game.hears(&json!({ "game": "otter", "state": "idle" }));
    display.focus(&game);
    game.hears(&json!({ "game": "focus", "focused": true }));
    // Still held: stale until they went up once.
    display.up("q");
    display.up("d");
    display.tap("space");
    game.hears(&json!({ "action": "hop", "what": "pulled" }));
    assert_eq!(game.count(&json!({ "action": "whistle" })), 0);
    display.tap("q");
    game.hears(&json!({ "action": "whistle", "what": "pulled" }));
}

#[test]
fn a_saved_profile_is_taken_over_while_a_key_is_held() {
    let Some(display) = Display::open() else { return };
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("tuned.toml");
    let text = fs::read_to_string(demo("otter-post.toml")).unwrap();
    fs::write(&file, &text).unwrap();
    let mut game = display.play(program(folder.path()).arg("--profile").arg(&file));
    display.down("a");
    game.hears(&json!({ "game": "otter", "state": "walk" }));
    fs::write(&file, text.replace("keys   = \"Space\"", "keys   = \"KeyH\"")).unwrap();
    let relinked = game.hears(&json!({ "game": "relinked" }));
    assert_eq!(relinked["lost"], json!([]));
    display.tap("h");
    game.hears(&json!({ "action": "hop", "what": "pulled" }));
    // A slip of the pen: told with its place, and the one before plays on.
    fs::write(&file, text.replace("keep   = \"150ms\"", "keap   = \"150ms\"")).unwrap();
    let fault = game.hears(&json!({ "game": "fault" }));
    let line = text.lines().position(|line| line.starts_with("keep   = ")).unwrap() + 1;
    assert_eq!(fault["line"], json!(line));
    assert!(fault["problem"].as_str().unwrap().contains("did you mean `keep`?"), "{fault}");
    game.hears(&json!({ "game": "otter", "grounded": true }));
    display.tap("h");
    game.hears(&json!({ "action": "hop", "what": "pulled" }));
    assert_eq!(game.count(&json!({ "game": "otter", "state": "idle" })), 1, "only before the key went down");
    display.up("a");
    game.hears(&json!({ "game": "otter", "state": "idle" }));
}

#[test]
fn a_simulated_pad_plays_is_unplugged_and_comes_back() {
    let Some(display) = Display::open() else { return };
    let folder = tempfile::tempdir().unwrap();
    let pad = script(
        folder.path(),
        &[
            r#"{"at":600000,"dev":"p1","control":"pad:left-stick","x":-1,"y":0}"#,
            r#"{"at":900000,"dev":"p1","plugged":false}"#,
            r#"{"at":1200000,"dev":"p1","plugged":true}"#,
            r#"{"at":1300000,"dev":"p1","control":"pad:south","value":1}"#,
            r#"{"at":1400000,"dev":"p1","control":"pad:south","value":0}"#,
            r#"{"at":1600000,"dev":"p2","control":"pad:start","value":1}"#,
            r#"{"at":1700000,"dev":"p2","control":"pad:start","value":0}"#,
            r#"{"at":2000000,"dev":"p2","control":"pad:south","value":1}"#,
        ],
    );
    let mut game = display.play(program(folder.path()).arg("--pad").arg(pad));
    game.hears(&json!({ "game": "otter", "state": "walk", "facing": "left" }));
    game.hears(&json!({ "game": "otter", "state": "idle" }));
    game.hears(&json!({ "action": "hop", "what": "pulled" }));
    game.hears(&json!({ "game": "joined", "seat": 2 }));
    game.hears(&json!({ "action": "hop", "what": "pulled", "seat": 2 }));
    game.hears(&json!({ "game": "otter", "otter": 2, "grounded": false }));
    // Keys move the first otter as ever.
    display.tap("space");
    let hop = game.hears(&json!({ "action": "hop", "what": "pulled" }));
    assert_eq!(hop.get("seat"), None, "{hop}");
}

#[test]
fn the_mouse_points_and_a_resized_window_points_as_well() {
    let Some(display) = Display::open() else { return };
    let folder = tempfile::tempdir().unwrap();
    let mut game = display.play(&mut program(folder.path()));
    let window = display.xdotool(&["search", "--onlyvisible", "--pid", &game.id().to_string()]);
    let click = |x: &str, y: &str| {
        display.xdotool(&[
            "mousemove",
            "--window",
            &window,
            x,
            y,
            "sleep",
            "0.05",
            "mousedown",
            "3",
            "sleep",
            "0.05",
            "mouseup",
            "3",
        ]);
    };
    // The quay's middle, to the left.
    click("60", "230");
    let walks = game.hears(&json!({ "game": "otter", "state": "walk", "facing": "left" }));
    let there = game.hears(&json!({ "game": "otter", "state": "idle" }));
    assert!(there["x"].as_f64() < walks["x"].as_f64(), "{there}");
    display.xdotool(&["windowsize", "--sync", &window, "1000", "700"]);
    // The sky is not a quay.
    click("500", "20");
    click("400", "400");
    let walks = game.hears(&json!({ "game": "otter", "state": "walk" }));
    assert_eq!(walks["facing"], "right", "{walks}");
}

#[test]
fn on_a_finer_screen_the_mouse_points_at_what_is_drawn_larger() {
    let Some(display) = Display::open() else { return };
    // Where Pim stands after a click on the same stone of the quay, in a window of as many pixels for one.
    let walked_to = |scale: u32| {
        let folder = tempfile::tempdir().unwrap();
        let mut game = display.play(program(folder.path()).env("WINIT_X11_SCALE_FACTOR", scale.to_string()));
        let window = display.xdotool(&["search", "--onlyvisible", "--pid", &game.id().to_string()]);
        let [x, y] = [60 * scale, 230 * scale].map(|place| place.to_string());
        display.xdotool(&["mousemove", "--window", &window, &x, &y, "sleep", "0.05", "mousedown", "3"]);
        display.xdotool(&["sleep", "0.05", "mouseup", "3"]);
        game.hears(&json!({ "game": "otter", "state": "walk", "facing": "left" }));
        game.hears(&json!({ "game": "otter", "state": "idle" }))["x"].as_f64().unwrap()
    };
    let (plain, finer) = (walked_to(1), walked_to(2));
    assert!((plain - finer).abs() < 0.1, "{plain} and {finer}");
}
