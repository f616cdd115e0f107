//! The progress of a load, and the wish to cancel it.

use std::sync::atomic::{AtomicBool, AtomicU8, AtomicU64, Ordering};

/// The progress of a load.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct LoadProgress {
    /// What it is at.
    pub stage: LoadStage,
    /// How many of the things of this stage are done.
    pub done: u64,
    /// How many there are; 0 while that is not known.
    pub total: u64,
}

/// The stages of a load, in this order.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum LoadStage {
    /// The document of the map.
    Document,
    /// Its tile sets with their pictures.
    TileSets,
    /// Its layers.
    Layers,
    /// Values, markers and checks.
    Rest,
    /// Nothing any more: it has ended, well or not.
    Ended,
}

#[cfg(feature = "threads")]
impl LoadStage {
    const ALL: [LoadStage; 5] = [
        LoadStage::Document,
        LoadStage::TileSets,
        LoadStage::Layers,
        LoadStage::Rest,
        LoadStage::Ended,
    ];
}

/// What a load and the one who waits for it share.
#[derive(Debug, Default)]
pub(crate) struct Watch {
    stage: AtomicU8,
    done: AtomicU64,
    total: AtomicU64,
    is_cancelled: AtomicBool,
}

impl Watch {
    pub(crate) fn enter(&self, stage: LoadStage, total: u64) {
        self.done.store(0, Ordering::Relaxed);
        self.total.store(total, Ordering::Relaxed);
        self.stage.store(stage as u8, Ordering::Release);
    }

    pub(super) fn step(&self) {
        self.done.fetch_add(1, Ordering::Relaxed);
    }

    #[cfg(feature = "threads")]
    pub(crate) fn progress(&self) -> LoadProgress {
        let stage = usize::from(self.stage.load(Ordering::Acquire));
        LoadProgress {
            stage: LoadStage::ALL.get(stage).copied().unwrap_or(LoadStage::Ended),
            done: self.done.load(Ordering::Relaxed),
            total: self.total.load(Ordering::Relaxed),
        }
    }

    #[cfg(feature = "threads")]
    pub(crate) fn cancel(&self) {
        self.is_cancelled.store(true, Ordering::Relaxed);
    }

    pub(crate) fn is_cancelled(&self) -> bool {
        self.is_cancelled.load(Ordering::Relaxed)
    }
}
