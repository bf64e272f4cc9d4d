//! A file stays what it was: its mode, its kind, its place; and nobody's change is lost.
#![cfg(unix)]
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fs;
use std::os::unix::fs::{FileTypeExt, PermissionsExt, symlink};
use std::path::Path;

use tidy_lever_files::{Kept, NotBeside, beside, write};

fn mode(path: &Path) -> u32 {
    fs::metadata(path).unwrap().permissions().mode() & 0o7777
}

fn names(folder: &Path) -> Vec<String> {
    let mut names: Vec<String> =
        fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect();
    names.sort();
    names
}

#[test]
fn a_file_keeps_its_mode_and_a_new_one_has_what_a_plain_one_has() {
    let folder = tempfile::tempdir().unwrap();
    let (plain, own) = (folder.path().join("plain"), folder.path().join("own"));
    fs::write(&plain, "a").unwrap();
    write(&own, b"one").unwrap();
    assert_eq!((mode(&own), fs::read_to_string(&own).unwrap()), (mode(&plain), "one".into()));
    for wanted in [0o600, 0o640, 0o666, 0o755] {
        fs::set_permissions(&own, PermissionsExt::from_mode(wanted)).unwrap();
        write(&own, b"two").unwrap();
        assert_eq!((mode(&own), fs::read_to_string(&own).unwrap()), (wanted, "two".into()));
    }
    assert_eq!(names(folder.path()), ["own", "plain"]);
}

#[test]
fn links_are_followed_read_only_files_refused_and_special_ones_written_to() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    fs::create_dir(at("elsewhere")).unwrap();
    symlink("elsewhere/file", at("link")).unwrap();
    // Over a link to nothing yet, and over one to a file.
    for text in ["one", "two"] {
        write(&at("link"), text.as_bytes()).unwrap();
        assert!(fs::symlink_metadata(at("link")).unwrap().is_symlink());
        assert_eq!(fs::read_to_string(at("elsewhere/file")).unwrap(), text);
    }
    fs::set_permissions(at("elsewhere/file"), PermissionsExt::from_mode(0o444)).unwrap();
    let error = write(&at("link"), b"three").unwrap_err().to_string();
    assert!(error.ends_with("link is read-only and was left as it is; make it writable first"), "{error}");
    assert_eq!(fs::read_to_string(at("elsewhere/file")).unwrap(), "two");
    write(Path::new("/dev/null"), b"gone").unwrap();
    assert!(fs::metadata("/dev/null").unwrap().file_type().is_char_device());
    let pipe = at("pipe");
    assert!(std::process::Command::new("mkfifo").arg(&pipe).status().unwrap().success());
    let reader = std::thread::spawn({
        let pipe = pipe.clone();
        move || fs::read_to_string(pipe).unwrap()
    });
    write(&pipe, b"through").unwrap();
    assert_eq!(reader.join().unwrap(), "through");
    assert!(fs::metadata(&pipe).unwrap().file_type().is_fifo());
    let error = write(&at("elsewhere"), b"x").unwrap_err().to_string();
    assert!(error.contains("is a folder"), "{error}");
    let error = write(&at("nowhere/file"), b"x").unwrap_err().to_string();
    assert!(error.ends_with("nowhere/file can't be written: there is no such folder; make it first"), "{error}");
}

#[test]
fn a_hundred_changes_by_several_at_once_are_all_there() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("player.toml");
    let add = |line: String| {
        let kept = Kept::lock(&path).unwrap();
        let before = if kept.exists() { fs::read_to_string(&path).unwrap() } else { String::new() };
        std::thread::yield_now();
        kept.write(format!("{before}{line}\n").as_bytes()).unwrap();
    };
    std::thread::scope(|scope| {
        for who in 0..4 {
            scope.spawn(move || (0..25).for_each(|n| add(format!("{who} {n}"))));
        }
    });
    assert_eq!(fs::read_to_string(&path).unwrap().lines().count(), 100);
    assert_eq!(names(folder.path()), ["player.toml"]);
}

#[test]
fn only_regular_files_of_the_same_folder_are_beside() {
    let folder = tempfile::tempdir().unwrap();
    let own = folder.path().join("own");
    fs::create_dir(&own).unwrap();
    fs::write(folder.path().join("secret.toml"), "").unwrap();
    fs::write(own.join("player.toml"), "").unwrap();
    symlink("player.toml", own.join("same.toml")).unwrap();
    symlink("../secret.toml", own.join("out.toml")).unwrap();
    fs::create_dir(own.join("folder")).unwrap();
    assert!(beside(&own, "player.toml").is_ok() && beside(&own, "same.toml").is_ok());
    for (name, why) in [
        ("out.toml", NotBeside::LeadsOut),
        ("../secret.toml", NotBeside::Elsewhere),
        ("folder/../player.toml", NotBeside::Elsewhere),
        ("/etc/hostname", NotBeside::Elsewhere),
        ("-", NotBeside::Elsewhere),
        ("", NotBeside::Elsewhere),
        ("folder", NotBeside::NoFile),
        ("gone.toml", NotBeside::Missing),
    ] {
        assert_eq!(beside(&own, name), Err(why), "{name}");
    }
}
