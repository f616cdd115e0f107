//! Reading a map: everything but its cells.

use std::collections::HashSet;
use std::sync::Arc;

use indexmap::IndexSet;

use super::cells::CellSource;
use super::expects::Expects;
use super::layer::read_layer;
use super::markers::read_markers;
use super::places::{class_hint, read_area, twice};
use super::{odd_layers, tiles, values};
use crate::document::input::{Files, LoadStage};
use crate::document::problem::Severity;
use crate::document::syntax::{Fields, Node, Reader, Span};
use crate::lattice::Lattice;
use crate::name_error::{did_you_mean, near_names};
use crate::picture::Color;
use crate::plane::Stamp;
use crate::quilt::{
    Class, GroundClass, GroundRules, GroundRulesError, Layer, Mover, Palette, PaletteError,
    PartError, Quilt, Treatment, color_names,
};
use crate::units::{Side, Sides};
use crate::view::{Facing, Projection};

/// Reads a map, and checks what is expected of it; `None` where a problem keeps it from being
/// whole.
pub(crate) fn read<'a>(
    reader: &mut Reader<'a, '_>,
    root: Node<'a>,
    path: &str,
    files: &mut Files<'_>,
    expects: &Expects,
) -> Option<Quilt> {
    let known = [
        "$schema",
        "format",
        "version",
        "lattice",
        "projection",
        "bounds",
        "data",
        "tiles",
        "palettes",
        "ground",
        "movers",
        "layers",
        "values",
        "markers",
    ];
    let fields = reader.fields(root, "the map", &known)?;
    let lattice = reader.required(&fields, "lattice").and_then(|node| read_lattice(reader, node));
    // The lattice does not matter to what follows, so that its faults hide no others.
    let mut quilt = Quilt::new(lattice.unwrap_or_default());
    let stamp = Stamp::next();
    if let Some(schema) = fields.get("$schema") {
        let schema = reader.text(schema, "`$schema`");
        quilt.set_schema(schema.map(|schema| schema.as_ref().into()));
    }
    if let Some(node) = fields.get("projection")
        && let Some(projection) = read_projection(reader, node, quilt.lattice())
    {
        quilt.set_projection(projection, stamp);
    }
    if let Some(node) = fields.get("bounds") {
        let bounds = read_area(reader, node, "the bounds of the map");
        reader.check(node, Quilt::check_bounds(bounds));
        quilt.set_bounds(bounds, stamp);
    }
    if let Some(node) = fields.get("data")
        && let Some(data) = reader.data(node, "the data of the map")
    {
        reader.check(node, Quilt::check_data(&data));
        quilt.set_data(Arc::new(data), stamp);
    }
    let mut expects = expects.clone();
    let mut rules = GroundRules::default();
    let errors = reader.errors();
    read_ground(reader, &fields, &mut rules);
    read_movers(reader, &fields, &mut rules);
    if reader.errors() > errors {
        expects.ground.clear();
        expects.movers.clear();
    }
    quilt.set_rules(Arc::new(rules), stamp);
    let lost_sets = read_sets(reader, (&fields, path), files, &mut quilt, stamp);
    if lost_sets {
        expects.tiles.clear();
    }
    read_palettes(reader, &fields, lost_sets, &mut quilt, stamp);
    let cells_left = files.limits.cells;
    let mut source = CellSource { files, map: path, lost_sets, cells_left };
    if !read_layers(reader, &fields, &mut source, &mut quilt, stamp) {
        expects.layers.clear();
    }
    if let Some(layers) = fields.get("layers")
        && reader.errors() == 0
    {
        odd_layers::warn_of_odd_layers(reader, layers, &quilt);
    }
    files.enter(LoadStage::Rest, 0);
    values::read(reader, &fields, &mut quilt, files.limits.cells, stamp);
    if !read_markers(reader, &fields, &mut quilt, stamp) {
        expects.markers.clear();
    }
    let label = files.source.label(path);
    expects.check(&quilt, &label, reader.problems());
    quilt.stamp_all(stamp);
    let is_sound = reader.errors() == 0;
    debug_assert!(!is_sound || quilt.lacking().is_none(), "a loaded map lacks something");
    is_sound.then_some(quilt)
}

