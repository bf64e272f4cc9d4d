//! Promise: an app of the engine plays on its messages as a seat does: through pauses, reloads and pads that come and go.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use std::path::{Path, PathBuf};
use std::time::Duration;

use bevy_app::{App, FixedUpdate, TaskPoolPlugin, Update};
use bevy_asset::io::memory::{Dir, MemoryAssetReader};
use bevy_asset::io::{AssetSourceBuilder, AssetSourceId};
use bevy_asset::{AssetApp, AssetPlugin, AssetServer};
use bevy_ecs::prelude::*;
use bevy_input::gamepad::{
    GamepadAxis, GamepadButton, GamepadConnection, GamepadConnectionEvent, RawGamepadAxisChangedEvent,
    RawGamepadButtonChangedEvent, RawGamepadEvent,
};
use bevy_input::keyboard::{Key, KeyCode, KeyboardInput};
use bevy_input::{ButtonState, InputPlugin};
use bevy_time::{Real, Time, TimePlugin, TimeUpdateStrategy, Virtual};
use bevy_window::{CursorMoved, WindowFocused, WindowResized};
use tidy_lever::adapter::{Conformance, Devices, Report};
use tidy_lever::event::Input;
use tidy_lever::{Control, Event, Moment};
use tidy_lever_bevy::{
    Adapter, Advance, Ended, Joined, Levers, LeversApp, Players, Problem, Pulled, Seat, TidyLeverPlugin, any_pulled,
};

