//! Writing a map as a document.

use serde_json::{Map, Value, json};

use super::layout::laid_out;
use super::save::SaveError;
use super::{MAP_FORMAT, VERSION, value_rows};
use crate::lattice::Lattice;
use crate::plane::RunValues;
use crate::quilt::{
    CellLegend, GroundRules, Layer, LayerKey, LayerSettings, Marker, MarkerPlace, Outside, Quilt,
    Treatment,
};
use crate::tile::{Cell, TileKey, TileSet, TileTable};
use crate::units::{CellPos, CellRect, WorldPoint};

impl Quilt {
    /// The map as a document, as it is saved. The same map always gives the same text; a map that
    /// was loaded keeps the characters of its legends and the rectangles of its rows, so that one
    /// changed cell is one changed line.
    ///
    /// # Errors
    /// A tile set that was made in code from a picture and names no file for it; a layer that is
    /// not loaded as a whole, or spans more than can be written as text.
    pub fn to_json(&self) -> Result<String, SaveError> {
        let mut document = Map::new();
        document.insert("format".into(), MAP_FORMAT.into());
        document.insert("version".into(), VERSION.into());
        document.insert("lattice".into(), lattice_value(self.lattice()));
        if let Some(bounds) = self.stated_bounds() {
            document.insert("bounds".into(), area_value(bounds));
        }
        if !self.data().is_null() {
            document.insert("data".into(), self.data().clone());
        }
        let sets = self.tiles().sets().map(|set| set_value(set)).collect::<Result<Vec<_>, _>>()?;
        document.insert("tiles".into(), sets.into());
        let rules = self.ground_rules();
        if rules.classes().len() > 0 {
            document.insert("ground".into(), rules.classes().collect::<Vec<_>>().into());
        }
        if !rules.movers().is_empty() {
            document.insert("movers".into(), movers_value(rules));
        }
        let layers = self.layers().iter().map(|layer| layer_value(layer, self.tiles()));
        document.insert("layers".into(), layers.collect::<Result<Vec<_>, _>>()?.into());
        if !self.value_layers().is_empty() {
            let values = self.value_layers().iter().map(value_rows::value);
            document.insert("values".into(), values.collect::<Result<Vec<_>, _>>()?.into());
        }
        let markers: Vec<Value> = self.markers().map(|placed| marker_value(&placed)).collect();
        if !markers.is_empty() {
            document.insert("markers".into(), markers.into());
        }
        Ok(laid_out(&Value::Object(document)))
    }
}

fn lattice_value(lattice: &Lattice) -> Value {
    json!({
        "shape": lattice.shape().name(),
        "cell": [number(lattice.cell_width()), number(lattice.cell_height())],
    })
}

/// A number without a fraction where it has none.
fn number(value: f64) -> Value {
    // Whole numbers up to 2⁵³ are the same as integers.
    if value.fract() == 0.0 && value.abs() < 9e15 { (value as i64).into() } else { value.into() }
}

/// The shortest decimal that is the same 32-bit number.
fn short(value: f32) -> Value {
    number(value.to_string().parse().unwrap_or_else(|_| value.into()))
}

fn cell_value(cell: CellPos) -> Value {
    json!([cell.x(), cell.y()])
}

fn point_value(point: &WorldPoint) -> Value {
    json!([number(point.x), number(point.y)])
}

fn area_value(area: CellRect) -> Value {
    json!({ "at": cell_value(area.corner()), "size": [area.width(), area.height()] })
}

fn set_value(set: &TileSet) -> Result<Value, SaveError> {
    if let Some(file) = set.file() {
        return Ok(file.into());
    }
    let mut value = Map::new();
    value.insert("name".into(), set.name().into());
    if let Some(cut) = set.sheet() {
        let Some(picture) = set.picture_file() else {
            return Err(SaveError::PictureWithoutFile { set: set.name().to_owned() });
        };
        let mut sheet = Map::new();
        sheet.insert("picture".into(), picture.into());
        sheet.insert("tile".into(), json!([cut.tile.width, cut.tile.height]));
        let stated = [("columns", cut.columns), ("rows", cut.rows)];
        let margins = [("margin", cut.margin), ("gap", cut.gap)];
        let margins = margins.into_iter().filter(|(_, px)| *px > 0);
        sheet.extend(margins.map(|(key, px)| (key.to_owned(), px.into())));
        let stated = stated.into_iter().filter_map(|(key, n)| Some((key.to_owned(), n?.into())));
        sheet.extend(stated);
        value.insert("sheet".into(), sheet.into());
    }
    let tiles: Vec<Value> = set.tiles().iter().filter_map(tile_value).collect();
    if !tiles.is_empty() {
        value.insert("tiles".into(), tiles.into());
    }
    Ok(value.into())
}

