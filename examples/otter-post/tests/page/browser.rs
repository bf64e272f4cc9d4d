//! A headless browser with one page, told what to do over its debugging pipe.

use std::io::{BufRead, BufReader, Write};
use std::os::unix::process::CommandExt;
use std::path::Path;
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::time::{Duration, Instant};

use serde_json::{Value, json};

/// How long an answer may take on a busy machine, and a whole test.
const PATIENCE: Duration = Duration::from_secs(30);
const LONGEST: Duration = Duration::from_secs(150);

/// The pipe wants the file descriptors 3 and 4, which a shell's redirections put in place.
const OPEN: &str = r#"exec chromium --headless=new --no-sandbox --disable-gpu --no-first-run --disable-background-networking \
  --disable-component-update --disable-sync --disable-quic --window-size=1280,800 --user-data-dir="$1" \
  --remote-debugging-pipe about:blank 3<&0 4>&1 0</dev/null 1>/dev/null 2>&1"#;

/// A browser, which ends with all that it started.
pub struct Browser {
    child: Child,
    to: ChildStdin,
    said: Receiver<Value>,
    last: u64,
    session: Option<String>,
    /// What pages said of themselves: errors, mostly.
    pub heard: Vec<Value>,
    _folder: tempfile::TempDir,
}

impl Browser {
    /// Opens one; a browser that hangs as it begins is ended, and another is tried.
    pub fn open(around: &[&Path]) -> Browser {
        let tried = (0..3).find_map(|_| Browser::attempt(around));
        tried.expect("the browser doesn't begin, three times")
    }

    /// `around`: a command that the browser's own is handed to.
    fn attempt(around: &[&Path]) -> Option<Browser> {
        let folder = tempfile::tempdir().unwrap();
        let shell = [Path::new("sh"), Path::new("-c"), Path::new(OPEN), Path::new("sh"), folder.path()];
        let mut words = around.iter().copied().chain(shell);
        let mut child = Command::new(words.next().unwrap())
            .args(words)
            .process_group(0)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let (to, out) = (child.stdin.take().unwrap(), child.stdout.take().unwrap());
        let (heard, said) = channel();
        std::thread::spawn(move || {
            for message in BufReader::new(out).split(0).map_while(Result::ok) {
                let Ok(message) = serde_json::from_slice(&message) else { continue };
                if heard.send(message).is_err() {
                    return;
                }
            }
        });
        let group = child.id();
        std::thread::spawn(move || {
            std::thread::sleep(LONGEST);
            end(group);
        });
        let mut browser = Browser { child, to, said, last: 0, session: None, heard: Vec::new(), _folder: folder };
        let targets = browser.ask("Target.getTargets", json!({}))?;
        let page =
            targets["targetInfos"].as_array()?.iter().find(|target| target["type"] == "page")?["targetId"].clone();
        browser.attach(&page)?;
        Some(browser)
    }

    fn attach(&mut self, page: &Value) -> Option<()> {
        self.session = None;
        let session = self.ask("Target.attachToTarget", json!({ "targetId": page, "flatten": true }))?;
        self.session = session["sessionId"].as_str().map(str::to_owned);
        self.ask("Page.enable", json!({}))?;
        self.ask("Runtime.enable", json!({}))?;
        Some(())
    }

    /// Says what is to be done, without waiting for it.
    fn say(&mut self, method: &str, params: Value) -> Option<u64> {
        self.last += 1;
        let mut message = json!({ "id": self.last, "method": method, "params": params });
        if let Some(session) = &self.session {
            message["sessionId"] = json!(session);
        }
        self.to.write_all(format!("{message}\0").as_bytes()).ok()?;
        Some(self.last)
    }

    /// Waits for an answer.
    fn answer(&mut self, number: u64, method: &str) -> Option<Value> {
        let until = Instant::now() + PATIENCE;
        loop {
            let message = self.said.recv_timeout(until.saturating_duration_since(Instant::now())).ok()?;
            if message["id"] != number {
                if message["method"] == "Runtime.exceptionThrown" || message["method"] == "Runtime.consoleAPICalled" {
                    self.heard.push(message);
                }
                continue;
            }
            assert!(message["error"].is_null(), "{method}: {message}");
            return Some(message["result"].clone());
        }
    }

    fn ask(&mut self, method: &str, params: Value) -> Option<Value> {
        let number = self.say(method, params)?;
        self.answer(number, method)
    }

    /// Does something, and waits until it is done.
    pub fn call(&mut self, method: &str, params: Value) -> Value {
        let heard = format!("{:?}", self.heard);
        self.ask(method, params).unwrap_or_else(|| panic!("the browser doesn't answer {method}; it said {heard}"))
    }

    /// Does several things at once, as a hand does.
    pub fn call_all(&mut self, all: &[(&str, Value)]) {
        let numbers: Vec<u64> = all.iter().map(|(method, params)| self.say(method, params.clone()).unwrap()).collect();
        for (number, (method, _)) in numbers.into_iter().zip(all) {
            self.answer(number, method).unwrap_or_else(|| panic!("the browser doesn't answer {method}"));
        }
    }

    /// The value of a script's expression, once it is there.
    pub fn run(&mut self, expression: &str) -> Value {
        let asked = json!({ "expression": expression, "returnByValue": true, "awaitPromise": true });
        let answer = self.call("Runtime.evaluate", asked);
        assert!(answer["exceptionDetails"].is_null(), "{expression}: {}", answer["exceptionDetails"]);
        answer["result"]["value"].clone()
    }

    /// Another tab comes to the front, and then this one again.
    pub fn behind_another_tab(&mut self, meanwhile: impl FnOnce(&mut Browser)) {
        let session = self.session.take();
        let other = self.call("Target.createTarget", json!({ "url": "about:blank" }))["targetId"].clone();
        self.call("Target.activateTarget", json!({ "targetId": other }));
        self.session = session.clone();
        meanwhile(self);
        self.session = None;
        self.call("Target.closeTarget", json!({ "targetId": other }));
        self.session = session;
        self.call("Page.bringToFront", json!({}));
    }
}

/// Ends a group of processes: a browser's helpers outlive it when it is ended alone.
fn end(group: u32) {
    let _ = Command::new("sh").args(["-c", &format!("kill -s KILL -- -{group}")]).stderr(Stdio::null()).status();
}

impl Drop for Browser {
    fn drop(&mut self) {
        end(self.child.id());
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
