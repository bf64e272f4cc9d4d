//! Promise: a player's file over a profile binds, finds conflicts, swaps, takes back and survives new versions; so does access.

use crate::common::{Bench, linkage, us};
use proptest::prelude::*;
use tidy_lever::access::{Access, Hand, Which};
use tidy_lever::remap::{Clash, Refused, Remap, Target};
use tidy_lever::{Button, Linkage, Moment, Profile};

const PROFILE: &str = r#"tidy-lever = 1
[modes]
ashore = { on = true }
afloat = {}
menu = { covers = "all" }
[action.steer]
kind = "stick"
modes = ["ashore", "afloat"]
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
pad = "left-stick"
shape = { dead = 0.1 }
[action.hop]
kind = "button"
modes = ["ashore"]
keys = "Space"
pad = "south"
[action.toss]
kind = "button"
modes = ["ashore"]
keys = "KeyJ"
pad = "west"
cue = "tap under 200ms"
[action.throw]
kind = "button"
modes = ["ashore"]
keys = "KeyJ"
pad = "west"
cue = "hold 250ms"
[action.close]
kind = "button"
modes = ["menu"]
keys = "Enter"
"#;

fn profile() -> Profile {
    Profile::from_toml(PROFILE).unwrap()
}

fn target(text: &str) -> Target {
    text.parse().unwrap()
}

/// An action's controls as the linkage has them.
fn controls(linkage: &Linkage, action: &str) -> Vec<String> {
    linkage.action(action).unwrap().controls().iter().map(|view| view.name.clone()).collect()
}

#[test]
fn only_what_differs_is_written_and_each_leg_stands_alone() {
    let mut remap = Remap::new();
    assert!(remap.is_empty());
    remap.bind(&profile(), &target("steer.keys.up"), &["KeyI"], Clash::Refuse).unwrap();
    remap.bind(&profile(), &target("hop.pad"), &["east", "right-shoulder"], Clash::Refuse).unwrap();
    remap.unbind(&profile(), &target("toss.keys")).unwrap();
    assert_eq!(
        remap.to_toml(),
        "tidy-lever = 1\n\n[action.steer]\nkeys = { up = \"KeyI\" }\n\n[action.hop]\npad = [\"east\", \"right-shoulder\"]\n\n[action.toss]\nkeys = []\n\n[action.throw]\nkeys = []\n",
        "the throw is on the same key by the profile"
    );
    let read = Remap::from_toml(&remap.to_toml()).unwrap().over(&profile()).unwrap();
    assert!(read.left_alone.is_empty());
    assert_eq!(
        controls(&read.linkage, "steer"),
        ["keys:KeyI", "keys:KeyA", "keys:KeyS", "keys:KeyD", "pad:left-stick"]
    );
    assert_eq!(controls(&read.linkage, "hop"), ["keys:Space", "pad:east", "pad:right-shoulder"]);
    assert_eq!(controls(&read.linkage, "toss"), ["pad:west"]);
    // Names are the same, so handles of the plain profile are good here, too.
    let hop: Button = Linkage::build(&profile()).unwrap().find("hop").unwrap();
    assert!(read.linkage.seat(Moment::ZERO).knows(hop));
}

