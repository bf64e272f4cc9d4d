//! A tape in lanes, as it is played.

use anyhow::Result;
use tidy_lever::tape::Line;
use tidy_lever::{Happening, Linkage, Seat};
use tidy_lever_draw::{Lanes, Timeline};

use crate::attempts::ROOM;
use crate::run::{SWALLOWED, Watcher};

/// Watches a tape for its picture.
pub(crate) struct Watched(Lanes);

impl Watched {
    pub(crate) fn new(linkage: &Linkage, range: (u64, u64), actions: &[String]) -> Watched {
        Watched(Lanes::new(linkage, range, actions).crowded())
    }

    pub(crate) fn finish(self, title: String, to: u64) -> Timeline {
        self.0.finish(title, to)
    }
}

impl Watcher for Watched {
    fn seated(&mut self, seat: &mut Seat) {
        seat.keep_ledger(ROOM);
        seat.keep_swallowed(SWALLOWED);
    }

    fn line(&mut self, line: &Line) {
        self.0.line(line);
    }

    fn happened(&mut self, seat: u32, happening: &Happening, now: &Seat) -> Result<()> {
        self.0.relink(now.linkage());
        self.0.happened(seat, happening);
        Ok(())
    }

    fn played(&mut self, seat: u32, now: &Seat) -> Result<()> {
        self.0.played(seat, now);
        Ok(())
    }

    fn ended(&mut self, seat: u32, now: &Seat) -> Result<()> {
        self.0.played(seat, now);
        Ok(())
    }
}
