//! The hash of a seat's state.

use crate::engine::Engine;
use crate::engine::part::Field;
use xxhash_rust::xxh64::Xxh64;

impl Engine {
    /// A hash of all that decides what happens next, the same on every platform. What only tells of the last tick is
    /// left out, so that other cuts of the same tape give the same hash.
    pub(crate) fn hash(&self) -> u64 {
        let mut hash = Xxh64::new(0);
        let mut word = |word: u64| hash.update(&word.to_le_bytes());
        let played = self.played();
        let Engine { next, queue, inputs, cues, world, pulls, actions, log, wake: _, due: _, deeds: _ } = self;
        word(*next);
        for waiting in queue.iter() {
            waiting.words().into_iter().for_each(&mut word);
            if let Some(name) = waiting.finger() {
                inputs.fingers.waiting_words(name).into_iter().for_each(&mut word);
            }
        }
        inputs.words(played, &mut word);
        cues.words(played, &mut word);
        world.words(played, &mut word);
        // Marks that are not under way decide nothing.
        let first = world.timers.owners() - world.marks.len();
        let under_way = (0..world.marks.len()).filter(|place| world.timers.when(first + place).is_some());
        under_way.flat_map(|place| world.marks.get(place).words()).for_each(&mut word);
        pulls.words(played, &mut word);
        actions.words(played, &mut word);
        log.words(played, &mut word);
        hash.digest()
    }
}