#[test]
fn conflicts_are_found_by_mode_and_refused_swapped_or_shared() {
    let mut remap = Remap::new();
    let taken = |refused: Refused| match refused {
        Refused::Taken(conflicts) => conflicts.iter().map(|c| c.other.to_string()).collect::<Vec<_>>(),
        other => panic!("{other}"),
    };
    // Heard together: both that hear the key are named. Nothing is changed.
    let refused = remap.bind(&profile(), &target("hop.keys"), &["KeyJ"], Clash::Refuse).unwrap_err();
    assert_eq!(taken(refused), ["toss.keys", "throw.keys"]);
    assert!(remap.is_empty() && !remap.undo());
    // Never heard together: no conflict.
    assert_eq!(remap.bind(&profile(), &target("close.keys"), &["KeyJ"], Clash::Refuse).unwrap().conflicts, []);
    // Swapped: the others get what this one had.
    assert_eq!(remap.bind(&profile(), &target("hop.keys"), &["KeyJ"], Clash::Swap).unwrap().conflicts.len(), 2);
    let laid = remap.over(&profile()).unwrap().linkage;
    assert_eq!((controls(&laid, "hop")[0].as_str(), controls(&laid, "toss")[0].as_str()), ("keys:KeyJ", "keys:Space"));
    assert_eq!(remap.conflicts(&profile()).unwrap(), [], "toss and throw shared by the profile, and share still");
    assert!(remap.undo());
    // Shared: both hear it, and it is told as long as it stands.
    remap.bind(&profile(), &target("hop.keys"), &["KeyJ"], Clash::Share).unwrap();
    assert_eq!(remap.conflicts(&profile()).unwrap().len(), 2);
    // A whole stick and a part of it are one control.
    let refused = remap.bind(&profile(), &target("hop.pad"), &["left-stick.up"], Clash::Refuse).unwrap_err();
    assert_eq!(taken(refused), ["steer.pad"]);
}

#[test]
fn legs_of_one_cross_never_share_but_swap() {
    let mut remap = Remap::new();
    for clash in [Clash::Refuse, Clash::Share] {
        assert!(matches!(remap.bind(&profile(), &target("steer.keys.up"), &["KeyS"], clash), Err(Refused::Taken(_))));
    }
    remap.bind(&profile(), &target("steer.keys.up"), &["KeyS"], Clash::Swap).unwrap();
    let laid = remap.over(&profile()).unwrap();
    assert_eq!(controls(&laid.linkage, "steer")[..4], ["keys:KeyS", "keys:KeyA", "keys:KeyW", "keys:KeyD"]);
    assert!(laid.left_alone.is_empty());
}

#[test]
fn what_does_not_fit_is_refused_with_the_nearest_name() {
    let mut remap = Remap::new();
    for (wanted, control, told) in [
        ("hop.keys", "Spcae", "has no control `Spcae`"),
        ("hop.pad", "left-stick", "has several directions"),
        ("hop.keys.up", "KeyJ", "a button has no legs"),
        ("steer.keys", "KeyP", "has no two axes"),
        ("steer.keys.plus", "KeyP", "a stick has no leg `plus`"),
    ] {
        let refused = remap.bind(&profile(), &target(wanted), &[control], Clash::Share).unwrap_err();
        assert!(matches!(refused, Refused::Unfit(_)) && refused.to_string().contains(told), "{refused}");
        // Nothing was bound, so nothing stays.
        assert!(!refused.to_string().contains("stays in the file"), "{refused}");
    }
    assert!(remap.is_empty());
    for (text, told) in [
        ("hop", "names no binding"),
        ("hop.kyes", "names no binding"),
        ("steer.keys.upp", "is not a leg"),
        ("a.keys.up.x", "a part too many"),
    ] {
        assert!(text.parse::<Target>().unwrap_err().to_string().contains(told), "{text}");
    }
}

#[test]
fn undo_and_reset_go_back_step_by_step_one_by_one_and_all_at_once() {
    let mut remap = Remap::new();
    remap.set(&target("hop.keys"), &["KeyP"]);
    remap.set(&target("hop.keys"), &["KeyO"]);
    remap.set(&target("steer.keys.up"), &["KeyI"]);
    remap.set(&target("steer.keys.down"), &["KeyK"]);
    assert!(remap.reset_target(&target("steer.keys.up")) && !remap.reset_target(&target("steer.keys.up")));
    assert_eq!(remap.changed().iter().map(ToString::to_string).collect::<Vec<_>>(), ["hop.keys", "steer.keys.down"]);
    assert!(remap.reset("hop") && !remap.reset("hop"));
    assert!(remap.undo());
    assert!(remap.to_toml().contains("KeyO"));
    remap.set_access(&Access::default().leeway(2.0));
    remap.reset_all();
    assert_eq!(
        (remap.is_empty(), remap.to_toml().as_str()),
        (true, "tidy-lever = 1\n\n[action]\n".replace("\n[action]\n", "").as_str())
    );
    assert!(remap.undo() && !remap.is_empty());
    while remap.undo() {}
    assert!(remap.is_empty());
}

