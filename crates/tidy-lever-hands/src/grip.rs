//! How a hand gets hold of an action: which buttons and sticks of one device move it.

use tidy_lever::control::{Part, Sort};
use tidy_lever::linkage::ActionView;
use tidy_lever::profile::{Kind, Leg};
use tidy_lever::{Control, Device, Direction, Family, Linkage};

/// What a trial is played with.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum Way {
    /// A keyboard, with the mouse's buttons.
    Keys,
    /// A pad's buttons alone.
    Pad,
    /// A pad, with its directional pad for directions.
    Dpad,
    /// A pad, with its sticks for directions.
    Stick,
    /// A touch screen.
    Touch,
}

impl Way {
    /// The ways that are tried for every action, in the order in which trials take turns.
    pub(crate) const TRIED: [Way; 4] = [Way::Keys, Way::Dpad, Way::Stick, Way::Touch];

    /// Its name in reports.
    pub const fn name(self) -> &'static str {
        match self {
            Way::Keys => "keys",
            Way::Pad => "pad",
            Way::Dpad => "dpad",
            Way::Stick => "stick",
            Way::Touch => "touch",
        }
    }

    fn families(self) -> &'static [Family] {
        match self {
            Way::Keys => &[Family::Keys, Family::Mouse],
            Way::Pad | Way::Dpad | Way::Stick => &[Family::Pad],
            Way::Touch => &[Family::Touch],
        }
    }
}

/// The screen that fingers move on, in pixels.
pub(crate) const VIEW: (u32, u32) = (1280, 720);

/// A device of a trial.
pub(crate) fn device(family: Family) -> Device {
    Device::new(family as usize).unwrap_or_default()
}

/// Something that is pressed.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Press {
    Button(Control),
    Trigger(Control),
    Notch(Control),
    /// A stick or a directional pad, pushed that way.
    Pair(Control, f32, f32),
    /// A finger, at this place of the view.
    Finger(f32, f32),
}

/// Something that points.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Pointing {
    /// Buttons: up, left, down, right.
    Legs([Option<Press>; 4]),
    Rocker(Control),
    Thumb(Control),
    /// A finger on a patch: its middle and its half sides, as shares of the view.
    Finger {
        middle: (f32, f32),
        half: (f32, f32),
    },
}

/// What a name in a cue is, in the hand.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Grip {
    Press(Press),
    /// A direction of something that points.
    Push(Pointing, Direction),
}

/// Whether two hands would be at one control.
pub(crate) fn collide(one: Grip, other: Grip) -> bool {
    match (one, other) {
        (Grip::Press(one), Grip::Press(other)) => one == other,
        (Grip::Push(Pointing::Legs(legs), _), Grip::Press(press))
        | (Grip::Press(press), Grip::Push(Pointing::Legs(legs), _)) => legs.contains(&Some(press)),
        (Grip::Push(Pointing::Legs(one), _), Grip::Push(Pointing::Legs(other), _)) => {
            one.iter().flatten().any(|leg| other.contains(&Some(*leg)))
        }
        (Grip::Push(one, _), Grip::Push(other, _)) => one == other,
        (Grip::Push(Pointing::Thumb(stick) | Pointing::Rocker(stick), _), Grip::Press(Press::Pair(pressed, ..)))
        | (Grip::Press(Press::Pair(pressed, ..)), Grip::Push(Pointing::Thumb(stick) | Pointing::Rocker(stick), _)) => {
            stick == pressed
        }
        _ => false,
    }
}

/// Where a hand takes hold: grips that collide have one in common.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Place {
    Control(Control),
    /// A place of the view, in bits.
    View(u32, u32),
}

impl Place {
    fn of(press: Press) -> Place {
        match press {
            Press::Button(control) | Press::Trigger(control) | Press::Notch(control) | Press::Pair(control, ..) => {
                Place::Control(control)
            }
            Press::Finger(x, y) => Place::at(x, y),
        }
    }

    fn at(x: f32, y: f32) -> Place {
        // 0 and -0 are one place.
        Place::View((x + 0.0).to_bits(), (y + 0.0).to_bits())
    }
}

impl Grip {
    /// Where it takes hold.
    pub(crate) fn places(self) -> impl Iterator<Item = Place> {
        let (one, legs) = match self {
            Grip::Press(press) => (Some(Place::of(press)), [None; 4]),
            Grip::Push(Pointing::Legs(legs), _) => (None, legs),
            Grip::Push(Pointing::Rocker(stick) | Pointing::Thumb(stick), _) => (Some(Place::Control(stick)), [None; 4]),
            Grip::Push(Pointing::Finger { middle: (x, y), .. }, _) => (Some(Place::at(x, y)), [None; 4]),
        };
        one.into_iter().chain(legs.into_iter().flatten().map(Place::of))
    }
}

impl Pointing {
    /// Whether it can be pushed that way.
    pub(crate) fn reaches(&self, direction: Direction) -> bool {
        let (x, y) = unit(direction);
        match self {
            Pointing::Legs(legs) => {
                let has = |place: usize, needed: bool| !needed || legs[place].is_some();
                has(0, y > 0.1) && has(1, x < -0.1) && has(2, y < -0.1) && has(3, x > 0.1)
            }
            _ => true,
        }
    }

