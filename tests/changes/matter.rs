//! Whether a change matters.
