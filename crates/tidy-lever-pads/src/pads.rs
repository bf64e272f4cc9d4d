//! Pads: what a source sees becomes reports, in the standard layout, with moments and numbers that stay.

use tidy_lever::adapter::{Devices, Report, StampClock};
use tidy_lever::control::Sort;
use tidy_lever::{Control, Device, Event, Moment};

use crate::source::{PadId, PadName, Place, Seen, Source, Stamped, Times};
use crate::tables::PadTables;

/// Nearer to 0, or to full deflection, than this is there: what a kernel's rounding leaves.
const ROUNDING: f32 = 1e-4;

/// Why there are no pads.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum NoPads {
    /// The program was built without them.
    #[error(
        "no gamepads: this program was built without them; on Linux install libudev-dev and pkg-config, and build it with \
         --features real-pads"
    )]
    NotBuilt,
    /// The system has none to offer.
    #[error("no gamepads: the system gives no access to them ({0})")]
    NoSystem(String),
}

/// Gamepads, drained once in each pass of a loop.
#[derive(Debug)]
pub struct Pads {
    source: Box<dyn Source>,
    clock: StampClock,
    tables: PadTables,
    known: Vec<Known>,
    /// Pads that were here before, or are.
    met: Vec<Device>,
    refused: u64,
}

/// A pad that is plugged in.
#[derive(Debug)]
struct Known {
    id: PadId,
    device: Device,
    name: PadName,
    /// What was reported last of each control.
    levels: Vec<(Control, f32, f32)>,
    /// The arms of the directional pad that are down: left, right, down, up.
    arms: [bool; 4],
    /// Where the hat stands.
    hat: (f32, f32),
}

/// A pair that is being put together from its axes.
#[derive(Clone, Copy, Debug)]
struct Open {
    device: Device,
    control: Control,
    at: Moment,
    x: f32,
    y: f32,
    /// The arms that changed in it, a bit each.
    arms: u8,
    asked: bool,
}

impl Pads {
    /// The system's pads.
    ///
    /// # Errors
    /// [`NoPads`], with a sentence for the player: the game goes on without them.
    pub fn open() -> Result<Pads, NoPads> {
        #[cfg(any(windows, target_os = "macos", all(target_os = "linux", feature = "real-pads")))]
        return crate::real::Real::open().map(Pads::from_source).map_err(NoPads::NoSystem);
        #[cfg(not(any(windows, target_os = "macos", all(target_os = "linux", feature = "real-pads"))))]
        return Err(NoPads::NotBuilt);
    }

    /// The pads of another source.
    pub fn from_source(source: impl Source + 'static) -> Pads {
        let (clock, tables) = (StampClock::new(), PadTables::default());
        Pads { source: Box::new(source), clock, tables, known: Vec::new(), met: Vec::new(), refused: 0 }
    }

    /// Takes the layouts of pads that a player's file describes. They count for what is moved from now on.
    pub fn describe(&mut self, tables: PadTables) {
        self.tables = tables;
    }

    /// Where the events' moments come from.
    pub fn times(&self) -> Times {
        self.source.times()
    }

    /// The plain name of a pad that is plugged in.
    pub fn name(&self, device: Device) -> Option<&str> {
        self.known.iter().find(|known| known.device == device).map(|known| known.name.name.as_str())
    }

    /// What a pad that is plugged in has of the standard layout, as far as the system can tell; and what the player's file
    /// describes is not among it.
    pub fn controls(&self, device: Device) -> &[Control] {
        self.known.iter().find(|known| known.device == device).map_or(&[], |known| &known.name.controls)
    }

    /// What the player's file says of a pad that is plugged in and that fits nothing of it, a sentence each; none where the system
    /// can't tell what a pad has.
    pub fn misfits(&self, device: Device) -> Vec<String> {
        let known = self.known.iter().find(|known| known.device == device);
        known.map_or_else(Vec::new, |known| self.tables.misfits(&known.name))
    }

    /// How often the system's clock was set, and how many pads found no number; both are 0 as long as all is well.
    pub fn troubles(&self) -> (u64, u64) {
        (self.clock.jumps(), self.refused)
    }

    /// Everything that the pads did since the last call, in order. `clock` reads the game's clock, by which the events get
    /// their moments. Take the moment to which the loop advances before this call: what comes later than it waits.
    pub fn poll(&mut self, devices: &mut Devices, clock: impl Fn() -> Moment) -> Vec<Report> {
        self.poll_with(devices, clock, |_, _| {})
    }