#[test]
fn a_file_survives_the_next_version_and_one_from_it() {
    let text = "tidy-lever = 2 # from the future\nspeed = 3\n\n[action.hop]\nkeys = \"KeyP\" # mine\nfeel = \"soft\"\n\n[action.fly]\nkeys = \"KeyF\"\n\n[action.steer]\nkeys = { up = \"KeyI\", round = \"KeyO\" }\npad = 7\n\n[access]\nleeway = 99\nglow = true\n";
    let mut remap = Remap::from_toml(text).unwrap();
    let laid = remap.over(&profile()).unwrap();
    let told: Vec<String> = laid.left_alone.iter().map(ToString::to_string).collect();
    for part in [
        "tidy-lever: this file was written by a newer version (2)",
        "speed: a player's file has no such key",
        "action.hop.feel: expected keys, mouse, pad or touch",
        "action.fly.keys: the profile has no action `fly`",
        "action.steer.keys.round: expected a leg with controls",
        "action.steer.pad: expected a control",
        "access.leeway: the factor must be from 0.1 to 8, found 99",
        "access.glow: there is no such setting",
    ] {
        assert!(told.iter().any(|line| line.contains(part)), "{part} in {told:#?}");
    }
    assert_eq!(told.len(), 8);
    // What fits has its effect, and the file keeps every word of the rest.
    assert_eq!(controls(&laid.linkage, "hop")[0], "keys:KeyP");
    assert_eq!(controls(&laid.linkage, "steer")[0], "keys:KeyI");
    remap.set(&target("toss.keys"), &["KeyT"]);
    let saved = remap.to_toml();
    for part in [
        "# from the future",
        "speed = 3",
        "# mine",
        "feel = \"soft\"",
        "[action.fly]",
        "round = \"KeyO\"",
        "glow = true",
    ] {
        assert!(saved.contains(part), "{part} in\n{saved}");
    }
    // The game's next version has another button on it, and none of the old name: what fits no more is left alone.
    let next = Profile::from_toml(
        &PROFILE.replace("action.hop", "action.leap").replace("kind = \"stick\"", "kind = \"stick\"\ndirections = 4"),
    )
    .unwrap();
    let laid = remap.over(&next).unwrap();
    assert!(laid.left_alone.iter().any(|fault| fault.problem.contains("no action `hop`")));
    assert!(Remap::from_toml("[action").unwrap_err().to_string().contains("line 1, column 8: this is not valid TOML"));
}

/// A seat of the profile as a player with these settings has it.
fn suited(body: &str, access: &Access) -> Bench {
    let profile = Profile::from_toml(&format!("tidy-lever = 1\n{body}")).unwrap();
    let seat = Linkage::build_for(&profile, access).unwrap().seat(us(0));
    let bookmark = seat.bookmark();
    Bench { seat, bookmark }
}

/// Plays `+J@100 -J@300` (ms) and hears what was pulled, ended, pressed and released of one action.
fn keyed(bench: &mut Bench, script: &str, action: &str) -> Vec<String> {
    let mut end = 0;
    for step in script.split_whitespace() {
        let (key, at) = step[1..].split_once('@').unwrap();
        end = at.parse::<u64>().unwrap() * 1_000;
        bench.level(end, &format!("keys:Key{key}"), f32::from(u8::from(step.starts_with('+'))));
    }
    bench.to(end + 5_000_000);
    bench.heard_of(action).into_iter().map(|line| line.replacen(&format!(" {action}"), "", 1)).collect()
}

const ONE: &str = "[action.act]\nkind = \"button\"\nkeys = \"KeyJ\"\n";

