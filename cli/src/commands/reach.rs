//! `reach`: which cells a body can get to.

use std::collections::VecDeque;
use std::io::Write;

use anyhow::bail;
use serde_json::json;
use sturdy_quilt::quilt::MoverId;
use sturdy_quilt::{
    CellPos, CellRect, Color, GroundMap, Picture, Quilt, WorldPoint, WorldRect, WorldVec,
};

use super::asked::{around, picture};
use super::words::counted;
use crate::args::ReachArgs;
use crate::{Outcome, map};

/// The most cells of a map that are looked at.
const MAX_CELLS: u64 = 1 << 24;
/// The most columns of a map that is written as text.
const MAX_COLUMNS: u32 = 200;

pub(crate) fn run(args: &ReachArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let opened = map::open(&args.map)?;
    let quilt = &opened.quilt;
    let (mover, ground) = (quilt.mover(&args.mover)?, GroundMap::of(quilt));
    let bounds = quilt.bounds();
    if bounds.cell_count() > MAX_CELLS {
        bail!("the map has more than {MAX_CELLS} cells");
    }
    for (cell, what) in [(Some(args.from), "begin"), (args.to, "end")] {
        if let Some(cell) = cell.filter(|cell| !bounds.contains(*cell)) {
            bail!("{what} within the map: cell {cell} lies outside of {bounds}");
        }
    }
    let walk = Walk { ground: &ground, mover, size: args.size, bounds };
    let reach = Reach::of(&walk, args.from);
    if let Some(path) = &args.output {
        opened.write_picture(path, &reach.picture(quilt, &walk, args.to), out)?;
    }
    let name = &args.mover;
    let stuck: Vec<CellPos> = bounds.cells().filter(|cell| reach.at(*cell) == At::Free).collect();
    if args.json {
        let report = json!({
            "from": args.from,
            "reached": reach.count,
            "free": reach.count + stuck.len(),
            "not_reached": stuck,
            "to": args.to.map(|to| json!({ "cell": to, "steps": reach.steps_to(to) })),
        });
        writeln!(out, "{}", serde_json::to_string_pretty(&report)?)?;
        return Ok(Outcome::Fine);
    }
    if walk.is_stuck(args.from) {
        writeln!(out, "{name}  cannot be in cell {}, where it begins", args.from)?;
    }
    let free = reach.count + stuck.len();
    let of = counted(free, "free cell");
    writeln!(out, "{name}  reaches {} of {of} from {}", reach.count, args.from)?;
    if let Some(to) = args.to {
        match reach.steps_to(to) {
            Some(steps) => writeln!(out, "it gets to {to} in {}", counted(steps as usize, "step"))?,
            None => writeln!(out, "it does not get to {to}")?,
        }
        return Ok(Outcome::Fine);
    }
    if let Some(first) = stuck.first() {
        writeln!(
            out,
            "{} it does not get to, the first is {first}",
            counted(stuck.len(), "free cell")
        )?;
    }
    if bounds.width() > MAX_COLUMNS {
        writeln!(out, "the map is too wide to be written as text: draw it with -o")?;
        return Ok(Outcome::Fine);
    }
    writeln!(out, "      @ here, . reached, ? free and not reached, # blocked")?;
    for y in bounds.top()..bounds.bottom() {
        let sign = |x: i32| match reach.at(CellPos::new(x, y)) {
            _ if CellPos::new(x, y) == args.from => '@',
            At::Reached(_) => '.',
            At::Free => '?',
            At::Blocked => '#',
        };
        let row: String = (bounds.left()..bounds.right()).map(sign).collect();
        writeln!(out, "  {row}")?;
    }
    Ok(Outcome::Fine)
}

/// How a body gets from cell to cell.
struct Walk<'a> {
    ground: &'a GroundMap,
    mover: MoverId,
    /// Of a body that goes from middle to middle; none of one that takes cells as a whole.
    size: Option<(f64, f64)>,
    bounds: CellRect,
}

