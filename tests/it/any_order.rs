//! Promise: events play in the order of their moments, whatever the order in which they are fed.

use crate::common::{Bench, device, us};
use tidy_lever::event::Phase;
use tidy_lever::{Button, Control, Event};

const HOP: &str =
    "[action.hop]\nkind = \"button\"\nkeys = \"Space\"\n[action.scroll]\nkind = \"button\"\nmouse = \"wheel-up\"\n";

fn key(at: u64, down: bool) -> Event {
    Event::button(us(at), device(0), "keys:Space".parse().unwrap(), down)
}

#[test]
fn a_key_whose_going_up_was_fed_first_does_not_stick() {
    let mut bench = Bench::new(HOP);
    let hop: Button = bench.find("hop");
    bench.seat.feed(key(60_000, false)).unwrap();
    bench.seat.feed(key(20_000, true)).unwrap();
    bench.to(100_000);
    assert_eq!(
        bench.heard(),
        ["20000 hop pressed", "20000 hop pulled", "60000 hop released (let go)", "60000 hop ended (let go)"]
    );
    assert!(!bench.seat.button(hop).is_down());
    // Both late: at the first moment there is, still in their order.
    bench.seat.feed(key(60_000, false)).unwrap();
    bench.seat.feed(key(20_000, true)).unwrap();
    bench.to(200_000);
    assert!(!bench.seat.button(hop).is_down());
    assert_eq!(bench.heard()[0], "100001 hop pressed");
}

#[test]
fn any_order_of_feeding_plays_the_same_keys_wheels_fingers_and_cables_too() {
    let body = format!(
        "{HOP}[action.poke]\nkind = \"button\"\ntouch = \"jump\"\n[action.sail]\nkind = \"stick\"\npad = \"left-stick\"\n\
         [panel.jump]\nkind = \"button\"\nfrom = \"top-left\"\nat = [0.2, 0.2]\nsize = 0.1\n"
    );
    let mut dice = fastrand::Rng::with_seed(3);
    for _ in 0..400 {
        let mut at = 0;
        let mut event = |_| {
            // Moments are apart: what shares one plays as fed.
            at += dice.u64(2..5_000);
            match dice.u8(0..8) {
                0..3 => key(at, dice.bool()),
                3 => Event::level(us(at), device(1), Control::WHEEL_UP, f32::from(dice.u8(1..4))),
                4 | 5 => {
                    let phase = [Phase::Down, Phase::Up, Phase::Move, Phase::Cancel][dice.usize(0..4)];
                    Event::touch(us(at), device(2), dice.u64(1..4), phase, 0.11, 0.2)
                }
                6 => Event::pair(us(at), device(3), Control::LEFT_STICK, f32::from(dice.i8(-1..=1)), 0.0),
                _ => Event::plugged(us(at), device(dice.usize(0..4)), false),
            }
        };
        let events: Vec<Event> = (0..40).map(&mut event).collect();
        let end = at + 1_000;
        let run = |order: &[usize]| {
            let mut bench = Bench::new(&body);
            order.iter().for_each(|place| bench.seat.feed(events[*place]).unwrap());
            bench.to(end);
            let rest = bench.seat.stats();
            (bench.heard(), bench.seat.state_hash(), rest)
        };
        let mut order: Vec<usize> = (0..events.len()).collect();
        let wanted = run(&order);
        for _ in 0..3 {
            dice.shuffle(&mut order);
            assert_eq!(run(&order), wanted);
        }
    }
}

#[test]
fn a_second_change_in_one_moment_moves_on_whatever_comes_next() {
    let mut bench = Bench::new(HOP);
    // Down, up, down, up at one moment; and a third press 1 µs later, which lines up behind them.
    for (at, down) in [(101, true), (100, true), (100, false), (100, true), (100, false), (101, false)] {
        bench.seat.feed(key(at, down)).unwrap();
    }
    bench.to(1_000);
    let heard = bench.heard_of("hop");
    let presses: Vec<&str> = heard.iter().filter(|line| line.ends_with("pressed")).map(|line| &line[..3]).collect();
    assert_eq!(presses, ["100", "102", "104"], "{heard:?}");
    assert_eq!(bench.seat.stats().moved_on, 5);
}

#[test]
fn two_turns_of_a_wheel_at_one_moment_lose_no_notch() {
    let mut bench = Bench::new(HOP);
    for notches in [3.0, 2.0] {
        bench.seat.feed(Event::level(us(100), device(0), Control::WHEEL_UP, notches)).unwrap();
    }
    bench.to(1_000);
    assert_eq!(bench.pulls_of("scroll"), [100, 102, 104, 106, 108]);
}

#[test]
fn a_storm_of_fingers_is_handed_back_when_there_is_no_room_and_nothing_is_lost() {
    let body = "[action.hop]\nkind = \"button\"\ntouch = \"jump\"\n\
        [panel.jump]\nkind = \"button\"\nfrom = \"top-left\"\nat = [0.2, 0.2]\nsize = 0.1\n";
    let mut bench = Bench::new(body);
    let mut at = 0;
    for number in 0..5_000u64 {
        for phase in [Phase::Down, Phase::Up] {
            at += 10;
            let event = Event::touch(us(at), device(0), number, phase, 0.11, 0.2);
            if let Err(error) = bench.seat.feed(event) {
                // As it says: advance, then feed again.
                bench.to(at - 1);
                bench.seat.feed(error.event).unwrap();
            }
        }
    }
    bench.to(at);
    let hop: Button = bench.find("hop");
    let reading = bench.seat.read(&mut bench.bookmark);
    assert_eq!((reading.button(hop).pulls(), bench.seat.stats().unheard), (5_000, 0));
}
