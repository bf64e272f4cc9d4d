//! Promise: every line of a tape reads back as written; broken ones say where and why; a cut one plays up to the cut.

use crate::common::{linkage, us};
use tidy_lever::event::{Phase, Spread};
use tidy_lever::tape::{Header, Line, LineKind, Reader, Recorder, Replayer, Writer};
use tidy_lever::{Device, Event, Family, Linkage, Moment, Profile};

const LINES: &str = r#"{"at":120000,"dev":"kb","control":"keys:KeyD","value":1}
{"at":131000,"dev":"p1","control":"pad:left-stick","x":0.71,"y":-0.2}
{"at":140000,"dev":"ms","control":"mouse:move","x":3,"y":-1}
{"at":150000,"dev":"scr","touch":7,"phase":"down","x":0.12,"y":0.8}
{"at":200000,"fact":"grounded","value":false}
{"at":200000,"fact":"state","value":"dash"}
{"at":210000,"mode":"menu","on":true}
{"at":215000,"view":[1280,720]}
{"at":220000,"focus":false}
{"at":230000,"dev":"p1","plugged":false}
{"at":235000,"set":"lamp","value":true}
{"at":236000,"view":[1280,720],"dpi":160}
{"at":237000,"frozen":true}
{"at":238000,"give_back":"hop"}
{"at":239000,"skip":true}
{"at":239500,"remap":"player.toml"}
{"at":240000,"meant":"skim"}
{"at":250000,"seat":2,"dev":"p2","control":"pad:south","value":1}
{"at":1000000,"end":true}"#;

const HEADER: &str = r#"{"tape":"tidy-lever","version":1,"title":"a walk","devices":[{"id":"kb","family":"keys"},{"id":"p1","family":"pad"}]}"#;

fn read(text: &str) -> (Vec<Line>, Result<Option<u64>, String>) {
    let mut reader = match Reader::new(text.as_bytes()) {
        Ok(reader) => reader,
        Err(error) => return (Vec::new(), Err(error.to_string())),
    };
    let mut lines = Vec::new();
    for line in reader.by_ref() {
        match line {
            Ok(line) => lines.push(line),
            Err(error) => return (lines, Err(error.to_string())),
        }
    }
    (lines, Ok(reader.cut_at()))
}

#[test]
fn every_sort_of_line_reads_back_as_it_was_written() {
    let text = format!("{HEADER}\n{LINES}\n");
    let (lines, end) = read(&text);
    assert_eq!((lines.len(), end), (19, Ok(None)));
    let mut written = Vec::new();
    let header = Header::new("a walk").device("kb", Family::Keys).device("p1", Family::Pad);
    let mut writer = Writer::new(&mut written, &header).unwrap();
    lines.iter().for_each(|line| writer.put(line).unwrap());
    let (again, _) = read(std::str::from_utf8(&written).unwrap());
    assert_eq!(again, lines);
    assert!(written.starts_with(HEADER.as_bytes()));
}

#[test]
fn a_tape_cut_anywhere_plays_up_to_the_cut_and_says_so() {
    let text = format!("{HEADER}\n{LINES}\n");
    for length in HEADER.len() + 1..text.len() - 2 {
        let (lines, end) = read(&text[..length]);
        let whole = text[HEADER.len() + 1..length].matches('\n').count();
        assert!(lines.len() == whole || lines.len() == whole + 1, "cut at byte {length}: {} lines", lines.len());
        if !lines.iter().any(|line| line.kind == LineKind::End) {
            assert!(matches!(end, Ok(Some(_))), "cut at byte {length}: {end:?}");
        }
    }
}

