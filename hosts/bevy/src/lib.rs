//! Tidy Lever in the engine `bevy`: a profile is an asset, a player an entity, a pull (an action firing) a message.
//!
//! Three things go wrong by default when one reads input by hand in an engine with frames. This plugin takes care of them:
//!
//! 1. **Which moment an event gets.** The engine hands over all events of a frame at once, without their times. With the frame's
//!    moment for all of them a double tap within a frame is lost. The plugin spreads them over the frame, each source for itself
//!    ([`tidy_lever::adapter::Arrivals`]). If you have events with times of their own (from `tidy-lever-pads`, say), hand them to
//!    [`Adapter::report`].
//! 2. **Which clock seats run on.** The game's clock stands still in a pause, and a press in the pause menu would wait for its end.
//!    Seats (the players' live states) run on real time. While the game's clock is paused the built-in fact `frozen` is true, so input
//!    buffers, cooldowns and gauges wait, and menus work.
//! 3. **Sticks that arrive axis by axis.** The engine tells the axes of a stick and the arms of a directional pad one by one. A
//!    stick that goes from right to up would pass a place where it never was. [`tidy_lever::adapter::Parts`] puts them together.
//!
//! And one thing to know: **each system is a reader of its own**. [`Levers::read`] gives what happened since this system read last,
//! whether it runs once a frame or once a fixed step, so no press is seen twice and none is lost. Call it once for each seat in a run.
//!
//! ```
//! use bevy_app::{App, FixedUpdate};
//! use bevy_asset::AssetPlugin;
//! use bevy_ecs::prelude::*;
//! use tidy_lever_bevy::{Levers, LeversApp, Seat, TidyLeverPlugin};
//!
//! tidy_lever::levers! {
//!     pub struct Pim { steer: Stick, hop: Button, grounded: Fact }
//! }
//!
//! #[derive(Component, Default)]
//! struct Body { x: f32, hops: u32 }
//!
//! fn move_otters(mut levers: Levers<Pim>, mut otters: Query<(&Seat, &mut Body)>) {
//!     for (seat, mut body) in &mut otters {
//!         let Some((pim, now)) = levers.read(seat) else { continue };
//!         body.x += now.stick(pim.steer).xy().0 * 0.05;
//!         if now.button(pim.hop).pulled() {
//!             body.hops += 1;
//!         }
//!         levers.tell(seat, pim.grounded, true);
//!     }
//! }
//!
//! let mut app = App::new();
//! app.add_plugins((bevy_app::TaskPoolPlugin::default(), AssetPlugin::default(), bevy_input::InputPlugin, bevy_time::TimePlugin))
//!     .add_plugins(TidyLeverPlugin::new("quay.lever.toml")) // in the folder `assets`
//!     .add_levers::<Pim>()
//!     .add_systems(FixedUpdate, move_otters);
//! ```

mod adapter;
mod happened;
mod levers;
mod players;
mod profile;
mod step;
#[cfg(feature = "view")]
mod view;

pub use adapter::Adapter;
pub use happened::{Ended, Joined, Marked, Pulled};
pub use levers::{Levers, LeversApp, any_pulled};
pub use players::{FactValue, Players, Seat};
pub use profile::{Problem, ProfileAsset, ProfileLoader};
pub use tidy_lever;
#[cfg(feature = "view")]
pub use view::InputImage;

use bevy_app::prelude::*;
use bevy_asset::prelude::*;
use bevy_ecs::prelude::*;
use bevy_input::InputSystems;
use tidy_lever::Control;

/// When seats advance.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Advance {
    /// Before each fixed step, up to its end: for games that move in `FixedUpdate`. While the game's clock is paused, once a frame.
    #[default]
    EachFixedStep,
    /// Once a frame, in `PreUpdate`: for games that move in `Update`.
    EachFrame,
}

/// What the plugin does in `PreUpdate`, and before each fixed step: systems that read levers in these schedules run after it.
#[derive(Clone, Copy, Debug, Hash, PartialEq, Eq, SystemSet)]
pub struct LeverSystems;

/// Reads devices, feeds seats, advances them, and writes what happened as messages.
#[derive(Clone, Debug)]
pub struct TidyLeverPlugin {
    path: String,
    advance: Advance,
    places: usize,
    join: Vec<Control>,
}

impl TidyLeverPlugin {
    /// Plays on the profile at this path among the assets, which ends in `.lever.toml`. One seat hears all devices, and seats advance
    /// with each fixed step, unless you say otherwise.
    pub fn new(path: impl Into<String>) -> TidyLeverPlugin {
        TidyLeverPlugin { path: path.into(), advance: Advance::default(), places: 1, join: Vec::new() }
    }

    /// When seats advance.
    pub fn advance(mut self, advance: Advance) -> TidyLeverPlugin {
        self.advance = advance;
        self
    }

    /// Nobody plays at the start: up to this many players, at most 8, join by pressing one of these controls on a device that nobody
    /// has. The keyboard brings the mouse and the touch screen with it.
    pub fn join_by(mut self, places: usize, controls: impl IntoIterator<Item = Control>) -> TidyLeverPlugin {
        self.places = places;
        self.join.extend(controls);
        self
    }
}

impl Plugin for TidyLeverPlugin {
    fn build(&self, app: &mut App) {
        app.init_asset::<ProfileAsset>().init_asset_loader::<ProfileLoader>();
        let handle = app.world().resource::<AssetServer>().load(self.path.clone());
        app.insert_resource(Players::new(handle, self.places, &self.join))
            .init_resource::<Adapter>()
            .init_resource::<Problem>()
            .add_message::<bevy_window::CursorMoved>()
            .add_message::<bevy_window::WindowFocused>()
            .add_message::<bevy_window::WindowResized>()
            .add_message::<Joined>()
            .add_message::<Pulled>()
            .add_message::<Ended>()
            .add_message::<Marked>()
            .add_observer(players::leave)
            .configure_sets(PreUpdate, LeverSystems.after(InputSystems))
            .add_systems(
                PreUpdate,
                (profile::adopt, players::relink, adapter::read, step::hear, step::pause, step::frame)
                    .chain()
                    .in_set(LeverSystems),
            )
            .add_systems(FixedPostUpdate, step::settle)
            .add_systems(PostUpdate, step::settle);
        app.insert_resource(step::Clock::new(self.advance));
        if self.advance == Advance::EachFixedStep {
            app.add_systems(FixedPreUpdate, step::fixed.in_set(LeverSystems));
        }
    }
}
