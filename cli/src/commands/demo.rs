//! `demo`: writes the demo map and walks through a day's work on it.

use std::borrow::Cow;
use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::Context;
use sturdy_quilt::draw::DrawFigures;
use sturdy_quilt::{
    CellPos, CellRect, Color, DrawList, EditError, GroundMap, Overlay, Quilt, ScreenPoint,
    ScreenSize, View, WorldPoint, WorldRect, WorldVec,
};

use super::draw;
use crate::args::DemoArgs;
use crate::output::Output;
use crate::{Outcome, map, problems};

/// The files of the folder `demo`.
macro_rules! demo_files {
    ($($name:literal),* $(,)?) => {
        [$(($name, include_bytes!(concat!("../../../demo/", $name)).as_slice())),*]
    };
}

const FILES: [(&str, &[u8]); 15] = demo_files![
    "terrace.quilt.json",
    "terrace.tiles.json",
    "terrace.png",
    "trees.tiles.json",
    "trees.png",
    "folk.tiles.json",
    "folk.png",
    "terrace.expects.json",
    "hoist.quilt.json",
    "hoist.tiles.json",
    "hoist.png",
    "ridge.png",
    "market.quilt.json",
    "market.tiles.json",
    "market.png",
];

/// What editors complete and check the documents by.
const SCHEMAS: [(&str, &str); 3] = [
    ("map.schema.json", sturdy_quilt::document::MAP_SCHEMA),
    ("tiles.schema.json", sturdy_quilt::document::TILES_SCHEMA),
    ("expects.schema.json", sturdy_quilt::document::EXPECTS_SCHEMA),
];

const BACKGROUND: Color = Color::rgb(20, 24, 28);

/// A file of the demo, which names its schema where the demo writes that.
fn with_schema_beside<'b>(name: &str, bytes: &'b [u8]) -> Cow<'b, [u8]> {
    match std::str::from_utf8(bytes) {
        Ok(text) if name.ends_with(".json") => {
            text.replacen("../docs/schema/", "schema/", 1).into_bytes().into()
        }
        _ => bytes.into(),
    }
}

pub(crate) fn run(args: &DemoArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let folder = &args.folder;
    let mut output = Output::beside([]);
    for (name, bytes) in FILES {
        let bytes = with_schema_beside(name, bytes).into_owned();
        output.put_unnamed(&folder.join(name), bytes, None)?;
    }
    for (name, text) in SCHEMAS {
        output.put_unnamed(&folder.join("schema").join(name), text.into(), None)?;
    }
    output.write(out)?;
    let mut day = Day { folder, out, step: 0 };
    day.say(
        "Cloudstep, a tea estate on a hillside: three maps, their tile sets and sheets",
        &[
            "terrace.quilt.json",
            "terrace.tiles.json",
            "terrace.png",
            "hoist.quilt.json",
            "market.quilt.json",
        ],
    )?;
    let mut quilt = day.load()?;
    day.look(&quilt)?;
    day.point(&quilt)?;
    let crossing = CellRect::new(CellPos::new(26, 16), 3, 2);
    let ground = day.ask(&quilt, crossing)?;
    day.drive(&quilt, &ground)?;
    day.build(&mut quilt, ground, crossing)?;
    day.save(&quilt)?;
    day.look_from_the_side()?;
    day.look_at_a_slant()?;
    Ok(Outcome::Fine)
}

/// One walk through the day.
struct Day<'a> {
    folder: &'a Path,
    out: &'a mut dyn Write,
    step: usize,
}

