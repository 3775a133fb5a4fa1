//! Constraints that say what is assumed of what is given. They are believed, not checked, so they are shown in words; what
//! is checked is that they speak of nothing but what is given, and that they never leave nothing that may be given.

use super::read::Aig;
use super::solve::{Lit, Questions};
use super::{Alike, Doubt, MITER};

/// What a constraint assumes, in words; `None` if it is not called so.
pub(super) fn words(aig: &Aig, number: usize) -> Option<String> {
    aig.symbol('c', number).strip_prefix("assumed: ").map(str::to_string)
}

/// Whether a constraint speaks of what is given alone: of inputs now and in the step before, and of whether that was the
/// first since power-up.
pub(super) fn is_of_the_outside(aig: &Aig, constraint: u32) -> bool {
    let first_gate = aig.first_gate();
    let mut seen = vec![false; first_gate + aig.gates.len()];
    let mut waiting = vec![constraint];
    while let Some(literal) = waiting.pop() {
        let number = (literal >> 1) as usize;
        if number == 0 || std::mem::replace(&mut seen[number], true) {
            continue;
        }
        if number >= first_gate {
            waiting.extend(aig.gates[number - first_gate]);
        } else if number > aig.inputs {
            let name = aig.symbol('l', number - 1 - aig.inputs);
            let name = name.strip_prefix("not ").unwrap_or(&name);
            if !name.starts_with("given before: ") && name != "first after power-up" {
                return false;
            }
        } else if aig.symbol('i', number - 1).starts_with("unknown ") {
            return false;
        }
    }
    true
}

/// At power-up something may be given, and what was given may be given again: so there is always something.
///
/// # Errors
/// [`Doubt::Contradiction`] where it is not so: then nothing would be claimed of anything.
pub(super) fn leave_something(aig: &Aig) -> Result<(), Doubt> {
    let assumed: Vec<u32> = (0..aig.constraints.len())
        .filter(|number| words(aig, *number).is_some())
        .map(|number| aig.constraints[number])
        .collect();
    if assumed.is_empty() {
        return Ok(());
    }
    let power = (0..aig.inputs).find(|input| aig.symbol('i', *input) == "power");
    let Some(power) = power else {
        return Err(Doubt::Unfit { file: MITER, why: "it assumes something, and has no input that takes power away" });
    };
    let mut at_power_up = Questions::new();
    let none: Vec<Lit> = aig.latches.iter().map(|_| Lit::FALSE).collect();
    let first = at_power_up.copy(aig, &none, false);
    aig.constraints.iter().for_each(|constraint| at_power_up.holds(first.literal(*constraint)));
    if !at_power_up.is_possible() {
        return Err(Doubt::Contradiction);
    }
    let mut again = Questions::new();
    let latches = Alike::new(aig).literals(&mut again);
    let now = again.copy(aig, &latches, false);
    let held = aig.outputs.iter().map(|output| now.literal(*output).not());
    let held: Vec<Lit> = held.chain(aig.constraints.iter().map(|constraint| now.literal(*constraint))).collect();
    held.into_iter().for_each(|lit| again.holds(lit));
    let inputs: Vec<Lit> = (0..aig.inputs).map(|input| now.literal(2 * (input as u32 + 1))).collect();
    again.holds(inputs[power].not());
    let next: Vec<Lit> = aig.latches.iter().map(|next| now.literal(*next)).collect();
    let then = again.copy_given(aig, &inputs, &next);
    if assumed.iter().any(|constraint| again.can_be(then.literal(*constraint).not())) {
        return Err(Doubt::Contradiction);
    }
    Ok(())
}
