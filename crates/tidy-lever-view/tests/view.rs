//! Promise: the input view draws every shipped profile, in any size, and shows what a hand does.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::fs;
use std::path::{Path, PathBuf};

use tidy_lever::prompt::Labels;
use tidy_lever::tape::{Reader, Replayer};
use tidy_lever::{Control, Device, Event, Linkage, Moment, Profile, Seat};
use tidy_lever_view::canvas::{Canvas, Letters};
use tidy_lever_view::tiny_skia::Pixmap;
use tidy_lever_view::{Area, InputView, Parts, Recent, Shown, came, came_on, rows};

/// The folders of the demo that hold a profile.
fn profiles() -> Vec<PathBuf> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let recipes = fs::read_dir(demo.join("recipes")).unwrap().map(|entry| entry.unwrap().path().join("profile.toml"));
    let mut all: Vec<PathBuf> = recipes.collect();
    all.push(demo.join("otter-post.toml"));
    all
}

fn linkage(text: &str) -> Linkage {
    Linkage::build(&Profile::from_toml(text).unwrap()).unwrap()
}

fn shown<'s>(seat: &'s Seat, labels: &'s Labels, recent: &'s Recent, area: Area, parts: Parts) -> Shown<'s> {
    Shown { seat, number: 1, several: false, labels, recent, now: seat.played(), area, parts }
}

/// A picture of a seat, and the view that drew it.
fn picture(view: &mut InputView, seat: &Seat, recent: &Recent, parts: Parts) -> Vec<u8> {
    let (mut pixels, mut letters) = (Pixmap::new(400, 640).unwrap(), Letters::new().unwrap());
    let area = Area { x: 8.0, y: 4.0, wide: 384.0, high: 630.0 };
    view.draw(&mut pixels, &mut letters, &shown(seat, &Labels::default(), recent, area, parts));
    pixels.data().to_vec()
}

#[test]
fn every_shipped_profile_is_drawn_in_any_size() {
    let mut letters = Letters::new().unwrap();
    for path in profiles() {
        let linkage = linkage(&fs::read_to_string(&path).unwrap());
        let mut seat = linkage.seat(Moment::ZERO);
        seat.keep_ledger(256);
        let mut recent = Recent::new();
        // What its tape holds, if it has one that goes with it.
        if let Ok(text) = fs::read(path.with_file_name("tape.jsonl")) {
            let mut reader = Reader::new(&text[..]).unwrap();
            let mut player = Replayer::new(reader.header());
            for line in reader.by_ref().take(40) {
                let line = line.unwrap();
                player.put(&line, &mut seat).unwrap();
                seat.advance(line.at.max(seat.played()));
                recent.look(1, &seat);
            }
        }
        for (wide, high) in [(1, 1), (40, 30), (300, 200), (372, 522), (900, 1000)] {
            let mut pixels = Pixmap::new(wide, high).unwrap();
            let area = Area { x: 0.0, y: 0.0, wide: wide as f32, high: high as f32 };
            for parts in [Parts::Overlay, Parts::Hands] {
                let labels = Labels::default();
                let shown = shown(&seat, &labels, &recent, area, parts);
                InputView::new().draw(&mut pixels, &mut letters, &shown);
                came(&mut pixels, &mut letters, &shown);
            }
            let first = linkage.actions().next().map(|action| action.name().to_owned());
            let mut canvas = Canvas::new(&mut pixels, &mut letters);
            rows(&mut canvas, &seat, &Labels::default(), area, 0, first.as_deref());
            let drawn = pixels.pixels().iter().any(|pixel| pixel.alpha() > 0);
            assert!(drawn, "{} at {wide}x{high}", path.display());
        }
    }
}

#[test]
fn on_a_scaled_canvas_what_came_fills_as_many_pixels_more() {
    let linkage = linkage(TEXT);
    let (seat, recent, labels) = (linkage.seat(Moment::ZERO), Recent::new(), Labels::default());
    let area = Area { x: 10.0, y: 20.0, wide: 100.0, high: 60.0 };
    let shown = shown(&seat, &labels, &recent, area, Parts::Hands);
    let mut letters = Letters::new().unwrap();
    for scale in [1.0, 2.0, 1.5] {
        let mut pixels = Pixmap::new(300, 300).unwrap();
        came_on(&mut Canvas::new(&mut pixels, &mut letters).scaled(scale), &shown);
        let drawn = |x: f32, y: f32| pixels.pixel(x as u32, y as u32).unwrap().alpha() > 0;
        let [left, top, right, bottom] = [10.0, 20.0, 110.0, 80.0].map(|edge| edge * scale);
        assert!(drawn(left, top) && drawn(right - 1.0, bottom - 1.0), "{scale}");
        assert!(!drawn(left - 1.0, top) && !drawn(right, bottom - 1.0) && !drawn(left, bottom), "{scale}");
    }
}