#[test]
fn what_can_not_be_read_names_its_line_and_why() {
    let cases = [
        ("", "line 1: a tape begins with its header"),
        ("{\"tape\":\"other\",\"version\":1}", "line 1: a tape begins with its header"),
        (
            "{\"tape\":\"tidy-lever\",\"version\":9}",
            "line 1: the tape has version 9; this version of tidy-lever can read up to 1; update tidy-lever",
        ),
        (
            "{\"tape\":\"tidy-lever\",\"version\":1,\"devices\":[{\"id\":\"x\",\"family\":\"organ\"}]}",
            "`organ` is not a family of devices",
        ),
    ];
    for (text, expected) in cases {
        let told = read(text).1.unwrap_err();
        assert!(told.contains(expected), "{text}: {told}");
    }
    let lines = [
        ("{\"at\":5,\"focus\":tru}", "the line can't be read: expected"),
        ("{\"dev\":\"kb\",\"control\":\"keys:KeyD\",\"value\":1}", "the line has no `at`"),
        ("{\"at\":-5,\"focus\":true}", "the line can't be read: invalid value"),
        ("{\"at\":1.5,\"focus\":true}", "the line can't be read: invalid type"),
        ("{\"at\":5,\"control\":\"keys:KeyD\",\"value\":1}", "the line needs `dev`"),
        ("{\"at\":5,\"dev\":\"kb\",\"control\":\"keys:KeyD\"}", "a control has either a `value`, or `x` and `y`"),
        ("{\"at\":5,\"dev\":\"kb\",\"control\":\"keys:KeyD\",\"value\":true}", "a control's `value` is a number"),
        (
            "{\"at\":5,\"dev\":\"kb\",\"control\":\"keys:KeyD\",\"value\":1,\"mode\":\"menu\"}",
            "the line says two things, `control` and `mode`; write each on its own line",
        ),
        (
            "{\"at\":5,\"dev\":\"kb\",\"control\":\"keys:KeyD\",\"value\":1,\"on\":true}",
            "`on` can't be combined with the rest of the line",
        ),
        ("{\"at\":5,\"contrl\":\"keys:KeyD\"}", "unknown field `contrl`"),
        ("{\"at\":5}", "the line says nothing: it needs one of control, touch"),
        (
            "{\"at\":5,\"dev\":\"s\",\"touch\":1,\"phase\":\"dwn\",\"x\":0,\"y\":0}",
            "a touch's phase is down, move, up or cancel, not `dwn`",
        ),
        ("{\"at\":5,\"seat\":0,\"focus\":true}", "a tape has at most 8 seats, numbered from 1; there is no seat 0"),
        ("[1,2]", "the line says nothing"),
    ];
    for (line, expected) in lines {
        let text = format!("{HEADER}\n{{\"at\":1,\"focus\":true}}\n\n{line}\n{{\"at\":9,\"end\":true}}\n");
        let (before, told) = read(&text);
        let told = told.unwrap_err();
        assert!(told.starts_with("line 4: ") && told.contains(expected), "{line}: {told}");
        assert_eq!(before.len(), 1, "what comes before is read");
    }
    let text = format!("{HEADER}\n{{\"at\":9,\"end\":true}}\n{{\"at\":10,\"focus\":true}}\n");
    assert_eq!(read(&text).1, Err("line 3: the line comes after the end of the tape".into()));
    let long = format!("{HEADER}\n{{\"at\":9,\"meant\":\"{}\"}}\n", "x".repeat(70_000));
    assert!(read(&long).1.unwrap_err().contains("longer than 65536 bytes"));
}

