//! Promise: a finger is heard by one patch; sliding, floating, second fingers, cancelling and storms of it all lose nothing.

use crate::common::{Bench, device, linkage, us};
use proptest::prelude::*;
use tidy_lever::event::Phase;
use tidy_lever::seat::Capacity;
use tidy_lever::{Direction, Event, Linkage, Mode, Seat};

/// A cross at the lower left, a floating stick beside it, two buttons at the lower right, a zone at the top; 1280x720.
const PANEL: &str = r#"
[modes]
ashore = { on = true }
menu = { covers = "all" }
[action.steer]
kind = "stick"
modes = ["ashore"]
touch = "arrows"
[action.roam]
kind = "stick"
modes = ["ashore"]
touch = "thumb"
[action.hop]
kind = "button"
modes = ["ashore"]
touch = "jump"
[action.toss]
kind = "button"
modes = ["ashore"]
touch = "throw"
[action.poke]
kind = "button"
touch = "sky"
[action.swipe]
kind = "stick"
touch = "sky-swipe"
[action.point]
kind = "pointer"
touch = "place"
[panel.arrows]
kind = "cross"
from = "bottom-left"
at = [0.25, 0.25]
size = 0.2
[panel.thumb]
kind = "stick"
from = "bottom-left"
at = [0.62, 0.25]
size = 0.15
floats = true
[panel.jump]
kind = "button"
from = "bottom-right"
at = [0.15, 0.15]
size = 0.1
[panel.throw]
kind = "button"
from = "bottom-right"
at = [0.4, 0.15]
size = 0.1
[panel.sky]
kind = "zone"
from = "top-right"
at = [0.4, 0.2]
size = [0.4, 0.2]
"#;

/// A finger at a place in pixels of 1280 by 720.
fn finger(bench: &mut Bench, at: u64, number: u64, phase: Phase, (x, y): (f32, f32)) {
    bench.seat.feed(Event::touch(us(at), device(0), number, phase, x / 1280.0, y / 720.0)).unwrap();
}

/// The middle of the cross, and its arms.
const CROSS: (f32, f32) = (180.0, 540.0);
const RIGHT: (f32, f32) = (280.0, 540.0);
const UP: (f32, f32) = (180.0, 440.0);
const JUMP: (f32, f32) = (1172.0, 612.0);
const THROW: (f32, f32) = (992.0, 612.0);
const NOWHERE: (f32, f32) = (640.0, 360.0);

#[test]
fn a_thumb_slides_from_arm_to_arm_and_lifting_stops() {
    let mut bench = Bench::new(PANEL);
    let steer = bench.find("steer");
    finger(&mut bench, 1_000, 7, Phase::Down, RIGHT);
    bench.to(1_000);
    assert_eq!(bench.xy("steer"), (1.0, 0.0));
    let lit: Vec<(bool, (f32, f32))> = bench.seat.panel().map(|patch| (patch.is_held, patch.lit)).collect();
    assert_eq!(lit[..2], [(true, (1.0, 0.0)), (false, (0.0, 0.0))]);
    // Up and to the right: the diagonal, no longer than a straight.
    finger(&mut bench, 2_000, 7, Phase::Move, (260.0, 460.0));
    bench.to(2_000);
    assert_eq!(bench.seat.stick(steer).direction(), Some(Direction::UpRight));
    assert!((bench.seat.stick(steer).size() - 1.0).abs() < 1e-5);
    finger(&mut bench, 3_000, 7, Phase::Move, UP);
    bench.to(3_000);
    assert_eq!(bench.xy("steer"), (0.0, 1.0));
    // In the very middle it points nowhere; far outside it still is the cross's.
    finger(&mut bench, 4_000, 7, Phase::Move, CROSS);
    bench.to(4_000);
    assert_eq!(bench.seat.stick(steer).direction(), None);
    finger(&mut bench, 5_000, 7, Phase::Move, (1000.0, 540.0));
    bench.to(5_000);
    assert_eq!(bench.xy("steer"), (1.0, 0.0));
    finger(&mut bench, 6_000, 7, Phase::Up, (1000.0, 540.0));
    bench.to(6_000);
    assert_eq!(bench.xy("steer"), (0.0, 0.0));
    assert!(bench.heard_of("steer.right").last().unwrap().ends_with("released (let go)"));
}