#[test]
fn a_scaled_view_of_hands_leaves_none_of_its_pixels_out() {
    let (seat, recent, labels) = (linkage(TEXT).seat(Moment::ZERO), Recent::new(), Labels::default());
    let mut letters = Letters::new().unwrap();
    for (scale, wide) in [(1.0, 264.0), (1.25, 264.0), (1.75, 330.0 / 1.75), (3.0, 110.0 / 3.0)] {
        let area = Area { x: 0.0, y: 0.0, wide, high: 120.0 };
        let mut pixels = Pixmap::new(500, 500).unwrap();
        let mut view = InputView::new();
        view.set_scale(scale);
        view.draw(&mut pixels, &mut letters, &shown(&seat, &labels, &recent, area, Parts::Hands));
        let right = (wide * scale).round() as u32;
        let drawn = |x: u32| pixels.pixel(x, 50).unwrap().alpha() == 255;
        assert!((0..right).all(drawn) && !drawn(right), "{wide} at {scale}");
    }
}

const TEXT: &str = "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\nkeys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
                    [action.hop]\nkind = \"button\"\nkeys = \"Space\"\n";

#[test]
fn what_is_held_is_lit_and_goes_out_again() {
    let linkage = linkage(TEXT);
    let mut seat = linkage.seat(Moment::ZERO);
    let (mut view, recent) = (InputView::new(), Recent::new());
    let rest = picture(&mut view, &seat, &recent, Parts::Hands);
    let key = |seat: &mut Seat, at, down| {
        let control: Control = "keys:KeyD".parse().unwrap();
        seat.feed(Event::button(Moment::from_millis(at), Device::default(), control, down)).unwrap();
        seat.advance(Moment::from_millis(at));
    };
    key(&mut seat, 10, true);
    let held = picture(&mut view, &seat, &recent, Parts::Hands);
    key(&mut seat, 20, false);
    assert_ne!(rest, held);
    assert_eq!(rest, picture(&mut view, &seat, &recent, Parts::Hands), "nothing is left behind");
}

#[test]
fn only_devices_that_the_profile_uses_are_shown() {
    let recent = Recent::new();
    let drawn = |text: &str| {
        let seat = linkage(text).seat(Moment::ZERO);
        picture(&mut InputView::new(), &seat, &recent, Parts::Hands)
    };
    let keys = drawn(TEXT);
    // A mouse, a pad, an axis or a gauge of its own each show.
    let more = ["mouse = \"left\"\n", "pad = \"south\"\n"].map(|more| drawn(&format!("{TEXT}{more}")));
    let axis =
        drawn(&format!("{TEXT}[action.dive]\nkind = \"axis\"\nkeys = {{ minus = \"KeyC\", plus = \"KeyX\" }}\n"));
    assert!(more.iter().chain([&axis]).all(|other| *other != keys));
    assert_ne!(more[0], more[1]);
    let no_keys = drawn("tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = \"south\"\n");
    // A keyboard is the larger part of what is lit in the first picture's upper part.
    let bright = |picture: &[u8]| picture[..400 * 160 * 4].chunks(4).filter(|pixel| pixel[0] > 0x18).count();
    assert!(bright(&no_keys) * 2 < bright(&keys), "{} {}", bright(&no_keys), bright(&keys));
}

#[test]
fn a_relinked_profile_is_drawn_anew() {
    let mut seat = linkage(TEXT).seat(Moment::ZERO);
    let (mut view, recent) = (InputView::new(), Recent::new());
    let before = picture(&mut view, &seat, &recent, Parts::Overlay);
    seat.relink(&linkage(&TEXT.replace("Space", "Enter")), &mut []);
    let after = picture(&mut view, &seat, &recent, Parts::Overlay);
    assert_ne!(before, after);
    assert_eq!(after, picture(&mut InputView::new(), &seat, &recent, Parts::Overlay));
}

#[test]
fn pulls_and_near_misses_are_remembered_the_newest_first() {
    let text = "tidy-lever = 1\n[facts]\ngrounded = false\n[action.hop]\nkind = \"button\"\nkeys = \"Space\"\nwhen = \"grounded\"\n\
                keep = \"50ms\"\n[action.lamp]\nkind = \"button\"\nkeys = \"KeyL\"\n";
    let linkage = linkage(text);
    let mut seat = linkage.seat(Moment::ZERO);
    seat.keep_ledger(64);
    let mut recent = Recent::new();
    let press = |seat: &mut Seat, at, key: &str, down| {
        let control: Control = format!("keys:{key}").parse().unwrap();
        seat.feed(Event::button(Moment::from_millis(at), Device::default(), control, down)).unwrap();
    };
    press(&mut seat, 10, "KeyL", true);
    press(&mut seat, 20, "Space", true);
    seat.tell_at(linkage.find("grounded").unwrap(), true, Moment::from_millis(90)).unwrap();
    let mut new = 0;
    for at in [50, 100, 400] {
        seat.advance(Moment::from_millis(at));
        new += recent.look(1, &seat);
    }
    let pulls: Vec<&str> = recent.pulls().map(|entry| entry.text.as_str()).collect();
    let misses: Vec<&str> = recent.misses().map(|miss| miss.entry.text.as_str()).collect();
    assert_eq!((pulls, misses, new), (vec!["lamp"], vec!["hop: 20 ms off"], 1));
    assert!(recent.is_new(Moment::from_millis(400), std::time::Duration::from_secs(1)));
}
