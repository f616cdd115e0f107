//! Pictures with a pixel for each cell, and a legend of colours.

use rustc_hash::FxHashMap;

use super::grid::{Grid, Sink, translate};
use super::legend::Legend;
use super::nearest::{Nearest, distance};
use crate::document::input::{decoded_rows, file_problem};
use crate::document::problem::{Problem, Severity};
use crate::document::syntax::{Reader, optional};
use crate::picture::Color;
use crate::units::{CellOffset, CellPos, CellRect, GridCells};

/// How many places of an unknown colour a problem names.
const PLACES_NAMED: usize = 5;

/// The most unknown colours that are told apart: a photograph has more than anyone would read.
const MAX_UNKNOWN: usize = 100;

/// Reads the picture of a grid; gives the rectangle that it spans.
pub(crate) fn read<'a, V: Copy + Default>(
    reader: &mut Reader<'a, '_>,
    grid: &mut Grid<'_, 'a, '_, '_>,
    legend: &Legend<V>,
    sink: &mut Sink<'_, V>,
) -> Option<CellRect> {
    let node = reader.required(grid.fields, "picture")?;
    let tolerance = grid.get("tolerance");
    let tolerance = optional(tolerance, |node| reader.integer(node, "`tolerance`", 0..=255_u8))?;
    let named = reader.text(node, "`picture`")?;
    let (path, bytes) = grid.source.file(reader, node, "`picture`")?;
    let mut colors = Colors::new(legend, tolerance.unwrap_or_default());
    // Nothing but what the row means is kept of a row.
    let most = grid.source.files.pixels_left;
    let mut rect = None;
    let read = decoded_rows(&bytes, most, |size, row, pixels| {
        if row == 0 {
            grid.source.files.take_pixels(size.area());
            rect = grid.admit(reader, (size.width.into(), size.height.into()));
        }
        colors.read(pixels, row, rect?, sink)
    });
    match read {
        Ok(is_whole) => is_whole?,
        Err(why) => {
            reader.error(node.span(), format!("picture `{named}`: {why}"));
            return None;
        }
    }
    let rect = rect?;
    let label = grid.source.files.source.label(&path);
    let is_known = colors.unknown.is_empty();
    for unknown in &colors.unknown {
        let color = unknown.color.to_bytes();
        let nearest = colors.nearest.find(color, u8::MAX).map(|number| {
            let (held, _) = legend.colors[number];
            (held, distance(held.to_bytes(), color))
        });
        reader.problems().push(unknown.problem(&label, (grid.what, grid.cells), rect, nearest));
    }
    if colors.pixels_of_others > 0 {
        let message =
            format!("{} pixels of {named} have yet other colours", colors.pixels_of_others);
        let hint = "this may be another picture than was meant, or one with blended edges";
        let problem = file_problem(&label, message, Some(hint.to_owned()));
        reader.problems().push(problem);
    }
    is_known.then_some(rect)
}

/// A colour that the legend does not know.
struct Unknown {
    color: Color,
    /// The first pixels that have it.
    pixels: Vec<(u32, u32)>,
    count: u64,
}

impl Unknown {
    /// Notes some neighbours in a row.
    fn note(&mut self, (x, y): (u32, u32), count: usize) {
        self.count += count as u64;
        let room = PLACES_NAMED.saturating_sub(self.pixels.len());
        self.pixels.extend((x..).map(|x| (x, y)).take(room.min(count)));
    }

