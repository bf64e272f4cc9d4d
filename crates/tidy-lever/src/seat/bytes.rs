//! Saved seats as bytes: a head that says what they are, the state, and a checksum behind it.
//!
//! ```text
//!   "tidyseat" ─ version, 2 bytes ─ linkage's digest, 8 bytes ─ state ─ checksum of all before, 8 bytes
//! ```

use alloc::vec::Vec;

use serde::{Deserialize, Serialize};
use xxhash_rust::xxh64::xxh64;

use super::{Capacity, Saved, Seat};
use crate::engine::Engine;
use crate::engine::InputDigest;
use crate::linkage::{Linkage, Plan};
use crate::seat::reading::Bookmark;

const NAME: &[u8; 8] = b"tidyseat";
const VERSION: u16 = 9;
const HEAD: usize = 18;
const TAIL: usize = 8;

/// Why bytes are not a saved seat of a linkage.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum BytesError {
    /// They don't begin as a saved seat does.
    #[error("these bytes are not a saved seat")]
    NotSaved,
    /// Another version of this library wrote them, in another form.
    #[error(
        "this seat was saved in form {found}, and this version of tidy-lever reads form {VERSION}; save it again with this version"
    )]
    Version {
        /// Their form.
        found: u16,
    },
    /// They were saved on another linkage: another profile, another version of it, another remap or other settings.
    #[error(
        "this seat was saved on another linkage; build the profile, the remap and the settings that it was saved with"
    )]
    OtherLinkage,
    /// They were cut, or changed on the way.
    #[error("the saved seat is damaged: its checksum is not that of its bytes")]
    Damaged,
}

/// What stands between head and checksum.
#[derive(Serialize)]
struct Out<'s> {
    room: (u32, u32, u32),
    engine: &'s Engine,
    bookmarks: &'s [Bookmark],
}

/// Stands for the seat's own lineage, whose number means nothing elsewhere; 0 is nobody's.
const OWN: u64 = 1;

#[derive(Deserialize)]
struct In {
    room: (u32, u32, u32),
    engine: Engine,
    bookmarks: Vec<Bookmark>,
}

