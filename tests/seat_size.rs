//! Promise: a seat of the demo takes the memory that its `Capacity` says, and little else.
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

use tidy_lever::seat::Capacity;
use tidy_lever::{Linkage, Moment, Profile};

#[global_allocator]
static COUNTING: dhat::Alloc = dhat::Alloc;

#[test]
fn a_seat_of_the_demo_takes_its_room_and_less_than_52_kib_beside() {
    let text = include_str!("../demo/otter-post.toml");
    let linkage = Linkage::build(&Profile::from_toml(text).unwrap()).unwrap();
    let _profiler = dhat::Profiler::builder().testing().build();
    let bytes = |room: Capacity| {
        let before = dhat::HeapStats::get().curr_bytes;
        let seat = linkage.seat_with(Moment::ZERO, room).unwrap();
        dhat::HeapStats::get().curr_bytes - before + size_of_val(&seat)
    };
    let (whole, none) = (bytes(Capacity::default()), bytes(Capacity::default().waiting(0).history(0)));
    let [queue, history] = [1_024 * 24, 256 * 56];
    assert_eq!(whole - none, queue + history);
    assert!(none < 52 * 1_024, "{none} bytes");
}
