//! The window: real events in, pictures out. Says who hears what.
//!
//! ```text
//!   keys ──▶ the profile, but for the tool's own
//!   mouse, fingers ──▶ where they went down: the stage is the profile's, all else the tool's
//! ```

use std::num::NonZeroU32;
use std::path::PathBuf;
use std::rc::Rc;
use std::time::{Duration, Instant};

use anyhow::{Context as _, Result};
use softbuffer::{Context, Surface};
use tidy_lever::adapter::Devices;
use tidy_lever::event::{Device, Event, Input, Phase};
use tidy_lever::{Control, Family, Moment};
use tidy_lever_pads::Pads;
use tidy_lever_pads::script::{Script, plug_in};
use tidy_lever_tuning::{Watch, answers_beside};
use tidy_lever_view::Area;
use tidy_lever_winit::{Adapter, Report};
use winit::application::ApplicationHandler;
use winit::dpi::{LogicalSize, PhysicalSize};
use winit::event::{DeviceEvent, DeviceId, StartCause, WindowEvent};
use winit::event_loop::{ActiveEventLoop, ControlFlow, EventLoop, EventLoopProxy, OwnedDisplayHandle};
use winit::window::{CursorGrabMode, Window, WindowId};

use crate::hits::Hit;
use crate::keys::Tool;
use crate::options::Options;
use crate::screen::Screen;
use crate::session::Session;
use crate::sliders;

/// A picture takes this long at least.
const FRAME: Duration = Duration::from_micros(16_666);
/// A pad that is asked so often is never far behind; its events carry their own times.
const PAD_LOOK: Duration = Duration::from_millis(4);
/// While nobody moves a pad, it is asked less often.
const PAD_REST: Duration = Duration::from_millis(12);
/// A file is read this long after it was saved: editors write in several steps.
const SETTLE: Duration = Duration::from_millis(40);
/// A number that is dragged moves this often at most.
const MOVE: Duration = Duration::from_millis(50);

/// What reaches the loop from elsewhere.
#[derive(Debug)]
enum Outside {
    /// A simulated pad's event, to be stamped as it arrives.
    Pad(Event),
    /// A watched file was saved.
    Saved,
}

struct Shown {
    window: Rc<Window>,
    surface: Surface<OwnedDisplayHandle, Rc<Window>>,
}

struct App {
    session: Session,
    screen: Screen,
    adapter: Adapter,
    pads: Option<Pads>,
    plugged: usize,
    devices: Devices,
    simulated: Vec<Device>,
    /// The window's, in pixels.
    size: (u32, u32),
    options: Options,
    shown: Option<Shown>,
    script: Option<Script>,
    pad: Option<PathBuf>,
    reread: Option<Instant>,
    drawn: Instant,
    /// Whether a picture is wanted, whatever the session says.
    stale: bool,
    visible: bool,
    /// Where the pointer is in the layout.
    pointer: (f32, f32),
    /// What is held by the profile: buttons of the mouse, and fingers, that went down on the stage.
    buttons: Vec<Control>,
    fingers: Vec<u64>,
    /// The slider that is dragged.
    dragged: Option<(String, Area, (f64, f64))>,
    /// Where it stands, if its number is not there yet; and when a number was moved last.
    wanted: Option<(String, f64)>,
    moved: Option<Instant>,
    proxy: EventLoopProxy<Outside>,
    failed: Option<anyhow::Error>,
}

/// Opens the window and plays until it is closed.
pub(crate) fn run(mut session: Session, options: &Options) -> Result<()> {
    let script = options.tape.as_deref().map(|tape| session.begin_tape(tape)).transpose()?;
    let events = EventLoop::<Outside>::with_user_event().build().context(
        "no window can be opened here; `tidy-lever play` and `why` need none, nor does `try` with `--frames N --shot FILE.png`",
    )?;
    let proxy = events.create_proxy();
    let saved = proxy.clone();
    let answers = answers_beside(session.tuning.path());
    let watch = Watch::files(&[session.tuning.path(), &answers], move || {
        let _ = saved.send_event(Outside::Saved);
    });
    // Kept until the end: dropping it ends the watch.
    let _watch = watch.map_err(|problem| session.complain(problem.to_string())).ok();
    let pads = if script.is_none() { Pads::open().map_err(|why| eprintln!("{why}")).ok() } else { None };
    let mut app = App {
        session,
        screen: Screen::new(options.size, &options.tool_keys)?,
        adapter: Adapter::new(),
        pads,
        plugged: 0,
        devices: Devices::new(),
        simulated: Vec::new(),
        size: options.size,
        options: options.clone(),
        shown: None,
        script,
        pad: options.pad.clone(),
        reread: None,
        drawn: Instant::now(),
        stale: true,
        visible: true,
        pointer: (0.0, 0.0),
        buttons: Vec::new(),
        fingers: Vec::new(),
        dragged: None,
        wanted: None,
        moved: None,
        proxy,
        failed: None,
    };
    events.run_app(&mut app)?;
    app.move_wanted(true);
    let told = app.session.end();
    told.into_iter().for_each(|told| eprintln!("{told}"));
    app.failed.map_or(Ok(()), Err)
}

