//! Honest Twin: move PLC logic between the IEC 61131-3 languages, and show that the versions behave the same.

pub mod check;
pub mod dialect;
pub mod lang;
pub mod model;
pub mod scan;
pub mod show;
pub mod source;
pub mod translate;
pub mod twin;
