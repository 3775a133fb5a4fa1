//! Which ways of which branches a path has come.
//!
//! Where both ways of a branch have come together again the path is the one that came to the branch: its condition is that of
//! before, whatever was asked there. From the conditions alone that would have to be found out, and where it is not, all that
//! follows hangs on what was asked.

use super::net::{Net, Node};
use std::collections::BTreeSet;

/// When a path is taken, and how it came to where it is.
#[derive(Clone)]
pub(super) struct Way {
    pub(super) when: Node,
    /// Ways of branches: 2n and 2n + 1 are those of branch n. What has come together from several has several; what has come out of
    /// all branches has none.
    came: Vec<u32>,
}

impl Way {
    /// Of a path that has come to no branch yet.
    pub(super) fn new(when: Node) -> Way {
        Way { when, came: Vec::new() }
    }

    /// Whether no scan takes it.
    pub(super) fn is_never(&self, net: &Net) -> bool {
        net.as_constant(self.when) == Some(0)
    }
}

/// Where a path became two.
struct Branch {
    /// The path that came to it.
    way: Way,
    /// What holds where the one is taken, and where the other is.
    asked: [Node; 2],
}

/// All branches of a scan.
#[derive(Default)]
pub(super) struct Branches {
    all: Vec<Branch>,
}

impl Branches {
    /// A path as two: where this holds, and where it does not.
    pub(super) fn split(&mut self, net: &mut Net, way: &Way, asked: Node) -> [Way; 2] {
        let asked = [asked, net.not(asked)];
        let mut both = asked.map(|asked| Way { when: net.and(way.when, asked), came: way.came.clone() });
        // Where one is never taken there is no branch.
        if let Some(never) = both.iter().position(|way| way.is_never(net)) {
            both[1 - never] = way.clone();
            return both;
        }
        let first = 2 * self.all.len() as u32;
        self.all.push(Branch { way: way.clone(), asked });
        let mut number = first..;
        both.map(|way| Way { came: number.by_ref().take(1).collect(), ..way })
    }

    /// Two paths as one.
    pub(super) fn join(&self, net: &mut Net, a: &Way, b: &Way) -> Way {
        let mut came: BTreeSet<u32> = a.came.iter().chain(&b.came).copied().collect();
        let mut whole = None;
        // The last branch first: what it gives back may be one way of an earlier one.
        while let Some(second) = came.iter().rev().copied().find(|way| way % 2 == 1 && came.contains(&(way - 1))) {
            let branch = &self.all[second as usize / 2];
            came.remove(&second);
            came.remove(&(second - 1));
            whole = came.is_empty().then_some(branch.way.when);
            came.extend(&branch.way.came);
        }
        let when = whole.unwrap_or_else(|| net.or(a.when, b.when));
        Way { when, came: came.into_iter().collect() }
    }

    /// What tells one path from another, where they are the two ways of one branch: it holds where the first is taken.
    pub(super) fn asked(&self, a: &Way, b: &Way) -> Option<Node> {
        let ([a], [b]) = (a.came.as_slice(), b.came.as_slice()) else { return None };
        (a ^ 1 == *b).then(|| self.all[*a as usize / 2].asked[*a as usize % 2])
    }
}