    fn problem(
        &self,
        label: &str,
        (what, cells): (&str, GridCells),
        rect: CellRect,
        nearest: Option<(Color, u8)>,
    ) -> Problem {
        let places: Vec<String> = self.pixels.iter().map(|(x, y)| format!("{x},{y}")).collect();
        let more = self.count - self.pixels.len() as u64;
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        let s = if self.count > 1 { "s" } else { "" };
        let message = format!(
            "the legend of {} does not know the colour {} of pixel{s} {}{more}",
            what.trim_start_matches("`cells` of "),
            self.color,
            places.join("; ")
        );
        let near = match nearest {
            Some((color, distance)) if distance <= 16 => {
                format!(", or state a `tolerance` of {distance} to take it for {color}")
            }
            _ => String::new(),
        };
        let hint = format!("add \"{}\" to the legend{near}", self.color);
        let pixel = self.pixels.first().copied();
        let cell = pixel.and_then(|(x, y)| {
            let x = i64::from(rect.left()) + i64::from(x);
            let place = CellPos::checked(x, i64::from(rect.top()) + i64::from(y))?;
            cells.checked_cell(place)
        });
        let (severity, file) = (Severity::Error, label.to_owned());
        Problem { severity, file, place: None, pixel, cell, message, hint: Some(hint) }
    }
}

/// Looks colours up. Pictures have few of them, often many times in a row and in the next row.
struct Colors<'l, V> {
    legend: &'l Legend<V>,
    tolerance: u8,
    nearest: Nearest,
    known: FxHashMap<[u8; 4], V>,
    unknown: Vec<Unknown>,
    /// How many colours are remembered at most.
    most_known: usize,
    /// How many pixels have yet other colours.
    pixels_of_others: u64,
    values: Vec<V>,
}

impl<'l, V: Copy + Default> Colors<'l, V> {
    /// The most colours that are remembered, so that no picture makes more of them than pixels.
    const MAX_REMEMBERED: usize = 1 << 12;

    fn new(legend: &'l Legend<V>, tolerance: u8) -> Colors<'l, V> {
        // What is clear everywhere is nothing, unless the legend says otherwise.
        let mut known: FxHashMap<[u8; 4], V> = FxHashMap::default();
        for (color, value) in &legend.colors {
            // The first of a colour counts.
            known.entry(color.to_bytes()).or_insert(*value);
        }
        known.entry(Color::CLEAR.to_bytes()).or_default();
        let most_known = known.len() + Self::MAX_REMEMBERED;
        Colors {
            legend,
            tolerance,
            nearest: Nearest::of(legend.colors.iter().map(|(color, _)| color.to_bytes())),
            known,
            most_known,
            unknown: Vec::new(),
            pixels_of_others: 0,
            values: Vec::new(),
        }
    }

    fn read(
        &mut self,
        pixels: &[[u8; 4]],
        row: u32,
        rect: CellRect,
        sink: &mut Sink<'_, V>,
    ) -> Option<()> {
        let mut values = std::mem::take(&mut self.values);
        translate(pixels, &mut values, |pixel, x, count| {
            let remembered = self.known.get(&pixel).copied();
            remembered.unwrap_or_else(|| self.find(pixel, (x as u32, row), count))
        });
        let at = rect.corner().saturating_add(CellOffset::new(0, row as i32));
        let wanted = sink(at, &values);
        self.values = values;
        wanted
    }

    fn find(&mut self, pixel: [u8; 4], at: (u32, u32), count: usize) -> V {
        let color = Color::from_bytes(pixel);
        // What the legend has itself is known.
        if self.tolerance == 0 {
            return self.find_beyond(color, None, at, count);
        }
        let near = self.nearest.find(pixel, self.tolerance);
        let near = near.map(|number| self.legend.colors[number].1);
        self.find_beyond(color, near, at, count)
    }

    /// The value of a colour that the legend does not have itself, where one was found near it.
    fn find_beyond(&mut self, color: Color, near: Option<V>, at: (u32, u32), count: usize) -> V {
        let pixel = color.to_bytes();
        let found = near.or((color.a == 0).then(V::default));
        if let Some(value) = found {
            if self.known.len() < self.most_known {
                self.known.insert(pixel, value);
            }
            return value;
        }
        let is_room = self.unknown.len() < MAX_UNKNOWN;
        match self.unknown.iter_mut().find(|held| held.color == color) {
            Some(held) => held.note(at, count),
            None if is_room => {
                let mut unknown = Unknown { color, pixels: Vec::new(), count: 0 };
                unknown.note(at, count);
                self.unknown.push(unknown);
            }
            None => self.pixels_of_others += count as u64,
        }
        V::default()
    }
}
