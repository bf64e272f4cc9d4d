//! The hash of a seat's state: every field is named, so that a new one must be thought of.

use super::block::{ActionState, Block, Mark, Sums, Toggled};
use super::pending::Standing;
use crate::cue::RuleState;
use crate::gate::Truth;
use crate::gauge::GaugeState;
use crate::inputs::cross::CrossState;
use crate::inputs::pointer::PointerState;
use crate::inputs::signal::Moved;
use crate::time::NEVER;
use xxhash_rust::xxh64::Xxh64;

impl Block {
    /// A hash of all that decides what happens next, the same on every platform. What only tells of the last tick is
    /// left out, so that other cuts of the same tape give the same hash.
    pub(crate) fn hash(&self) -> u64 {
        let mut hash = Xxh64::new(0);
        let mut word = |word: u64| hash.update(&word.to_le_bytes());
        let played = self.played();
        // Every field is named, so that a new one must be thought of. What decides nothing later is passed over: what
        // only tells of the last tick, and what is empty between moments.
        let Block {
            tick: _,
            tick_began: _,
            swept: _,
            ring: _,
            pending: _,
            muted: _,
            shown: _,
            tally: _,
            ledger: _,
            moves: _,
            gave_back: _,
            wake: _,
            sweeps_rest: _,
            rechecks: _,
            next,
            queue,
            board,
            stale,
            crosses,
            moved,
            sweeps,
            pointers,
            view,
            fingers,
            used,
            rule_states,
            moments,
            timers,
            world_timers,
            marks,
            gauges,
            standing,
            frozen_since,
            frozen_for,
            waits,
            kept,
            truths,
            recheck,
            actions,
            facts,
            modes,
            motions,
            hands,
            hand,
        } = self;
        word(*next);
        for waiting in queue.iter() {
            waiting.words().into_iter().for_each(&mut word);
            if let Some(name) = waiting.finger() {
                fingers.waiting_words(name).into_iter().for_each(&mut word);
            }
        }
        board.words(&mut word);
        stale.iter().copied().for_each(&mut word);
        crosses.iter().flat_map(CrossState::words).for_each(&mut word);
        moved.iter().flat_map(Moved::words).for_each(&mut word);
        sweeps.iter().flat_map(|sweep| sweep.words(played)).for_each(&mut word);
        pointers.iter().flat_map(PointerState::words).for_each(&mut word);
        word(u64::from(view[0]) << 32 | u64::from(view[1]));
        fingers.words(&mut word);
        used.words().into_iter().for_each(&mut word);
        rule_states.iter().flat_map(RuleState::words).for_each(&mut word);
        moments.iter().copied().for_each(&mut word);
        timers.words().for_each(&mut word);
        world_timers.words().for_each(&mut word);
        // Marks that are not under way decide nothing.
        let first = world_timers.owners() - marks.len();
        let under_way = (0..marks.len()).filter(|place| world_timers.when(first + place).is_some());
        under_way.flat_map(|place| marks[place].words()).for_each(&mut word);
        gauges.iter().flat_map(GaugeState::words).for_each(&mut word);
        standing.iter().flat_map(Standing::words).for_each(&mut word);
        word(frozen_since.map_or(u64::MAX, |since| since));
        word(*frozen_for);
        for pending in waits.iter().chain(kept) {
            pending.words().into_iter().for_each(&mut word);
        }
        word(waits.len() as u64);
        truths.iter().flat_map(Truth::words).for_each(&mut word);
        word(if *recheck == NEVER { 0 } else { *recheck });
        actions.iter().flat_map(ActionState::words).for_each(&mut word);
        facts.iter().for_each(|fact| word(u64::from(*fact)));
        modes.words().for_each(&mut word);
        motions.iter().for_each(|state| state.words(&mut word));
        hands.iter().copied().for_each(&mut word);
        word(u64::from(*hand));
        hash.digest()
    }
}

impl ActionState {
    /// What a state's hash is made of. The sums before the last tick tell of that tick alone.
    fn words(&self) -> [u64; 15] {
        let ActionState {
            since,
            last_held,
            on_since,
            cool_until,
            press,
            stage,
            stage_before,
            toggled,
            pulled_in,
            pulled_on,
            pulled_by,
            sums,
            before: _,
            tick: _,
            held,
            on,
            listens,
        } = *self;
        let Sums { pressed, released, pulled } = sums;
        let (turned, turned_since) = match toggled {
            Toggled::Not => (0, 0),
            Toggled::On => (1, 0),
            Toggled::Off { since } => (2, since),
        };
        let [a, b, c, d] = pulled_on.words();
        let flags = u64::from(pulled_by) << 32 | u64::from(held) << 8 | u64::from(on) << 1 | u64::from(listens);
        let stages = u64::from(stage) << 16 | u64::from(stage_before) << 8 | turned;
        let pressed = u64::from(pressed) << 32 | u64::from(released);
        let pulled = u64::from(pulled);
        [
            since,
            last_held,
            on_since,
            cool_until,
            press,
            stages,
            turned_since,
            pulled_in,
            a,
            b,
            c,
            d,
            pressed,
            pulled,
            flags,
        ]
    }
}

impl Mark {
    fn words(&self) -> [u64; 2] {
        let Mark { action, mark, pull } = *self;
        [u64::from(action) << 8 | u64::from(mark), u64::from(pull)]
    }
}
