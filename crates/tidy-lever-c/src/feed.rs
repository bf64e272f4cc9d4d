//! Events.

use tidy_lever::event::Phase;
use tidy_lever::{Control, Device};

use crate::border::{guarded, list};
use crate::seat::{Seat, moment};
use crate::words::Fed;

/// What one device said at one moment.
#[repr(C)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Event {
    /// When, in microseconds of the game's clock.
    pub at: u64,
    /// Which finger, for a touch.
    pub finger: u64,
    /// A level; or right, or across the view from its left.
    pub x: f32,
    /// Up; or down the view from its top.
    pub y: f32,
    /// Which control, from `tl_control`; of no matter for a touch and a plug.
    pub control: u16,
    /// Which device, 0 to 63. Give each a number of its own.
    pub device: u8,
    /// A `tl_event_kind`.
    pub kind: u8,
    /// A `tl_touch_phase`, for a touch.
    pub phase: u8,
}

impl Event {
    /// The library's own; `None` for what names nothing.
    fn own(&self) -> Option<tidy_lever::Event> {
        let (at, device) = (moment(self.at), Device::new(usize::from(self.device))?);
        Some(match self.kind {
            0 => tidy_lever::Event::level(at, device, Control::from_bits(self.control)?, self.x),
            1 => tidy_lever::Event::pair(at, device, Control::from_bits(self.control)?, self.x, self.y),
            2 => {
                let phase = match self.phase {
                    0 => Phase::Down,
                    1 => Phase::Move,
                    2 => Phase::Up,
                    3 => Phase::Cancel,
                    _ => return None,
                };
                tidy_lever::Event::touch(at, device, self.finger, phase, self.x, self.y)
            }
            3 => tidy_lever::Event::plugged(at, device, self.x > 0.5),
            4 => tidy_lever::Event::stands(at, device, Control::from_bits(self.control)?, self.x, self.y),
            _ => return None,
        })
    }
}

fn feed(seat: &mut Seat, event: &Event) -> Fed {
    let Some(own) = event.own() else { return Fed::NoSuch };
    seat.seat.feed(own).map_or_else(|error| error.why.into(), |()| Fed::Taken)
}

/// Takes an event; it plays in the `tl_advance` that reaches its moment. A `tl_fed`.
///
/// # Safety
/// Both are null or valid.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_feed(seat: *mut Seat, event: *const Event) -> u8 {
    // SAFETY: as this function asks for.
    let (seat, event) = unsafe { (seat.as_mut(), event.as_ref()) };
    let fed = guarded(Fed::NoSuch, || match (seat, event) {
        (Some(seat), Some(event)) => feed(seat, event),
        _ => Fed::NoSuch,
    });
    fed as u8
}

/// Takes events in order, up to the first that is not taken; how many were taken.
///
/// # Safety
/// `seat` is null or valid; `events` is null or has `count` of them.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn tl_feed_all(seat: *mut Seat, events: *const Event, count: usize) -> usize {
    // SAFETY: as this function asks for.
    let (seat, events) = unsafe { (seat.as_mut(), list(events, count)) };
    guarded(0, || {
        let Some(seat) = seat else { return 0 };
        events.iter().take_while(|event| feed(seat, event) == Fed::Taken).count()
    })
}
