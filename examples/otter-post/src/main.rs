//! Otter Post: a small game that plays on Tidy Lever, in a window or on a page.
//!
//! ```text
//!   desktop (window, pad, tape) ─┐
//!                                ├──▶ game (seats, hands) ──▶ world ──▶ view
//!   page (browser) ──────────────┘      ▲ tuning, menu, player
//! ```

mod camera;
mod game;
mod hands;
mod menu;
mod player;
mod recorder;
mod report;
mod town;
mod tuning;
mod view;
mod world;

#[cfg(not(target_arch = "wasm32"))]
mod desktop;
#[cfg(target_arch = "wasm32")]
mod page;

#[cfg(not(target_arch = "wasm32"))]
fn main() -> std::process::ExitCode {
    desktop::main()
}

#[cfg(target_arch = "wasm32")]
fn main() {
    page::main();
}
