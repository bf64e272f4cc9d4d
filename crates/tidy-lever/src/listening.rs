//! Listening for the next control: "press the new key for hop".
//!
//! Controls that are already held don't count, nor does the noise of a stick: an axis must travel.

use alloc::vec::Vec;
use core::time::Duration;

use crate::control::{Bindable, Control, Family, Part, Sort};
use crate::event::{Device, Event, Input};
use crate::seat::{Seat, StandingLevel};
use crate::time::Moment;

/// A button answers from here on, and is up again below the other.
const DOWN: f32 = 0.55;
const UP: f32 = 0.45;
/// How far an axis must travel from where it rested, and how far out it must come.
const TRAVEL: f32 = 0.5;
const FAR: f32 = 0.7;
/// Below this a control is back at rest.
const REST: f32 = 0.25;

/// Which sort of control to wait for.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum Want {
    /// A button, or half of an axis: `keys:KeyJ`, `pad:left-stick.up`.
    #[default]
    Button,
    /// A single axis: `pad:left-stick.x`, `pad:left-trigger`.
    Axis,
    /// Two axes: `pad:left-stick`.
    Stick,
}

/// The result so far.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Heard {
    /// Nothing yet.
    Nothing,
    /// This control; [`Remap::bind`](crate::remap::Remap::bind) takes it.
    Control(Bindable),
    /// The player cancelled.
    Out,
    /// The time limit ended.
    TimedOut,
}

/// What is known of one control of one device.
#[derive(Clone, Copy, Debug)]
struct Seen {
    device: Device,
    control: Control,
    /// Where it rested nearest to the middle.
    rest: (f32, f32),
    /// Held since before: no answer before it goes up once.
    stale: bool,
    down: bool,
}

/// Waits for a player to touch the control that they want.
///
/// While it listens, show it each event first, and feed the seat only those that [`lets_through`](Listening::lets_through)
/// allows. Keep it, and ask on, until it [`is_clear`](Listening::is_clear): the control that answered is still down then,
/// and must do nothing until it comes up.
///
/// ```
/// use tidy_lever::listening::{Heard, Listening};
/// use tidy_lever::{Control, Device, Event, Moment};
/// use std::time::Duration;
///
/// let pad = Device::new(0).unwrap();
/// let mut listening = Listening::new(Moment::ZERO).limit(Duration::from_secs(5)).way_out("keys:Escape".parse()?);
/// // A stick that drifts is not an answer; one that is pushed is.
/// let drift = Event::pair(Moment::from_millis(10), pad, Control::LEFT_STICK, 0.2, 0.1);
/// assert_eq!(listening.hear(&drift), Heard::Nothing);
/// let push = Event::pair(Moment::from_millis(90), pad, Control::LEFT_STICK, 0.1, 0.95);
/// let Heard::Control(heard) = listening.hear(&push) else { panic!("it was pushed all the way") };
/// assert_eq!(heard.to_string(), "pad:left-stick.up");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Listening {
    families: Vec<Family>,
    want: Want,
    began: Moment,
    limit: Option<Duration>,
    way_out: Vec<Control>,
    seen: Vec<Seen>,
    done: Option<Heard>,
    /// The event that gave the answer: its moment and its device.
    answered: Option<(Moment, Device)>,
    /// Pressed while it listened, and not at rest since.
    held_back: Vec<(Device, Control)>,
    /// Away from rest since before it listened.
    plays_on: Vec<(Device, Control)>,
}

impl Listening {
    /// Starts listening for a button of any family but touch, without a time limit or a control that cancels.
    pub fn new(at: Moment) -> Listening {
        Listening {
            families: Vec::from([Family::Keys, Family::Mouse, Family::Pad]),
            want: Want::Button,
            began: at,
            limit: None,
            way_out: Vec::new(),
            seen: Vec::new(),
            done: None,
            answered: None,
            held_back: Vec::new(),
            plays_on: Vec::new(),
        }
    }

    /// Accepts only controls of these families.
    pub fn only(mut self, families: &[Family]) -> Listening {
        self.families = families.to_vec();
        self
    }

