//! The picture: all parts, and what lies where for the pointer.

use anyhow::{Result, anyhow};
use tidy_lever::prompt::Labels;
use tidy_lever::{Control, Linkage, Moment};
use tidy_lever_view::canvas::{Canvas, Letters, Side};
use tidy_lever_view::tiny_skia::Pixmap;
use tidy_lever_view::{Area, InputView, Parts, ROW, Shown, came_on, palette as p, rows};

use crate::hits::{Hit, Hits};
use crate::keys::{Tool, ToolKey, chosen};
use crate::layout::Layout;
use crate::session::{RING, Session};
use crate::strip::{Lanes, tell};
use crate::{sliders, stage, switches};

/// Draws a session, and knows what lies where.
pub(crate) struct Screen {
    letters: Letters,
    pixels: Pixmap,
    /// So many pixels, each way, for one of a place or a size.
    scale: f32,
    views: Vec<InputView>,
    asked: Vec<ToolKey>,
    keys: Vec<(Tool, Option<Control>)>,
    chosen_for: Option<Linkage>,
    hits: Hits,
    layout: Layout,
    pub(crate) lanes: Lanes,
    /// How far the lists are scrolled.
    first_action: usize,
    first_number: usize,
    /// Where the pointer is, unless it is on the stage.
    pub(crate) pointed: Option<(f32, f32)>,
    /// Whether the pointer is captured.
    pub(crate) captured: bool,
}

/// How small and how large all may be drawn.
const LEAST_SCALE: f32 = 0.5;
const MOST_SCALE: f32 = 8.0;

fn pixels((wide, high): (u32, u32)) -> Result<Pixmap> {
    Pixmap::new(wide.max(1), high.max(1)).ok_or_else(|| anyhow!("a picture of {wide}x{high} can't be made"))
}

impl Screen {
    pub(crate) fn new(size: (u32, u32), asked: &[ToolKey]) -> Result<Screen> {
        Ok(Screen {
            letters: Letters::new()?,
            pixels: pixels(size)?,
            scale: 1.0,
            views: Vec::new(),
            asked: asked.to_vec(),
            keys: Vec::new(),
            chosen_for: None,
            hits: Hits::default(),
            layout: Layout::default(),
            lanes: Lanes::default(),
            first_action: 0,
            first_number: 0,
            pointed: None,
            captured: false,
        })
    }

    pub(crate) fn resize(&mut self, size: (u32, u32)) -> Result<()> {
        if (self.pixels.width(), self.pixels.height()) != size {
            self.pixels = pixels(size)?;
        }
        Ok(())
    }

    /// On a finer screen, or where all is to be larger: so many pixels, each way, for one of a place or a size.
    pub(crate) fn set_scale(&mut self, scale: f32) {
        self.scale = scale.clamp(LEAST_SCALE, MOST_SCALE);
        self.views.clear();
    }

    /// A place in pixels as one of the layout.
    pub(crate) fn place(&self, (x, y): (f32, f32)) -> (f32, f32) {
        (x / self.scale, y / self.scale)
    }

    fn lay_out(&mut self, session: &Session) {
        let size = self.place((self.pixels.width() as f32, self.pixels.height() as f32));
        self.layout = Layout::new(size, self.scale, session.table.seats().count());
    }

    /// Where mouse and fingers belong to the profile.
    pub(crate) fn stage(&mut self, session: &Session) -> Area {
        self.lay_out(session);
        self.layout.stage
    }

    /// The stage's size in pixels.
    pub(crate) fn stage_size(&mut self, session: &Session) -> (u32, u32) {
        let stage = self.stage(session);
        ((stage.wide * self.scale).round() as u32, (stage.high * self.scale).round() as u32)
    }

    /// What each key of the tool is; chosen once for each linkage.
    pub(crate) fn keys(&mut self, session: &Session) -> &[(Tool, Option<Control>)] {
        let linkage = session.linkage();
        if !self.chosen_for.as_ref().is_some_and(|known| known.is_same(linkage)) {
            self.keys = chosen(linkage, &self.asked);
            self.chosen_for = Some(linkage.clone());
        }
        &self.keys
    }