impl App {
    fn open(&mut self, events: &ActiveEventLoop) -> Result<()> {
        let size = LogicalSize::new(self.size.0, self.size.1);
        let title = format!("tidy-lever try: {}", self.session.tuning.path().display());
        let attributes = Window::default_attributes().with_title(title).with_inner_size(size);
        let window = Rc::new(events.create_window(attributes)?);
        let problem = |problem: softbuffer::SoftBufferError| anyhow::anyhow!("no picture can be shown: {problem}");
        let context = Context::new(events.owned_display_handle()).map_err(problem)?;
        let surface = Surface::new(&context, window.clone()).map_err(problem)?;
        self.screen.set_scale(self.options.scale_on(window.scale_factor()));
        self.resized(window.inner_size());
        self.shown = Some(Shown { window, surface });
        Ok(())
    }

    /// The simulated pad begins when the window is first played in.
    fn plug_in(&mut self) -> Result<()> {
        let Some(pad) = self.pad.take() else { return Ok(()) };
        let proxy = self.proxy.clone();
        Ok(plug_in(&pad, move |event| proxy.send_event(Outside::Pad(event)).is_ok())?)
    }

    fn resized(&mut self, size: PhysicalSize<u32>) {
        self.visible = size.width > 0 && size.height > 0;
        if !self.visible {
            return;
        }
        self.size = (size.width, size.height);
        self.stale = true;
        if let Err(problem) = self.screen.resize(self.size) {
            self.failed = Some(problem);
        }
        let _ = self.adapter.resized(size.width, size.height);
        let stage = self.screen.stage_size(&self.session);
        self.session.set_view(stage);
    }

    fn fail(&mut self, events: &ActiveEventLoop, problem: anyhow::Error) {
        self.failed = Some(problem);
        events.exit();
    }

    /// Plays what is due.
    fn play(&mut self, events: &ActiveEventLoop) {
        let now = self.adapter.now();
        if let Some(script) = &mut self.script {
            if let Err(problem) = script.play(now, |line| self.session.line(line)) {
                self.fail(events, problem.into());
                return;
            }
            if script.next().is_none() {
                self.script = None;
                self.session.remark("the tape is over");
            }
        }
        self.ask_pads();
        self.move_wanted(false);
        if self.reread.take_if(|due| *due <= Instant::now()).is_some() {
            self.session.reread();
            self.stale = true;
        }
        let before = self.session.changed;
        let seats = self.session.table.seats().count();
        self.session.play(now);
        self.stale |= self.session.changed != before;
        if self.session.table.seats().count() != seats {
            let stage = self.screen.stage_size(&self.session);
            self.session.set_view(stage);
        }
    }

    fn ask_pads(&mut self) {
        let Some(pads) = &mut self.pads else { return };
        let adapter = &self.adapter;
        for report in pads.poll(&mut self.devices, || adapter.now()) {
            match &report {
                Report::Came { device, name, .. } => {
                    self.plugged += 1;
                    self.session.remark(format!("{name} is plugged in"));
                    self.session.named(*device, name);
                    for misfit in pads.misfits(*device) {
                        eprintln!("{misfit}");
                        self.session.remark(misfit);
                    }
                }
                Report::Gone { .. } => self.plugged = self.plugged.saturating_sub(1),
                _ => {}
            }
            if let Some(event) = report.event() {
                self.session.feed(event);
            }
        }
    }

    /// The number of a simulated pad among all devices.
    fn simulated(&mut self, own: Device) -> Device {
        while self.simulated.len() <= own.number() {
            let kind = format!("simulated pad {}", self.simulated.len());
            self.simulated.push(self.devices.plug(&kind).unwrap_or(own));
        }
        self.simulated[own.number()]
    }

