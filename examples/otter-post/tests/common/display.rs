//! A virtual display with real key events; shared by all tests of windows.
#![allow(unreachable_pub, dead_code, clippy::unwrap_used, reason = "shared by tests that each need a part of it")]

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};

/// A display of its own, which ends with it.
pub struct Display {
    server: Child,
    pub name: String,
}

impl Drop for Display {
    fn drop(&mut self) {
        let _ = self.server.kill();
        let _ = self.server.wait();
    }
}

/// Whether a program is installed. Without it the test skips itself aloud; where nothing may be skipped, it fails.
pub fn is_here(name: &str, arguments: &[&str]) -> bool {
    let found = Command::new(name).args(arguments).stdout(Stdio::null()).stderr(Stdio::null()).status().is_ok();
    if !found {
        assert!(std::env::var_os("TIDY_LEVER_NO_SKIPS").is_none(), "{name} is missing, and nothing may be skipped");
        eprintln!("SKIPPED: {name} is not installed, so what needs it is not tested");
    }
    found
}

impl Display {
    pub fn open() -> Option<Display> {
        if !is_here("Xvfb", &["-version"]) || !is_here("xdotool", &["-version"]) {
            return None;
        }
        let mut server = Command::new("Xvfb")
            .args(["-displayfd", "1", "-screen", "0", "1280x800x24", "-nolisten", "tcp"])
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let mut number = String::new();
        BufReader::new(server.stdout.take().unwrap()).read_line(&mut number).unwrap();
        Some(Display { server, name: format!(":{}", number.trim()) })
    }

    pub fn xdotool(&self, arguments: &[&str]) -> String {
        let out = Command::new("xdotool").args(arguments).env("DISPLAY", &self.name).output().unwrap();
        String::from_utf8(out.stdout).unwrap().trim().to_owned()
    }

    /// Gives the window of a program the focus.
    pub fn focus_pid(&self, program: u32) {
        let window = self.xdotool(&["search", "--sync", "--onlyvisible", "--pid", &program.to_string()]);
        self.xdotool(&["windowfocus", window.lines().next().unwrap()]);
    }

    /// The same for a window that another program started.
    pub fn focus_on(&self, title: &str) {
        let window = self.xdotool(&["search", "--sync", "--onlyvisible", "--name", title]);
        self.xdotool(&["windowfocus", window.lines().next().unwrap()]);
    }

    pub fn down(&self, key: &str) {
        self.xdotool(&["keydown", key]);
    }

    pub fn up(&self, key: &str) {
        self.xdotool(&["keyup", key]);
    }

    pub fn tap(&self, key: &str) {
        self.xdotool(&["keydown", key, "sleep", "0.03", "keyup", key]);
    }
}
