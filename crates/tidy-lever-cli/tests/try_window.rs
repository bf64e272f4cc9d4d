//! Promise: the window of `try` answers real keys and a real mouse, under a virtual display.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

mod common;
#[path = "../../../examples/otter-post/tests/common/display.rs"]
mod display;

use std::fs;
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::time::{Duration, Instant};

use display::Display;

const QUAY: &str = r#"tidy-lever = 1

[facts]
grounded = true

[action.hop]
kind = "button"
keys = "Space"
mouse = "left"
when = "grounded"
keep = "120ms"   # waits for the landing

[action.lamp]
kind = "button"
keys = "F1"
"#;

/// A display, where there is one, and the program that opens windows.
fn display() -> Option<Display> {
    if common::window_is_built() { Display::open() } else { None }
}

/// How long anything may take on a busy machine.
const PATIENCE: Duration = Duration::from_secs(20);

/// The window, and what it prints as it comes.
struct Tried {
    child: Child,
    lines: Receiver<String>,
    heard: Vec<String>,
}

impl Drop for Tried {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Tried {
    fn open(display: &Display, folder: &Path, more: &[&str]) -> Tried {
        Tried::open_scaled(display, folder, more, "1")
    }

    /// The same on a screen of so many pixels for one.
    fn open_scaled(display: &Display, folder: &Path, more: &[&str], scale: &str) -> Tried {
        let mut command = Command::new(env!("CARGO_BIN_EXE_tidy-lever"));
        command.current_dir(folder).env("DISPLAY", &display.name).env_remove("WAYLAND_DISPLAY");
        command.env("WINIT_X11_SCALE_FACTOR", scale);
        command.args(["try", "quay.toml", "--json"]).args(more);
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::null()).spawn().unwrap();
        let out = BufReader::new(child.stdout.take().unwrap());
        let (to, lines) = channel();
        std::thread::spawn(move || out.lines().map_while(Result::ok).try_for_each(|line| to.send(line)));
        let tried = Tried { child, lines, heard: Vec::new() };
        display.focus_pid(tried.child.id());
        std::thread::sleep(Duration::from_millis(400));
        tried
    }

    /// Waits for a line with this in it.
    fn hears(&mut self, part: &str) {
        let until = Instant::now() + PATIENCE;
        loop {
            let left = until.saturating_duration_since(Instant::now());
            let line = self.lines.recv_timeout(left).unwrap_or_else(|_| panic!("never {part}, only {:?}", self.heard));
            self.heard.push(line);
            if self.heard.last().unwrap().contains(part) {
                return;
            }
        }
    }

    /// What came within a while.
    fn hears_for(&mut self, span: Duration) -> usize {
        std::thread::sleep(span);
        let before = self.heard.len();
        self.heard.extend(self.lines.try_iter());
        self.heard.len() - before
    }
}

/// Waits until a file says something.
fn until_says(path: &Path, part: &str) -> String {
    let until = Instant::now() + PATIENCE;
    loop {
        let text = fs::read_to_string(path).unwrap_or_default();
        if text.contains(part) {
            return text;
        }
        assert!(Instant::now() < until, "{} never says {part}: {text}", path.display());
        std::thread::sleep(Duration::from_millis(20));
    }
}

fn folder() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("quay.toml"), QUAY).unwrap();
    folder
}

