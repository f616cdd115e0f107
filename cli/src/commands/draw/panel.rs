//! What there is to read about a picture, beside it, so that it hides nothing of what it explains.

use sturdy_quilt::{Color, Frame, Lattice, Overlay, Painter, Picture, ScreenSize, View};

/// Boxes of text, one below the other.
#[derive(Default)]
pub(crate) struct Panel {
    boxes: Vec<TextBox>,
}

/// Lines with their colours: of the letters, or of a square before them.
struct TextBox {
    lines: Vec<(String, Color)>,
    is_legend: bool,
}

impl TextBox {
    fn size(&self, overlay: &Overlay) -> ScreenSize {
        let indent = if self.is_legend { 2 } else { 0 };
        let letters = self.lines.iter().map(|(line, _)| line.chars().count() + indent).max();
        overlay.text_box_size(letters.unwrap_or(0), self.lines.len())
    }
}

/// Pixels around the boxes and between them.
const GAP: u32 = 8;

impl Panel {
    pub(crate) fn text(&mut self, lines: Vec<(String, Color)>) {
        self.add(lines, false);
    }

    /// Lines with a square of their colour before each.
    pub(crate) fn legend(&mut self, lines: Vec<(String, Color)>) {
        self.add(lines, true);
    }

    fn add(&mut self, lines: Vec<(String, Color)>, is_legend: bool) {
        if !lines.is_empty() {
            self.boxes.push(TextBox { lines, is_legend });
        }
    }

    /// The picture with the panel to its right; gives the width of the panel.
    pub(crate) fn beside(self, picture: Picture, background: Color) -> (Picture, u32) {
        let mut overlay = Overlay::new();
        let sizes: Vec<ScreenSize> = self.boxes.iter().map(|held| held.size(&overlay)).collect();
        let Some(widest) = sizes.iter().map(|size| size.width).max() else { return (picture, 0) };
        let (size, width) = (picture.size(), widest + 2 * GAP);
        let height = sizes.iter().map(|size| size.height + GAP).sum::<u32>() + GAP;
        let panel = ScreenSize::new(width, height.max(size.height));
        overlay.begin(&View::new(panel), &Lattice::default());
        let mut top = GAP;
        for (held, size) in self.boxes.iter().zip(&sizes) {
            match held.is_legend {
                true => overlay.legend_at(GAP as i32, top as i32, &held.lines),
                false => overlay.text_box(GAP as i32, top as i32, &held.lines),
            }
            top += size.height + GAP;
        }
        let mut frame = Frame::new(panel);
        frame.clear(background);
        Painter::new().paint_overlay(&overlay, &mut frame);
        let panel = frame.to_picture();
        let all = ScreenSize::new(size.width + width, panel.size().height);
        let mut joined = Frame::new(all);
        joined.clear(background);
        let mut joined = joined.to_picture();
        for (part, left) in [(&picture, 0), (&panel, size.width)] {
            for y in 0..part.size().height {
                for x in 0..part.size().width {
                    if let Some(color) = part.get(x, y) {
                        joined.set(left + x, y, color);
                    }
                }
            }
        }
        (joined, width)
    }
}
