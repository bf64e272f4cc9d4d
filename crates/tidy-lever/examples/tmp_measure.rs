//! x
use std::time::Instant;
use tidy_lever::profile::{numbers, with_number};
use tidy_lever::remap::Remap;
use tidy_lever::{Linkage, Moment, Profile};
fn main() {
    let text = std::fs::read_to_string("demo/otter-post.toml").unwrap();
    let n = 200;
    let time = |name: &str, f: &mut dyn FnMut()| {
        let t = Instant::now();
        for _ in 0..n {
            f();
        }
        println!("{name}: {:.1} us", t.elapsed().as_secs_f64() * 1e6 / n as f64);
    };
    let path = numbers(&text).unwrap().into_iter().find(|n| n.path == "hop.keep").unwrap();
    time("numbers", &mut || {
        numbers(&text).unwrap();
    });
    time("with_number", &mut || {
        with_number(&text, &path.path, "120ms").unwrap();
    });
    time("from_toml", &mut || {
        Profile::from_toml(&text).unwrap();
    });
    let profile = Profile::from_toml(&text).unwrap();
    time("build", &mut || {
        Linkage::build(&profile).unwrap();
    });
    let remap = Remap::new();
    time("over", &mut || {
        remap.over(&profile).unwrap();
    });
    let a = Linkage::build(&profile).unwrap();
    let b = Linkage::build(&Profile::from_toml(&with_number(&text, "hop.keep", "121ms").unwrap()).unwrap()).unwrap();
    let mut seat =
        a.seat_with(Moment::ZERO, tidy_lever::seat::Room::default().with_history(1024).with_devices(64)).unwrap();
    let mut k = false;
    time("relink", &mut || {
        seat.relink(if k { &a } else { &b }, &mut []);
        k = !k;
    });
}