    /// What lies at a place.
    pub(crate) fn hit(&self, place: (f32, f32)) -> Option<Hit> {
        self.hits.at(place).cloned()
    }

    /// The wheel turns over a list: so many rows down.
    pub(crate) fn scroll(&mut self, session: &Session, (x, y): (f32, f32), rows: i32) {
        let side = self.layout.side;
        if !side.holds((x, y)) {
            return;
        }
        let moved =
            |first: usize, count: usize| (first as i64 + i64::from(rows)).clamp(0, count.max(1) as i64 - 1) as usize;
        if self.over_numbers(y) {
            self.first_number = moved(self.first_number, sliders::count(session));
        } else {
            self.first_action = moved(self.first_action, session.linkage().actions().count());
        }
    }

    fn over_numbers(&self, y: f32) -> bool {
        let first = self.hits.0.iter().find(|(_, hit)| matches!(hit, Hit::Number(..)));
        first.is_some_and(|(area, _)| y >= area.y - 40.0)
    }

    /// Another action is chosen: its numbers begin at the first.
    pub(crate) fn choose(&mut self, session: &mut Session, action: String) {
        session.chosen = Some(action);
        self.first_number = 0;
    }

    /// A picture at a moment of the clock.
    pub(crate) fn draw(&mut self, session: &Session, labels: &Labels, now: Moment) -> &Pixmap {
        self.lay_out(session);
        let layout = self.layout.clone();
        self.hits = Hits::default();
        let several = session.table.seats().count() > 1;
        let scale = self.scale;
        self.views.resize_with(layout.hands.len().max(1), || {
            let mut view = InputView::new();
            view.set_scale(scale);
            view
        });
        for (((number, seat), area), view) in session.table.seats().zip(&layout.hands).zip(&mut self.views) {
            let shown =
                Shown { seat, number, several, labels, recent: &session.recent, now, area: *area, parts: Parts::Hands };
            view.draw(&mut self.pixels, &mut self.letters, &shown);
            self.hits.put(*area, Hit::Seat(number));
        }
        if let Some(seat) = session.table.seat(session.told_seat) {
            let (number, area) = (session.told_seat, layout.came);
            let (recent, parts) = (&session.recent, Parts::Hands);
            let shown = Shown { seat, number, several, labels, recent, now, area, parts };
            came_on(&mut Canvas::new(&mut self.pixels, &mut self.letters).scaled(scale), &shown);
        }
        let keys = self.keys(session).to_vec();
        let mut canvas = Canvas::new(&mut self.pixels, &mut self.letters).scaled(scale);
        stage::draw(&mut canvas, session, layout.stage, now);
        canvas.rect(layout.side.x, layout.side.y, layout.side.wide, layout.side.high, p::PANEL | 0xff);
        canvas.rect(layout.side.x, layout.side.y, 1.0, layout.side.high, p::EDGE);
        let inside = layout.side.inset(14.0);
        let top = switches::draw(&mut canvas, session, inside, &mut self.hits) + 8.0;
        let rest = Area { y: inside.y + top, high: (inside.high - top).max(0.0), ..inside };
        let count = session.linkage().actions().count();
        let listed = (rest.high * 0.5).min(24.0 + count as f32 * ROW);
        let told = "actions: click for its numbers";
        let room = (rest.wide - 62.0).max(0.0);
        canvas.fitting((rest.x, rest.y + 12.0), 12.0, p::FAINT, told, room);
        let wide = canvas.wide(told, 12.0).min(room);
        devices(&mut canvas, session, (rest.x + wide + 14.0, rest.y), &mut self.hits);
        let list = Area { y: rest.y + 20.0, high: (listed - 24.0).max(0.0), ..rest };
        self.first_action = self.first_action.min(count.saturating_sub((list.high / ROW) as usize));
        if let Some(seat) = session.table.seat(session.told_seat) {
            rows(&mut canvas, seat, labels, list, self.first_action, session.chosen.as_deref());
        }
        let fits = (list.high / ROW) as usize;
        for (place, action) in session.linkage().actions().skip(self.first_action).take(fits).enumerate() {
            let area = Area { y: list.y + place as f32 * ROW, high: ROW, ..list };
            self.hits.put(area, Hit::Action(action.name().to_owned()));
        }
        let under = rest.y + listed + 4.0;
        let numbers = Area { y: under, high: (inside.y + inside.high - under).max(0.0), ..inside };
        let most = sliders::count(session).saturating_sub(((numbers.high - 20.0) / sliders::HIGH).max(0.0) as usize);
        self.first_number = self.first_number.min(most);
        sliders::draw(&mut canvas, session, numbers, self.first_number, &mut self.hits);
        self.lanes.draw(&mut canvas, session, layout.strip, now);
        tools(&mut canvas, session, layout.keys, &keys, (&self.lanes, self.captured), &mut self.hits);
        if let Some(place) = self.pointed
            && let Some(story) = self.lanes.story(session, layout.strip, place)
        {
            tell(&mut canvas, story, place);
        }
        &self.pixels
    }
}

