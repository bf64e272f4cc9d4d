//! Playing a tape onto its seats, and what they go over to on the way: a profile, a player's file, numbers.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;
use alloc::vec::Vec;

use super::{Header, Line, LineKind, PutError, Replayer};
use crate::linkage::Linkage;
use crate::profile::{Faults, Movable, NotMoved, Profile};
use crate::remap::{Overlaid, Remap};
use crate::seat::{QueueUse, Seat, SeatInput};
use crate::time::Moment;

/// A full queue grows by this factor.
const GROWTH: usize = 4;
/// A queue that grows has room for this many inputs.
const LEAST_GROWN: usize = 64;

/// Plays a tape's lines onto its seats, and says what a seat is to be relinked to where the tape says so.
///
/// [`Replayer`] plays the lines of one seat and passes such lines over.
///
/// ```
/// use std::collections::BTreeMap;
/// use tidy_lever::tape::{Deck, Reader};
/// use tidy_lever::{Moment, What};
///
/// let profile = "tidy-lever = 1\n[action.bag]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"hold 300ms\"\n";
/// let tape = concat!(
///     "{\"tape\":\"tidy-lever\",\"version\":1,\"title\":\"\",\"devices\":[{\"id\":\"kb\",\"family\":\"keys\"}]}\n",
///     "{\"at\":9000,\"number\":\"bag.hold\",\"value\":\"200ms\"}\n",
///     "{\"at\":100000,\"dev\":\"kb\",\"control\":\"keys:KeyE\",\"value\":1}\n",
///     "{\"at\":500000,\"end\":true}\n",
/// );
/// let mut reader = Reader::new(tape.as_bytes())?;
/// let mut deck = Deck::new(reader.header()).profile(profile);
/// let first = deck.laid()?.linkage;
/// let mut seats = BTreeMap::new();
/// for line in reader.by_ref() {
///     let line = line?;
///     let seat = seats.entry(line.seat).or_insert_with(|| first.seat(Moment::ZERO));
///     // This tape names no files.
///     if let Some(laid) = deck.after(&line, |_| Err("no files are read".to_owned()))? {
///         seat.advance(line.at);
///         seat.relink(&laid.linkage, &mut []);
///     }
///     deck.put(&line, seat)?;
/// }
/// let seat = seats.get_mut(&1).unwrap();
/// seat.advance(Moment::from_micros(500_000));
/// let latest = seat.latest();
/// let pull = latest.happenings().find(|happening| happening.what() == What::Pulled).unwrap();
/// assert_eq!(pull.at(), Moment::from_micros(300_000), "200 ms after the press");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Deck {
    header: Header,
    /// One for each seat that the tape has lines for, by the seat's number.
    replayers: Vec<(u32, Replayer)>,
    /// The moment of the line before, whichever seat it was for.
    last: Moment,
    text: String,
    /// The profile of the text, once a line asked for it.
    profile: Option<Movable>,
    remap: Remap,
}

