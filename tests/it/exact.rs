//! What the judges of motion compute in: exact fractions, or, to find out what hangs on little, floats.

use num_rational::BigRational;
use num_traits::{Signed, ToPrimitive, Zero};

pub(crate) trait Number: Clone + PartialOrd + Signed + ToPrimitive + Zero {
    fn of(value: f64) -> Self;
}

impl Number for f64 {
    fn of(value: f64) -> f64 {
        value
    }
}

impl Number for BigRational {
    fn of(value: f64) -> BigRational {
        BigRational::from_float(value).unwrap()
    }
}