/// What was stated of a tile; `None` where nothing was.
fn tile_value(tile: &crate::tile::Tile) -> Option<Value> {
    let spec = tile.spec();
    let mut value = Map::new();
    if let Some((column, row)) = spec.place {
        value.insert("at".into(), json!([column, row]));
    }
    if let TileKey::Name(name) = tile.key() {
        value.insert("name".into(), (&**name).into());
    }
    if let Some(class) = &spec.ground {
        value.insert("ground".into(), class.as_str().into());
    }
    if let Some(color) = spec.color {
        value.insert("color".into(), color.to_string().into());
    }
    if !spec.data.is_null() {
        value.insert("data".into(), spec.data.clone());
    }
    let states_only_its_place = value.len() == 1 && spec.place.is_some();
    match (value.len(), tile.key()) {
        (1, TileKey::Name(name)) => Some((&**name).into()),
        _ => (!states_only_its_place).then(|| value.into()),
    }
}

fn movers_value(rules: &GroundRules) -> Value {
    let treatment = |treatment: Treatment| match treatment {
        Treatment::Pass => "pass".into(),
        Treatment::Block => "block".into(),
        Treatment::Slow(factor) => number(factor),
    };
    let mover = |mover: &crate::quilt::Mover| {
        let mut value = Map::new();
        value.extend(mover.treatments().map(|(class, t)| (class.to_owned(), treatment(t))));
        match mover.outside_rule() {
            Outside::Treated(Treatment::Block) => {}
            Outside::Treated(other) => drop(value.insert("outside".into(), treatment(other))),
            Outside::Wrapped => drop(value.insert("outside".into(), "wrap".into())),
        }
        if !mover.unloaded_rule().blocks() {
            value.insert("unloaded".into(), treatment(mover.unloaded_rule()));
        }
        (mover.name().to_owned(), Value::Object(value))
    };
    Value::Object(rules.movers().iter().map(mover).collect())
}

fn marker_value(marker: &Marker) -> Value {
    let mut value = Map::new();
    value.insert("name".into(), marker.name().into());
    if let Some(kind) = marker.kind_name() {
        value.insert("kind".into(), kind.into());
    }
    let (key, place) = match marker.stated_place() {
        MarkerPlace::Cell(cell) => ("cell", cell_value(*cell)),
        MarkerPlace::Point(point) => ("point", point_value(point)),
        MarkerPlace::Area(area) => ("area", area_value(*area)),
        MarkerPlace::Path(points) => ("path", points.iter().map(point_value).collect()),
        MarkerPlace::Polygon(points) => ("polygon", points.iter().map(point_value).collect()),
    };
    value.insert(key.into(), place);
    if !marker.data().is_null() {
        value.insert("data".into(), marker.data().clone());
    }
    value.into()
}

fn layer_value(layer: &Layer, tiles: &TileTable) -> Result<Value, SaveError> {
    let settings = layer.settings();
    let default = LayerSettings::default();
    let mut value = Map::new();
    value.insert("name".into(), layer.name().into());
    value.insert("priority".into(), settings.priority.into());
    if settings.opacity != default.opacity {
        value.insert("opacity".into(), short(settings.opacity));
    }
    if settings.offset != default.offset {
        let offset = [number(settings.offset.x), number(settings.offset.y)];
        value.insert("offset".into(), offset.to_vec().into());
    }
    let flags = [
        ("visible", settings.visible, default.visible),
        ("sort_rows", settings.sort_rows, default.sort_rows),
        ("draws", settings.draws, default.draws),
        ("grounds", settings.grounds, default.grounds),
    ];
    let stated = flags.into_iter().filter(|(_, value, default)| value != default);
    value.extend(stated.map(|(key, flag, _)| (key.to_owned(), flag.into())));
    if !settings.data.is_null() {
        value.insert("data".into(), settings.data.clone());
    }
    let text = LayerText::of(layer, tiles)?;
    if text.rect.corner() != CellPos::ORIGIN {
        value.insert("at".into(), cell_value(text.rect.corner()));
    }
    value.insert("cells".into(), json!({ "legend": text.legend, "rows": text.rows }));
    Ok(value.into())
}

/// A layer as rows of characters with a legend, as [`Quilt::layer_text`] gives it.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct LayerText {
    /// The cells that the rows span.
    pub rect: CellRect,
    /// What each character stands for, in the notation of cells; `null` stands for empty.
    pub legend: Map<String, Value>,
    /// The rows from the top, all of one length.
    pub rows: Vec<String>,
}

