//! Promise: old files stay readable. Profiles, player's files and tapes of `tests/old` are read as ever and play to the same.
//!
//! `REWRITE=1` writes what comes of them anew.

use std::fs;
use std::path::{Path, PathBuf};

use tidy_lever::profile::Movable;
use tidy_lever::remap::Remap;
use tidy_lever::tape::{LineKind, OutputLine, Reader, Replayer};
use tidy_lever::{Bookmark, Linkage, Moment, Seat};

fn read(path: &Path) -> String {
    fs::read_to_string(path).unwrap_or_else(|error| panic!("{}: {error}", path.display()))
}

/// The files of a folder with this ending, in order of their names.
fn files(folder: &Path, ending: &str) -> Vec<PathBuf> {
    let entries = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let mut files: Vec<PathBuf> = entries.filter(|path| path.extension().is_some_and(|own| own == ending)).collect();
    files.sort();
    files
}

fn stem(path: &Path) -> &str {
    path.file_stem().unwrap().to_str().unwrap()
}

/// A profile with a player's file over it, as a tape moves them.
struct Played {
    profile: Movable,
    remap: Remap,
}

impl Played {
    fn linkage(&self) -> Linkage {
        self.remap.over(self.profile.profile()).unwrap().linkage
    }

    /// What there is after a line that changes any of it.
    fn after(&mut self, kind: &LineKind, folder: &Path) -> Option<Linkage> {
        match kind {
            LineKind::Remap(file) => self.remap = Remap::from_toml(&read(&folder.join(file))).unwrap(),
            LineKind::Profile(file) => self.profile = Movable::from_toml(&read(&folder.join(file))).unwrap(),
            LineKind::Number { path, value } => self.profile.set(path, value).unwrap(),
            _ => return None,
        }
        Some(self.linkage())
    }
}

/// What comes of a tape: for each seat, a line for each thing that happens.
fn out(folder: &Path, tape: &Path, remap: &Remap) -> String {
    let profile = Movable::from_toml(&read(&folder.join("profile.toml"))).unwrap();
    let mut played = Played { profile, remap: remap.clone() };
    let first = played.linkage();
    let mut reader = Reader::new(fs::File::open(tape).map(std::io::BufReader::new).unwrap()).unwrap();
    let header = reader.header().clone();
    let mut seats: Vec<(u32, Replayer, Seat, Bookmark)> = Vec::new();
    let mut out = String::new();
    let mut tell = |number: u32, seat: &Seat, bookmark: &mut Bookmark| {
        let reading = seat.read(bookmark);
        assert_eq!(reading.lost(), 0);
        for line in reading.happenings().filter_map(|one| OutputLine::of(one, number, seat.linkage(), true)) {
            out += &line.json();
            out += "\n";
        }
    };
    for line in reader.by_ref() {
        let line = line.unwrap_or_else(|error| panic!("{}: {error}", tape.display()));
        if !seats.iter().any(|(number, ..)| *number == line.seat) {
            let seat = first.seat(Moment::ZERO);
            seats.push((line.seat, Replayer::new(&header).for_seat(line.seat), seat.clone(), seat.bookmark()));
        }
        let relinked = played.after(&line.kind, folder);
        for (number, replayer, seat, bookmark) in &mut seats {
            if let Some(linkage) = relinked.as_ref().filter(|_| *number == line.seat) {
                seat.advance(line.at);
                tell(*number, seat, bookmark);
                seat.relink(linkage, &mut [bookmark]);
            }
            // What lies in a gap may not be played before the gap's own line.
            if seat.waiting().waiting > 200 {
                seat.advance(Moment::from_micros(line.at.as_micros().saturating_sub(1)));
                tell(*number, seat, bookmark);
            }
            replayer.put(&line, seat).unwrap_or_else(|error| panic!("{}: {error}", tape.display()));
        }
        if matches!(line.kind, LineKind::End) {
            for (number, _, seat, bookmark) in &mut seats {
                seat.advance(line.at);
                tell(*number, seat, bookmark);
            }
        }
    }
    out
}

#[test]
fn old_profiles_players_files_and_tapes_play_to_what_they_played_to() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("old");
    let folders: Vec<PathBuf> =
        fs::read_dir(root).unwrap().map(|entry| entry.unwrap().path()).filter(|path| path.is_dir()).collect();
    let (mut wrong, mut count) = (Vec::new(), 0);
    for folder in &folders {
        let remaps = files(folder, "toml").into_iter().filter(|path| stem(path) != "profile");
        let remaps = remaps.map(|path| (format!(".{}", stem(&path)), Remap::from_toml(&read(&path)).unwrap()));
        let remaps: Vec<(String, Remap)> = [(String::new(), Remap::new())].into_iter().chain(remaps).collect();
        for tape in files(folder, "jsonl") {
            for (over, remap) in &remaps {
                let path = folder.join(format!("{}{over}.out", stem(&tape)));
                let came = out(folder, &tape, remap);
                count += 1;
                if std::env::var_os("REWRITE").is_some() {
                    fs::write(&path, &came).unwrap();
                } else if came != read(&path) {
                    wrong.push(path);
                }
            }
        }
    }
    assert!(count > 60, "{count} outputs");
    assert!(wrong.is_empty(), "these play to something else; if that is meant, REWRITE=1 writes them anew: {wrong:#?}");
}