/// Why a line of a tape can't be followed. No message quotes a file that the tape names: who made the tape may not be trusted.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum DeckError {
    /// The file that the tape names can't be had.
    #[error("the {sort} `{file}`: {problem}")]
    NoFile {
        /// `remap` or `profile`.
        sort: &'static str,
        /// The file's name on the tape.
        file: String,
        /// What whoever reads files says.
        problem: String,
    },
    /// The file is not a player's file.
    #[error("the remap `{0}` is not a player's file")]
    NoRemap(String),
    /// The file is not a profile, or one with faults.
    #[error("the profile `{0}` has faults; check it with `tidy-lever check`")]
    BrokenProfile(String),
    /// The profile has no such number, or the number can't have this value.
    #[error(transparent)]
    Number(#[from] NotMoved),
    /// The profile that the deck was given is not TOML.
    #[error("the profile that plays can't be read")]
    NoProfile(#[source] Faults),
    /// The profile has faults with what the line says.
    #[error("{said}: {faults}")]
    Faults {
        /// What the line says.
        said: String,
        /// The faults.
        faults: Faults,
    },
}

impl Deck {
    /// As far as a seat's queue grows: a storm of 10,000 events in one moment still waits in it as a whole.
    pub const MOST_WAITING: usize = 1 << 16;

    /// For a tape of this header. Without a [`profile`](Deck::profile) only profiles that the tape names can be followed.
    pub fn new(header: &Header) -> Deck {
        let (text, remap) = (String::new(), Remap::new());
        Deck { header: header.clone(), replayers: Vec::new(), last: Moment::ZERO, text, profile: None, remap }
    }

    /// Sets the text of the profile that plays at first.
    #[must_use]
    pub fn profile(mut self, text: impl Into<String>) -> Deck {
        (self.text, self.profile) = (text.into(), None);
        self
    }

    /// Sets the player's file over it. By default one that changes nothing.
    #[must_use]
    pub fn remap(mut self, remap: Remap) -> Deck {
        self.remap = remap;
        self
    }

    /// The profile's text, with the numbers that the tape moved so far.
    pub fn text(&self) -> &str {
        self.profile.as_ref().map_or(&self.text, Movable::text)
    }

    /// The player's file that lies over it now.
    pub fn player_file(&self) -> &Remap {
        &self.remap
    }

    /// The profile with the player's file over it, as both are now.
    ///
    /// # Errors
    /// [`DeckError::NoProfile`] or [`DeckError::Faults`].
    pub fn laid(&mut self) -> Result<Overlaid, DeckError> {
        self.movable()?;
        self.over("the profile that plays".to_owned())
    }

    /// What a line's seat is to be relinked to, once everything up to the line's moment was played; `None` for all lines but
    /// `remap`, `profile` and `number`. `file` reads a file by the name that the tape gives, or says why not.
    ///
    /// # Errors
    /// A [`DeckError`]; what played before plays on.
    pub fn after(
        &mut self,
        line: &Line,
        file: impl FnOnce(&str) -> Result<String, String>,
    ) -> Result<Option<Overlaid>, DeckError> {
        let text = |sort: &'static str, name: &str| {
            file(name).map_err(|problem| DeckError::NoFile { sort, file: name.to_owned(), problem })
        };
        let said = match &line.kind {
            LineKind::Remap(name) => {
                let text = text("remap", name)?;
                self.remap = Remap::from_toml(&text).map_err(|_| DeckError::NoRemap(name.clone()))?;
                format!("the remap `{name}`")
            }
            LineKind::Profile(name) => {
                let text = text("profile", name)?;
                let broken = || DeckError::BrokenProfile(name.clone());
                let profile = Movable::from_toml(&text).map_err(|_| broken())?;
                Linkage::build(profile.profile()).map_err(|_| broken())?;
                self.profile = Some(profile);
                format!("the profile `{name}`")
            }
            LineKind::Number { path, value } => {
                self.movable()?.set(path, value)?;
                format!("`{path} = {value}`")
            }
            _ => return Ok(None),
        };
        self.movable()?;
        self.over(said).map(Some)
    }

    /// Feeds or tells a line's seat what the line says, as [`Replayer::put`] does. `seat` is the one with the line's number.
    /// A full queue grows up to [`MOST_WAITING`](Deck::MOST_WAITING) inputs.
    ///
    /// # Errors
    /// A [`PutError`]. Where [`PutError::is_full`], advance the seat and put the line once more.
    pub fn put(&mut self, line: &Line, seat: &mut Seat) -> Result<(), PutError> {
        let place = self.replayers.iter().position(|(number, _)| *number == line.seat).unwrap_or_else(|| {
            self.replayers.push((line.seat, Replayer::new(&self.header).for_seat(line.seat)));
            self.replayers.len() - 1
        });
        let replayer = &mut self.replayers[place].1;
        while let Err(error) = replayer.put_after(self.last, line, seat) {
            if !error.is_full() || !Deck::grow(seat) {
                return Err(error);
            }
        }
        self.last = line.at;
        Ok(())
    }

    /// Applies an input that [`Replayer::input`] made of a line; a full queue grows, as in [`put`](Deck::put).
    ///
    /// # Errors
    /// As [`put`](Deck::put).
    pub fn apply(at: Moment, input: SeatInput, seat: &mut Seat) -> Result<(), PutError> {
        while let Err(error) = seat.apply(at, input).map_err(PutError::from) {
            if !error.is_full() || !Deck::grow(seat) {
                return Err(error);
            }
        }
        Ok(())
    }

    /// Makes a full queue larger; whether that was possible.
    fn grow(seat: &mut Seat) -> bool {
        let QueueUse { waiting, room, .. } = seat.waiting();
        let larger = (room * GROWTH).clamp(LEAST_GROWN, Deck::MOST_WAITING);
        waiting == room && larger > room && seat.reserve(larger, 0).is_ok()
    }

    fn movable(&mut self) -> Result<&mut Movable, DeckError> {
        let profile = match self.profile.take() {
            Some(profile) => profile,
            None => Movable::from_toml(&self.text).map_err(DeckError::NoProfile)?,
        };
        Ok(self.profile.insert(profile))
    }

    fn over(&self, said: String) -> Result<Overlaid, DeckError> {
        let nothing = Profile::new("");
        let profile = self.profile.as_ref().map_or(&nothing, Movable::profile);
        self.remap.over(profile).map_err(|faults| DeckError::Faults { said, faults })
    }
}
