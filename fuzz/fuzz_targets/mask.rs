//! Any pixels as the mask that says the ground of tiles, over any sheet.
#![no_main]

use libfuzzer_sys::fuzz_target;
use serde_json::json;
use sturdy_quilt::Picture;
use sturdy_quilt::units::PixelSize;
use sturdy_quilt_fuzz::{check_error, loader, with, within_cost};

fuzz_target!(|input: (u8, u8, u8, [u8; 4], &[u8])| {
    let (columns, width, tile, cut, pixels) = input;
    let picture = |width: u32| {
        let height = (pixels.len() as u32 / 4).checked_div(width).unwrap_or(0);
        let bytes = pixels[..(width * height * 4) as usize].to_vec();
        let picture = Picture::from_bytes(PixelSize::new(width, height), bytes).unwrap();
        picture.to_png().unwrap_or_default()
    };
    let set = json!({
        "format": "sturdy-quilt/tiles", "version": 1, "name": "s",
        "sheet": { "picture": "sheet.png", "tile": [tile, tile], "gap": cut[0] % 4, "margin": cut[1] % 4 },
        "ground_mask": { "picture": "mask.png", "legend": {
            "#000000": "stone", "#ff0000": "mud", "#00ff0080": null,
        }, },
    });
    let mut source = with("s.tiles.json", set.to_string().as_bytes());
    source.add("sheet.png", picture(columns.into()));
    source.add("mask.png", picture(width.into()));
    if let Err(error) = within_cost(|| loader().load_tiles(&source, "s.tiles.json")) {
        check_error(&error);
    }
});
