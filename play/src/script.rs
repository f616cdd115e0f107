use std::str::FromStr;

use sturdy_quilt::ScreenPoint;

use crate::{Event, Key};

/// What happens to a game, one thing a line: `hold right 30` (for so many ticks), `wait 10`,
/// `point 640 400`, `click`, `press figures`. Empty lines, and what follows a `#`, do not count.
///
/// ```
/// use sturdy_quilt_play::{Event, Script};
///
/// let script: Script = "hold right 2  # two ticks\nclick".parse()?;
/// assert_eq!(script.events().len(), 5);
/// assert_eq!(script.events()[1], Event::Tick);
/// # Ok::<(), sturdy_quilt_play::ScriptError>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Script {
    events: Vec<Event>,
}

/// A line of a script is not understood.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ScriptError {
    line: usize,
    text: String,
}

impl std::fmt::Display for ScriptError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let ScriptError { line, text } = self;
        write!(
            f,
            "line {line} of the script, `{text}`, is not understood; write hold KEY TICKS, press KEY, wait TICKS, point X Y or click"
        )
    }
}

impl std::error::Error for ScriptError {}

impl Script {
    /// What happens, in order.
    pub fn events(&self) -> &[Event] {
        &self.events
    }
}

impl FromStr for Script {
    type Err = ScriptError;

    fn from_str(text: &str) -> Result<Script, ScriptError> {
        let mut events = Vec::new();
        for (number, line) in text.lines().enumerate() {
            let said = line.split('#').next().unwrap_or_default();
            let words: Vec<&str> = said.split_whitespace().collect();
            let wrong = || ScriptError { line: number + 1, text: line.trim().to_owned() };
            events.extend(meant(&words).ok_or_else(wrong)?);
        }
        Ok(Script { events })
    }
}

fn meant(words: &[&str]) -> Option<Vec<Event>> {
    /// More than a day of ticks is a slip.
    const MAX_TICKS: usize = 6_000_000;
    let ticks = |word: &str| -> Option<Vec<Event>> {
        let count: usize = word.parse().ok().filter(|count| *count <= MAX_TICKS)?;
        Some(vec![Event::Tick; count])
    };
    Some(match words {
        [] => Vec::new(),
        ["click"] => vec![Event::Click],
        ["wait", count] => ticks(count)?,
        ["press", name] => vec![Event::Press(key(name)?), Event::Release(key(name)?)],
        ["point", x, y] => vec![Event::Point(ScreenPoint::new(x.parse().ok()?, y.parse().ok()?))],
        ["hold", name, count] => {
            let key = key(name)?;
            let mut held = vec![Event::Press(key)];
            held.extend(ticks(count)?);
            held.push(Event::Release(key));
            held
        }
        _ => return None,
    })
}

fn key(name: &str) -> Option<Key> {
    Some(match name {
        "left" => Key::Left,
        "right" => Key::Right,
        "up" => Key::Up,
        "down" => Key::Down,
        "figures" => Key::Figures,
        "turn-left" => Key::TurnLeft,
        "turn-right" => Key::TurnRight,
        _ => return None,
    })
}
