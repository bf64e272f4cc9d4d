//! How the cost of each tool grows with its input: CPU time and memory at three sizes, and the exponent between the first and the
//! last.
//!
//! `cargo build --profile bench -p tidy-lever-cli`, then `cargo bench -p tidy-lever-benches -F measure --bench grow`, prints them. With `-- PLOT.svg` it also draws the times as a log-log plot. For each size the bench
//! starts itself again, which starts the command, so that the memory is that of one command.
#![allow(clippy::unwrap_used, reason = "a bench that can not go on panics")]

use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::Duration;

use peak_alloc::PeakAlloc;
use tidy_lever::{Linkage, Profile};
use tidy_lever_benches::chart::{Chart, Scale};

#[global_allocator]
static MEMORY: PeakAlloc = PeakAlloc;

/// The command, which lies beside the benches.
fn tidy_lever() -> Command {
    let this = std::env::current_exe().unwrap();
    let built = this.ancestors().nth(2).unwrap().join("tidy-lever").with_extension(std::env::consts::EXE_EXTENSION);
    assert!(built.exists(), "the command is not built: cargo build --profile bench -p tidy-lever-cli");
    Command::new(built)
}

/// Runs of each size; the fastest counts.
const RUNS: usize = 3;

/// What is measured: at which sizes, what a size counts, and what is run at one.
struct Axis {
    name: &'static str,
    counts: &'static str,
    sizes: [usize; 3],
    make: fn(&Place, usize) -> Vec<String>,
}

/// Where everything lies.
struct Place {
    folder: PathBuf,
    demo: String,
}

impl Place {
    fn file(&self, name: &str, text: impl FnOnce() -> String) -> String {
        let path = self.folder.join(name);
        if !path.exists() {
            std::fs::write(&path, text()).unwrap();
        }
        path.to_str().unwrap().to_owned()
    }

    /// A tape of so many hops by a model hand, each meant.
    fn hops(&self, count: usize) -> String {
        let path = self.folder.join(format!("hops-{count}.jsonl"));
        if !path.exists() {
            let mut rehearse = tidy_lever();
            rehearse.args(["rehearse", &self.demo, "hop", "--skill", "average", "--count", &count.to_string()]);
            assert!(rehearse.arg("--tape").arg(&path).stdout(Stdio::null()).status().unwrap().success());
        }
        path.to_str().unwrap().to_owned()
    }

    /// A profile of so many buttons on 48 keys.
    fn buttons(&self, count: usize) -> String {
        self.file(&format!("buttons-{count}.toml"), || {
            let letters = (b'A'..=b'Z').map(|letter| format!("Key{}", char::from(letter)));
            let keys: Vec<String> = letters
                .chain((0..10).map(|digit| format!("Digit{digit}")))
                .chain((1..=12).map(|number| format!("F{number}")))
                .collect();
            let mut text = "tidy-lever = 1\n".to_owned();
            for number in 0..count {
                let key = &keys[number % keys.len()];
                writeln!(text, "[action.post-{number}]\nkind = \"button\"\nkeys = \"{key}\"").unwrap();
            }
            text
        })
    }

    /// A tape that moves a number so many times.
    fn numbers(&self, count: usize) -> String {
        self.file(&format!("numbers-{count}.jsonl"), || {
            let mut text = "{\"tape\":\"tidy-lever\",\"version\":1}\n".to_owned();
            for number in 0..count {
                let (at, value) = (number * 1_000, 100 + number % 100);
                writeln!(text, "{{\"at\":{at},\"number\":\"hop.keep\",\"value\":\"{value}ms\"}}").unwrap();
            }
            text + &format!("{{\"at\":{},\"end\":true}}\n", count * 1_000)
        })
    }
}

fn words(all: &[&str]) -> Vec<String> {
    all.iter().map(|word| (*word).to_owned()).collect()
}

const AXES: [Axis; 9] = [
    Axis {
        name: "tune",
        counts: "attempts",
        sizes: [1_750, 7_000, 28_000],
        make: |place, size| words(&["tune", &place.demo, &place.hops(size), "--action", "hop", "--jobs", "1"]),
    },
    Axis {
        name: "rehearse one action",
        counts: "actions",
        sizes: [300, 1_000, 3_000],
        make: |place, size| words(&["rehearse", &place.buttons(size), "post-7", "--count", "20"]),
    },
    Axis {
        name: "play --json",
        counts: "attempts",
        sizes: [1_750, 7_000, 28_000],
        make: |place, size| words(&["play", "--json", &place.demo, &place.hops(size)]),
    },
    Axis {
        name: "why --json --all",
        counts: "attempts",
        sizes: [1_750, 7_000, 28_000],
        make: |place, size| words(&["why", "--json", "--all", &place.demo, &place.hops(size)]),
    },
    Axis {
        name: "play, number lines",
        counts: "lines",
        sizes: [250, 1_000, 4_000],
        make: |place, size| words(&["play", "--json", &place.demo, &place.numbers(size)]),
    },
    Axis {
        name: "draw timeline",
        counts: "attempts",
        sizes: [1_750, 7_000, 28_000],
        make: |place, size| {
            let picture = place.folder.join("hops.svg");
            words(&["draw", "timeline", &place.demo, &place.hops(size), "--replace", "-o", picture.to_str().unwrap()])
        },
    },
    Axis {
        name: "check",
        counts: "actions",
        sizes: [2_500, 10_000, 50_000],
        make: |place, size| words(&["check", &place.buttons(size)]),
    },
    // These two are done here, not by the command.
    Axis {
        name: "Profile::from_toml",
        counts: "actions",
        sizes: [2_500, 10_000, 50_000],
        make: |place, size| words(&["--profile", &place.buttons(size)]),
    },
    Axis {
        name: "Linkage::build",
        counts: "actions",
        sizes: [2_500, 10_000, 50_000],
        make: |place, size| words(&["--linkage", &place.buttons(size)]),
    },
];

