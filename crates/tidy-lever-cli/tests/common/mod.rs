//! The command as its users run it, in a folder of its own and without a display.
#![allow(unreachable_pub, clippy::unwrap_used, reason = "shared by tests, which panic where they can not go on")]

use std::path::Path;

use assert_cmd::Command;

/// The command with these arguments.
pub fn command(folder: &Path, arguments: &[&str]) -> Command {
    let mut command = Command::cargo_bin("tidy-lever").unwrap();
    command.current_dir(folder).args(arguments).env_remove("DISPLAY").env_remove("WAYLAND_DISPLAY");
    command
}

/// What it prints when all is well.
pub fn out(folder: &Path, arguments: &[&str]) -> String {
    String::from_utf8(command(folder, arguments).assert().success().get_output().stdout.clone()).unwrap()
}