fn read_lattice<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>) -> Option<Lattice> {
    let fields = reader.fields(node, "the lattice", &["shape", "cell"])?;
    if let Some(shape) = fields.get("shape") {
        let stated = reader.text(shape, "the shape of the lattice")?;
        if stated != Lattice::default().shape().name() {
            let hint = Some("the known shape is square");
            reader.error_with_hint(
                shape.span(),
                format!("there is no lattice shape `{stated}`"),
                hint,
            );
        }
    }
    let cell = reader.required(&fields, "cell")?;
    let (width, height) = reader.numbers(cell, "the size of a cell")?;
    Lattice::square(width, height)
        .map_err(|error| {
            reader.error(cell.span(), error.to_string());
        })
        .ok()
}

pub(crate) fn read_projection<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    lattice: &Lattice,
) -> Option<Projection> {
    const KINDS: [(&str, bool); 2] = [("flat", false), ("diamond", true)];
    let fields = reader.fields(node, "the projection", &["kind", "size", "facing", "lift"])?;
    let kind = reader.required(&fields, "kind")?;
    let is_diamond = reader.choice(kind, "the kind of a projection", &KINDS)?;
    let mut projection = Projection::FLAT;
    if is_diamond {
        let size = reader.required(&fields, "size")?;
        let range = 0..=i64::from(Projection::MAX_DIAMOND_PX);
        let (width, height) = reader.integers(size, "the size of a diamond", range)?;
        match Projection::diamond(lattice, width as u32, height as u32) {
            Ok(diamond) => projection = diamond,
            Err(error) => reader.error(size.span(), error.to_string()),
        }
    } else if let Some(size) = fields.get("size") {
        let hint = Some("a flat projection shows a world unit as a picture pixel");
        reader.error_with_hint(size.span(), "only a diamond has a size", hint);
    }
    if let Some(node) = fields.get("facing") {
        let quarters = reader.integer(node, "the facing of a projection", 0..=3);
        projection = projection.with_facing(Facing::new(quarters.unwrap_or(0)));
    }
    if let Some(node) = fields.get("lift") {
        let lift = reader.number(node, "the lift of a projection")?;
        match projection.with_lift(lift) {
            Ok(lifted) => projection = lifted,
            Err(error) => reader.error(node.span(), error.to_string()),
        }
    }
    Some(projection)
}

fn read_ground<'a>(reader: &mut Reader<'a, '_>, fields: &Fields<'a>, rules: &mut GroundRules) {
    let Some(ground) = fields.get("ground") else { return };
    let items = reader.items(ground, "`ground`").unwrap_or_default();
    let count = items.len();
    if count > GroundClass::MAX_COUNT {
        let (error, there_are) = (GroundRulesError::TooManyClasses, format!("there are {count}"));
        reader.error_with_hint(ground.start(), error.to_string(), Some(there_are));
    }
    for node in items.into_iter().take(GroundClass::MAX_COUNT) {
        let Some((name, span, color)) = read_class(reader, node) else { continue };
        if rules.has_class(&name) {
            reader.error(span, format!("the ground class `{name}` is listed twice"));
        } else if let Err(error) = rules.check_class(&name) {
            reader.error(span, error.to_string());
        } else {
            rules.put_class(usize::MAX, Class::new(&name).with_color(color));
        }
    }
}

/// A ground class: its name, where that stands, and its colour.
pub(crate) fn read_class<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
) -> Option<(String, Span, Option<Color>)> {
    if let Some(name) = node.text() {
        return Some((name.into_owned(), node.span(), None));
    }
    if !node.is_object() {
        reader.mistyped::<()>(
            node,
            "a ground class",
            "a name, or an object with `name` and `color`",
        );
        return None;
    }
    let fields = reader.fields(node, "the ground class", &["name", "color"])?;
    let name = reader.required(&fields, "name")?;
    let color = fields.get("color").map(|node| reader.color(node, "the colour of a ground class"));
    let text = reader.text(name, "the name of a ground class")?;
    Some((text.into_owned(), name.span(), color.flatten()))
}

fn read_movers<'a>(reader: &mut Reader<'a, '_>, fields: &Fields<'a>, rules: &mut GroundRules) {
    let Some(movers) = fields.get("movers") else { return };
    for entry in reader.entries(movers, "`movers`").unwrap_or_default() {
        let mover = read_mover(reader, entry.key, entry.value, rules);
        match rules.check_mover(&mover) {
            Ok(()) => rules.put_mover(usize::MAX, mover.born()),
            Err(error) => reader.error(entry.key_span(), error.to_string()),
        }
    }
}

