//! Frame after frame.

use std::cell::RefCell;
use std::rc::Rc;
use std::time::Duration;

use tidy_lever::Moment;
use wasm_bindgen::closure::Closure;
use wasm_bindgen::{Clamped, JsCast};
use web_sys::ImageData;

use super::{Page, elements, with};
use crate::world::STEPS_A_SECOND;

/// A profile is read once its text box rests for so long.
pub(super) const SETTLE: Duration = Duration::from_millis(150);
/// A picture takes this long at least when nothing moves but the water.
const CALM_FRAME: Duration = Duration::from_millis(120);

type Again = Rc<RefCell<Option<Closure<dyn FnMut(f64)>>>>;

/// Plays and draws in each of the browser's frames from now on.
pub(super) fn begin() {
    let again: Again = Rc::default();
    let own = again.clone();
    *again.borrow_mut() = Some(Closure::new(move |millis| {
        with(|page| page.frame(millis));
        ask(&own);
    }));
    ask(&again);
}

fn ask(again: &Again) {
    if let (Some(window), Some(next)) = (web_sys::window(), again.borrow().as_ref())
        && window.request_animation_frame(next.as_ref().unchecked_ref()).is_err()
    {
        elements::complain("this browser gives no frames to draw in");
    }
}

impl Page {
    /// Events that the browser hands over after this frame began are stamped later than it, but for a few under way.
    fn frame(&mut self, millis: f64) {
        let now = self.adapter.moment(millis);
        if !self.fine && self.drawn.is_some() {
            self.fine = true;
            self.resize();
        }
        self.play(now);
        let rests = self.game.is_calm() && self.drawn.is_some_and(|drawn| now < drawn + CALM_FRAME);
        if !rests {
            self.draw(now);
        }
    }

    fn draw(&mut self, now: Moment) {
        // How far between the last step and the next one.
        let share = (now - self.game.played()).as_secs_f32() * STEPS_A_SECOND as f32;
        let picture = self.view.picture(&self.game, now, share.clamp(0.0, 1.0));
        let (wide, pixels) = (picture.width(), Clamped(picture.data()));
        let shown = ImageData::new_with_u8_clamped_array(pixels, wide)
            .and_then(|image| self.elements.context.put_image_data(&image, 0.0, 0.0));
        if shown.is_err() {
            elements::complain("no picture can be shown in this browser");
        }
        self.drawn = Some(now);
        if !self.fine {
            self.elements.first_picture(self.adapter.now());
        }
    }
}