/// Beside the actions: how devices are guarded, which has numbers, too.
fn devices(canvas: &mut Canvas<'_>, session: &Session, (x, y): (f32, f32), hits: &mut Hits) {
    let prefix = format!("{}.", sliders::DEVICES);
    if !session.tuning.numbers().iter().any(|number| number.path.starts_with(&prefix)) {
        return;
    }
    let is_chosen = session.chosen.as_deref() == Some(sliders::DEVICES);
    let ink = if is_chosen { p::ON } else { p::INK };
    let wide = canvas.text((x, y + 12.0), 12.0, Side::Left, ink, sliders::DEVICES);
    canvas.rect(x, y + 15.0, wide, 1.0, p::faded(ink, 0.6));
    hits.put(Area { x: x - 4.0, y: y - 2.0, wide: wide + 8.0, high: 20.0 }, Hit::Action(sliders::DEVICES.to_owned()));
}

/// The line of the tool's own keys.
fn tools(
    canvas: &mut Canvas<'_>,
    session: &Session,
    area: Area,
    keys: &[(Tool, Option<Control>)],
    (lanes, captured): (&Lanes, bool),
    hits: &mut Hits,
) {
    canvas.rect(area.x, area.y, area.wide, area.high, 0x0a141bff);
    let mut x = area.x + 12.0;
    for (tool, key) in keys {
        let word = match tool {
            Tool::Freeze if lanes.frozen.is_some() => "run".into(),
            Tool::Freeze => "freeze".into(),
            Tool::Undo => "undo".into(),
            Tool::Save => "save numbers".into(),
            Tool::Keep => format!("keep last {} s", RING.as_secs()),
            Tool::Meant => format!("meant: {}", session.chosen.as_deref().unwrap_or("nothing")),
            Tool::Answers => "write answers".into(),
            Tool::Pointer if captured => "free pointer".into(),
            Tool::Pointer => "capture pointer".into(),
        };
        let label = key.map_or("click".to_owned(), |key| key.name().to_string());
        let (cap, text) = (canvas.wide(&label, 12.0) + 12.0, canvas.wide(&word, 12.0));
        if x + cap + text + 12.0 > area.x + area.wide {
            break;
        }
        let off = match tool {
            Tool::Undo => !session.tuning.can_undo(),
            Tool::Save => session.tuning.moved().is_empty(),
            _ => false,
        };
        canvas.card((x, area.y + 5.0), (cap, 20.0), 5.0, p::KEY);
        canvas.text((x + cap / 2.0, area.y + 19.0), 12.0, Side::Middle, p::INK, &label);
        canvas.text((x + cap + 6.0, area.y + 19.0), 12.0, Side::Left, if off { p::DIM } else { p::INK }, &word);
        hits.put(Area { x, y: area.y, wide: cap + text + 12.0, high: area.high }, Hit::Tool(*tool));
        x += cap + text + 22.0;
    }
    let told = if lanes.frozen.is_some() { "frozen; point at a pull or a miss" } else { "point at a pull or a miss" };
    if x + canvas.wide(told, 12.0) + 12.0 < area.x + area.wide {
        let colour = if lanes.frozen.is_some() { p::WAITS } else { p::DIM };
        canvas.text((area.x + area.wide - 12.0, area.y + 19.0), 12.0, Side::Right, colour, told);
    }
}