impl Day<'_> {
    /// Says what was done, and which files to open.
    fn say(&mut self, what: &str, files: &[&str]) -> anyhow::Result<()> {
        self.step += 1;
        writeln!(self.out, "{}  {what}", self.step)?;
        if !files.is_empty() {
            let paths = files.iter().map(|file| self.folder.join(file).display().to_string());
            writeln!(self.out, "   -> {}", paths.collect::<Vec<_>>().join(" "))?;
        }
        Ok(())
    }

    fn draw(&mut self, quilt: &Quilt, view: &View, name: &str) -> anyhow::Result<DrawFigures> {
        let mut list = DrawList::new();
        list.rebuild(quilt, view);
        self.paint(&list, &Overlay::new(), name)?;
        Ok(list.figures())
    }

    fn paint(&mut self, list: &DrawList, overlay: &Overlay, name: &str) -> anyhow::Result<()> {
        let mut output = Output::beside([]);
        let path = self.folder.join(name);
        output.put_default_picture(&path, &draw::painted(list, overlay, BACKGROUND))?;
        output.write(self.out)
    }

    /// Draws the whole map, with all cells in red that block a cart.
    fn draw_blocked(
        &mut self,
        quilt: &Quilt,
        ground: &GroundMap,
        name: &str,
    ) -> anyhow::Result<()> {
        let view = overview(quilt);
        let (mut list, mut overlay) = (DrawList::new(), Overlay::new());
        list.rebuild(quilt, &view);
        overlay.begin(&view, quilt.lattice());
        overlay.blocked(ground, quilt.mover("cart")?, Color::rgba(214, 48, 40, 128));
        overlay.markers(quilt);
        self.paint(&list, &overlay, name)
    }

    fn load(&mut self) -> anyhow::Result<Quilt> {
        let path: PathBuf = self.folder.join("terrace.quilt.json");
        let expects = map::expectations(&self.folder.join("terrace.expects.json"))?;
        let place = map::located(&path)?;
        let loaded = map::load(&*place.source, &place.name, &expects)?;
        let quilt = loaded.quilt;
        let (layers, tiles) = (quilt.layers().len(), quilt.tiles().len());
        let found = problems::counted(0, loaded.warnings.len());
        let (markers, bounds) = (quilt.markers().count(), quilt.bounds());
        self.say(
            &format!("loaded and checked, also for what the game will ask: {found}; {bounds}, {layers} layers, {tiles} tiles, {markers} markers"),
            &[],
        )?;
        Ok(quilt)
    }

    fn look(&mut self, quilt: &Quilt) -> anyhow::Result<()> {
        let figures = self.draw(quilt, &overview(quilt), "1-terrace.png")?;
        self.say(
            &format!("drew the whole of it: {}", draw::described(&figures)),
            &["1-terrace.png"],
        )?;
        let tree = quilt.lattice().center(CellPos::new(16, 13));
        let close = View::new(ScreenSize::new(1280, 800)).zoomed(5.0).centered_on(tree);
        self.draw(quilt, &close, "2-tree.png")?;
        self.say(
            "moved the camera to a shade tree, zoom 5: the cells of its crown are raised, and will hide whoever walks behind",
            &["2-tree.png"],
        )
    }

    fn point(&mut self, quilt: &Quilt) -> anyhow::Result<()> {
        let pointer = ScreenPoint::pixel(552, 202);
        let cell = quilt.lattice().cell_at(overview(quilt).to_world(pointer));
        let mut content = Vec::new();
        for layer in quilt.layers() {
            let held = layer.cells().get(cell).here().unwrap_or_default();
            if !held.is_empty() {
                content.push(format!("{} in {}", quilt.tiles().notation(held), layer.name()));
            }
        }
        self.say(
            &format!(
                "pointed at pixel 552,202 of the whole: cell {cell}, with {}",
                content.join(", ")
            ),
            &[],
        )
    }

    fn ask(&mut self, quilt: &Quilt, crossing: CellRect) -> anyhow::Result<GroundMap> {
        let ground = GroundMap::of(quilt);
        let cart = quilt.mover("cart")?;
        let cell = crossing.corner();
        let decision =
            quilt.ground_at(cell).here().flatten().context("the channel has no ground")?;
        let class = quilt.ground_rules().class_name(decision.class).unwrap_or_default();
        let blocked = if ground.blocked(cart, cell) { "blocked" } else { "free" };
        let layer = decision.by.name();
        self.draw_blocked(quilt, &ground, "3-cart-before.png")?;
        self.say(
            &format!("asked for the ground at {cell}: {class}, says layer {layer}; a cart is {blocked} there; all cells that block it in red"),
            &["3-cart-before.png"],
        )?;
        Ok(ground)
    }

    /// Lets a cart run down the path: the channel stops it.
    fn drive(&mut self, quilt: &Quilt, ground: &GroundMap) -> anyhow::Result<()> {
        let cart = quilt.mover("cart")?;
        let start = WorldPoint::new(360.0, 256.0);
        let body = WorldRect::between(start, start + WorldVec::new(20.0, 12.0));
        let slide = ground.slide(cart, body, WorldVec::new(200.0, 40.0));
        let met = slide.contacts().next().context("the channel did not stop the cart")?;
        let (end, cell) = (slide.end.min(), met.cell);
        let side = met.side.name();
        self.say(
            &format!("let a cart run from {start} by 200,40: it slides to {end}, stopped by the {side} side of cell {cell}"),
            &[],
        )
    }

    fn build(
        &mut self,
        quilt: &mut Quilt,
        mut ground: GroundMap,
        crossing: CellRect,
    ) -> anyhow::Result<()> {
        let before = quilt.clone();
        let channel = quilt.ground_rules().class("channel")?;
        let edit = quilt.edit("lay a boardwalk", |pen| {
            for cell in crossing.cells() {
                let end = match cell.x() - crossing.left() {
                    0 => "terrace/boardwalk-left",
                    2 => "terrace/boardwalk-right",
                    _ => "terrace/boardwalk",
                };
                let board = pen.tile(end)?;
                pen.put_if("boards", cell, channel, board)?;
            }
            Ok::<(), EditError>(())
        })?;
        let redone = ground.refresh(quilt);
        let cart = quilt.mover("cart")?;
        let blocked = if crossing.cells().any(|cell| ground.blocked(cart, cell)) {
            "blocked"
        } else {
            "free"
        };
        let close = View::new(ScreenSize::new(1280, 800))
            .zoomed(4.0)
            .centered_on(quilt.lattice().rect_bounds(crossing).center());
        self.draw(quilt, &close, "4-boardwalk.png")?;
        let count = edit.changes.cells().count();
        self.say(
            &format!("laid a boardwalk over the channel: {count} cells changed, {redone} chunk of ground derived anew; a cart is {blocked} there"),
            &["4-boardwalk.png"],
        )?;
        self.draw_blocked(quilt, &ground, "5-cart-after.png")?;
        quilt.apply(&edit.changes.inverse())?;
        let undone = quilt.same_as(&before);
        quilt.apply(&edit.changes)?;
        let word = if undone { "exactly as before" } else { "NOT as before" };
        self.say(
            &format!("undid it (the map was {word}) and did it again; where a cart cannot go now"),
            &["5-cart-after.png"],
        )
    }

    fn look_from_the_side(&mut self) -> anyhow::Result<()> {
        let quilt = map::open(&self.folder.join("hoist.quilt.json"))?.quilt;
        let extent = map::extent(&quilt);
        let view = View::new(ScreenSize::new(1280, 800)).fitted_to(extent);
        self.draw(&quilt, &view, "7-hoist.png")?;
        self.say("drew the hoist, a map seen from the side", &["7-hoist.png"])
    }

    fn look_at_a_slant(&mut self) -> anyhow::Result<()> {
        let quilt = map::open(&self.folder.join("market.quilt.json"))?.quilt;
        let size = ScreenSize::new(1280, 800);
        let view = quilt.view(size).fitted_to_pane(quilt.extent_on_pane(quilt.projection()));
        self.draw(&quilt, &view, "8-market.png")?;
        self.say("drew the market, a map of diamonds", &["8-market.png"])
    }

    fn save(&mut self, quilt: &Quilt) -> anyhow::Result<()> {
        let path = self.folder.join("terrace-with-boards.quilt.json");
        let mut output = Output::beside([]);
        output.put_unnamed(&path, quilt.to_json()?.into(), None)?;
        output.write(self.out)?;
        let again = map::open(&path)?.quilt;
        let same = if again.same_as(quilt) { "the same map" } else { "ANOTHER map" };
        self.draw(&again, &overview(&again), "6-saved.png")?;
        self.say(
            &format!("saved it under another name, loaded that ({same}) and drew it"),
            &["terrace-with-boards.quilt.json", "6-saved.png"],
        )
    }
}

/// The whole map.
fn overview(quilt: &Quilt) -> View {
    let extent = map::extent(quilt);
    let size = ScreenSize::new(extent.width() as u32, extent.height() as u32);
    View::new(size).centered_on(extent.center())
}
