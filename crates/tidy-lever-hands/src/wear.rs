//! Devices that hands play on: new ones, and worn or cheap ones that say what no hand did. All numbers are assumptions;
//! `docs/hands.md` lists them.

use tidy_lever::control::Sort;
use tidy_lever::event::Input;
use tidy_lever::{Control, Event, Family};

use crate::dice::Dice;

/// A worn keyboard bounces on this share of its edges, up to so often, all of it within so many ms.
const BOUNCES: f64 = 0.25;
const MOST_BOUNCES: usize = 3;
const BOUNCING: (f64, f64) = (1.0, 5.0);
/// A worn stick rests so far from its middle, and swings so far to the other side for so many ms when it is let go.
const REST: (f64, f64) = (0.08, 0.14);
const SWING: (f64, f64) = (0.2, 0.5);
const SWINGING: (f64, f64) = (10.0, 40.0);
/// It rests for so many ms before a trial begins, as a pad on a table does.
const LEAD: f64 = 500.0;
/// A cheap directional pad closes the contact beside an arm in this share of its presses, for so many ms.
const ROLLS: f64 = 0.3;
const ROLLING: (f64, f64) = (4.0, 20.0);
/// A wireless pad or keyboard is heard every so many ms, and after a loss, in this share of reports, so many ms later.
const PACKET: f64 = 8.0;
const LOST: f64 = 0.02;
const AGAIN: (f64, f64) = (15.0, 45.0);

/// What a hand plays on.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum Wear {
    /// A device that says what the hand does.
    #[default]
    New,
    /// A keyboard and mouse buttons that bounce.
    WornKeys,
    /// A stick that rests beside its middle, and swings past it when it is let go.
    WornStick,
    /// A directional pad that closes two contacts at once.
    CheapDpad,
    /// Keys and pads that are heard in packets.
    Wireless,
}

/// Where an event goes, and what it says.
type Timed = (f64, Event);

impl Wear {
    /// All of them.
    pub const ALL: [Wear; 5] = [Wear::New, Wear::WornKeys, Wear::WornStick, Wear::CheapDpad, Wear::Wireless];

    /// Its name: `new`, `worn-keys`, `worn-stick`, `cheap-dpad` or `wireless`.
    pub const fn name(self) -> &'static str {
        match self {
            Wear::New => "new",
            Wear::WornKeys => "worn-keys",
            Wear::WornStick => "worn-stick",
            Wear::CheapDpad => "cheap-dpad",
            Wear::Wireless => "wireless",
        }
    }

    /// The one of a name.
    pub fn named(name: &str) -> Option<Wear> {
        Wear::ALL.into_iter().find(|wear| wear.name() == name)
    }

    /// How long before a trial the device is there, in ms.
    pub(crate) fn lead(self) -> f64 {
        if self == Wear::WornStick { LEAD } else { 0.0 }
    }

    /// What the device says where a hand does this, in order.
    pub(crate) fn says(self, events: Vec<Timed>, dice: &mut Dice) -> Vec<Timed> {
        let mut said = match self {
            Wear::New => events,
            Wear::WornKeys => bounced(events, dice),
            Wear::WornStick => swung(&events, dice),
            Wear::CheapDpad => rolled(events, dice),
            Wear::Wireless => in_packets(events, dice),
        };
        said.sort_by(|one, other| one.0.total_cmp(&other.0));
        said
    }
}

fn bounced(events: Vec<Timed>, dice: &mut Dice) -> Vec<Timed> {
    let mut said = Vec::with_capacity(events.len());
    for (at, event) in events {
        said.push((at, event));
        let Input::Level { control, value } = event.input else { continue };
        let is_button = matches!(control.family(), Family::Keys | Family::Mouse) && control.sort() == Sort::Button;
        if !is_button || !dice.chance(BOUNCES) {
            continue;
        }
        let (count, span) = (1 + dice.pick(MOST_BOUNCES), dice.between(BOUNCING.0, BOUNCING.1));
        for bounce in 0..2 * count {
            let value = if bounce % 2 == 0 { 1.0 - value } else { value };
            let after = span * (bounce + 1) as f64 / (2 * count) as f64;
            said.push((at + after, Event { input: Input::Level { control, value }, ..event }));
        }
    }
    said
}

fn is_stick(control: Control) -> bool {
    control == Control::LEFT_STICK || control == Control::RIGHT_STICK
}