    fn draw(&mut self) -> Result<()> {
        let Some(shown) = &mut self.shown else { return Ok(()) };
        self.drawn = Instant::now();
        self.stale = false;
        let now = self.adapter.now();
        let stage = self.screen.stage(&self.session);
        self.screen.pointed = Some(self.pointer).filter(|place| !stage.holds(*place));
        let picture = self.screen.draw(&self.session, self.adapter.labels(), now);
        let problem = |problem: softbuffer::SoftBufferError| anyhow::anyhow!("no picture can be shown: {problem}");
        let (Some(width), Some(height)) = (NonZeroU32::new(picture.width()), NonZeroU32::new(picture.height())) else {
            return Ok(());
        };
        shown.surface.resize(width, height).map_err(problem)?;
        let mut buffer = shown.surface.buffer_mut().map_err(problem)?;
        for (to, from) in buffer.iter_mut().zip(picture.pixels()) {
            *to = u32::from(from.red()) << 16 | u32::from(from.green()) << 8 | u32::from(from.blue());
        }
        buffer.present().map_err(problem)
    }

    /// A place as a share of the window becomes one of the layout.
    fn place(&self, (x, y): (f32, f32)) -> (f32, f32) {
        self.screen.place((x * self.size.0 as f32, y * self.size.1 as f32))
    }

    /// A place as a share of the window becomes one of the stage.
    fn on_stage(&mut self, place: (f32, f32)) -> (f32, f32) {
        let stage = self.screen.stage(&self.session);
        let (x, y) = self.place(place);
        ((x - stage.x) / stage.wide.max(1.0), (y - stage.y) / stage.high.max(1.0))
    }

    /// Whether the profile hears what the mouse does here.
    fn is_on_stage(&mut self) -> bool {
        let place = self.pointer;
        self.screen.captured || self.screen.stage(&self.session).holds(place)
    }

    /// An event goes to whom it belongs.
    fn event(&mut self, event: Event) {
        match event.input {
            Input::Level { control, value } if control.family() == Family::Keys => {
                let tool = self.screen.keys(&self.session).iter().find(|(_, key)| *key == Some(control)).copied();
                match tool {
                    Some((tool, _)) if value >= 0.5 => self.tool(tool),
                    Some(_) => {}
                    None => self.session.feed(event),
                }
            }
            Input::Level { control, value } if control == Control::WHEEL_UP || control == Control::WHEEL_DOWN => {
                if self.is_on_stage() {
                    return self.session.feed(event);
                }
                let rows = value.ceil().clamp(1.0, 8.0) as i32 * 3;
                let rows = if control == Control::WHEEL_DOWN { rows } else { -rows };
                self.screen.scroll(&self.session, self.pointer, rows);
                self.stale = true;
            }
            Input::Level { control, value } if control.family() == Family::Mouse => {
                self.button(event, control, value >= 0.5)
            }
            Input::Pair { control, x, y } if control == Control::MOUSE_PLACE => {
                self.pointer = self.place((x, y));
                self.drag();
                if self.is_on_stage() || !self.buttons.is_empty() {
                    let (x, y) = self.on_stage((x, y));
                    self.session.feed(Event::pair(event.at, event.device, control, x, y));
                } else {
                    // Only what lies under the pointer may change.
                    self.stale = true;
                }
            }
            Input::Pair { control, .. } if control == Control::MOUSE_MOVE => {
                if self.is_on_stage() {
                    self.session.feed(event);
                }
            }
            Input::Touch { finger, phase, x, y } => self.touch(event, finger, phase, (x, y)),
            _ => self.session.feed(event),
        }
    }

    fn button(&mut self, event: Event, control: Control, down: bool) {
        if down {
            if self.is_on_stage() {
                self.buttons.push(control);
                return self.session.feed(event);
            }
            if control == Control::MOUSE_LEFT || control == Control::MOUSE_RIGHT {
                self.press(self.pointer, control == Control::MOUSE_RIGHT);
            }
            return;
        }
        if let Some(place) = self.buttons.iter().position(|held| *held == control) {
            self.buttons.remove(place);
            return self.session.feed(event);
        }
        self.let_go();
    }

