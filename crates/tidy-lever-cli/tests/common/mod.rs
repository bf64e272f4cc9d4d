//! The command as its users run it, in a folder of its own and without a display.
#![allow(
    dead_code,
    unreachable_pub,
    clippy::unwrap_used,
    reason = "shared by tests, which panic where they can not go on"
)]

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

/// Whether the program that opens windows lies beside the command, as it does when the whole workspace is tested; says so if not.
pub fn window_is_built() -> bool {
    let name = format!("tidy-lever-try{}", std::env::consts::EXE_SUFFIX);
    let built = Path::new(env!("CARGO_BIN_EXE_tidy-lever")).with_file_name(name).exists();
    if !built {
        assert!(std::env::var_os("TIDY_LEVER_NO_SKIPS").is_none(), "`tidy-lever-try` is not built");
        eprintln!(
            "SKIPPED: `tidy-lever-try` is not built (cargo build -p tidy-lever-try), so what needs it is not tested"
        );
    }
    built
}