#[test]
fn a_line_that_names_what_is_not_there_says_so() {
    let linkage =
        crate::common::linkage("[facts]\ngrounded = true\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n");
    let (header, _) = (Header::new("").device("kb", Family::Keys), ());
    let mut seat = linkage.seat(Moment::ZERO);
    let mut player = Replayer::new(&header);
    let cases = [
        (
            "{\"at\":5,\"dev\":\"kb\",\"control\":\"keys:Spaec\",\"value\":1}",
            "no control is called `keys:Spaec`; did you mean `keys:Space`?",
        ),
        (
            "{\"at\":5,\"dev\":\"kb\",\"control\":\"pad:south\",\"value\":1}",
            "`pad:south` can't come from `kb`, which is declared as keys",
        ),
        (
            "{\"at\":5,\"fact\":\"grouded\",\"value\":true}",
            "the profile has no `grouded` (a fact); did you mean `grounded`?",
        ),
        (
            "{\"at\":5,\"dev\":\"p\",\"control\":\"pad:dpad.left\",\"value\":1}",
            "is a part of a control; a tape holds whole controls: write `\"control\":\"pad:dpad\"` with `x` and `y`",
        ),
        ("{\"at\":5,\"fact\":\"grounded\",\"value\":\"yes\"}", "the fact has no such value"),
        ("{\"at\":5,\"mode\":\"menu\",\"on\":true}", "the profile has no `menu` (a mode)"),
        (
            "{\"at\":5,\"dev\":\"kb\",\"control\":\"keys:Space\",\"x\":0,\"y\":1}",
            "the control has a different number of axes",
        ),
        ("{\"at\":5,\"dev\":\"kb\",\"control\":\"keys:Space\",\"value\":1e300}", "a level must be a finite number"),
    ];
    for (line, expected) in cases {
        let told = player.put(&Line::read(line).unwrap(), &mut seat).unwrap_err().to_string();
        assert!(told.contains(expected), "{line}: {told}");
    }
    // Lines of another seat, and what only people read, are not the business of this one.
    for line in
        ["{\"at\":5,\"seat\":2,\"dev\":\"x\",\"control\":\"keys:Nope\",\"value\":1}", "{\"at\":5,\"meant\":\"hop\"}"]
    {
        player.put(&Line::read(line).unwrap(), &mut seat).unwrap();
    }
    seat.advance(us(100));
    assert_eq!(seat.latest().happenings().count(), 0);
}

#[test]
fn the_samples_of_the_format_build_and_read() {
    let page = |name: &str| std::fs::read_to_string(format!("{}/../docs/{name}", env!("CARGO_MANIFEST_DIR"))).unwrap();
    let text = page("formats.md") + &page("tapes.md");
    let mut blocks = 0;
    for block in text.split("```").skip(1).step_by(2) {
        if let Some(profile) = block.strip_prefix("toml\n") {
            let built = Profile::from_toml(profile).map(|profile| Linkage::build(&profile));
            assert!(matches!(built, Ok(Ok(_))), "{profile}\n{built:?}");
            blocks += 1;
        } else if let Some(remap) = block.strip_prefix("remap\n") {
            // Over a profile that has what it speaks of, all of it has its effect.
            let profile = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n[action.guard]\nkind = \"button\"\n\
                [action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\" }\n";
            let laid = tidy_lever::remap::Remap::from_toml(remap)
                .unwrap()
                .over(&Profile::from_toml(profile).unwrap())
                .unwrap();
            assert_eq!(laid.left_alone, []);
            blocks += 1;
        } else if let Some(tape) = block.strip_prefix("json\n") {
            let (lines, end) = read(tape);
            assert!(end.is_ok() && !lines.is_empty(), "{tape}\n{end:?}");
            blocks += 1;
        }
    }
    assert!(blocks >= 3, "the formats' page has samples");
}

#[test]
fn a_number_is_read_as_it_was_written_to_the_last_bit() {
    let mut dice = fastrand::Rng::with_seed(11);
    // The first was found by fuzzing.
    for x in [0.988_888_888_888_888_9].into_iter().chain((0..20_000).map(|_| dice.f64())) {
        let said = LineKind::Touch { device: "scr".into(), finger: 1, phase: Phase::Down, x, y: 0.8125 };
        let line = Line::new(us(300_000), 1, said);
        assert_eq!(Line::read(&line.write()), Ok(line));
    }
}

