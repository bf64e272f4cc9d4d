//! Promise: Otter Post runs in a browser: real keys, a mouse, two fingers, gamepads; what the game says, and what the tape gives.
#![cfg(unix)]
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

#[path = "page/mod.rs"]
mod page;
#[path = "../src/page/replay.rs"]
mod replay;

use std::path::Path;
use std::time::{SystemTime, UNIX_EPOCH};

use page::{Browser, Page, Screen};
use serde_json::{Value, json};

/// The moments in µs at which the tape says that a control moved.
fn moments(tape: &str, control: &str) -> Vec<u64> {
    let lines = tape.lines().map(|line| serde_json::from_str::<Value>(line).unwrap());
    lines.filter(|line| line["control"] == control).map(|line| line["at"].as_u64().unwrap()).collect()
}

#[test]
fn keys_walk_hop_and_tap_twice_with_the_browsers_own_times() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    page.hears(&json!({ "game": "focus", "focused": true }));
    page.key("KeyD", "d", "down");
    page.hears(&json!({ "state": "walk", "facing": "right" }));
    for _ in 0..3 {
        page.key("KeyD", "d", "again");
    }
    page.tap("Space", " ");
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    page.key("KeyD", "d", "up");
    page.hears(&json!({ "game": "otter", "state": "idle" }));
    page.picture("page-keys");
    assert_eq!(page.pulls("dash"), 0, "a key that repeats by itself is not a second tap");
    // How far apart two presses are doesn't hang on how busy the machine is.
    let now = SystemTime::now().duration_since(UNIX_EPOCH).unwrap().as_secs_f64();
    let presses = [("down", 0.0), ("up", 0.0304), ("down", 0.1004), ("up", 0.1306)];
    page.browser.call_all(&presses.map(|(sort, at)| Page::key_at("KeyD", "d", sort, Some(now + at))));
    page.hears(&json!({ "action": "dash", "what": "pulled" }));
    page.until("all six on the tape", |page| moments(&page.tape(), "keys:KeyD").len() == 6);
    let moved = moments(&page.tape(), "keys:KeyD");
    for (pair, wanted) in moved[2..].windows(2).zip([30_400u64, 70_000, 30_200]) {
        assert!((pair[1] - pair[0]).abs_diff(wanted) <= 100, "{pair:?} for {wanted}");
    }
    assert_eq!(page.run("scrollY"), 0, "space moves no page");
    page.replays();
    assert!(page.run("otterPost.late()").as_f64().unwrap() <= 2.0);
}

#[test]
fn browsers_keep_their_keys_and_a_lost_release_is_made_up_for() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    page.run("document.getElementById('game').addEventListener('keydown', (e) => setTimeout(() => { window.last = [e.code, e.defaultPrevented] }))");
    let mut prevented = |code: &str, modifiers: u32| {
        let event = json!({ "type": "rawKeyDown", "code": code, "key": "x", "modifiers": modifiers });
        page.run("window.last = null");
        page.browser.call("Input.dispatchKeyEvent", event);
        page.browser.call("Input.dispatchKeyEvent", json!({ "type": "keyUp", "code": code, "key": "x" }));
        // A busy machine takes its time.
        let last = (0..100)
            .map(|_| {
                page.wait(30);
                page.run("window.last")
            })
            .find(|last| !last.is_null())
            .unwrap();
        assert_eq!(last[0], code);
        last[1].as_bool().unwrap()
    };
    assert!(prevented("ArrowDown", 0) && prevented("KeyK", 0) && prevented("KeyK", 8));
    // Ctrl and Meta together with a letter, a function key, and what moves the focus on.
    assert!(!prevented("KeyK", 2) && !prevented("KeyK", 4) && !prevented("F5", 0) && !prevented("Tab", 0));
    // Some systems tell no release of a key while Meta is held.
    page.run("document.getElementById('game').focus()");
    page.key("KeyD", "d", "down");
    page.key("MetaLeft", "Meta", "down");
    page.hears(&json!({ "state": "walk" }));
    page.key("MetaLeft", "Meta", "up");
    page.hears(&json!({ "game": "otter", "state": "idle" }));
    page.key("KeyD", "d", "up");
    page.replays();
}

