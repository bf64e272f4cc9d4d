//! Two machines play one match over a link that loses a fifth of all packets and delays another fifth, so that they come in any
//! order. Each plays on without waiting: what the other player did comes late, so that player's seat is rolled back and played
//! again. In the end both machines have the same to the bit.
//!
//! `cargo run --example rollback`

use std::collections::BTreeMap;
use std::error::Error;
use std::time::Duration;

use tidy_lever::event::{Input, Spread};
use tidy_lever::profile::{Action, Legs, Profile};
use tidy_lever::seat::Saved;
use tidy_lever::{Control, Device, Fact, Linkage, Moment, Seat, SeatInput};

/// Frames of the match, and how many a machine may be ahead of what it knows of the other player.
const FRAMES: u64 = 600;
const AHEAD: u64 = 20;

/// What one player did in one frame: how long after its beginning in µs, and what.
type Frame = Vec<(u16, SeatInput)>;

/// One of the two machines: it has the seats of both players, and what it knows of each player's frames.
struct Machine {
    own: usize,
    seats: [Seat; 2],
    known: [BTreeMap<u64, Frame>; 2],
    /// Each seat as it was before each of the last frames.
    saved: [BTreeMap<u64, Saved>; 2],
    frame: u64,
    /// The first frame that the other machine may not have yet.
    wanted: u64,
    rollbacks: u64,
    farthest: u64,
}

impl Machine {
    fn new(linkage: &Linkage, own: usize) -> Machine {
        let seats = [linkage.seat(Moment::ZERO), linkage.seat(Moment::ZERO)];
        let (known, saved) = Default::default();
        Machine { own, seats, known, saved, frame: 0, wanted: 0, rollbacks: 0, farthest: 0 }
    }

    /// The first frame of the other player that is not known.
    fn missing(&self) -> u64 {
        let known = &self.known[1 - self.own];
        (0..).find(|frame| !known.contains_key(frame)).unwrap_or(0)
    }

    /// Plays one frame of one player; what is not known counts as nothing done.
    fn play(&mut self, player: usize, frame: u64) -> Result<(), Box<dyn Error>> {
        let seat = &mut self.seats[player];
        self.saved[player].insert(frame, seat.saved(&[]));
        self.saved[player].retain(|old, _| old + AHEAD >= frame);
        for (after, input) in self.known[player].get(&frame).into_iter().flatten() {
            seat.apply(Moment::of_tick(frame, 60) + Duration::from_micros(u64::from(*after)), *input)?;
        }
        seat.advance(Moment::of_tick(frame + 1, 60));
        Ok(())
    }

    /// Plays the next frame of both, with what its own player did.
    fn step(&mut self, own: Frame) -> Result<(), Box<dyn Error>> {
        self.known[self.own].insert(self.frame, own);
        for player in [0, 1] {
            self.play(player, self.frame)?;
        }
        self.frame += 1;
        Ok(())
    }

    /// A packet: up to where the other player's frames are known, and all own frames that the other machine may not have yet.
    fn packet(&self, linkage: &Linkage) -> Result<Vec<u8>, Box<dyn Error>> {
        let mut packet = Vec::new();
        packet.extend(self.missing().to_le_bytes());
        packet.extend(self.wanted.to_le_bytes());
        for frame in self.known[self.own].range(self.wanted..).map(|(_, frame)| frame) {
            packet.push(u8::try_from(frame.len())?);
            for (after, input) in frame {
                let bytes = input.to_bytes(linkage)?;
                packet.extend(after.to_le_bytes());
                packet.push(bytes.len() as u8);
                packet.extend(&*bytes);
            }
        }
        Ok(packet)
    }

