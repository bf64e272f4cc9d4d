//! Promise: every number of a profile has a path, and its digits can be changed there.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};

use tidy_lever::profile::{Movable, Number, Unit, numbers, with_number};
use tidy_lever::{Linkage, Profile};

/// Every shipped profile.
fn profiles(folder: &Path) -> Vec<PathBuf> {
    let mut all = Vec::new();
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        let name = path.file_name().unwrap().to_str().unwrap().to_owned();
        if path.is_dir() {
            all.extend(profiles(&path));
        } else if name == "profile.toml" || name == "otter-post.toml" {
            all.push(path);
        }
    }
    all
}

fn shipped() -> Vec<String> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../demo");
    let all: Vec<String> = profiles(&demo).iter().map(|path| fs::read_to_string(path).unwrap()).collect();
    assert!(all.len() > 20);
    all
}

fn found<'n>(all: &'n [Number], path: &str) -> &'n Number {
    all.iter().find(|number| number.path == path).unwrap_or_else(|| panic!("no {path} in {all:#?}"))
}

#[test]
fn every_path_is_one_numbers_own_and_leads_to_its_digits() {
    for text in shipped() {
        let all = numbers(&text).unwrap();
        let paths: BTreeSet<&str> = all.iter().map(|number| number.path.as_str()).collect();
        assert_eq!(paths.len(), all.len());
        for number in &all {
            assert!((number.least..=number.most).contains(&number.value), "{number:?}");
            assert!(!number.meaning.is_empty() && number.meaning.len() < 110, "{number:?}");
            let Some(written) = &number.written else {
                assert_eq!(number.default, Some(number.value));
                continue;
            };
            let digits = &text[written.bytes.clone()];
            assert!(digits.trim_start_matches(['+', '-', '.']).starts_with(|c: char| c.is_ascii_digit()), "{digits}");
            // Line and column lead there, too.
            let line = text.lines().nth(written.spot.line as usize - 1).unwrap();
            assert!(line.chars().skip(written.spot.column as usize - 1).collect::<String>().starts_with(digits));
        }
    }
}

#[test]
fn a_number_that_is_replaced_reads_back_in_its_place_and_nothing_else_changes() {
    let mut changed = 0;
    for text in shipped() {
        let before = numbers(&text).unwrap();
        for (place, number) in before.iter().enumerate().filter(|(_, number)| number.written.is_some()) {
            let value = if number.unit == Unit::Count { 4.0 } else { number.value * 0.75 };
            let again = numbers(&number.replaced(&text, value).unwrap()).unwrap();
            assert_eq!(again.len(), before.len());
            assert!((again[place].value - value).abs() < 0.001, "{} became {}", number.path, again[place].value);
            let others = |all: &[Number]| -> Vec<(String, f64)> {
                let others = all.iter().enumerate().filter(|(other, _)| *other != place);
                others.map(|(_, number)| (number.path.clone(), number.value)).collect()
            };
            assert_eq!(others(&again), others(&before), "{}", number.path);
            changed += 1;
        }
    }
    assert!(changed > 150, "{changed}");
}

#[test]
fn every_number_of_a_shipped_profile_can_be_set_by_its_path_with_either_line_end() {
    for unix in shipped() {
        for text in [unix.clone(), unix.replace('\n', "\r\n")] {
            let all = numbers(&text).unwrap();
            for number in &all {
                let value = number.written_as(number.value);
                let set = with_number(&text, &number.path, &value).unwrap();
                let again = numbers(&set).unwrap();
                assert_eq!(found(&again, &number.path).value, number.value, "{}", number.path);
                Linkage::build(&Profile::from_toml(&set).unwrap())
                    .unwrap_or_else(|faults| panic!("{}: {faults}", number.path));
                // One line more where it wasn't written, and no other line changes; a family's guard has a table of its own.
                let more = set.lines().count() - text.lines().count();
                let table = if number.path.starts_with("devices.") { 2 } else { 0 };
                assert_eq!(more, if number.written.is_none() { 1 + table } else { 0 }, "{}", number.path);
                let others = set.lines().filter(|line| !text.contains(*line)).count();
                assert!(others <= 1 + table / 2, "{}", number.path);
                assert_eq!(set.matches("\r\n").count() == 0, text == unix, "the line ends stay");
                assert!(text == unix || set.matches('\n').count() == set.matches("\r\n").count());
            }
        }
    }
}