#[test]
fn only_an_event_has_a_spread_and_a_recording_keeps_it() {
    let text = r#"{"at":5,"dev":"kb","control":"keys:Space","value":1.0,"spread":33000}"#;
    let line = Line::read(text).unwrap();
    assert_eq!((line.spread, line.write()), (Spread::from_micros(33_000), text.to_owned()));
    let error = Line::read(r#"{"at":5,"fact":"grounded","value":true,"spread":33000}"#).unwrap_err();
    assert_eq!(error.to_string(), "`spread` can't be combined with the rest of the line");
    assert!(Line::read(&text.replace("33000", "-1")).is_err());

    let mut seat = linkage("[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n").seat(Moment::ZERO);
    let mut recorder = Recorder::off(&Header::new("rough")).lines();
    let press = Event::button(us(5), Device::default(), "keys:Space".parse().unwrap(), true);
    recorder.seat(1, &mut seat).feed(Event { spread: line.spread, ..press }).unwrap();
    recorder.seat(1, &mut seat).advance(us(10));
    assert_eq!(recorder.take_lines(), [line]);
}

/// The same line with a space, which makes it one that is not read straight from its letters.
fn spaced(line: &str) -> String {
    line.replacen(':', ": ", 1)
}

#[test]
fn the_short_way_of_reading_a_line_finds_what_the_long_one_does() {
    let odd = [
        r#"{"at":5,"dev":"kb","control":"keys:KeyD","value":-0}"#,
        r#"{"at":5,"dev":"kb","control":"keys:KeyD","value":-0.0}"#,
        r#"{"at":5,"dev":"kb","control":"keys:KeyD","value":0.30000000000000004}"#,
        r#"{"at":5,"dev":"kb","control":"keys:KeyD","value":123456789012345678901}"#,
        r#"{"at":5,"dev":"kb","control":"keys:KeyD","value":01}"#,
        r#"{"at":5,"dev":"kb","control":"keys:KeyD","value":1.}"#,
        r#"{"at":5,"dev":"kb","control":"keys:KeyD","value":1e-3}"#,
        r#"{"at":05,"fact":"grounded","value":true}"#,
        r#"{"at":99999999999999999999,"fact":"grounded","value":true}"#,
        r#"{"at":5,"fact":"gro\u0075nded","value":"dash"}"#,
        r#"{"at":5,"seat":9,"fact":"grounded","value":"dash"}"#,
        r#"{"at":5,"fact":"grounded","value":truer}"#,
        r#"{"at":5,"meant":"löffeln"}"#,
        r#"{"at":5,"view":[0,720]}"#,
        r#"{"at":5,"view":[1280,720],"dpi":96}"#,
    ];
    let whole = LINES.lines().chain(odd).map(str::to_owned);
    // Every line cut, and with a letter out, twice, or another one.
    let broken = LINES.lines().flat_map(|line| {
        (0..line.len()).flat_map(move |at| {
            let (before, letter, after) = (&line[..at], &line[at..=at], &line[at + 1..]);
            let others = ["0", "\"", ",", "}", "-", ".", "\u{7}"].map(|other| format!("{before}{other}{after}"));
            [before.to_owned(), format!("{before}{after}"), format!("{before}{letter}{letter}{after}")]
                .into_iter()
                .chain(others)
        })
    });
    let mut dice = fastrand::Rng::with_seed(40);
    let numbers = (0..20_000).map(|_| {
        let most = 10_u64.pow(dice.u32(1..18));
        let (digits, point) = (dice.u64(0..most), dice.usize(0..18));
        let text = format!("{digits:0width$}", width = point + 1);
        let (whole, part) = text.split_at(text.len() - point);
        let (sign, dot) = (if dice.bool() { "-" } else { "" }, if part.is_empty() { "" } else { "." });
        format!(r#"{{"at":7,"dev":"p1","control":"pad:left-stick","x":{sign}{whole}{dot}{part},"y":0.25}}"#)
    });
    let (mut right, mut wrong) = (0, 0);
    for line in whole.chain(broken).chain(numbers) {
        let told = |line: &str| Line::read(line).map(|line| (format!("{line:?}"), line));
        match (told(&line), told(&spaced(&line))) {
            (Ok(short), Ok(long)) => {
                assert_eq!(short, long, "{line}");
                right += 1;
            }
            (Err(_), Err(_)) => wrong += 1,
            (short, long) => panic!("{line}: {short:?}, but {long:?}"),
        }
    }
    assert!(right > 20_000 && wrong > 5_000, "{right} lines are right, {wrong} wrong");
}
