//! Paints the sheets of the demo maps into a folder: `cargo run -p sturdy-quilt-demo -- demo`.

use std::error::Error;
use std::path::PathBuf;

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("demo".into(), PathBuf::from);
    for (name, picture) in sturdy_quilt_demo::sheets() {
        std::fs::write(folder.join(name), picture.to_png()?)?;
    }
    Ok(())
}
