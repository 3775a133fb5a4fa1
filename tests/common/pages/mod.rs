//! Pages as text, made by running.

pub mod dialects;
pub mod found;
pub mod traps;
