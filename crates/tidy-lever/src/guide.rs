//! The guide's programs, run as tests of the documentation: a hidden item for each chapter.

macro_rules! chapters {
    ($($name:ident = $file:literal;)*) => {
        $(
            #[doc = include_str!(concat!("../../../docs/guide/", $file))]
            #[derive(Debug)]
            pub struct $name;
        )*
    };
}

chapters! {
    See = "00-see.md";
    Clock = "01-clock.md";
    Walking = "02-walking.md";
    Pressing = "03-pressing.md";
    Looking = "04-looking.md";
    Jumps = "05-jumps.md";
    Motions = "08-motions.md";
    Modes = "09-modes.md";
    Remapping = "11-remapping.md";
    Players = "13-players.md";
    Why = "15-why.md";
    Rollback = "17-rollback.md";
    Elsewhere = "18-elsewhere.md";
    Devices = "19-devices.md";
}