const PROFILE: &str = "tidy-lever = 1
[facts]
grounded = true
[action.steer]
kind = \"stick\"
keys = { up = \"KeyW\", left = \"KeyA\", down = \"KeyS\", right = \"KeyD\" }
pad = [\"left-stick\", \"dpad\"]
pad_shape = { dead = 0.15 }
[action.hop]
kind = \"button\"
keys = \"Space\"
pad = \"south\"
when = \"grounded\"
keep = \"150ms\"
[action.dash]
kind = \"button\"
cue = \"steer twice within 240ms\"
";

tidy_lever::levers! {
    struct Pim { steer: Stick, hop: Button, dash: Button, grounded: Fact }
}

/// What a system saw of its player, run by run.
#[derive(Component, Debug, Default)]
struct Seen {
    hops: u32,
    dashes: u32,
    at: Vec<Moment>,
    x: f32,
    runs: u32,
}

#[derive(Component)]
struct Body {
    on_ground: bool,
}

#[derive(Default, Resource)]
struct Happened(Vec<(&'static str, usize, u64)>);

fn look(mut levers: Levers<Pim>, mut players: Query<(&Seat, &mut Seen)>) {
    for (seat, mut seen) in &mut players {
        let Some((pim, now)) = levers.read(seat) else { continue };
        seen.runs += 1;
        seen.hops += now.button(pim.hop).pulls();
        seen.dashes += now.button(pim.dash).pulls();
        seen.x = now.stick(pim.steer).xy().0;
        let own = now.happenings().filter(|one| one.what() == tidy_lever::What::Pulled).map(|one| one.at());
        seen.at.extend(own.collect::<Vec<_>>());
    }
}

fn note(mut happened: ResMut<Happened>, mut pulled: MessageReader<Pulled>, mut ended: MessageReader<Ended>) {
    pulled.read().for_each(|own| happened.0.push(("pulled", own.number, own.what.at().as_micros())));
    ended.read().for_each(|own| happened.0.push(("ended", own.number, own.what.at().as_micros())));
}

struct Game {
    app: App,
    dir: Dir,
    window: Entity,
}

impl Game {
    fn new(rate: u32, plugin: TidyLeverPlugin) -> Game {
        let (dir, mut app) = (Dir::new(PathBuf::new()), App::new());
        dir.insert_asset_text(Path::new("quay.lever.toml"), PROFILE);
        let root = dir.clone();
        let source = AssetSourceBuilder::new(move || Box::new(MemoryAssetReader { root: root.clone() }));
        app.register_asset_source(AssetSourceId::Default, source)
            .add_plugins((TaskPoolPlugin::default(), AssetPlugin::default(), InputPlugin, TimePlugin))
            .insert_resource(TimeUpdateStrategy::ManualDuration(Duration::from_micros(1_000_000 / u64::from(rate))))
            .add_plugins(plugin)
            .init_resource::<Happened>()
            .add_levers::<Pim>()
            .add_systems(Update, note)
            .add_observer(|joined: On<Joined>, mut commands: Commands| {
                commands.entity(joined.entity).insert((Seen::default(), Body { on_ground: true }));
            });
        let window = app.world_mut().spawn_empty().id();
        Game { app, dir, window }
    }

    /// One that has its profile.
    fn loaded(rate: u32, plugin: TidyLeverPlugin) -> Game {
        let mut game = Game::new(rate, plugin);
        game.until(|game| game.players().profile().is_some());
        game.app.update();
        game
    }

    fn until(&mut self, mut done: impl FnMut(&mut Game) -> bool) {
        for _ in 0..2_000 {
            if done(self) {
                return;
            }
            self.app.update();
            std::thread::yield_now();
        }
        panic!("it does not come to that");
    }

    fn players(&self) -> &Players {
        self.app.world().resource::<Players>()
    }

    fn key(&mut self, code: KeyCode, down: bool) {
        let state = if down { ButtonState::Pressed } else { ButtonState::Released };
        let (logical_key, window) = (Key::Character("x".into()), self.window);
        let input = KeyboardInput { key_code: code, logical_key, state, text: None, repeat: false, window };
        self.app.world_mut().write_message(input);
    }

    fn pad(&mut self, event: impl Into<RawGamepadEvent>) {
        self.app.world_mut().write_message(event.into());
    }

    fn plug(&mut self, gamepad: Entity, is_there: bool) {
        let connection = match is_there {
            true => GamepadConnection::Connected { name: "Plain pad".into(), vendor_id: None, product_id: None },
            false => GamepadConnection::Disconnected,
        };
        self.pad(RawGamepadEvent::Connection(GamepadConnectionEvent { gamepad, connection }));
    }

    fn axis(&mut self, gamepad: Entity, axis: GamepadAxis, value: f32) {
        self.pad(RawGamepadEvent::Axis(RawGamepadAxisChangedEvent { gamepad, axis, value }));
    }

    fn button(&mut self, gamepad: Entity, button: GamepadButton, down: bool) {
        let value = f32::from(u8::from(down));
        self.pad(RawGamepadEvent::Button(RawGamepadButtonChangedEvent { gamepad, button, value }));
    }

    fn seen(&mut self) -> Vec<(usize, u32, u32, f32)> {
        let world = self.app.world_mut();
        let mut all: Vec<_> = world
            .query::<(&Seat, &Seen)>()
            .iter(world)
            .map(|(seat, own)| (seat.number(), own.hops, own.dashes, own.x))
            .collect();
        all.sort_by_key(|own| own.0);
        all
    }

    fn frames(&mut self, count: usize) {
        (0..count).for_each(|_| self.app.update());
    }

    fn now(&self) -> Moment {
        Moment::ZERO + self.app.world().resource::<Time<Real>>().elapsed()
    }
}

/// Where an event says that a stick is.
fn place(report: &Report) -> Option<(f32, f32)> {
    match report {
        Report::Event(Event { input: Input::Pair { control: Control::LEFT_STICK, x, y }, .. }) => Some((*x, *y)),
        _ => None,
    }
}

fn alone() -> TidyLeverPlugin {
    TidyLeverPlugin::new("quay.lever.toml")
}

#[test]
fn a_player_walks_dashes_and_hops_and_every_reader_gets_each_pull_once() {
    for advance in [Advance::EachFixedStep, Advance::EachFrame] {
        // Frames of 144 a second run several times between two fixed steps of 64 a second, or the other way round at 20.
        for rate in [20, 60, 144] {
            let mut game = Game::loaded(rate, alone().advance(advance));
            game.app.add_systems(Update, look);
            game.frames(2);
            game.key(KeyCode::KeyD, true);
            game.frames(8);
            assert_eq!(game.seen(), [(1, 0, 0, 1.0)], "{advance:?} at {rate}");
            game.key(KeyCode::KeyD, false);
            game.key(KeyCode::Space, true);
            game.key(KeyCode::Space, false);
            game.frames(2);
            // Two taps of 12 ms within one frame of the slowest game are two.
            for _ in 0..2 {
                game.key(KeyCode::KeyA, true);
                game.key(KeyCode::KeyA, false);
                game.frames(if rate == 20 { 0 } else { 3 });
            }
            game.frames(8);
            assert_eq!(game.seen(), [(1, 1, 1, 0.0)], "{advance:?} at {rate}");
        }
    }
}

#[test]
fn events_with_times_of_their_own_pull_at_the_same_moments_at_any_rate() {
    let at = |ms: u64| Moment::from_millis(ms);
    let tape = [
        (503, "KeyD", true),
        (561, "KeyD", false),
        (640, "KeyD", true),
        (700, "KeyD", false),
        (777, "Space", true),
        (830, "Space", false),
    ];
    let played = |rate: u32, advance: Advance| {
        let mut game = Game::loaded(rate, alone().advance(advance));
        game.app.add_systems(Update, look);
        let begin = game.now();
        let mut rest = tape.iter().peekable();
        while game.now() < begin + Duration::from_millis(1_500) {
            let until = game.now() + Duration::from_micros(1_000_000 / u64::from(rate));
            while let Some((ms, key, down)) = rest.next_if(|own| begin + Duration::from_millis(own.0) <= until) {
                let key: Control = format!("keys:{key}").parse().unwrap();
                let when = begin + Duration::from_millis(*ms);
                let event = Event::button(when, Devices::keyboard(), key, *down);
                game.app.world_mut().resource_mut::<Adapter>().report(Report::Event(event));
            }
            game.app.update();
        }
        let world = game.app.world_mut();
        let seen = world.query::<&Seen>().single(world).unwrap();
        seen.at.iter().map(|own| at(0) + (*own - begin)).collect::<Vec<_>>()
    };
    for (rate, advance) in [
        (30, Advance::EachFixedStep),
        (60, Advance::EachFixedStep),
        (144, Advance::EachFixedStep),
        (60, Advance::EachFrame),
    ] {
        assert_eq!(played(rate, advance), [at(640), at(777)], "{rate}, {advance:?}");
    }
}

#[test]
fn a_hop_that_was_buffered_before_a_pause_comes_after_it() {
    let mut game = Game::loaded(60, alone());
    game.app.add_systems(FixedUpdate, look).tell_from::<Pim, Body, bool>(|pim, body| (pim.grounded, body.on_ground));
    let body = |game: &mut Game, on_ground| {
        let world = game.app.world_mut();
        world.query::<&mut Body>().single_mut(world).unwrap().on_ground = on_ground;
    };
    game.frames(3);
    body(&mut game, false);
    game.frames(4);
    game.key(KeyCode::Space, true);
    game.frames(3);
    assert_eq!(game.seen()[0].1, 0, "in the air");
    game.app.world_mut().resource_mut::<Time<Virtual>>().pause();
    // Far longer than the buffer of 150 ms; a menu hears keys meanwhile.
    game.frames(60);
    game.key(KeyCode::KeyD, true);
    game.frames(2);
    let (steer, own) = {
        let players = game.players();
        let linkage = &players.profile().unwrap().linkage;
        (linkage.find::<tidy_lever::Stick>("steer").unwrap(), players)
    };
    let number = own.entity_of(1).unwrap();
    let seat = *game.app.world().get::<Seat>(number).unwrap();
    assert_eq!(game.players().seat(&seat).unwrap().stick(steer).xy().0, 1.0, "heard in the pause");
    assert_eq!(game.seen()[0].1, 0);
    game.app.world_mut().resource_mut::<Time<Virtual>>().unpause();
    game.frames(2);
    body(&mut game, true);
    game.frames(4);
    assert_eq!(game.seen()[0].1, 1, "kept through the pause, and gone off on landing");
}

#[test]
fn a_profile_is_reloaded_with_a_key_held_and_one_with_faults_never_plays() {
    let mut game = Game::loaded(60, alone());
    game.app.add_systems(Update, look);
    game.key(KeyCode::KeyD, true);
    game.frames(3);
    let reload = |game: &mut Game, text: &str| {
        game.dir.insert_asset_text(Path::new("quay.lever.toml"), text);
        game.app.world().resource::<AssetServer>().reload("quay.lever.toml");
    };
    let problem = |game: &mut Game| game.app.world().resource::<Problem>().0.clone();
    for (broken, told) in [
        (
            PROFILE.replace("\"Space\"", "\"Spaec\""),
            "line 11, column 8: action.hop.keys: `keys` has no control `Spaec`",
        ),
        // Good, but without what the game's levers name.
        (PROFILE.replace("action.hop", "action.leap"), "the profile has no `hop`"),
    ] {
        let before = game.players().changes();
        reload(&mut game, &broken);
        game.until(|game| problem(game).is_some_and(|problem| problem.contains(told)));
        assert_eq!(game.players().changes(), before);
        game.app.world_mut().resource_mut::<Problem>().0 = None;
        let hops = game.seen()[0].1;
        game.key(KeyCode::Space, true);
        game.frames(3);
        game.key(KeyCode::Space, false);
        game.frames(3);
        assert_eq!(game.seen(), [(1, hops + 1, 0, 1.0)], "the last good one plays on, and the key is held");
    }
    let hops = game.seen()[0].1;
    reload(&mut game, &PROFILE.replace("\"Space\"", "\"KeyJ\""));
    let before = game.players().changes();
    game.until(|game| game.players().changes() > before);
    game.key(KeyCode::KeyJ, true);
    game.frames(4);
    assert_eq!(game.seen(), [(1, hops + 1, 0, 1.0)], "KeyJ hops, and KeyD stayed down");
}

#[test]
fn pads_join_leave_and_come_back_with_their_axes_together() {
    let join = "pad:start".parse().unwrap();
    let mut game = Game::loaded(60, alone().join_by(2, [join, "keys:Enter".parse().unwrap()]));
    game.app.add_systems(Update, look);
    let pads = [game.app.world_mut().spawn_empty().id(), game.app.world_mut().spawn_empty().id()];
    pads.iter().for_each(|pad| game.plug(*pad, true));
    game.button(pads[1], GamepadButton::South, true);
    game.frames(2);
    assert_eq!(game.seen(), [], "nobody has it");
    game.button(pads[1], GamepadButton::South, false);
    game.button(pads[1], GamepadButton::Start, true);
    game.frames(2);
    game.key(KeyCode::Enter, true);
    game.frames(2);
    assert_eq!(game.seen(), [(1, 0, 0, 0.0), (2, 0, 0, 0.0)]);
    // From right to up, axis by axis: the stick was never in the middle, nor in the corner.
    game.axis(pads[1], GamepadAxis::LeftStickX, 1.0);
    game.frames(2);
    assert_eq!(game.seen()[0].3, 1.0);
    game.axis(pads[1], GamepadAxis::LeftStickX, 0.0);
    game.axis(pads[1], GamepadAxis::LeftStickY, 1.0);
    game.frames(1);
    let places: Vec<_> = game.app.world().resource::<Adapter>().reports().iter().filter_map(place).collect();
    assert_eq!(places, [(0.0, 1.0)]);
    game.plug(pads[1], false);
    game.frames(2);
    assert_eq!(game.seen()[0].3, 0.0, "unplugged, it lets go");
    game.plug(pads[1], true);
    game.button(pads[1], GamepadButton::South, true);
    game.frames(2);
    assert_eq!(game.seen()[0].1, 1, "it moves its player again");
    let entity = game.players().entity_of(1).unwrap();
    game.app.world_mut().despawn(entity);
    game.frames(2);
    assert_eq!(game.seen().len(), 1);
    assert!(game.app.world().resource::<Happened>().0.iter().any(|own| own.0 == "pulled" && own.1 == 1));
}

#[test]
fn the_adapter_keeps_the_rules_of_all_adapters() {
    let mut game = Game::loaded(60, alone());
    let (window, pad) = (game.window, game.app.world_mut().spawn_empty().id());
    let mut conformance = Conformance::new();
    let mut frame = |game: &mut Game| {
        game.app.update();
        let now = game.now();
        let reports = game.app.world().resource::<Adapter>().reports().to_vec();
        reports.iter().for_each(|report| conformance.show(report, now));
        reports
    };
    game.app.world_mut().write_message(WindowResized { window, width: 800.0, height: 600.0 });
    game.plug(pad, true);
    frame(&mut game);
    game.key(KeyCode::SuperLeft, true);
    game.key(KeyCode::SuperLeft, false);
    game.app.world_mut().write_message(CursorMoved {
        window,
        position: bevy_math::Vec2::new(400.0, 150.0),
        delta: None,
    });
    let reports = frame(&mut game);
    let spread: Vec<u32> = reports
        .iter()
        .filter_map(|report| match report {
            Report::Event(event) => Some(event.spread.as_micros()),
            _ => None,
        })
        .collect();
    assert!(spread.iter().all(|own| (16_000..17_000).contains(own)), "{spread:?}");
    // The key went down and up within the frame: at a quarter and at three quarters of it.
    let frame_ends = game.now();
    let before: Vec<u128> = reports
        .iter()
        .filter_map(|report| match report {
            Report::Event(event) if event.device == Devices::keyboard() => Some((frame_ends - event.at).as_millis()),
            _ => None,
        })
        .collect();
    assert_eq!(before, [12, 4]);
    for (x, y) in [(0.6, -0.8), (f32::NAN, 2.0), (0.0, 0.0)] {
        game.axis(pad, GamepadAxis::LeftStickX, x);
        game.axis(pad, GamepadAxis::LeftStickY, y);
        game.button(pad, GamepadButton::DPadUp, y > 0.0);
        game.button(pad, GamepadButton::LeftTrigger2, y > 0.0);
        frame(&mut game);
    }
    game.app.world_mut().write_message(WindowFocused { window, focused: true });
    frame(&mut game);
    game.app.world_mut().write_message(WindowFocused { window, focused: false });
    game.plug(pad, false);
    let last = frame(&mut game);
    assert!(
        matches!(
            last[..],
            [Report::Gone { .. }, Report::Focus(false, _)] | [Report::Focus(false, _), Report::Gone { .. }]
        ),
        "{last:?}"
    );
    for (control, level) in [
        ("keys:MetaLeft", 1.0),
        ("pad:left-stick.x", 0.6),
        ("pad:left-stick.down", 0.8),
        ("pad:dpad.up", 1.0),
        ("pad:left-trigger", 1.0),
    ] {
        assert!(conformance.saw(control, level), "{control}");
    }
    assert_eq!(conformance.breaches(), []);
}

#[test]
fn a_run_condition_is_true_once_for_a_pull() {
    #[derive(Default, Resource)]
    struct Runs(u32);
    let mut game = Game::loaded(60, alone());
    game.app.init_resource::<Runs>();
    game.app.add_systems(Update, (|mut runs: ResMut<Runs>| runs.0 += 1).run_if(any_pulled::<Pim, _>(|pim| pim.hop)));
    game.frames(2);
    game.key(KeyCode::Space, true);
    game.frames(6);
    assert_eq!(game.app.world().resource::<Runs>().0, 1);
}

#[test]
fn a_players_own_keys_count_at_once_are_shown_and_observers_hear_of_pulls() {
    #[derive(Default, Resource)]
    struct Heard(Vec<(Entity, bool)>);
    let mut game = Game::loaded(60, alone());
    game.app.init_resource::<Heard>().add_observer(
        |pulled: On<Pulled>, levers: Levers<Pim>, mut heard: ResMut<Heard>| {
            heard.0.push((pulled.entity, levers.handles().is_some_and(|pim| pulled.is_of(pim.hop))));
        },
    );
    let entity = game.players().entity_of(1).unwrap();
    let seat = *game.app.world().get::<Seat>(entity).unwrap();
    let remap = tidy_lever::remap::Remap::from_toml("[action.hop]\nkeys = \"KeyH\"\n").unwrap();
    game.app.world_mut().resource_mut::<Players>().set_remap(&seat, remap);
    game.frames(1);
    game.key(KeyCode::Space, true);
    game.frames(3);
    assert_eq!(game.app.world().resource::<Heard>().0, []);
    game.key(KeyCode::KeyH, true);
    game.frames(3);
    assert_eq!(game.app.world().resource::<Heard>().0, [(entity, true)]);
    // The key is labelled as this keyboard prints it.
    let labels = game.app.world().resource::<Adapter>().labels().clone();
    assert_eq!(game.players().prompts(&seat, "hop", &labels), ["X"]);
}

#[test]
fn a_game_that_stands_still_by_its_speed_is_paused_too() {
    let mut game = Game::loaded(60, alone());
    game.app.add_systems(Update, look);
    game.app.world_mut().resource_mut::<Time<Virtual>>().set_relative_speed(0.0);
    game.frames(2);
    game.key(KeyCode::KeyD, true);
    game.frames(3);
    assert_eq!(game.seen()[0].3, 1.0);
    game.app.world_mut().resource_mut::<Time<Virtual>>().set_relative_speed(0.25);
    game.key(KeyCode::KeyD, false);
    game.frames(30);
    assert_eq!(game.seen()[0].3, 0.0, "slow motion plays");
}

#[cfg(feature = "view")]
#[test]
fn inputs_are_drawn_as_an_image() {
    let mut game = Game::loaded(60, alone());
    let seat = *game.app.world().get::<Seat>(game.players().entity_of(1).unwrap()).unwrap();
    let mut image = tidy_lever_bevy::InputImage::new().unwrap();
    let mut draw = |game: &mut Game| {
        let now = game.now();
        image.look(&mut game.app.world_mut().resource_mut::<Players>(), &seat);
        let world = game.app.world();
        image.draw(world.resource::<Players>(), world.resource::<Adapter>(), &seat, now, (384, 600)).unwrap()
    };
    let rest = draw(&mut game);
    assert_eq!(rest.len(), 384 * 600 * 4);
    game.key(KeyCode::Space, true);
    game.frames(3);
    let held = draw(&mut game);
    let differ = rest.iter().zip(&held).filter(|(one, other)| one != other).count();
    assert!(differ > 1_000, "{differ}");
}
