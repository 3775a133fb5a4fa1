//! Not there yet.
fn main() {}
