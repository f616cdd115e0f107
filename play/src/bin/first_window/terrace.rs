//! The terrace, seen from above: a click lays a board over the channel.

use std::error::Error;

use sturdy_quilt::edit::Extraction;
use sturdy_quilt::quilt::{GroundClass, MoverId};
use sturdy_quilt::{
    Anchor, Cell, Clock, Color, DrawList, Frame, GroundMap, Overlay, Painter, Quilt, ScreenPoint,
    ScreenSize, Sprite, TileId, Turn, View, WorldPoint, WorldRect, WorldVec,
};
use sturdy_quilt_play::{Event, Game, Key};

/// World units a tick at full speed.
const PACE: f64 = 1.5;
const PLAYER: u64 = 0;

pub(crate) struct Terrace {
    quilt: Quilt,
    ground: GroundMap,
    picker: MoverId,
    /// What the picker stands on: the box that meets the ground.
    body: WorldRect,
    looks: [TileId; 3],
    shown: Cell,
    water: GroundClass,
    board: TileId,
    boards_laid: usize,
    others: Vec<Sprite>,
    held: Vec<Key>,
    pointer: ScreenPoint,
    shows_figures: bool,
    view: View,
    list: DrawList,
    overlay: Overlay,
    painter: Painter,
    frame: Frame,
}

impl Terrace {
    pub(crate) fn new() -> Result<Terrace, Box<dyn Error>> {
        let mut quilt =
            Quilt::open(concat!(env!("CARGO_MANIFEST_DIR"), "/../demo/terrace.quilt.json"))?;
        // Who is painted on the map becomes an object: all but the one whom we play stay put.
        let marked = quilt.tiles().find_where(|tile| tile.data().get("object").is_some());
        let extraction = Extraction::tiles(marked.collect::<Vec<_>>()).with_anchor(Anchor::Foot);
        let taken = quilt.edit("set out", |pen| pen.extract("folk", &extraction))?.result;
        let start = quilt.marker("picker-1")?;
        let foot = quilt.lattice().foot(start.cell_pos());
        let others = taken.iter().zip(1..).filter(|(one, _)| one.cell != start.cell_pos());
        let others =
            others.map(|(one, key)| Sprite::new(key, one.value, one.place).with_priority(10));
        let looks = ["folk/picker-front", "folk/picker-back", "folk/picker-side"];
        let looks = [quilt.tile(looks[0])?, quilt.tile(looks[1])?, quilt.tile(looks[2])?];
        Ok(Terrace {
            ground: GroundMap::of(&quilt),
            picker: quilt.mover("picker")?,
            body: WorldRect::between(
                foot - WorldVec::new(4.0, 6.0),
                foot + WorldVec::new(4.0, 0.0),
            ),
            shown: looks[0].into(),
            looks,
            water: quilt.ground_rules().class("channel")?,
            board: quilt.tile("terrace/boardwalk")?,
            boards_laid: 0,
            others: others.collect(),
            held: Vec::new(),
            pointer: ScreenPoint::default(),
            shows_figures: false,
            view: View::new(ScreenSize::default()).zoomed(3.0),
            list: DrawList::new(),
            overlay: Overlay::new(),
            painter: Painter::new(),
            frame: Frame::new(ScreenSize::default()),
            quilt,
        })
    }

    fn foot(&self) -> WorldPoint {
        WorldPoint::new(self.body.center().x, self.body.max().y)
    }

    /// Walks as the held keys say, slower where the ground is heavy.
    fn walk(&mut self) {
        let along = |more: Key, less: Key| {
            let is_held = |key| f64::from(u8::from(self.held.contains(&key)));
            is_held(more) - is_held(less)
        };
        let (x, y) = (along(Key::Right, Key::Left), along(Key::Down, Key::Up));
        if x == 0.0 && y == 0.0 {
            return;
        }
        let [front, back, side] = self.looks;
        let looks = if x != 0.0 {
            side
        } else if y < 0.0 {
            back
        } else {
            front
        };
        let turn = if x < 0.0 { Turn::MIRROR } else { Turn::NONE };
        self.shown = Cell::of(looks).with_turn(turn);
        let pace = PACE * self.ground.slowest_under(self.picker, self.body) / x.hypot(y);
        self.body = self.ground.slide(self.picker, self.body, WorldVec::new(x, y) * pace).end;
    }

    /// Lays a board in the cell under the pointer, if that is water.
    fn build(&mut self) {
        let cell = self.quilt.lattice().cell_at(self.view.to_world(self.pointer));
        let (water, board) = (self.water, self.board);
        match self.quilt.edit("lay a board", |pen| pen.put_if("boards", cell, water, board)) {
            Ok(edit) => self.boards_laid += usize::from(edit.result),
            Err(error) => eprintln!("no board at {cell}: {error}"),
        }
        self.ground.refresh(&self.quilt);
    }

    /// The camera follows the picker and stays on the map.
    fn follow(&mut self) {
        let map = self.quilt.lattice().rect_bounds(self.ground.bounds());
        self.view = self.view.centered_on(self.body.center()).kept_in(map);
    }
}

impl Game for Terrace {
    fn event(&mut self, event: Event) {
        match event {
            Event::Press(Key::Figures) => self.shows_figures = !self.shows_figures,
            Event::Press(key) => self.held.push(key),
            Event::Release(key) => self.held.retain(|held| *held != key),
            Event::Point(point) => self.pointer = point,
            Event::Click => self.build(),
            Event::Resize(size) => {
                self.view = self.view.resized(size);
                self.frame = Frame::new(size);
                self.follow();
            }
            Event::Tick => {
                self.walk();
                self.follow();
            }
        }
    }

    fn paint(&mut self) -> &Frame {
        let mut sprites = self.others.clone();
        sprites.push(Sprite::new(PLAYER, self.shown, self.foot()).with_priority(10));
        self.list.rebuild_with(&self.quilt, &self.view, &Clock::new(), &sprites);
        self.frame.clear(Color::rgb(20, 24, 28));
        self.painter.paint(&self.list, &mut self.frame);
        self.overlay.begin(&self.view, self.quilt.lattice());
        let under = self.quilt.lattice().cell_at(self.view.to_world(self.pointer));
        self.overlay.cell(under, Color::rgb(255, 220, 96));
        if self.shows_figures {
            self.overlay.figures(&self.quilt, &self.list, Some(self.pointer));
        }
        self.painter.paint_overlay(&self.overlay, &mut self.frame);
        &self.frame
    }

    fn report(&self) -> String {
        let WorldPoint { x, y } = self.foot();
        format!("the picker stands at {x:.1},{y:.1}; {} boards laid", self.boards_laid)
    }
}
