//! Resync: a device that was asked for its whole state, against what was heard of it.

use alloc::vec::Vec;

use crate::control::{Control, Sort};
use crate::event::{Device, Event};
use crate::time::Moment;

/// What differs between how a device says that it stands and what was heard of it, as events to feed: for hosts that can ask a
/// device for its whole state, where reports get lost. Ask now and then, and after everything that loses reports.
///
/// `states` are the controls that are down or away from rest, each with its level (or `x` and `y` of a stick). `heard` is what was
/// heard of the device so far; [`Seat::standing`](crate::Seat::standing) tells it. What was heard and is not among `states` is at rest.
///
/// The events count as levels: what was held goes up with cause `resynced`, what is down needs a fresh press before it presses
/// anything, and nothing pulls.
///
/// ```
/// use tidy_lever::adapter::resync;
/// use tidy_lever::{Button, Cause, Control, Device, Event, Linkage, Moment, Profile, What};
///
/// let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = \"south\"\n";
/// let linkage = Linkage::build(&Profile::from_toml(text)?)?;
/// let hop: Button = linkage.find("hop")?;
/// let mut seat = linkage.seat(Moment::ZERO);
/// let pad = Device::new(1).unwrap();
/// seat.feed(Event::button(Moment::from_millis(5), pad, Control::PAD_SOUTH, true))?;
/// seat.advance(Moment::from_millis(900));
/// // The report that it went up was lost. Asked for its state, the pad says that nothing is down.
/// let heard: Vec<_> = seat.standing().filter(|now| now.device == pad).map(|now| (now.control, now.x, now.y)).collect();
/// for event in resync(Moment::from_millis(1_000), pad, &[], heard) {
///     seat.feed(event)?;
/// }
/// seat.advance(Moment::from_millis(1_000));
/// assert!(!seat.button(hop).is_down());
/// assert_eq!(seat.latest().happenings().next().unwrap().what(), What::Released(Cause::Resynced));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub fn resync(
    at: Moment,
    device: Device,
    states: &[(Control, f32, f32)],
    heard: impl IntoIterator<Item = (Control, f32, f32)>,
) -> Vec<Event> {
    let heard: Vec<(Control, f32, f32)> = heard
        .into_iter()
        .filter(|(control, ..)| matches!(control.sort(), Sort::Button | Sort::Level | Sort::Pair))
        .collect();
    let stands =
        |of: Control| states.iter().find(|(control, ..)| *control == of).map_or((0.0, 0.0), |(_, x, y)| (*x, *y));
    let event = |control: Control| {
        let (x, y) = stands(control);
        Event::stands(at, device, control, x, y)
    };
    let is_new = |(control, x, y): &&(Control, f32, f32)| {
        (*x, *y) != (0.0, 0.0) && !heard.iter().any(|(known, ..)| known == control)
    };
    // What goes up comes first.
    let (mut up, mut others) = (Vec::new(), Vec::new());
    for (control, x, y) in &heard {
        let now = stands(*control);
        if now != (*x, *y) {
            if now == (0.0, 0.0) { up.push(event(*control)) } else { others.push(event(*control)) }
        }
    }
    others.extend(states.iter().filter(is_new).map(|(control, ..)| event(*control)));
    up.append(&mut others);
    up
}
