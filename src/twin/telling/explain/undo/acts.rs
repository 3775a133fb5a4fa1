//! Scenarios with something taken out of them: what is held is pressed, what comes together comes apart, nothing happens in
//! the first scan, the power stays on.

use crate::model::Elem;
use crate::scan::{PointType, Power};
use crate::twin::Twin;
use crate::twin::scenario::{Act, Change, Leaf, Scenario};

/// Acts of a scenario that are looked at, at most.
const MOST_LEAVES: usize = 5_000;

/// Scans of a hold that become presses, at most.
const MOST_PRESSES: u64 = 400;

/// Scans by which a scenario goes on behind what it shows.
pub(super) const TAIL: u64 = 60;

/// Acts of a scenario that are varied, at most.
const MOST_VARIED: usize = 8;

/// Scenarios beside one: later, twice, with longer waits, with an act less, with another input on from the start.
pub(super) fn beside(twin: &Twin<'_>, scenario: &Scenario) -> Vec<Scenario> {
    let acts = &scenario.acts;
    let behind = |acts: Vec<Act>| {
        let mut out = Scenario { acts };
        out.acts.push(Act::Wait(TAIL + out.scans().min(MOST_PRESSES)));
        out
    };
    let later = |scans: u64| behind(std::iter::once(Act::Wait(scans)).chain(acts.iter().cloned()).collect());
    let mut out = vec![later(1), later(7)];
    out.push(behind(acts.iter().cloned().chain([Act::Wait(30)]).chain(acts.iter().cloned()).collect()));
    for (at, act) in acts.iter().enumerate().rev().take(MOST_VARIED) {
        let mut varied = acts.clone();
        match act {
            Act::Wait(scans) => {
                varied[at] = Act::Wait(scans + 1);
                out.push(behind(varied.clone()));
                varied[at] = Act::Wait(scans + 25);
            }
            Act::Repeat(times, body) => varied[at] = Act::Repeat(times + 1, body.clone()),
            Act::Set(_) | Act::Power(_) => drop(varied.remove(at)),
        }
        out.push(behind(varied));
    }
    for input in buttons(twin).into_iter().take(MOST_VARIED) {
        let on = Act::Set(Change { input, value: 1 });
        out.push(behind(std::iter::once(on.clone()).chain(acts.iter().cloned()).collect()));
        out.push(behind(acts.iter().cloned().chain([on]).collect()));
    }
    out
}

/// What is taken out of a scenario.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Without {
    /// Loss of power.
    Power,
    /// Anything that changes in the first scan.
    FirstScan,
    /// Inputs that are off in the first scan.
    Rest,
    /// Inputs that stay on for more than a scan: they are pressed so often.
    Holds,
    /// Inputs that are on while another is switched on, and changes in the same scan.
    Company,
}

/// A scenario without something; `None` if nothing of that is in it.
pub(super) fn without(what: Without, twin: &Twin<'_>, scenario: &Scenario) -> Option<Scenario> {
    let leaves: Vec<Leaf> = scenario.leaves().take(MOST_LEAVES).collect();
    match what {
        Without::Power => {
            let is_loss = |leaf: &&Leaf| matches!(leaf, Leaf::Power(Power::Cycle | Power::Cold));
            let rest: Vec<Act> = leaves.iter().filter(|leaf| !is_loss(leaf)).map(act).collect();
            (rest.len() < leaves.len()).then_some(Scenario { acts: rest })
        }
        Without::FirstScan => {
            let acts = std::iter::once(Act::Wait(1)).chain(leaves.iter().map(act));
            Some(Scenario { acts: acts.collect() })
        }
        Without::Rest => {
            let inputs = buttons(twin);
            let on = inputs.iter().map(|input| Act::Set(Change { input: *input, value: 1 }));
            let off = inputs.iter().map(|input| Act::Set(Change { input: *input, value: 0 }));
            Some(Scenario { acts: on.chain([Act::Wait(1)]).chain(off).chain(leaves.iter().map(act)).collect() })
        }
        Without::Holds => Some(pressed(twin, &leaves)),
        Without::Company => Some(alone(twin, &leaves)),
    }
}

fn act(leaf: &Leaf) -> Act {
    match leaf {
        Leaf::Set(change) => Act::Set(*change),
        Leaf::Power(power) => Act::Power(*power),
        Leaf::Wait(scans) => Act::Wait(*scans),
    }
}

/// The inputs that are BOOL.
fn buttons(twin: &Twin<'_>) -> Vec<usize> {
    let is_bool =
        |input: &usize| twin.left.machine.point(twin.pairing.inputs[*input].left).ty == PointType::Elem(Elem::Bool);
    (0..twin.pairing.inputs.len()).filter(is_bool).collect()
}

/// Each scan in which something is on is followed by one in which all is off.
fn pressed(twin: &Twin<'_>, leaves: &[Leaf]) -> Scenario {
    let buttons = buttons(twin);
    let mut on: Vec<usize> = Vec::new();
    let mut acts = Vec::new();
    for leaf in leaves {
        match leaf {
            Leaf::Set(change) if buttons.contains(&change.input) => {
                on.retain(|input| *input != change.input);
                if change.value != 0 {
                    on.push(change.input);
                }
            }
            Leaf::Set(change) => acts.push(Act::Set(*change)),
            Leaf::Power(power) => acts.push(Act::Power(*power)),
            Leaf::Wait(scans) if on.is_empty() => acts.push(Act::Wait(*scans)),
            Leaf::Wait(scans) => {
                let each = |value| on.iter().map(move |input| Act::Set(Change { input: *input, value }));
                let press = each(1).chain([Act::Wait(1)]).chain(each(0)).chain([Act::Wait(1)]);
                acts.push(Act::Repeat((*scans).min(MOST_PRESSES), press.collect()));
            }
        }
    }
    Scenario { acts }
}

/// Before an input is switched on all others are switched off, a scan before.
fn alone(twin: &Twin<'_>, leaves: &[Leaf]) -> Scenario {
    let buttons = buttons(twin);
    let mut on: Vec<usize> = Vec::new();
    let mut acts = Vec::new();
    let mut moved = false;
    for leaf in leaves {
        match leaf {
            Leaf::Set(change) => {
                if moved {
                    acts.push(Act::Wait(1));
                }
                if buttons.contains(&change.input) && change.value != 0 {
                    on.retain(|input| *input != change.input);
                    if !on.is_empty() {
                        acts.extend(on.drain(..).map(|input| Act::Set(Change { input, value: 0 })));
                        acts.push(Act::Wait(1));
                    }
                    on.push(change.input);
                } else {
                    on.retain(|input| *input != change.input);
                }
                acts.push(Act::Set(*change));
                moved = true;
            }
            Leaf::Power(power) => acts.push(Act::Power(*power)),
            Leaf::Wait(scans) => {
                acts.push(Act::Wait(*scans));
                moved = false;
            }
        }
    }
    Scenario { acts }
}
