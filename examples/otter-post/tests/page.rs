//! Otter Post in a headless browser.
#![cfg(unix)]
#![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

#[path = "page/mod.rs"]
mod page;

use page::{Page, Screen};

#[test]
fn first() {
    let Some(mut page) = Page::open(Screen::Desktop) else { return };
    page.wait(500);
    page.picture("desktop");
    println!("{:?}", page.heard);
    println!("{}", page.run("document.body.dataset.firstPicture"));
    println!("{}", page.tape());
    page.tap("Space", " ");
    page.wait(500);
    println!("{:?}", page.heard);
    let Some(mut page) = Page::open(Screen::Phone) else { return };
    page.wait(500);
    page.picture("phone");
    println!("{:?}", page.heard);
    println!("{}", page.run("document.body.dataset.firstPicture"));
}
