//! Promise: a running seat goes over to a changed profile by names, and loses nothing that both have.

use crate::common::{Bench, UNGUARDED, linkage, us};
use tidy_lever::{Button, Control, Fact, Gauge, Mode, Stick};

const BODY: &str = r#"
[modes]
ashore = { on = true }
menu = { covers = "all" }
[facts]
grounded = true
state = ["idle", "walk"]
[action.hop]
kind = "button"
keys = ["Space", "KeyP"]
when = "grounded within 90ms"
keep = "200ms"
[action.lamp]
kind = "button"
keys = "KeyL"
cue = "toggle"
[action.bag]
kind = "button"
keys = "KeyE"
cue = "hold 300ms"
[action.paddle]
kind = "gauge"
keys = "KeyK"
gauge = { ceiling = 9, push = "+1" }
[action.steer]
kind = "stick"
pad = "left-stick"
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
"#;

/// Relinks a bench to a changed body; what the relink left behind.
fn relink(bench: &mut Bench, body: &str) -> tidy_lever::seat::Relinked {
    bench.seat.relink(&linkage(body), &mut [&mut bench.bookmark])
}

#[test]
fn what_stands_carries_over_and_what_is_bound_no_longer_goes_up() {
    let mut bench = Bench::new(BODY);
    let (grounded, state, menu): (Fact, Fact, Mode) = (bench.find("grounded"), bench.find("state"), bench.find("menu"));
    for key in ["Space", "KeyL", "KeyK", "KeyD"] {
        bench.level(1_000, &format!("keys:{key}"), 1.0);
    }
    bench.seat.tell(state, "walk").unwrap();
    bench.to(10_000);
    bench.heard();
    // Another key for the hop, other numbers elsewhere: the hop goes up, everything else goes on.
    let relinked = relink(
        &mut bench,
        &BODY.replace("\"Space\", \"KeyP\"", "\"KeyP\"").replace("90ms", "150ms").replace("ceiling = 9", "ceiling = 5"),
    );
    assert_eq!(relinked, tidy_lever::seat::Relinked::default());
    assert_eq!(bench.heard(), ["10000 hop released (relinked)", "10000 hop ended (relinked)"]);
    let (lamp, paddle, steer): (Button, Gauge, Stick) = (bench.find("lamp"), bench.find("paddle"), bench.find("steer"));
    assert!(bench.seat.button(lamp).is_on());
    assert_eq!(bench.seat.gauge(paddle).value(), 1.0);
    assert_eq!(bench.seat.stick(steer).xy(), (1.0, 0.0));
    assert!(bench.seat.is(grounded) && bench.seat.fact(state) == "walk" && !bench.seat.is_mode_on(menu));
    // Letting go of the old key does nothing; held keys are let go as ever.
    bench.level(20_000, "keys:KeyD", 0.0).to(30_000);
    assert_eq!(bench.heard(), ["20000 steer.right released (let go)", "20000 steer released (let go)"]);
}

#[test]
fn a_control_that_is_newly_bound_and_held_already_is_stale() {
    let mut bench = Bench::new(BODY);
    bench.level(1_000, "keys:KeyE", 1.0).to(10_000);
    relink(&mut bench, &BODY.replace("\"KeyP\"]", "\"KeyE\"]"));
    bench.level(20_000, "keys:KeyE", 0.0).level(30_000, "keys:KeyE", 1.0).to(40_000);
    assert_eq!(bench.heard_of("hop"), ["30000 hop pressed", "30000 hop pulled"]);
}

