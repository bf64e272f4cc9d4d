//! Saving and restoring: a rollback is a copy.

use super::{Capacity, Engine, Seat};
use crate::linkage::Linkage;
use crate::seat::reading::Bookmark;

/// A seat's state and its readers' bookmarks at one moment.
#[derive(Debug)]
#[must_use]
pub struct Saved {
    pub(super) linkage: Linkage,
    pub(super) engine: Engine,
    pub(super) bookmarks: alloc::vec::Vec<Bookmark>,
}

/// Why a seat could not be restored. The seat is as before.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum RestoreError {
    /// It was saved from a seat of another profile.
    #[error("this was saved from a seat of another profile; restore it on a seat of the same one")]
    OtherProfile,
    /// It was saved when the profile was another version, or had another remap or other accessibility settings.
    #[error(
        "this was saved with another version of the profile, another remap or other accessibility settings; \
         relink the seat to that linkage first, or save again after relinking"
    )]
    OtherLinkage,
    /// It was saved with another number of bookmarks.
    #[error("this was saved with {saved} bookmarks, and {given} are given; give the same ones in the same order")]
    OtherBookmarks {
        /// How many were saved.
        saved: usize,
        /// How many were given.
        given: usize,
    },
}

impl Clone for Saved {
    fn clone(&self) -> Saved {
        let engine = self.engine.copy(&self.linkage.0);
        Saved { linkage: self.linkage.clone(), engine, bookmarks: self.bookmarks.clone() }
    }
}

impl Saved {
    pub(crate) fn linkage(&self) -> &Linkage {
        &self.linkage
    }

    pub(crate) fn room(&self) -> Capacity {
        self.engine.room()
    }

    /// Whether it fits a seat, if there is one, and so many bookmarks.
    pub(crate) fn check(&self, seat: Option<&Seat>, bookmarks: usize) -> Result<(), RestoreError> {
        if let Some(seat) = seat {
            if self.linkage.stamp() != seat.linkage.stamp() {
                return Err(RestoreError::OtherProfile);
            }
            if !self.linkage.is_like(&seat.linkage) {
                return Err(RestoreError::OtherLinkage);
            }
        }
        if self.bookmarks.len() != bookmarks {
            return Err(RestoreError::OtherBookmarks { saved: self.bookmarks.len(), given: bookmarks });
        }
        Ok(())
    }
}

impl Seat {
    /// Capacity to save this seat and some bookmarks into, made once.
    pub fn saved(&self, bookmarks: &[&Bookmark]) -> Saved {
        let bookmarks = bookmarks.iter().map(|bookmark| (*bookmark).clone()).collect();
        Saved { linkage: self.linkage.clone(), engine: self.engine.copy(&self.linkage.0), bookmarks }
    }

    /// Saves the seat, and its readers' bookmarks with it, so that after a restore they see again what is played again.
    /// Doesn't allocate when `saved` was made by this seat, or by one of the same linkage and room, for as many
    /// bookmarks; after a relink the first save makes its room again.
    pub fn save_into(&self, saved: &mut Saved, bookmarks: &[&Bookmark]) {
        self.save_each_into(saved, bookmarks.iter().copied());
    }

    pub(crate) fn save_each_into<'b>(&self, saved: &mut Saved, bookmarks: impl Iterator<Item = &'b Bookmark>) {
        if saved.engine.input_digest.are(self.engine.input_digest) {
            saved.engine.catch_up(&self.engine);
        } else if saved.linkage.is_like(&self.linkage) {
            saved.engine.copy_from(&self.engine);
        } else {
            saved.engine = self.engine.copy(&self.linkage.0);
        }
        if !saved.linkage.is_same(&self.linkage) {
            saved.linkage = self.linkage.clone();
        }
        let mut count = 0;
        for bookmark in bookmarks {
            match saved.bookmarks.get_mut(count) {
                Some(kept) => kept.clone_from(bookmark),
                None => saved.bookmarks.push(bookmark.clone()),
            }
            count += 1;
        }
        saved.bookmarks.truncate(count);
    }

    /// Becomes what was saved, bookmarks too, in the order in which they were saved. Doesn't allocate where both have the
    /// same [`Capacity`].
    ///
    /// # Errors
    /// A [`RestoreError`] if it was saved from another profile or linkage, or with another number of bookmarks. The seat
    /// is as before.
    pub fn restore(&mut self, saved: &Saved, bookmarks: &mut [&mut Bookmark]) -> Result<(), RestoreError> {
        saved.check(Some(self), bookmarks.len())?;
        self.engine.go_back_to(&saved.engine);
        self.engine.log.ring.branch();
        for (bookmark, kept) in bookmarks.iter_mut().zip(&saved.bookmarks) {
            (**bookmark).clone_from(kept);
        }
        Ok(())
    }
}

impl Engine {
    /// Becomes another one, and tells the ledger, which is its own, from when on.
    pub(super) fn go_back_to(&mut self, other: &Engine) {
        self.copy_from(other);
        let played = self.played();
        self.pulls.note(|ledger| ledger.goes_back(played));
    }
}