    /// Whether it has more than all or nothing.
    pub(crate) fn is_analogue(&self) -> bool {
        matches!(self, Pointing::Thumb(_) | Pointing::Finger { .. })
    }
}

/// A direction as right and up.
pub(crate) fn unit(direction: Direction) -> (f64, f64) {
    let angle = f64::from(direction.degrees()) * core::f64::consts::PI / 180.0;
    (libm::cos(angle), libm::sin(angle))
}

/// A place of a view in pixels as shares of it.
fn share((x, y): (f32, f32)) -> (f32, f32) {
    (x / VIEW.0 as f32, y / VIEW.1 as f32)
}

fn pressed(linkage: &Linkage, control: Control, part: Part, name: &str) -> Option<Press> {
    if control.family() == Family::Touch {
        let patch = linkage.patches().find(|patch| name.strip_prefix("touch:") == Some(patch.name()))?;
        let (x, y) = share(patch.frame(VIEW.0, VIEW.1).middle);
        return Some(Press::Finger(x, y));
    }
    match (control.sort(), part) {
        (Sort::Button, _) => Some(Press::Button(control)),
        (Sort::Level, _) => Some(Press::Trigger(control)),
        (Sort::Notch, _) => Some(Press::Notch(control)),
        (Sort::Pair, Part::Up) => Some(Press::Pair(control, 0.0, 1.0)),
        (Sort::Pair, Part::Down) => Some(Press::Pair(control, 0.0, -1.0)),
        (Sort::Pair, Part::Left) => Some(Press::Pair(control, -1.0, 0.0)),
        (Sort::Pair, Part::Right) => Some(Press::Pair(control, 1.0, 0.0)),
        _ => None,
    }
}

/// The button of an action, played this way: its first control there.
pub(crate) fn button(linkage: &Linkage, action: ActionView<'_>, way: Way) -> Option<Press> {
    if !matches!(action.kind(), Kind::Button | Kind::Gauge) {
        return None;
    }
    way.families().iter().find_map(|family| {
        let own = action.controls().iter().filter(|control| control.control.family() == *family);
        own.filter(|control| control.leg.is_none())
            .find_map(|control| pressed(linkage, control.control, control.part, &control.name))
    })
}

/// The stick, or the axis, of an action, played this way.
pub(crate) fn pointing(linkage: &Linkage, action: ActionView<'_>, way: Way) -> Option<Pointing> {
    if !matches!(action.kind(), Kind::Stick | Kind::Axis) {
        return None;
    }
    let own = || action.controls().iter().filter(|control| way.families().contains(&control.control.family()));
    let whole = own().filter(|control| control.leg.is_none());
    for control in whole {
        match (way, control.control) {
            (Way::Dpad, Control::DPAD) => return Some(Pointing::Rocker(Control::DPAD)),
            (Way::Stick, Control::LEFT_STICK | Control::RIGHT_STICK) => return Some(Pointing::Thumb(control.control)),
            (Way::Touch, _) => {
                let patch =
                    linkage.patches().find(|patch| control.name.strip_prefix("touch:") == Some(patch.name()))?;
                let frame = patch.frame(VIEW.0, VIEW.1);
                return Some(Pointing::Finger { middle: share(frame.middle), half: share(frame.half) });
            }
            _ => {}
        }
    }
    let leg = |wanted: [Leg; 2]| {
        let first = own().find(|control| control.leg.is_some_and(|leg| wanted.contains(&leg)))?;
        // Two of one stick's parts as legs are that stick; a hand pushes it as a whole.
        pressed(linkage, first.control, first.part, &first.name).filter(|press| !matches!(press, Press::Pair(..)))
    };
    let up = leg([Leg::Up, Leg::Up]);
    let legs = [up, leg([Leg::Left, Leg::Minus]), leg([Leg::Down, Leg::Down]), leg([Leg::Right, Leg::Plus])];
    (way != Way::Stick && legs.iter().any(Option::is_some)).then_some(Pointing::Legs(legs))
}

/// What an action's name is in the hand, or the name of a direction of a stick: `steer.left`, `mirror.plus`.
pub(crate) fn grip(linkage: &Linkage, name: &str, way: Way) -> Option<Grip> {
    if let Some((of, word)) = name.split_once('.') {
        let direction = match word {
            "minus" => Direction::Left,
            "plus" => Direction::Right,
            word => Direction::from_name(word)?,
        };
        let pointing = pointing(linkage, linkage.action(of)?, way).filter(|pointing| pointing.reaches(direction))?;
        return Some(Grip::Push(pointing, direction));
    }
    let action = linkage.action(name)?;
    if let Some(press) = button(linkage, action, way) {
        return Some(Grip::Press(press));
    }
    let pointing = pointing(linkage, action, way)?;
    let direction = [Direction::Right, Direction::Up].into_iter().find(|direction| pointing.reaches(*direction))?;
    Some(Grip::Push(pointing, direction))
}