#[test]
fn a_hold_that_toggles_goes_down_by_one_press_and_up_by_the_next() {
    let toggled = Access::default().toggled(Which::Named(vec!["act".into()]));
    let mut bench = suited(&format!("{ONE}cue = \"hold 300ms\"\n"), &toggled);
    let heard = keyed(&mut bench, "+J@100 -J@150 +J@900 -J@950", "act");
    assert_eq!(heard, ["100000 pressed", "400000 pulled", "900000 released (let go)", "900000 ended (let go)"]);
    // Losing the focus lifts it, held by nobody or not.
    let mut bench = suited(ONE, &toggled);
    bench.level(10, "keys:KeyJ", 1.0).level(20, "keys:KeyJ", 0.0);
    bench.seat.focus_at(false, us(50)).unwrap();
    bench.to(100);
    assert_eq!(bench.heard_of("act").last().unwrap(), "50 act ended (focus lost)");
    let unknown = Access::default().toggled(Which::Named(vec!["atc".into()]));
    // A name that the profile has not takes nothing from the others, and is told.
    let linkage =
        Linkage::build_for(&Profile::from_toml(&format!("tidy-lever = 1\n{ONE}")).unwrap(), &unknown).unwrap();
    let told = linkage.warnings().next().unwrap().to_string();
    assert!(told.contains("access.toggled: there is no button `atc` to toggle") && told.contains("`act`?"), "{told}");
}

#[test]
fn holding_mashes_at_the_set_rate() {
    let mash = Access::default().mash_rate(10.0);
    let mut bench = suited(&format!("{ONE}cue = \"mash 5 within 1s\"\n"), &mash);
    let heard = keyed(&mut bench, "+J@0 -J@650", "act");
    let pulled: Vec<&String> = heard.iter().filter(|line| line.ends_with("pulled")).collect();
    assert_eq!(pulled, ["400000 pulled"]);
    assert_eq!(heard.iter().filter(|line| line.contains("pressed")).count(), 7);
    // A gauge is pushed as often; a plain button isn't.
    let gauge = "[action.act]\nkind = \"gauge\"\nkeys = \"KeyJ\"\ngauge = { ceiling = 9, push = \"+1\" }\n";
    let mut bench = suited(gauge, &mash);
    keyed(&mut bench, "+J@0 -J@350", "act");
    assert_eq!(bench.seat.gauge(bench.find("act")).value(), 4.0);
    assert_eq!(keyed(&mut suited(ONE, &mash), "+J@0 -J@350", "act").len(), 4);
}

#[test]
fn windows_widen_and_holds_shorten_apart_and_a_tap_never_reaches_a_hold() {
    let wide = Access::default().leeway(1.5);
    let short = Access::default().holds(0.5);
    let pulls = |cue: &str, access: &Access, script: &str| {
        let body = format!(
            "{ONE}cue = \"{cue}\"\n[action.rival]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"hold 250ms\"\nwaits_for = [\"act\"]\n"
        );
        let body = if cue.starts_with("tap") { body } else { format!("{ONE}cue = \"{cue}\"\n") };
        keyed(&mut suited(&body, access), script, "act").iter().filter(|line| line.ends_with("pulled")).count()
    };
    let cases: &[(&str, &str, [usize; 3])] = &[
        ("2 taps 200ms apart", "+J@0 -J@9 +J@300 -J@309", [0, 1, 0]),
        ("2 taps 200ms apart", "+J@0 -J@9 +J@301 -J@309", [0, 0, 0]),
        ("mash 3 within 400ms", "+J@0 -J@9 +J@300 -J@309 +J@600 -J@609", [0, 1, 0]),
        ("hold 300ms", "+J@0 -J@160", [0, 0, 1]),
        ("charge 300ms to 1s", "+J@0 -J@160", [0, 0, 1]),
        // Stretched to 300, but there is a hold of 250 (125 for who holds half as long) on the same key.
        ("tap under 200ms", "+J@0 -J@240", [0, 1, 0]),
        ("tap under 200ms", "+J@0 -J@260", [0, 0, 0]),
        ("tap under 200ms", "+J@0 -J@150", [1, 1, 1]),
    ];
    for (cue, script, [plain, widened, shortened]) in cases {
        assert_eq!(pulls(cue, &Access::default(), script), *plain, "{cue} {script}");
        assert_eq!(pulls(cue, &wide, script), *widened, "{cue} {script}, wide");
        assert_eq!(pulls(cue, &short, script), *shortened, "{cue} {script}, short");
    }
    // Keep and grace are windows, too.
    let body = format!("[facts]\nfree = false\n{ONE}when = \"free\"\nkeep = \"100ms\"\n");
    for (access, pulls) in [(Access::default(), 0), (wide, 1)] {
        let mut bench = suited(&body, &access);
        let free = bench.find("free");
        bench.level(1_000, "keys:KeyJ", 1.0);
        bench.seat.tell_at(free, true, us(150_000)).unwrap();
        bench.to(200_000);
        assert_eq!(bench.heard_of("act").iter().filter(|line| line.ends_with("pulled")).count(), pulls);
    }
}

