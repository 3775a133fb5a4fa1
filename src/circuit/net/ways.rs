//! Paths that come together again: the ways of a branch are TRUE, whatever its conditions are.

use super::{Gate, Net, Node, Rewrite};

/// Ways that are looked at together.
const MOST: usize = 12;

/// Conditions of one way that are looked at.
const DEEP: u32 = 12;

impl Net {
    /// A or B: what is ruled out by one way is not asked in another one.
    pub(super) fn ways(&mut self, a: Node, b: Node) -> Result<Node, Gate> {
        let mut list = Vec::new();
        self.alternatives(a, &mut list);
        self.alternatives(b, &mut list);
        if list.len() > MOST || list.iter().any(|n| !self.is_bool(*n)) {
            return Err(Gate::Or(a, b));
        }
        let mut changed = false;
        let mut at = 0;
        // What becomes shorter may make others shorter.
        while at < list.len() {
            let mut shorter = None;
            for other in (0..list.len()).filter(|other| *other != at) {
                if self.opposite(list[at], list[other]) {
                    return Ok(self.bool(true));
                }
                shorter = self.without(list[at], list[other], DEEP);
                if shorter.is_some() {
                    break;
                }
            }
            match shorter {
                Some(node) => {
                    (list[at], changed, at) = (node, true, 0);
                }
                None => at += 1,
            }
        }
        if !changed {
            return Err(Gate::Or(a, b));
        }
        let mut out = list[0];
        for node in &list[1..] {
            out = self.or(out, *node);
        }
        Ok(out)
    }

    /// The parts of an OR.
    fn alternatives(&self, node: Node, out: &mut Vec<Node>) {
        if let Gate::Or(a, b) = self.gate(node)
            && out.len() <= MOST
        {
            self.alternatives(a, out);
            self.alternatives(b, out);
        } else {
            out.push(node)
        }
    }

    /// An AND without the part that is the opposite of a node, if it has that.
    fn without(&mut self, node: Node, other: Node, deep: u32) -> Option<Node> {
        let Gate::And(a, b) = self.gate(node) else { return None };
        if deep == 0 {
            return None;
        }
        // What is left is one way among others, so it must be 0 or 1 itself.
        if self.opposite(a, other) && Rewrite::OrWays.needs(self.is_bool(b)) {
            return Some(b);
        }
        if self.opposite(b, other) && Rewrite::OrWays.needs(self.is_bool(a)) {
            return Some(a);
        }
        if let Some(a) = self.without(a, other, deep - 1) {
            return Some(self.and(a, b));
        }
        let b = self.without(b, other, deep - 1)?;
        Some(self.and(a, b))
    }
}
