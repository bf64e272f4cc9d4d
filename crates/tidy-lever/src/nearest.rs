//! The nearest right name to a wrong one.

/// Nothing this long was meant as a name; comparing it would only take long.
#[cfg(feature = "std")]
const LONGEST_SLIP: usize = 128;

/// The name nearest to `wrong`, if one is near enough to have been meant; the first of equals.
///
/// ```
/// use tidy_lever::profile::nearest;
///
/// assert_eq!(nearest("hpo", ["hop", "toss"]), Some("hop"));
/// assert_eq!(nearest("paddle", ["hop", "toss"]), None);
/// ```
pub fn nearest<'a>(wrong: &str, right: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    #[cfg(feature = "std")]
    {
        if wrong.len() > LONGEST_SLIP {
            return None;
        }
        // Letters swapped, dropped, added or mistaken count one each; a third of the word may be wrong, two letters of a
        // word of four or five, one of a shorter one: `Esc` is not `KeyC`.
        let most = match wrong.chars().count() {
            0..=3 => 1,
            4..=8 => 2,
            long => long / 3,
        };
        let folded = wrong.to_ascii_lowercase();
        right
            .into_iter()
            .map(|name| (strsim::osa_distance(&folded, &name.to_ascii_lowercase()), name))
            .filter(|(distance, name)| *distance <= most && *distance < name.chars().count())
            .min_by_key(|(distance, _)| *distance)
            .map(|(_, name)| name)
    }
    #[cfg(not(feature = "std"))]
    {
        let _ = wrong;
        right.into_iter().find(|name| name.eq_ignore_ascii_case(wrong))
    }
}
