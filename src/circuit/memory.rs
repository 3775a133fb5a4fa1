//! Memory while a scan is taken apart: which node each slot holds, cheap to copy at a fork and to join again.

use super::net::Node;
use std::rc::Rc;

const CHUNK: usize = 32;

/// What each slot holds; `None` is what it held when the scan began.
#[derive(Clone)]
pub(super) struct Memory {
    chunks: Vec<Rc<[Option<Node>; CHUNK]>>,
}

impl Memory {
    pub(super) fn new(slots: usize) -> Memory {
        Memory { chunks: std::iter::repeat_n(Rc::new([None; CHUNK]), slots.div_ceil(CHUNK)).collect() }
    }

    pub(super) fn get(&self, slot: u32) -> Option<Node> {
        self.chunks[slot as usize / CHUNK][slot as usize % CHUNK]
    }

    pub(super) fn set(&mut self, slot: u32, node: Node) {
        Rc::make_mut(&mut self.chunks[slot as usize / CHUNK])[slot as usize % CHUNK] = Some(node);
    }

    /// The slots in which two memories that came from one may differ, and what each holds.
    pub(super) fn apart(&self, other: &Memory) -> Vec<(u32, Option<Node>, Option<Node>)> {
        let mut out = Vec::new();
        for (number, (mine, theirs)) in self.chunks.iter().zip(&other.chunks).enumerate() {
            if Rc::ptr_eq(mine, theirs) {
                continue;
            }
            for (at, (a, b)) in mine.iter().zip(theirs.iter()).enumerate() {
                if a != b {
                    out.push(((number * CHUNK + at) as u32, *a, *b));
                }
            }
        }
        out
    }
}