    fn touch(&mut self, event: Event, finger: u64, phase: Phase, (x, y): (f32, f32)) {
        let place = self.place((x, y));
        let stage = self.screen.stage(&self.session);
        if phase == Phase::Down && stage.holds(place) {
            self.fingers.push(finger);
        }
        if let Some(held) = self.fingers.iter().position(|held| *held == finger) {
            if matches!(phase, Phase::Up | Phase::Cancel) {
                self.fingers.remove(held);
            }
            let (x, y) = self.on_stage((x, y));
            return self.session.feed(Event::touch(event.at, event.device, finger, phase, x, y));
        }
        // On the tool a finger is a pointer.
        self.pointer = place;
        match phase {
            Phase::Down => self.press(place, false),
            Phase::Move => self.drag(),
            _ => self.let_go(),
        }
    }

    /// Something of the tool is pressed; the other button puts a number back to its default.
    fn press(&mut self, place: (f32, f32), other: bool) {
        self.stale = true;
        let Some(hit) = self.screen.hit(place) else { return };
        match hit {
            Hit::Fact(fact, value) => self.session.tell(&fact, &value),
            Hit::Mode(mode, on) => self.session.set_mode(&mode, on),
            Hit::Action(action) => self.screen.choose(&mut self.session, action),
            Hit::Seat(number) => self.session.told_seat = number,
            Hit::Tool(tool) => self.tool(tool),
            Hit::Number(path, ..) if other => {
                let number = self.session.tuning.numbers().iter().find(|number| number.path == path);
                if let Some(default) = number.and_then(|number| number.default) {
                    self.set_number(&path, default);
                    self.session.tuning.settle();
                }
            }
            Hit::Number(path, rail, reach) => {
                self.dragged = Some((path, rail, reach));
                self.drag();
            }
        }
    }

    fn drag(&mut self) {
        let Some((path, rail, reach)) = self.dragged.clone() else { return };
        self.stale = true;
        let number = self.session.tuning.numbers().iter().find(|number| number.path == path);
        let Some(number) = number else { return };
        let value = sliders::at(number, reach, rail, self.pointer.0);
        self.wanted = (value != number.value).then_some((path, value));
        self.move_wanted(false);
    }

    /// Moves a number to where its slider stands, 20 times a second at most: each move is a line of the tape.
    fn move_wanted(&mut self, at_once: bool) {
        if !at_once && self.moved.is_some_and(|moved| moved.elapsed() < MOVE) {
            return;
        }
        let Some((path, value)) = self.wanted.take() else { return };
        self.moved = Some(Instant::now());
        self.stale = true;
        self.set_number(&path, value);
        if self.dragged.is_none() {
            self.session.tuning.settle();
        }
    }

    fn set_number(&mut self, path: &str, value: f64) {
        // What the seats have played up to now was played with the old number.
        let now = self.adapter.now();
        self.session.play(now);
        if let Err(problem) = self.session.set_number(path, value) {
            self.session.complain(problem.to_string());
        }
    }

    fn let_go(&mut self) {
        self.stale = true;
        if self.dragged.take().is_some() && self.wanted.is_none() {
            self.session.tuning.settle();
        }
    }

    fn tool(&mut self, tool: Tool) {
        self.move_wanted(true);
        self.stale = true;
        let now = self.adapter.now();
        match tool {
            Tool::Freeze => {
                let frozen = &mut self.screen.lanes.frozen;
                *frozen = if frozen.is_some() { None } else { Some(now) };
            }
            Tool::Undo => self.session.undo(),
            Tool::Save => self.session.save(),
            Tool::Keep => self.session.keep(),
            Tool::Meant => self.session.meant(),
            Tool::Answers => self.session.write_answers(),
            Tool::Pointer => self.capture(!self.screen.captured),
        }
    }

    /// The pointer is caught for the profile, or set free.
    fn capture(&mut self, captured: bool) {
        let Some(shown) = &self.shown else { return };
        let window = &shown.window;
        let caught = |mode| window.set_cursor_grab(mode).is_ok();
        let done = if captured {
            caught(CursorGrabMode::Locked) || caught(CursorGrabMode::Confined)
        } else {
            caught(CursorGrabMode::None)
        };
        window.set_cursor_visible(!captured);
        self.screen.captured = captured;
        if !done {
            self.session.remark("this system can't hold the pointer; its moves go to the profile all the same");
        }
    }

