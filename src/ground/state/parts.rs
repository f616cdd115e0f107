//! Cells whose ground is not the same everywhere: the parts of them that tiles with a shape state,
//! and what is left to the layers below.
//!
//! Most cells of a map are alike in this, so each combination is kept once, with the convex pieces
//! that follow from it, and a cell has its number. Pieces depend on what of it stops a mover: a
//! passable board over water leaves solid strips beside it, a post in water that stops as well
//! leaves none. Movers that are stopped by the same share a pattern, and pieces are kept by that.

use rustc_hash::FxHashMap;
use triomphe::Arc;

use super::codes::{UNSTATED, is_class};
use super::convex_shapes::{ConvexNumber, ConvexShapes};
use crate::ground::shape::{ConvexShape, cuts};
use crate::lattice::Lattice;
use crate::quilt::{GroundClass, Treatment};
use crate::tile::CellShape;
use crate::units::{Side, WorldVec};

/// The number of a combination of parts; 0 where the whole cell has one class.
pub(crate) type PartsNumber = u32;

/// The most tiles with a shape that count in one cell; those below them state nothing.
pub(crate) const MAX_SHAPES: usize = 4;

/// What a source states of a part of a cell: the convex shape of the tile, 0 for all that is left.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Statement {
    pub(crate) convex: ConvexNumber,
    pub(crate) code: u8,
}

/// The sides by which a mover cannot come into something, a bit each, and whether it cannot be in
/// it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
struct Stop(u8);

impl Stop {
    fn of(treatment: Treatment) -> Stop {
        let sides = Side::ALL.iter().zip(0..).map(|(side, bit)| (treatment.stops_at(*side), bit));
        let bits = sides.chain([(treatment.blocks(), 4)]);
        Stop(bits.fold(0, |bits, (stops, bit)| bits | u8::from(stops) << bit))
    }

    const fn blocks(self) -> bool {
        self.0 >> 4 == 1
    }
}

/// What stops some movers.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Pattern {
    by_class: [Stop; GroundClass::MAX_COUNT],
    empty: Stop,
    unloaded: Stop,
}

impl Pattern {
    pub(crate) fn new(by_class: &[Treatment], empty: Treatment, unloaded: Treatment) -> Pattern {
        let mut stops = [Stop::default(); GroundClass::MAX_COUNT];
        stops.iter_mut().zip(by_class).for_each(|(stop, held)| *stop = Stop::of(*held));
        Pattern { by_class: stops, empty: Stop::of(empty), unloaded: Stop::of(unloaded) }
    }

    fn stop(&self, code: u8) -> Stop {
        if is_class(code) {
            self.by_class[usize::from(code)]
        } else if code == UNSTATED {
            self.empty
        } else {
            self.unloaded
        }
    }
}

/// A convex part of a cell that stops movers of some pattern.
#[derive(Clone, Debug)]
pub(crate) struct SolidPart {
    pub(crate) convex: ConvexShape,
    /// The code of it; `None` where that is the code of the whole cell.
    pub(crate) code: Option<u8>,
}

/// A part of the ground of a cell.
#[derive(Clone, Debug)]
pub(crate) struct Part {
    /// The part that a tile states, though some of it may lie under parts above; the whole cell for
    /// the lowest.
    pub(crate) shape: CellShape,
    convex: ConvexShape,
    pub(crate) code: u8,
    /// What shows of it, as convex pieces that overlap.
    pub(crate) cover: Vec<ConvexShape>,
    /// The same as polygons that do not, in world units from the corner of the cell.
    pub(crate) apart: Vec<Vec<WorldVec>>,
}

/// The ground of a cell part by part.
#[derive(Clone, Debug)]
pub(crate) struct CellParts {
    /// From the top down, those of which anything shows.
    pub(crate) parts: Vec<Part>,
    /// By pattern: what stops, or `None` where all parts are taken alike.
    solids: Vec<Option<Arc<Vec<SolidPart>>>>,
}

impl PartialEq for CellParts {
    fn eq(&self, other: &CellParts) -> bool {
        let stated = |parts: &CellParts| -> Vec<(CellShape, u8)> {
            parts.parts.iter().map(|part| (part.shape, part.code)).collect()
        };
        stated(self) == stated(other)
    }
}

/// All combinations that a map has had.
#[derive(Clone, Debug)]
pub(crate) struct PartsTable {
    lattice: Lattice,
    patterns: Arc<Vec<Pattern>>,
    /// From number 1 on.
    list: Vec<Arc<CellParts>>,
    numbers: FxHashMap<Vec<Statement>, PartsNumber>,
    whole: SolidPart,
}

impl PartsTable {
    pub(crate) fn new(lattice: Lattice, patterns: Vec<Pattern>) -> PartsTable {
        let convex = ConvexShape::new(CellShape::whole(lattice.shape()), &lattice);
        PartsTable {
            lattice,
            patterns: Arc::new(patterns),
            list: Vec::new(),
            numbers: FxHashMap::default(),
            whole: SolidPart { convex, code: None },
        }
    }

