//! Promise: listening for a new control, prompts and the family in use follow what a player does.

use std::time::Duration;

use crate::common::{Bench, device, linkage, us};
use tidy_lever::event::Phase;
use tidy_lever::listening::{Heard, Listening, Want};
use tidy_lever::prompt::Labels;
use tidy_lever::remap::{Clash, Remap};
use tidy_lever::table::{Fed, Table};
use tidy_lever::{Button, Control, Event, Family, Linkage, Profile, Stick};

const BODY: &str = "[action.hop]\nkind = \"button\"\nkeys = \"Space\"\npad = \"south\"\n\
    [action.steer]\nkind = \"stick\"\npad = \"left-stick\"\npad_shape = { dead = 0.1 }\n\
    keys = { up = [\"KeyW\", \"ArrowUp\"], left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }\n\
    [action.look]\nkind = \"sweep\"\nmouse = \"move\"\n[action.point]\nkind = \"pointer\"\nmouse = [\"place\", \"left\"]\ntouch = \"place\"\n\
    [action.squeeze]\nkind = \"axis\"\npad = { plus = \"right-trigger\" }\n";

fn key(name: &str) -> Control {
    format!("keys:{name}").parse().unwrap()
}

fn control(name: &str) -> Heard {
    Heard::Control(name.parse().unwrap())
}

#[test]
fn a_drifting_stick_is_no_answer_and_a_pushed_one_is() {
    let mut listening = Listening::new(us(0));
    let pair = |at, x, y| Event::pair(us(at), device(0), Control::LEFT_STICK, x, y);
    // It rests at 0.3 and trembles; then somebody breathes on it; then it is pushed up.
    for (at, x, y) in [(1, 0.3, 0.05), (2, 0.35, 0.0), (3, 0.28, -0.1), (4, 0.6, 0.1), (5, 0.31, 0.0)] {
        assert_eq!(listening.hear(&pair(at * 1_000, x, y)), Heard::Nothing, "{x}, {y}");
    }
    assert_eq!(listening.hear(&pair(6_000, 0.2, 0.9)), control("pad:left-stick.up"));
    // What was heard stays heard.
    assert_eq!(listening.hear(&Event::button(us(7_000), device(1), key("KeyJ"), true)), control("pad:left-stick.up"));
    // A drift to one side that wanders far slowly has travelled half the way at last.
    for (want, heard) in
        [(Want::Stick, "pad:left-stick"), (Want::Axis, "pad:left-stick.x"), (Want::Button, "pad:left-stick.left")]
    {
        let mut listening = Listening::new(us(0)).want(want);
        assert_eq!(listening.hear(&pair(1_000, 0.0, 0.0)), Heard::Nothing);
        assert_eq!(listening.hear(&pair(2_000, -0.5, 0.1)), Heard::Nothing);
        assert_eq!(listening.hear(&pair(3_000, -0.95, 0.1)), control(heard));
    }
    let level = |at, value| Event::level(us(at), device(0), Control::LEFT_TRIGGER, value);
    let mut listening = Listening::new(us(0));
    for (at, value, expected) in
        [(1, 0.2, Heard::Nothing), (2, 0.6, Heard::Nothing), (3, 0.75, control("pad:left-trigger"))]
    {
        assert_eq!(listening.hear(&level(at, value)), expected, "a trigger that rests at 0.2");
    }
}

#[test]
fn what_is_held_already_is_no_answer_before_it_was_let_go() {
    let mut bench = Bench::new(BODY);
    bench.level(10, "keys:Space", 1.0);
    bench.pair(20, Control::LEFT_STICK, 0.9, 0.0).to(1_000);
    let mut listening = Listening::new(us(1_000)).after(&bench.seat);
    let space = |at, down| Event::button(us(at), device(0), key("Space"), down);
    let stick = |at, x| Event::pair(us(at), device(1), Control::LEFT_STICK, x, 0.0);
    assert_eq!(listening.hear(&space(2_000, true)), Heard::Nothing, "the keyboard repeats it");
    assert_eq!(listening.hear(&stick(2_500, 0.95)), Heard::Nothing, "pushed all the while");
    assert_eq!(listening.hear(&space(3_000, false)), Heard::Nothing);
    assert_eq!(listening.hear(&space(4_000, true)), control("keys:Space"));
    let mut listening = Listening::new(us(1_000)).after(&bench.seat);
    assert_eq!(listening.hear(&stick(2_000, 0.0)), Heard::Nothing);
    assert_eq!(listening.hear(&stick(3_000, 0.9)), control("pad:left-stick.right"));
}

