//! `demo`: writes the demo map and walks through a day's work on it.

use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::Context;
use sturdy_quilt::{
    CellPos, CellRect, Color, DrawFigures, EditError, GroundMap, LayerSettings, Quilt, ScreenPoint,
    ScreenSize, TileSet, TileSpec, View,
};

use super::draw;
use crate::args::DemoArgs;
use crate::{Outcome, map, problems};

const FILES: [(&str, &[u8]); 3] = [
    ("terrace.quilt.json", include_bytes!("../../../demo/terrace.quilt.json")),
    ("terrace.tiles.json", include_bytes!("../../../demo/terrace.tiles.json")),
    ("terrace.png", include_bytes!("../../../demo/terrace.png")),
];

const BACKGROUND: Color = Color::rgb(20, 24, 28);

pub(crate) fn run(args: &DemoArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let folder = &args.folder;
    std::fs::create_dir_all(folder)
        .with_context(|| format!("`{}` cannot be made", folder.display()))?;
    for (name, bytes) in FILES {
        let path = folder.join(name);
        std::fs::write(&path, bytes)
            .with_context(|| format!("`{}` cannot be written", path.display()))?;
    }
    let mut day = Day { folder, out, step: 0 };
    day.say(
        "Cloudstep, a tea estate on a hillside: the map, its tile set and its sheet",
        &["terrace.quilt.json", "terrace.tiles.json", "terrace.png"],
    )?;
    let mut quilt = day.load()?;
    day.look(&quilt)?;
    day.point(&quilt)?;
    let crossing = CellRect::new(CellPos::new(26, 16), 3, 2);
    let ground = day.ask(&quilt, crossing)?;
    day.build(&mut quilt, ground, crossing)?;
    day.save(&quilt)?;
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

    fn draw(&self, quilt: &Quilt, view: &View, name: &str) -> anyhow::Result<DrawFigures> {
        draw::to_file(quilt, view, BACKGROUND, &self.folder.join(name))
    }

    fn load(&mut self) -> anyhow::Result<Quilt> {
        let path: PathBuf = self.folder.join("terrace.quilt.json");
        let loaded = map::open(&path)?;
        let quilt = loaded.quilt;
        let (layers, tiles) = (quilt.layers().len(), quilt.tiles().len());
        let found = problems::counted(0, loaded.warnings.len());
        let (markers, bounds) = (quilt.markers().count(), quilt.bounds());
        self.say(
            &format!("loaded and checked: {found}; {bounds}, {layers} layers, {tiles} tiles, {markers} markers"),
            &[],
        )?;
        Ok(quilt)
    }

    fn look(&mut self, quilt: &Quilt) -> anyhow::Result<()> {
        let figures = self.draw(quilt, &overview(quilt), "1-terrace.png")?;
        self.say(
            &format!("drew the whole of it at zoom 2: {}", draw::described(&figures)),
            &["1-terrace.png"],
        )?;
        let tree = quilt.lattice().center(CellPos::new(16, 13));
        let close = View::new(ScreenSize::new(1280, 800)).zoomed(5.0).centered_on(tree);
        self.draw(quilt, &close, "2-tree.png")?;
        self.say(
            "moved the camera to the shade tree, zoom 5; the cells of its crown are raised, and will hide whoever walks behind",
            &["2-tree.png"],
        )
    }

    fn point(&mut self, quilt: &Quilt) -> anyhow::Result<()> {
        let pointer = ScreenPoint::pixel(1088, 410);
        let cell = quilt.lattice().cell_at(overview(quilt).to_world(pointer));
        let mut content = Vec::new();
        for layer in quilt.layers() {
            let held = layer.cells().get(cell).here().unwrap_or_default();
            if !held.is_empty() {
                content.push(format!("{} in {}", quilt.tiles().notation(held), layer.name()));
            }
        }
        self.say(
            &format!("pointed at pixel 1088,410 of it: cell {cell}, with {}", content.join(", ")),
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
        let layer = decision.layer.name();
        self.draw(&with_blocked_cells(quilt, &ground)?, &overview(quilt), "3-cart-before.png")?;
        self.say(
            &format!("asked for the ground at {cell}: {class}, says layer {layer}; a cart is {blocked} there; all cells that block it in red"),
            &["3-cart-before.png"],
        )?;
        Ok(ground)
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
        self.draw(&with_blocked_cells(quilt, &ground)?, &overview(quilt), "5-cart-after.png")?;
        quilt.apply(&edit.changes.inverse())?;
        let undone = quilt.same_as(&before);
        quilt.apply(&edit.changes)?;
        let word = if undone { "exactly as before" } else { "NOT as before" };
        self.say(
            &format!("undid it (the map was {word}) and did it again; where a cart cannot go now"),
            &["5-cart-after.png"],
        )
    }

    fn save(&mut self, quilt: &Quilt) -> anyhow::Result<()> {
        let path = self.folder.join("terrace-with-boards.quilt.json");
        quilt.save(&path)?;
        let again = map::open(&path)?.quilt;
        let same = if again.same_as(quilt) { "the same map" } else { "ANOTHER map" };
        self.draw(&again, &overview(&again), "6-saved.png")?;
        self.say(
            &format!("saved it under another name, loaded that ({same}) and drew it"),
            &["terrace-with-boards.quilt.json", "6-saved.png"],
        )
    }
}

/// The whole map at zoom 2.
fn overview(quilt: &Quilt) -> View {
    let extent = map::extent(quilt);
    let size = ScreenSize::new((extent.width() * 2.0) as u32, (extent.height() * 2.0) as u32);
    View::new(size).zoomed(2.0).centered_on(extent.center())
}

/// The map with a red layer over the cells that block a cart. It is a clone: nothing of it comes
/// into the map itself.
fn with_blocked_cells(quilt: &Quilt, ground: &GroundMap) -> anyhow::Result<Quilt> {
    let mut marked = quilt.clone();
    let cart = quilt.mover("cart")?;
    marked.edit("mark what blocks a cart", |pen| {
        let red = TileSpec::named("blocked").color(Color::rgb(214, 48, 40));
        pen.put_tiles(TileSet::builder("notes").tile(red).build()?)?;
        pen.add_layer("notes", LayerSettings::default().priority(1000).opacity(0.5))?;
        let red = pen.tile("notes/blocked")?;
        for cell in ground.bounds().cells().filter(|cell| ground.blocked(cart, *cell)) {
            pen.put("notes", cell, red)?;
        }
        Ok::<(), EditError>(())
    })?;
    Ok(marked)
}
