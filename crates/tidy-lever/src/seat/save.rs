//! Saving and restoring: a rollback is a copy.

use super::{Block, Seat};
use crate::reading::Bookmark;

/// A seat's state and its readers' bookmarks at one moment.
#[derive(Debug)]
pub struct Saved {
    stamp: u32,
    block: Block,
    bookmarks: alloc::vec::Vec<Bookmark>,
}

/// Why a seat could not be restored.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum RestoreError {
    /// It was saved from a seat of another profile.
    #[error("this was saved from a seat of another profile; restore it on a seat of the same one")]
    OtherProfile,
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
        Saved { stamp: self.linkage.stamp(), block: self.block.copy(&self.linkage.0), bookmarks }
    }

    /// Saves the seat, and its readers' bookmarks with it, so that after a restore they see again what is played again.
    /// Doesn't allocate when `saved` was made by this seat for as many bookmarks.
    pub fn save_into(&self, saved: &mut Saved, bookmarks: &[&Bookmark]) {
        saved.stamp = self.linkage.stamp();
        saved.block.copy_from(&self.block);
        saved.bookmarks.truncate(bookmarks.len());
        for (place, bookmark) in bookmarks.iter().enumerate() {
            match saved.bookmarks.get_mut(place) {
                Some(kept) => kept.clone_from(bookmark),
                None => saved.bookmarks.push((*bookmark).clone()),
            }
        }
    }

    /// Becomes what was saved, bookmarks too, in the order in which they were saved. Doesn't allocate.
    ///
    /// # Errors
    /// A [`RestoreError`] if it was saved from another profile, or with another number of bookmarks. The seat is as
    /// before.
    pub fn restore(&mut self, saved: &Saved, bookmarks: &mut [&mut Bookmark]) -> Result<(), RestoreError> {
        if saved.stamp != self.linkage.stamp() || saved.block.extent() != self.block.extent() {
            return Err(RestoreError::OtherProfile);
        }
        if saved.bookmarks.len() != bookmarks.len() {
            return Err(RestoreError::OtherBookmarks { saved: saved.bookmarks.len(), given: bookmarks.len() });
        }
        self.block.copy_from(&saved.block);
        self.block.ring.branch();
        for (bookmark, kept) in bookmarks.iter_mut().zip(&saved.bookmarks) {
            (**bookmark).clone_from(kept);
        }
        Ok(())
    }
}