/// Reads how a mover treats ground classes. One that is faulty is there all the same.
pub(crate) fn read_mover<'a>(
    reader: &mut Reader<'a, '_>,
    name: &str,
    node: Node<'a>,
    rules: &GroundRules,
) -> Mover {
    let what = format!("mover `{name}`");
    let mut mover = Mover::new(name);
    for treated in reader.entries(node, &what).unwrap_or_default() {
        let key = treated.key;
        let known = matches!(key, "outside" | "empty" | "unloaded");
        if !known && !rules.has_class(key) && !reader.lists(Severity::Error) {
            reader.problems().counted_only(Severity::Error);
            continue;
        }
        if let Some(error) = rules.class(key).err().filter(|_| !known) {
            let hint = class_hint(&error, rules);
            let message = format!("{what} treats `{key}`, which is not a ground class");
            reader.error_with_hint(treated.key_span(), message, Some(hint));
            continue;
        }
        if key == "outside" && treated.value.text().as_deref() == Some("wrap") {
            mover = mover.with_wrap();
            continue;
        }
        let Some(treatment) = read_treatment(reader, treated.value, &what, key) else {
            continue;
        };
        mover = match key {
            "outside" => mover.with_outside(treatment),
            "empty" => mover.with_empty(treatment),
            "unloaded" => mover.with_unloaded(treatment),
            class => mover.with_treatment(class, treatment),
        };
    }
    mover
}

fn read_treatment<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    mover: &str,
    class: &str,
) -> Option<Treatment> {
    match (node.text().as_deref(), node.number()) {
        (Some("pass"), _) => return Some(Treatment::Pass),
        (Some("block"), _) => return Some(Treatment::Block),
        (None, Some(1.0)) => return Some(Treatment::Pass),
        (None, Some(factor)) if factor > 0.0 && factor < 1.0 => {
            return Some(Treatment::Slow(factor));
        }
        _ => {}
    }
    if node.is_object() {
        let what = format!("the treatment of `{class}` by {mover}");
        let fields = reader.fields(node, &what, &["value", "one_way"])?;
        if let Some(sides) = fields.get("one_way") {
            return read_sides(reader, sides, &what).map(Treatment::OneWay);
        }
        let value = reader.required(&fields, "value")?;
        return reader.number(value, &format!("the value in {what}")).map(Treatment::Value);
    }
    let wrap = if class == "outside" { ", \"wrap\"" } else { "" };
    let hint = format!(
        "write \"pass\", \"block\"{wrap}, a factor of its speed above 0 and up to 1, {{ \"value\": a number of the game's own }} or {{ \"one_way\": a list of sides }}"
    );
    let message = format!("{mover} treats `{class}` in an unknown way");
    reader.error_with_hint(node.span(), message, Some(hint));
    None
}

/// The sides by which a mover is stopped.
fn read_sides<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>, what: &str) -> Option<Sides> {
    let mut sides = Vec::new();
    for item in reader.items(node, &format!("`one_way` in {what}"))? {
        let text = reader.text(item, &format!("a side in {what}"))?;
        let Some(side) = Side::ALL.into_iter().find(|side| side.name() == text) else {
            let known = Side::ALL.map(Side::name).join(", ");
            let hint = Some(format!("sides are {known}"));
            reader.error_with_hint(item.span(), format!("there is no side `{text}`"), hint);
            return None;
        };
        sides.push(side);
    }
    Some(Sides::of(sides))
}

/// Reads all tile sets; says whether one could not be read, so that its tiles are not known.
fn read_sets<'a>(
    reader: &mut Reader<'a, '_>,
    (fields, path): (&Fields<'a>, &str),
    files: &mut Files<'_>,
    quilt: &mut Quilt,
    stamp: Stamp,
) -> bool {
    let Some(sets) = fields.get("tiles") else { return false };
    let items = reader.items(sets, "`tiles`").unwrap_or_default();
    if items.len() as u64 > files.limits.sets {
        reader.error(
            sets.span(),
            format!("there are more than the {} tile sets allowed", files.limits.sets),
        );
        return true;
    }
    let (mut lost, mut tiles) = (false, 0);
    let rules = Arc::clone(quilt.shared_rules());
    let backdrops = backdrops(fields);
    files.enter(LoadStage::TileSets, items.len() as u64);
    for item in items {
        if files.is_cancelled() {
            return true;
        }
        files.step();
        let errors = reader.errors();
        let Some(set) = tiles::read_item(reader, item, path, &rules, files) else {
            lost = true;
            continue;
        };
        if reader.errors() == errors {
            reader.check(item, quilt.check_set(&set));
        }
        let span = item.span();
        let seen = (quilt.lattice(), quilt.projection());
        tiles::warn_of_misfitting_art(reader, item.spot(), &set, seen, &backdrops);
        tiles += set.tiles().len() as u64;
        if quilt.tiles().set(set.name()).is_some() {
            twice(reader, span, "tile sets", set.name());
        } else if tiles > files.limits.tiles
            || quilt.put_set(usize::MAX, Arc::new(set), stamp).is_err()
        {
            reader.error(
                span,
                format!("there are more than the {} tiles allowed", files.limits.tiles),
            );
        }
    }
    lost
}

