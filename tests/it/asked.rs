//! What the environment asks of tests; it needs nothing of the library.

/// A number that an environment variable gives; the usual one without it.
pub(crate) fn asked(name: &str, usual: u64) -> u64 {
    std::env::var(name).ok().and_then(|text| text.parse().ok()).unwrap_or(usual)
}
