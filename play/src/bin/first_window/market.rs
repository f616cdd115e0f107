//! The market, seen at a slant: a click stacks a hamper on the face that it points at, and the map turns.

use std::error::Error;

use sturdy_quilt::edit::Condition;
use sturdy_quilt::inspect::{Picked, PickedPart};
use sturdy_quilt::quilt::MoverId;
use sturdy_quilt::units::ScreenVec;
use sturdy_quilt::{
    Clock, Color, DrawList, Frame, GroundMap, Overlay, Painter, Quilt, ScreenPoint, ScreenSize,
    Sprite, TileId, View, WorldPoint, WorldRect, WorldVec,
};
use sturdy_quilt_play::{Event, Game, Key};

/// World units a tick at full speed.
const PACE: f64 = 0.5;
const PLAYER: u64 = 0;
/// The layers of hampers, from the ground up.
const STOREYS: [&str; 3] = ["low", "mid", "high"];

pub(crate) struct Market {
    quilt: Quilt,
    ground: GroundMap,
    picker: MoverId,
    /// What the walker stands on: the box that meets the ground.
    body: WorldRect,
    looks: TileId,
    hamper: TileId,
    hampers_laid: usize,
    held: Vec<Key>,
    pointer: ScreenPoint,
    shows_figures: bool,
    ticks: u64,
    view: View,
    list: DrawList,
    overlay: Overlay,
    painter: Painter,
    frame: Frame,
}

impl Market {
    pub(crate) fn new() -> Result<Market, Box<dyn Error>> {
        let quilt = Quilt::open(concat!(env!("CARGO_MANIFEST_DIR"), "/../demo/market.quilt.json"))?;
        let start = quilt.marker("gate")?.place();
        let half = WorldVec::new(2.5, 2.5);
        Ok(Market {
            ground: GroundMap::of(&quilt),
            picker: quilt.mover("picker")?,
            body: WorldRect::between(start - half, start + half),
            looks: quilt.tile("market/porter")?,
            hamper: quilt.tile("market/hamper")?,
            hampers_laid: 0,
            held: Vec::new(),
            pointer: ScreenPoint::default(),
            shows_figures: false,
            ticks: 0,
            view: quilt.view(ScreenSize::default()).zoomed(2.0),
            list: DrawList::new(),
            overlay: Overlay::new(),
            painter: Painter::new(),
            frame: Frame::new(ScreenSize::default()),
            quilt,
        })
    }

    /// Walks as the held keys say: up is up on the screen, however the map is turned.
    fn walk(&mut self) {
        let along = |more: Key, less: Key| {
            let is_held = |key| f32::from(u8::from(self.held.contains(&key)));
            is_held(more) - is_held(less)
        };
        let keys = (along(Key::Right, Key::Left), along(Key::Down, Key::Up));
        let way = self.view.way_to_world(ScreenVec::new(keys.0, keys.1));
        let length = way.x.hypot(way.y);
        if length == 0.0 {
            return;
        }
        let pace = PACE * self.ground.slowest_under(self.picker, self.body) / length;
        self.body = self.ground.slide(self.picker, self.body, way * pace).end;
    }

    /// The thing under the pointer, as it is seen.
    fn pointed(&self) -> Option<Picked> {
        self.list.pick(self.pointer).find(|picked| picked.key.sprite.is_none())
    }

    /// Stacks a hamper on the face under the pointer.
    fn build(&mut self) {
        let Some(picked) = self.pointed().filter(|picked| picked.part == PickedPart::Face) else {
            return;
        };
        let layer = self.quilt.layers()[picked.key.layer as usize].name();
        let above = match STOREYS.iter().position(|storey| *storey == layer) {
            None if layer == "ground" => STOREYS[0],
            Some(storey) if storey + 1 < STOREYS.len() => STOREYS[storey + 1],
            _ => return,
        };
        let (cell, hamper) = (picked.key.place, self.hamper);
        match self.quilt.edit("a hamper", |pen| pen.put_if(above, cell, Condition::Empty, hamper)) {
            Ok(edit) => self.hampers_laid += usize::from(edit.result),
            Err(error) => eprintln!("no hamper at {cell}: {error}"),
        }
        self.ground.refresh(&self.quilt);
    }

    fn follow(&mut self) {
        let map = self.quilt.lattice().rect_bounds(self.ground.bounds());
        self.view = self.view.centered_on(self.body.center()).kept_in(map);
    }
}

impl Game for Market {
    fn event(&mut self, event: Event) {
        match event {
            Event::Press(Key::Figures) => self.shows_figures = !self.shows_figures,
            Event::Press(Key::TurnLeft) => self.view = self.view.faced(-1),
            Event::Press(Key::TurnRight) => self.view = self.view.faced(1),
            Event::Press(key) => self.held.push(key),
            Event::Release(key) => self.held.retain(|held| *held != key),
            Event::Point(point) => self.pointer = point,
            Event::Click => {
                // What is seen now is what was clicked on.
                self.paint();
                self.build();
            }
            Event::Resize(size) => {
                self.view = self.view.resized(size);
                self.frame = Frame::new(size);
                self.follow();
            }
            Event::Tick => {
                self.ticks += 1;
                self.walk();
                self.follow();
            }
        }
    }

    fn paint(&mut self) -> &Frame {
        let walker = Sprite::new(PLAYER, self.looks, self.body.center())
            .with_priority(10)
            .with_ground_box(self.body);
        let clock = Clock::at_ms(self.ticks * 1000 / 60);
        self.list.rebuild_with(&self.quilt, &self.view, &clock, &[walker]);
        self.frame.clear(Color::rgb(20, 24, 28));
        self.painter.paint(&self.list, &mut self.frame);
        self.overlay.begin(&self.view, self.quilt.lattice());
        if let Some(picked) = self.pointed() {
            let light = Color::rgb(255, 220, 96);
            self.overlay.face(picked.key.place, picked.key.elevation, light);
        }
        if self.shows_figures {
            self.overlay.figures(&self.quilt, &self.list, Some(self.pointer));
        }
        self.painter.paint_overlay(&self.overlay, &mut self.frame);
        &self.frame
    }

    fn report(&self) -> String {
        let WorldPoint { x, y } = self.body.center();
        format!("the porter stands at {x:.1},{y:.1}; {} hampers laid", self.hampers_laid)
    }
}
