//! Any line as a cue: an error that points into it, or a cue that reads the same once it is written.
#![no_main]

use libfuzzer_sys::fuzz_target;
use tidy_lever::cue::Cue;

fuzz_target!(|line: &str| {
    match Cue::read(line) {
        Ok(cue) => {
            let written = cue.to_string();
            assert_eq!(Cue::read(&written).as_ref(), Ok(&cue), "{line:?} is written {written:?}");
        }
        Err(error) => assert!(error.at <= line.chars().count(), "{error:?} lies behind {line:?}"),
    }
});
