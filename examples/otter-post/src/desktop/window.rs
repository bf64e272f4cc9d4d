//! The window: real events in, pictures out.

use std::num::NonZeroU32;
use std::path::{Path, PathBuf};
use std::rc::Rc;
use std::time::{Duration, Instant};

use anyhow::{Context as _, Result};
use softbuffer::{Context, Surface};
use tidy_lever::adapter::Devices;
use tidy_lever::{Device, Event};
use tidy_lever_pads::script::{Script, plug_in};
use tidy_lever_pads::{PadTables, Pads};
use tidy_lever_tuning::Watch;
use tidy_lever_winit::{Adapter, Report};
use winit::application::ApplicationHandler;
use winit::dpi::{LogicalSize, PhysicalSize};
use winit::event::{DeviceEvent, DeviceId, ElementState, KeyEvent, StartCause, WindowEvent};
use winit::event_loop::{ActiveEventLoop, ControlFlow, EventLoop, EventLoopProxy, OwnedDisplayHandle};
use winit::keyboard::{KeyCode, PhysicalKey};
use winit::window::{Window, WindowId};

use super::profile_file;
use crate::game::Game;
use crate::view::View;
use crate::world::STEPS_A_SECOND;

/// A picture takes this long at least; and this long when nothing moves but the water.
const FRAME: Duration = Duration::from_micros(16_666);
const CALM_FRAME: Duration = Duration::from_millis(120);
/// A pad that is asked so often is never far behind; its events carry their own times.
const PAD_LOOK: Duration = Duration::from_millis(4);
/// A profile is read this long after it was saved: editors write in several steps.
const SETTLE: Duration = Duration::from_millis(40);

/// What reaches the loop from elsewhere.
#[derive(Debug)]
enum Outside {
    /// A simulated pad's event, to be stamped as it arrives.
    Pad(Event),
    /// The profile's file was saved.
    Saved,
}

/// How the window is opened.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Opening<'a> {
    pub(crate) size: (u32, u32),
    pub(crate) profile: Option<&'a Path>,
    pub(crate) player: Option<&'a Path>,
    pub(crate) tape: Option<&'a Path>,
    pub(crate) pad: Option<&'a Path>,
}

struct Shown {
    window: Rc<Window>,
    surface: Surface<OwnedDisplayHandle, Rc<Window>>,
}

struct App {
    game: Game,
    view: View,
    adapter: Adapter,
    /// The system's pads, if there are any to be had; and how many are plugged in.
    pads: Option<Pads>,
    plugged: usize,
    devices: Devices,
    /// The simulated pads' numbers, by their own.
    simulated: Vec<Device>,
    size: (u32, u32),
    shown: Option<Shown>,
    script: Option<Script>,
    pad: Option<PathBuf>,
    profile: Option<PathBuf>,
    /// When the saved profile is to be read.
    reread: Option<Instant>,
    drawn: Instant,
    /// Whether there is anybody to draw for.
    visible: bool,
    proxy: EventLoopProxy<Outside>,
    failed: Option<anyhow::Error>,
}

/// Opens the window and plays until it is closed.
///
/// # Errors
/// If there is no display, or a file can't be read.
pub(crate) fn run(mut game: Game, view: View, opening: Opening<'_>) -> Result<()> {
    let script = opening.tape.map(|tape| game.begin_tape(tape)).transpose()?;
    let events = EventLoop::<Outside>::with_user_event()
        .build()
        .context("no window can be opened here; `--frames N --shot FILE.png` needs none")?;
    let proxy = events.create_proxy();
    let saved = proxy.clone();
    let watch = |file: &Path| {
        Watch::files(&[file], move || {
            let _ = saved.send_event(Outside::Saved);
        })
    };
    // Kept until the end: dropping it ends the watch.
    let _watch = match opening.profile.map(watch) {
        Some(Err(problem)) => {
            game.remark(problem.to_string());
            None
        }
        other => other.transpose()?,
    };
    // A tape plays instead of hands. Without pads the game goes on.
    let mut pads = if script.is_none() { Pads::open().map_err(|why| eprintln!("{why}")).ok() } else { None };
    if let (Some(pads), Some(player)) = (&mut pads, opening.player) {
        match std::fs::read_to_string(player).map_or(Ok(PadTables::default()), |text| PadTables::from_toml(&text)) {
            Ok(tables) => pads.describe(tables),
            Err(problem) => eprintln!("{}: {problem}", player.display()),
        }
    }
    let mut app = App {
        game,
        view,
        adapter: Adapter::new(),
        pads,
        plugged: 0,
        devices: Devices::new(),
        simulated: Vec::new(),
        size: opening.size,
        shown: None,
        script,
        pad: opening.pad.map(Path::to_owned),
        profile: opening.profile.map(Path::to_owned),
        reread: None,
        drawn: Instant::now(),
        visible: true,
        proxy,
        failed: None,
    };
    events.run_app(&mut app)?;
    app.game.end();
    app.failed.map_or(Ok(()), Err)
}

