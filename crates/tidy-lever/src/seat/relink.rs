//! Relinking: a seat goes over to another linkage, and its bookmarks with it.

use alloc::boxed::Box;

use super::Seat;
use crate::engine::{RelinkMap, Relinked};
use crate::linkage::Linkage;
use crate::seat::reading::Bookmark;

impl Seat {
    /// Goes over to another linkage, by names: a profile that was changed while it plays, or the same with another remap.
    ///
    /// What is held stays held, toggles, gauges, facts and modes stay as they are; attempts and keeps go on where the
    /// compiled rule is the same. What was held by a control that is bound no longer, or was on by a rule that changed,
    /// ends with cause `relinked`. A control that is newly bound and held already is stale. Bookmarks go over with the
    /// seat. Handles of a profile with the same names stay good; of another, find them again. A ledger begins again,
    /// and numbers its attempts on.
    ///
    /// ```
    /// use tidy_lever::{Button, Control, Device, Event, Linkage, Moment, Profile};
    ///
    /// let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = [\"south\", \"east\"]\n";
    /// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
    /// let hop: Button = linkage.find("hop")?;
    /// let mut seat = linkage.seat(Moment::ZERO);
    /// seat.feed(Event::button(Moment::from_millis(1), Device::new(0).unwrap(), Control::PAD_SOUTH, true))?;
    /// seat.advance(Moment::from_millis(10));
    /// let tuned = Linkage::build(&Profile::from_toml(&text.replace("south", "west"))?)?;
    /// seat.relink(&tuned, &mut []);
    /// assert!(!seat.button(hop).is_down() && seat.button(hop).went_up());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn relink(&mut self, linkage: &Linkage, bookmarks: &mut [&mut Bookmark]) -> Relinked {
        let (old, new) = (self.linkage.clone(), linkage.clone());
        let map = RelinkMap::new(&old.0, &new.0);
        let ledger = self.engine.pulls.ledger.as_ref().map(|ledger| ledger.again(&new.0));
        let (engine, relinked) = self.engine.relinked(&map);
        for bookmark in bookmarks {
            let point = engine.log.ring.carried(bookmark.point(), &self.engine.log.ring);
            bookmark.relink(&map.before, &map.sweeps(), point);
        }
        let swallowed = self.engine.inputs.swallowed.take();
        self.engine = engine;
        self.engine.inputs.swallowed = swallowed;
        self.engine.pulls.ledger = ledger.map(Box::new);
        self.linkage = new.clone();
        self.descends_from(&[old.stamp()]);
        relinked
    }
}