#[test]
fn what_can_not_be_set_says_why() {
    let text = "tidy-lever = 1\naction.hop.kind = \"button\"\naction.hop.cue = \"steer rolls left, down then hop within 1s\"\n\
                [action.steer]\nkind = \"stick\"\n";
    for (path, value, told) in [
        ("hop.wihtin", "1s", "the profile has no number `hop.wihtin`; did you mean `hop.within`?"),
        ("hop.within", "soon", "`soon` is not a value for `hop.within`; write a span, as in 150ms"),
        (
            "hop.early",
            "10ms",
            "`hop.early` is not written in the profile, and its action is not written as a table of its own",
        ),
    ] {
        let problem = with_number(text, path, value).unwrap_err().to_string();
        assert!(problem.starts_with(told), "{problem}");
    }
    assert!(with_number("tidy-lever = ", "hop.keep", "1ms").is_err());
}

#[test]
fn every_span_and_number_that_a_shipped_profile_writes_is_listed() {
    for text in shipped() {
        let all = numbers(&text).unwrap();
        let listed =
            |at: usize| all.iter().any(|n| n.written.as_ref().is_some_and(|written| written.bytes.contains(&at)));
        let mut start = 0;
        for line in text.split_inclusive('\n') {
            let code = line.split(" #").next().unwrap();
            let is_version = code.starts_with("tidy-lever") || code.starts_with("title") || code.starts_with('#');
            for (at, _) in code.match_indices(|c: char| c.is_ascii_digit()).filter(|_| !is_version) {
                let before = code[..at].chars().next_back().unwrap();
                let ends = code[at..].find(|c: char| !c.is_ascii_alphanumeric() && c != '.' && c != '@');
                let word = &code[at..at + ends.unwrap_or(code.len() - at)];
                // Digits of names and of numpad notation are not numbers.
                let of_path = code.contains("rolls") && word.chars().all(|c| c.is_ascii_digit());
                let begins = " \"[+-x(".contains(before);
                if begins && !of_path {
                    assert!(listed(start + at), "`{word}` in {line}");
                }
            }
            start += line.len();
        }
    }
}

#[test]
fn paths_go_into_lists_tables_lines_and_gates() {
    let text = r#"
tidy-lever = 1
[facts]
grounded = true
state = ["idle", "walk"]
[action.steer]
kind = "stick"
pad = "left-stick"
pad_shape = { dead = 0.2, curve = [[0.5, 0.25]] }
[action.lean]
kind = "axis"
keys = { minus = "KeyQ", plus = "KeyE" }
range = { low = 4, high = 28 }
[action.slip]
kind = "button"
keys = "KeyG"
cue = ["press", "steer twice within 240ms"]
paced = ["300ms", "500ms"]
when = "(grounded within 90ms or state is idle within 6t@60) and not grounded"
[action.heave]
kind = "button"
cue = "steer rolls back held 700ms, forward held 0.2s within 1s"
[action.pump]
kind = "gauge"
keys = "KeyK"
gauge = { ceiling = 9, push = "+1", fade = "-2 every 1s" }
[panel.yard]
kind = "zone"
from = "top-left"
at = [0.5, 0.5]
size = [0.4, 0.2]
"#;
    let all = numbers(text).unwrap();
    for (path, value) in [
        ("steer.pad_shape.dead", 0.2),
        ("steer.pad_shape.curve[0].out", 0.25),
        ("lean.range.high", 28.0),
        ("slip.cue[1].within", 240.0),
        ("slip.paced.most", 500.0),
        ("slip.when.grounded", 90.0),
        ("slip.when.state", 100.0),
        ("heave.back.held", 700.0),
        ("heave.forward.held", 200.0),
        ("heave.within", 1_000.0),
        ("pump.gauge.push", 1.0),
        ("pump.gauge.fade", -2.0),
        ("pump.gauge.fade.every", 1_000.0),
        ("panel.yard.size.high", 0.2),
    ] {
        assert_eq!(found(&all, path).value, value, "{path}");
    }
    // A default that nobody wrote has a path, too, and no place.
    let brush = found(&all, "heave.brush");
    assert_eq!((brush.value, brush.written.as_ref(), brush.replaced(text, 1.0)), (45.0, None, None));
    assert!(found(&all, "pump.gauge.push").replaced(text, 2.0).unwrap().contains("push = \"+2\""));
    assert!(Linkage::build(&Profile::from_toml(text).unwrap()).is_ok());
}

