//! Many cells changed in one edit, with what undoes it, against writing the cells and no more.

use sturdy_quilt::edit::FlatArray;
use sturdy_quilt::plane::{Plane, ValueKind};
use sturdy_quilt::tile::TileNumbers;
use sturdy_quilt::{Cell, CellPos, CellRect, Lattice, LayerSettings, Quilt, TileSet};

use crate::harness::{Mark, Versus};
use crate::scenes::Numbers;

/// Cells in a row of the rectangle that is changed.
const SIDE: u32 = 256;

pub(crate) fn run(versus: &mut Versus) {
    if !versus.wants("cells.pen") {
        return;
    }
    let rect = CellRect::new(CellPos::new(-100, -30), SIDE, SIDE);
    let (corner, count) = (rect.corner(), rect.cell_count());
    let quilt = Quilt::build(Lattice::default(), |pen| {
        pen.put_tiles(TileSet::flat("s", ('a'..='l').map(String::from))?)?;
        pen.add_value_layer("v", ValueKind::U32)?;
        pen.add_layer("l", LayerSettings::default())
    })
    .expect("the map is well made");
    let tiles: Vec<Cell> = quilt.tiles().ids().map(Cell::of).collect();
    let mut numbers = Numbers::new(0x0dd);
    // Runs of some equal cells, as maps have them.
    let mut list: Vec<u8> = Vec::new();
    while list.len() < count as usize {
        let (number, length) = (numbers.below(12) as u8, 1 + numbers.below(6) as usize);
        list.extend(std::iter::repeat_n(number, length));
    }
    list.truncate(count as usize);
    let cells: Vec<Cell> = list.iter().map(|&number| tiles[usize::from(number)]).collect();
    let texts: Vec<String> = { list.chunks(SIDE as usize) }
        .map(|row| row.iter().map(|&number| char::from(b'a' + number)).collect())
        .collect();
    let texts: Vec<&str> = texts.iter().map(String::as_str).collect();
    let legend: Vec<(char, Cell)> = ('a'..='l').zip(tiles.iter().copied()).collect();
    let of_set = TileNumbers::of_set("s");
    let write = || {
        let mut plane: Plane<Cell> = Plane::new();
        plane.write_rect(rect, &cells).expect("all is here");
        plane.chunk_stamp(corner.chunk()).to_string().len() as u64
    };
    let edited =
        |change: &dyn Fn(&mut sturdy_quilt::Pen<'_>) -> Result<(), sturdy_quilt::EditError>| {
            let mut quilt = quilt.clone();
            let edit = quilt.edit("edit", |pen| change(pen)).expect("the edit is well made");
            u64::from(!edit.changes.is_empty())
        };
    let at = |cell: CellPos| {
        let (x, y) = (cell.x().abs_diff(corner.x()), cell.y().abs_diff(corner.y()));
        cells[(y * SIDE + x) as usize]
    };
    let lines: [(&str, Mark, &dyn Fn() -> u64); 7] = [
        ("put-each", Mark::AtMost(3.0), &|| edited(&|pen| pen.put_each("l", rect, at))),
        ("put-rows", Mark::AtMost(3.0), &|| {
            edited(&|pen| pen.put_rows("l", corner, &legend, &texts))
        }),
        ("put-flat", Mark::AtMost(3.0), &|| {
            edited(&|pen| pen.put_flat("l", corner, FlatArray::new(&list, SIDE), &of_set))
        }),
        ("put-each-value", Mark::AtMost(3.0), &|| {
            edited(&|pen| pen.put_each_value("v", rect, |cell| at(cell).to_bits()))
        }),
        // One by one, row by row.
        ("put", Mark::None, &|| {
            edited(&|pen| rect.cells().try_for_each(|cell| pen.put("l", cell, at(cell)).map(drop)))
        }),
        ("put-value", Mark::None, &|| {
            edited(&|pen| {
                let mut numbers = list.iter();
                rect.cells().try_for_each(|cell| {
                    let number = numbers.next().copied().unwrap_or(0);
                    pen.put_value("v", cell, u32::from(number)).map(drop)
                })
            })
        }),
        // One by one, anywhere.
        ("scattered", Mark::None, &|| {
            edited(&|pen| {
                (0..count as u32).try_for_each(|number| {
                    let number = number.wrapping_mul(0x9e37_79b1) % count as u32;
                    let (x, y) = ((number % SIDE) as i32, (number / SIDE) as i32);
                    let cell = CellPos::new(corner.x() + x, corner.y() + y);
                    pen.put("l", cell, at(cell)).map(drop)
                })
            })
        }),
    ];
    for (name, mark, ours) in lines {
        versus.line(&format!("cells.pen.{name}.write-rect"), count, mark, false, ours, write);
    }
}
