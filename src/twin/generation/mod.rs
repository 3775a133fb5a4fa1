//! Drawing scenarios at random: from the words of both programs, and from scenarios that showed something new.

pub(in crate::twin) mod breed;
pub(in crate::twin) mod generate;
pub(in crate::twin) mod vocabulary;
