//! Reading one line.

use sturdy_quilt::cell_set::Neighbors;
use sturdy_quilt::edit::Alike;
use sturdy_quilt::tile::Turn;
use sturdy_quilt::units::CellOffset;
use sturdy_quilt::{CellPos, CellRect, ScreenSize};

use super::change::{COMMANDS, Change, Command, Join, Mark, SHAPES, Shape};
use crate::args::{nearest, parse_area, parse_cell, parse_size, two};

/// A word of a line with the place of its first character, counted from 0.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Word {
    pub(super) at: usize,
    pub(super) text: String,
}

/// What is wrong with a line, and at which character.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Fault {
    pub(crate) at: usize,
    pub(crate) message: String,
}

/// Reads a line; `None` for one without words.
pub(crate) fn parse_line(line: &str) -> Result<Option<Change>, Fault> {
    let words = split(line)?;
    let Some((first, rest)) = words.split_first() else { return Ok(None) };
    let command = Command::find(&first.text).ok_or_else(|| {
        let names = COMMANDS.iter().map(|command| command.name);
        let message = match nearest(&first.text, names) {
            Some(name) => format!("there is no command `{}`; `{name}` may be meant", first.text),
            None => format!(
                "there is no command `{}`; see sturdy-quilt edit --help for all of them",
                first.text
            ),
        };
        Fault { at: first.at, message }
    })?;
    let end = line.trim_end().chars().count();
    parse(command, rest, end).map(Some)
}

/// Reads the words behind a command, as options have them.
pub(crate) fn parse_words(command: &Command, words: &[&String]) -> Result<Change, String> {
    let word = |text: &&String| Word { at: 0, text: (*text).clone() };
    let words: Vec<Word> = words.iter().map(word).collect();
    parse(command, &words, 0).map_err(|fault| fault.message)
}

/// Divides a line into words. Blanks divide them, double quotes hold one together, and what follows `#` where
/// a word would begin is a remark.
fn split(line: &str) -> Result<Vec<Word>, Fault> {
    let mut words = Vec::new();
    let mut characters = line.chars().enumerate().peekable();
    while let Some(&(at, character)) = characters.peek() {
        if character.is_whitespace() {
            characters.next();
            continue;
        }
        if character == '#' {
            break;
        }
        let (mut text, mut is_quoted) = (String::new(), false);
        while let Some(&(_, character)) = characters.peek() {
            if character.is_whitespace() && !is_quoted {
                break;
            }
            characters.next();
            match character {
                '"' => is_quoted = !is_quoted,
                other => text.push(other),
            }
        }
        if is_quoted {
            return Err(Fault { at, message: "a quote has no end".to_owned() });
        }
        words.push(Word { at, text });
    }
    Ok(words)
}

/// The words of a command that are yet to be read.
struct Words<'a> {
    form: String,
    left: &'a [Word],
    end: usize,
}

fn parse(command: &Command, words: &[Word], end: usize) -> Result<Change, Fault> {
    let mut words = Words { form: command.form(), left: words, end };
    let change = change(command.name, &mut words)?;
    match words.left.first() {
        None => Ok(change),
        Some(word) => {
            let message = format!("`{}` is one word too many; write {}", word.text, words.form);
            Err(Fault { at: word.at, message })
        }
    }
}

fn change(name: &str, words: &mut Words<'_>) -> Result<Change, Fault> {
    Ok(match name {
        "put" => Change::Put { layer: words.text()?, cell: words.cell()?, tile: words.text()? },
        "erase" => Change::Erase { layer: words.text()?, cell: words.cell()? },
        "fill" => Change::Fill { layer: words.text()?, rect: words.rect()?, tile: words.text()? },
        "line" => {
            let layer = words.text()?;
            let shape = Shape::Line(vec![words.cell()?, words.cell()?]);
            Change::Shape { layer, shape, tile: words.text()? }
        }
        "ellipse" => {
            let layer = words.text()?;
            let shape = Shape::Ellipse(words.rect()?);
            Change::Shape { layer, shape, tile: words.text()? }
        }
        "flood" => {
            let layer = words.text()?;
            let (cell, alike) = (words.cell()?, Alike::Cell);
            let shape =
                Shape::Flood { layer: layer.clone(), cell, alike, neighbors: Neighbors::Sides };
            Change::Shape { layer, shape, tile: words.text()? }
        }
        "vary" => Change::Vary { layer: words.text()?, rect: words.rect()? },
        "mark" => Change::Mark { name: words.text()?, place: words.mark()? },
        "unmark" => Change::Unmark { name: words.text()? },
        "select" => Change::Select { join: Join::Only, shape: words.shape()? },
        "add" => Change::Select { join: Join::Add, shape: words.shape()? },
        "less" => Change::Select { join: Join::Less, shape: words.shape()? },
        "within" => Change::Select { join: Join::Within, shape: words.shape()? },
        "grow" => Change::Grow(words.whole()?),
        "shrink" => Change::Shrink(words.whole()?),
        "outline" => Change::Outline,
        "lay" => Change::Lay { layers: words.layers()?, tiles: words.tiles()? },
        "replace" => {
            Change::Replace { layers: words.layers()?, old: words.text()?, tiles: words.tiles()? }
        }
        "shift" => Change::Shift { layers: words.layers()?, by: words.offset()? },
        "turn" => Change::Turn { layers: words.layers()?, turn: words.turn()? },
        "copy" => Change::Copy { layers: words.layers()? },
        "paste" => {
            let corner = words.cell()?;
            let turn = if words.left.is_empty() { Turn::NONE } else { words.turn()? };
            Change::Paste { corner, turn }
        }
        "set" => Change::Set { layer: words.text()?, number: words.number()? },
        "increase" => Change::Increase { layer: words.text()?, number: words.number()? },
        "clamp" => {
            Change::Clamp { layer: words.text()?, least: words.number()?, most: words.number()? }
        }
        "brush" => Change::Brush {
            layer: words.text()?,
            center: words.cell()?,
            radius_world: words.number()?,
            number: words.number()?,
        },
        other => {
            let message = format!("`{other}` cannot be read");
            return Err(Fault { at: 0, message });
        }
    })
}

