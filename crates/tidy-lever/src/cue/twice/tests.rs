use super::*;
use crate::timers::Timers;

#[test]
fn a_push_that_it_does_not_mind_changes_nothing() {
    let mut dice = fastrand::Rng::with_seed(23);
    let (mut minded, mut passed) = (0, 0);
    for _ in 0..200 {
        let rule = Rule::Twice { within: Duration::from_millis(240), until_neutral: dice.bool() };
        let twice = Twice { pace: dice.bool().then_some((200_000, 400_000)), ..Twice::of(&rule).unwrap() };
        let (mut state, mut timers) = (RuleState::default(), Timers::new(1));
        let mut moments = [0; MOMENTS];
        let (mut at, mut now, mut to, mut press, mut on) = (1, (0, 0), None, 0, false);
        for _ in 0..100 {
            at += [1, 900, 20_000, 150_000][dice.usize(0..4)];
            let before = now;
            // Nearby, mostly; now and then elsewhere.
            let step =
                |dice: &mut fastrand::Rng, level: i32| (level + dice.i32(-90..90) * 1_000).clamp(-1_000_000, 1_000_000);
            now = match dice.u8(0..4) {
                0 => (dice.i32(-1_000..=1_000) * 1_000, dice.i32(-1_000..=1_000) * 1_000),
                _ => (step(&mut dice, now.0), step(&mut dice, now.1)),
            };
            if dice.u8(0..4) == 0 {
                to = Direction::ALL.get(dice.usize(0..9)).copied();
                press += 1;
            }
            let mut region = IdleRegion::ALL;
            let is_idle = twice.is_idle(now, to, &state, on, &mut region);
            assert!(!is_idle || region.holds(now), "{region:?} is about {now:?}");
            let near = (step(&mut dice, now.0), step(&mut dice, now.1));
            if is_idle && region.holds(near) {
                assert!(twice.is_idle(near, to, &state, on, &mut { IdleRegion::ALL }), "{near:?} lies in {region:?}");
            }
            let looks = |state: &RuleState, timers: &Timers, moments: &[u64]| {
                (*state, timers.words().collect::<alloc::vec::Vec<_>>(), moments.to_vec())
            };
            let was = looks(&state, &timers, &moments);
            let (back, cause) = (dice.u8(0..8) == 0, Cause::LetGo);
            let push = Push { value: now, now, before, to, press, digital: false, back, cause };
            let mut context = RuleContext {
                at,
                state: &mut state,
                timers: &mut timers,
                timer: 0,
                moments: &mut moments,
                on,
                missed: None,
                stepped: None,
            };
            let verdict = twice.hears(Edge::Push(&push), Role::Subject, &mut context);
            if is_idle {
                passed += 1;
                assert_eq!(verdict, Verdict::None);
                assert_eq!(looks(&state, &timers, &moments), was);
            } else {
                minded += 1;
            }
            on = match verdict {
                Verdict::Matched(_) => true,
                Verdict::Ended(_) => false,
                Verdict::None => on,
            };
        }
    }
    assert!(minded > 1_000 && passed > 1_000, "{minded} were minded, {passed} were not");
}