#[test]
fn attempts_and_keeps_go_on_where_the_rule_is_the_same() {
    let start = || {
        let mut bench = Bench::new(BODY);
        let grounded: Fact = bench.find("grounded");
        bench.seat.tell_at(grounded, false, us(1)).unwrap();
        bench.level(150_000, "keys:KeyE", 1.0).level(150_000, "keys:Space", 1.0).to(160_000);
        (bench, grounded)
    };
    // Nothing of these rules changed: the hold is reached, the kept hop comes out.
    let (mut bench, grounded) = start();
    assert_eq!(relink(&mut bench, &BODY.replace("ceiling = 9", "ceiling = 7")).begun_anew, Vec::<String>::new());
    bench.seat.tell_at(grounded, true, us(300_000)).unwrap();
    bench.to(1_000_000);
    let heard = bench.heard();
    assert!(heard.contains(&"450000 bag pulled".into()) && heard.contains(&"300000 hop pulled".into()), "{heard:?}");
    // The hold's span changed: its attempt begins again with the next press.
    let (mut bench, _) = start();
    assert_eq!(relink(&mut bench, &BODY.replace("hold 300ms", "hold 200ms")).begun_anew, ["bag"]);
    bench.to(1_000_000);
    assert!(!bench.heard().iter().any(|line| line.contains("bag pulled")));
    bench.level(1_100_000, "keys:KeyE", 0.0).level(1_200_000, "keys:KeyE", 1.0).to(2_000_000);
    assert!(bench.heard().contains(&"1400000 bag pulled".into()));
}

#[test]
fn actions_and_facts_that_come_go_or_move_are_found_by_name() {
    let mut bench = Bench::new(BODY);
    bench.level(1_000, "keys:KeyL", 1.0).level(2_000, "keys:KeyK", 1.0).to(10_000);
    let (old, hop): (Button, Button) = (bench.find("lamp"), bench.find("hop"));
    let mut reader = bench.seat.bookmark();
    // The hop is gone, a whistle stands first, the facts have another order.
    let body = BODY.replace("[action.hop]", "[action.whistle]").replace(
        "grounded = true\nstate = [\"idle\", \"walk\"]",
        "state = [\"idle\", \"walk\", \"dash\"]\nbusy = false\ngrounded = true",
    );
    let changed = linkage(&body);
    let relinked = bench.seat.relink(&changed, &mut [&mut bench.bookmark, &mut reader]);
    assert_eq!(relinked.lost, ["hop"]);
    // Old handles and new ones find the same lamp; what is gone is known to be gone.
    let lamp: Button = changed.find("lamp").unwrap();
    assert!(bench.seat.knows(old) && bench.seat.button(old).is_on() && bench.seat.button(lamp).is_on());
    assert!(!bench.seat.knows(hop) && !bench.seat.button(hop).is_on());
    assert_eq!(bench.seat.gauge(changed.find("paddle").unwrap()).value(), 1.0);
    assert_eq!(bench.seat.fact(changed.find("state").unwrap()), "idle");
    // Readers get no edge twice, and none of what is to come is lost.
    assert_eq!(bench.seat.read(&mut reader).button(lamp).presses(), 0);
    bench.level(20_000, "keys:KeyL", 0.0).level(30_000, "keys:KeyL", 1.0).to(40_000);
    let read = bench.seat.read(&mut reader).button(lamp);
    assert_eq!((read.presses(), read.releases(), read.is_on()), (1, 1, false));
    assert!(bench.heard().iter().all(|line| line.contains("lamp") || line.contains("paddle")));
}

#[test]
fn what_waits_in_the_queue_and_a_ledger_survive() {
    let mut bench = Bench::new(BODY);
    bench.seat.keep_ledger(8);
    let grounded: Fact = bench.find("grounded");
    bench.level(50_000, "keys:KeyL", 1.0);
    bench.seat.tell_at(grounded, false, us(60_000)).unwrap();
    bench.to(10_000);
    relink(
        &mut bench,
        &BODY.replace("[facts]\n", "[facts]\nbusy = true\n").replace("\"KeyL\"", "[\"KeyO\", \"KeyL\"]"),
    );
    bench.to(100_000);
    assert_eq!(bench.heard_of("lamp"), ["50000 lamp pressed", "50000 lamp pulled"]);
    assert!(!bench.seat.is(bench.find("grounded")));
    assert_eq!(bench.seat.attempts().count(), 1, "told again from the relink on");
}

