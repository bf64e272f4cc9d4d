//! What a page's scripts may ask: for tests, and for whoever is curious.
#![allow(unreachable_pub, reason = "they are reached from JavaScript")]

use serde_json::{Map, Value};
use wasm_bindgen::prelude::wasm_bindgen;

use super::{replay, with};

/// The lines that the game has said of itself since they were asked for last, as the program prints them.
#[wasm_bindgen]
pub fn lines() -> String {
    with(|page| page.lines.borrow_mut().drain(..).map(|line| line + "\n").collect()).unwrap_or_default()
}

/// The tape of the last five minutes.
#[wasm_bindgen]
pub fn tape() -> String {
    with(|page| page.tape()).unwrap_or_default()
}

/// The files that the tape names, as a JSON object of texts.
#[wasm_bindgen]
pub fn files() -> String {
    let files = with(|page| page.files.all()).unwrap_or_default();
    Value::Object(files.into_iter().map(|(name, text)| (name, Value::String(text))).collect::<Map<_, _>>()).to_string()
}

/// How many events came too late for their moment.
#[wasm_bindgen]
pub fn late() -> f64 {
    with(|page| page.late()).unwrap_or_default() as f64
}

/// What a tape leaves behind on a profile: the state's hash in hexadecimal, and how much happened; or what is wrong.
#[wasm_bindgen]
pub fn replayed(profile: &str, tape: &str) -> String {
    match replay::replay(profile, tape) {
        Ok((hash, happened)) => format!("{hash:016x} {happened}"),
        Err(problem) => problem,
    }
}
