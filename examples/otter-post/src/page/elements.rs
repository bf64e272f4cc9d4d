//! The page's elements, by the names that they have in `index.html`.

use anyhow::{Result, anyhow};
use tidy_lever::Moment;
use wasm_bindgen::JsCast;
use web_sys::{
    Blob, CanvasRenderingContext2d, Document, Element, HtmlAnchorElement, HtmlButtonElement, HtmlCanvasElement,
    HtmlElement, HtmlTextAreaElement, Url,
};

/// A picture has no more pixels than this, unless the page itself has more.
const MOST_PIXELS: f64 = 1.3e6;

/// What the page is made of.
#[derive(Clone)]
pub(super) struct Elements {
    document: Document,
    pub(super) canvas: HtmlCanvasElement,
    pub(super) context: CanvasRenderingContext2d,
    pub(super) profile: HtmlTextAreaElement,
    faults: HtmlElement,
}

fn document() -> Option<Document> {
    web_sys::window()?.document()
}

/// Says on the page what the game can't say in a picture.
pub(super) fn complain(problem: &str) {
    if let Some(news) = document().and_then(|document| document.get_element_by_id("news")) {
        news.set_text_content(Some(problem));
    }
}

/// Whether the screen can be touched.
pub(super) fn can_be_touched() -> bool {
    web_sys::window().is_some_and(|window| window.navigator().max_touch_points() > 0)
}

/// Whether the system is set to show as little movement as can be.
pub(super) fn wants_stillness() -> bool {
    let wanted =
        web_sys::window().and_then(|window| window.match_media("(prefers-reduced-motion: reduce)").ok().flatten());
    wanted.is_some_and(|wanted| wanted.matches())
}

/// Hands a text over as a file.
pub(super) fn download(name: &str, text: &str) {
    let put = || -> Option<()> {
        let blob = Blob::new_with_str_sequence(&js_sys::Array::of1(&text.into())).ok()?;
        let link = Url::create_object_url_with_blob(&blob).ok()?;
        let anchor: HtmlAnchorElement = document()?.create_element("a").ok()?.dyn_into().ok()?;
        anchor.set_href(&link);
        anchor.set_download(name);
        anchor.click();
        Url::revoke_object_url(&link).ok()
    };
    if put().is_none() {
        complain("this browser takes no files from a page");
    }
}

impl Elements {
    pub(super) fn find() -> Result<Elements> {
        let document = document().ok_or_else(|| anyhow!("there is no page"))?;
        let canvas: HtmlCanvasElement = find(&document, "game")?;
        let context = canvas.get_context("2d").ok().flatten().and_then(|context| context.dyn_into().ok());
        let context = context.ok_or_else(|| anyhow!("this browser draws no pictures on a canvas"))?;
        let (profile, faults) = (find(&document, "profile")?, find(&document, "faults")?);
        for name in ["inputs", "shipped", "tape"] {
            find::<HtmlButtonElement>(&document, name)?;
        }
        Ok(Elements { canvas, context, profile, faults, document })
    }

    pub(super) fn button(&self, name: &str) -> Element {
        self.document.get_element_by_id(name).unwrap_or_else(|| self.canvas.clone().into())
    }

    /// Whether a button that stays in shows that it is in.
    pub(super) fn press(&self, name: &str, pressed: bool) {
        let _ = self.button(name).set_attribute("aria-pressed", &pressed.to_string());
    }

    /// The canvas's size in the page's pixels.
    pub(super) fn size(&self) -> (u32, u32) {
        (self.canvas.client_width().max(1) as u32, self.canvas.client_height().max(1) as u32)
    }

    /// How many of the picture's pixels, each way, are one of the page's: as many as the screen has, as far as drawing in
    /// software keeps up.
    pub(super) fn scale(&self) -> f32 {
        let (wide, high) = self.size();
        let ratio = web_sys::window().map_or(1.0, |window| window.device_pixel_ratio());
        ratio.min((MOST_PIXELS / f64::from(wide * high)).sqrt()).max(1.0) as f32
    }

    /// Gives the canvas so many pixels.
    pub(super) fn set_pixels(&self, (wide, high): (u32, u32)) {
        self.canvas.set_width(wide);
        self.canvas.set_height(high);
    }

    /// Tells what is wrong with the profile, and brings the line of it into sight; the cursor stays where it is.
    pub(super) fn show_faults(&self, faults: Option<(&str, Option<u32>)>) {
        if let Some(line) = faults.and_then(|(_, line)| line) {
            let count = self.profile.value().lines().count().max(1) as f64;
            let (whole, seen) = (f64::from(self.profile.scroll_height()), f64::from(self.profile.client_height()));
            let (above, high) = (whole * f64::from(line.saturating_sub(1)) / count, whole / count);
            let from = f64::from(self.profile.scroll_top());
            if above < from || above + high > from + seen {
                self.profile.set_scroll_top((above - seen / 3.0).max(0.0) as i32);
            }
        }
        let faults = faults.map(|(told, _)| told);
        self.faults.set_text_content(Some(
            faults.unwrap_or("The game plays on this profile. Change it: it is active at once."),
        ));
        let _ = self.faults.class_list().toggle_with_force("bad", faults.is_some());
    }

    /// Play begins.
    pub(super) fn begin(&self) {
        let _ = self.canvas.focus();
    }

    /// The first picture is there, so many milliseconds after the page began.
    pub(super) fn first_picture(&self, now: Moment) {
        if let Some(body) = self.document.body() {
            let millis = now.as_micros() / 1_000;
            let _ = body.set_attribute("data-first-picture", &millis.to_string());
        }
    }
}

fn find<E: JsCast>(document: &Document, name: &str) -> Result<E> {
    let element = document.get_element_by_id(name).and_then(|element| element.dyn_into().ok());
    element.ok_or_else(|| anyhow!("the page lacks its element `{name}`"))
}
