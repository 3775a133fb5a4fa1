//! Latches and one-shots.

use super::expr::field;
use super::facts::{Combine, Draft, Native};
use super::timer::retention;
use super::usage::Usage;
use crate::model::sheet::{Device, Role};
use crate::translate::Grade::{Conditional, Exact};
use crate::translate::ledger::{DOMINANT_SIDE, NATIVE_DEVICE, POWER_UP_INPUT};
use std::collections::HashMap;

/// Takes a latch or one-shot of one sheet to one of another; `None` if that has not the means.
pub(super) fn plan(name: &str, from: &Device, (number, to): (usize, &Device), usage: &Usage) -> Option<Native> {
    if from.kind != to.kind || (from.latch.is_none() && from.edge.is_none()) {
        return None;
    }
    let mut drafts = Vec::new();
    let mut combine = Combine::Each;
    if let (Some(source), Some(target)) = (&from.latch, &to.latch)
        && source.wins != target.wins
    {
        if usage.apart(from, Role::Set, Role::Reset) {
            return None;
        }
        let (side, held) = if source.wins == Role::Set {
            combine = Combine::SetWins;
            ("set", "reset")
        } else {
            combine = Combine::ResetWins;
            ("reset", "set")
        };
        let reason = format!("`{side}` still wins: `{held}` is held off while it is on");
        drafts.push(Draft::new(DOMINANT_SIDE, Exact, 13, reason));
    }
    if let (Some(source), Some(target)) = (&from.edge, &to.edge)
        && source.first != target.first
    {
        let answer = if target.first { "TRUE" } else { "FALSE" };
        let reason =
            format!("it answers {answer} in its first call, if the input stands there that way from the beginning");
        drafts.push(Draft::new(POWER_UP_INPUT, Conditional, 29, reason));
    }
    retention(from, to, &mut drafts);
    let mismatches = drafts.len();
    let reason = format!("`{name}` became a `{}`: {}", to.block, to.name);
    drafts.insert(0, Draft { code: NATIVE_DEVICE, grade: Exact, reason, trap: None });
    let outputs = HashMap::from([(Role::Done, field(name, to.pins.get(&Role::Done)?))]);
    Some(Native { device: number, combine, scale: None, outputs, drafts, cost: (0, mismatches, 0) })
}
