//! What arrives and what comes of it, as lines for whoever wants to see it: events, happenings, attempts, and what a seat has now.

use alloc::format;
use alloc::string::{String, ToString};
use alloc::vec::Vec;
use core::fmt;
use core::time::Duration;

use crate::control::{Control, Sort};
use crate::event::{Event, Input};
use crate::history::{Happening, What};
use crate::ledger::Attempt;
use crate::linkage::{ActionView, Linkage};
use crate::profile::Kind;
use crate::seat::Seat;

/// From here on a control is away from rest.
const AWAY: f32 = 0.1;

/// A level of a control, as a word if it is a button's.
fn level(control: Control, value: f32) -> String {
    match (control.sort(), value) {
        (Sort::Button, 0.0) => "up".to_string(),
        (Sort::Button, _) => "down".to_string(),
        (Sort::Notch, notches) => format!("{notches} notches"),
        (_, level) => format!("{level:.2}"),
    }
}

/// Milliseconds, to a tenth.
fn ms(span: Duration) -> String {
    format!("{} ms", libm::round(span.as_secs_f64() * 1e4) / 10.0)
}

/// `keys:Space down at 0.100000 s, device 0`.
impl fmt::Display for Event {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.input {
            Input::Level { control, value } => write!(f, "{control} {}", level(control, value))?,
            Input::Pair { control, x, y } => write!(f, "{control} {x:.2}, {y:.2}")?,
            Input::Stands { control, x, y } if control.sort() == Sort::Pair => {
                write!(f, "{control} stands at {x:.2}, {y:.2}")?;
            }
            Input::Stands { control, x, .. } => write!(f, "{control} stands at {x}")?,
            Input::Touch { finger, phase, x, y } => write!(f, "finger {finger} {} {x:.3}, {y:.3}", phase.name())?,
            Input::Plugged(true) => write!(f, "plugged in")?,
            Input::Plugged(false) => write!(f, "unplugged")?,
        }
        write!(f, " at {}, device {}", self.at, self.device.number())?;
        match self.spread.is_none() {
            true => Ok(()),
            false => write!(f, ", its time is known to {}", ms(self.spread.into())),
        }
    }
}

/// Something with the names that a linkage has for it.
struct Named<'n, T>(&'n T, &'n Linkage);

impl Happening {
    /// The happening as a line: `hop pulled at 0.100000 s`. Nothing for a linkage of another profile.
    ///
    /// ```
    /// use tidy_lever::profile::{Action, Profile};
    /// use tidy_lever::{Device, Event, Linkage, Moment};
    ///
    /// let linkage = Linkage::build(&Profile::new("Quay").action(Action::button("hop").keys("Space")))?;
    /// let mut seat = linkage.seat(Moment::ZERO);
    /// let press = Event::button(Moment::from_millis(100), Device::default(), "keys:Space".parse()?, true);
    /// assert_eq!(press.to_string(), "keys:Space down at 0.100000 s, device 0");
    /// seat.feed(press)?;
    /// seat.advance(Moment::from_millis(113));
    /// let all: Vec<String> = seat.latest().happenings().map(|one| one.display(&linkage).to_string()).collect();
    /// assert_eq!(all, ["hop pressed at 0.100000 s", "hop pulled at 0.100000 s"]);
    /// assert_eq!(seat.reading_line(), "hop: down 13 ms, by Space, on");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn display<'n>(&'n self, linkage: &'n Linkage) -> impl fmt::Display + 'n {
        Named(self, linkage)
    }
}

impl fmt::Display for Named<'_, Happening> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Named(happening, linkage) = *self;
        let Some(action) = happening.action(linkage) else { return Ok(()) };
        let at = happening.at();
        match happening.what() {
            What::Pressed => write!(f, "{action} pressed at {at}"),
            What::Released(cause) => {
                write!(f, "{action} released at {at} ({cause}), after {}", ms(at - happening.since()))
            }
            What::Ended(cause) => write!(f, "{action} ended at {at} ({cause}), after {}", ms(at - happening.since())),
            What::Mark(_) => write!(f, "{action}: mark {} at {at}", happening.mark(linkage).unwrap_or_default()),
            What::Pulled => {
                write!(f, "{action} pulled at {at}")?;
                if let Some(stage) = happening.stage() {
                    write!(f, ", stage {stage}")?;
                }
                if let Some(amount) = happening.amount() {
                    write!(f, ", amount {amount:.2}")?;
                }
                if !happening.kept_for().is_zero() {
                    write!(f, ", kept for {}", ms(happening.kept_for()))?;
                }
                Ok(())
            }
        }
    }
}

impl Attempt {
    /// The attempt as a line: `dash at 0.100000 s: dash came 20 ms too late; to fix: …`. Nothing for a linkage of another profile.
    pub fn display<'n>(&'n self, linkage: &'n Linkage) -> impl fmt::Display + 'n {
        Named(self, linkage)
    }
}

impl fmt::Display for Named<'_, Attempt> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Named(attempt, linkage) = *self;
        let (Some(action), Some(story)) = (attempt.action(linkage), attempt.story(linkage)) else { return Ok(()) };
        write!(f, "{action} at {}: {story}", attempt.began())?;
        attempt.fix(linkage).map_or(Ok(()), |fix| write!(f, "; to fix: {fix}"))
    }
}

impl Seat {
    /// What is held and on now, as one line for people: `hop: down 13 ms, by Space, on · steer: right 1.00, 0.00`. Empty while
    /// everything is at rest.
    pub fn reading_line(&self) -> String {
        let parts: Vec<String> = self.linkage().actions().filter_map(|action| self.part_of_line(action)).collect();
        parts.join(" · ")
    }

    fn part_of_line(&self, action: ActionView<'_>) -> Option<String> {
        let (linkage, name) = (self.linkage(), action.name());
        let told = match action.kind() {
            Kind::Button => {
                let button = self.button(linkage.find(name).ok()?);
                let mut parts = Vec::new();
                if button.is_down() {
                    parts.push(format!("down {}", ms(button.held_for())));
                    parts.extend(self.held_by(action).map(|control| format!("by {control}")));
                }
                parts.extend(button.is_on().then(|| "on".to_string()));
                parts.join(", ")
            }
            Kind::Stick => {
                let stick = self.stick(linkage.find(name).ok()?);
                let ((x, y), to) = (stick.xy(), stick.direction());
                let to = to.map_or(String::new(), |to| format!("{} ", to.name()));
                if (x, y) == (0.0, 0.0) { String::new() } else { format!("{to}{x:.2}, {y:.2}") }
            }
            Kind::Axis => {
                let value = self.axis(linkage.find(name).ok()?).value();
                if value == 0.0 { String::new() } else { format!("{value:.2}") }
            }
            Kind::Gauge => format!("{:.2}", self.gauge(linkage.find(name).ok()?).value()),
            _ => String::new(),
        };
        (!told.is_empty()).then(|| format!("{name}: {told}"))
    }

    /// The control that holds an action down, by its name without the family.
    fn held_by(&self, action: ActionView<'_>) -> Option<String> {
        let controls = action.controls();
        let is_its = |control: Control| controls.iter().any(|view| view.control == control);
        let held = self.standing().find(|now| is_its(now.control) && now.x.abs().max(now.y.abs()) >= AWAY)?;
        let name = held.control.to_string();
        Some(name.split_once(':').map_or(name.clone(), |(_, own)| own.to_string()))
    }
}