#[test]
fn a_sticky_chord_waits_for_the_second_without_being_held() {
    let body = format!(
        "{ONE}[action.guard]\nkind = \"button\"\nkeys = \"KeyG\"\n[action.both]\nkind = \"button\"\ncue = \"guard with act within 40ms\"\n"
    );
    let script = "+G@0 -G@100 +J@900 -J@1000";
    assert_eq!(keyed(&mut suited(&body, &Access::default()), script, "both").len(), 0);
    let one_by_one = Access::default().one_by_one();
    assert_eq!(keyed(&mut suited(&body, &one_by_one), script, "both"), ["900000 pulled", "1000000 ended (let go)"]);
    assert_eq!(keyed(&mut suited(&body, &one_by_one), "+G@0 -G@100 +J@1001 -J@1100", "both").len(), 0);
}

#[test]
fn what_one_hand_can_not_reach_is_named() {
    let linkage = linkage(PROFILE.split_once('\n').unwrap().1);
    let told = |hand| -> Vec<String> {
        let name = |(action, leg): (tidy_lever::linkage::ActionView<'_>, Option<tidy_lever::profile::Leg>)| {
            format!("{}{}", action.name(), leg.map_or(String::new(), |leg| format!(".{}", leg.name())))
        };
        linkage.out_of_reach(hand).into_iter().map(name).collect()
    };
    assert_eq!(told(Hand::Left), ["toss", "throw", "close"]);
    assert_eq!(told(Hand::Right), ["steer.up", "steer.left", "steer.down", "steer.right"]);
    // Settings are read from the player's file, and written back as they were.
    let access = Access::default().mash_rate(8.0).hand(Hand::Left).toggled(Which::All);
    let access = access.one_by_one().holds(0.5).leeway(2.0);
    let mut remap = Remap::new();
    remap.set_access(&access);
    assert_eq!(Remap::from_toml(&remap.to_toml()).unwrap().access(), access);
}

