use super::chance::scatter;
use crate::units::CellPos;

/// The tiles that a tile shows one after the other, over and over.
///
/// Nothing of it is kept in the map: which one is shown follows from the time alone, and if it is
/// wished from the place.
///
/// ```
/// use sturdy_quilt::tile::{Animation, AnimationStart};
/// use sturdy_quilt::CellPos;
///
/// // Four times a second, and each cell a little later than its left neighbour.
/// let water = Animation::uniform(["water-0", "water-1", "water-2"], 250)
///     .with_start(AnimationStart::Shifted { x_ms: 40, y_ms: 0 });
/// assert_eq!(water.frame_at(600, CellPos::new(0, 0)), Some("water-2"));
/// assert_eq!(water.frame_at(600, CellPos::new(3, 0)), Some("water-1"));
/// assert_eq!(water.duration_ms(), 750);
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Animation {
    frames: Vec<Frame>,
    start: AnimationStart,
}

/// One picture of an animation.
#[derive(Clone, Debug, PartialEq, Eq)]
struct Frame {
    tile: String,
    ms: u32,
}

/// The time at which the animation of a cell begins.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum AnimationStart {
    /// At time 0 in every cell.
    #[default]
    Together,
    /// At a time of its own in every cell, as if by chance, but always the same.
    Scattered,
    /// Later with each column to the right and each row down, in milliseconds; negative is earlier.
    Shifted {
        /// For each column.
        x_ms: i32,
        /// For each row.
        y_ms: i32,
    },
}

impl Animation {
    /// Returns an animation whose frames are all shown for the same time, in milliseconds.
    pub fn uniform<T: Into<String>>(
        tiles: impl IntoIterator<Item = T>,
        frame_ms: u32,
    ) -> Animation {
        Animation::new(tiles.into_iter().map(|tile| (tile, frame_ms)))
    }

    /// Returns an animation of frames, each with the time for which it is shown, in milliseconds.
    /// A tile is written as in [`TileSet::find`].
    ///
    /// [`TileSet::find`]: super::TileSet::find
    pub fn new<T: Into<String>>(frames: impl IntoIterator<Item = (T, u32)>) -> Animation {
        let frame = |(tile, ms): (T, u32)| Frame { tile: tile.into(), ms };
        let frames = frames.into_iter().map(frame).collect();
        Animation { frames, start: AnimationStart::default() }
    }

    /// The same frames with other tiles in their places.
    pub(super) fn with_tiles(&self, other: impl Fn(&str) -> String) -> Animation {
        let frames = self.frames().map(|(tile, ms)| (other(tile), ms));
        Animation::new(frames).with_start(self.start)
    }

    setters! {
        /// Returns these frames, begun at another time.
        const with_start(start: AnimationStart);
    }

    /// Returns when it begins.
    pub const fn start(&self) -> AnimationStart {
        self.start
    }

    /// Returns the frames: the tile of each, and how long it is shown in milliseconds.
    pub fn frames(&self) -> impl ExactSizeIterator<Item = (&str, u32)> {
        self.frames.iter().map(|frame| (&*frame.tile, frame.ms))
    }

    /// Returns how long all frames take together, in milliseconds.
    pub fn duration_ms(&self) -> u64 {
        self.frames.iter().map(|frame| u64::from(frame.ms)).sum()
    }

    /// Returns the tile that is shown in a cell at a time; `None` where there are no frames, or
    /// none takes any time. Costs one look a frame.
    pub fn frame_at(&self, time_ms: u64, cell: CellPos) -> Option<&str> {
        self.number_at(time_ms, cell).map(|number| &*self.frames[number].tile)
    }

    /// The number of the frame that is shown in a cell at a time.
    pub(crate) fn number_at(&self, time_ms: u64, cell: CellPos) -> Option<usize> {
        let (x, y) = (i128::from(cell.x()), i128::from(cell.y()));
        let shift = match self.start {
            AnimationStart::Together => 0,
            AnimationStart::Scattered => i128::from(scatter(cell, 0)),
            AnimationStart::Shifted { x_ms, y_ms } => {
                -(x * i128::from(x_ms) + y * i128::from(y_ms))
            }
        };
        let whole = i128::from(self.duration_ms());
        self.number_after((i128::from(time_ms) + shift).checked_rem_euclid(whole)?)
    }

    /// The number of the frame that is shown so long after it was begun, if it is played once.
    pub(crate) fn number_once(&self, played_ms: u64) -> Option<usize> {
        let last = self.duration_ms().checked_sub(1)?;
        self.number_after(played_ms.min(last).into())
    }

    fn number_after(&self, ms: i128) -> Option<usize> {
        let mut end = 0;
        self.frames.iter().position(|frame| {
            end += i128::from(frame.ms);
            ms < end
        })
    }
}
