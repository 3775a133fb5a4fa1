//! Which ways of rewriting were taken, and one that is broken on purpose: for tests, each on a thread of its own.

use super::Rewrite;
use std::cell::{Cell, RefCell};
use std::collections::BTreeSet;

thread_local! {
    static TAKEN: RefCell<BTreeSet<Rewrite>> = const { RefCell::new(BTreeSet::new()) };
    static BROKEN: Cell<Option<Rewrite>> = const { Cell::new(None) };
}

pub(super) fn note(by: Rewrite) {
    TAKEN.with_borrow_mut(|taken| taken.insert(by));
}

pub(super) fn is_broken(rewrite: Rewrite) -> bool {
    BROKEN.get() == Some(rewrite)
}

/// What was taken since this was asked last.
pub(crate) fn taken() -> BTreeSet<Rewrite> {
    TAKEN.take()
}

/// Runs something with a rewrite whose conditions do not count.
pub(crate) fn breaking<T>(rewrite: Rewrite, run: impl FnOnce() -> T) -> T {
    BROKEN.set(Some(rewrite));
    let out = run();
    BROKEN.set(None);
    out
}
