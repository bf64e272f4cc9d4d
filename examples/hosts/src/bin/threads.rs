//! Input on one thread, the game on another: a slow picture delays no step, and no event loses its moment.
//!
//! ```text
//!   window thread                                    game thread
//!   events ─▶ adapter ─▶ reports ──────────────────▶ seat.feed
//!             "all is told up to 1.204 s" ──────────▶ seat.advance, 120 steps a second
//!   picture ◀────────────── where Pim is ◀────────── after each step
//! ```
//!
//! The game never steps beyond what the window thread has told: else events that waited for a slow picture would come late.
//!
//! ```text
//! cargo run -p tidy-lever-hosts --bin threads -- [MILLISECONDS]
//! ```
//! Each picture takes that long (0 by default). Arrow keys walk (twice quickly: a dash), the space bar hops, Escape ends.

use std::num::NonZeroU32;
use std::rc::Rc;
use std::sync::mpsc::{Receiver, Sender, channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;
use std::time::{Duration, Instant};

use softbuffer::{Context, Surface};
use tidy_lever::{Linkage, Moment};
use tidy_lever_hosts::{Pim, SIZE, tell};
use tidy_lever_winit::{Adapter, Report};
use winit::application::ApplicationHandler;
use winit::dpi::PhysicalSize;
use winit::event::{StartCause, WindowEvent};
use winit::event_loop::{ActiveEventLoop, ControlFlow, EventLoop, OwnedDisplayHandle};
use winit::keyboard::{KeyCode, PhysicalKey};
use winit::window::{Window, WindowId};

/// Steps of the game in a second.
const STEPS: u64 = 120;

/// What the window thread tells the game.
enum Told {
    Report(Report),
    /// All that happened up to this moment was told.
    UpTo(Moment),
}

/// The game: it ends once the window is gone.
fn game(linkage: &Linkage, mut pim: Pim, told: &Receiver<Told>, shown: &Mutex<Pim>) {
    let (mut seat, mut step) = (linkage.seat(Moment::ZERO), 1);
    for told in told {
        let taken = match told {
            Told::Report(Report::Event(event)) => seat.feed(event).map_err(|error| error.to_string()),
            Told::Report(Report::Focus(focused, at)) => seat.focus_at(focused, at).map_err(|error| error.to_string()),
            Told::Report(Report::Gap(gap)) => {
                seat.skip(gap.to);
                Ok(())
            }
            Told::Report(_) => Ok(()),
            Told::UpTo(now) => {
                while Moment::of_tick(step, STEPS as u32) <= now {
                    seat.advance(Moment::of_tick(step, STEPS as u32));
                    pim.step(&seat, 1.0 / STEPS as f32);
                    step += 1;
                }
                *shown.lock().unwrap_or_else(PoisonError::into_inner) = pim;
                Ok(())
            }
        };
        if let Err(problem) = taken {
            eprintln!("{problem}");
        }
    }
    let stats = seat.stats();
    tell(&format!(r#"{{"late":{},"steps":{step}}}"#, stats.late));
}

struct Shown {
    window: Rc<Window>,
    surface: Surface<OwnedDisplayHandle, Rc<Window>>,
}

struct App {
    adapter: Adapter,
    game: Sender<Told>,
    pim: Arc<Mutex<Pim>>,
    /// How long a picture takes.
    slow: Duration,
    shown: Option<Shown>,
    drawn: Instant,
    display: OwnedDisplayHandle,
}

impl App {
    fn hand_over(&self, events: &ActiveEventLoop, reports: Vec<Report>) {
        for report in reports {
            match report {
                Report::Close => events.exit(),
                Report::Focus(true, _) => tell(r#"{"host":"focus"}"#),
                _ => {}
            }
            // The game only ends after this.
            let _ = self.game.send(Told::Report(report));
        }
    }

    fn draw(&mut self) -> Result<(), Box<dyn std::error::Error>> {
        self.drawn = Instant::now();
        let Some(Shown { window, surface }) = &mut self.shown else { return Ok(()) };
        let PhysicalSize { width, height } = window.inner_size();
        let (Some(wide), Some(tall)) = (NonZeroU32::new(width), NonZeroU32::new(height)) else { return Ok(()) };
        surface.resize(wide, tall)?;
        let mut pixels = surface.buffer_mut()?;
        let pim = *self.pim.lock().unwrap_or_else(PoisonError::into_inner);
        pim.draw(&mut pixels, width as usize);
        thread::sleep(self.slow);
        Ok(pixels.present()?)
    }
}

impl ApplicationHandler for App {
    fn resumed(&mut self, events: &ActiveEventLoop) {
        let size = PhysicalSize::new(SIZE.0 as u32, SIZE.1 as u32);
        let attributes = Window::default_attributes().with_title("Quay, on two threads").with_inner_size(size);
        let opened = || -> Result<Shown, Box<dyn std::error::Error>> {
            let window = Rc::new(events.create_window(attributes)?);
            let surface = Surface::new(&Context::new(self.display.clone())?, window.clone())?;
            Ok(Shown { window, surface })
        };
        match opened() {
            Ok(shown) => self.shown = Some(shown),
            Err(problem) => {
                eprintln!("{problem}");
                events.exit();
            }
        }
        tell(r#"{"host":"ready"}"#);
    }

    fn new_events(&mut self, _: &ActiveEventLoop, _: StartCause) {
        self.adapter.wakes();
    }

    fn window_event(&mut self, events: &ActiveEventLoop, _: WindowId, event: WindowEvent) {
        let reports = self.adapter.window(&event);
        self.hand_over(events, reports);
        if let WindowEvent::KeyboardInput { event, .. } = &event
            && event.physical_key == PhysicalKey::Code(KeyCode::Escape)
        {
            events.exit();
        }
        if event == WindowEvent::RedrawRequested
            && let Err(problem) = self.draw()
        {
            eprintln!("{problem}");
        }
    }

    fn about_to_wait(&mut self, events: &ActiveEventLoop) {
        let reports = self.adapter.waits();
        self.hand_over(events, reports);
        let _ = self.game.send(Told::UpTo(self.adapter.told_up_to()));
        if let (Some(shown), true) = (&self.shown, self.drawn.elapsed() >= Duration::from_millis(16)) {
            shown.window.request_redraw();
        }
        events.set_control_flow(ControlFlow::WaitUntil(Instant::now() + Duration::from_secs(1) / STEPS as u32));
    }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let slow = std::env::args().nth(1).map_or(Ok(0), |millis| millis.parse())?;
    let (linkage, pim) = Pim::new()?;
    let (game, told) = channel();
    let shown = Arc::new(Mutex::new(pim));
    let its = shown.clone();
    let playing = thread::spawn(move || self::game(&linkage, pim, &told, &its));
    let events = EventLoop::new()?;
    let mut app = App {
        adapter: Adapter::new(),
        game,
        pim: shown,
        slow: Duration::from_millis(slow),
        shown: None,
        drawn: Instant::now(),
        display: events.owned_display_handle(),
    };
    events.run_app(&mut app)?;
    drop(app);
    playing.join().map_err(|_| "the game's thread ended with a panic")?;
    Ok(())
}