#[test]
fn two_fingers_hold_two_patches_and_a_second_on_one_is_ignored() {
    let mut bench = Bench::new(PANEL);
    finger(&mut bench, 1_000, 1, Phase::Down, JUMP);
    finger(&mut bench, 2_000, 2, Phase::Down, THROW);
    finger(&mut bench, 3_000, 3, Phase::Down, (1180.0, 600.0));
    finger(&mut bench, 4_000, 3, Phase::Up, (1180.0, 600.0));
    // Sliding from one button to another presses nothing: a finger stays where it went down.
    finger(&mut bench, 5_000, 2, Phase::Move, JUMP);
    finger(&mut bench, 6_000, 1, Phase::Up, JUMP);
    finger(&mut bench, 7_000, 2, Phase::Up, JUMP);
    bench.to(9_000);
    assert_eq!(
        bench.heard_of("hop"),
        ["1000 hop pressed", "1000 hop pulled", "6000 hop released (let go)", "6000 hop ended (let go)"]
    );
    assert_eq!(bench.heard().len(), 0);
    assert_eq!(bench.seat.button(bench.find("toss")).last_held_for().as_micros(), 5_000);
    // A little beside a patch still hits it, the nearest of two; far beside, nothing.
    for (x, hits) in [(1172.0 + 85.0, 1), (1172.0 + 95.0, 0), (1076.0, 0)] {
        let mut bench = Bench::new(PANEL);
        finger(&mut bench, 1_000, 1, Phase::Down, (x, 612.0));
        bench.to(2_000);
        assert_eq!(bench.seat.button(bench.find("hop")).presses(), hits, "{x}");
    }
}

#[test]
fn a_floating_stick_begins_where_the_thumb_goes_down() {
    let mut bench = Bench::new(PANEL);
    finger(&mut bench, 1_000, 1, Phase::Down, (500.0, 500.0));
    bench.to(1_000);
    assert_eq!(bench.xy("roam"), (0.0, 0.0));
    let patch = bench.seat.panel().nth(1).unwrap();
    let near = |place: (f32, f32)| (place.0 - 500.0).abs() < 0.01 && (place.1 - 500.0).abs() < 0.01;
    assert!(near(patch.middle) && patch.thumb.is_some_and(near), "{patch:?}");
    // Its radius is 0.15 of 720 pixels; beyond, it is as far as it goes.
    finger(&mut bench, 2_000, 1, Phase::Move, (554.0, 500.0));
    bench.to(2_000);
    assert!((bench.xy("roam").0 - 0.5).abs() < 1e-4 && bench.xy("roam").1 == 0.0);
    finger(&mut bench, 3_000, 1, Phase::Move, (500.0, 900.0));
    bench.to(3_000);
    assert!((bench.xy("roam").1 + 1.0).abs() < 1e-5);
    finger(&mut bench, 4_000, 1, Phase::Cancel, (500.0, 900.0));
    bench.to(4_000);
    assert_eq!(bench.xy("roam"), (0.0, 0.0));
    assert!(bench.heard_of("roam.down").last().unwrap().ends_with("released (cancelled)"));
}

