//! A map of 1024 × 1024 cells in four layers, loaded from each form of cells and saved in it, against
//! the bare parser or writer of the same bytes.

use serde::Deserialize;
use sturdy_quilt::document::CellEncoding;
use sturdy_quilt::{
    CellPos, CellRect, Lattice, LayerSettings, Loader, MemorySource, Quilt, TileSet,
};

use crate::harness::{Mark, Versus};
use crate::scenes;

const SIDE: u32 = 1024;
const LAYERS: u64 = 4;
/// Never more than so many times the bare parser's time.
const MAX: f64 = 1.6;
/// A cell of four bytes at 1 GiB a second.
const GIBIBYTE_A_SECOND: f64 = 4.0 / 1.073_741_824;

pub(crate) fn run(versus: &mut Versus) {
    if !versus.wants("files.forms") {
        return;
    }
    let quilt = map();
    let forms = [
        ("rows", CellEncoding::Rows, false),
        ("numbers", CellEncoding::Numbers, false),
        ("table", CellEncoding::Table, true),
        ("picture", CellEncoding::Picture, true),
        ("packed", CellEncoding::Packed, true),
    ];
    for (name, form, apart) in forms {
        let (load_line, save_line) =
            (format!("files.forms.load.{name}"), format!("files.forms.save.{name}"));
        if !versus.asks(&load_line) && !versus.asks(&save_line) {
            continue;
        }
        let write = || {
            let writer = quilt.document().with_encoding(form).with_cells_apart(apart);
            writer.to_files("m.quilt.json").expect("every form holds the map")
        };
        let mut files = write();
        if form == CellEncoding::Table {
            number_tables(&quilt, &mut files);
        }
        let (read, rewrite) = bare(form, &files);
        let mut source = MemorySource::default();
        files.iter().for_each(|(path, bytes)| source.add(path.clone(), bytes.clone()));
        let cells = u64::from(SIDE) * u64::from(SIDE) * LAYERS;
        let ours = || {
            let loaded = Loader::new().load(&source, "m.quilt.json");
            let loaded = loaded.expect("what was written can be read");
            let last = CellPos::new(SIDE as i32 - 1, SIDE as i32 - 1);
            let is_full = |layer: &sturdy_quilt::Layer| {
                layer.cells().get(last).here().is_some_and(|cell| !cell.is_empty())
            };
            loaded.quilt.layers().iter().filter(|layer| is_full(layer)).count() as u64
        };
        let mark = match form {
            CellEncoding::Packed => Mark::Nanoseconds(GIBIBYTE_A_SECOND),
            _ => Mark::AtMost(MAX),
        };
        versus.line(&load_line, cells, mark, false, ours, read);
        versus.line(&save_line, cells, Mark::None, false, || write().len() as u64, rewrite);
    }
}

fn map() -> Quilt {
    let names = (0..64).map(|tile| format!("t{tile}"));
    Quilt::build(Lattice::default(), |pen| {
        pen.put_tiles(TileSet::flat("s", names)?)?;
        for number in 0..LAYERS {
            let (_, flat) = scenes::cells(SIDE, number);
            let ids: Vec<_> = pen.quilt().tiles().ids().collect();
            let layer = format!("layer {number}");
            pen.add_layer(&layer, LayerSettings::default())?;
            let rect = CellRect::new(CellPos::ORIGIN, SIDE, SIDE);
            pen.put_each(&layer, rect, |at| {
                ids[flat[(at.y() as u32 * SIDE + at.x() as u32) as usize] as usize].into()
            })?;
        }
        Ok(())
    })
    .expect("the map is well made")
}

/// Tables of numbers, as spreadsheets have them, instead of tables of names.
fn number_tables(quilt: &Quilt, files: &mut [(String, Vec<u8>)]) {
    for (path, bytes) in files.iter_mut() {
        let text = String::from_utf8_lossy(bytes).replace("s/t", "");
        let text = match path.ends_with(".quilt.json") {
            true => text.replace(".csv\"", ".csv\", \"set\": \"s\""),
            false => text,
        };
        *bytes = text.into_bytes();
    }
    assert!(quilt.layers().len() as u64 == LAYERS, "a file for each layer");
}

#[derive(Deserialize)]
struct Document<C> {
    layers: Vec<Layer<C>>,
}

#[derive(Deserialize)]
struct Layer<C> {
    cells: C,
}

#[derive(Deserialize)]
struct NumberList {
    numbers: Vec<u32>,
}

#[derive(Deserialize)]
struct Rows {
    rows: Vec<String>,
}

/// A way of doing some work, which gives the size of what comes of it.
type Way = Box<dyn Fn() -> u64>;

