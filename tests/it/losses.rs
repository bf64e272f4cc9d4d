//! Promise: what is lost goes up, and nothing is pressed by it: the focus, a cable, a finger, a mode that covers, a relink.

use crate::common::{Bench, device, linkage, us};
use tidy_lever::event::Phase;
use tidy_lever::{Control, Direction, Event, Stick};

const SAIL: &str = "[modes]\nashore = { on = true }\nmenu = { covers = \"all\" }\n\
    [action.sail]\nkind = \"stick\"\nmodes = [\"ashore\"]\npad = \"left-stick\"\n\
    keys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
    [action.lamp]\nkind = \"button\"\nmodes = [\"ashore\"]\ncue = \"sail.right toggle\"\n\
    [action.any]\nkind = \"button\"\nmodes = [\"ashore\"]\ncue = \"sail press\"\n";

/// The lines that tell of presses and pulls.
fn pressed(heard: &[String]) -> Vec<&String> {
    heard.iter().filter(|line| line.ends_with("pressed") || line.ends_with("pulled")).collect()
}

#[test]
fn no_loss_turns_a_stick_to_what_is_left_of_a_diagonal_or_of_opposite_keys() {
    let losses = [
        r#"{"at":50000,"focus":false}"#,
        r#"{"at":50000,"dev":"kb","plugged":false}"#,
        r#"{"at":50000,"mode":"menu","on":true}"#,
    ];
    for loss in losses {
        for keys in [["KeyW", "KeyD"], ["KeyD", "KeyW"], ["KeyD", "KeyA"], ["KeyA", "KeyD"]] {
            let mut bench = Bench::new(SAIL);
            for (n, key) in keys.iter().enumerate() {
                bench.tape(&format!(r#"{{"at":{},"dev":"kb","control":"keys:{key}","value":1}}"#, (n + 1) * 10_000));
            }
            bench.to(40_000).heard();
            bench.tape(loss).to(60_000);
            let heard = bench.heard();
            assert!(pressed(&heard).is_empty(), "{keys:?}, {loss}: {heard:?}");
            assert_eq!(bench.xy("sail"), (0.0, 0.0));
        }
    }
}

#[test]
fn what_another_pad_still_holds_counts_as_a_level_and_its_cues_need_a_fresh_press() {
    let mut bench = Bench::new(SAIL);
    let push = |bench: &mut Bench, at: u64, pad: usize, x: f32| {
        bench.seat.feed(Event::pair(us(at), device(pad), Control::LEFT_STICK, x, 0.0)).unwrap();
    };
    push(&mut bench, 1_000, 1, 1.0);
    push(&mut bench, 2_000, 2, -1.0);
    push(&mut bench, 3_000, 1, 0.0);
    push(&mut bench, 4_000, 1, 0.99);
    bench.to(5_000);
    let sail: Stick = bench.find("sail");
    assert_eq!(bench.seat.stick(sail).direction(), Some(Direction::Right), "the one that left its rest last");
    bench.heard();
    bench.seat.feed(Event::plugged(us(6_000), device(1), false)).unwrap();
    bench.to(7_000);
    assert_eq!(bench.heard(), ["6000 sail.right released (unplugged)"]);
    assert_eq!(bench.seat.stick(sail).direction(), Some(Direction::Left));
    assert!(!bench.seat.button(bench.find("sail.left")).is_down(), "a level, and no press");
    push(&mut bench, 8_000, 2, 0.0);
    push(&mut bench, 9_000, 2, -1.0);
    bench.to(10_000);
    let heard = bench.heard();
    assert_eq!(pressed(&heard), ["9000 sail pressed", "9000 sail.left pressed", "9000 any pulled"]);
}

#[test]
fn unplugging_one_of_two_pads_drops_only_the_press_that_it_made() {
    let body = "[action.drop]\nkind = \"button\"\npad = [\"south\", \"east\"]\ncue = \"release\"\n\
        [action.bag]\nkind = \"button\"\ncue = \"drop hold 50ms\"\n";
    let run = |unplugged: usize, let_go: usize| {
        let mut bench = Bench::new(body);
        bench.level_on(1_000, 1, "pad:south", 1.0).level_on(2_000, 2, "pad:south", 1.0);
        bench.seat.feed(Event::plugged(us(10_000), device(unplugged), false)).unwrap();
        bench.level_on(90_000, let_go, "pad:south", 0.0).to(100_000);
        bench.heard().into_iter().filter(|line| line.ends_with("pulled")).collect::<Vec<_>>()
    };
    // The release counts by the press that is left; the hold stands on the first press.
    assert_eq!(run(1, 2), ["90000 drop pulled"]);
    assert_eq!(run(2, 1), ["51000 bag pulled", "90000 drop pulled"]);
}

#[test]
fn a_finger_that_is_taken_away_drops_its_own_press_and_two_on_one_stick_go_up_at_once() {
    let body = "[action.hop]\nkind = \"button\"\ntouch = [\"jump\", \"other\"]\ncue = \"release\"\n\
        [action.sail]\nkind = \"stick\"\ntouch = { up = \"jump\", right = \"other\", left = \"jump\", down = \"other\" }\n\
        [panel.jump]\nkind = \"button\"\nfrom = \"top-left\"\nat = [0.2, 0.2]\nsize = 0.1\n\
        [panel.other]\nkind = \"button\"\nfrom = \"top-left\"\nat = [0.6, 0.2]\nsize = 0.1\n";
    let body = &body.replace("left = \"jump\", down = \"other\"", "left = [], down = []");
    let mut bench = Bench::new(body);
    let finger = |bench: &mut Bench, at, number, phase, x: f32| {
        bench.seat.feed(Event::touch(us(at), device(0), number, phase, x * 720.0 / 1280.0, 0.2)).unwrap();
    };
    finger(&mut bench, 1_000, 1, Phase::Down, 0.2);
    finger(&mut bench, 2_000, 2, Phase::Down, 0.6);
    finger(&mut bench, 3_000, 1, Phase::Cancel, 0.2);
    finger(&mut bench, 4_000, 2, Phase::Up, 0.6);
    bench.to(5_000);
    let heard = bench.heard();
    assert!(heard.contains(&"4000 hop pulled".to_owned()), "{heard:?}");
    finger(&mut bench, 6_000, 1, Phase::Down, 0.2);
    finger(&mut bench, 7_000, 2, Phase::Down, 0.6);
    bench.to(7_500).heard();
    bench.tape(r#"{"at":8000,"panel":false}"#).to(9_000);
    let heard = bench.heard();
    assert!(pressed(&heard).is_empty() && heard.len() == 3, "{heard:?}");
}

#[test]
fn a_finger_that_goes_down_twice_is_another_finger_the_second_time() {
    let body = "[action.hop]\nkind = \"button\"\ntouch = \"jump\"\n\
        [panel.jump]\nkind = \"button\"\nfrom = \"top-left\"\nat = [0.2, 0.2]\nsize = 0.1\n";
    let mut bench = Bench::new(body);
    for at in [1_000, 2_000] {
        bench.seat.feed(Event::touch(us(at), device(0), 7, Phase::Down, 0.11, 0.2)).unwrap();
    }
    bench.to(3_000);
    assert_eq!(
        bench.heard(),
        [
            "1000 hop pressed",
            "1000 hop pulled",
            "2000 hop released (cancelled)",
            "2000 hop ended (cancelled)",
            "2000 hop pressed",
            "2000 hop pulled"
        ]
    );
}

#[test]
fn a_relink_presses_nothing() {
    let mut bench = Bench::new(SAIL);
    bench.level(1_000, "keys:KeyW", 1.0).level(2_000, "keys:KeyD", 1.0).to(3_000).heard();
    // Up is bound to another key now: right is left.
    bench.seat.relink(&linkage(&SAIL.replace("up = \"KeyW\"", "up = \"KeyI\"")), &mut [&mut bench.bookmark]);
    assert_eq!(bench.xy("sail"), (1.0, 0.0));
    let heard = bench.heard();
    assert!(pressed(&heard).is_empty() && heard == ["3000 sail.up-right released (relinked)"], "{heard:?}");
}

/// Losses at random moments of random hands: whatever happens at a loss, nothing is pressed and nothing pulls.
#[test]
fn at_no_loss_anything_is_pressed_or_pulls() {
    let mut dice = fastrand::Rng::with_seed(15);
    let mut losses = 0;
    for _ in 0..300 {
        let mut bench = Bench::new(&format!(
            "{SAIL}[action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\npad = \"south\"\n\
             [action.both]\nkind = \"button\"\ncue = \"toss with sail within 40ms\"\n\
             [action.let-go]\nkind = \"button\"\nmodes = [\"ashore\"]\ncue = \"toss release\"\n"
        ));
        for step in 1..60u64 {
            let at = step * 10_000;
            match dice.u8(0..6) {
                0..3 => {
                    let key = ["keys:KeyW", "keys:KeyA", "keys:KeyS", "keys:KeyD", "keys:KeyJ"][dice.usize(0..5)];
                    bench.level_on(at, 0, key, f32::from(u8::from(dice.bool())));
                }
                3 => {
                    let (x, y) = (f32::from(dice.i8(-1..=1)), f32::from(dice.i8(-1..=1)));
                    bench.seat.feed(Event::pair(us(at), device(dice.usize(1..3)), Control::LEFT_STICK, x, y)).unwrap();
                }
                4 => {
                    bench.level_on(at, dice.usize(1..3), "pad:south", f32::from(u8::from(dice.bool())));
                }
                _ => {
                    bench.to(at - 1).heard();
                    losses += 1;
                    match dice.u8(0..4) {
                        0 => bench.seat.focus_at(false, us(at)).unwrap(),
                        1 => bench.seat.set_mode_at(bench.find("menu"), true, us(at)).unwrap(),
                        _ => bench.seat.feed(Event::plugged(us(at), device(dice.usize(0..3)), false)).unwrap(),
                    }
                    bench.to(at);
                    let heard = bench.heard();
                    assert!(pressed(&heard).is_empty(), "{heard:?}");
                    bench.seat.focus_at(true, us(at + 1)).unwrap();
                    bench.seat.set_mode_at(bench.find("menu"), false, us(at + 1)).unwrap();
                }
            }
            bench.to(at + 5_000);
        }
    }
    assert!(losses > 2_000);
}