    /// Accepts only this sort of control.
    pub fn want(mut self, want: Want) -> Listening {
        self.want = want;
        self
    }

    /// Sets a time limit.
    pub fn limit(mut self, limit: Duration) -> Listening {
        self.limit = Some(limit);
        self
    }

    /// Sets a control, of any family, that cancels.
    pub fn way_out(mut self, control: Control) -> Listening {
        self.way_out.push(control);
        self
    }

    /// Ignores what this seat's devices hold now until it is released, and measures sticks from where they are.
    pub fn after(mut self, seat: &Seat) -> Listening {
        for StandingLevel { device, control, x, y } in seat.standing() {
            let held = if control.sort() == Sort::Pair { size(x, y) >= FAR } else { x >= UP };
            let rest = if held { (0.0, 0.0) } else { (x, y) };
            if size(x, y) >= REST {
                self.plays_on.push((device, control));
            }
            self.seen.push(Seen { device, control, rest, stale: held, down: held });
        }
        self
    }

    /// The result at a moment, without a new event.
    pub fn by(&mut self, now: Moment) -> Heard {
        if self.done.is_none()
            && let Some(limit) = self.limit
            && u128::from(now.as_micros().saturating_sub(self.began.as_micros())) >= limit.as_micros()
        {
            self.done = Some(Heard::TimedOut);
        }
        self.done.unwrap_or(Heard::Nothing)
    }

    /// Takes an event. Once there is a result, it stays.
    pub fn hear(&mut self, event: &Event) -> Heard {
        if self.by(event.at) != Heard::Nothing {
            return self.by(event.at);
        }
        let (control, x, y) = match event.input {
            Input::Level { control, value } => (control, value, 0.0),
            Input::Pair { control, x, y } => (control, x, y),
            Input::Touch { .. } | Input::Plugged(_) | Input::Stands { .. } => return Heard::Nothing,
        };
        if !x.is_finite() || !y.is_finite() {
            return Heard::Nothing;
        }
        let answer = self.weigh(event.device, control, x, y);
        if let Some(part) = answer {
            let heard = if self.way_out.contains(&control) {
                Some(Heard::Out)
            } else if self.families.contains(&control.family()) && self.fits(control, part) {
                Some(Heard::Control(Bindable { control, part }))
            } else {
                None
            };
            self.done = heard;
            self.answered = heard.map(|_| (event.at, event.device));
        }
        self.done.unwrap_or(Heard::Nothing)
    }

