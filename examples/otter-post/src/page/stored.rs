//! What the browser keeps of a page: the player's file, and a profile that was changed.

use std::cell::RefCell;
use std::collections::VecDeque;
use std::rc::Rc;

use tidy_lever::remap::Remap;
use web_sys::Storage;

use crate::player::Store;
use crate::recorder::Beside;

/// A text in the browser's local storage.
#[derive(Debug)]
pub(super) struct Stored(&'static str);

fn storage() -> Option<Storage> {
    web_sys::window()?.local_storage().ok()?
}

impl Stored {
    /// The player's file.
    pub(super) fn player() -> Stored {
        Stored("otter-post/player.toml")
    }

    /// The profile as it was changed.
    pub(super) fn profile() -> Stored {
        Stored("otter-post/profile.toml")
    }

    pub(super) fn read(&self) -> Option<String> {
        storage()?.get_item(self.0).ok()?
    }

    /// Keeps a text, or none.
    ///
    /// # Errors
    /// Says why the browser keeps nothing.
    pub(super) fn write(&self, text: Option<&String>) -> Result<(), String> {
        let name = self.0;
        let Some(storage) = storage() else {
            return Err(format!("{name} could not be kept: this browser blocks storage for this page"));
        };
        let kept = match text {
            Some(text) => storage.set_item(name, text),
            None => storage.remove_item(name),
        };
        kept.map_err(|_| format!("{name} could not be kept: this browser's storage for this page is full"))
    }

    /// What it is called in messages.
    pub(super) fn name(&self) -> &'static str {
        self.0
    }
}

impl Store for Stored {
    fn change(&self, put: &mut dyn FnMut(Option<Remap>) -> Option<String>) -> Result<(), String> {
        // Another tab's change is taken in; nobody else runs between this and the writing.
        let now = self.read().map(|text| crate::player::parse(&text, self.0));
        let (now, broken) = match now {
            Some(Ok(now)) => (Some(now), None),
            // One with a mistake is left as somebody wrote it; the change goes beside it.
            Some(Err(problem)) => (None, Some(problem)),
            None => (None, None),
        };
        match (put(now), broken) {
            (None, _) => Ok(()),
            (Some(text), None) => self.write(Some(&text)),
            (Some(text), Some(problem)) => {
                let beside = Stored("otter-post/player-unsaved.toml");
                beside.write(Some(&text))?;
                Err(format!("{problem}. It was left as it is, and the change is in {}", beside.0))
            }
        }
    }
}

/// The files that the page's tape names, in memory; and how many there were.
#[derive(Clone, Debug, Default)]
pub(super) struct Files(Rc<RefCell<(VecDeque<(String, String)>, u32)>>);

/// More than this are not kept: those that were put first go.
const MOST_FILES: usize = 200;

impl Files {
    /// Each by its name.
    pub(super) fn all(&self) -> Vec<(String, String)> {
        self.0.borrow().0.iter().cloned().collect()
    }
}

impl Beside for Files {
    fn put(&mut self, sort: &str, text: &str) -> Result<String, String> {
        let (files, count) = &mut *self.0.borrow_mut();
        *count += 1;
        let name = format!("otter-post-{sort}{count}.toml");
        if files.len() == MOST_FILES {
            files.pop_front();
        }
        files.push_back((name.clone(), text.to_owned()));
        Ok(name)
    }

    fn tape(&self) -> String {
        "the page's tape".into()
    }
}
