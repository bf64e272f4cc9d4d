use std::collections::HashMap;

use super::*;
use crate::cue::CueMatch;
use crate::direction::Direction;
use crate::engine::inputs::Inputs;
use crate::engine::pulls::actions::Toggled;
use crate::engine::pulls::cues::Cues;
use crate::engine::pulls::lists::Lists;
use crate::engine::pulls::pending::PendingPull;
use crate::engine::world::marks::Mark;
use crate::history::Aim;
use crate::index::Index;
use crate::{Control, Device, Event, Linkage, Moment, Profile};

const TEXT: &str = r#"
tidy-lever = 1
[modes]
menu = {}
[facts]
grounded = true
[action.steer]
kind = "stick"
pad = "left-stick"
keys = { up = "KeyW", left = "KeyA", down = "KeyS", right = "KeyD" }
[action.hop]
kind = "button"
keys = "Space"
when = "grounded within 90ms"
keep = "150ms"
aim = "steer"
marks = { hidden = "40ms" }
stages = { count = 3, after = "grounded", within = "180ms" }
[action.lamp]
kind = "button"
keys = "Space"
cue = "toggle"
[action.drum]
kind = "button"
keys = "KeyK"
when = "grounded"
while_held = true
[action.throw]
kind = "button"
keys = "KeyJ"
waits_for = ["skim"]
cue = "charge 10ms to 90ms"
[action.skim]
kind = "button"
cue = "steer rolls 236 then hop within 350ms"
[action.paddle]
kind = "gauge"
keys = "KeyK"
gauge = { ceiling = 6, push = "+1", rest = "20ms", fade = "-1 every 100ms" }
"#;

fn seat() -> crate::Seat {
    Linkage::build(&Profile::from_toml(TEXT).unwrap()).unwrap().seat(Moment::ZERO)
}

/// Sets in turn what the crate can reach of the state; each changes the hash.
#[test]
fn every_field_that_decides_what_happens_next_is_in_the_hash() {
    let mut seat = seat();
    let pending = PendingPull {
        action: 1,
        cue: Some(Index::new(0)),
        cue_match: CueMatch::default(),
        aim: Aim::default(),
        fresh: false,
        let_go: false,
        is_open: false,
        kept: 0,
    };
    seat.engine.pulls.lists.kept.push(pending);
    seat.engine.pulls.lists.waits.push(pending);
    seat.engine.world.marks.set(0, Mark { action: 1, mark: 0, pull: 1 });
    let first = seat.engine.world.timers.owners() - seat.engine.world.marks.len();
    seat.engine.world.timers.set(first, 10, crate::timers::DuePart::Due);
    let plan = seat.linkage().0.clone();
    seat.engine.inputs.board.local(&plan.inputs, Device::default(), crate::Family::Pad);
    let before = seat.engine.hash();
    macro_rules! changes {
        ($engine:ident: $($change:stmt;)*) => {$({
            let mut copy = seat.engine.copy(&plan);
            let $engine = &mut copy;
            $change
            assert_ne!(copy.hash(), before, "{}", stringify!($change));
        })*};
    }
    changes! { b:
        b.next += 1;
        b.inputs.view[1] += 1;
        b.inputs.stale[0] ^= 1;
        b.inputs.crosses[0].left += 1;
        b.inputs.moved[0].x += 1;
        b.inputs.moved[0].since += 1;
        b.inputs.moved[0].direction = Some(Direction::Up);
        b.inputs.moved[0].last = Some(Direction::Up);
        b.inputs.moved[0].last_push.1 += 1;
        b.inputs.moved[0].last_at += 1;
        b.inputs.fingers.hidden = true;
        b.pulls.cues.rule_states[0].presses.push(1);
        b.pulls.cues.rule_states[0].open = true;
        b.pulls.cues.timers.set(0, 5, crate::timers::DuePart::Due);
        b.pulls.cues.timers.set(0, 5, crate::timers::DuePart::Expire);
        b.world.marks.set(0, Mark { action: b.world.marks.get(0).action + 1, ..b.world.marks.get(0) });
        b.world.marks.set(0, Mark { mark: b.world.marks.get(0).mark + 1, ..b.world.marks.get(0) });
        b.world.marks.set(0, Mark { pull: b.world.marks.get(0).pull + 1, ..b.world.marks.get(0) });
        b.world.frozen_since = Some(1);
        b.world.frozen_for += 1;
        b.pulls.lists.recheck = 1;
        b.world.facts[0] ^= 1;
        b.inputs.stick_devices[0] ^= 1;
        b.inputs.device += 1;
        b.pulls.cues.motions[0].by ^= 1;
        b.inputs.board.focused = false;
        b.inputs.board.contacts[0].down ^= 1;
        b.inputs.board.contacts[0].press += 1;
        b.inputs.board.set_feed((&plan.inputs.feeds[0], 0), 0, crate::shape::Bent::straight((1, 0)));
        let _ = b.inputs.board.fresh_press(0);
        let _ = b.world.modes.set(0, true);
        b.world.truths[0].holds ^= true;
        b.world.truths[0].ended = Some(1);
        b.world.truths[0].spent = Some((1, 0));
        b.world.truths[0].spender = Some(Index::new(1));
        b.world.truths[0].broken ^= true;
        b.world.truths[0].counted = Some(1);
        b.world.truths[0].counted_before = Some(1);
        b.inputs.buttons[0].since += 1;
        b.inputs.buttons[0].last_held += 1;
        b.pulls.actions[0].on_since += 1;
        b.world.actions[0].cool_until += 1;
        b.inputs.buttons[0].press += 1;
        b.world.actions[0].stage += 1;
        b.world.actions[0].stage_before += 1;
        b.pulls.actions[0].pulls += 1;
        b.pulls.cues.held[0] ^= true;
        b.pulls.actions[0].toggled = Toggled::On;
        (b.pulls.actions[0].toggled, b.pulls.actions[0].was_on_since) = (Toggled::Off, 1);
        b.pulls.actions[0].pulled_in += 1;
        b.pulls.actions[0].pulled_on.push(1);
        b.log.sums[0].now.pressed += 1;
        b.log.sums[0].now.released += 1;
        b.log.sums[0].now.pulled += 1;
        b.inputs.buttons[0].held += 1;
        b.pulls.actions[0].on ^= true;
        b.world.listening.set(0, &[], false);
        b.pulls.lists.kept[0].action += 1;
        b.pulls.lists.kept[0].kept += 1;
        b.pulls.lists.kept[0].let_go ^= true;
        b.pulls.lists.kept[0].aim.push.0 += 1;
        b.pulls.lists.kept[0].aim.direction = Some(Direction::Up);
        b.pulls.lists.kept[0].aim.held ^= true;
        b.pulls.lists.kept[0].aim.age += 1;
        b.pulls.lists.kept[0].cue_match.lasting ^= true;
        b.pulls.lists.kept[0].cue_match.presses.push(1);
        b.pulls.lists.kept[0].cue_match.pressed += 1;
        b.pulls.lists.kept[0].cue_match.amount += 1;
        b.pulls.lists.kept[0].cue_match.repeated ^= true;
        b.pulls.lists.kept[0].cue_match.facing = Some(Index::new(1));
        b.pulls.lists.waits[0].action += 1;
        b.pulls.lists.waits.clear();
    }
}

