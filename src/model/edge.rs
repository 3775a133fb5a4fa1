//! Edges: what changed since the call, or the evaluation, before.

/// Which change: that of an input that is TRUE only in the call in which it happened, of a contact, or of a coil.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Edge {
    /// `R_EDGE`.
    Rising,
    /// `F_EDGE`.
    Falling,
}

impl Edge {
    /// What must be TRUE and what FALSE for the edge, of the value now and that of the scan before.
    pub(crate) fn levels<T>(self, now: T, before: T) -> (T, T) {
        match self {
            Edge::Rising => (now, before),
            Edge::Falling => (before, now),
        }
    }
}