/// The names of tiles that layers state as their backdrops, which no cell measures.
fn backdrops(fields: &Fields<'_>) -> HashSet<String> {
    let layers = fields.get("layers").and_then(Node::items).unwrap_or_default();
    let stated = layers.into_iter().filter_map(|layer| layer.get("backdrop"));
    let tiles = stated.filter_map(|node| node.get("tile").unwrap_or(node).text());
    tiles.map(|text| text.split('+').next().unwrap_or_default().to_owned()).collect()
}

/// Reads all palettes.
fn read_palettes<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    lost_sets: bool,
    quilt: &mut Quilt,
    stamp: Stamp,
) {
    let Some(node) = fields.get("palettes") else { return };
    let tiles = quilt.tiles().clone();
    let known = color_names(tiles.sets().map(|set| &**set));
    // Where a set is lost, so are its colours.
    let known = (!lost_sets).then_some(&known);
    for entry in reader.entries(node, "`palettes`").unwrap_or_default() {
        let read = read_palette(reader, entry.key, entry.value, known);
        // One that is faulty has its name and its slot all the same.
        let palette = read.unwrap_or_else(|| Palette::new(entry.key));
        match quilt.check_palette(&palette, known) {
            Ok(()) => quilt.put_palette(usize::MAX, palette.born_now(), stamp),
            Err(PartError::Palette(PaletteError::TooMany)) => {
                reader.error(node.start(), PaletteError::TooMany.to_string());
                return;
            }
            Err(error) => reader.part_error(entry.key_span(), &error),
        }
    }
}

pub(crate) fn read_palette<'a>(
    reader: &mut Reader<'a, '_>,
    name: &str,
    node: Node<'a>,
    known: Option<&IndexSet<&str>>,
) -> Option<Palette> {
    let what = format!("palette `{name}`");
    let fields = reader.fields(node, &what, &["tint", "colors"])?;
    let mut palette = Palette::new(name);
    if let Some(tint) = fields.get("tint")
        && let Some(tint) = reader.color(tint, &format!("the tint of {what}"))
    {
        palette = palette.with_tint(tint);
    }
    let Some(colors) = fields.get("colors") else { return Some(palette) };
    for entry in reader.entries(colors, &format!("the colours of {what}"))? {
        let Some(color) = reader.color(entry.value, &format!("colour `{}` of {what}", entry.key))
        else {
            continue;
        };
        if let Some(known) = known.filter(|known| !known.contains(entry.key)) {
            let message = format!("no tile set has a colour `{}` in its palette", entry.key);
            // Near names are costly to find, and are not wanted where the problem is only counted.
            let is_listed = reader.lists(Severity::Error);
            let near = is_listed.then(|| near_names(entry.key, known.iter().copied()));
            let hint = did_you_mean(&near.unwrap_or_default())
                .unwrap_or_else(|| "name the colour under `palette` of the set".to_owned());
            reader.error_with_hint(entry.key_span(), message, Some(hint));
            continue;
        }
        palette = palette.with_color(entry.key, color);
    }
    Some(palette)
}

/// Reads all layers; says whether their names are all known.
fn read_layers<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    source: &mut CellSource<'_, '_>,
    quilt: &mut Quilt,
    stamp: Stamp,
) -> bool {
    let Some(node) = reader.required(fields, "layers") else { return false };
    let items = reader.items(node, "`layers`").unwrap_or_default();
    let most = source.files.limits.layers.min(Layer::MAX_COUNT as u64);
    if items.len() as u64 > most {
        reader.error(node.span(), format!("there are more than the {most} layers allowed"));
        return false;
    }
    let (count, mut named) = (items.len(), 0);
    source.files.enter(LoadStage::Layers, count as u64);
    for item in items {
        if source.files.is_cancelled() {
            return false;
        }
        source.files.step();
        let Some(layer) = read_layer(reader, item, quilt, source) else {
            continue;
        };
        named += 1;
        // That two have one name has been reported.
        if !quilt.has_layer(layer.name()) {
            quilt.insert_layer(quilt.layers().len(), layer, stamp);
        }
    }
    named == count
}