/// What a player's file may say, right or wrong.
fn any_binding() -> impl Strategy<Value = (Target, Vec<&'static str>)> {
    let targets = [
        "steer.keys.up",
        "steer.keys.left",
        "steer.keys.down",
        "steer.pad",
        "hop.keys",
        "hop.pad",
        "toss.keys",
        "throw.keys",
        "close.keys",
        "fly.keys",
        "hop.keys.up",
    ];
    let controls = [
        "KeyW",
        "KeyA",
        "KeyS",
        "KeyD",
        "Space",
        "KeyJ",
        "KeyT",
        "Enter",
        "south",
        "west",
        "left-stick",
        "left-stick.up",
        "dpad",
        "Spcae",
    ];
    (prop::sample::select(targets.to_vec()), prop::collection::vec(prop::sample::select(controls.to_vec()), 0..3))
        .prop_map(|(wanted, controls)| (target(wanted), controls))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn no_players_file_ever_breaks_a_profile(bindings in prop::collection::vec(any_binding(), 0..8)) {
        let mut remap = Remap::new();
        for (target, controls) in &bindings {
            remap.set(target, controls);
        }
        let laid = remap.over(&profile()).unwrap();
        // Written and read again it says the same; all of it undone, it says nothing.
        let again = Remap::from_toml(&remap.to_toml()).unwrap();
        prop_assert_eq!(&again.over(&profile()).unwrap().left_alone, &laid.left_alone);
        for action in ["steer", "hop", "toss", "throw", "close"] {
            prop_assert_eq!(controls(&laid.linkage, action), controls(&again.over(&profile()).unwrap().linkage, action));
        }
        while remap.undo() {}
        prop_assert!(remap.is_empty());
    }

    #[test]
    fn what_is_bound_by_swapping_leaves_no_conflict_behind(bindings in prop::collection::vec(any_binding(), 1..8)) {
        let mut remap = Remap::new();
        for (target, controls) in &bindings {
            let before = remap.to_toml();
            let known = remap.conflicts(&profile()).unwrap();
            match remap.bind(&profile(), target, controls, Clash::Refuse) {
                // What was taken makes no new conflict, and is what the profile plays with now.
                Ok(told) => {
                    prop_assert_eq!(told.conflicts, Vec::new());
                    prop_assert!(remap.conflicts(&profile()).unwrap().len() <= known.len());
                    prop_assert!(remap.over(&profile()).unwrap().left_alone.is_empty());
                }
                // What was refused changed nothing.
                Err(_) => prop_assert_eq!(&remap.to_toml(), &before),
            }
        }
        prop_assert_eq!(remap.conflicts(&profile()).unwrap(), Vec::new());
    }

    #[test]
    fn a_seat_goes_from_remap_to_remap_and_nothing_sticks(
        bindings in prop::collection::vec(any_binding(), 1..6),
        keys in prop::collection::vec((0usize..9, any::<bool>(), 0usize..6), 1..60),
    ) {
        const KEYS: [&str; 9] = ["KeyW", "KeyA", "KeyS", "KeyD", "Space", "KeyJ", "KeyT", "Enter", "KeyQ"];
        let mut bench = Bench::new(PROFILE.split_once('\n').unwrap().1);
        let mut remap = Remap::new();
        let mut at = 0;
        for (key, down, next) in keys {
            at += 10_000;
            bench.level(at, &format!("keys:{}", KEYS[key]), f32::from(u8::from(down))).to(at);
            if let Some((target, controls)) = bindings.get(next) {
                remap.set(target, controls);
                let laid = remap.over(&profile()).unwrap();
                bench.seat.relink(&laid.linkage, &mut [&mut bench.bookmark]);
            }
        }
        for key in KEYS {
            at += 1_000;
            bench.level(at, &format!("keys:{key}"), 0.0);
        }
        bench.to(at + 2_000_000);
        for action in ["hop", "toss", "throw", "close"] {
            let button = bench.seat.button(bench.find(action));
            prop_assert!(!button.is_down() && !button.is_on(), "{action} is stuck");
        }
        prop_assert_eq!(bench.xy("steer"), (0.0, 0.0));
    }
}

/// A profile whose rules have limits of their own: a held step within its window, a tap below a hold, a charge with an end.
const LIMITS: &str = "tidy-lever = 1\n[action.steer]\nkind = \"stick\"\npad = \"left-stick\"\n\
    [action.pick]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"tap under 200ms\"\n\
    [action.bag]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"hold 350ms\"\n\
    [action.throw]\nkind = \"button\"\nkeys = \"KeyJ\"\ncue = \"charge 1us to 2us\"\n\
    [action.heave]\nkind = \"button\"\ncue = \"steer rolls left, right held 300ms then throw within 500ms\"\n";