#[test]
fn numbers_that_are_moved_one_after_another_give_what_reading_the_whole_text_gives() {
    let one_line = "tidy-lever = 1\naction = { hop = { kind = \"button\", keys = \"KeyJ\", keep = \"90ms\" }, \
        toss = { kind = \"button\", keys = \"KeyK\", keep = \"80ms\" } }\n";
    let dotted = "tidy-lever = 1\r\n[action]\r\nhop.kind = \"button\"\r\nhop.cue = [\r\n\"hold 90ms\",\r\n\"2 taps 240ms apart\"]\r\n\
        [action.paddle]\r\nkind = \"gauge\"\r\nkeys = \"KeyK\"\r\n[facts]\r\ngrounded = true\r\n[action.paddle.gauge]\r\nceiling = 9\r\n\
        push = \"+1\"\r\n[action.hopp]\r\nkind = \"button\"\r\nwhen = \"grounded within 90ms\" # ü\r\n";
    let mut dice = fastrand::Rng::with_seed(3);
    for text in shipped().into_iter().chain([one_line.to_owned(), dotted.to_owned()]) {
        let (mut movable, mut text) = (Movable::from_toml(&text).unwrap(), text);
        for _ in 0..60 {
            let Some(number) = dice.choice(movable.numbers()).cloned() else { break };
            let value = [number.least, number.most, number.value / 2.0, 120.0, 0.25][dice.usize(0..5)];
            let written = number.written_as((value * 1e3).round() / 1e3);
            let moved = with_number(&text, &number.path, &written);
            assert_eq!(
                movable.set(&number.path, &written),
                moved.as_ref().map(|_| ()).map_err(Clone::clone),
                "{}",
                number.path
            );
            text = moved.unwrap_or(text);
            assert_eq!(movable.text(), text);
            assert_eq!(movable.numbers(), numbers(&text).unwrap(), "{} = {written}", number.path);
            assert_eq!(*movable.profile(), Profile::from_toml(&text).unwrap(), "{} = {written}", number.path);
        }
        let before = movable.text().to_owned();
        assert!(movable.set("hop.keap", "1ms").is_err() && movable.text() == before);
    }
}

#[test]
fn only_a_motion_that_begins_forward_or_back_must_be_fresh_without_saying_so() {
    let of = |path: &str| {
        let text = format!(
            "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n\
             [action.skim]\nkind = \"button\"\ncue = \"steer rolls {path} within 350ms\"\n"
        );
        numbers(&text).unwrap().iter().find(|number| number.path == "skim.fresh").map(|number| number.value)
    };
    assert_eq!([of("623"), of("41236")], [Some(300.0); 2]);
    assert_eq!([of("236"), of("16"), of("back held 700ms, forward")], [None; 3]);
}

#[test]
fn what_is_broken_tells_no_numbers_and_never_panics() {
    assert!(numbers("[action.hop").is_err());
    let broken = "tidy-lever = 1\n[action.hop]\nkind = 7\nkeep = 9\ncue = \"hold\"\nwhen = \"within 5ms\"\nmarks = { a = \"x\" }\n\
        gauge = \"none\"\nstages = { count = \"3\" }\nrange = [1, 2]\n[panel]\nthumb = 5\n";
    assert_eq!(numbers(broken).unwrap().len(), 0);
    for cut in 0..broken.len() {
        let _ = numbers(&broken[..cut]);
    }
}
