//! The game as a web page: a canvas that hears hands, the profile beside it, what is kept in the browser.
//!
//! ```text
//!   canvas ──Adapter──▶ game ──▶ view ──▶ pixels ──▶ canvas
//!   text box ──profile─▶ game ──faults──▶ text box
//! ```

mod elements;
mod exports;
mod frame;
mod replay;
mod stored;

use std::cell::RefCell;
use std::collections::VecDeque;
use std::rc::Rc;

use anyhow::Result;
use gloo_events::EventListener;
use tidy_lever::adapter::{Devices, Report as Told};
use tidy_lever::{Moment, Seat};
use tidy_lever_pads::{PadTables, Pads};
use tidy_lever_web::{Adapter, WebPads};
use wasm_bindgen::JsCast as _;

use crate::game::{Game, Setup};
use crate::player;
use crate::recorder::Tape;
use crate::report::Report;
use crate::tuning::{SHIPPED, Tuned};
use crate::view::View;
use elements::Elements;
use stored::{Files, Stored};

/// More lines than this are not kept for whoever asks for them.
const MOST_LINES: usize = 20_000;
/// The tape of the last minutes is at hand.
const KEPT: std::time::Duration = std::time::Duration::from_secs(300);

/// All that a page plays with.
struct Page {
    elements: Elements,
    adapter: Adapter,
    devices: Devices,
    pads: Pads,
    game: Game,
    view: View,
    drawn: Option<Moment>,
    /// Whether pictures are as fine as the screen. The first one is not, so that it is there sooner.
    fine: bool,
    /// The text box was changed, and is read once it rests.
    edited: Option<Moment>,
    lines: Rc<RefCell<VecDeque<String>>>,
    files: Files,
}

thread_local! {
    static PAGE: RefCell<Option<Page>> = const { RefCell::new(None) };
}

/// Does something with the page; nothing before it is there, or while it is busy.
fn with<R>(act: impl FnOnce(&mut Page) -> R) -> Option<R> {
    PAGE.with(|page| page.try_borrow_mut().ok()?.as_mut().map(act))
}

pub(crate) fn main() {
    console_error_panic_hook::set_once();
    match Page::open() {
        Ok(page) => {
            PAGE.with(|place| *place.borrow_mut() = Some(page));
            listen();
            frame::begin();
        }
        Err(problem) => elements::complain(&format!("Otter Post can't play here: {problem:#}")),
    }
}

impl Page {
    fn open() -> Result<Page> {
        let elements = Elements::find()?;
        let adapter = Adapter::new(&elements.canvas)?;
        let mut troubles = Vec::new();
        let stored = Stored::player();
        let remap = stored.read().map_or_else(Default::default, |text| {
            player::parse(&text, &format!("{} in this browser's storage", stored.name())).unwrap_or_else(|problem| {
                troubles.push(problem.to_string());
                Default::default()
            })
        });
        let mut pads = Pads::from_source(WebPads::new());
        match stored.read().map_or(Ok(PadTables::default()), |text| PadTables::from_toml(&text)) {
            Ok(tables) => pads.describe(tables),
            Err(problem) => troubles.push(problem.to_string()),
        }
        let kept = Stored::profile().read();
        let text = kept.unwrap_or_else(|| SHIPPED.to_owned());
        let (tuned, broken) = match Tuned::new(&text, &remap) {
            Ok(tuned) => (tuned, false),
            Err(_) => (Tuned::new(SHIPPED, &remap).or_else(|_| Tuned::new(SHIPPED, &Default::default()))?, true),
        };
        elements.profile.set_value(&text);
        let files = Files::default();
        let tape = Tape::new(|recorder| Ok::<_, std::convert::Infallible>(recorder.ring(KEPT)), files.clone())?;
        let lines: Rc<RefCell<VecDeque<String>>> = Rc::default();
        let said = lines.clone();
        let report = Report::new(Some(Box::new(move |line| {
            let mut lines = said.borrow_mut();
            if lines.len() == MOST_LINES {
                lines.pop_front();
            }
            lines.push_back(line.to_owned());
            true
        })));
        let setup = Setup {
            player: Some(Box::new(stored)),
            two: false,
            taped: false,
            live: true,
            touch: elements::can_be_touched(),
        };
        let mut game = Game::new(tuned, remap, setup, report, tape);
        if broken {
            game.retune(Ok(text));
        }
        // What the player's file says without effect: unknown keys, or a newer version's.
        troubles.extend(game.tuned.left_alone.iter().map(|left| format!("{}: {left}", Stored::player().name())));
        if !troubles.is_empty() {
            elements::complain(&troubles.join("\n"));
        }
        let mut view = View::new(elements.size(), false)?;
        view.on_page = true;
        view.still = elements::wants_stillness();
        let page = Page {
            elements,
            adapter,
            devices: Devices::new(),
            pads,
            game,
            view,
            drawn: None,
            fine: false,
            edited: None,
            lines,
            files,
        };
        page.show_faults();
        Ok(page)
    }

