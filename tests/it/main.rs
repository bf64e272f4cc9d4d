//! What the library promises, a file for each promise. One program, so that the library is linked once; what counts allocations
//! is apart, beside this folder.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

mod any;
mod asked;
#[cfg(all(feature = "std", feature = "files"))]
mod common;
mod sameness;

/// All but `sameness`, which also runs without the features that these need.
#[cfg(all(feature = "std", feature = "files", feature = "pointing"))]
#[path = "."]
mod whole {
    mod analogue;
    mod any_order;
    mod arrivals;
    mod bits;
    mod bounds;
    mod broken;
    #[cfg(feature = "serde")]
    mod bytes;
    mod copies;
    mod components;
    mod countdowns;
    mod cues;
    mod cuts;
    mod docs;
    mod faults;
    mod flow;
    mod gates;
    mod gauges;
    mod guarantees;
    mod guards;
    mod hands;
    mod law;
    mod layers;
    mod lists;
    mod losses;
    mod moment;
    mod motion_stories;
    mod motions;
    mod naive;
    mod named_pads;
    mod numbers;
    mod old_files;
    mod played_again;
    mod players;
    mod pointing;
    mod recorder;
    mod relinks;
    mod remaps;
    mod resync;
    mod ring;
    mod seat_inputs;

    mod slow_motions;
    mod stories;
    mod surface;
    mod decks;
    mod tapes;
    mod time;
    mod tolerances;
    mod touch;
    mod who_wins;
}
