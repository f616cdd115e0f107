//! A first window: somebody walks over a map, the camera follows, and what is under the pointer lights
//! up. On the terrace a click lays a board over the channel; on the market it stacks a hamper on what
//! it points at, and Q and E turn the map. Tab shows the figures.
//!
//! `cargo run --release -p sturdy-quilt-play --bin first_window -- --map market`, and without a window
//! `… -- --script FILE --out PNG`.

mod market;
mod terrace;

use std::error::Error;

use sturdy_quilt::ScreenSize;
use sturdy_quilt_play::{Arguments, Game, run};

fn main() -> Result<(), Box<dyn Error>> {
    let arguments = Arguments::read()?;
    let mut game: Box<dyn Game> = match arguments.map.as_deref() {
        None | Some("terrace") => Box::new(terrace::Terrace::new()?),
        Some("market") => Box::new(market::Market::new()?),
        Some(other) => {
            return Err(format!("there is no map `{other}`: choose terrace or market").into());
        }
    };
    run("Sturdy Quilt: first window", ScreenSize::new(1280, 800), &arguments, &mut *game)
}
