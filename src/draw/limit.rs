//! Lists of some layers only.

use std::ops::{Bound, RangeBounds};
use std::sync::Arc;

use crate::quilt::{Layer, Wrap};

/// Which layers a list has.
#[derive(Clone, Debug, Default)]
pub(crate) struct Limit {
    /// Whether those that move are left out.
    pub(super) only_still: bool,
    /// The priorities: from the first up to the last.
    priorities: Option<(i32, i32)>,
    layers: Option<Arc<[String]>>,
}

impl Limit {
    /// Layers that have neither a parallax nor a speed.
    pub(crate) fn still() -> Limit {
        Limit { only_still: true, ..Limit::default() }
    }

    pub(super) fn set_priorities(&mut self, range: &impl RangeBounds<i32>) {
        let first = match range.start_bound() {
            Bound::Included(first) => Some(*first),
            Bound::Excluded(before) => before.checked_add(1),
            Bound::Unbounded => Some(i32::MIN),
        };
        let last = match range.end_bound() {
            Bound::Included(last) => Some(*last),
            Bound::Excluded(end) => end.checked_sub(1),
            Bound::Unbounded => Some(i32::MAX),
        };
        // An empty range where there is no such priority.
        self.priorities = Some(first.zip(last).unwrap_or((1, 0)));
    }

    pub(super) fn set_layers(&mut self, layers: impl IntoIterator<Item = impl Into<String>>) {
        self.layers = Some(layers.into_iter().map(Into::into).collect());
    }

    /// Whether what has a priority is listed.
    pub(super) fn has_priority(&self, priority: i32) -> bool {
        self.priorities.is_none_or(|(first, last)| (first..=last).contains(&priority))
    }

    /// Whether a layer is listed, if it shows at all.
    pub(super) fn has(&self, layer: &Layer) -> bool {
        let settings = layer.settings();
        let is_named =
            self.layers.as_ref().is_none_or(|names| names.iter().any(|own| own == layer.name()));
        let is_still = || settings.clone().with_wrap(Wrap::No).is_still();
        is_named && self.has_priority(settings.priority) && (!self.only_still || is_still())
    }
}