#[test]
fn a_motion_goes_on_where_its_sticks_motions_are_the_same() {
    let body =
        format!("{BODY}[action.skim]\nkind = \"button\"\ncue = \"steer rolls down, right then lamp within 400ms\"\n");
    let play = |changed: &str| {
        let mut bench = Bench::new(&body);
        bench.level(1_000, "keys:KeyS", 1.0).level(50_000, "keys:KeyS", 0.0).to(60_000);
        let relinked = relink(&mut bench, changed);
        bench.level(70_000, "keys:KeyD", 1.0).level(90_000, "keys:KeyL", 1.0).to(100_000);
        (relinked.begun_anew, bench.heard_of("skim").len())
    };
    assert_eq!(play(&body.replace("ceiling = 9", "ceiling = 4")), (Vec::new(), 1));
    assert_eq!(play(&body.replace("400ms", "300ms")), (vec!["skim".to_owned()], 0));
}

#[test]
fn what_is_kept_goes_on_by_the_worlds_clock_which_stood_still_meanwhile() {
    // Kept at 120 ms, still from 130 to 190 ms: with a keep of 200 ms it ends at 380 ms; with one of 250 ms, at 430 ms.
    for (keep, lands, hops) in
        [("200ms", 380_000, true), ("200ms", 380_001, false), ("250ms", 430_000, true), ("250ms", 430_001, false)]
    {
        let mut bench = Bench::new(BODY);
        let (grounded, frozen): (Fact, Fact) = (bench.find("grounded"), bench.find("frozen"));
        bench.seat.tell_at(grounded, false, us(1_000)).unwrap();
        bench.level(120_000, "keys:Space", 1.0).level(130_000, "keys:Space", 0.0);
        bench.seat.tell_at(frozen, true, us(130_000)).unwrap();
        bench.seat.tell_at(frozen, false, us(190_000)).unwrap();
        bench.to(200_000);
        bench.heard();
        relink(&mut bench, &BODY.replace("keep = \"200ms\"", &format!("keep = \"{keep}\"")));
        bench.seat.tell_at(grounded, true, us(lands)).unwrap();
        bench.to(900_000);
        assert_eq!(bench.heard().iter().any(|line| line.contains("hop pulled")), hops, "{keep} {lands}");
    }
}

/// A body with a stick, a toss, and more.
fn stick(more: &str) -> String {
    format!(
        "[action.sail]\nkind = \"stick\"\npad = \"left-stick\"\nkeys = {{ up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }}\n\
         [action.toss]\nkind = \"button\"\nkeys = \"KeyJ\"\n{more}"
    )
}

const HELD: &str = "[action.heave]\nkind = \"button\"\ncue = \"sail rolls down, right held 100ms within 500ms\"\n";
const SKIM: &str = "[action.skim]\nkind = \"button\"\ncue = \"sail rolls 236 then toss within 500ms\"\n";
const OTHER: &str = "[action.about]\nkind = \"button\"\nkeys = \"KeyF\"\n";

#[test]
fn a_motion_goes_on_while_other_actions_come_and_go_and_is_told_where_it_does_not() {
    // A step that is being held: its timer goes over, too.
    for after in [stick(HELD), format!("{OTHER}{}", stick(HELD)), format!("{OTHER}{}", stick(&format!("{SKIM}{HELD}")))]
    {
        let mut bench = Bench::new(&stick(HELD));
        bench.pair(10_000, Control::LEFT_STICK, 0.0, -1.0).pair(50_000, Control::LEFT_STICK, 1.0, 0.0).to(80_000);
        let relinked = relink(&mut bench, &after);
        assert_eq!(relinked, tidy_lever::seat::Relinked::default());
        bench.to(400_000);
        assert_eq!(bench.pulls_of("heave"), [150_000], "{after}");
    }
    // Half of a motion, and its finish behind the relink.
    for (after, goes_on) in [
        (format!("{OTHER}{}", stick(&format!("{HELD}{SKIM}"))), true),
        (stick(&SKIM.replace("236", "26")), false),
        (stick(&SKIM.replace("500ms", "501ms")), false),
    ] {
        let mut bench = Bench::new(&stick(SKIM));
        bench.pair(10_000, Control::LEFT_STICK, 0.0, -1.0).pair(50_000, Control::LEFT_STICK, 0.7, -0.7).to(80_000);
        let relinked = relink(&mut bench, &after);
        assert_eq!(relinked.begun_anew.contains(&"skim".to_owned()), !goes_on, "{after}");
        bench.pair(100_000, Control::LEFT_STICK, 1.0, 0.0).level(120_000, "keys:KeyJ", 1.0).to(400_000);
        assert_eq!(bench.pulls_of("skim").is_empty(), !goes_on, "{after}");
    }
}