/// What a user would write to read and write the same bytes, into plain lists: of numbers, for
/// rows by a look at a table of characters.
fn bare(form: CellEncoding, files: &[(String, Vec<u8>)]) -> (Way, Way) {
    let mut bytes: Vec<Vec<u8>> = files.iter().map(|(_, bytes)| bytes.clone()).collect();
    let beside = bytes.split_off(1);
    let bytes_read = |raw: &Vec<u8>| raw.len() as u64;
    match form {
        CellEncoding::Numbers => {
            ways(bytes, numbers, |lists| total_len(lists), |lists| written_json(lists))
        }
        CellEncoding::Table => {
            ways(beside, table, |list| list.len() as u64, |list| written_table(list))
        }
        CellEncoding::Picture => ways(beside, pixels, bytes_read, |pixels| written_picture(pixels)),
        CellEncoding::Packed => ways(beside, unpacked, bytes_read, |raw| written_block(raw)),
        _ => ways(bytes, rows, |rows| total_len(&rows_as_numbers(rows)), |rows| written_json(rows)),
    }
}

/// Reads all files, and counts what is in them; and writes what they hold.
fn ways<T: 'static>(
    files: Vec<Vec<u8>>,
    read: fn(&[u8]) -> T,
    size: fn(&T) -> u64,
    write: fn(&T) -> u64,
) -> (Way, Way) {
    let held: Vec<T> = files.iter().map(|file| read(file)).collect();
    let read_all = move || files.iter().map(|file| size(&read(file))).sum();
    (Box::new(read_all), Box::new(move || held.iter().map(write).sum()))
}

fn total_len<T>(lists: &[Vec<T>]) -> u64 {
    lists.iter().map(|list| list.len() as u64).sum()
}

fn written_json<T: serde::Serialize>(lists: &[T]) -> u64 {
    lists.iter().map(|list| serde_json::to_vec(list).map_or(0, |text| text.len() as u64)).sum()
}

fn rows_as_numbers(layers: &[Vec<String>]) -> Vec<Vec<u32>> {
    let mut known = [0_u32; 256];
    (0..).zip(&mut known).for_each(|(number, known)| *known = number);
    let number = |byte: &u8| known[usize::from(*byte)];
    let list = |rows: &Vec<String>| -> Vec<u32> {
        rows.iter().flat_map(|row| row.as_bytes().iter().map(number)).collect()
    };
    layers.iter().map(list).collect()
}

fn rows(text: &[u8]) -> Vec<Vec<String>> {
    let document: Document<Rows> = serde_json::from_slice(text).expect("the map is JSON");
    document.layers.into_iter().map(|layer| layer.cells.rows).collect()
}

fn numbers(text: &[u8]) -> Vec<Vec<u32>> {
    let document: Document<NumberList> = serde_json::from_slice(text).expect("the map is JSON");
    document.layers.into_iter().map(|layer| layer.cells.numbers).collect()
}

fn table(text: &[u8]) -> Vec<u32> {
    let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(text);
    let mut values = Vec::new();
    let mut record = csv::StringRecord::new();
    while reader.read_record(&mut record).unwrap_or(false) {
        values.extend(record.iter().filter_map(|field| field.parse::<u32>().ok()));
    }
    values
}

fn written_table(values: &[u32]) -> u64 {
    let mut writer = csv::WriterBuilder::new().has_headers(false).from_writer(Vec::new());
    for row in values.chunks(SIDE as usize) {
        writer.serialize(row).expect("a list can be written");
    }
    writer.into_inner().map_or(0, |text| text.len() as u64)
}

fn pixels(file: &[u8]) -> Vec<u8> {
    let decoder = png::Decoder::new(std::io::Cursor::new(file));
    let mut reader = decoder.read_info().expect("the picture is a PNG");
    let mut raw = vec![0; reader.output_buffer_size().unwrap_or(0)];
    reader.next_frame(&mut raw).expect("the picture is whole");
    raw
}

fn written_picture(pixels: &[u8]) -> u64 {
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, SIDE, SIDE);
    encoder.set_color(png::ColorType::Rgba);
    encoder.set_depth(png::BitDepth::Eight);
    let mut writer = encoder.write_header().expect("a picture has pixels");
    writer.write_image_data(pixels).expect("there are as many as stated");
    writer.finish().expect("memory can be written");
    bytes.len() as u64
}

fn unpacked(block: &[u8]) -> Vec<u8> {
    let mut raw = Vec::new();
    let mut frame = lz4_flex::frame::FrameDecoder::new(block);
    std::io::Read::read_to_end(&mut frame, &mut raw).expect("the block is whole");
    raw
}

fn written_block(raw: &[u8]) -> u64 {
    let mut encoder = lz4_flex::frame::FrameEncoder::new(Vec::new());
    std::io::Write::write_all(&mut encoder, raw).expect("memory can be written");
    encoder.finish().map_or(0, |block| block.len() as u64)
}
