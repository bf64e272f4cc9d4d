//! An adapter: what a web page says, as events of Tidy Lever. On any other target than `wasm32` this crate is empty.
//!
//! ```text
//!   element, window ──listeners──▶ Adapter ──Report──▶ your loop ──▶ seat
//!   Gamepad API ──▶ WebPads ──▶ tidy_lever_pads::Pads ──Report──▶ your loop
//! ```
//!
//! One element hears all, usually a canvas. Each frame: `Adapter::poll`, feed what comes, then advance to the frame's own
//! time, which is what `Adapter::moment` makes of the number that `requestAnimationFrame` hands over. Every event carries
//! the browser's own time (`event.timeStamp`), so that what happened between two frames is told apart to the microsecond.
//!
//! ```ignore
//! let mut adapter = Adapter::new(&canvas)?;
//! let (mut devices, mut pads) = (Devices::new(), Pads::from_source(WebPads::new()));
//! // In each frame; `millis` is what the browser hands over.
//! let reports = adapter.poll();
//! for report in reports.iter().chain(&pads.poll(&mut devices, || adapter.now())) {
//!     match report {
//!         Report::Focus(focused, at) => seat.focus_at(*focused, *at)?,
//!         Report::View(width, height) => seat.set_view(*width, *height)?,
//!         other => other.event().map_or(Ok(()), |event| seat.feed(event))?,
//!     }
//! }
//! seat.advance(adapter.moment(millis));
//! ```
//!
//! - **Keys** go by position (`code`). What is printed on them is learnt from `key` as they are pressed, for prompts. The
//!   browser's own use of a key (scrolling, say) is prevented while the element has the focus; but not that of Tab, of
//!   F1 to F12, and of what is pressed together with Ctrl, Alt or Meta: the page stays usable without a mouse.
//! - **Pointers**: a mouse is a mouse, with all moves between two frames and relative moves besides (these alone under
//!   pointer lock). Fingers, and a pen that touches, are touches; one that is taken away by the system is cancelled. All
//!   are captured until they lift, and the element no longer scrolls, zooms or opens a menu by them.
//! - **Wheel**: 100 pixels or 3 lines are a notch.
//! - **Focus** is lost as soon as the element, the window or the tab loses it. Play on once then, as a hidden page gets no
//!   frames: what is held goes up at that moment.
//! - **Size**: what the element measures, in the pixels of the device.
//! - **Gamepads** say only how they stand when they are asked, once a frame: a press that comes and goes within one frame
//!   can't be seen on a page. All else keeps the time that the browser gives it.
//! - **Late events**: Chromium hands keys over about 0.5 ms after they were pressed, fingers 10 to 35 ms after they moved
//!   (measured in headless Chromium on two cores). What was played meanwhile stays played: a late event counts from just
//!   after it, and in `Stats::late`. A game that would rather judge every finger at its own time
//!   than answer at once advances that much behind the frame: `adapter.moment(millis - 35.0)`.
//!
//! Moments count from the page's own beginning (`performance.timeOrigin`). Browsers round times to 100 µs, and to 5 µs on
//! pages that are sent with `Cross-Origin-Opener-Policy: same-origin` and `Cross-Origin-Embedder-Policy: require-corp`.

#[cfg(target_arch = "wasm32")]
mod adapter;
#[cfg(target_arch = "wasm32")]
mod hands;
#[cfg(target_arch = "wasm32")]
mod held;
#[cfg(target_arch = "wasm32")]
mod keys;
#[cfg(target_arch = "wasm32")]
mod pads;
#[cfg(target_arch = "wasm32")]
mod pointers;

#[cfg(target_arch = "wasm32")]
pub use adapter::{Adapter, NoPage};
#[cfg(target_arch = "wasm32")]
pub use pads::WebPads;
#[cfg(target_arch = "wasm32")]
pub use tidy_lever::adapter::Report;
