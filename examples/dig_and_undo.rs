//! Two people edit one map that keeps a journal: one digs, the other lays stones; the digging is undone, and
//! the program is killed.
//!
//! Run with `cargo run --example dig_and_undo [FOLDER]`; the map, its journal and a picture go to FOLDER, or
//! to `target/dig_and_undo`.

use std::error::Error;
use std::fs::{self, File};
use std::io::Write;
use std::path::{Path, PathBuf};

use sturdy_quilt::document::{Journal, Limits};
use sturdy_quilt::edit::History;
use sturdy_quilt::units::ScreenRect;
use sturdy_quilt::{
    CellPos, CellRect, CellSet, Color, DrawList, Frame, Overlay, Painter, Quilt, ScreenSize, View,
};

const SCREEN: ScreenSize = ScreenSize::new(1280, 800);
const PANEL: ScreenSize = ScreenSize::new(638, 398);

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("target/dig_and_undo".into(), PathBuf::from);
    let save = copied_map(&folder)?;
    let path = folder.join("terrace.journal");
    let mut sheet = Sheet::new();

    // The journal is locked first, then the map is loaded, then what was done since is done again.
    let open = Journal::open(&path, &save)?;
    let mut quilt = Quilt::open(&save)?;
    let (journal, _) = open.replay(&mut quilt, &Limits::default())?;
    let saved = quilt.clone();

    // One press of the pointer: each frame brings some samples, and the stroke has no gaps between them.
    let mut mine = History::new();
    let samples = [(25, 21), (22, 22), (19, 20), (17, 23), (9, 22), (5, 25)];
    let samples = samples.map(|(x, y)| CellPos::new(x, y));
    for ends in samples.windows(2) {
        let dug = quilt.edit("dig a ditch", |pen| {
            pen.stroke(["soil"], ends, "terrace/water")?;
            // Nothing grows or stands in it.
            pen.stroke(["growth"], ends, sturdy_quilt::Cell::EMPTY)
        })?;
        journal.append(&dug.changes);
        mine.join(dug.changes);
    }
    mine.end_step();
    let ditch = mine.steps().map(|(step, _)| step.area()).next().unwrap_or_default();
    println!("dug a ditch of {} cells in one step", ditch.len());

    // What a pond would change is asked before it is dug.
    let pond = CellSet::ellipse(CellRect::new(CellPos::new(2, 23), 8, 6))?;
    let ghost = quilt.preview("dig a pond", |pen| pen.lay("soil", &pond, "terrace/water"))?;
    println!("a pond would change {} cells", ghost.changes.cells().count());
    let shown = ghost.changes.ghost(&quilt, 0.7)?;
    sheet.draw(0, &shown.map, "a ditch, and the ghost of a pond", &ghost.result)?;

    // Meanwhile somebody else lays stones across the ditch.
    let stones: Vec<CellPos> = ditch.iter().skip(4).step_by(6).collect();
    let theirs = quilt.edit("lay stones", |pen| {
        stones.iter().try_for_each(|at| pen.put("soil", *at, "terrace/pebbles").map(drop))
    })?;
    journal.append(&theirs.changes);
    sheet.draw(1, &quilt, "somebody lays stones across", &theirs.changes.area())?;

    // The digging is undone as far as nobody has changed it since.
    let undone = mine.undo_own(&mut quilt)?.ok_or("there is a step")?;
    journal.append(&undone.changes);
    println!("undone: {}, {} cells", undone.changes.label(), undone.changes.area().len());
    for conflict in &undone.conflicts {
        println!("left as it is: {conflict}");
    }
    sheet.draw(2, &quilt, "the ditch is undone, the stones stay", &theirs.changes.area())?;

    // The program is killed while it writes: the last record is torn.
    journal.close()?;
    File::options().append(true).open(&path)?.write_all(b"SQch\x01\x00\x60torn")?;
    let open = Journal::open(&path, &save)?;
    let mut again = Quilt::open(&save)?;
    let (journal, replayed) = open.replay(&mut again, &Limits::default())?;
    if let Some(cut) = &replayed.cut {
        println!("{} bytes at the end of the journal were torn: {}", cut.bytes, cut.fault);
    }
    let same = if again.same_as(&quilt) { "the same map" } else { "another map" };
    println!("{} changes replayed: {same}", replayed.changes.len());

    // Everything is undone, from the journal alone, and the result becomes the new save.
    for changes in replayed.changes.iter().rev() {
        let inverse = changes.inverse();
        again.apply(&inverse)?;
        journal.append(&inverse);
    }
    let same = if again.same_as(&saved) { "the map as it was saved" } else { "another map" };
    println!("all undone: {same}");
    let snapshot = again.clone();
    journal.compact(move || Ok(snapshot.to_json()?.into_bytes())).wait()?;
    println!("the journal has {} bytes", journal.status().bytes);
    sheet.draw(3, &again, "all is undone, from the journal", &CellSet::new())?;
    let picture = folder.join("dig-and-undo.png");
    fs::write(&picture, sheet.frame.to_picture().to_png()?)?;
    println!("see {}", picture.display());
    Ok(())
}

/// Copies the map of the demo with its tile sets, since a journal belongs to a save; gives its path.
fn copied_map(folder: &Path) -> Result<PathBuf, Box<dyn Error>> {
    fs::create_dir_all(folder)?;
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("demo");
    let save = folder.join("terrace.quilt.json");
    fs::copy(demo.join("terrace.quilt.json"), &save)?;
    for set in ["terrace", "trees", "folk"] {
        for ending in ["tiles.json", "png"] {
            let name = format!("{set}.{ending}");
            fs::copy(demo.join(&name), folder.join(&name))?;
        }
    }
    // One of an earlier run leads on from another save.
    fs::remove_file(folder.join("terrace.journal")).ok();
    Ok(save)
}

/// A picture with four states of the map.
struct Sheet {
    frame: Frame,
    painter: Painter,
}

impl Sheet {
    fn new() -> Sheet {
        let mut frame = Frame::new(SCREEN);
        frame.clear(Color::rgb(240, 240, 240));
        Sheet { frame, painter: Painter::new() }
    }

    fn draw(
        &mut self,
        number: i32,
        quilt: &Quilt,
        words: &str,
        lit: &CellSet,
    ) -> Result<(), Box<dyn Error>> {
        let near = CellRect::new(CellPos::new(1, 16), 29, 14);
        let view = View::new(PANEL).fitted_to(quilt.lattice().rect_bounds(near));
        let (mut list, mut overlay) = (DrawList::new(), Overlay::new());
        list.rebuild(quilt, &view);
        overlay.begin(&view, quilt.lattice());
        overlay.cell_set(lit, Color::rgb(255, 240, 120));
        overlay.label(8, 8, words, Color::rgb(255, 240, 120));
        let (left, top) = (number % 2 * 642, number / 2 * 402);
        let (width, height) = (PANEL.width as i32, PANEL.height as i32);
        let part = ScreenRect { left, top, right: left + width, bottom: top + height };
        self.painter.paint_with(&list, &[&overlay], self.frame.part(part));
        Ok(())
    }
}
