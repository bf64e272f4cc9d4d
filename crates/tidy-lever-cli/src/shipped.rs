//! The demo's files, shipped inside the command.

use include_dir::{Dir, File, include_dir};

pub(crate) static SHIPPED: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/demo");

/// A shipped file's text.
pub(crate) fn text<'f>(file: &'f File<'_>) -> &'f str {
    file.contents_utf8().unwrap_or_default()
}

/// The recipes' folders, by name.
pub(crate) fn recipes() -> Vec<&'static Dir<'static>> {
    let mut all: Vec<&Dir<'_>> = SHIPPED.get_dir("recipes").map(|dir| dir.dirs().collect()).unwrap_or_default();
    all.sort_by_key(|dir| dir.path());
    all
}

/// A recipe's name.
pub(crate) fn name(dir: &Dir<'_>) -> String {
    dir.path().file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default()
}

/// The names of all recipes.
pub(crate) fn names() -> Vec<String> {
    recipes().into_iter().map(name).collect()
}