    /// The same, and shows what the source saw as it came: for a [`Setup`](crate::Setup) of a pad without a layout.
    pub fn poll_with(
        &mut self,
        devices: &mut Devices,
        clock: impl Fn() -> Moment,
        mut show: impl FnMut(Device, &Seen),
    ) -> Vec<Report> {
        let mut all = Vec::new();
        let reports = &mut all;
        if let Some(stamp) = self.source.clock() {
            self.clock.sync(stamp, clock());
        }
        let mut open: Option<Open> = None;
        // What a pad that is back says first, without a time, is how it stands, not what a hand does.
        let mut back: Vec<Device> = Vec::new();
        while let Some(Stamped { stamp, seen, asked }) = self.source.next() {
            let now = clock();
            match seen {
                Seen::Came(id, ref name) => {
                    self.close(&mut open, reports);
                    let Some(device) = devices.plug(&name.kind()) else {
                        self.refused += 1;
                        continue;
                    };
                    let at = self.clock.unstamped(device, now);
                    if self.met.contains(&device) {
                        back.push(device)
                    } else {
                        self.met.push(device)
                    }
                    self.known.retain(|known| known.id != id);
                    let (levels, arms, hat) = (Vec::new(), [false; 4], (0.0, 0.0));
                    self.known.push(Known { id, device, name: name.clone(), levels, arms, hat });
                    show(device, &seen);
                    let plain = if name.name.is_empty() { "gamepad".to_owned() } else { name.name.clone() };
                    reports.push(Report::Came { device, name: plain, at });
                }
                Seen::Gone(id) => {
                    self.close(&mut open, reports);
                    let Some(place) = self.known.iter().position(|known| known.id == id) else { continue };
                    let Known { device, .. } = self.known.remove(place);
                    devices.unplug(device);
                    show(device, &seen);
                    reports.push(Report::Gone { device, at: self.clock.unstamped(device, now) });
                }
                Seen::Moved(..) | Seen::Numbered(..) => {
                    let (id, place, level, numbered) = match seen {
                        Seen::Moved(id, place, level) => (id, place, level, (place, level)),
                        Seen::Numbered(id, place, level, numbered) => (id, place, level, numbered),
                        _ => continue,
                    };
                    let Some(known) = self.known.iter().position(|known| known.id == id) else { continue };
                    let device = self.known[known].device;
                    if !level.is_finite() || !numbered.1.is_finite() {
                        continue;
                    }
                    show(device, &seen);
                    let at = match stamp {
                        Some(stamp) => self.clock.moment(device, stamp, now),
                        None => self.clock.unstamped(device, now),
                    };
                    let name = &self.known[known].name;
                    let Some((place, level)) = self.tables.read(name, (place, level), numbered) else {
                        continue;
                    };
                    let asked = asked || stamp.is_none() && back.contains(&device);
                    self.moved(known, place, (clean(level), asked), at, (&mut open, &mut *reports));
                }
            }
        }
        self.close(&mut open, reports);
        all
    }

    fn moved(
        &mut self,
        known: usize,
        place: Place,
        (level, asked): (f32, bool),
        at: Moment,
        (open, reports): (&mut Option<Open>, &mut Vec<Report>),
    ) {
        let pad = &mut self.known[known];
        let device = pad.device;
        let (control, arms) = match place {
            Place::At(control) => {
                self.close(open, reports);
                let level = match control.sort() {
                    Sort::Button => f32::from(u8::from(level >= 0.5)),
                    _ => level.clamp(0.0, 1.0),
                };
                if self.is_news(device, control, level, 0.0) {
                    let asked_for = Event::stands(at, device, control, level, 0.0);
                    reports.push(Report::Event(if asked {
                        asked_for
                    } else {
                        Event::level(at, device, control, level)
                    }));
                }
                return;
            }
            Place::Arm { x, y } => {
                let arm = match (x, y) {
                    (..=-1, _) => 0,
                    (1.., _) => 1,
                    (_, ..=-1) => 2,
                    _ => 3,
                };
                pad.arms[arm] = level >= 0.5;
                let side = |minus: bool, plus: bool| f32::from(i8::from(plus) - i8::from(minus));
                pad.hat = (side(pad.arms[0], pad.arms[1]), side(pad.arms[2], pad.arms[3]));
                (Control::DPAD, 1u8 << arm)
            }
            Place::Axis { of, .. } => (of, 0),
            Place::Button(_) | Place::RawAxis(_) => return,
        };
        // Of one report, which has one moment, comes one pair; but an arm that goes down and up again says both.
        let joins = open.is_some_and(|open| {
            (open.device, open.control, open.at, open.asked) == (device, control, at, asked) && open.arms & arms == 0
        });
        if !joins {
            self.close(open, reports);
        }
        let pad = &self.known[known];
        let stood = pad.levels.iter().find(|(of, ..)| *of == control).map_or((0.0, 0.0), |(_, x, y)| (*x, *y));
        let mut pair = open.unwrap_or(Open { device, control, at, x: stood.0, y: stood.1, arms: 0, asked });
        match place {
            Place::Axis { upright: true, .. } => pair.y = level,
            Place::Axis { .. } => pair.x = level,
            _ => (pair.x, pair.y) = pad.hat,
        }
        pair.arms |= arms;
        *open = Some(pair);
    }

    /// Reports the pair that was put together, if it is news.
    fn close(&mut self, open: &mut Option<Open>, reports: &mut Vec<Report>) {
        let Some(Open { device, control, at, x, y, asked, .. }) = open.take() else { return };
        if self.is_news(device, control, x, y) {
            let event = if asked { Event::stands } else { Event::pair };
            reports.push(Report::Event(event(at, device, control, x, y)));
        }
    }

    /// Whether a control stands elsewhere than it was reported; notes where it stands.
    fn is_news(&mut self, device: Device, control: Control, x: f32, y: f32) -> bool {
        let Some(pad) = self.known.iter_mut().find(|known| known.device == device) else { return false };
        match pad.levels.iter_mut().find(|(of, ..)| *of == control) {
            Some(level) => core::mem::replace(level, (control, x, y)) != (control, x, y),
            None => {
                pad.levels.push((control, x, y));
                // At rest it was before it spoke.
                (x, y) != (0.0, 0.0)
            }
        }
    }
}

/// A level without what rounding leaves of rest and of full deflection.
fn clean(level: f32) -> f32 {
    match level.clamp(-1.0, 1.0) {
        level if level.abs() < ROUNDING => 0.0,
        level if level.abs() > 1.0 - ROUNDING => level.signum(),
        level => level,
    }
}