impl Quilt {
    /// A layer as text: rows of characters and the legend that explains them, as it is saved.
    ///
    /// # Errors
    /// A layer that is not there or not loaded as a whole, or spans more than can be written as
    /// text.
    ///
    /// ```
    /// # let quilt = sturdy_quilt::doc_quilt();
    /// let text = quilt.layer_text("soil")?;
    /// assert_eq!(text.rows, ["ggwg", "gggg", "gggg"]);
    /// assert_eq!(text.legend["w"], "garden/wall");
    /// # Ok::<(), sturdy_quilt::SaveError>(())
    /// ```
    pub fn layer_text(&self, layer: impl LayerKey) -> Result<LayerText, SaveError> {
        LayerText::of(self.layer(layer)?, self.tiles())
    }
}

impl LayerText {
    /// The most cells of a layer that are written as text.
    const MOST_CELLS: u64 = 1 << 26;

    fn of(layer: &Layer, tiles: &TileTable) -> Result<LayerText, SaveError> {
        let known = layer.legend().map(CellLegend::rect).unwrap_or_default();
        let rect = known.union(layer.cells().bounds());
        if rect.cell_count() > Self::MOST_CELLS {
            return Err(SaveError::TooLargeForText { layer: layer.name().to_owned(), rect });
        }
        let mut spelling = Spelling::new(layer, tiles);
        let (mut rows, mut scratch) = (Vec::new(), Vec::new());
        let mut is_here = true;
        for y in rect.top()..rect.bottom() {
            let line = CellRect::new(CellPos::new(rect.left(), y), rect.width(), 1);
            let mut text = String::with_capacity(rect.width() as usize);
            layer.cells().read_runs(line, &mut scratch, |run| {
                is_here &= !matches!(run.values, RunValues::Absent(_));
                text.extend(run.each().map(|(_, cell)| spelling.character(cell)));
            });
            rows.push(text);
        }
        if !is_here {
            return Err(SaveError::NotLoaded { layer: layer.name().to_owned() });
        }
        Ok(LayerText { rect, legend: spelling.into_legend(), rows })
    }
}

/// Which character stands for which cell.
struct Spelling<'t> {
    tiles: &'t TileTable,
    entries: Vec<(char, Cell)>,
    characters: rustc_hash::FxHashMap<Cell, char>,
    used: rustc_hash::FxHashSet<char>,
}

impl<'t> Spelling<'t> {
    fn new(layer: &Layer, tiles: &'t TileTable) -> Spelling<'t> {
        let entries = layer.legend().map(CellLegend::entries).unwrap_or_default().to_vec();
        // The first of several characters for a cell; a legend that gives the space a meaning of
        // its own must spell out what is empty.
        let mut characters: rustc_hash::FxHashMap<Cell, char> =
            entries.iter().rev().map(|&(character, cell)| (cell, character)).collect();
        if entries.iter().all(|(character, _)| *character != ' ') {
            characters.entry(Cell::EMPTY).or_insert(' ');
        }
        let used = entries.iter().map(|(character, _)| *character).collect();
        Spelling { tiles, entries, characters, used }
    }

    fn character(&mut self, cell: Cell) -> char {
        if let Some(&known) = self.characters.get(&cell) {
            return known;
        }
        let new = self.new_character(cell);
        self.entries.push((new, cell));
        self.characters.insert(cell, new);
        self.used.insert(new);
        new
    }

    /// A character that is still free: a letter of the tile's name if possible.
    fn new_character(&self, cell: Cell) -> char {
        let name = self.tiles.notation(cell).to_string();
        let tile = name.split_once('/').map_or("", |(_, tile)| tile);
        let letters = tile.chars().filter(char::is_ascii_alphanumeric);
        let letters = letters.clone().chain(letters.map(|c| c.to_ascii_uppercase()));
        let signs = ('!'..='~').filter(|c| !matches!(c, '"' | '\\'));
        // Beyond ASCII: letters of Latin and others, then ideographs; more than any map has tiles
        // worth typing, and still one character each.
        let others =
            ('\u{a1}'..='\u{24f}').chain('\u{4e00}'..='\u{9fff}').chain('\u{ac00}'..='\u{d7a3}');
        let others = others.chain('\u{10000}'..='\u{10ffff}').filter(|c| !c.is_whitespace());
        let free = |c: &char| !self.used.contains(c) && *c != ' ';
        letters.chain(signs).chain(others).find(free).unwrap_or('\u{fffd}')
    }

    fn into_legend(self) -> Map<String, Value> {
        let spelled = |cell: Cell| match cell {
            Cell::EMPTY => Value::Null,
            _ => self.tiles.notation(cell).to_string().into(),
        };
        self.entries.iter().map(|&(c, cell)| (c.to_string(), spelled(cell))).collect()
    }
}
