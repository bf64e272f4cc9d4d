//! Promise: the game plays tapes and pads with no window at all, and pictures come out.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

mod common;

use std::fs;
use std::path::Path;

use common::{Running, demo, has, program, script};
use serde_json::{Value, json};
use tidy_lever::tape::{OutputLine, Reader, Replayer};
use tidy_lever::{Linkage, Moment, Profile};

/// Hands on a pad: a walk, a slip past the heron, three hops, a skim, the punt, a throw, a skim too late, the menu.
const ROUND: &str = "over-the-canal.jsonl";

/// What the game reports of this many pictures.
fn frames(folder: &Path, count: u32, more: &[&str]) -> Vec<Value> {
    let shot = folder.join("shot.png");
    let mut command = program(folder);
    command.env_remove("DISPLAY").args(["--replace", "--frames", &count.to_string(), "--shot"]).arg(&shot).args(more);
    Running::start(&mut command).ends()
}

fn path(path: &Path) -> &str {
    path.to_str().unwrap()
}

fn told(lines: &[Value]) -> String {
    lines.iter().map(|line| format!("{line}\n")).collect()
}

fn pulls(lines: &[Value]) -> Vec<String> {
    lines.iter().filter(|line| line.get("what").is_some()).map(Value::to_string).collect()
}

fn picture(folder: &Path) -> (u32, u32, Vec<u8>) {
    let file = std::io::BufReader::new(fs::File::open(folder.join("shot.png")).unwrap());
    let mut reader = png::Decoder::new(file).read_info().unwrap();
    let mut pixels = vec![0; reader.output_buffer_size().unwrap()];
    let info = reader.next_frame(&mut pixels).unwrap();
    (info.width, info.height, pixels)
}

#[test]
fn a_tape_plays_instead_of_hands_and_a_picture_is_written() {
    let folder = tempfile::tempdir().unwrap();
    let round = demo("morning-round.jsonl");
    let lines = frames(folder.path(), 400, &["--tape", path(&round), "--size", "800x500"]);
    assert!(lines.iter().any(|line| has(line, &json!({ "action": "hop", "what": "pulled", "stage": 1 }))));
    assert!(lines.iter().any(|line| has(line, &json!({ "game": "otter", "state": "walk" }))));
    let (width, height, plain) = picture(folder.path());
    assert_eq!((width, height), (800, 500));
    // The same again gives the same, and the input view shows.
    assert_eq!(frames(folder.path(), 400, &["--tape", path(&round), "--size", "800x500"]), lines);
    assert_eq!(picture(folder.path()).2, plain);
    frames(folder.path(), 400, &["--tape", path(&round), "--size", "800x500", "--inputs"]);
    assert_ne!(picture(folder.path()).2, plain);
}

#[test]
fn a_pad_plays_all_that_pim_can_do() {
    let folder = tempfile::tempdir().unwrap();
    let lines = frames(folder.path(), 1080, &["--pad", path(&demo(ROUND))]);
    let mut rest = lines.iter();
    for wanted in [
        json!({ "game": "otter", "state": "walk", "in": "quay" }),
        json!({ "action": "slip", "what": "pulled" }),
        json!({ "action": "slip", "what": "mark", "name": "hidden" }),
        json!({ "action": "slip", "what": "mark", "name": "turn" }),
        json!({ "action": "hop", "what": "pulled", "stage": 1 }),
        json!({ "action": "hop", "what": "pulled", "stage": 2 }),
        json!({ "action": "hop", "what": "pulled", "stage": 3 }),
        json!({ "action": "skim", "what": "pulled" }),
        json!({ "action": "board", "what": "pulled" }),
        json!({ "game": "otter", "in": "punt" }),
        json!({ "action": "leave", "what": "pulled" }),
        json!({ "action": "throw", "what": "pulled", "over": "toss" }),
        json!({ "game": "missed", "action": "skim", "by": 31000 }),
        json!({ "action": "hop", "what": "pulled", "stage": 2, "kept": 95001 }),
        json!({ "game": "menu", "open": true }),
    ] {
        assert!(rest.any(|line| has(line, &wanted)), "{wanted} is missing, or came too early, in\n{}", told(&lines));
    }
    let early = lines.iter().filter(|line| line["at"].as_u64() < Some(7_000_000));
    let tosses = early.filter(|line| has(line, &json!({ "action": "toss", "what": "pulled" })));
    assert_eq!(tosses.count(), 0, "a skim is not a toss");
}

