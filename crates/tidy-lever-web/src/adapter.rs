//! Listens on a page, and hands over what it heard once a frame.

use core::cell::RefCell;
use std::rc::Rc;

use gloo_events::{EventListener, EventListenerOptions};
use tidy_lever::Moment;
use tidy_lever::adapter::{Devices, Report};
use tidy_lever::event::Phase;
use tidy_lever::prompt::Labels;
use wasm_bindgen::JsCast;
use web_sys::{Document, Event, FocusOptions, HtmlElement, PointerEvent, VisibilityState, Window};

use crate::hands::{Hands, moment, now};
use crate::{keys, pointers};

/// There is no page to listen on, as in a worker.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct NoPage;

impl core::fmt::Display for NoPage {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        f.write_str("there is no page here: an adapter needs a window with a document")
    }
}

impl core::error::Error for NoPage {}

/// Turns what an element and its window hear into Tidy Lever's events. It listens until it is dropped.
#[derive(Debug)]
pub struct Adapter {
    element: HtmlElement,
    window: Window,
    hands: Rc<RefCell<Hands>>,
    size: (u32, u32),
    _listeners: Vec<EventListener>,
}

impl Adapter {
    /// Listens on an element. It is made one that can have the focus; give it the focus when play is to begin.
    ///
    /// # Errors
    /// [`NoPage`] in a worker.
    pub fn new(element: &HtmlElement) -> Result<Adapter, NoPage> {
        let window = web_sys::window().ok_or(NoPage)?;
        let document = window.document().ok_or(NoPage)?;
        if element.tab_index() < 0 {
            element.set_tab_index(0);
        }
        let style = element.style();
        for (name, value) in [("touch-action", "none"), ("user-select", "none"), ("-webkit-user-select", "none")] {
            // A browser that doesn't know one does without it.
            let _ = style.set_property(name, value);
        }
        let mut hands = Hands::default();
        hands.focused = has_focus(&document, element);
        let hands = Rc::new(RefCell::new(hands));
        let page = Listening { element: element.clone(), document, hands: hands.clone() };
        let _listeners = page.listen(&window);
        Ok(Adapter { element: element.clone(), window, hands, size: (0, 0), _listeners })
    }

    /// The moment now, on the clock that events are stamped by.
    pub fn now(&self) -> Moment {
        now()
    }

    /// The moment of a frame, from what `requestAnimationFrame` hands over: what to advance to.
    pub fn moment(&self, millis: f64) -> Moment {
        moment(millis)
    }

    /// What is printed on the keys that were pressed so far, for [`Linkage::prompts`](tidy_lever::Linkage::prompts).
    pub fn labels(&self) -> Labels {
        self.hands.borrow().labels.clone()
    }

    /// Whether the element has the focus.
    pub fn is_focused(&self) -> bool {
        self.hands.borrow().focused
    }

    /// What was heard since the last call, in order; first the element's size, if it is another one.
    pub fn poll(&mut self) -> Vec<Report> {
        let mut reports: Vec<Report> = self.resized().into_iter().collect();
        reports.append(&mut self.hands.borrow_mut().reports);
        reports
    }

    /// An element without a width or a height is hidden, and changes nothing.
    fn resized(&mut self) -> Option<Report> {
        let (rect, ratio) = (self.element.get_bounding_client_rect(), self.window.device_pixel_ratio());
        let size = ((rect.width() * ratio).round() as u32, (rect.height() * ratio).round() as u32);
        let is_news = size.0 > 0 && size.1 > 0 && size != self.size;
        is_news.then(|| {
            self.size = size;
            Report::View(size.0, size.1)
        })
    }
}

fn has_focus(document: &Document, element: &HtmlElement) -> bool {
    let active = document.active_element();
    document.visibility_state() != VisibilityState::Hidden && active.is_some_and(|active| active == **element)
}

/// What all listeners share.
#[derive(Clone)]
struct Listening {
    element: HtmlElement,
    document: Document,
    hands: Rc<RefCell<Hands>>,
}

impl Listening {
    /// Listens for one kind of event; what it may prevent, it hears first.
    fn on<E: JsCast>(
        &self,
        target: &web_sys::EventTarget,
        name: &'static str,
        act: impl Fn(&Listening, &E) + 'static,
    ) -> EventListener {
        let page = self.clone();
        let options = EventListenerOptions::enable_prevent_default();
        EventListener::new_with_options(target, name, options, move |event| act(&page, event.unchecked_ref()))
    }

    fn listen(&self, window: &Window) -> Vec<EventListener> {
        let element = &self.element;
        let mut all = vec![
            self.on(element, "keydown", |page, event| keys::key(&mut page.hands.borrow_mut(), event, true)),
            self.on(element, "keyup", |page, event| keys::key(&mut page.hands.borrow_mut(), event, false)),
            self.on(element, "wheel", |page, event: &web_sys::WheelEvent| {
                event.prevent_default();
                pointers::wheel(&mut page.hands.borrow_mut(), event);
            }),
            self.on(element, "pointerdown", |page, event: &PointerEvent| {
                page.take_hold(event);
                page.pointer(event, Phase::Down);
            }),
            // Long presses, and presses of the right button, are the game's.
            self.on(element, "contextmenu", |_, event: &Event| event.prevent_default()),
            // A picture that is dragged takes the pointer away.
            self.on(element, "dragstart", |_, event: &Event| event.prevent_default()),
            self.on(&self.document, "visibilitychange", Listening::refocus),
        ];
        let phases = [("pointermove", Phase::Move), ("pointerup", Phase::Up), ("pointercancel", Phase::Cancel)];
        for (name, phase) in phases {
            all.push(self.on(element, name, move |page, event| page.pointer(event, phase)));
        }
        for target in [element.unchecked_ref::<web_sys::EventTarget>(), window.unchecked_ref()] {
            all.push(self.on(target, "blur", |page, event: &Event| {
                page.hands.borrow_mut().focus(false, event.time_stamp());
            }));
            all.push(self.on(target, "focus", Listening::refocus));
        }
        all
    }

    /// Something may have brought the focus, or taken it.
    fn refocus(&self, event: &Event) {
        let focused = has_focus(&self.document, &self.element);
        self.hands.borrow_mut().focus(focused, event.time_stamp());
    }

    /// A press brings the focus, counts all the same, and is followed until it lifts.
    fn take_hold(&self, event: &PointerEvent) {
        // Or the browser gives the focus away again after this.
        event.prevent_default();
        let device = if event.pointer_type() == "mouse" { Devices::mouse() } else { Devices::screen() };
        {
            let mut hands = self.hands.borrow_mut();
            let at = hands.at(device, event.time_stamp());
            hands.focus_from = Some(at);
        }
        let options = FocusOptions::new();
        options.set_prevent_scroll(true);
        // Heard meanwhile, by the listeners above.
        let _ = self.element.focus_with_options(&options);
        self.hands.borrow_mut().focus_from = None;
        // A made-up pointer can't be captured, and is heard all the same.
        let _ = self.element.set_pointer_capture(event.pointer_id());
    }

    fn pointer(&self, event: &PointerEvent, phase: Phase) {
        let locked = self.document.pointer_lock_element().is_some_and(|held| held == *self.element);
        pointers::pointer(&mut self.hands.borrow_mut(), &self.element, event, phase, locked);
    }
}
