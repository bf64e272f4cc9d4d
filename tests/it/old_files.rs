//! Promise: old files stay readable. Profiles, player's files and tapes of `tests/old` are read as ever and play to the same.
//!
//! `REWRITE=1` writes what comes of them again.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

use tidy_lever::remap::Remap;
use tidy_lever::tape::{Deck, LineKind, OutputLine, Reader};
use tidy_lever::{Bookmark, Moment, Seat};

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

/// What comes of a tape: for each seat, a line for each thing that happens.
fn out(folder: &Path, tape: &Path, remap: &Remap) -> String {
    let mut reader = Reader::new(fs::File::open(tape).map(std::io::BufReader::new).unwrap()).unwrap();
    let mut deck = Deck::new(reader.header()).profile(read(&folder.join("profile.toml"))).remap(remap.clone());
    let first = deck.laid().unwrap().linkage;
    let mut seats: BTreeMap<u32, (Seat, Bookmark)> = BTreeMap::new();
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
        let (seat, bookmark) = seats.entry(line.seat).or_insert_with(|| {
            let seat = first.seat(Moment::ZERO);
            (seat.clone(), seat.bookmark())
        });
        if let Some(laid) = deck.after(&line, |file| Ok(read(&folder.join(file)))).unwrap() {
            seat.advance(line.at);
            tell(line.seat, seat, bookmark);
            seat.relink(&laid.linkage, &mut [bookmark]);
        }
        // What lies in a gap may not be played before the gap's own line.
        for (number, (seat, bookmark)) in &mut seats {
            if seat.waiting().waiting > 200 {
                seat.advance(Moment::from_micros(line.at.as_micros().saturating_sub(1)));
                tell(*number, seat, bookmark);
            }
            if *number == line.seat {
                deck.put(&line, seat).unwrap_or_else(|error| panic!("{}: {error}", tape.display()));
            }
        }
        if matches!(line.kind, LineKind::End) {
            for (number, (seat, bookmark)) in &mut seats {
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
    assert!(
        wrong.is_empty(),
        "these play to something else; if that is meant, REWRITE=1 writes them again: {wrong:#?}"
    );
}
