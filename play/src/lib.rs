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
    /// Q: turns the map by a quarter to the left.
    TurnLeft,
    /// E: turns the map by a quarter to the right.
    TurnRight,
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

/// What a game was started with.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Arguments {
    /// The map to play on, where the game has several.
    pub map: Option<String>,
    /// The script that plays the game.
    pub script: Option<PathBuf>,
    /// The picture that is saved at the end of the script.
    pub out: Option<PathBuf>,
}

impl Arguments {
    /// Returns the arguments of this program.
    ///
    /// # Errors
    /// An argument that is not known, or without what must follow it.
    pub fn read() -> Result<Arguments, Box<dyn Error>> {
        let mut read = Arguments::default();
        let mut args = std::env::args_os().skip(1);
        while let Some(arg) = args.next() {
            let mut next = || args.next().map(PathBuf::from).ok_or("a name must follow");
            match arg.to_str() {
                Some("--map") => read.map = Some(next()?.to_string_lossy().into_owned()),
                Some("--script") => read.script = Some(next()?),
                Some("--out") => read.out = Some(next()?),
                _ => {
                    let usage = "use --map NAME, --script FILE --out PNG";
                    return Err(format!("unknown argument {arg:?}; {usage}").into());
                }
            }
        }
        Ok(read)
    }
}

/// Runs a game in a window of `size`, or, with a script, from that, and saves its last picture. Prints
/// the game's report at the end.
///
/// # Errors
/// A window that cannot be opened; a script or a picture file that cannot be used.
pub fn run(
    title: &str,
    size: ScreenSize,
    arguments: &Arguments,
    game: &mut dyn Game,
) -> Result<(), Box<dyn Error>> {
    game.event(Event::Resize(size));
    match (&arguments.script, &arguments.out) {
        (None, None) => window::open(title, size, game)?,
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