#[test]
fn a_mouse_presses_points_turns_its_wheel_and_is_followed_beyond_the_canvas() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    let place = (300.0, 470.0);
    page.mouse("mouseMoved", place, "none");
    page.mouse("mousePressed", place, "left");
    page.mouse("mouseReleased", place, "left");
    page.hears(&json!({ "action": "toss", "what": "pulled" }));
    // Over the text box it is still the game's, until it lifts.
    page.mouse("mousePressed", (600.0, 480.0), "right");
    page.mouse("mouseMoved", (1_100.0, 480.0), "right");
    page.mouse("mouseReleased", (1_100.0, 480.0), "right");
    page.hears(&json!({ "state": "walk", "facing": "right" }));
    page.wait(100);
    let tape = page.tape();
    assert_eq!(moments(&tape, "mouse:right").len(), 2, "{tape}");
    let turn = |y: i32| json!({ "type": "mouseWheel", "x": 300, "y": 470, "deltaX": 0, "deltaY": y });
    for y in [50, 50, -100] {
        page.browser.call("Input.dispatchMouseEvent", turn(y));
    }
    page.hears(&json!({ "action": "next-parcel", "what": "pulled" }));
    page.hears(&json!({ "action": "last-parcel", "what": "pulled" }));
    page.replays();
}

#[test]
fn all_moves_between_two_frames_count_and_a_locked_mouse_moves_in_no_place() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    let to = |n: i32| json!({ "type": "mouseMoved", "x": 200 + 9 * n, "y": 300, "pointerType": "mouse" });
    page.browser.call_all(&(0..12).map(|n| ("Input.dispatchMouseEvent", to(n))).collect::<Vec<_>>());
    let tape = page.tape();
    assert!(moments(&tape, "mouse:place").len() >= 12, "{tape}");
    // A browser without a window locks no pointer: the page is told that it is.
    page.run("Object.defineProperty(document, 'pointerLockElement', { get: () => document.getElementById('game') })");
    page.browser.call("Input.dispatchMouseEvent", to(20));
    page.browser.call("Input.dispatchMouseEvent", to(24));
    let after = page.tape();
    assert_eq!(moments(&after, "mouse:place").len(), moments(&tape, "mouse:place").len(), "{after}");
    assert!(moments(&after, "mouse:move").len() > moments(&tape, "mouse:move").len(), "{after}");
    page.replays();
}

