//! The page as its players have it: opened in a browser, moved by real events, read by what it says of itself.
#![allow(unreachable_pub, dead_code, clippy::unwrap_used, reason = "shared by tests that each need a part of it")]

mod browser;
#[path = "../common/display.rs"]
mod display;
mod server;

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use base64::Engine;
use serde_json::{Value, json};
use tidy_lever::adapter::{Conformance, Report};
use tidy_lever::tape::{Line, LineKind};
use tidy_lever::{Control, Device, Event, Seat, What};

pub use browser::Browser;
pub use display::is_here;

/// How long something may take to be seen on a busy machine.
const PATIENCE: Duration = Duration::from_secs(20);

/// The page that was built; without it, or without a browser, the test skips itself aloud.
pub fn built() -> Option<PathBuf> {
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/web");
    if web.join("index.html").is_file() {
        return is_here("chromium", &["--version"]).then_some(web);
    }
    let missing = "there is no page in target/web; run `cargo page build`";
    assert!(std::env::var_os("TIDY_LEVER_NO_SKIPS").is_none(), "{missing}, and nothing may be skipped");
    eprintln!("SKIPPED: {missing}, so the page is not tested");
    None
}

/// What a page is shown on.
#[derive(Clone, Copy, Debug)]
pub enum Screen {
    /// A desktop's, 1280 by 800, with keys and a mouse.
    Desktop,
    /// A telephone's, 390 by 844, touched by fingers.
    Phone,
}

/// A page that plays.
pub struct Page {
    pub browser: Browser,
    /// All lines so far.
    pub heard: Vec<Value>,
    /// How many of them were waited for, or passed.
    passed: usize,
    fingers: BTreeMap<u32, (f64, f64)>,
}

impl Page {
    pub fn open(screen: Screen) -> Option<Page> {
        Page::open_in(Browser::open, screen, "")
    }

    /// `before` is a script that runs before the page's own.
    pub fn open_in(open: impl FnOnce(&[&Path]) -> Browser, screen: Screen, before: &str) -> Option<Page> {
        let home = server::serve(built()?);
        let mut browser = open(&[]);
        let (width, height, ratio, touch) = match screen {
            Screen::Desktop => (1280, 800, 1, false),
            Screen::Phone => (390, 844, 3, true),
        };
        let metrics = json!({ "width": width, "height": height, "deviceScaleFactor": ratio, "mobile": touch });
        browser.call("Emulation.setDeviceMetricsOverride", metrics);
        browser.call("Emulation.setTouchEmulationEnabled", json!({ "enabled": touch, "maxTouchPoints": 5 }));
        browser.call("Emulation.setFocusEmulationEnabled", json!({ "enabled": true }));
        browser.call("Page.addScriptToEvaluateOnNewDocument", json!({ "source": before }));
        browser.call("Page.navigate", json!({ "url": home }));
        let mut page = Page { browser, heard: Vec::new(), passed: 0, fingers: BTreeMap::new() };
        page.begins();
        Some(page)
    }

    /// Waits for the first picture.
    fn begins(&mut self) {
        self.until("a first picture", |page| page.run("document.body?.dataset.firstPicture ?? null").is_string());
        self.hears(&json!({ "game": "ready" }));
    }

    pub fn reload(&mut self) {
        self.run("delete document.body.dataset.firstPicture");
        self.browser.call("Page.reload", json!({}));
        self.begins();
    }

    pub fn run(&mut self, expression: &str) -> Value {
        self.browser.run(expression)
    }