/// What the crate can't reach: of random play, states that look different have different hashes.
#[test]
fn states_that_differ_anywhere_differ_in_their_hash() {
    let mut dice = fastrand::Rng::with_seed(5);
    let mut seen: HashMap<u64, String> = HashMap::new();
    let keys = ["KeyW", "KeyD", "KeyS", "Space", "KeyK", "KeyJ"].map(|key| format!("keys:{key}").parse().unwrap());
    for _ in 0..60 {
        let mut seat = seat();
        let mut at = 0;
        for _ in 0..60 {
            at += [1, 900, 16_000, 60_000][dice.usize(0..4)];
            let moment = Moment::from_micros(at);
            let device = Device::new(dice.usize(0..2)).unwrap();
            match dice.u8(0..6) {
                0 => {
                    let level = |dice: &mut fastrand::Rng| f32::from(dice.i8(-3..=3)) / 3.0;
                    let (x, y) = (level(&mut dice), level(&mut dice));
                    seat.feed(Event::pair(moment, device, Control::LEFT_STICK, x, y)).unwrap();
                }
                1 => seat.tell_at(seat.linkage().find("grounded").unwrap(), dice.bool(), moment).unwrap(),
                _ => seat.feed(Event::button(moment, device, keys[dice.usize(0..6)], dice.bool())).unwrap(),
            }
            seat.advance(moment);
            let Engine { inputs, world, pulls, .. } = &seat.engine;
            let Pulls { actions, cues, lists, .. } = pulls;
            let Inputs { board, moved, crosses, used, fingers, buttons, .. } = inputs;
            let Cues { rule_states, moments, timers, motions, .. } = cues;
            let World { timers: world_timers, gauges, truths, modes, actions: spent, .. } = world;
            let Lists { standing, waits, kept, keeping, .. } = lists;
            let mut used = *used;
            (used.changes, used.before) = (0, 0);
            let timers = [timers, world_timers, keeping].map(|timers| timers.words().collect::<Vec<_>>());
            let looks = format!(
                "{at} {:?} {board:?} {moved:?} {crosses:?} {rule_states:?} {moments:?} {timers:?} {gauges:?} {standing:?} \
                 {waits:?} {kept:?} {truths:?} {:?} {used:?} {fingers:?} {modes:?} {buttons:?} {spent:?}",
                actions,
                motions.iter().map(crate::cue::rolls::MotionState::bits).map(Iterator::count).collect::<Vec<_>>(),
            );
            let first = seen.entry(seat.state_hash()).or_insert_with(|| looks.clone());
            assert_eq!(*first, looks);
        }
    }
    assert!(seen.len() > 3_000, "{}", seen.len());
}