#[test]
fn what_is_recorded_plays_again_in_the_game_and_out_of_it() {
    let folder = tempfile::tempdir().unwrap();
    let tape = folder.path().join("round.jsonl");
    let lines = frames(folder.path(), 1080, &["--pad", path(&demo(ROUND)), "--record", path(&tape)]);
    let again = frames(folder.path(), 1080, &["--tape", path(&tape)]);
    assert_eq!(pulls(&again), pulls(&lines));
    // The library alone, with what the game told, and in ticks of its own.
    let profile = Profile::from_toml(&fs::read_to_string(demo("otter-post.toml")).unwrap()).unwrap();
    let linkage = Linkage::build(&profile).unwrap();
    let mut seat = linkage.seat(Moment::ZERO);
    let text = fs::read_to_string(&tape).unwrap();
    let mut reader = Reader::new(text.as_bytes()).unwrap();
    let mut player = Replayer::new(reader.header());
    let mut came = Vec::new();
    for line in reader.by_ref() {
        let line = line.unwrap();
        player.put(&line, &mut seat).unwrap();
        seat.advance(line.at);
        let happened = seat.latest();
        came.extend(
            happened.happenings().filter_map(|one| OutputLine::of(one, 1, &linkage, false)).map(|came| came.json()),
        );
    }
    assert_eq!(reader.cut_at(), None);
    assert_eq!(came, pulls(&lines));
}

#[test]
fn fingers_play_on_the_panel() {
    let folder = tempfile::tempdir().unwrap();
    let tape = script(
        folder.path(),
        &[
            r#"{"at":100000,"dev":"scr","touch":1,"phase":"down","x":0.14,"y":0.76}"#,
            r#"{"at":200000,"dev":"scr","touch":1,"phase":"move","x":0.22,"y":0.76}"#,
            r#"{"at":500000,"dev":"scr","touch":2,"phase":"down","x":0.9,"y":0.82}"#,
            r#"{"at":600000,"dev":"scr","touch":2,"phase":"up","x":0.9,"y":0.82}"#,
        ],
    );
    let lines = frames(folder.path(), 60, &["--tape", path(&tape)]);
    assert!(lines.iter().any(|line| has(line, &json!({ "game": "otter", "state": "walk", "facing": "right" }))));
    assert!(lines.iter().any(|line| has(line, &json!({ "action": "hop", "what": "pulled" }))), "{}", told(&lines));
}

