//! The sheet of a tile set: its picture, how it is cut, and the mask that says the ground of its tiles.

use std::sync::Arc;

use super::SetReader;
use super::tile::{MOST_PIXELS, read_pixels};
use crate::document::reader::{Fields, Reader, optional};
use crate::document::tree::Node;
use crate::picture::Color;
use crate::tile::{ArtPage, GroundMask, SheetCut};
use crate::units::PixelSize;

/// The margin, the gap, or both that take exactly the pixels which are left over of a sheet beside
/// so many tiles, in words.
fn missing_cut(cut: &SheetCut, size: PixelSize, (columns, rows): (u32, u32)) -> Option<String> {
    if cut.area.is_some() {
        return None;
    }
    let left = |all: u32, count: u32, side: u32| {
        let taken = 2 * u64::from(cut.margin)
            + u64::from(count) * u64::from(side)
            + u64::from(count - 1) * u64::from(cut.gap);
        u64::from(all).checked_sub(taken)
    };
    let x = left(size.width, columns, cut.tile.width)?;
    let y = left(size.height, rows, cut.tile.height)?;
    // More than a tile is another part of the picture.
    if x == 0 && y == 0 || x > u64::from(cut.tile.width) * 2 || y > u64::from(cut.tile.height) * 2 {
        return None;
    }
    let (gaps_x, gaps_y) = (u64::from(columns - 1), u64::from(rows - 1));
    let margin = |px: u64| format!("a `margin` of {}", u64::from(cut.margin) + px);
    let gap = |px: u64| format!("a `gap` of {}", u64::from(cut.gap) + px);
    // The gap by which both directions leave the same for a margin.
    // One of more than a quarter of a tile is unlikely.
    let most = u64::from(cut.tile.width.min(cut.tile.height)) / 4;
    let gaps = (0..=most).filter(|px| gaps_x * px <= x && gaps_y * px <= y);
    let fits = |px: &u64| {
        let (x, y) = (x - gaps_x * px, y - gaps_y * px);
        x == y && x % 2 == 0 && x / 2 <= 2 * most
    };
    let mut fitting = gaps.filter(fits).map(|px| (px, (x - gaps_x * px) / 2));
    let (px, edge) = match (fitting.clone().find(|(_, edge)| *edge == 0), fitting.next()) {
        (Some(no_margin), _) => no_margin,
        (None, first) => first?,
    };
    match (px, edge) {
        (0, 0) => None,
        (0, edge) => Some(margin(edge)),
        (px, 0) => Some(gap(px)),
        (px, edge) => Some(format!("{} and {}", margin(edge), gap(px))),
    }
}

impl SetReader<'_, '_> {
    /// The pixels of the sheet, how it is cut, and its file.
    pub(super) fn read_sheet<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
    ) -> Option<(Option<Arc<ArtPage>>, Option<SheetCut>, String)> {
        let known = ["picture", "tile", "margin", "gap", "area", "columns", "rows"];
        let fields = reader.fields(node, "the sheet", &known)?;
        let mut count = |key: &str, least: u32| {
            reader.integer(fields.get(key)?, &format!("`{key}`"), least..=MOST_PIXELS)
        };
        let (margin, gap) = (count("margin", 0), count("gap", 0));
        let (columns, rows) = (count("columns", 1), count("rows", 1));
        let area = fields.get("area");
        let area = optional(area, |area| read_pixels(reader, area, "the area of a sheet"))?;
        let size = optional(fields.get("tile"), |node| {
            reader.integers(node, "the size of a tile", 1..=MOST_PIXELS)
        })?;
        let picture = reader.required(&fields, "picture")?;
        let file = reader.text(picture, "the picture of a sheet")?.into_owned();
        let page = match self.files.decodes {
            true => Some(self.files.page(reader, picture.span(), self.path, &file)?),
            false => None,
        };
        let cut = size.map(|(width, height)| {
            let (margin, gap) = (margin.unwrap_or(0), gap.unwrap_or(0));
            SheetCut { tile: PixelSize::new(width, height), margin, gap, area, columns, rows }
        });
        if let (Some(cut), Some(page)) = (&cut, &page) {
            self.check_cut(reader, &fields, cut, page.size())?;
        }
        Some((page, cut, file))
    }

    fn check_cut<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        fields: &Fields<'a>,
        cut: &SheetCut,
        size: PixelSize,
    ) -> Option<()> {
        // A sheet that cannot be cut is a fault of the set.
        let Ok(grid) = cut.grid(size) else { return Some(()) };
        let most = self.files.limits.tiles;
        if u64::from(grid.columns()) * u64::from(grid.rows()) > most {
            reader.error(
                fields.node.span(),
                format!("the sheet has more than the {most} tiles allowed"),
            );
            return None;
        }
        if grid.has_left_over() {
            let (columns, rows, tile) = (grid.columns(), grid.rows(), cut.tile);
            let size = cut.area.map_or(size, |area| area.size);
            let message = format!(
                "the sheet of {size} leaves pixels over when cut into {columns} × {rows} tiles of {tile}"
            );
            let hint = match missing_cut(cut, size, (columns, rows)) {
                Some(missing) => format!("{missing} would leave none over"),
                None => "check tile, margin and gap, or state columns and rows if it is meant"
                    .to_owned(),
            };
            reader.warning(fields.get("tile").unwrap_or(fields.node).span(), message, Some(hint));
        } else if let Some(missing) = missing_cut(cut, size, (grid.columns(), grid.rows())) {
            let message = format!(
                "cut into {} × {} tiles, the sheet leaves exactly {missing} over",
                grid.columns(),
                grid.rows()
            );
            let hint = "state it, or the `area` of the picture that is the sheet";
            let node = fields.get("tile").unwrap_or(fields.node);
            self.missing_cut = Some((node.span(), message, hint));
        }
        Some(())
    }

    /// A mask of ground classes, with the label of its file.
    pub(super) fn read_mask<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
    ) -> Option<(GroundMask, String)> {
        let fields = reader.fields(node, "the ground mask", &["picture", "legend", "tolerance"])?;
        let (picture, legend) =
            (reader.required(&fields, "picture"), reader.required(&fields, "legend"));
        let mut classes = Vec::new();
        for entry in reader.entries(legend?, "the legend of the ground mask")? {
            let class = reader.text(entry.value, "a ground class")?;
            self.classes.push((class.to_string(), entry.value.span()));
            match entry.key.parse::<Color>() {
                Ok(color) => classes.push((color, class.into_owned())),
                Err(error) => reader.error(entry.key_span(), error.to_string()),
            }
        }
        let named = reader.text(picture?, "the picture of the ground mask")?;
        let (path, picture) = self.files.picture(reader, picture?.span(), self.path, &named)?;
        let tolerance = fields.get("tolerance");
        let tolerance =
            optional(tolerance, |node| reader.integer(node, "`tolerance`", 0..=255_u8))?;
        let mask = GroundMask::new(picture, classes).tolerance(tolerance.unwrap_or(0));
        Some((mask, self.files.source.label(&path)))
    }
}
