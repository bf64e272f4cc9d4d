//! Promise: a profile's file is tuned, undone, saved, and changed by others, with nothing lost.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fs;
use std::path::PathBuf;

use tidy_lever::remap::Remap;
use tidy_lever_tuning::{Reread, SaveError, Tuning};

const TEXT: &str = "tidy-lever = 1 # a comment\r\n\r\n[facts]\r\ngrounded = true\r\n\r\n[action.hop]\r\n  kind = \"button\"\r\n  \
                    keys = \"Space\"\r\n  when = \"grounded within 90ms\" # coyote\r\n  keep = \"0.15s\"\r\n\r\n[action.steer]\r\n\
                    kind = \"stick\"\r\npad = \"left-stick\"\r\n[action.steer.pad_shape]\r\ndead = 0.2\r\n\r\n[action.skim]\r\n\
                    kind = \"button\"\r\nkeys = \"KeyK\"\r\ncue = \"steer rolls down, right then skim within 350ms\"\r\n";

fn file() -> (tempfile::TempDir, PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("duel.toml");
    fs::write(&path, TEXT).unwrap();
    (folder, path)
}

fn number(tuning: &Tuning, path: &str) -> f64 {
    tuning.numbers().iter().find(|number| number.path == path).unwrap().value
}

#[test]
fn saving_changes_the_digits_alone_and_adds_what_was_not_written() {
    let (_folder, path) = file();
    let mut tuning = Tuning::open(&path, Remap::new()).unwrap();
    assert_eq!(tuning.fault(), None);
    for value in [160.0, 170.0, 200.0] {
        tuning.set("hop.keep", value).unwrap();
    }
    tuning.settle();
    tuning.set("hop.when.grounded", 60.0).unwrap();
    tuning.set("steer.pad_shape.dead", 0.25).unwrap();
    tuning.set("skim.early", 45.0).unwrap();
    assert_eq!(tuning.moved().len(), 4);
    assert_eq!(fs::read_to_string(&path).unwrap(), TEXT, "nothing is written before it is asked for");
    tuning.save().unwrap();
    let wanted = TEXT.replace("0.15s", "200ms").replace("90ms", "60ms").replace("dead = 0.2\r", "dead = 0.25\r");
    assert_eq!(fs::read_to_string(&path).unwrap(), format!("{wanted}early = \"45ms\"\r\n"));
    assert!(tuning.moved().is_empty() && !tuning.can_undo());
    assert_eq!(tuning.reread(), Reread::Same, "its own saving is not news");
}

#[test]
fn moves_of_one_drag_are_undone_as_one() {
    let (_folder, path) = file();
    let mut tuning = Tuning::open(&path, Remap::new()).unwrap();
    (160..=200).for_each(|value| drop(tuning.set("hop.keep", f64::from(value)).unwrap()));
    tuning.settle();
    tuning.set("skim.within", 400.0).unwrap();
    assert_eq!(tuning.undo().unwrap(), [("skim.within".to_owned(), "350ms".to_owned())]);
    assert_eq!(tuning.undo().unwrap(), [("hop.keep".to_owned(), "150ms".to_owned())]);
    assert_eq!((tuning.undo(), tuning.text()), (None, TEXT));
}

#[test]
fn a_value_that_breaks_the_profile_changes_nothing() {
    let (_folder, path) = file();
    let mut tuning = Tuning::open(&path, Remap::new()).unwrap();
    let problem = tuning.set("hop.kepe", 5.0).unwrap_err().to_string();
    assert_eq!(problem, "the profile has no number `hop.kepe`");
    // What its place doesn't take is cut to what it takes.
    tuning.set("steer.pad_shape.dead", 7.0).unwrap_or_default();
    assert!(number(&tuning, "steer.pad_shape.dead") <= 1.0);
}

#[test]
fn a_file_that_others_wrote_is_never_overwritten() {
    let (_folder, path) = file();
    let mut tuning = Tuning::open(&path, Remap::new()).unwrap();
    tuning.set("hop.keep", 200.0).unwrap();
    let theirs = TEXT.replace("350ms", "420ms");
    fs::write(&path, &theirs).unwrap();
    assert!(matches!(tuning.save(), Err(SaveError::Changed(_))));
    assert_eq!(fs::read_to_string(&path).unwrap(), theirs);
    // Read again, with the moved number over it; then it can be saved.
    assert_eq!(tuning.reread(), Reread::Changed { gone: Vec::new() });
    assert_eq!((number(&tuning, "skim.within"), number(&tuning, "hop.keep")), (420.0, 200.0));
    tuning.save().unwrap();
    assert_eq!(fs::read_to_string(&path).unwrap(), theirs.replace("0.15s", "200ms"));
}

#[test]
fn a_fault_is_told_and_what_was_good_plays_on() {
    let (_folder, path) = file();
    let mut tuning = Tuning::open(&path, Remap::new()).unwrap();
    fs::write(&path, TEXT.replace("kind = \"stick\"", "kind = \"stik\"")).unwrap();
    assert!(matches!(tuning.reread(), Reread::Broken(_)));
    let fault = tuning.fault().unwrap();
    assert!(fault.line == 13 && fault.problem.contains("stick"), "{fault:?}");
    assert_eq!(tuning.linkage().actions().count(), 3);
    fs::remove_file(&path).unwrap();
    assert!(matches!(tuning.reread(), Reread::Broken(_)));
    // The same text again is good again.
    fs::write(&path, TEXT).unwrap();
    assert_eq!(tuning.reread(), Reread::Changed { gone: Vec::new() });
    assert_eq!(tuning.fault(), None);
    // A number whose action is gone is named.
    tuning.set("skim.within", 300.0).unwrap();
    fs::write(&path, &TEXT[..TEXT.find("[action.skim]").unwrap()]).unwrap();
    assert_eq!(tuning.reread(), Reread::Changed { gone: vec!["skim.within".into()] });
}

#[test]
fn a_profile_with_faults_waits_to_be_mended() {
    let (_folder, path) = file();
    fs::write(&path, "tidy-lever = 1\n[action.hop]\nkind = \"buton\"\n").unwrap();
    let mut tuning = Tuning::open(&path, Remap::new()).unwrap();
    assert!(tuning.fault().is_some_and(|fault| fault.line == 3));
    assert_eq!(tuning.linkage().actions().count(), 0);
    fs::write(&path, TEXT).unwrap();
    assert_eq!(tuning.reread(), Reread::Changed { gone: Vec::new() });
    assert_eq!(tuning.linkage().actions().count(), 3);
}

#[test]
fn an_action_in_one_line_gets_its_key_before_the_brace() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("one.toml");
    let text = "tidy-lever = 1\n[action]\nsteer = { kind = \"stick\", pad = \"left-stick\" }\n\
                turn = { kind = \"button\", cue = \"steer rolls left, down, right within 1s\" } # about\n";
    fs::write(&path, text).unwrap();
    let mut tuning = Tuning::open(&path, Remap::new()).unwrap();
    tuning.set("turn.key_gap", 80.0).unwrap();
    tuning.save().unwrap();
    let wanted = text.replace("within 1s\" }", "within 1s\", key_gap = \"80ms\" }");
    assert_eq!(fs::read_to_string(&path).unwrap(), wanted);
}
