//! What the small games of this package share: a window on the pixels of a [`Frame`], and a script
//! that plays a game without one.

mod script;
mod window;

use std::error::Error;
use std::path::PathBuf;

use sturdy_quilt::{Frame, ScreenPoint, ScreenSize};

pub use script::{Script, ScriptError};

/// What can be pressed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Key {
    /// The arrow to the left, or A.
    Left,
    /// The arrow to the right, or D.
    Right,
    /// The arrow upwards, or W.
    Up,
    /// The arrow downwards, or S.
    Down,
    /// Tab: shows or hides the figures.
    Figures,
}

/// What happens to a game.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Event {
    /// A key goes down.
    Press(Key),
    /// A key goes up.
    Release(Key),
    /// The pointer moves.
    Point(ScreenPoint),
    /// The pointer's first button goes down.
    Click,
    /// The window has another size.
    Resize(ScreenSize),
    /// A sixtieth of a second has passed.
    Tick,
}

/// A game that is told what happens, and shows itself.
pub trait Game {
    /// Takes in what has happened.
    fn event(&mut self, event: Event);

    /// Paints what is to be seen now.
    fn paint(&mut self) -> &Frame;

    /// What there is to say at the end.
    fn report(&self) -> String;
}

/// Runs a game in a window of `size`, or, with the arguments `--script FILE --out PNG`, from a
/// script, whose last picture it saves. Prints the game's report at the end.
///
/// # Errors
/// A window that cannot be opened; arguments, a script or a picture file that cannot be used.
pub fn run(title: &str, size: ScreenSize, mut game: impl Game) -> Result<(), Box<dyn Error>> {
    let (mut script, mut out) = (None, None);
    let mut args = std::env::args_os().skip(1);
    while let Some(arg) = args.next() {
        let slot = match arg.to_str() {
            Some("--script") => &mut script,
            Some("--out") => &mut out,
            _ => {
                return Err(format!("unknown argument {arg:?}; use --script FILE --out PNG").into());
            }
        };
        *slot = Some(args.next().map(PathBuf::from).ok_or("a file name must follow")?);
    }
    game.event(Event::Resize(size));
    match (script, out) {
        (None, None) => window::open(title, size, &mut game)?,
        (Some(script), Some(out)) => {
            let script: Script = std::fs::read_to_string(script)?.parse()?;
            script.events().iter().for_each(|event| game.event(*event));
            std::fs::write(out, game.paint().to_picture().to_png()?)?;
        }
        _ => return Err("--script and --out belong together".into()),
    }
    println!("{}", game.report());
    Ok(())
}
