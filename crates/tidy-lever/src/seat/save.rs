//! Saving and restoring: a rollback is a copy.

use super::{Block, Seat};
use crate::linkage::Linkage;
use crate::seat::reading::Bookmark;

/// A seat's state and its readers' bookmarks at one moment.
#[derive(Debug)]
pub struct Saved {
    linkage: Linkage,
    block: Block,
    bookmarks: alloc::vec::Vec<Bookmark>,
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

impl Seat {
    /// Room to save this seat and some bookmarks into, made once.
    pub fn saved(&self, bookmarks: &[&Bookmark]) -> Saved {
        let bookmarks = bookmarks.iter().map(|bookmark| (*bookmark).clone()).collect();
        Saved { linkage: self.linkage.clone(), block: self.block.copy(&self.linkage.0), bookmarks }
    }

    /// Saves the seat, and its readers' bookmarks with it, so that after a restore they see again what is played again.
    /// Doesn't allocate when `saved` was made by this seat, or by one of the same linkage and room, for as many
    /// bookmarks; after a relink the first save makes its room again.
    pub fn save_into(&self, saved: &mut Saved, bookmarks: &[&Bookmark]) {
        if saved.linkage.is_like(&self.linkage) {
            saved.block.copy_from(&self.block);
        } else {
            saved.block = self.block.copy(&self.linkage.0);
        }
        saved.linkage = self.linkage.clone();
        saved.bookmarks.truncate(bookmarks.len());
        for (place, bookmark) in bookmarks.iter().enumerate() {
            match saved.bookmarks.get_mut(place) {
                Some(kept) => kept.clone_from(bookmark),
                None => saved.bookmarks.push((*bookmark).clone()),
            }
        }
    }

    /// Becomes what was saved, bookmarks too, in the order in which they were saved. Doesn't allocate where both have the
    /// same [`Room`](super::Room).
    ///
    /// # Errors
    /// A [`RestoreError`] if it was saved from another profile or linkage, or with another number of bookmarks. The seat
    /// is as before.
    pub fn restore(&mut self, saved: &Saved, bookmarks: &mut [&mut Bookmark]) -> Result<(), RestoreError> {
        if saved.linkage.stamp() != self.linkage.stamp() {
            return Err(RestoreError::OtherProfile);
        }
        if !saved.linkage.is_like(&self.linkage) {
            return Err(RestoreError::OtherLinkage);
        }
        if saved.bookmarks.len() != bookmarks.len() {
            return Err(RestoreError::OtherBookmarks { saved: saved.bookmarks.len(), given: bookmarks.len() });
        }
        self.block.copy_from(&saved.block);
        self.block.ring.branch();
        let played = self.block.played();
        self.block.note(|ledger| ledger.goes_back(played));
        for (bookmark, kept) in bookmarks.iter_mut().zip(&saved.bookmarks) {
            (**bookmark).clone_from(kept);
        }
        Ok(())
    }
}