fn swung(events: &[Timed], dice: &mut Dice) -> Vec<Timed> {
    let angle = dice.between(0.0, 2.0 * core::f64::consts::PI);
    let off = dice.between(REST.0, REST.1);
    let off = ((off * libm::cos(angle)) as f32, (off * libm::sin(angle)) as f32);
    let mut said = Vec::with_capacity(events.len() + 8);
    // By stick: the last push, and whether it was let go since.
    let mut pushed: Vec<(Control, (f32, f32))> = Vec::new();
    let at_rest =
        |control: Control, event: Event| Event { input: Input::Pair { control, x: off.0, y: off.1 }, ..event };
    // The thumb comes back in the middle of a swing, and stops it.
    let comes_back = |place: usize, control: Control| {
        let own = |event: &Event| matches!(event.input, Input::Pair { control: other, .. } if other == control);
        events[place + 1..].iter().find(|(_, event)| own(event)).map_or(f64::MAX, |(at, _)| *at)
    };
    for (number, (at, event)) in events.iter().copied().enumerate() {
        let Input::Pair { control, x, y } = event.input else {
            said.push((at, event));
            continue;
        };
        if !is_stick(control) {
            said.push((at, event));
            continue;
        }
        let place = pushed.iter().position(|(known, _)| *known == control).unwrap_or_else(|| {
            // It lay still before.
            said.push((1.0 - LEAD, at_rest(control, event)));
            pushed.push((control, (0.0, 0.0)));
            pushed.len() - 1
        });
        let drifts = |x: f32, y: f32| Event {
            input: Input::Pair { control, x: (x + off.0).clamp(-1.0, 1.0), y: (y + off.1).clamp(-1.0, 1.0) },
            ..event
        };
        said.push((at, drifts(x, y)));
        let (last, size) = (pushed[place].1, x.hypot(y));
        if size >= 0.6 {
            pushed[place].1 = (x, y);
        } else if size == 0.0 && last != (0.0, 0.0) {
            pushed[place].1 = (0.0, 0.0);
            let (far, span) = (dice.between(SWING.0, SWING.1) as f32, dice.between(SWINGING.0, SWINGING.1));
            let (long, back) = (last.0.hypot(last.1), comes_back(number, control));
            for (part, size) in [(0.25, 0.7), (0.5, 1.0), (0.75, 0.5), (1.0, 0.0)] {
                let size = far * size / long;
                if at + span * part >= back {
                    break;
                }
                said.push((at + span * part, drifts(-last.0 * size, -last.1 * size)));
            }
        }
    }
    said
}

fn rolled(events: Vec<Timed>, dice: &mut Dice) -> Vec<Timed> {
    let mut said = Vec::with_capacity(events.len());
    let mut before = (0.0f32, 0.0f32);
    for (at, event) in events {
        let Input::Pair { control, x, y } = event.input else {
            said.push((at, event));
            continue;
        };
        let is_new_straight = control == Control::DPAD && (x == 0.0) != (y == 0.0) && (x, y) != before;
        if control == Control::DPAD {
            before = (x, y);
        }
        if is_new_straight && dice.chance(ROLLS) {
            // The thumb leans on the arm beside it.
            let side = if dice.chance(0.5) { 1.0 } else { -1.0 };
            let (also_x, also_y) = if x == 0.0 { (side, y) } else { (x, side) };
            said.push((at, Event { input: Input::Pair { control, x: also_x, y: also_y }, ..event }));
            said.push((at + dice.between(ROLLING.0, ROLLING.1), event));
        } else {
            said.push((at, event));
        }
    }
    said
}

fn in_packets(events: Vec<Timed>, dice: &mut Dice) -> Vec<Timed> {
    let (phase, mut held_up) = (dice.between(0.0, PACKET), f64::MIN);
    let mut said = Vec::with_capacity(events.len());
    let (mut packet, mut order) = (f64::MIN, 0.0);
    for (at, event) in events {
        if event.family() == Some(Family::Touch) || matches!(event.input, Input::Touch { .. }) {
            said.push((at, event));
            continue;
        }
        let next = phase + libm::ceil((at - phase) / PACKET) * PACKET;
        if next > packet {
            (packet, order) = (next, 0.0);
            if dice.chance(LOST) {
                held_up = next + dice.between(AGAIN.0, AGAIN.1);
            }
        }
        // Those of one packet keep their order.
        order += 0.001;
        said.push((next.max(held_up) + order, event));
    }
    said
}