#[test]
fn a_panel_that_changes_under_the_fingers_cancels_them_until_they_lift() {
    let changes = [
        (r#"{"at":2000,"view":[720,1280]}"#, "cancelled"),
        (r#"{"at":2000,"panel":false}"#, "cancelled"),
        (r#"{"at":2000,"mode":"menu","on":true}"#, "covered"),
        (r#"{"at":2000,"focus":false}"#, "focus lost"),
    ];
    for (line, cause) in changes {
        let mut bench = Bench::new(PANEL);
        finger(&mut bench, 1_000, 1, Phase::Down, JUMP);
        bench.tape(line);
        bench.tape(r#"{"at":2500,"focus":true}"#).tape(r#"{"at":2500,"mode":"menu","on":false}"#);
        finger(&mut bench, 3_000, 1, Phase::Move, JUMP);
        finger(&mut bench, 4_000, 1, Phase::Up, JUMP);
        bench.to(9_000);
        let heard = bench.heard_of("hop");
        assert_eq!(heard[2..], [format!("2000 hop released ({cause})"), format!("2000 hop ended ({cause})")], "{line}");
    }
    // Telling the same size again changes nothing; unplugging the screen does.
    let mut bench = Bench::new(PANEL);
    finger(&mut bench, 1_000, 1, Phase::Down, JUMP);
    bench.tape(r#"{"at":2000,"view":[1280,720]}"#).to(2_500);
    assert!(bench.seat.button(bench.find("hop")).is_down());
    bench.seat.feed(Event::plugged(us(3_000), device(0), false)).unwrap();
    bench.to(4_000);
    assert_eq!(bench.heard_of("hop").last().unwrap(), "3000 hop ended (unplugged)");
    finger(&mut bench, 5_000, 1, Phase::Down, JUMP);
    bench.to(5_000);
    assert!(bench.seat.button(bench.find("hop")).went_down());
}

#[test]
fn where_no_patch_is_a_finger_points_and_zones_hear_taps_and_swipes() {
    let mut bench = Bench::new(PANEL);
    let point = bench.find("point");
    finger(&mut bench, 1_000, 1, Phase::Down, NOWHERE);
    bench.to(1_000);
    assert_eq!(bench.seat.pointer(point).pixels(), Some((640.0, 360.0)));
    assert!(bench.seat.pointer(point).edges().is_down());
    // A second finger doesn't take the pointer along.
    finger(&mut bench, 1_500, 2, Phase::Down, (700.0, 300.0));
    finger(&mut bench, 2_000, 1, Phase::Move, (660.0, 360.0));
    finger(&mut bench, 3_000, 1, Phase::Up, (660.0, 360.0));
    bench.to(3_000);
    assert_eq!(bench.seat.pointer(point).pixels(), Some((660.0, 360.0)));
    assert_eq!(bench.heard_of("point.drag").len(), 2);
    // In the zone: a tap, and a swipe to the left.
    let mut bench = Bench::new(PANEL);
    finger(&mut bench, 1_000, 1, Phase::Down, (1000.0, 100.0));
    finger(&mut bench, 5_000, 1, Phase::Move, (900.0, 100.0));
    bench.to(5_000);
    assert!(bench.seat.button(bench.find("poke")).is_down());
    assert_eq!(bench.seat.stick(bench.find("swipe")).direction(), Some(Direction::Left));
    finger(&mut bench, 6_000, 1, Phase::Up, (900.0, 100.0));
    bench.to(6_000);
    assert_eq!(bench.xy("swipe"), (0.0, 0.0));
    // In the menu the cross isn't heard: a finger on it is a finger on nothing.
    let mut bench = Bench::new(PANEL);
    let menu: Mode = bench.find("menu");
    bench.seat.set_mode(menu, true).unwrap();
    finger(&mut bench, 1_000, 1, Phase::Down, RIGHT);
    bench.to(1_000);
    assert_eq!((bench.xy("steer"), bench.seat.panel().filter(|patch| patch.is_heard).count()), ((0.0, 0.0), 0));
}

#[test]
fn one_layout_fits_all_screens_and_what_does_not_is_told() {
    let told = |body: &str, (width, height, dpi): (u32, u32, f64)| linkage(body).panel_problems(width, height, dpi);
    // A phone, a tablet, an ultrawide screen.
    for screen in [(2340, 1080, 400.0), (2048, 1536, 264.0), (3440, 1440, 110.0)] {
        assert_eq!(told(PANEL, screen), Vec::<String>::new(), "{screen:?}");
        for patch in linkage(PANEL).patches() {
            let frame = patch.frame(screen.0, screen.1);
            let inside = |middle: f32, half: f32, whole: u32| middle - half >= 0.0 && middle + half <= whole as f32;
            assert!(inside(frame.middle.0, frame.half.0, screen.0) && inside(frame.middle.1, frame.half.1, screen.1));
        }
    }
    // Held upright, the two thumbs' patches meet.
    assert!(told(PANEL, (1080, 2340, 400.0)).iter().any(|told| told.contains("overlaps")));
    let small = told(&PANEL.replace("size = 0.1\n", "size = 0.05\n"), (2340, 1080, 400.0));
    assert_eq!(
        small[0],
        "panel.jump: it is 6.9 mm wide at 2340x1080 at 400 dots per inch; below 9 mm it is hard to hit"
    );
    let off = told(&PANEL.replace("at = [0.15, 0.15]", "at = [0.05, 0.15]"), (1280, 720, 160.0));
    assert_eq!(off, ["panel.jump: it reaches beyond the edge of a 1280x720 screen"]);
    let unheard = told(&PANEL.replace("touch = \"jump\"\n", ""), (1280, 720, 160.0));
    assert_eq!(unheard, ["panel.jump: no action uses this touch control; bind it with `touch = \"jump\"`"]);
}

/// Something that may happen to a screen, a keyboard and a window.
#[derive(Clone, Debug)]
enum Storm {
    Finger(u64, u8, u16, u16),
    Key(bool),
    Stick(i8, i8),
    Plugged(usize, bool),
    Focus(bool),
    View(bool),
    Panel(bool),
    Menu(bool),
}

fn storm() -> impl Strategy<Value = Storm> {
    prop_oneof![
        8 => (0u64..20, 0u8..4, 0u16..1280, 0u16..720).prop_map(|(n, phase, x, y)| Storm::Finger(n, phase, x, y)),
        2 => any::<bool>().prop_map(Storm::Key),
        2 => (-10i8..=10, -10i8..=10).prop_map(|(x, y)| Storm::Stick(x, y)),
        1 => (0usize..3, any::<bool>()).prop_map(|(device, plugged)| Storm::Plugged(device, plugged)),
        1 => any::<bool>().prop_map(Storm::Focus),
        1 => any::<bool>().prop_map(Storm::View),
        1 => any::<bool>().prop_map(Storm::Panel),
        1 => any::<bool>().prop_map(Storm::Menu),
    ]
}

fn strike(seat: &mut Seat, linkage: &Linkage, at: u64, storm: &Storm) {
    match *storm {
        Storm::Finger(n, phase, x, y) => {
            let phase = Phase::ALL[usize::from(phase)];
            seat.feed(Event::touch(us(at), device(0), n, phase, f32::from(x) / 1280.0, f32::from(y) / 720.0)).unwrap();
        }
        Storm::Key(down) => {
            let key = linkage.control("keys:Space").unwrap();
            seat.feed(Event::button(us(at), device(1), key, down)).unwrap();
        }
        Storm::Stick(x, y) => {
            let stick = linkage.control("pad:left-stick").unwrap();
            seat.feed(Event::pair(us(at), device(2), stick, f32::from(x) / 10.0, f32::from(y) / 10.0)).unwrap();
        }
        Storm::Plugged(number, plugged) => seat.feed(Event::plugged(us(at), device(number), plugged)).unwrap(),
        Storm::Focus(focus) => seat.focus_at(focus, us(at)).unwrap(),
        Storm::View(wide) => seat.set_view_at(if wide { 1280 } else { 720 }, 720, us(at)).unwrap(),
        Storm::Panel(shown) => seat.show_panel_at(shown, us(at)).unwrap(),
        Storm::Menu(on) => seat.set_mode_at(linkage.find("menu").unwrap(), on, us(at)).unwrap(),
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn after_any_storm_everything_is_up_once_the_hands_are_off(
        storms in prop::collection::vec((1u64..3_000, storm()), 1..120),
        cuts in prop::collection::vec(1u64..40, 1..6),
    ) {
        let body = PANEL
            .replace("touch = \"jump\"", "touch = \"jump\"\nkeys = \"Space\"")
            .replace("touch = \"arrows\"", "touch = \"arrows\"\npad = \"left-stick\"");
        let linkage = linkage(&body);
        let mut hashes = Vec::new();
        for cut in [0, cuts[0]] {
            let mut seat = linkage.seat_with(us(0), Capacity::default().history(4_096)).unwrap();
            let mut at = 0;
            for (wait, storm) in &storms {
                at += wait;
                strike(&mut seat, &linkage, at, storm);
                if cut == 0 || at % cut == 0 {
                    seat.advance(us(at));
                }
            }
            // All hands off: every finger lifts, keys and sticks come to rest.
            at += 1_000;
            for n in 0..20 {
                strike(&mut seat, &linkage, at + n, &Storm::Finger(n, 2, 0, 0));
            }
            strike(&mut seat, &linkage, at + 30, &Storm::Key(false));
            strike(&mut seat, &linkage, at + 30, &Storm::Stick(0, 0));
            seat.advance(us(at + 5_000_000));
            for action in ["hop", "toss", "poke"] {
                let button = seat.button(linkage.find(action).unwrap());
                prop_assert!(!button.is_down() && !button.is_on(), "{action} is stuck");
            }
            for stick in ["steer", "roam", "swipe"] {
                prop_assert_eq!(seat.stick(linkage.find(stick).unwrap()).xy(), (0.0, 0.0), "{} is stuck", stick);
            }
            prop_assert!(!seat.pointer(linkage.find("point").unwrap()).edges().is_down());
            prop_assert!(seat.panel().all(|patch| !patch.is_held && patch.lit == (0.0, 0.0)));
            hashes.push(seat.state_hash());
        }
        prop_assert_eq!(hashes[0], hashes[1], "cuts change nothing");
    }
}