#[test]
fn a_players_settings_never_make_a_good_profile_unusable_and_what_was_kept_within_limits_is_told() {
    let profile = Profile::from_toml(LIMITS).unwrap();
    let mut dice = fastrand::Rng::with_seed(12);
    let factor = |dice: &mut fastrand::Rng| [0.1, 0.3, 0.7, 1.0, 1.5, 4.0, 8.0][dice.usize(0..7)];
    for _ in 0..400 {
        let (windows, holds) = (factor(&mut dice), factor(&mut dice));
        let toggled = ["\"all\"", "[]", "[\"pick\", \"gone\"]"][dice.usize(0..3)];
        let text = format!("tidy-lever = 1\n[access]\nleeway = {windows}\nholds = {holds}\ntoggled = {toggled}\n");
        let laid = Remap::from_toml(&text).unwrap().over(&profile).unwrap_or_else(|faults| panic!("{text}{faults}"));
        let mut seat = laid.linkage.seat(us(0));
        // A charge that ends where it begins would divide by nothing.
        for (at, down) in [(1, true), (900_000, false)] {
            seat.feed(tidy_lever::Event::button(us(at), crate::common::device(0), "keys:KeyJ".parse().unwrap(), down))
                .unwrap();
        }
        seat.advance(us(2_000_000));
    }
    let told = |windows: f64, holds: f64| {
        let text = format!("tidy-lever = 1\n[access]\nleeway = {windows}\nholds = {holds}\n");
        let laid = Remap::from_toml(&text).unwrap().over(&profile).unwrap();
        laid.left_alone.iter().map(|fault| fault.path.clone()).collect::<Vec<_>>()
    };
    assert_eq!(told(1.0, 1.0), [] as [String; 0]);
    assert_eq!(told(1.5, 0.9), [] as [String; 0]);
    assert_eq!(told(1.0, 8.0), ["access.holds"], "the held step stays within its window");
    assert_eq!(told(0.1, 1.0), ["access.leeway"], "the window holds the held step");
    assert_eq!(told(8.0, 1.0), ["access.leeway"], "the tap lasts no longer than the hold");
    // And the player can do what is left: a step held eight times as long would never come in time.
    let text = "tidy-lever = 1\n[access]\nholds = 8\n";
    let mut seat = Remap::from_toml(text).unwrap().over(&profile).unwrap().linkage.seat(us(0));
    for (at, x) in [(0u64, -1.0), (100, 1.0)] {
        seat.feed(tidy_lever::Event::pair(
            us(at * 1_000),
            crate::common::device(1),
            tidy_lever::Control::LEFT_STICK,
            x,
            0.0,
        ))
        .unwrap();
    }
    seat.feed(tidy_lever::Event::button(us(420_000), crate::common::device(0), "keys:KeyJ".parse().unwrap(), true))
        .unwrap();
    seat.advance(us(600_000));
    assert_eq!(seat.button(seat.linkage().find("heave").unwrap()).pulls(), 1);
}

#[test]
fn what_the_profile_binds_together_moves_together_and_a_conflict_is_told_in_plain_words() {
    use tidy_lever::prompt::Labels;
    let (profile, linkage) = (profile(), Linkage::build(&profile()).unwrap());
    let mut remap = Remap::new();
    let bound = remap.bind(&profile, &target("toss.keys"), &["keys:KeyX"], Clash::Refuse).unwrap();
    assert_eq!((bound.conflicts.len(), bound.together), (0, vec![target("throw.keys")]));
    let laid = remap.over(&profile).unwrap().linkage;
    assert_eq!((controls(&laid, "toss")[0].as_str(), controls(&laid, "throw")[0].as_str()), ("keys:KeyX", "keys:KeyX"));
    assert!(remap.undo() && remap.is_empty(), "it is one change");
    // Taken by a third: refused once for both, and swapped for it.
    let mut labels = Labels::default();
    labels.set("keys:Space".parse().unwrap(), "space bar");
    let Err(Refused::Taken(all)) = remap.bind(&profile, &target("throw.keys"), &["Space"], Clash::Refuse) else {
        panic!("the hop has it")
    };
    let told: Vec<String> = all.iter().map(|conflict| conflict.told(&linkage, &labels)).collect();
    assert_eq!(told, ["space bar is bound to both hop and throw"]);
    let bound = remap.bind(&profile, &target("throw.keys"), &["Space"], Clash::Swap).unwrap();
    assert_eq!((bound.conflicts.len(), bound.together), (1, vec![target("toss.keys")]));
    let laid = remap.over(&profile).unwrap().linkage;
    for (action, control) in [("hop", "keys:KeyJ"), ("toss", "keys:Space"), ("throw", "keys:Space")] {
        assert_eq!(controls(&laid, action)[0], control);
    }
    // Once a player has parted them, they stay apart.
    let mut remap = Remap::from_toml("tidy-lever = 1\n[action.throw]\nkeys = \"KeyY\"\n").unwrap();
    let bound = remap.bind(&profile, &target("toss.keys"), &["KeyX"], Clash::Refuse).unwrap();
    assert_eq!(bound.together, []);
}