#[test]
fn keys_play_a_slider_is_saved_and_the_tape_plays_to_the_same() {
    let Some(display) = display() else { return };
    let folder = folder();
    let at = |name: &str| folder.path().join(name);
    let more = ["--answer", "hop: grounded = false for 300ms", "--record", "round.jsonl"];
    let mut tried = Tried::open(&display, folder.path(), &more);
    display.tap("space");
    tried.hears("\"pulled\"");
    // The slider of `keep`: 120 of 300 ms. Pulled to the rail's end.
    display.xdotool(&[
        "mousemove",
        "1053",
        "178",
        "mousedown",
        "1",
        "mousemove",
        "1200",
        "178",
        "mousemove",
        "1275",
        "178",
        "mouseup",
        "1",
    ]);
    until_says(&at("round.jsonl"), r#""number":"hop.keep""#);
    assert_eq!(fs::read_to_string(at("quay.toml")).unwrap(), QUAY, "nothing is saved unasked");
    // The first free function key that saves: F1 is the profile's.
    display.tap("F4");
    let saved = until_says(&at("quay.toml"), "keep = \"300ms\"");
    assert_eq!(saved, QUAY.replace("120ms", "300ms"));
    // Landed long ago: it hops again, and 250 ms before the next landing, which 120 ms would not have kept.
    display.tap("space");
    tried.hears("\"pulled\"");
    std::thread::sleep(Duration::from_millis(60));
    display.tap("space");
    tried.hears("\"kept\"");
    // Everything is on the tape once it rests.
    let last = tried.heard.last().unwrap().clone();
    std::thread::sleep(Duration::from_secs(4));
    tried.hears_for(Duration::ZERO);
    drop(tried.child.kill());
    let played = assert_cmd::Command::cargo_bin("tidy-lever")
        .unwrap()
        .current_dir(folder.path())
        .args(["play", "round-profile1.toml", "round.jsonl", "--json"])
        .assert()
        .success();
    let played = String::from_utf8(played.get_output().stdout.clone()).unwrap();
    assert!(tried.heard.contains(&last));
    assert_eq!(played.lines().collect::<Vec<&str>>(), tried.heard);
}

#[test]
fn the_stage_is_the_profiles_and_all_else_the_tools() {
    let Some(display) = display() else { return };
    let folder = folder();
    let mut tried = Tried::open(&display, folder.path(), &["--record", "round.jsonl"]);
    let click =
        |x: &str, y: &str| display.xdotool(&["mousemove", x, y, "mousedown", "1", "sleep", "0.05", "mouseup", "1"]);
    click("620", "200");
    tried.hears("\"pulled\"");
    tried.hears("\"ended\"");
    // On the hands, the lanes, a list: the tool's, and no loss of focus either.
    for (x, y) in [("100", "400"), ("700", "650"), ("1000", "98")] {
        click(x, y);
    }
    assert_eq!(tried.hears_for(Duration::from_millis(400)), 0, "{:?}", tried.heard);
    // A button that went down on the stage goes up for the profile wherever it is.
    display.xdotool(&["mousemove", "620", "200", "mousedown", "1"]);
    tried.hears("\"pulled\"");
    display.xdotool(&["mousemove", "1000", "300", "mouseup", "1"]);
    tried.hears("\"ended\"");
    // A switch tells a fact: nothing is grounded any more, and nothing hops.
    click("940", "44");
    let tape = until_says(&folder.path().join("round.jsonl"), r#""fact":"grounded","value":false"#);
    assert!(!tape.contains("\"focus\":false") || tape.matches("\"focus\":false").count() <= 1, "{tape}");
    display.tap("space");
    assert_eq!(tried.hears_for(Duration::from_millis(400)), 0, "{:?}", tried.heard);
    // The profile's own function key plays, and is not a tool's.
    display.tap("F1");
    tried.hears("\"lamp\"");
}

#[test]
fn on_a_finer_screen_all_is_larger_and_the_pointer_hits_what_it_points_at() {
    let Some(display) = display() else { return };
    let folder = folder();
    let more = ["--size", "640x400", "--record", "round.jsonl"];
    let mut tried = Tried::open_scaled(&display, folder.path(), &more, "2");
    let click =
        |x: &str, y: &str| display.xdotool(&["mousemove", x, y, "mousedown", "1", "sleep", "0.05", "mouseup", "1"]);
    // The stage, twice as far from the corner as in a window of 640x400.
    click("660", "200");
    tried.hears("\"pulled\"");
    tried.hears("\"ended\"");
    // The slider of `keep`, to its end; then the switch of `grounded`.
    display.xdotool(&["mousemove", "1055", "408", "mousedown", "1", "mousemove", "1200", "408"]);
    display.xdotool(&["mousemove", "1275", "408", "mouseup", "1"]);
    let tape = until_says(&folder.path().join("round.jsonl"), r#""number":"hop.keep""#);
    assert!(tape.contains(r#""view":[474,320]"#), "the profile's view has the stage's own pixels: {tape}");
    click("1000", "88");
    until_says(&folder.path().join("round.jsonl"), r#""fact":"grounded","value":false"#);
}

#[test]
fn a_saved_profile_plays_at_once_also_one_that_was_deleted_and_made_anew() {
    let Some(display) = display() else { return };
    let folder = folder();
    let path = folder.path().join("quay.toml");
    let mut tried = Tried::open(&display, folder.path(), &["--record", "round.jsonl"]);
    fs::write(&path, QUAY.replace("\"Space\"", "\"KeyH\"")).unwrap();
    let tape = folder.path().join("round.jsonl");
    until_says(&tape, "round-profile2.toml");
    display.tap("h");
    tried.hears("\"pulled\"");
    // A fault: what was good plays on.
    fs::write(&path, QUAY.replace("button", "buton")).unwrap();
    std::thread::sleep(Duration::from_millis(300));
    display.tap("h");
    tried.hears("\"pulled\"");
    // As editors save: away, and another in its place.
    fs::remove_file(&path).unwrap();
    std::thread::sleep(Duration::from_millis(200));
    let other = folder.path().join("other.toml");
    fs::write(&other, QUAY.replace("\"Space\"", "\"KeyJ\"")).unwrap();
    fs::rename(&other, &path).unwrap();
    until_says(&tape, "round-profile3.toml");
    display.tap("j");
    tried.hears("\"pulled\"");
}