#[test]
fn a_pen_points_while_it_hovers_and_is_a_finger_while_it_touches() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    let (x, y) = page.patch(true, (0.16, 0.18));
    let pen = |kind: &str, x: f64| {
        let button = if kind == "mouseMoved" { "none" } else { "left" };
        json!({ "type": kind, "x": x, "y": y, "button": button, "buttons": u32::from(kind == "mousePressed"), "pointerType": "pen", "clickCount": 1 })
    };
    page.browser.call("Input.dispatchMouseEvent", pen("mouseMoved", 300.0));
    page.browser.call("Input.dispatchMouseEvent", pen("mousePressed", x));
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    page.browser.call("Input.dispatchMouseEvent", pen("mouseReleased", x));
    page.hears(&json!({ "action": "hop", "what": "ended" }));
    let tape = page.tape();
    assert!(!moments(&tape, "mouse:place").is_empty() && moments(&tape, "mouse:left").is_empty(), "{tape}");
    assert_eq!(tape.matches(r#""phase":"up""#).count(), 1, "{tape}");
    page.replays();
}

#[test]
fn one_thumb_walks_while_another_finger_hops_and_the_system_takes_them_away() {
    let Some(mut page) = Page::open(Screen::Phone) else { return };
    let (stick, hop) = (page.patch(false, (0.22, 0.24)), page.patch(true, (0.16, 0.18)));
    let middle = format!(
        "(() => {{ const c = document.getElementById('game'), r = c.getBoundingClientRect(); \
         const s = c.width / r.width; return Array.from(c.getContext('2d').getImageData(({} - r.left) * s, ({} - r.top) * s, 1, 1).data).join() }})()",
        stick.0, stick.1
    );
    // Of the canvas's own ground at this place there is water; the stick lies over it at once.
    let shown = page.run(&middle);
    page.picture("page-phone");
    page.finger(1, stick);
    page.finger(1, (stick.0 + 40.0, stick.1));
    page.hears(&json!({ "state": "walk", "facing": "right" }));
    page.finger(2, hop);
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    page.picture("page-thumbs");
    page.lift(2);
    page.wait(60);
    assert!(page.otter()["x"].as_f64().unwrap() > 5.0);
    page.hears(&json!({ "game": "otter", "grounded": true, "state": "walk" }));
    page.finger(3, hop);
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    // A call comes in.
    page.cancel();
    page.hears(&json!({ "game": "otter", "state": "idle" }));
    let tape = page.tape();
    assert_eq!(tape.matches(r#""phase":"cancel""#).count(), 2, "{tape}");
    page.tap("KeyL", "l");
    page.until("the panel hides", |page| page.run(&middle) != shown);
    page.hears(&json!({ "game": "otter", "grounded": true }));
    page.finger(4, hop);
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    page.lift(4);
    page.until("the panel is back", |page| page.run(&middle) == shown);
    page.replays();
}

#[test]
fn a_screen_that_is_turned_under_a_thumb_goes_on() {
    let Some(mut page) = Page::open(Screen::Phone) else { return };
    let stick = page.patch(false, (0.22, 0.24));
    page.finger(1, stick);
    page.finger(1, (stick.0 + 40.0, stick.1));
    page.hears(&json!({ "state": "walk", "facing": "right" }));
    let turned = json!({ "width": 844, "height": 390, "deviceScaleFactor": 3, "mobile": true });
    page.browser.call("Emulation.setDeviceMetricsOverride", turned);
    page.until("the canvas is as wide as the screen", |page| {
        page.run("document.getElementById('game').clientWidth") == 844
    });
    page.wait(100);
    page.picture("page-turned");
    page.finger(1, (stick.0 + 20.0, 200.0));
    page.lift(1);
    page.hears(&json!({ "game": "otter", "state": "idle" }));
    // And the panel lies where it is to be seen.
    let hop = page.patch(true, (0.16, 0.18));
    page.finger(2, hop);
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    page.lift(2);
    page.replays();
}

/// Takes the place of the browser's gamepads: a made-up pad of the standard mapping.
const STAND_IN: &str = r#"
  const pads = [null, null, null, null];
  const own = (of, values) => Object.create(of, Object.fromEntries(Object.entries(values).map(([key, value]) => [key, { value, writable: true }])));
  navigator.getGamepads = () => pads.map((pad) => pad && own(Gamepad.prototype, pad));
  window.standIn = {
    plug: (index) => { pads[index] = { id: "Quay pad (STANDARD GAMEPAD Vendor: 0123 Product: 0a01)", index, connected: true, mapping: "standard",
      timestamp: performance.now(), axes: [0, 0, 0, 0], buttons: Array.from({ length: 17 }, () => own(GamepadButton.prototype, { pressed: false, touched: false, value: 0 })) }; },
    unplug: (index) => { pads[index] = null; },
    button: (index, number, value) => { Object.assign(pads[index].buttons[number], { value, pressed: value > 0.5 }); pads[index].timestamp = performance.now(); },
    axis: (index, number, value) => { pads[index].axes[number] = value; pads[index].timestamp = performance.now(); },
  };"#;

#[test]
fn a_pad_of_the_standard_mapping_plays_goes_and_comes_back() {
    let Some(mut page) = Page::open_in(Browser::open, Screen::Desktop, STAND_IN) else { return };
    page.run("standIn.plug(0)");
    page.wait(100);
    page.run("standIn.axis(0, 0, 1)");
    page.hears(&json!({ "state": "walk", "facing": "right" }));
    page.run("standIn.button(0, 0, 1)");
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    page.run("standIn.button(0, 0, 0)");
    // The arms of the directional pad, and up is up.
    page.run("standIn.axis(0, 0, 0); standIn.button(0, 14, 1)");
    page.hears(&json!({ "facing": "left" }));
    page.run("standIn.button(0, 14, 0); standIn.axis(0, 1, -1)");
    page.wait(100);
    let tape = page.tape();
    assert!(
        tape.contains(r#""control":"pad:dpad","x":-1.0,"y":0.0"#)
            && tape.contains(r#""control":"pad:left-stick","x":0.0,"y":1.0"#),
        "{tape}"
    );
    // A cable that is pulled out lets go.
    page.run("standIn.unplug(0)");
    page.hears(&json!({ "game": "otter", "state": "idle" }));
    // One that is back with a button down stands so: nobody pressed anything now.
    page.run("standIn.plug(0); standIn.button(0, 2, 1)");
    page.until("it is back", |page| page.tape().contains(r#""resync":true"#));
    assert_eq!(page.pulls("toss"), 0);
    page.run("standIn.button(0, 2, 0)");
    page.wait(200);
    page.run("standIn.button(0, 2, 1)");
    page.hears(&json!({ "action": "toss", "what": "pulled" }));
    assert_eq!(page.pulls("toss"), 1);
    page.picture("page-pad");
    page.replays();
}

/// The browser's own gamepads, on a mocked device of the kernel that no browser knows a layout for: the player's file says it.
fn plays_a_mocked_pad() -> bool {
    let folder = tempfile::tempdir().unwrap();
    let script = folder.path().join("script");
    let presses = "js 5 1 0 1\nwait 150\njs 5 1 0 0\nwait 350\n".repeat(30);
    std::fs::write(&script, format!("plug layout 5\nstart\nwait 4000\njs 5 82 0 0\n{presses}unplug 5\n")).unwrap();
    let bed = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../crates/tidy-lever-pads/tests/kernel/bed.py");
    let around = [Path::new("umockdev-wrapper"), Path::new("/usr/bin/python3"), &bed, &script, folder.path()];
    let opened = std::panic::catch_unwind(|| {
        let table = "[pad.\"Otter Post pad\"]\nsouth = \"button-0\"\n";
        let before = format!("localStorage.setItem('otter-post/player.toml', {})", json!(table));
        let mut page = Page::open_in(|_| Browser::open(&around), Screen::Desktop, &before).unwrap();
        page.hears(&json!({ "action": "hop", "what": "pulled" }));
        page.until("the pad is unplugged", |page| page.tape().contains(r#""plugged":false"#));
    });
    opened.is_ok()
}

#[test]
fn a_mocked_pad_of_the_system_plays() {
    let Some(_) = page::built() else { return };
    if !page::is_here("umockdev-wrapper", &["true"]) {
        return;
    }
    assert!(plays_a_mocked_pad() || plays_a_mocked_pad(), "twice in vain");
}

#[test]
fn what_is_held_goes_up_with_the_focus_and_pulls_nothing() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    page.key("KeyD", "d", "down");
    page.hears(&json!({ "state": "walk" }));
    page.run("document.getElementById('profile').focus()");
    page.hears(&json!({ "game": "focus", "focused": false }));
    page.hears(&json!({ "game": "otter", "state": "idle" }));
    page.key("KeyD", "d", "up");
    // What is typed beside the game moves nobody.
    page.tap("Space", " ");
    page.wait(100);
    assert_eq!(page.pulls("hop"), 0);
    // A press brings the focus back, and counts.
    page.mouse("mousePressed", (300.0, 470.0), "left");
    page.mouse("mouseReleased", (300.0, 470.0), "left");
    page.hears(&json!({ "game": "focus", "focused": true }));
    page.until("a toss", |page| page.pulls("toss") == 1);
    // The window's own.
    page.key("KeyA", "a", "down");
    page.hears(&json!({ "state": "walk", "facing": "left" }));
    page.run("dispatchEvent(new Event('blur'))");
    page.hears(&json!({ "game": "otter", "state": "idle" }));
    page.run("dispatchEvent(new Event('focus'))");
    page.key("KeyA", "a", "again");
    page.key("KeyA", "a", "up");
    page.wait(200);
    assert_eq!(page.otter()["state"], "idle", "what is held on return is not a press");
    page.replays();
}

#[test]
fn a_tab_that_was_hidden_with_keys_held_comes_back_with_none() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    page.browser.call("Emulation.setFocusEmulationEnabled", json!({ "enabled": false }));
    page.browser.call("Page.bringToFront", json!({}));
    page.run("document.getElementById('game').focus()");
    page.key("KeyD", "d", "down");
    page.hears(&json!({ "state": "walk" }));
    page.key("Space", " ", "down");
    page.browser.behind_another_tab(|browser| {
        std::thread::sleep(std::time::Duration::from_millis(2_500));
        assert_eq!(browser.run("document.visibilityState"), "hidden");
    });
    page.hears(&json!({ "game": "focus", "focused": false }));
    page.hears(&json!({ "game": "otter", "state": "idle" }));
    let before = page.pulls("hop");
    page.key("KeyD", "d", "up");
    page.key("Space", " ", "up");
    page.run("document.getElementById('game').focus()");
    page.wait(300);
    assert_eq!((page.pulls("hop"), page.otter()["state"].clone()), (before, json!("idle")));
    page.tap("KeyL", "l");
    page.hears(&json!({ "action": "lamp" }));
    page.replays();
}

/// Opens the menu and gives the hop to a key.
fn binds_the_hop(page: &mut Page, code: &str, letter: &str) {
    page.tap("Enter", "Enter");
    page.hears(&json!({ "game": "menu", "open": true }));
    // The hop's row is the first after those for walking.
    for row in 1..=4 {
        page.tap("ArrowDown", "ArrowDown");
        page.hears(&json!({ "game": "row", "row": row }));
    }
    page.tap("Space", " ");
    page.hears(&json!({ "game": "listening" }));
    page.tap(code, letter);
    page.hears(&json!({ "game": "changed" }));
}

#[test]
fn a_key_is_bound_anew_in_the_menu_and_kept() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    binds_the_hop(&mut page, "KeyZ", "z");
    page.picture("page-menu");
    page.tap("Enter", "Enter");
    page.reload();
    page.wait(100);
    page.tap("Space", " ");
    page.tap("KeyZ", "z");
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    assert_eq!(page.heard.iter().filter(|line| line["what"] == "pulled" && line["action"] == "hop").count(), 1);
    let kept = page.run("localStorage.getItem('otter-post/player.toml')");
    assert!(kept.as_str().unwrap().contains("KeyZ"), "{kept}");
}

#[test]
fn the_profile_is_edited_while_keys_are_held() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    let edit = |page: &mut Page, from: &str, to: &str| {
        let (from, to) = (json!(from), json!(to));
        page.run(&format!(
            "{{ const box = document.getElementById('profile'), before = box.value; box.value = before.replace({from}, {to}); \
             if (box.value == before) throw 'nothing to change'; box.dispatchEvent(new Event('input', {{ bubbles: true }})) }}"
        ));
    };
    page.key("KeyA", "a", "down");
    page.hears(&json!({ "state": "walk" }));
    edit(&mut page, "\"Space\"", "\"Spaec\"");
    let fault = page.hears(&json!({ "game": "fault" }));
    assert!(fault["problem"].as_str().unwrap().contains("Space"), "{fault}");
    let shown = page.run("document.getElementById('faults').textContent");
    assert!(shown.as_str().unwrap().contains("did you mean `Space`"), "{shown}");
    // The faulty line is in sight, wherever the box was.
    let line = fault["line"].as_u64().unwrap() as f64;
    let seen = page.run(
        "(() => { const box = document.getElementById('profile'); const count = box.value.trimEnd().split('\\n').length; \
         return [box.scrollTop, box.clientHeight, box.scrollHeight / count] })()",
    );
    let seen: Vec<f64> = serde_json::from_value(seen).unwrap();
    let above = (line - 1.0) * seen[2];
    assert!(seen[0] > 0.0 && (seen[0]..seen[0] + seen[1]).contains(&above), "line {line} at {above}: {seen:?}");
    page.picture("page-fault");
    // The game plays on with what it had.
    page.tap("Space", " ");
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    edit(&mut page, "\"Spaec\"", "\"KeyH\"");
    page.hears(&json!({ "game": "relinked" }));
    assert_eq!(page.otter()["state"], "walk", "what is held stays held");
    assert!(!page.run("document.getElementById('faults').className").as_str().unwrap().contains("bad"));
    page.hears(&json!({ "game": "otter", "grounded": true }));
    page.tap("KeyH", "h");
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    // The tape names the profile that it goes on with, and the page has it.
    assert!(page.tape().contains("otter-post-profile1.toml"));
    assert!(page.run("otterPost.files()").as_str().unwrap().contains("KeyH"));
    page.reload();
    assert!(page.run("document.getElementById('profile').value").as_str().unwrap().contains("KeyH"), "it is kept");
    page.run("document.getElementById('shipped').click()");
    page.hears(&json!({ "game": "relinked" }));
    assert_eq!(page.run("localStorage.getItem('otter-post/profile.toml')"), Value::Null);
}

#[test]
fn keys_play_again_after_a_button_was_clicked() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    let place = page.middle("beside-button");
    page.mouse("mousePressed", place, "left");
    page.mouse("mouseReleased", place, "left");
    assert_eq!(page.run("document.getElementById('beside').hidden"), true);
    assert_eq!(page.run("document.activeElement.id"), "game");
    assert!(page.run("getComputedStyle(document.activeElement).outlineColor").as_str().unwrap().contains("220"));
    page.tap("Space", " ");
    page.hears(&json!({ "action": "hop", "what": "pulled" }));
    assert_eq!(page.run("document.getElementById('beside').hidden"), true, "space presses no button");
    // Who comes by keys stays where they are.
    page.run("document.getElementById('beside-button').focus()");
    page.tap("Enter", "Enter");
    assert_eq!(page.run("document.activeElement.id"), "beside-button");
    page.replays();
}

#[test]
fn an_open_profile_leaves_room_for_the_game_on_any_screen() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    // A telephone that lies down; one that stands; 1280 by 800 at 400 %.
    for (name, width, height) in [("lying", 844, 390), ("standing", 390, 844), ("close", 320, 200)] {
        let screen = json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        page.browser.call("Emulation.setDeviceMetricsOverride", screen);
        page.run("{ const beside = document.getElementById('beside'); if (beside.hidden) document.getElementById('beside-button').click() }");
        page.wait(200);
        let share = page.run(
            "(() => { const r = document.getElementById('game').getBoundingClientRect(); \
             const seen = Math.max(0, Math.min(r.right, innerWidth) - Math.max(r.left, 0)) * Math.max(0, Math.min(r.bottom, innerHeight) - Math.max(r.top, 0)); \
             return seen / (innerWidth * innerHeight) })()",
        );
        assert!(share.as_f64().unwrap() > 0.25, "{share} of a screen that is {name}");
        let text = page.run("document.getElementById('profile').clientHeight");
        assert!(text.as_f64().unwrap() > 40.0, "{text} pixels of the profile on a screen that is {name}");
        page.picture(&format!("page-{name}"));
    }
}

#[test]
fn the_water_lies_still_for_who_asked_for_stillness() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    // The colours of the water, added up. The heron walks on, as part of the game.
    let sum = "(() => { const c = document.getElementById('game'); \
        return c.getContext('2d').getImageData(0, Math.round(c.height * 0.76), c.width, Math.round(c.height * 0.14)).data.reduce((sum, part, at) => (sum * 31 + part + at) % 1000003, 7) })()";
    let moves = |page: &mut Page| {
        page.hears(&json!({ "game": "otter", "state": "idle" }));
        page.wait(1_500);
        let before = page.run(sum);
        (0..5).any(|_| {
            page.wait(300);
            page.run(sum) != before
        })
    };
    assert!(moves(&mut page), "water moves");
    let asked = json!({ "features": [{ "name": "prefers-reduced-motion", "value": "reduce" }] });
    page.browser.call("Emulation.setEmulatedMedia", asked);
    page.reload();
    assert!(!moves(&mut page));
    // Pim walks all the same.
    page.tap("Space", " ");
    page.hears(&json!({ "game": "otter", "grounded": false }));
}

#[test]
fn a_finger_opens_the_menu_and_closes_it() {
    let Some(mut page) = Page::open(Screen::Phone) else { return };
    let rect = page.run("document.getElementById('game').getBoundingClientRect().toJSON()");
    let [left, top, wide, high] = ["left", "top", "width", "height"].map(|edge| rect[edge].as_f64().unwrap());
    let unit = wide.min(high);
    assert!(0.14 * unit >= 44.0, "{unit} pixels: a finger needs 44");
    let menu = (left + wide - 0.09 * unit, top + 0.09 * unit);
    page.finger(1, menu);
    page.lift(1);
    page.hears(&json!({ "game": "menu", "open": true }));
    page.picture("page-phone-menu");
    page.finger(1, menu);
    page.lift(1);
    page.hears(&json!({ "game": "menu", "open": false }));
    page.replays();
}

#[test]
fn a_players_text_with_a_mistake_is_told_and_kept_and_so_is_a_full_storage() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    let broken = "tidy-lever = 1\n[action.lamp]\nkeys = \"KeyQ\n";
    page.run(&format!("localStorage.setItem('otter-post/player.toml', {})", json!(broken)));
    page.reload();
    let told = page.run("document.getElementById('news').textContent");
    assert!(
        told.as_str().unwrap().contains("otter-post/player.toml") && told.as_str().unwrap().contains("line 3"),
        "{told}"
    );
    binds_the_hop(&mut page, "KeyZ", "z");
    assert_eq!(page.run("localStorage.getItem('otter-post/player.toml')"), broken);
    let beside = page.run("localStorage.getItem('otter-post/player-unsaved.toml')");
    assert!(beside.as_str().unwrap().contains("KeyZ"), "{beside}");
    // Nothing more goes in: the change is played, and that it is lost is said.
    page.run("localStorage.clear(); Storage.prototype.setItem = () => { throw new DOMException('full', 'QuotaExceededError') }");
    page.tap("Space", " ");
    page.hears(&json!({ "game": "listening" }));
    page.tap("KeyX", "x");
    let changed = page.hears(&json!({ "game": "changed" }));
    assert!(changed["not_saved"].as_str().unwrap().contains("storage for this page is full"), "{changed}");
    page.picture("page-full");
}

#[test]
fn a_tape_leaves_the_same_state_on_a_page_as_here() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let read = |name: &str| std::fs::read_to_string(demo.join(name)).unwrap();
    let profile = read("otter-post.toml");
    let mut happened = 0;
    for name in ["morning-round.jsonl", "over-the-canal.jsonl"] {
        let tape = read(name);
        let (hash, count) = replay::replay(&profile, &tape).unwrap();
        let there = page.run(&format!("otterPost.replayed({}, {})", json!(profile), json!(tape)));
        assert_eq!(there, format!("{hash:016x} {count}"), "{name}");
        happened += count;
    }
    assert!(happened > 100);
    let wrong = page.run(&format!("otterPost.replayed({}, '')", json!(profile)));
    assert!(wrong.as_str().unwrap().contains("tape"), "{wrong}");
}
