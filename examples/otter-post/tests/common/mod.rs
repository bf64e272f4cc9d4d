//! The game as its players have it: started as a program, heard by what it reports.
#![allow(
    unreachable_pub,
    dead_code,
    unused_imports,
    clippy::unwrap_used,
    reason = "shared by tests that each need a part of it"
)]

mod display;

pub use display::{Display, is_here};

use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::time::{Duration, Instant};

use serde_json::{Value, json};

impl Display {
    /// Starts the game in a window that has the focus.
    pub fn play(&self, command: &mut Command) -> Running {
        let mut game = Running::start(command.env("DISPLAY", &self.name).args(["--size", "640x400"]));
        game.hears(&json!({ "game": "ready" }));
        self.focus(&game);
        game.hears(&json!({ "game": "focus", "focused": true }));
        game
    }

    pub fn focus(&self, game: &Running) {
        self.focus_pid(game.id());
    }
}

/// How long a report may take on a busy machine.
const PATIENCE: Duration = Duration::from_secs(20);

/// The program, with a player's file of its own.
pub fn program(folder: &Path) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_otter-post"));
    command.args(arguments(folder));
    command
}

/// What the program is started with.
pub fn arguments(folder: &Path) -> [PathBuf; 4] {
    ["--player".into(), folder.join("player.toml"), "--profile".into(), demo("otter-post.toml")]
}

/// A file of the demo.
pub fn demo(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo").join(name)
}

/// A tape of pad lines, or any others.
pub fn script(folder: &Path, lines: &[&str]) -> PathBuf {
    let path = folder.join("script.jsonl");
    let header = r#"{"tape":"tidy-lever","version":1}"#;
    std::fs::write(&path, format!("{header}\n{}\n", lines.join("\n"))).unwrap();
    path
}

/// A game that runs, and its lines as they come.
pub struct Running {
    child: Child,
    lines: Receiver<Value>,
    pub heard: Vec<Value>,
}

impl Running {
    pub fn start(command: &mut Command) -> Running {
        let mut child = command.stdout(Stdio::piped()).spawn().unwrap();
        let out = BufReader::new(child.stdout.take().unwrap());
        let (to, lines) = channel();
        std::thread::spawn(move || {
            for line in out.lines().map_while(Result::ok) {
                let value = serde_json::from_str(&line).unwrap_or_else(|_| panic!("no JSON: {line}"));
                if to.send(value).is_err() {
                    return;
                }
            }
        });
        Running { child, lines, heard: Vec::new() }
    }

    /// Waits for a line that has all of this, and returns it.
    pub fn hears(&mut self, wanted: &Value) -> Value {
        let until = Instant::now() + PATIENCE;
        loop {
            let left = until.saturating_duration_since(Instant::now());
            let line = self.lines.recv_timeout(left).unwrap_or_else(|_| {
                panic!("never heard {wanted}, only:\n{}", self.told());
            });
            self.heard.push(line.clone());
            if has(&line, wanted) {
                return line;
            }
        }
    }

    /// Waits until it ends by itself.
    pub fn ends(mut self) -> Vec<Value> {
        assert!(self.child.wait().unwrap().success());
        let rest: Vec<Value> = self.lines.iter().collect();
        self.heard.extend(rest);
        std::mem::take(&mut self.heard)
    }

    /// How many lines so far have all of this.
    pub fn count(&self, wanted: &Value) -> usize {
        self.heard.iter().filter(|line| has(line, wanted)).count()
    }

    fn told(&self) -> String {
        self.heard.iter().map(|line| format!("{line}\n")).collect()
    }

    pub fn id(&self) -> u32 {
        self.child.id()
    }
}

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// Whether a line has every key of another with the same value.
pub fn has(line: &Value, wanted: &Value) -> bool {
    wanted.as_object().unwrap().iter().all(|(key, value)| line.get(key) == Some(value))
}
