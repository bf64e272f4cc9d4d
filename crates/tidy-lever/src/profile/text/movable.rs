//! A profile whose numbers are moved one after another, as by a slider: only the action that a number belongs to is read again.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;
use alloc::vec::Vec;

use super::numbers::{Number, with_profile};
use super::{NotMoved, with_number};
use crate::nearest::nearest;
use crate::profile::{Action, Faults, Profile};

/// A profile's text with the profile that it says and its numbers, kept together while numbers are moved.
///
/// [`set`](Movable::set) gives the same text as [`with_number`] and the same profile as [`Profile::from_toml`], and costs as much
/// as one action does, not the whole text.
///
/// ```
/// use tidy_lever::Linkage;
/// use tidy_lever::profile::Movable;
///
/// let text = "tidy-lever = 1\n[action.bag]\nkind = \"button\"\nkeys = \"KeyE\"\ncue = \"hold 300ms\"\n";
/// let mut movable = Movable::from_toml(text)?;
/// movable.set("bag.hold", "350ms")?;
/// assert_eq!(movable.text(), text.replace("300", "350"));
/// assert_eq!(movable.numbers()[0].value, 350.0);
/// let linkage = Linkage::build(movable.profile())?;
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Movable {
    text: String,
    profile: Profile,
    numbers: Vec<Number>,
    /// Actions whose own lines alone say the same as the whole text.
    apart: Vec<String>,
}

impl Movable {
    /// Reads a profile's text.
    ///
    /// # Errors
    /// [`Faults`] where the text is not TOML.
    pub fn from_toml(text: &str) -> Result<Movable, Faults> {
        let (profile, numbers) = with_profile(text)?;
        Ok(Movable { text: text.to_owned(), profile, numbers, apart: Vec::new() })
    }

    /// The text as it is now.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// What it says.
    pub fn profile(&self) -> &Profile {
        &self.profile
    }

    /// Its numbers, as [`numbers`](crate::profile::numbers) lists them.
    pub fn numbers(&self) -> &[Number] {
        &self.numbers
    }

    /// Sets one number by its path and what a profile writes for it, as [`with_number`] does.
    ///
    /// # Errors
    /// [`NotMoved`] for a path that the text hasn't got, or a value that is not a number of its unit. Nothing is changed then.
    pub fn set(&mut self, path: &str, value: &str) -> Result<(), NotMoved> {
        let Some(number) = self.numbers.iter().find(|number| number.path == path) else {
            let nearest = nearest(path, self.numbers.iter().map(|number| number.path.as_str())).map(ToOwned::to_owned);
            return Err(NotMoved::NoNumber { path: path.to_owned(), nearest });
        };
        let Some(read) = number.read(value) else {
            return Err(NotMoved::NoValue { path: path.to_owned(), value: value.to_owned(), unit: number.unit });
        };
        let moved = number.replaced(&self.text, read);
        let name = path.split('.').next().unwrap_or_default().to_owned();
        if moved.is_some_and(|moved| self.set_apart(&name, moved)) {
            return Ok(());
        }
        let text = with_number(&self.text, path, value)?;
        *self = Movable::from_toml(&text).map_err(|_| NotMoved::NoPlace { path: path.to_owned() })?;
        Ok(())
    }

    /// Takes a text over in which only this action differs, if its lines can be read alone.
    fn set_apart(&mut self, name: &str, text: String) -> bool {
        if !self.apart.iter().any(|known| known == name) {
            let (Some((own, own_numbers)), Some(known)) = (alone(&self.text, name), self.action(name)) else {
                return false;
            };
            let same = own == self.profile.actions[known] && own_numbers.iter().eq(self.numbers_of(name));
            if !same {
                return false;
            }
            self.apart.push(name.to_owned());
        }
        let (Some((own, own_numbers)), Some(known)) = (alone(&text, name), self.action(name)) else { return false };
        if !own_numbers.iter().map(|number| &number.path).eq(self.numbers_of(name).map(|number| &number.path)) {
            return false;
        }
        // What stands behind the action moves along.
        let by = text.len() as isize - self.text.len() as isize;
        let end = own_numbers.iter().filter_map(|number| Some(number.written.as_ref()?.bytes.end)).max().unwrap_or(0);
        let mut own_numbers = own_numbers.into_iter();
        for number in &mut self.numbers {
            if is_of(number, name) {
                own_numbers.next().into_iter().for_each(|own| *number = own);
            } else if let Some(written) =
                number.written.as_mut().filter(|written| written.bytes.start as isize + by >= end as isize)
            {
                let shifted = |place: usize| place.saturating_add_signed(by);
                written.bytes = shifted(written.bytes.start)..shifted(written.bytes.end);
            }
        }
        self.profile.actions[known] = own;
        self.text = text;
        true
    }

    fn action(&self, name: &str) -> Option<usize> {
        self.profile.actions.iter().position(|action| action.name.value == name)
    }

    fn numbers_of(&self, name: &str) -> impl Iterator<Item = &Number> {
        self.numbers.iter().filter(move |number| is_of(number, name))
    }
}

fn is_of(number: &Number, name: &str) -> bool {
    number.path.strip_prefix(name).is_some_and(|rest| rest.starts_with('.'))
}

/// What a text says of one action, with its numbers, read with all lines of others blank, so that everything keeps its place.
/// `None` if that is not one action alone.
fn alone(text: &str, name: &str) -> Option<(Action, Vec<Number>)> {
    let (table, part) = (format!("[action.{name}]"), format!("[action.{name}."));
    let (mut own, mut keeps) = (Vec::with_capacity(text.len()), true);
    for line in text.split_inclusive('\n') {
        let start = line.trim_start();
        if start.starts_with('[') {
            keeps = start.starts_with(&table) || start.starts_with(&part);
        }
        if keeps {
            own.extend_from_slice(line.as_bytes());
        } else {
            own.resize(own.len() + line.trim_end_matches('\n').len(), b' ');
            own.extend(line.ends_with('\n').then_some(b'\n'));
        }
    }
    let own = String::from_utf8(own).ok()?;
    let (profile, numbers) = with_profile(&own).ok()?;
    let [action] = <[Action; 1]>::try_from(profile.actions).ok()?;
    (profile.read_faults.is_empty() && action.name.value == name).then_some((action, numbers))
}