#[test]
fn it_ends_by_the_way_out_or_in_time_and_hears_only_what_it_wants() {
    let escape = key("Escape");
    let press = |at, control| Event::button(us(at), device(0), control, true);
    let listening = || Listening::new(us(0)).only(&[Family::Pad]).limit(Duration::from_secs(5)).way_out(escape);
    assert_eq!(listening().hear(&press(10, key("KeyJ"))), Heard::Nothing, "the wrong family");
    assert_eq!(listening().hear(&press(10, escape)), Heard::Out);
    assert_eq!(listening().hear(&press(10, Control::PAD_EAST)), control("pad:east"));
    let mut late = listening();
    assert_eq!((late.by(us(4_999_999)), late.by(us(5_000_000))), (Heard::Nothing, Heard::TimedOut));
    assert_eq!(late.hear(&press(5_000_001, Control::PAD_EAST)), Heard::TimedOut);
    assert_eq!(listening().want(Want::Stick).hear(&press(10, Control::PAD_EAST)), Heard::Nothing);
    // A mouse that is moved is none; its wheel and its buttons are.
    let mut mouse = Listening::new(us(0));
    assert_eq!(mouse.hear(&Event::pair(us(1), device(2), Control::MOUSE_MOVE, 300.0, 9.0)), Heard::Nothing);
    assert_eq!(mouse.hear(&Event::level(us(2), device(2), Control::WHEEL_UP, 1.0)), control("mouse:wheel-up"));
    assert_eq!(
        mouse.hear(&Event::pair(us(3), device(2), Control::LEFT_STICK, f32::NAN, 0.0)),
        control("mouse:wheel-up")
    );
    // What was heard goes straight into a remap.
    let profile = Profile::from_toml(&format!("tidy-lever = 1\n{BODY}")).unwrap();
    let Heard::Control(heard) = listening().hear(&press(10, Control::PAD_EAST)) else { panic!("heard") };
    let mut remap = Remap::new();
    remap.bind(&profile, &"hop.pad".parse().unwrap(), &[heard], Clash::Refuse).unwrap();
    assert_eq!(remap.over(&profile).unwrap().linkage.action("hop").unwrap().controls()[1].name, "pad:east");
}

#[test]
fn prompts_have_plain_names_and_the_labels_of_this_keyboard() {
    let linkage = linkage(BODY);
    let mut labels = Labels::default();
    labels.set(key("KeyW"), "Z");
    labels.set(key("KeyA"), " Q ");
    let texts = |action: &str, family| -> Vec<String> {
        linkage.prompts(action, family, &labels).into_iter().map(|prompt| prompt.text).collect()
    };
    assert_eq!(texts("steer", Family::Keys), ["Z", "up arrow", "Q", "S", "D"]);
    assert_eq!(texts("hop", Family::Pad), ["south button"]);
    assert_eq!(texts("squeeze", Family::Pad), ["right trigger"]);
    assert_eq!(texts("look", Family::Mouse), ["mouse"]);
    assert_eq!(texts("hop", Family::Mouse), Vec::<String>::new());
    let ids: Vec<String> =
        linkage.prompts("steer", Family::Keys, &labels).into_iter().map(|prompt| prompt.id).collect();
    assert_eq!(ids[0], "keys:KeyW", "the id is by position, whatever is printed on the key");
    labels.set(key("KeyW"), "");
    assert_eq!(linkage.prompts("steer", Family::Keys, &labels)[0].text, "W");
    let names = [
        ("Digit1", "1"),
        ("Numpad5", "keypad 5"),
        ("NumpadEnter", "keypad enter"),
        ("ShiftLeft", "left shift"),
        ("ControlRight", "right control"),
        ("BracketLeft", "left bracket"),
        ("PageDown", "page down"),
        ("F11", "F11"),
        ("Space", "space"),
        ("Escape", "escape"),
        ("CapsLock", "caps lock"),
        ("Backquote", "backquote"),
    ];
    for (code, name) in names {
        let body = format!("[action.act]\nkind = \"button\"\nkeys = \"{code}\"\n");
        assert_eq!(crate::common::linkage(&body).prompts("act", Family::Keys, &Labels::default())[0].text, name);
    }
}