impl App {
    fn open(&mut self, events: &ActiveEventLoop) -> Result<()> {
        let size = LogicalSize::new(self.size.0, self.size.1);
        let attributes = Window::default_attributes().with_title("Otter Post").with_inner_size(size);
        let window = Rc::new(events.create_window(attributes)?);
        let problem = |problem: softbuffer::SoftBufferError| anyhow::anyhow!("no picture can be shown: {problem}");
        let context = Context::new(events.owned_display_handle()).map_err(problem)?;
        let surface = Surface::new(&context, window.clone()).map_err(problem)?;
        self.view.set_scale(window.scale_factor() as f32);
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
        if let Err(problem) = self.view.resize(self.size) {
            self.failed = Some(problem);
        }
        let _ = self.adapter.resized(size.width, size.height);
        let (width, height) = self.view.size();
        self.game.set_view((width as u32, height as u32));
    }

    /// Plays what is due; whether a picture is wanted before long.
    fn play(&mut self, events: &ActiveEventLoop) {
        let now = self.adapter.now();
        if let Some(script) = &mut self.script {
            if let Err(problem) = script.play(now, |line| self.game.line(line)) {
                self.fail(events, problem.into());
                return;
            }
            if script.next().is_none() {
                self.script = None;
                self.game.remark("the tape is over");
            }
        }
        self.ask_pads();
        if self.reread.take_if(|due| *due <= Instant::now()).is_some() {
            let text = profile_file::text(self.profile.as_deref());
            self.game.retune(text.map_err(|problem| format!("{problem:#}")));
        }
        self.game.labels.clone_from(self.adapter.labels());
        self.game.play(now);
    }

    /// What the pads did up to now; it is played in the step that follows.
    fn ask_pads(&mut self) {
        let Some(pads) = &mut self.pads else { return };
        let adapter = &self.adapter;
        for report in pads.poll(&mut self.devices, || adapter.now()) {
            match &report {
                Report::Came { device, name, .. } => {
                    self.plugged += 1;
                    self.game.remark(format!("{name} is plugged in"));
                    self.game.named(*device, name);
                    for misfit in pads.misfits(*device) {
                        eprintln!("{misfit}");
                        self.game.remark(misfit);
                    }
                }
                Report::Gone { .. } => self.plugged = self.plugged.saturating_sub(1),
                _ => {}
            }
            if let Some(event) = report.event() {
                self.game.feed(event);
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

    fn fail(&mut self, events: &ActiveEventLoop, problem: anyhow::Error) {
        self.failed = Some(problem);
        events.exit();
    }

    fn draw(&mut self) -> Result<()> {
        let Some(shown) = &mut self.shown else { return Ok(()) };
        self.drawn = Instant::now();
        let now = self.adapter.now();
        // How far between the last step and the next one.
        let share = (now - self.game.played()).as_secs_f32() * STEPS_A_SECOND as f32;
        let picture = self.view.picture(&self.game, now, share.clamp(0.0, 1.0));
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

    /// Whether a key is the window's own: Tab shows and hides the input view.
    fn own_key(&mut self, event: &KeyEvent) {
        let tab = event.physical_key == PhysicalKey::Code(KeyCode::Tab);
        if tab && event.state == ElementState::Pressed && !event.repeat {
            self.view.inputs = !self.view.inputs;
            self.game.set_covered(self.view.covered());
        }
    }

    /// Takes what the window said.
    fn hear(&mut self, events: &ActiveEventLoop, reports: Vec<Report>) {
        for said in reports {
            match said {
                Report::Event(event) => self.game.feed(event),
                Report::Focus(focused, at) => {
                    self.game.focus(focused, at);
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
                self.game.feed(Event { at, device, ..event });
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
            WindowEvent::KeyboardInput { event, .. } => self.own_key(event),
            WindowEvent::Resized(size) => self.resized(*size),
            WindowEvent::ScaleFactorChanged { scale_factor, .. } => {
                self.view.set_scale(*scale_factor as f32);
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
            self.game.feed(event);
        }
    }

    fn new_events(&mut self, _: &ActiveEventLoop, _: StartCause) {
        self.adapter.wakes();
    }

    fn about_to_wait(&mut self, events: &ActiveEventLoop) {
        let reports = self.adapter.waits();
        self.hear(events, reports);
        self.play(events);
        let calm = self.game.is_calm();
        let rest = if calm { CALM_FRAME } else { FRAME };
        let mut next = self.drawn + rest;
        if self.visible && next <= Instant::now() {
            if let Some(shown) = &self.shown {
                shown.window.request_redraw();
            }
            next = Instant::now() + rest;
        }
        if !calm || self.script.is_some() {
            next = next.min(Instant::now() + Duration::from_secs(1) / STEPS_A_SECOND);
        }
        if self.plugged > 0 {
            next = next.min(Instant::now() + PAD_LOOK);
        }
        if let Some(due) = self.reread {
            next = next.min(due);
        }
        // From here on it only waits.
        self.adapter.waits();
        events.set_control_flow(ControlFlow::WaitUntil(next));
    }
}
