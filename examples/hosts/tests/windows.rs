//! Promise: in a window that is polled once a frame, and in one whose game steps on another thread, hands are heard as they moved.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

#[path = "../../otter-post/tests/common/display.rs"]
mod display;

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::time::Duration;

use display::Display;
use serde_json::Value;

/// A program that runs, and its lines as they come.
struct Running {
    child: Child,
    lines: Receiver<Value>,
}

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Running {
    /// Starts a program in a window that has the focus.
    fn start(display: &Display, program: &str, title: &str, arguments: &[&str]) -> Running {
        let mut command = Command::new(program);
        let mut child = command.args(arguments).env("DISPLAY", &display.name).stdout(Stdio::piped()).spawn().unwrap();
        let out = BufReader::new(child.stdout.take().unwrap());
        let (to, lines) = channel();
        std::thread::spawn(move || {
            out.lines().map_while(Result::ok).all(|line| to.send(serde_json::from_str(&line).unwrap()).is_ok());
        });
        let mut running = Running { child, lines };
        running.hears(|line| line["host"] == "ready");
        // A window that is not shown yet can't have the focus.
        for _ in 0..40 {
            display.focus_on(title);
            if running.lines.recv_timeout(Duration::from_millis(500)).is_ok_and(|line| line["host"] == "focus") {
                return running;
            }
        }
        panic!("{title} never has the focus");
    }

    fn hears(&mut self, mut is_it: impl FnMut(&Value) -> bool) -> Value {
        loop {
            let line = self.lines.recv_timeout(Duration::from_secs(20)).unwrap();
            if is_it(&line) {
                return line;
            }
        }
    }

    /// The names of what pulled until one of them did.
    fn pulls_until(&mut self, name: &str) -> Vec<String> {
        let mut pulls = Vec::new();
        self.hears(|line| {
            pulls.push(line["action"].as_str().unwrap_or_default().to_owned());
            line["action"] == name
        });
        pulls
    }
}

/// Walks twice quickly, which is a dash, then hops.
fn dash_and_hop(display: &Display, running: &mut Running) {
    let twice = ["keydown", "Right", "sleep", "0.05", "keyup", "Right", "sleep", "0.05", "keydown", "Right"];
    display.xdotool(&twice);
    assert_eq!(running.pulls_until("dash"), ["dash"]);
    display.up("Right");
    display.tap("space");
    assert_eq!(running.pulls_until("hop"), ["hop"]);
}

#[test]
fn a_window_that_is_polled_once_a_frame_hears_a_dash_and_a_hop() {
    let Some(display) = Display::open() else { return };
    let mut running = Running::start(&display, env!("CARGO_BIN_EXE_polled"), "Quay, polled", &[]);
    dash_and_hop(&display, &mut running);
    display.tap("Escape");
    assert!(running.child.wait().unwrap().success());
}

#[test]
fn a_game_on_a_thread_of_its_own_hears_nothing_late_however_slow_the_picture_is() {
    let Some(display) = Display::open() else { return };
    for slow in ["0", "70"] {
        let mut running = Running::start(&display, env!("CARGO_BIN_EXE_threads"), "Quay, on two threads", &[slow]);
        for _ in 0..3 {
            dash_and_hop(&display, &mut running);
        }
        display.tap("Escape");
        let end = running.hears(|line| line["late"].is_u64());
        assert_eq!(end["late"], 0, "pictures of {slow} ms: {end}");
        assert!(end["steps"].as_u64().unwrap() > 60, "{end}");
    }
}
