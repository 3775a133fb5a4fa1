//! Pages as text, made by running.

pub mod dialects;
pub mod traps;
