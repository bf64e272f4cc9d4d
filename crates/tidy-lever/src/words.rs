//! Words of the grammars that can't be names.

/// Words that the grammars of cues and gates, or a list of names, could take for something else.
const RESERVED: &[&str] = &[
    "all",
    "always",
    "and",
    "back",
    "double",
    "down",
    "down-back",
    "down-forward",
    "down-left",
    "down-right",
    "false",
    "forward",
    "left",
    "not",
    "or",
    "order",
    "right",
    "true",
    "up",
    "up-back",
    "up-forward",
    "up-left",
    "up-right",
    "with",
    "within",
];

/// The words that can't be names, sorted.
pub fn reserved() -> &'static [&'static str] {
    RESERVED
}

/// Whether the word can't be a name, because a cue, a gate or a list of names could take it for something else.
pub fn is_reserved(word: &str) -> bool {
    RESERVED.binary_search(&word).is_ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_reserved_words_are_sorted_so_that_search_finds_them() {
        assert!(RESERVED.is_sorted());
        assert!(is_reserved("within") && !is_reserved("tap"));
    }
}