#[test]
fn what_cannot_be_done_is_told_with_its_place() {
    let folder = tempfile::tempdir().unwrap();
    let shot = folder.path().join("shot.png");
    let tape = script(folder.path(), &[r#"{"at":100,"dev":"p1","control":"pad:sooth","value":1}"#]);
    let broken = folder.path().join("broken.toml");
    fs::write(&broken, "tidy-lever = 1\n[action.hop]\nkind = \"buton\"\n").unwrap();
    let bare = folder.path().join("bare.toml");
    fs::write(&bare, "tidy-lever = 1\n[action.hop]\nkind = \"button\"\n").unwrap();
    for (more, told) in [
        (
            vec!["--tape", path(&tape)],
            "script.jsonl, line 2: no control is called `pad:sooth`; did you mean `pad:south`?",
        ),
        (vec!["--tape", "nowhere.jsonl"], "nowhere.jsonl can't be opened"),
        (vec!["--profile", path(&broken)], "broken.toml: line 3, column 8"),
        (vec!["--profile", path(&bare)], "the game can't play on it"),
        (vec!["--size", "0x9"], "width and height must be from 160 to 8192 pixels"),
    ] {
        let mut command = program(folder.path());
        let out = command.args(["--frames", "5", "--shot"]).arg(&shot).args(&more).output().unwrap();
        let said = String::from_utf8_lossy(&out.stderr).into_owned();
        assert!(out.status.code() == Some(2) && said.contains(told), "{more:?}: {said}");
    }
    assert!(!shot.exists());
}

/// The pictures of an animated PNG, put together as a viewer does it: how many there are, and the last one.
fn film(path: &Path) -> (u32, Vec<u8>) {
    let file = std::io::BufReader::new(fs::File::open(path).unwrap());
    let mut reader = png::Decoder::new(file).read_info().unwrap();
    let count = reader.info().animation_control().unwrap().num_frames;
    let (width, height) = reader.info().size();
    let mut whole = vec![0; (width * height * 4) as usize];
    let mut part = vec![0; reader.output_buffer_size().unwrap()];
    for _ in 0..count {
        reader.next_frame(&mut part).unwrap();
        let control = *reader.info().frame_control().unwrap();
        for (place, pixel) in part.chunks(4).take((control.width * control.height) as usize).enumerate() {
            let (x, y) =
                (place as u32 % control.width + control.x_offset, place as u32 / control.width + control.y_offset);
            if pixel[3] > 0 {
                let at = ((y * width + x) * 4) as usize;
                whole[at..at + 4].copy_from_slice(pixel);
            }
        }
    }
    (count, whole)
}

#[test]
fn the_readmes_film_delivers_three_letters_and_tells_a_near_miss() {
    let folder = tempfile::tempdir().unwrap();
    let letters = demo("three-letters.jsonl");
    let lines = frames(folder.path(), 880, &["--pad", path(&letters), "--size", "720x405", "--captions"]);
    assert!(lines.iter().any(|line| has(line, &json!({ "game": "ended", "delivered": 3 }))), "{}", told(&lines));
    let miss = json!({ "game": "missed", "action": "skim", "story": "toss came 41 ms too late" });
    assert!(lines.iter().any(|line| has(line, &miss)), "{}", told(&lines));
    // The captions are in the picture.
    frames(folder.path(), 480, &["--pad", path(&letters), "--size", "720x405", "--captions"]);
    let (_, _, with) = picture(folder.path());
    frames(folder.path(), 480, &["--pad", path(&letters), "--size", "720x405"]);
    assert_ne!(picture(folder.path()).2, with);
}

#[test]
fn a_film_adds_up_to_the_pictures_and_the_readmes_is_short_of_four_megabytes() {
    let folder = tempfile::tempdir().unwrap();
    let (own, round) = (folder.path().join("film.png"), demo(ROUND));
    let more = ["--pad", path(&round), "--size", "480x300", "--film", path(&own)];
    frames(folder.path(), 300, &[&more[..], &["--film-from", "60", "--film-every", "30"]].concat());
    let (count, last) = film(&own);
    assert_eq!(count, 8);
    // Its last picture is the shot, in a little fewer shades; but for what fades in the view.
    let (_, _, shot) = picture(folder.path());
    assert_eq!(last.len(), shot.len());
    let differ = last.iter().zip(&shot).filter(|(film, shot)| film.abs_diff(**shot) >= 8).count();
    assert!(differ * 100 < last.len(), "{differ} of {} bytes differ", last.len());
    let readmes = demo("../docs/film.png");
    assert!(fs::metadata(&readmes).unwrap().len() < 4_000_000);
    assert!(film(&readmes).0 >= 60);
    let mut command = program(folder.path());
    command.args(["--frames", "60", "--film", "f.png", "--film-from", "60"]);
    assert!(!command.status().unwrap().success(), "nothing is left to film");
}