    /// Takes what hands did, and plays what is due by a moment.
    fn play(&mut self, now: Moment) {
        let mut reports = self.adapter.poll();
        let adapter = &self.adapter;
        reports.extend(self.pads.poll(&mut self.devices, || adapter.now()));
        for report in reports {
            self.hear(&report);
        }
        if self.edited.is_some_and(|since| now >= since + frame::SETTLE) {
            self.edited = None;
            self.retune();
        }
        self.game.labels = self.adapter.labels();
        self.game.play(now);
    }

    fn hear(&mut self, report: &Told) {
        if let Told::Came { device, .. } = report {
            let misfits = self.pads.misfits(*device);
            if !misfits.is_empty() {
                elements::complain(&misfits.join("\n"));
            }
        }
        if let Told::Came { device, name, .. } = report {
            self.game.named(*device, name);
        }
        match report {
            Told::Focus(focused, at) => self.game.focus(*focused, *at),
            // The game is laid out in the page's own pixels, whatever the device's are.
            Told::View(..) => self.resize(),
            Told::Came { device, name, .. } if self.pads.controls(*device).is_empty() => {
                let known = "your browser knows no layout for it; it plays if your player's file describes it";
                self.game.remark(format!("{name} is plugged in; {known}"));
            }
            Told::Came { name, .. } => self.game.remark(format!("{name} is plugged in")),
            _ => {}
        }
        if let Some(event) = report.event() {
            self.game.feed(event);
        }
    }

    fn resize(&mut self) {
        let (size, scale) = (self.elements.size(), if self.fine { self.elements.scale() } else { 1.0 });
        let finer = |side: u32| (side as f32 * scale).round() as u32;
        let pixels = (finer(size.0), finer(size.1));
        if let Err(problem) = self.view.resize(pixels) {
            elements::complain(&problem.to_string());
        }
        self.view.set_scale(scale);
        self.elements.set_pixels(pixels);
        self.game.set_view(size);
        self.game.set_covered(self.view.covered());
        self.drawn = None;
    }

    /// The text box holds another profile: the game goes over to it, or the faults stand below it.
    fn retune(&mut self) {
        let text = self.elements.profile.value();
        let kept = Stored::profile().write((text != SHIPPED).then_some(&text));
        self.game.retune(Ok(text));
        if let Err(problem) = kept {
            elements::complain(&format!("{problem}. It is active until this page is closed."));
        }
        self.show_faults();
    }

    fn show_faults(&self) {
        let note = self.game.note.as_ref().filter(|note| note.bad);
        self.elements.show_faults(note.map(|note| (note.text.as_str(), note.line)));
    }

    fn show_inputs(&mut self) {
        self.view.inputs = !self.view.inputs;
        self.game.set_covered(self.view.covered());
        self.elements.press("inputs", self.view.inputs);
    }

    /// The tape of the last minutes.
    fn tape(&self) -> String {
        let mut tape = Vec::new();
        // Memory takes whatever is written.
        let _ = self.game.tape.recorder.save_ring(&mut tape);
        String::from_utf8_lossy(&tape).into_owned()
    }

    /// How many events came too late for their moment, over all seats.
    fn late(&self) -> u64 {
        self.game.table.seats().map(|(_, seat): (_, &Seat)| seat.stats().late).sum()
    }
}

/// What the page's own buttons and its text box do.
fn listen() {
    let Some(elements) = with(|page| page.elements.clone()) else { return };
    let on = |target: &web_sys::EventTarget, name: &'static str, act: fn(&mut Page)| {
        EventListener::new(target, name, move |_| {
            with(act);
        })
        .forget();
    };
    on(&elements.profile, "input", |page| page.edited = Some(page.adapter.now()));
    on(&elements.button("inputs"), "click", Page::show_inputs);
    on(&elements.button("shipped"), "click", |page| {
        page.elements.profile.set_value(SHIPPED);
        page.retune();
    });
    on(&elements.button("tape"), "click", |page| {
        let tape = page.tape();
        elements::download("otter-post.jsonl", &tape);
        page.files.all().iter().for_each(|(name, text)| elements::download(name, text));
    });
    // A click leaves the focus on its button, where Space would press it again: keys play on. Who goes by keys stays there.
    for name in ["inputs", "shipped", "tape", "beside-button"] {
        EventListener::new(&elements.button(name), "click", move |event| {
            let by_pointer = event.dyn_ref::<web_sys::UiEvent>().is_some_and(|event| event.detail() > 0);
            if by_pointer {
                with(|page| page.elements.begin());
            }
        })
        .forget();
    }
    // A page that is hidden gets no frames: what is held goes up now.
    if let Some(window) = web_sys::window() {
        let document = window.document();
        on(&window, "blur", |page| page.play(page.adapter.now()));
        document.iter().for_each(|document| on(document, "visibilitychange", |page| page.play(page.adapter.now())));
    }
    elements.begin();
}