impl Words<'_> {
    fn next(&mut self) -> Result<&Word, Fault> {
        let missing =
            || Fault { at: self.end, message: format!("a word is missing; write {}", self.form) };
        let (first, rest) = self.left.split_first().ok_or_else(missing)?;
        self.left = rest;
        Ok(first)
    }

    /// The next word, read as something.
    fn read<T>(&mut self, read: impl FnOnce(&str) -> Result<T, String>) -> Result<T, Fault> {
        let word = self.next()?;
        read(&word.text)
            .map_err(|why| Fault { at: word.at, message: format!("`{}`: {why}", word.text) })
    }

    fn text(&mut self) -> Result<String, Fault> {
        self.next().map(|word| word.text.clone())
    }

    fn cell(&mut self) -> Result<CellPos, Fault> {
        self.read(parse_cell)
    }

    fn rect(&mut self) -> Result<CellRect, Fault> {
        let corner = self.cell()?;
        let ScreenSize { width, height } = self.read(parse_size)?;
        Ok(CellRect::new(corner, width, height))
    }

    fn mark(&mut self) -> Result<Mark, Fault> {
        self.read(|text| match text.contains('x') {
            true => parse_area(text).map(Mark::Area),
            false => parse_cell(text).map(Mark::Cell),
        })
    }

    fn offset(&mut self) -> Result<CellOffset, Fault> {
        self.read(|text| {
            let way = two(text, ',').map(|(x, y)| CellOffset::new(x, y));
            way.ok_or_else(|| "write columns and rows as X,Y, for example 3,-4".to_owned())
        })
    }

    fn whole(&mut self) -> Result<u32, Fault> {
        self.read(|text| {
            let number = text.parse().ok().filter(|number| *number <= 1 << 16);
            number.ok_or_else(|| "write a whole number from 0 to 65536".to_owned())
        })
    }

    fn number(&mut self) -> Result<f64, Fault> {
        self.read(|text| {
            let number = text.parse().ok().filter(|number: &f64| number.is_finite());
            number.ok_or_else(|| "write a number, for example -2.5".to_owned())
        })
    }

    fn turn(&mut self) -> Result<Turn, Fault> {
        self.read(|text| match text {
            "90" => Ok(Turn::QUARTER),
            "180" => Ok(Turn::HALF),
            "270" => Ok(Turn::THREE_QUARTERS),
            "mirror" => Ok(Turn::MIRROR),
            _ => Err("write 90, 180, 270 or mirror".to_owned()),
        })
    }

    /// Several layers with commas between them.
    fn layers(&mut self) -> Result<Vec<String>, Fault> {
        self.read(|text| Ok(text.split(',').map(|name| name.trim().to_owned()).collect()))
    }

    /// All words that are left, as tiles with their weights.
    fn tiles(&mut self) -> Result<Vec<(String, u32)>, Fault> {
        let tile = |words: &mut Self| {
            words.read(|text| {
                let Some((tile, weight)) = text.rsplit_once('*') else {
                    return Ok((text.to_owned(), 1));
                };
                let weight = weight.parse().ok().filter(|weight| *weight > 0);
                let weight = weight.ok_or("the weight behind `*` is a whole number from 1 on")?;
                Ok((tile.to_owned(), weight))
            })
        };
        let mut tiles = vec![tile(self)?];
        while !self.left.is_empty() {
            tiles.push(tile(self)?);
        }
        Ok(tiles)
    }

    /// All words that are left, as cells; so many at least.
    fn cells(&mut self, least: usize) -> Result<Vec<CellPos>, Fault> {
        let mut cells = Vec::new();
        while cells.len() < least || !self.left.is_empty() {
            cells.push(self.cell()?);
        }
        Ok(cells)
    }

    fn shape(&mut self) -> Result<Shape, Fault> {
        let forms: Vec<String> = SHAPES
            .iter()
            .map(|(name, form)| format!("{name} {form}").trim_end().to_owned())
            .collect();
        let kind = self.read(|text| {
            let at = SHAPES.iter().position(|(name, _)| *name == text);
            at.ok_or_else(|| format!("a shape is one of: {}", forms.join("; ")))
        })?;
        self.form = format!("{} {}", self.form.replace(" SHAPE...", ""), forms[kind]);
        Ok(match SHAPES[kind].0 {
            "all" => Shape::All,
            "rect" => Shape::Rect(self.rect()?),
            "line" => Shape::Line(self.cells(1)?),
            "ellipse" => Shape::Ellipse(self.rect()?),
            "polygon" => Shape::Polygon(self.cells(3)?),
            "flood" => {
                let (layer, cell) = (self.text()?, self.cell()?);
                let (mut alike, mut neighbors) = (Alike::Cell, Neighbors::Sides);
                while !self.left.is_empty() {
                    self.read(|text| {
                        match text {
                            "tile" => alike = Alike::Tile,
                            "ground" => alike = Alike::Ground,
                            "corners" => neighbors = Neighbors::Corners,
                            _ => return Err("write tile, ground or corners".to_owned()),
                        }
                        Ok(())
                    })?;
                }
                Shape::Flood { layer, cell, alike, neighbors }
            }
            _ => Shape::Like { layer: self.text()?, tile: self.text()? },
        })
    }
}