/// CPU time of this process, or of those that it started; and the largest of them, in MiB.
#[cfg(unix)]
fn used(children: bool) -> (Duration, f64) {
    use nix::sys::resource::{UsageWho, getrusage};
    let who = if children { UsageWho::RUSAGE_CHILDREN } else { UsageWho::RUSAGE_SELF };
    let usage = getrusage(who).unwrap();
    let micros = |time: nix::sys::time::TimeVal| Duration::new(time.tv_sec() as u64, time.tv_usec() as u32 * 1_000);
    (micros(usage.user_time()) + micros(usage.system_time()), usage.max_rss() as f64 / 1_024.0)
}

/// Elsewhere: the time that passed since the first call, and nothing of memory.
#[cfg(not(unix))]
fn used(_: bool) -> (Duration, f64) {
    static BEGAN: std::sync::OnceLock<std::time::Instant> = std::sync::OnceLock::new();
    (BEGAN.get_or_init(std::time::Instant::now).elapsed(), 0.0)
}

/// Runs one size, and prints what it took.
fn one(words: &[String]) {
    used(true);
    let mib = |bytes: usize| bytes as f64 / (1 << 20) as f64;
    let (took, size) = match words {
        [which, path] if which.starts_with("--") => {
            let text = std::fs::read_to_string(path).unwrap();
            let (mut before, mut held) = (used(false).0, MEMORY.current_usage());
            let profile = Profile::from_toml(&text).unwrap();
            if which == "--linkage" {
                (before, held) = (used(false).0, MEMORY.current_usage());
                let linkage = Linkage::build(&profile).unwrap();
                let size = mib(MEMORY.current_usage() - held);
                let took = used(false).0 - before;
                drop(linkage);
                (took, size)
            } else {
                (used(false).0 - before, mib(MEMORY.current_usage() - held))
            }
        }
        _ => {
            let done = tidy_lever().args(words).stdout(Stdio::null()).stderr(Stdio::null()).status();
            assert!(done.unwrap().success(), "{words:?}");
            used(true)
        }
    };
    println!("{} {size}", took.as_secs_f64());
}

fn main() {
    let words: Vec<String> = std::env::args().skip(1).filter(|word| word != "--bench").collect();
    if words.first().is_some_and(|word| word == "--one") {
        return one(&words[1..]);
    }
    let (plots, wanted): (Vec<&String>, Vec<&String>) = words.iter().partition(|word| word.ends_with(".svg"));
    let folder = tempfile::tempdir().unwrap();
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../demo/otter-post.toml");
    let place = Place { folder: folder.path().to_owned(), demo: demo.to_str().unwrap().to_owned() };
    println!("{:<22}{:>10}{:>12}{:>12}{:>10}   CPU time", "", "size", "CPU", "memory", "exponent");
    let mut curves: Vec<(&str, Vec<(f64, f64)>)> = Vec::new();
    for axis in AXES.iter().filter(|axis| wanted.is_empty() || wanted.iter().any(|word| axis.name.contains(*word))) {
        let mut points: Vec<(f64, f64)> = Vec::new();
        for size in axis.sizes {
            let made = (axis.make)(&place, size);
            let runs = (0..RUNS).map(|_| {
                let this = std::env::current_exe().unwrap();
                let told = Command::new(this).arg("--one").args(&made).output().unwrap();
                let told = String::from_utf8(told.stdout).unwrap();
                let (took, memory) = told.trim().split_once(' ').unwrap();
                (took.parse::<f64>().unwrap(), memory.parse::<f64>().unwrap())
            });
            let (took, memory) = runs.min_by(|one, other| one.0.total_cmp(&other.0)).unwrap();
            points.push((size as f64, took));
            let exponent = match &points[..] {
                [(first, began), .., (last, ended)] if points.len() == axis.sizes.len() => {
                    format!("{:.2}", (ended / began.max(1e-3)).ln() / (last / first).ln())
                }
                _ => String::new(),
            };
            let name = if points.len() == 1 { axis.name } else { "" };
            println!("{name:<22}{size:>10}{:>10.0} ms{memory:>8.1} MiB{exponent:>10}   {}", took * 1e3, axis.counts);
        }
        let drawn = points.iter().map(|(size, took)| (*size, (took * 1e3).max(1.0)));
        curves.push((axis.name, drawn.collect()));
    }
    if let [file] = plots[..] {
        let chart = Chart {
            caption: "CPU time of each tool, by how much it is given",
            height: 560,
            x: Scale { says: "attempts, lines or actions", range: 200.0..100_000.0 },
            y: Scale { says: "ms", range: 5.0..20_000.0 },
        };
        chart.draw(file, &curves).unwrap();
    }
}
