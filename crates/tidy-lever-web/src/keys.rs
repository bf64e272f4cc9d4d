//! Keys, by position.

use tidy_lever::Control;
use tidy_lever::adapter::Devices;
use web_sys::KeyboardEvent;

use crate::hands::Hands;
use crate::held::{Sort, sort};

/// A key goes down or up.
pub(crate) fn key(hands: &mut Hands, event: &KeyboardEvent, down: bool) {
    let code = event.code();
    if event.is_composing() {
        return;
    }
    let Ok(control) = format!("keys:{code}").parse::<Control>() else { return };
    if is_ours(event, &code) {
        event.prevent_default();
    }
    if event.repeat() {
        return;
    }
    let at = hands.at(Devices::keyboard(), event.time_stamp());
    let held = hands.keys.0.iter().position(|(held, _)| *held == control);
    match (down, held) {
        (true, None) => {
            learn(hands, control, event);
            hands.keys.0.push((control, sort(&code)));
            hands.level(at, Devices::keyboard(), control, true);
        }
        (false, Some(place)) => {
            let (_, sort) = hands.keys.0.remove(place);
            hands.level(at, Devices::keyboard(), control, false);
            if sort == Sort::Meta {
                let lost = hands.keys.0.extract_if(.., |(_, sort)| *sort == Sort::Plain).collect::<Vec<_>>();
                for (control, _) in lost {
                    hands.level(at, Devices::keyboard(), control, false);
                }
            }
        }
        _ => {}
    }
}

/// Whether the browser is not to use a key itself.
fn is_ours(event: &KeyboardEvent, code: &str) -> bool {
    let number = code.strip_prefix('F').and_then(|number| number.parse::<u8>().ok());
    let together = event.ctrl_key() || event.alt_key() || event.meta_key();
    number.is_none() && code != "Tab" && !(together && sort(code) == Sort::Plain)
}

/// What is printed on a key: without a modifier a letter is small, on the key it is printed large.
fn learn(hands: &mut Hands, control: Control, event: &KeyboardEvent) {
    let text = event.key();
    let mut letters = text.chars();
    let (Some(letter), None) = (letters.next(), letters.next()) else { return };
    let changed = event.ctrl_key() || event.alt_key() || (event.shift_key() && !letter.is_alphabetic());
    if !changed && !letter.is_whitespace() {
        hands.labels.set(control, &text.to_uppercase());
    }
}