    /// Waits until something is so.
    pub fn until(&mut self, what: &str, mut is_so: impl FnMut(&mut Page) -> bool) {
        let until = Instant::now() + PATIENCE;
        while !is_so(self) {
            let told: String = self.heard.iter().map(|line| format!("{line}\n")).collect();
            assert!(Instant::now() < until, "never seen: {what}; the page said {:?}\n{told}", self.browser.heard);
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    fn take(&mut self) {
        let text = self.run("window.otterPost?.lines() ?? ''");
        let lines = text.as_str().unwrap_or_default().lines();
        self.heard.extend(lines.map(|line| serde_json::from_str::<Value>(line).unwrap()));
    }

    /// Waits for a line that has all of this, after those that were waited for before, and returns it.
    pub fn hears(&mut self, wanted: &Value) -> Value {
        let mut found = None;
        self.until(&wanted.to_string(), |page| {
            page.take();
            found = page.heard[page.passed..].iter().position(|line| has(line, wanted));
            found.is_some()
        });
        self.passed += found.unwrap() + 1;
        self.heard[self.passed - 1].clone()
    }

    /// Lets the page play on for so long.
    pub fn wait(&mut self, millis: u64) {
        std::thread::sleep(Duration::from_millis(millis));
        self.take();
    }

    /// How often an action was pulled so far.
    pub fn pulls(&mut self, action: &str) -> usize {
        self.take();
        self.heard.iter().filter(|line| line["action"] == action && line["what"] == "pulled").count()
    }

    /// Where the first otter was told of last.
    pub fn otter(&mut self) -> Value {
        self.take();
        self.heard.iter().rev().find(|line| line["game"] == "otter").cloned().unwrap()
    }

    /// A key's event at a time of the wall clock in seconds: `down`, `up` or `again`.
    pub fn key_at(code: &str, letter: &str, sort: &str, at: Option<f64>) -> (&'static str, Value) {
        let virtual_key = match (code, letter.chars().next()) {
            ("Space", _) => 32,
            ("Enter", _) => 13,
            ("ShiftLeft", _) => 16,
            ("MetaLeft", _) => 91,
            ("ArrowRight", _) => 39,
            ("ArrowDown", _) => 40,
            (_, letter) => letter.map_or(0, |letter| letter.to_ascii_uppercase() as u32),
        };
        let kind = if sort == "up" { "keyUp" } else { "keyDown" };
        let mut event = json!({ "type": kind, "code": code, "key": letter, "windowsVirtualKeyCode": virtual_key, "autoRepeat": sort == "again" });
        if let Some(at) = at {
            event["timestamp"] = json!(at);
        }
        if kind == "keyDown" && letter.chars().count() == 1 {
            event["text"] = json!(letter);
        }
        ("Input.dispatchKeyEvent", event)
    }

    pub fn key(&mut self, code: &str, letter: &str, sort: &str) {
        let (method, event) = Page::key_at(code, letter, sort, None);
        self.browser.call(method, event);
    }

    /// Taps a key as quickly as a hand can: a worn key's bounces are closer together than that, and not heard.
    pub fn tap(&mut self, code: &str, letter: &str) {
        for way in ["down", "up"] {
            self.key(code, letter, way);
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    pub fn mouse(&mut self, kind: &str, (x, y): (f64, f64), button: &str) {
        let buttons = match (kind, button) {
            ("mousePressed", "left") => 1,
            ("mousePressed", "right") => 2,
            _ => 0,
        };
        let event = json!({ "type": kind, "x": x, "y": y, "button": button, "buttons": buttons, "clickCount": 1, "pointerType": "mouse" });
        self.browser.call("Input.dispatchMouseEvent", event);
    }

    /// What changes is told alone; no finger at all stands for all of them.
    fn touch(&mut self, kind: &str, finger: Option<(u32, (f64, f64))>) {
        let points: Vec<Value> = finger.iter().map(|(id, (x, y))| json!({ "id": id, "x": x, "y": y })).collect();
        self.browser.call("Input.dispatchTouchEvent", json!({ "type": kind, "touchPoints": points }));
    }

    /// A finger goes down, or moves.
    pub fn finger(&mut self, id: u32, place: (f64, f64)) {
        let kind = if self.fingers.insert(id, place).is_none() { "touchStart" } else { "touchMove" };
        self.touch(kind, Some((id, place)));
    }

    pub fn lift(&mut self, id: u32) {
        let place = self.fingers.remove(&id).unwrap();
        self.touch("touchEnd", Some((id, place)));
    }

    /// The system takes all fingers away.
    pub fn cancel(&mut self) {
        self.fingers.clear();
        self.touch("touchCancel", None);
    }

    /// The middle of an element.
    pub fn middle(&mut self, id: &str) -> (f64, f64) {
        let rect = self.run(&format!("document.getElementById('{id}').getBoundingClientRect().toJSON()"));
        let [x, y, wide, high] = ["x", "y", "width", "height"].map(|edge| rect[edge].as_f64().unwrap());
        (x + wide / 2.0, y + high / 2.0)
    }

    /// A place on the canvas, in pixels from one of its lower corners, as shares of its shorter side.
    pub fn patch(&mut self, right: bool, (x, y): (f64, f64)) -> (f64, f64) {
        let rect = self.run("(() => { const r = document.getElementById('game').getBoundingClientRect(); return [r.left, r.top, r.width, r.height] })()");
        let [left, top, wide, high] = [0, 1, 2, 3].map(|place: usize| rect[place].as_f64().unwrap());
        let unit = wide.min(high);
        (if right { left + wide - x * unit } else { left + x * unit }, top + high - y * unit)
    }

    /// The tape of the round so far, once the page has played all that was fed.
    pub fn tape(&mut self) -> String {
        self.wait(100);
        self.run("otterPost.tape()").as_str().unwrap().to_owned()
    }

    /// What was played is what its tape gives, pull for pull, and kept every adapter's rules. The tape names no other files.
    pub fn replays(&mut self) {
        let tape = self.tape();
        self.take();
        let pulled = |line: &&Value| line["what"] == "pulled";
        let told: Vec<(u64, String)> = self.heard.iter().filter(pulled).map(pull).collect();
        let (mut conformance, mut again, mut devices) = (Conformance::new(), Vec::new(), Vec::new());
        let profile = include_str!("../../../../demo/otter-post.toml");
        let end = crate::replay::play(profile, &tape, |line, seat| match line {
            Some(line) => {
                if let Some(report) = reported(line, &mut devices) {
                    conformance.show(&report, line.at);
                }
                // Passing a gap is a step of its own.
                if matches!(line.kind, LineKind::Skip { .. }) {
                    again.extend(pulls(seat));
                }
            }
            None => again.extend(pulls(seat)),
        });
        end.unwrap();
        assert_eq!(told, again, "{tape}");
        assert_eq!(conformance.breaches(), [], "{tape}");
    }

    /// Keeps a picture of what is seen, where pictures are wanted.
    pub fn picture(&mut self, name: &str) {
        let Some(folder) = std::env::var_os("TIDY_LEVER_PICTURES") else { return };
        std::thread::sleep(Duration::from_millis(200));
        let answer = self.browser.call("Page.captureScreenshot", json!({ "format": "png" }));
        let bytes = base64::engine::general_purpose::STANDARD.decode(answer["data"].as_str().unwrap()).unwrap();
        std::fs::write(Path::new(&folder).join(format!("{name}.png")), bytes).unwrap();
    }
}

fn pull(line: &Value) -> (u64, String) {
    (line["at"].as_u64().unwrap(), line["action"].as_str().unwrap().to_owned())
}

fn pulls(seat: &Seat) -> Vec<(u64, String)> {
    let reading = seat.latest();
    let pulled = reading.happenings().filter(|happening| happening.what() == What::Pulled);
    pulled.map(|pull| (pull.at().as_micros(), pull.action(seat.linkage()).unwrap().to_owned())).collect()
}

/// What the adapter reported, as a line of the tape has it.
fn reported(line: &Line, devices: &mut Vec<String>) -> Option<Report> {
    let mut number = |id: &String| {
        let place = devices.iter().position(|known| known == id).unwrap_or_else(|| {
            devices.push(id.clone());
            devices.len() - 1
        });
        Device::new(place).unwrap()
    };
    let control = |name: &String| name.parse::<Control>().unwrap();
    Some(match &line.kind {
        LineKind::Level { device, control: name, value } => {
            Report::Event(Event::level(line.at, number(device), control(name), *value as f32))
        }
        LineKind::Pair { device, control: name, x, y } => {
            Report::Event(Event::pair(line.at, number(device), control(name), *x as f32, *y as f32))
        }
        LineKind::Touch { device, finger, phase, x, y } => {
            Report::Event(Event::touch(line.at, number(device), *finger, *phase, *x as f32, *y as f32))
        }
        LineKind::Plugged { device, plugged } => Report::Event(Event::plugged(line.at, number(device), *plugged)),
        LineKind::Focus(focused) => Report::Focus(*focused, line.at),
        LineKind::View { size: [width, height], .. } => Report::View(*width, *height),
        _ => return None,
    })
}

/// Whether a line has every key of another with the same value.
pub fn has(line: &Value, wanted: &Value) -> bool {
    wanted.as_object().unwrap().iter().all(|(key, value)| line.get(key) == Some(value))
}
