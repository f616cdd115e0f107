//! The sheet of a tile set: its picture, how it is cut, and the mask that says the ground of its tiles.

use std::sync::Arc;

use super::SetReader;
use super::tile::{MOST_PIXELS, read_pixels};
use crate::document::reader::{Fields, Reader, optional};
use crate::document::tree::Node;
use crate::picture::Color;
use crate::tile::{ArtPage, GroundMask, SheetCut};
use crate::units::PixelSize;

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
        &self,
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
            let hint = "check tile, margin and gap, or state columns and rows if it is meant";
            reader.warning(fields.get("tile").unwrap_or(fields.node).span(), message, Some(hint));
        }
        Some(())
    }

    /// A mask of ground classes, with the label of its file.
    pub(super) fn read_mask<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
    ) -> Option<(GroundMask, String)> {
        let fields = reader.fields(node, "the ground mask", &["picture", "legend"])?;
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
        Some((GroundMask::new(picture, classes), self.files.source.label(&path)))
    }
}
