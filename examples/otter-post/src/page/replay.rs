//! What a tape leaves behind: the hash of the whole state, which is the same on every machine.

use tidy_lever::tape::{Player, Reader, Said};
use tidy_lever::{Linkage, Moment, Profile};

/// Plays a tape's first seat on a profile, each line as it comes, and a second more; the state's hash then, and how much
/// happened.
///
/// # Errors
/// A sentence on what is wrong with the profile or the tape.
pub(crate) fn replay(profile: &str, tape: &str) -> Result<(u64, usize), String> {
    let profile = Profile::from_toml(profile).map_err(|faults| faults.to_string())?;
    let linkage = Linkage::build(&profile).map_err(|faults| faults.to_string())?;
    let (mut seat, mut last, mut happened) = (linkage.seat(Moment::ZERO), Moment::ZERO, 0);
    let mut reader = Reader::new(tape.as_bytes()).map_err(|problem| problem.to_string())?;
    let mut player = Player::new(reader.header());
    while let Some(line) = reader.next().transpose().map_err(|problem| problem.to_string())? {
        // A gap is passed by its own line.
        if !matches!(line.said, Said::Skip { .. }) && line.at > last {
            seat.advance(last);
            happened += seat.latest().happenings().count();
        }
        player.put(&line, &mut seat).map_err(|problem| problem.to_string())?;
        last = line.at;
    }
    seat.advance(last + std::time::Duration::from_secs(1));
    happened += seat.latest().happenings().count();
    Ok((seat.state_hash(), happened))
}
