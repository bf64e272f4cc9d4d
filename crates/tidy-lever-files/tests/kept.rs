//! Promise: a file stays what it was, in mode, kind and place, and nobody's change is lost.
#![cfg(unix)]
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fs;
use std::os::unix::fs::{FileTypeExt, PermissionsExt, symlink};
use std::path::Path;

use std::time::Duration;

use tidy_lever_files::{Companions, Kept, NotBeside, Outputs, beside, write};

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
fn a_thread_keeps_several_files_of_a_folder_and_another_waits_only_so_long() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    let player = Kept::lock(&at("player.toml")).unwrap();
    // The player's file is kept while a tape's companion is written to the same folder.
    assert_eq!(Companions::of(&at("round.jsonl")).write("remap", b"a").unwrap(), "round-remap1.toml");
    player.write(b"b").unwrap();
    let elsewhere = at("other.toml");
    let busy = std::thread::spawn(move || Kept::lock_within(&elsewhere, Duration::from_millis(50)).map(drop));
    let error = busy.join().unwrap().unwrap_err().to_string();
    assert!(error.contains("other.toml was left as it is: another program has kept the folder"), "{error}");
    drop(player);
    let elsewhere = at("other.toml");
    std::thread::spawn(move || Kept::lock_within(&elsewhere, Duration::from_millis(50)).map(drop).unwrap())
        .join()
        .unwrap();
}

#[test]
fn what_is_read_is_never_written_and_what_exists_only_when_asked() {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    fs::write(at("p.toml"), "profile").unwrap();
    fs::write(at("old.jsonl"), "tape").unwrap();
    symlink("p.toml", at("link.toml")).unwrap();
    fs::hard_link(at("p.toml"), at("hard.toml")).unwrap();
    fs::create_dir(at("sub")).unwrap();
    for replaces in [false, true] {
        let mut outputs = Outputs::new([at("p.toml").as_path(), Path::new("-")]).replacing(replaces);
        for name in ["p.toml", "./p.toml", "sub/../p.toml", "link.toml", "hard.toml"] {
            let error = outputs.create(&at(name)).unwrap_err().to_string();
            assert!(error.contains("is read by this command"), "{name}: {error}");
        }
        outputs.claim(&at("new.png")).unwrap();
        let error = outputs.claim(&at("sub/../new.png")).unwrap_err().to_string();
        assert!(error.contains("is named twice"), "{error}");
        outputs.create(Path::new("/dev/null")).unwrap();
    }
    let mut outputs = Outputs::new([]);
    for (name, free) in [("old.jsonl", "old-2.jsonl"), ("old-2.jsonl", "old-3.jsonl")] {
        let error = outputs.create(&at(name)).unwrap_err().to_string();
        assert!(error.ends_with(&format!("{free} is free, or add --replace to replace it")), "{error}");
        fs::write(at(free), "tape").unwrap();
    }
    assert_eq!(
        fs::read_to_string(at("old.jsonl")).unwrap() + &fs::read_to_string(at("p.toml")).unwrap(),
        "tapeprofile"
    );
    // One that appears between the check and the writing stays, too.
    outputs.claim(&at("late.png")).unwrap();
    fs::write(at("late.png"), "somebody's").unwrap();
    assert!(outputs.write(&at("late.png"), b"ours").is_err());
    assert_eq!(fs::read_to_string(at("late.png")).unwrap(), "somebody's");
    drop(Outputs::new([]).replacing(true).create(&at("old.jsonl")).unwrap());
    assert_eq!(fs::read_to_string(at("old.jsonl")).unwrap(), "");
    // The files beside a tape pass over names that are taken, the profile that plays among them.
    fs::write(at("round-profile1.toml"), "played").unwrap();
    assert_eq!(Companions::of(&at("round.jsonl")).write("profile", b"new").unwrap(), "round-profile2.toml");
    assert_eq!(fs::read_to_string(at("round-profile1.toml")).unwrap(), "played");
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
