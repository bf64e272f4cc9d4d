//! What a tape leaves behind: the hash of the whole state, which is the same on every machine.

use std::time::Duration;

use tidy_lever::tape::{Line, LineKind, Reader, Replayer};
use tidy_lever::{Linkage, Moment, Profile, Seat};

/// Plays a tape's first seat on a profile, and a second more; shows the seat after each line and whenever it was advanced.
///
/// # Errors
/// A sentence on what is wrong with the profile or the tape.
pub(crate) fn play(profile: &str, tape: &str, mut show: impl FnMut(Option<&Line>, &Seat)) -> Result<Seat, String> {
    let profile = Profile::from_toml(profile).map_err(|faults| faults.to_string())?;
    let linkage = Linkage::build(&profile).map_err(|faults| faults.to_string())?;
    let mut seat = linkage.seat(Moment::ZERO);
    let mut reader = Reader::new(tape.as_bytes()).map_err(|problem| problem.to_string())?;
    let lines = reader.by_ref().collect::<Result<Vec<Line>, _>>().map_err(|problem| problem.to_string())?;
    let mut player = Replayer::new(reader.header());
    let mut last = Moment::ZERO;
    // A gap is passed by its own line, so nothing is played into the next one.
    let mut gaps: Vec<Option<Moment>> =
        lines.iter().map(|line| if let LineKind::Skip { from } = line.kind { from } else { None }).collect();
    for number in (1..gaps.len()).rev() {
        gaps[number - 1] = gaps[number - 1].or(gaps[number]);
    }
    for (line, gap) in lines.iter().zip(gaps) {
        let to = gap.map_or(last, |gap| gap.min(last));
        if to > seat.played() && line.at > last {
            seat.advance(to);
            show(None, &seat);
        }
        player.put(line, &mut seat).map_err(|problem| problem.to_string())?;
        show(Some(line), &seat);
        last = last.max(line.at);
    }
    seat.advance(last + Duration::from_secs(1));
    show(None, &seat);
    Ok(seat)
}

/// The hash of the state that a tape leaves, and how much happened.
///
/// # Errors
/// As [`play`].
pub(crate) fn replay(profile: &str, tape: &str) -> Result<(u64, usize), String> {
    let mut happened = 0;
    let seat = play(profile, tape, |line, seat| {
        if line.is_none() {
            happened += seat.latest().happenings().count();
        }
    })?;
    Ok((seat.state_hash(), happened))
}
