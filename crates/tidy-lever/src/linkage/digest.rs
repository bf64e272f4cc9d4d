//! A plan's digest: the same for plans on which a seat's state means the same, on every platform.

use core::hash::{Hash, Hasher};

use xxhash_rust::xxh64::Xxh64;

use super::{ActionPlan, Plan};

/// Hashes the same on every platform, whatever its byte order and the width of its `usize`. Collects small values, as each update
/// of the hash costs more than they do.
struct Digest {
    hash: Xxh64,
    buffer: [u8; 256],
    filled: usize,
}

impl Digest {
    fn new() -> Digest {
        Digest { hash: Xxh64::new(0), buffer: [0; 256], filled: 0 }
    }

    #[inline]
    fn put(&mut self, bytes: &[u8]) {
        if self.filled + bytes.len() > self.buffer.len() {
            self.hash.update(&self.buffer[..self.filled]);
            self.filled = 0;
        }
        match self.buffer.get_mut(self.filled..self.filled + bytes.len()) {
            Some(free) => {
                free.copy_from_slice(bytes);
                self.filled += bytes.len();
            }
            None => self.hash.update(bytes),
        }
    }
}

macro_rules! little_endian {
    ($($write:ident, $type:ty;)*) => {$(
        fn $write(&mut self, value: $type) {
            self.put(&value.to_le_bytes());
        }
    )*};
}

impl Hasher for Digest {
    fn finish(&self) -> u64 {
        let mut hash = self.hash.clone();
        hash.update(&self.buffer[..self.filled]);
        hash.digest()
    }

    fn write(&mut self, bytes: &[u8]) {
        self.put(bytes);
    }

    little_endian! {
        write_u16, u16;
        write_u32, u32;
        write_u64, u64;
        write_i16, i16;
        write_i32, i32;
        write_i64, i64;
    }

    fn write_usize(&mut self, value: usize) {
        self.write_u64(value as u64);
    }

    fn write_isize(&mut self, value: isize) {
        self.write_i64(value as i64);
    }
}

/// Every field of a plan and of an action is named, so that a new one must be thought of. What is only told to people is
/// passed over.
pub(super) fn digest(plan: &Plan) -> u64 {
    let mut state = Digest::new();
    let Plan { title: _, digest: _, warnings: _, hot: _, names: _, inputs, cues, world, .. } = plan;
    let Plan { stamp, actions, declared, while_held, groups, .. } = plan;
    (stamp, declared, inputs, cues, world, while_held, groups).hash(&mut state);
    for action in actions {
        let ActionPlan { terms: _, controls: _, name, kind, heard, cues, .. } = action;
        let ActionPlan { gauge, cooldown, marks, outranks, waits_for, group, gate, keep, while_held, .. } = action;
        let ActionPlan { spends, stages, turns_on, turns_off, listeners, finishes, moved, pointer, .. } = action;
        let ActionPlan { aim, latched, mash_period, wires, .. } = action;
        (name, kind, heard, cues, gauge, cooldown, marks).hash(&mut state);
        (outranks, waits_for, group, gate, keep, while_held, spends, stages).hash(&mut state);
        (turns_on, turns_off, listeners, finishes, moved, pointer, aim, latched, mash_period, wires).hash(&mut state);
    }
    state.finish()
}

impl Plan {
    /// The same with its digest.
    pub(super) fn digested(mut self) -> Plan {
        self.digest = digest(&self);
        self
    }
}