/// What stands between head and checksum, of a state and bookmarks.
fn with_out<T>(engine: &Engine, bookmarks: &[&Bookmark], use_it: impl FnOnce(&Out<'_>) -> T) -> T {
    let room = engine.room();
    let room = (room.waiting as u32, room.history as u32, room.devices as u32);
    let own = engine.log.ring.root();
    let lineage = |bookmark: &Bookmark| if bookmark.point().is_rooted(own) { OWN } else { 0 };
    let bookmarks: Vec<Bookmark> =
        bookmarks.iter().map(|bookmark| (*bookmark).clone().rooted(lineage(bookmark))).collect();
    use_it(&Out { room, engine, bookmarks: &bookmarks })
}

fn written(linkage: &Linkage, engine: &Engine, bookmarks: &[&Bookmark]) -> Vec<u8> {
    let mut bytes = Vec::from(*NAME);
    bytes.extend(VERSION.to_le_bytes());
    bytes.extend(linkage.0.digest.to_le_bytes());
    // A state is numbers and lists of known length: that can always be written.
    bytes.extend(with_out(engine, bookmarks, |out| postcard::to_allocvec(out).unwrap_or_default()));
    let checksum = xxh64(&bytes, 0);
    bytes.extend(checksum.to_le_bytes());
    bytes
}

impl Seat {
    /// What [`Saved::to_bytes`] would give of this seat and these bookmarks, without saving it first. It costs by what the seat
    /// holds, not by its [`Capacity`].
    pub fn to_bytes(&self, bookmarks: &[&Bookmark]) -> Vec<u8> {
        written(&self.linkage, &self.engine, bookmarks)
    }

    /// How many bytes [`to_bytes`](Seat::to_bytes) would give.
    pub fn bytes_len(&self, bookmarks: &[&Bookmark]) -> usize {
        let state =
            with_out(&self.engine, bookmarks, |out| postcard::experimental::serialized_size(out).unwrap_or_default());
        HEAD + state + TAIL
    }
}

impl Saved {
    /// The saved seat as bytes, the same on every platform: for save states, and for sending a state to another machine.
    ///
    /// ```
    /// use tidy_lever::profile::{Action, Profile};
    /// use tidy_lever::seat::Saved;
    /// use tidy_lever::{Linkage, Moment};
    ///
    /// let linkage = Linkage::build(&Profile::new("Otter Post").action(Action::button("hop").keys("Space")))?;
    /// let mut seat = linkage.seat(Moment::ZERO);
    /// seat.advance(Moment::from_millis(16));
    /// let bytes = seat.saved(&[]).to_bytes();
    ///
    /// let mut other = linkage.seat(Moment::ZERO);
    /// other.restore(&Saved::from_bytes(&linkage, &bytes)?, &mut [])?;
    /// assert_eq!(other.state_hash(), seat.state_hash());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn to_bytes(&self) -> Vec<u8> {
        written(&self.linkage, &self.engine, &self.bookmarks.iter().collect::<Vec<_>>())
    }

    /// Reads what [`to_bytes`](Saved::to_bytes) wrote. The linkage must be the one that it was saved on: built from the same
    /// profile, remap and settings.
    ///
    /// Bytes that were cut or changed are refused. They are not signed: whoever can write the checksum, too, can write a
    /// state that no seat ever was in, so take states only from where you would take a save file.
    ///
    /// # Errors
    /// A [`BytesError`] that says why they are not a saved seat of this linkage.
    pub fn from_bytes(linkage: &Linkage, bytes: &[u8]) -> Result<Saved, BytesError> {
        let (rest, checksum) = bytes.split_last_chunk::<TAIL>().ok_or(BytesError::NotSaved)?;
        let (head, state) = rest.split_first_chunk::<HEAD>().ok_or(BytesError::NotSaved)?;
        if !head.starts_with(NAME) {
            return Err(BytesError::NotSaved);
        }
        let found = u16::from_le_bytes([head[8], head[9]]);
        if xxh64(rest, 0) != u64::from_le_bytes(*checksum) {
            return Err(BytesError::Damaged);
        }
        if found != VERSION {
            return Err(BytesError::Version { found });
        }
        if head[10..] != linkage.0.digest.to_le_bytes() {
            return Err(BytesError::OtherLinkage);
        }
        let In { room: (waiting, history, devices), engine, bookmarks } =
            postcard::from_bytes(state).map_err(|_| BytesError::Damaged)?;
        let room = Capacity { waiting: waiting as usize, history: history as usize, devices: devices as usize };
        let room = room.checked().map_err(|_| BytesError::Damaged)?;
        // No room is made for what can't be a seat.
        if engine.room() != room {
            return Err(BytesError::Damaged);
        }
        let mut own = Engine::new(&linkage.0, engine.next, room);
        if !engine.fits(&own, &linkage.0) {
            return Err(BytesError::Damaged);
        }
        own.copy_from(&engine);
        own.input_digest = InputDigest::fresh();
        own.inputs.board.stir(&linkage.0.inputs);
        let root = own.log.ring.rooted_anew();
        let rooted = |bookmark: Bookmark| {
            let is_own = bookmark.point().is_rooted(OWN);
            bookmark.rooted(if is_own { root } else { 0 })
        };
        let bookmarks = bookmarks.into_iter().map(rooted).collect();
        Ok(Saved { linkage: linkage.clone(), engine: own, bookmarks })
    }
}

impl Engine {
    /// Whether a state that was read has the size of one that was made for this plan in every part.
    fn fits(&self, made: &Engine, plan: &Plan) -> bool {
        let room = made.room();
        let motions = self.pulls.cues.motions.iter().zip(&plan.cues.motions);
        let facts = self.world.facts.iter().zip(&plan.world.facts);
        self.inputs.fits(&made.inputs)
            && self.world.fits(&made.world)
            && self.pulls.fits(&made.pulls)
            && self.log.fits(&made.log)
            && self.inputs.board.fits(&plan.inputs, room.devices)
            && self.inputs.guards.fits(&made.inputs.guards, |control| {
                let slot = plan.inputs.slots.get(usize::from(control.slot));
                control.local < self.inputs.board.count()
                    && slot.is_some_and(|slot| slot.family == self.inputs.board.family(control.local))
            })
            && self.world.modes.fits(plan.world.modes.len())
            && self.inputs.fingers.fits(plan.inputs.panel.len())
            && self
                .pulls
                .lists
                .standing
                .iter()
                .filter_map(|standing| standing.cue)
                .all(|cue| usize::from(cue) < plan.cues.all.len())
            && self.world.truths.iter().filter_map(|truth| truth.spender).all(|by| usize::from(by) < plan.declared)
            && { motions }.all(|(state, set)| state.fits(set))
            && { facts }.all(|(value, fact)| usize::from(*value) < fact.words.len())
            && self.pulls.lists.waits.iter().chain(&self.pulls.lists.kept).all(|pending| pending.fits(plan))
            && self.queue.len() <= room.waiting
            && self.log.ring.fits(room.history)
    }
}