#[test]
fn the_family_in_use_changes_by_use_and_not_by_noise() {
    let mut bench = Bench::new(BODY);
    assert_eq!(bench.seat.family(), None);
    bench.level(1_000, "keys:Space", 1.0).to(2_000);
    assert_eq!((bench.seat.family(), bench.seat.latest().family_changed()), (Some(Family::Keys), Some(Family::Keys)));
    // A stick that trembles, a trigger that rests at a fifth, a desk that is bumped: nothing.
    for n in 0..20u64 {
        bench.pair(3_000 + n * 100, Control::LEFT_STICK, if n % 2 == 0 { 0.2 } else { 0.3 }, 0.1);
    }
    bench.level_on(5_000, 1, "pad:right-trigger", 0.2);
    bench.seat.feed(Event::pair(us(5_100), device(2), Control::MOUSE_MOVE, 9.0, -3.0)).unwrap();
    bench.seat.feed(Event::pair(us(5_200), device(2), Control::MOUSE_PLACE, 0.5, 0.5)).unwrap();
    bench.seat.feed(Event::pair(us(5_300), device(2), Control::MOUSE_PLACE, 0.501, 0.5)).unwrap();
    bench.to(6_000);
    assert_eq!((bench.seat.family(), bench.seat.latest().family_changed()), (Some(Family::Keys), None));
    bench.pair(7_000, Control::LEFT_STICK, 0.8, 0.0).to(8_000);
    assert_eq!(bench.seat.latest().family_changed(), Some(Family::Pad));
    for n in 0..6u64 {
        bench.seat.feed(Event::pair(us(9_000 + n), device(2), Control::MOUSE_MOVE, 9.0, 0.0)).unwrap();
    }
    bench.to(10_000);
    assert_eq!(bench.seat.family(), Some(Family::Mouse));
    bench.seat.feed(Event::touch(us(11_000), device(3), 1, Phase::Down, 0.5, 0.5)).unwrap();
    bench.to(12_000);
    assert_eq!(bench.seat.family(), Some(Family::Touch));
    // A reader that looks later learns of it once.
    let mut bookmark = bench.bookmark.clone();
    assert_eq!(bench.seat.read(&mut bookmark).family_changed(), Some(Family::Touch));
    assert_eq!(bench.seat.read(&mut bookmark).family_changed(), None);
}

/// A body whose stick is this control of the pad.
fn on_stick(control: &str) -> Linkage {
    linkage(&format!(
        "[action.steer]\nkind = \"stick\"\npad = \"{control}\"\n[action.hop]\nkind = \"button\"\npad = [\"south\", \"start\"]\n"
    ))
}

fn push(table: &mut Table, at: u64, pad: usize, control: Control, x: f32, y: f32) -> Fed {
    table.feed(Event::pair(us(at), device(pad), control, x, y)).unwrap()
}

fn press(table: &mut Table, at: u64, pad: usize, control: Control, down: bool) -> Fed {
    table.feed(Event::button(us(at), device(pad), control, down)).unwrap()
}

#[test]
fn two_play_on_one_pad_each_by_their_own_stick() {
    let (left, right) = (on_stick("left-stick"), on_stick("dpad"));
    let mut table = Table::new(&left, 2);
    assert_eq!((table.sit(&left, &[device(0)]), table.sit(&right, &[device(0)])), (Some(1), Some(2)));
    assert_eq!(table.sit(&left, &[device(1)]), None, "all places are taken");
    push(&mut table, 1_000, 0, Control::LEFT_STICK, 1.0, 0.0);
    // All four directions of the second one work.
    for (at, (x, y)) in [(2_000, (0.0, 1.0)), (3_000, (-1.0, 0.0)), (4_000, (0.0, -1.0)), (5_000, (1.0, 0.0))] {
        assert_eq!(push(&mut table, at, 0, Control::DPAD, x, y), Fed::Heard(2));
        table.advance(us(at));
        let steer = |number: usize, linkage: &Linkage| {
            table.seat(number).unwrap().stick(linkage.find::<Stick>("steer").unwrap()).xy()
        };
        assert_eq!((steer(1, &left), steer(2, &right)), ((1.0, 0.0), (x, y)));
    }
}

