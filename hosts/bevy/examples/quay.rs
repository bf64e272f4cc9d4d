//! Two players on a quay, without a window: the keyboard and a pad join, walk and hop for two seconds.
//!
//! ```sh
//! cargo run --manifest-path hosts/Cargo.toml -p tidy-lever-bevy --example quay
//! ```

use std::time::Duration;

use bevy_app::{App, FixedUpdate, TaskPoolPlugin, Update};
use bevy_asset::AssetPlugin;
use bevy_ecs::prelude::*;
use bevy_input::InputPlugin;
use bevy_time::{Fixed, Real, Time, TimePlugin, TimeUpdateStrategy};
use tidy_lever::adapter::{Devices, Report};
use tidy_lever::{Control, Device, Event, Moment};
use tidy_lever_bevy::{Adapter, Joined, Levers, LeversApp, Players, Pulled, Seat, TidyLeverPlugin};

tidy_lever::levers! {
    struct Pim { steer: Stick, hop: Button, grounded: Fact }
}

/// An otter's body: metres along the quay, and above it.
#[derive(Component, Default)]
struct Body {
    x: f32,
    y: f32,
    rise: f32,
}

/// Joined players get a body.
fn welcome(mut joined: MessageReader<Joined>, mut commands: Commands) {
    for player in joined.read() {
        println!("player {} joins", player.number);
        commands.entity(player.entity).insert(Body::default());
    }
}

/// One fixed step of all otters.
fn move_otters(mut levers: Levers<Pim>, mut otters: Query<(&Seat, &mut Body)>, step: Res<Time<Fixed>>) {
    let span = step.delta_secs();
    for (seat, mut body) in &mut otters {
        let Some((pim, now)) = levers.read(seat) else { continue };
        body.x += now.stick(pim.steer).xy().0 * 3.4 * span;
        if now.button(pim.hop).pulled() {
            body.rise = 5.4;
        }
        body.rise -= 17.0 * span;
        body.y = (body.y + body.rise * span).max(0.0);
        levers.tell(seat, pim.grounded, body.y == 0.0);
    }
}

/// What fired, with its moment: `hop` only where the ground was there, or had just gone.
fn print(mut pulled: MessageReader<Pulled>, players: Res<Players>) {
    for pull in pulled.read() {
        let name = players.profile().and_then(|profile| pull.what.action(&profile.linkage)).unwrap_or_default();
        println!("{:7.3} s  player {}: {name}", pull.what.at().as_secs_f64(), pull.number);
    }
}

/// Hands, in place of devices: seconds, device, control, level.
fn hands() -> Vec<(f64, Device, &'static str, f32)> {
    let (keys, pad) = (Devices::keyboard(), Device::default());
    vec![
        (0.10, keys, "keys:Enter", 1.0),
        (0.20, pad, "pad:start", 1.0),
        (0.30, keys, "keys:KeyD", 1.0),
        (0.50, pad, "pad:south", 1.0),
        (0.58, pad, "pad:south", 0.0),
        // Before the landing: kept by the input buffer.
        (1.08, pad, "pad:south", 1.0),
        (1.20, keys, "keys:Space", 1.0),
        (1.60, keys, "keys:KeyD", 0.0),
    ]
}

fn main() {
    let mut app = App::new();
    let join = ["pad:start", "keys:Enter"].into_iter().filter_map(|name| name.parse::<Control>().ok());
    app.add_plugins((
        TaskPoolPlugin::default(),
        AssetPlugin { file_path: concat!(env!("CARGO_MANIFEST_DIR"), "/assets").into(), ..AssetPlugin::default() },
        InputPlugin,
        TimePlugin,
        TidyLeverPlugin::new("quay.lever.toml").join_by(2, join),
    ))
    .insert_resource(TimeUpdateStrategy::ManualDuration(Duration::from_micros(16_667)))
    .add_levers::<Pim>()
    .add_systems(Update, (welcome, print))
    .add_systems(FixedUpdate, move_otters);
    while app.world().resource::<Players>().profile().is_none() {
        app.update();
    }
    let begin = Moment::ZERO + app.world().resource::<Time<Real>>().elapsed();
    for (seconds, device, control, level) in hands() {
        let at = begin + Duration::from_secs_f64(seconds);
        while Moment::ZERO + app.world().resource::<Time<Real>>().elapsed() < at {
            app.update();
        }
        if let Ok(control) = control.parse() {
            let event = Event::level(at, device, control, level);
            app.world_mut().resource_mut::<Adapter>().report(Report::Event(event));
        }
    }
    (0..60).for_each(|_| app.update());
    let world = app.world_mut();
    for (seat, body) in world.query::<(&Seat, &Body)>().iter(world) {
        println!("player {} is at {:.1} m", seat.number(), body.x);
    }
}