#[test]
fn a_stick_that_is_read_in_four_directions_now_stands_in_none_of_the_other_four() {
    let mut bench = Bench::new(&stick(""));
    bench.level(1_000, "keys:KeyS", 1.0).level(2_000, "keys:KeyD", 1.0).to(3_000).heard();
    relink(&mut bench, &stick("").replace("pad = \"left-stick\"", "pad = \"left-stick\"\ndirections = 4"));
    assert_eq!(bench.heard(), ["3000 sail.down-right released (relinked)"]);
    let sail: Stick = bench.find("sail");
    assert!(bench.seat.stick(sail).direction().is_some_and(|direction| !direction.is_diagonal()));
    assert!(!bench.seat.button(bench.find("sail.down-right")).is_down());
}

#[test]
fn sticks_and_axes_behind_buttons_take_their_levels_anew_each_its_own() {
    let body = "[action.bell]\nkind = \"button\"\nkeys = \"KeyB\"\n[action.lean]\nkind = \"axis\"\nkeys = { minus = \"KeyQ\", plus = \"KeyE\" }\n\
                [action.look]\nkind = \"stick\"\npad = \"right-stick\"\n";
    let all = format!("{body}{}", stick(""));
    let mut bench = Bench::new(&all);
    bench.pair(1_000, Control::LEFT_STICK, 1.0, 0.0).pair(1_000, Control::RIGHT_STICK, 0.0, 1.0);
    bench.level(1_000, "keys:KeyE", 1.0).to(2_000).heard();
    // The left stick is bound no longer; the other two stay where they are.
    relink(&mut bench, &all.replace("\npad = \"left-stick\"", ""));
    assert_eq!(bench.heard().iter().filter(|line| !line.contains("sail")).count(), 0);
    assert_eq!((bench.xy("sail"), bench.xy("look")), ((0.0, 0.0), (0.0, 1.0)));
    assert_eq!(bench.seat.axis(bench.find("lean")).value(), 1.0);
}

#[test]
fn what_the_new_modes_cover_ends_and_what_they_uncover_needs_a_fresh_press() {
    let body = "[modes]\nrow = { on = true }\ntow = { on = false }\n\
                [action.haul]\nkind = \"button\"\nkeys = \"KeyH\"\nmodes = [\"row\"]\ncue = \"hold 300ms\"\n\
                [action.bell]\nkind = \"button\"\nkeys = \"KeyB\"\nmodes = [\"row\"]\n\
                [action.sail]\nkind = \"stick\"\npad = \"left-stick\"\nmodes = [\"row\"]\n";
    let other = body.replace("modes = [\"row\"]", "modes = [\"tow\"]");
    let fed = |body: &str| {
        let mut bench = Bench::new(body);
        bench.level(1_000, "keys:KeyH", 1.0).level(1_000, "keys:KeyB", 1.0).pair(1_000, Control::LEFT_STICK, 1.0, 0.0);
        bench.to(400_000).heard();
        bench
    };
    let mut bench = fed(body);
    relink(&mut bench, &other);
    let heard = bench.heard();
    for line in ["bell released", "bell ended", "haul released", "haul ended", "sail.right released"] {
        assert!(heard.contains(&format!("400000 {line} (relinked)")), "{line} in {heard:?}");
    }
    assert!(!bench.seat.button(bench.find("haul")).is_on() && !bench.seat.button(bench.find("bell")).is_on());
    assert_eq!(bench.xy("sail"), (0.0, 0.0));
    // The other way about: nothing was heard of what is held; the level of a stick counts at once.
    let mut bench = fed(&other);
    relink(&mut bench, body);
    assert_eq!(bench.heard(), [""; 0]);
    assert!(!bench.seat.button(bench.find("bell")).is_down());
    assert_eq!(bench.xy("sail"), (1.0, 0.0));
    bench.level(500_000, "keys:KeyB", 0.0).level(600_000, "keys:KeyB", 1.0).to(700_000);
    assert_eq!(bench.heard_of("bell"), ["600000 bell pressed", "600000 bell pulled"]);
}

