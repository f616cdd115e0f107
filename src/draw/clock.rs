//! The time of a frame.

use rustc_hash::FxHashMap;

use crate::quilt::LayerId;
use crate::units::CellPos;

/// The clock of all that moves by itself: animations, and layers with a speed.
///
/// The game owns it, moves it on, and shows it to the list; a map holds no time. The same time
/// always gives the same picture.
///
/// ```
/// use sturdy_quilt::Clock;
///
/// let mut clock = Clock::new();
/// clock.advance(40);
/// assert_eq!(clock.now_ms(), 40);
/// ```
///
/// An animation that is played once, such as a gate that opens, begins with its first frame when
/// it is asked for, and its last frame stays until it is stopped, or the game puts another tile
/// there:
///
/// ```
/// use sturdy_quilt::{CellPos, Clock};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let (soil, gate) = (quilt.layer("soil")?.id(), CellPos::new(3, 1));
/// let mut clock = Clock::at_ms(500);
/// clock.play_once(soil, gate);
/// clock.advance(200);
/// assert_eq!(clock.played_ms(soil, gate), Some(200));
/// clock.stop(soil, gate);
/// # Ok::<(), sturdy_quilt::NameError>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Clock {
    now_ms: u64,
    /// When an animation was begun that is played once.
    begun: FxHashMap<(LayerId, CellPos), u64>,
}

impl Clock {
    /// Returns a clock at time 0.
    pub fn new() -> Clock {
        Clock::default()
    }

    /// Returns a clock at a time in milliseconds.
    pub fn at_ms(now_ms: u64) -> Clock {
        Clock { now_ms, ..Clock::default() }
    }

    /// Advances the clock by some milliseconds; it saturates at the end of its range.
    pub const fn advance(&mut self, ms: u64) {
        self.now_ms = self.now_ms.saturating_add(ms);
    }

    /// Sets the time in milliseconds, forwards or back. Animations that began later have not begun yet.
    pub const fn set_ms(&mut self, now_ms: u64) {
        self.now_ms = now_ms;
    }

    /// Returns the time in milliseconds.
    pub const fn now_ms(&self) -> u64 {
        self.now_ms
    }

    /// Plays the animation of a cell once, from now on.
    pub fn play_once(&mut self, layer: LayerId, cell: CellPos) {
        self.begun.insert((layer, cell), self.now_ms);
    }

    /// Returns a cell to the common time of all animations, after [`Clock::play_once`].
    pub fn stop(&mut self, layer: LayerId, cell: CellPos) {
        self.begun.remove(&(layer, cell));
    }

    /// Returns how long ago a cell began to play its animation once, in milliseconds; 0 before
    /// that. `None` where it does not.
    pub fn played_ms(&self, layer: LayerId, cell: CellPos) -> Option<u64> {
        let begun = self.begun.get(&(layer, cell))?;
        Some(self.now_ms.saturating_sub(*begun))
    }

    pub(super) fn plays_any(&self) -> bool {
        !self.begun.is_empty()
    }
}