    /// Whether the seat should be fed an event: not what the player presses now, until it is back at rest. What was held
    /// before (see [`after`](Listening::after)) plays on and is let go as ever. Show each event to
    /// [`hear`](Listening::hear) first.
    ///
    /// ```
    /// use tidy_lever::listening::{Heard, Listening};
    /// use tidy_lever::{Control, Device, Event, Linkage, Moment, Profile};
    ///
    /// let text = "tidy-lever = 1\n[action.hop]\nkind = \"button\"\npad = [\"south\", \"east\"]\n";
    /// let mut seat = Linkage::build(&Profile::from_toml(text)?)?.seat(Moment::ZERO);
    /// let press = |at, control, down| Event::button(Moment::from_millis(at), Device::default(), control, down);
    /// seat.feed(press(10, Control::PAD_SOUTH, true))?;
    /// seat.advance(Moment::from_millis(20));
    ///
    /// let mut listening = Listening::new(Moment::from_millis(20)).after(&seat);
    /// let events = [
    ///     press(30, Control::PAD_SOUTH, false), // held since before: the seat hears it go up
    ///     press(40, Control::PAD_EAST, true),   // the answer, and not for the seat
    ///     press(50, Control::PAD_EAST, false),  // up already, for the seat
    ///     press(60, Control::PAD_EAST, true), // plays again
    /// ];
    /// let mut fed = Vec::new();
    /// for event in events {
    ///     listening.hear(&event);
    ///     fed.push(listening.lets_through(&event));
    /// }
    /// assert_eq!(fed, [true, false, true, true]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn lets_through(&mut self, event: &Event) -> bool {
        let (control, far) = match event.input {
            Input::Level { control, value } => (control, value),
            Input::Pair { control, x, y } | Input::Stands { control, x, y } => (control, size(x, y)),
            Input::Touch { .. } | Input::Plugged(_) => return true,
        };
        let own = (event.device, control);
        if let Some(place) = self.held_back.iter().position(|held| *held == own) {
            if far < REST {
                self.held_back.remove(place);
            }
            return far < REST;
        }
        if let Some(place) = self.plays_on.iter().position(|plays| *plays == own) {
            if far < REST {
                self.plays_on.remove(place);
            }
            return true;
        }
        let over = matches!(self.done, Some(Heard::Control(_) | Heard::Out)) && !self.answers_now(event);
        let moves = matches!(control.sort(), Sort::Counts | Sort::Place);
        if over || moves || self.done == Some(Heard::TimedOut) || far < REST {
            return true;
        }
        if control.sort() != Sort::Notch {
            self.held_back.push(own);
        }
        false
    }

    /// Whether it has its answer, and nothing that was pressed meanwhile is still held back: then it can be dropped.
    pub fn is_clear(&self) -> bool {
        self.done.is_some() && self.held_back.is_empty()
    }

    /// Whether this event gave the answer.
    fn answers_now(&self, event: &Event) -> bool {
        self.answered == Some((event.at, event.device))
    }

    fn fits(&self, control: Control, part: Part) -> bool {
        match (self.want, control.sort()) {
            (Want::Button, Sort::Button | Sort::Level | Sort::Notch) => true,
            (Want::Button | Want::Axis | Want::Stick, Sort::Pair) => part != Part::Whole || self.want == Want::Stick,
            (Want::Axis, Sort::Level) => true,
            _ => false,
        }
    }

    /// Whether a control says something now that it did not before: which part of it answers.
    fn weigh(&mut self, device: Device, control: Control, x: f32, y: f32) -> Option<Part> {
        let place = self.seen.iter().position(|seen| (seen.device, seen.control) == (device, control));
        let place = place.unwrap_or_else(|| {
            // Buttons speak when they change; of an axis the first word may be where it rests.
            let rests = size(x, y) < TRAVEL;
            let rest = if rests { (x, y) } else { (0.0, 0.0) };
            self.seen.push(Seen { device, control, rest, stale: false, down: false });
            self.seen.len() - 1
        });
        let want = self.want;
        let seen = &mut self.seen[place];
        match control.sort() {
            Sort::Button | Sort::Level => {
                let travels = control.sort() == Sort::Button || x - seen.rest.0 >= TRAVEL;
                let was = seen.down;
                seen.down = if was { x > UP } else { x >= DOWN && travels };
                if x < seen.rest.0 {
                    seen.rest.0 = x;
                }
                seen.stale &= seen.down;
                (seen.down && !was && !seen.stale).then_some(Part::Whole)
            }
            Sort::Notch => (x > 0.0).then_some(Part::Whole),
            Sort::Pair => {
                let far = size(x, y) >= FAR;
                let was = core::mem::replace(&mut seen.down, far);
                seen.stale &= far;
                if size(x, y) < size(seen.rest.0, seen.rest.1) {
                    seen.rest = (x, y);
                }
                let (dx, dy) = (x - seen.rest.0, y - seen.rest.1);
                if !far || was || seen.stale || size(dx, dy) < TRAVEL {
                    // What came half the way may still come all of it.
                    seen.down = was && far || seen.stale;
                    return None;
                }
                Some(match (want, x.abs() >= y.abs()) {
                    (Want::Stick, _) => Part::Whole,
                    (Want::Axis, true) => Part::X,
                    (Want::Axis, false) => Part::Y,
                    (Want::Button, true) => {
                        if x > 0.0 {
                            Part::Right
                        } else {
                            Part::Left
                        }
                    }
                    (Want::Button, false) => {
                        if y > 0.0 {
                            Part::Up
                        } else {
                            Part::Down
                        }
                    }
                })
            }
            Sort::Counts | Sort::Place => None,
        }
    }
}

/// The length of a pair.
fn size(x: f32, y: f32) -> f32 {
    libm::sqrtf(x * x + y * y)
}