    /// The number of what is stated of a cell from the top down, the last of all that is left.
    pub(super) fn number_of(
        table: &mut Arc<PartsTable>,
        statements: &[Statement],
        convexes: &ConvexShapes,
    ) -> PartsNumber {
        if statements.len() < 2 {
            return 0;
        }
        match table.numbers.get(statements) {
            Some(number) => *number,
            None => Arc::make_mut(table).add(statements, convexes),
        }
    }

    fn add(&mut self, statements: &[Statement], convexes: &ConvexShapes) -> PartsNumber {
        let mut above: Vec<CellShape> = Vec::new();
        let mut parts: Vec<Part> = Vec::new();
        for Statement { convex, code } in statements {
            let convex = convexes.get(*convex);
            let cover = cuts::less(convex.shape(), &above);
            above.push(*convex.shape());
            if cover.is_empty() {
                continue;
            }
            let world = |(x, y): &(f64, f64)| {
                WorldVec::new(x * self.lattice.cell_width(), y * self.lattice.cell_height())
            };
            let apart = cuts::apart(&cover);
            parts.push(Part {
                shape: *convex.shape(),
                convex: convex.clone(),
                code: *code,
                cover: cover.iter().map(|shape| ConvexShape::new(*shape, &self.lattice)).collect(),
                apart: apart.iter().map(|one| one.iter().map(world).collect()).collect(),
            });
        }
        let mut kept: FxHashMap<Vec<Stop>, Option<Arc<Vec<SolidPart>>>> = FxHashMap::default();
        let mut solids = Vec::with_capacity(self.patterns.len());
        for pattern in self.patterns.iter() {
            let stops: Vec<Stop> = parts.iter().map(|part| pattern.stop(part.code)).collect();
            let held = kept.entry(stops).or_insert_with_key(|stops| self.solids(&parts, stops));
            solids.push(held.clone());
        }
        self.list.push(Arc::new(CellParts { parts, solids }));
        // A map has fewer cells than this can count.
        let number = self.list.len() as PartsNumber;
        self.numbers.insert(statements.to_vec(), number);
        number
    }

    /// What stops, by what of each part does; `None` where all parts are alike.
    fn solids(&self, parts: &[Part], stops: &[Stop]) -> Option<Arc<Vec<SolidPart>>> {
        if stops.iter().all(|stop| *stop == stops[0]) {
            return None;
        }
        let mut solids = Vec::new();
        for (at, part) in parts.iter().enumerate().filter(|(at, _)| stops[*at] != Stop(0)) {
            // Those above that are taken alike may be covered too: so no seam is left. What is
            // one-way keeps its outline, since whoever is within would meet the edges of pieces.
            let is_cut = |stop: &Stop| stops[at].blocks() && *stop != stops[at];
            let above = parts[..at].iter().zip(stops).filter(|(_, stop)| is_cut(stop));
            let above: Vec<CellShape> = above.map(|(part, _)| part.shape).collect();
            for shape in cuts::less(&part.shape, &above) {
                let convex = ConvexShape::new(shape, &self.lattice);
                solids.push(SolidPart { convex, code: Some(part.code) });
            }
        }
        Some(Arc::new(solids))
    }

    /// The parts of a number; `None` for that of a whole cell.
    pub(crate) fn get(&self, number: PartsNumber) -> Option<&Arc<CellParts>> {
        self.list.get((number as usize).checked_sub(1)?)
    }

    /// Whether cells are as large as in another.
    pub(crate) fn is_like(&self, other: &PartsTable) -> bool {
        self.lattice == other.lattice
    }

    /// The whole cell.
    pub(crate) const fn whole(&self) -> &SolidPart {
        &self.whole
    }
}

impl CellParts {
    /// What stops movers of a pattern, where they do not take all parts alike.
    pub(crate) fn solids(&self, pattern: usize) -> Option<&[SolidPart]> {
        self.solids.get(pattern)?.as_ref().map(|solids| solids.as_slice())
    }

    /// The code of the part in which a point lies, from the corner of the cell.
    pub(crate) fn code_at(&self, place: WorldVec) -> u8 {
        let found = self.parts.iter().find(|part| part.convex.contains(place));
        // Where a strip too thin to count was left out, what lies lowest goes on.
        found.or(self.parts.last()).map_or(UNSTATED, |part| part.code)
    }

    /// The parts that a line goes through: from when to when, in parts of it, and the code.
    pub(crate) fn along(&self, from: WorldVec, motion: WorldVec) -> Vec<(f64, f64, u8)> {
        let mut times = vec![0.0, 1.0];
        for part in &self.parts {
            times.extend(part.convex.span(from, motion).into_iter().flatten());
        }
        times.sort_unstable_by(f64::total_cmp);
        let mut spans: Vec<(f64, f64, u8)> = Vec::new();
        for (begin, end) in times.iter().zip(&times[1..]).filter(|(begin, end)| begin < end) {
            let code = self.code_at(from + motion * f64::midpoint(*begin, *end));
            match spans.last_mut() {
                Some(last) if last.2 == code => last.1 = *end,
                _ => spans.push((*begin, *end, code)),
            }
        }
        spans
    }
}