#[test]
fn a_button_that_one_press_put_down_goes_up_when_its_key_is_bound_no_longer() {
    use tidy_lever::access::{Access, Which};
    use tidy_lever::{Linkage, Profile};
    let toggled = Access::default().toggled(Which::All);
    let built = |keys: &str, access: &Access| {
        let text = format!("tidy-lever = 1\n[action.guard]\nkind = \"button\"\nkeys = [{keys}]\n{UNGUARDED}");
        Linkage::build_for(&Profile::from_toml(&text).unwrap(), access).unwrap()
    };
    for (keys, access, stays) in
        [("\"KeyG\", \"KeyH\"", &toggled, true), ("\"KeyH\"", &toggled, false), ("\"KeyG\"", &Access::default(), false)]
    {
        let mut seat = built("\"KeyG\"", &toggled).seat(us(0));
        for (at, down) in [(1, true), (2, false)] {
            let event = tidy_lever::Event::button(us(at), crate::common::device(0), "keys:KeyG".parse().unwrap(), down);
            seat.feed(event).unwrap();
        }
        seat.advance(us(10));
        let after = built(keys, access);
        seat.relink(&after, &mut []);
        assert_eq!(seat.button(after.find("guard").unwrap()).is_down(), stays, "{keys}");
    }
}

#[test]
fn a_pointer_goes_up_when_fingers_point_no_longer_or_its_patch_is_gone_and_patches_go_by_their_names() {
    use tidy_lever::event::Phase;
    let patch = |name: &str, x: &str| {
        format!("[panel.{name}]\nkind = \"button\"\nfrom = \"top-left\"\nat = [{x}, 0.2]\nsize = 0.1\n")
    };
    let body = |touch: &str, panel: &str| {
        format!(
            "[action.point]\nkind = \"pointer\"\nmouse = \"left\"\ntouch = [{touch}]\n[action.hop]\nkind = \"button\"\ntouch = \"jump\"\n{panel}"
        )
    };
    let (jump, go) = (patch("jump", "0.2"), patch("go", "0.8"));
    let all = body("\"place\", \"go\"", &format!("{jump}{go}"));
    let cases = [
        // Where the finger is, what the profile is then, and whether the pointer is down still.
        (0.9, all.clone(), true),
        (0.9, body("\"go\"", &format!("{jump}{go}")), false),
        (0.45, all.clone(), true),
        (0.45, body("\"place\"", &jump), false),
        (0.45, body("\"place\", \"go\"", &format!("{go}{jump}")), true),
    ];
    for (x, after, stays) in cases {
        let mut bench = Bench::new(&all);
        bench.seat.feed(tidy_lever::Event::touch(us(10), crate::common::device(0), 1, Phase::Down, x, 0.2)).unwrap();
        bench.to(100);
        let point: tidy_lever::Pointer = bench.find("point");
        assert!(bench.seat.pointer(point).edges().is_down(), "{x}");
        relink(&mut bench, &after);
        let point: tidy_lever::Pointer = bench.find("point");
        assert_eq!(bench.seat.pointer(point).edges().is_down(), stays, "{x} {after}");
        assert!(!bench.seat.button(bench.find("hop")).is_down(), "{x} {after}");
        // Lifting it ends what is down, whatever the patch's number is now.
        bench.seat.feed(tidy_lever::Event::touch(us(200), crate::common::device(0), 1, Phase::Up, x, 0.2)).unwrap();
        bench.to(300);
        assert!(!bench.seat.pointer(point).edges().is_down(), "{x} {after}");
    }
}
