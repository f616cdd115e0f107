//! A macro for methods that return a value with one field changed.

/// Defines methods such as `with_x(field: Type);`. `const` makes one const, `into` takes what turns
/// into the type, and `some` sets a field that holds an option.
macro_rules! setters {
    () => {};
    ($(#[$doc:meta])* const $name:ident($field:ident: $type:ty); $($rest:tt)*) => {
        $(#[$doc])*
        #[must_use]
        pub const fn $name(mut self, $field: $type) -> Self {
            self.$field = $field;
            self
        }
        setters! { $($rest)* }
    };
    ($(#[$doc:meta])* $name:ident($field:ident: some into $type:ty); $($rest:tt)*) => {
        $(#[$doc])*
        #[must_use]
        pub fn $name(mut self, $field: impl Into<$type>) -> Self {
            self.$field = Some($field.into());
            self
        }
        setters! { $($rest)* }
    };
    ($(#[$doc:meta])* $name:ident($field:ident: some $type:ty); $($rest:tt)*) => {
        $(#[$doc])*
        #[must_use]
        pub fn $name(mut self, $field: $type) -> Self {
            self.$field = Some($field);
            self
        }
        setters! { $($rest)* }
    };
    ($(#[$doc:meta])* $name:ident($field:ident: into $type:ty); $($rest:tt)*) => {
        $(#[$doc])*
        #[must_use]
        pub fn $name(mut self, $field: impl Into<$type>) -> Self {
            self.$field = $field.into();
            self
        }
        setters! { $($rest)* }
    };
    ($(#[$doc:meta])* $name:ident($field:ident: $type:ty); $($rest:tt)*) => {
        $(#[$doc])*
        #[must_use]
        pub fn $name(mut self, $field: $type) -> Self {
            self.$field = $field;
            self
        }
        setters! { $($rest)* }
    };
}