    /// Takes a packet of the other machine, and plays again what it changes.
    fn hear(&mut self, linkage: &Linkage, packet: &[u8]) -> Result<(), Box<dyn Error>> {
        let mut rest = packet;
        let mut take = |count: usize| {
            let (taken, left) = rest.split_at_checked(count).ok_or("the packet is cut")?;
            rest = left;
            Ok::<&[u8], &str>(taken)
        };
        self.wanted = self.wanted.max(u64::from_le_bytes(take(8)?.try_into()?));
        let mut number = u64::from_le_bytes(take(8)?.try_into()?);
        let other = 1 - self.own;
        let mut changed = self.frame;
        while let Ok([count]) = take(1) {
            let mut frame = Frame::new();
            for _ in 0..*count {
                let after = u16::from_le_bytes(take(2)?.try_into()?);
                let [len] = take(1)? else { break };
                frame.push((after, SeatInput::from_bytes(linkage, take(usize::from(*len))?)?));
            }
            // Repeats say nothing new.
            self.known[other].entry(number).or_insert_with(|| {
                changed = changed.min(number);
                frame
            });
            number += 1;
        }
        if changed < self.frame {
            let saved = self.saved[other].get(&changed).ok_or("that frame is too old")?;
            self.seats[other].restore(saved, &mut [])?;
            (changed..self.frame).try_for_each(|frame| self.play(other, frame))?;
            self.rollbacks += 1;
            self.farthest = self.farthest.max(self.frame - changed);
        }
        Ok(())
    }
}

/// What a player's hands do in a frame, and what the game tells of their otter.
fn hands(dice: &mut fastrand::Rng, linkage: &Linkage) -> Result<Frame, Box<dyn Error>> {
    let (grounded, keys): (Fact, _) = (linkage.find("grounded")?, ["Space", "KeyA", "KeyD"]);
    let mut frame = Frame::new();
    for _ in 0..dice.usize(0..3) {
        let control: Control = format!("keys:{}", keys[dice.usize(..keys.len())]).parse()?;
        let input = Input::Level { control, value: f32::from(dice.u8(0..2)) };
        frame.push((dice.u16(0..16_000), SeatInput::Event { device: Device::default(), input, spread: Spread::NONE }));
    }
    if dice.u8(0..6) == 0 {
        frame.push((dice.u16(0..16_000), SeatInput::Fact { fact: grounded, value: dice.bool().into() }));
    }
    Ok(frame)
}

fn main() -> Result<(), Box<dyn Error>> {
    let profile = Profile::new("Rollback")
        .fact("grounded", true)
        .action(Action::stick("steer").keys(Legs::cross("KeyW", "KeyA", "KeyS", "KeyD")))
        .action(Action::button("hop").keys("Space").when("grounded within 90ms").keep("150ms"));
    let linkage = Linkage::build(&profile)?;
    let mut machines = [Machine::new(&linkage, 0), Machine::new(&linkage, 1)];
    let mut dice = fastrand::Rng::with_seed(7);
    // Packets under way: when each arrives, to whom, and its number.
    let mut link: Vec<(u64, usize, u64, Vec<u8>)> = Vec::new();
    let (mut sent, mut lost, mut disordered, mut newest) = (0, 0, 0, [0; 2]);
    for now in 0.. {
        for (own, machine) in machines.iter_mut().enumerate() {
            if machine.frame < FRAMES && machine.frame < machine.missing() + AHEAD {
                machine.step(hands(&mut dice, &linkage)?)?;
            }
            sent += 1;
            match dice.u8(0..10) {
                0 | 1 => lost += 1,
                slow => {
                    let delay = if slow < 4 { dice.u64(4..12) } else { 3 };
                    link.push((now + delay, 1 - own, sent, machine.packet(&linkage)?));
                }
            }
        }
        for (_, to, number, packet) in link.extract_if(.., |packet| packet.0 <= now) {
            disordered += u64::from(number < newest[to]);
            newest[to] = newest[to].max(number);
            machines[to].hear(&linkage, &packet)?;
        }
        if machines.iter().all(|machine| machine.frame == FRAMES && machine.missing() == FRAMES) {
            break;
        }
    }
    println!("{FRAMES} frames: {sent} packets, {lost} lost, {disordered} out of order");
    for (own, machine) in machines.iter().enumerate() {
        let (rollbacks, farthest) = (machine.rollbacks, machine.farthest);
        println!("machine {}: rolled back {rollbacks} times, by {farthest} frames at most", own + 1);
        for (player, seat) in machine.seats.iter().enumerate() {
            println!("  player {}: state {:016x}", player + 1, seat.state_hash());
        }
    }
    let [one, two] = machines.map(|machine| machine.seats.map(|seat| seat.state_hash()));
    println!("the same: {}", if one == two { "yes" } else { "no" });
    Ok(())
}