impl Walk<'_> {
    /// The body in the middle of a cell.
    fn body(&self, cell: CellPos, (width, height): (f64, f64)) -> WorldRect {
        let half = WorldVec::new(width / 2.0, height / 2.0);
        let middle = self.ground.lattice().center(cell);
        let corner = WorldPoint::new(middle.x - half.x, middle.y - half.y);
        WorldRect::between(corner, middle + half)
    }

    /// Whether the body cannot be in a cell.
    fn is_stuck(&self, cell: CellPos) -> bool {
        match self.size {
            None => self.ground.blocked(self.mover, cell),
            Some(size) => self.ground.overlaps(self.mover, self.body(cell, size)),
        }
    }

    /// The cells beside one to which the body gets.
    fn next(&self, cell: CellPos) -> Vec<CellPos> {
        let Some(size) = self.size else {
            return self.ground.steps(self.mover, cell).map(|(next, _)| next).collect();
        };
        let body = self.body(cell, size);
        let beside = self.ground.lattice().neighbors(cell);
        let gets_to = |next: &CellPos| {
            let way = self.ground.lattice().center(*next) - self.ground.lattice().center(cell);
            self.ground.sweep(self.mover, body, way).contact.is_none()
        };
        beside.filter(|next| !self.is_stuck(*next)).filter(gets_to).collect()
    }
}

/// What there is to say of a cell.
#[derive(Clone, Copy, PartialEq)]
enum At {
    /// After so many steps.
    Reached(u32),
    Free,
    Blocked,
}

/// The cells of a map, row by row.
struct Reach {
    bounds: CellRect,
    cells: Vec<At>,
    count: usize,
}

impl Reach {
    fn of(walk: &Walk<'_>, from: CellPos) -> Reach {
        let at = |cell| if walk.is_stuck(cell) { At::Blocked } else { At::Free };
        let cells = walk.bounds.cells().map(at).collect();
        let mut reach = Reach { bounds: walk.bounds, cells, count: 0 };
        let mut open = VecDeque::from([(from, 0)]);
        reach.put(from, 0);
        while let Some((cell, steps)) = open.pop_front() {
            for next in walk.next(cell) {
                if reach.bounds.contains(next) && !matches!(reach.at(next), At::Reached(_)) {
                    reach.put(next, steps + 1);
                    open.push_back((next, steps + 1));
                }
            }
        }
        reach
    }

    fn place(&self, cell: CellPos) -> usize {
        let (x, y) = (cell.x() - self.bounds.left(), cell.y() - self.bounds.top());
        y as usize * self.bounds.width() as usize + x as usize
    }

    fn at(&self, cell: CellPos) -> At {
        self.cells[self.place(cell)]
    }

    fn put(&mut self, cell: CellPos, steps: u32) {
        let place = self.place(cell);
        self.cells[place] = At::Reached(steps);
        self.count += 1;
    }

    fn steps_to(&self, cell: CellPos) -> Option<u32> {
        match self.at(cell) {
            At::Reached(steps) => Some(steps),
            _ => None,
        }
    }

    /// The whole map: green where the body gets, red where it does not although it could be there.
    fn picture(&self, quilt: &Quilt, walk: &Walk<'_>, to: Option<CellPos>) -> Picture {
        let place = around([quilt.lattice().rect_bounds(self.bounds)]);
        picture(quilt, place, |overlay, _| {
            overlay.tint(self.bounds, |cell| match self.at(cell) {
                At::Reached(_) => Some(Color::rgba(60, 220, 90, 110)),
                At::Free => Some(Color::rgba(255, 40, 60, 150)),
                At::Blocked => Some(Color::rgba(10, 12, 30, 120)),
            });
            overlay.solid_edges(walk.ground, walk.mover, Color::rgb(255, 150, 60));
            let start = self.bounds.cells().find(|cell| self.at(*cell) == At::Reached(0));
            for cell in start.into_iter().chain(to) {
                overlay.cell(cell, Color::rgb(255, 240, 120));
            }
        })
    }
}
