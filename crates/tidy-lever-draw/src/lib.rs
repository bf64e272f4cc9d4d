//! Pictures of what the core reports, as SVG and PNG.
//!
//! Each picture is a function that gives a [`Drawing`]; text is set in a bundled open font (DejaVu Sans), so that a
//! picture looks the same on a bare machine. Colours are told apart by colour-blind eyes, too (Okabe and Ito, *Color
//! Universal Design*, 2008).

mod density;
mod drawing;
mod lanes;
mod palette;
mod panel;
mod rehearsal;
mod spans;
mod stick;
pub mod timeline;

pub use density::Density;
pub use drawing::{DrawError, Drawing};
pub use lanes::Lanes;
pub use panel::panel;
pub use rehearsal::{Curve, Rehearsed};
pub use spans::spans;
pub use stick::stick;
pub use timeline::Timeline;