    /// When the loop must go on, if at all.
    fn next(&self, now: Moment) -> Option<Instant> {
        let mut next: Option<Instant> = None;
        let mut by = |instant: Instant| next = Some(next.map_or(instant, |other: Instant| other.min(instant)));
        let lively = self.session.is_lively(now);
        if let (Some(_), Some(moved)) = (&self.wanted, self.moved) {
            by(moved + MOVE);
        }
        match self.session.rests_until() {
            Some(until) if until >= Moment::LATEST => {}
            Some(until) => by(Instant::now() + (until - now)),
            None => by(Instant::now() + FRAME),
        }
        if self.visible && (lively && self.screen.lanes.frozen.is_none() || self.stale) {
            by(self.drawn + FRAME);
        }
        if let Some(at) = self.script.as_ref().and_then(Script::next) {
            by(Instant::now() + (at - now));
        }
        if self.plugged > 0 {
            by(Instant::now() + if lively { PAD_LOOK } else { PAD_REST });
        } else if self.pads.is_some() {
            // A pad may be plugged in.
            by(Instant::now() + Duration::from_millis(300));
        }
        if let Some(due) = self.reread {
            by(due);
        }
        next
    }

    /// Takes what the window said.
    fn hear(&mut self, events: &ActiveEventLoop, reports: Vec<Report>) {
        for said in reports {
            match said {
                Report::Event(event) => self.event(event),
                Report::Focus(focused, at) => {
                    self.session.focus(focused, at);
                    self.stale = true;
                    if !focused {
                        // What was held on the stage went up with the focus.
                        self.buttons.clear();
                        self.fingers.clear();
                        self.let_go();
                        if self.screen.captured {
                            self.capture(false);
                        }
                    }
                    if focused && let Err(problem) = self.plug_in() {
                        self.fail(events, problem);
                    }
                }
                Report::Close => events.exit(),
                _ => {}
            }
        }
    }
}

impl ApplicationHandler<Outside> for App {
    fn resumed(&mut self, events: &ActiveEventLoop) {
        if self.shown.is_none()
            && let Err(problem) = self.open(events)
        {
            self.fail(events, problem);
        }
    }

    fn user_event(&mut self, events: &ActiveEventLoop, outside: Outside) {
        match outside {
            Outside::Pad(event) => {
                let (at, device) = (self.adapter.now(), self.simulated(event.device));
                self.session.feed(Event { at, device, ..event });
            }
            Outside::Saved => self.reread = Some(Instant::now() + SETTLE),
        }
        self.play(events);
    }

    fn window_event(&mut self, events: &ActiveEventLoop, _: WindowId, event: WindowEvent) {
        match &event {
            WindowEvent::RedrawRequested => {
                let reports = self.adapter.window(&event);
                self.hear(events, reports);
                self.play(events);
                if let Err(problem) = self.draw() {
                    self.fail(events, problem);
                }
                return;
            }
            WindowEvent::Resized(size) => self.resized(*size),
            WindowEvent::ScaleFactorChanged { scale_factor, .. } => {
                self.screen.set_scale(self.options.scale_on(*scale_factor));
                self.resized(PhysicalSize::new(self.size.0, self.size.1));
            }
            WindowEvent::Occluded(hidden) => self.visible = !hidden,
            _ => {}
        }
        let reports = self.adapter.window(&event);
        self.hear(events, reports);
    }

    fn device_event(&mut self, _: &ActiveEventLoop, _: DeviceId, event: DeviceEvent) {
        if let Some(Report::Event(event)) = self.adapter.device(&event) {
            self.event(event);
        }
    }

    fn new_events(&mut self, _: &ActiveEventLoop, _: StartCause) {
        self.adapter.wakes();
    }

    fn about_to_wait(&mut self, events: &ActiveEventLoop) {
        let reports = self.adapter.waits();
        self.hear(events, reports);
        self.play(events);
        let now = self.adapter.now();
        let wanted = self.stale || (self.session.is_lively(now) && self.screen.lanes.frozen.is_none());
        if self.visible && wanted && self.drawn + FRAME <= Instant::now() {
            if let Some(shown) = &self.shown {
                shown.window.request_redraw();
            }
            // Asked for: the picture itself says when the next one is due.
            self.drawn = Instant::now();
        }
        if !wanted {
            // A crash while nothing happens loses nothing.
            self.session.flush();
        }
        // From here on it only waits.
        self.adapter.waits();
        events.set_control_flow(self.next(now).map_or(ControlFlow::Wait, ControlFlow::WaitUntil));
    }
}
