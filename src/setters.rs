//! A macro for methods that return a value with one field changed.

/// Defines `with_x(field: Type)` methods, from their docs on: `const` ones, those that take what
/// turns `into` a type, and others.
macro_rules! setters {
    () => {};
    ($(#[$doc:meta])* const $name:ident($field:ident: $type:ty); $($rest:tt)*) => {
        $(#[$doc])*
        #[must_use]
        pub const fn $name(mut self, $field: $type) -> Self {
            self.$field = $field;
            self
        }
        $crate::setters::setters! { $($rest)* }
    };
    ($(#[$doc:meta])* $name:ident($field:ident: into $type:ty); $($rest:tt)*) => {
        $(#[$doc])*
        #[must_use]
        pub fn $name(mut self, $field: impl Into<$type>) -> Self {
            self.$field = $field.into();
            self
        }
        $crate::setters::setters! { $($rest)* }
    };
    ($(#[$doc:meta])* $name:ident($field:ident: $type:ty); $($rest:tt)*) => {
        $(#[$doc])*
        #[must_use]
        pub fn $name(mut self, $field: $type) -> Self {
            self.$field = $field;
            self
        }
        $crate::setters::setters! { $($rest)* }
    };
}

pub(crate) use setters;
