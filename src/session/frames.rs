//! States kept on the way, so that going back costs a part of the way and not all of it.

use super::log::Position;
use crate::model::Instant;
use crate::scan::Controller;
use crate::twin::Pace;
use std::collections::BTreeMap;

/// What a preset or constant was before it was changed, by name: a slot of each version that has it.
pub(super) type Before = BTreeMap<String, Vec<Option<i64>>>;

/// Everything that a scan may change, at some moment.
pub(super) struct Frame {
    pub(super) position: Position,
    pub(super) now: Option<Instant>,
    pub(super) program: usize,
    pub(super) controllers: Vec<Controller>,
    pub(super) pace: Pace,
    pub(super) before: Before,
    pub(super) apart: bool,
}

/// Scans from one kept state to the next, at first.
const EVERY: u64 = 128;

/// Slots of all kept states together: a quarter of a gigabyte.
const MOST_SLOTS: usize = 32 << 20;

/// Most states, however small they are.
const MOST: usize = 2_048;

/// States by time, ever further apart the longer it takes.
pub(super) struct Frames {
    kept: Vec<Frame>,
    every: u64,
}

impl Default for Frames {
    fn default() -> Self {
        Frames { kept: Vec::new(), every: EVERY }
    }
}

impl Frames {
    /// The same states once more.
    pub(super) fn fork(&self) -> Frames {
        let one = |frame: &Frame| Frame {
            controllers: frame.controllers.iter().map(Controller::fork).collect(),
            pace: frame.pace.clone(),
            before: frame.before.clone(),
            ..*frame
        };
        Frames { kept: self.kept.iter().map(one).collect(), every: self.every }
    }

    /// Whether a state is wanted after so many scans.
    pub(super) fn wants(&self, position: Position) -> bool {
        let beyond = self.kept.last().is_none_or(|last| last.position < position);
        beyond && position.scan.is_multiple_of(self.every)
    }

    pub(super) fn keep(&mut self, frame: Frame) {
        let slots: usize = frame.controllers.iter().map(|controller| controller.slots()).sum();
        let most = (MOST_SLOTS / slots.max(1)).clamp(16, MOST);
        self.kept.push(frame);
        if self.kept.len() > most {
            self.every *= 2;
            let every = self.every;
            self.kept.retain(|frame| frame.position.scan.is_multiple_of(every));
        }
    }

    /// The last state that lies before a position, by a scan at least: what is noted after a scan knows nothing of what has
    /// happened since.
    pub(super) fn before(&self, position: Position) -> Option<&Frame> {
        let fits = |frame: &&Frame| frame.position.scan < position.scan && frame.position.log <= position.log;
        self.kept.iter().rev().find(fits)
    }

    /// What is beyond a position never happened.
    pub(super) fn forget(&mut self, position: Position) {
        self.kept.retain(|frame| frame.position.scan <= position.scan && frame.position.log <= position.log);
    }
}
