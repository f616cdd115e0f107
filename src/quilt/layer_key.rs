//! The values that may name a layer of a map.

use super::layer::LayerId;
use super::layers::Layers;

/// A way to name a layer: its name, or its [`LayerId`].
///
/// Sealed: nothing else can.
pub trait LayerKey: sealed::Sealed + Copy {}

mod sealed {
    use crate::quilt::Layers;

    pub trait Sealed {
        /// The place of the layer in the order.
        fn place_in(&self, layers: &Layers) -> Option<usize>;

        /// The name, for messages.
        fn words(&self) -> String;
    }
}

impl LayerKey for &str {}

impl sealed::Sealed for &str {
    fn place_in(&self, layers: &Layers) -> Option<usize> {
        layers.place_of_name(self)
    }

    fn words(&self) -> String {
        (*self).to_owned()
    }
}

impl LayerKey for &String {}

impl sealed::Sealed for &String {
    fn place_in(&self, layers: &Layers) -> Option<usize> {
        layers.place_of_name(self)
    }

    fn words(&self) -> String {
        (*self).clone()
    }
}

/// One or several ways to name a layer: a [`LayerKey`], or an array or slice of them.
///
/// Sealed: nothing else can.
pub trait LayerKeys: several::Sealed {}

mod several {
    use super::LayerKey;

    pub trait Sealed {
        type Key: LayerKey;

        /// Each of them.
        fn keys(&self) -> &[Self::Key];
    }

    impl<K: LayerKey> super::LayerKeys for K {}

    impl<K: LayerKey> Sealed for K {
        type Key = K;

        fn keys(&self) -> &[K] {
            std::slice::from_ref(self)
        }
    }

    impl<K: LayerKey, const N: usize> super::LayerKeys for [K; N] {}

    impl<K: LayerKey, const N: usize> Sealed for [K; N] {
        type Key = K;

        fn keys(&self) -> &[K] {
            self
        }
    }

    impl<K: LayerKey> super::LayerKeys for &[K] {}

    impl<K: LayerKey> Sealed for &[K] {
        type Key = K;

        fn keys(&self) -> &[K] {
            self
        }
    }
}

impl LayerKey for LayerId {}

impl sealed::Sealed for LayerId {
    fn place_in(&self, layers: &Layers) -> Option<usize> {
        layers.place_of_id(*self)
    }

    fn words(&self) -> String {
        "(removed)".to_owned()
    }
}