#[test]
fn who_presses_start_joins_leaves_and_comes_back_to_the_same_place() {
    let linkage = on_stick("left-stick");
    let hop: Button = linkage.find("hop").unwrap();
    let mut table = Table::new(&linkage, 2).join_by(Control::PAD_START);
    table.advance(us(500));
    assert_eq!(press(&mut table, 1_000, 0, Control::PAD_SOUTH, true), Fed::Nobody);
    assert_eq!(press(&mut table, 2_000, 0, Control::PAD_START, true), Fed::Joined(1));
    assert_eq!(press(&mut table, 2_500, 1, Control::PAD_START, true), Fed::Joined(2));
    assert_eq!(press(&mut table, 2_600, 2, Control::PAD_START, true), Fed::Nobody, "at most two");
    // The press that joined is not a hop, nor is its letting go.
    press(&mut table, 3_000, 0, Control::PAD_START, false);
    table.advance(us(4_000));
    assert_eq!(table.seat(1).unwrap().button(hop).presses(), 0);
    assert_eq!(press(&mut table, 5_000, 0, Control::PAD_START, true), Fed::Heard(1));
    table.advance(us(6_000));
    assert_eq!((table.seat(1).unwrap().button(hop).presses(), table.seat(2).unwrap().button(hop).presses()), (1, 0));
    // Unplugged, what it held goes up; plugged in again, it moves the same seat.
    table.feed(Event::plugged(us(7_000), device(0), false)).unwrap();
    table.advance(us(8_000));
    assert!(!table.seat(1).unwrap().button(hop).is_down());
    table.feed(Event::plugged(us(9_000), device(0), true)).unwrap();
    assert_eq!(press(&mut table, 10_000, 0, Control::PAD_SOUTH, true), Fed::Heard(1));
    table.advance(us(11_000));
    assert!(table.seat(1).unwrap().button(hop).is_down());
    assert_eq!(table.moved_by(device(0)).collect::<Vec<_>>(), [1]);
    // One leaves; the third takes the place.
    assert!(table.leave(1).is_some() && table.leave(1).is_none());
    assert_eq!(press(&mut table, 12_000, 2, Control::PAD_START, true), Fed::Joined(1));
    assert_eq!(table.seats().map(|(number, _)| number).collect::<Vec<_>>(), [1, 2]);
    // A device that is given to both moves both; taken back, what it held there goes up.
    assert!(table.give(2, device(2)) && !table.give(3, device(2)));
    assert_eq!(press(&mut table, 13_000, 2, Control::PAD_SOUTH, true), Fed::Heard(2));
    table.advance(us(14_000));
    table.take(2, device(2)).unwrap();
    table.advance(us(15_000));
    let down = |number: usize| table.seat(number).unwrap().button(hop).is_down();
    assert_eq!((down(1), down(2)), (true, false));
}

#[test]
fn what_to_do_for_a_cue_is_told_step_by_step_for_every_action_of_the_demo() {
    use tidy_lever::prompt::{Labels, PromptStep};
    let profile = Profile::from_toml(include_str!("../../demo/otter-post.toml")).unwrap();
    let linkage = Linkage::build(&profile).unwrap();
    let told = |action: &str, family, faces_left| -> Vec<String> {
        let all = linkage.prompt_steps(action, family, &Labels::default(), faces_left);
        all.iter().map(|steps| PromptStep::line(steps)).collect()
    };
    for (action, family, line) in [
        ("hop", Family::Keys, "space"),
        ("open-bag", Family::Pad, "hold east button"),
        ("throw", Family::Keys, "hold J, let go of J"),
        ("bow", Family::Pad, "left shoulder + west button"),
        ("dash", Family::Keys, "W or A or S or D, the same direction twice"),
        ("skim", Family::Keys, "S, S + D, D, J"),
        ("skim", Family::Touch, "thumb down, thumb down-right, thumb right, toss"),
        ("knock", Family::Keys, "E, E, G, E"),
        ("scroll", Family::Pad, "hold left stick down"),
        ("rush", Family::Keys, "K or I 5 times"),
        ("next-parcel", Family::Mouse, "wheel down"),
    ] {
        assert_eq!(told(action, family, false), [line], "{action}");
    }
    assert_eq!(told("skim", Family::Keys, true), ["S, S + A, A, J"], "forward is where Pim faces");
    // A mouse alone can't do a motion of the stick, nor touch a chord with a button that the panel hasn't got.
    for (action, family) in
        [("skim", Family::Mouse), ("bow", Family::Touch), ("hop", Family::Mouse), ("gone", Family::Keys)]
    {
        assert_eq!(told(action, family, false), [""; 0], "{action}");
    }
}
