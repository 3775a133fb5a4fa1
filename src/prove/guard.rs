//! The prover is watched while it works: what it takes for one scan of both versions is done once more by the scan engine,
//! for states that were drawn and for states that the solver found. Where the two do not agree nothing is claimed.

use super::induct::Induction;
use super::part::Part;
use super::system::{Kept, System, What};
use crate::circuit::{Bit, NONE, Place, Role, Simulator, Word};
use crate::model::{Duration, Instant};
use crate::scan::{Controller, Power};
use crate::twin::{Allowed, Stimuli, Twin, pair_agrees, sets};
use std::sync::Arc;

/// Operations of the tape that may be spent on scenarios.
const MOST_OPERATIONS: usize = 6_000_000;

/// Steps of the plan that may be, as [`crate::circuit::Plan::work`] counts them.
const MOST_STEPS: usize = 400_000_000;

/// Scenarios that are watched.
const LANES: [usize; 4] = [0, 65, 130, 255];

/// States of the solver that are tried, of each part.
const MOST_STATES: usize = 128;

/// When the scan before a state of the solver began, in nanoseconds since power-up.
const BEFORE: i64 = 1_000_000_000_000_000;

/// Plays scenarios as they are drawn for the proof, on the circuit and on the engine: what disagrees, in a sentence.
pub(super) fn scenarios(twin: &Twin<'_>, system: &System, stimuli: &Stimuli) -> Option<String> {
    let machines = twin.machines();
    let operations: usize = machines.iter().map(|m| m.operations()).sum();
    let scans = (MOST_OPERATIONS / LANES.len() / operations.max(1)).min(MOST_STEPS / system.plan.work().max(1));
    let scans = scans.clamp(8, 400) as u64;
    let mut simulator = Simulator::new(Arc::clone(&system.plan));
    let mut feed = stimuli.feed(0xC0DE);
    let mut sides: Vec<[Controller; 2]> = LANES.iter().map(|_| machines.map(Controller::new)).collect();
    let mut allowed: Vec<Allowed> = LANES.iter().map(|_| Allowed::new(twin)).collect();
    let mut now = vec![0i64; LANES.len()];
    let mut over = vec![false; LANES.len()];
    let mut rounds = 0;
    for scan in 0..scans {
        // Long loops take their time as well.
        if rounds > MOST_OPERATIONS as u64 || twin.halt.has_rung() {
            break;
        }
        let drawn = stimuli.next(&mut feed, scan);
        let power = if system.lasting { NONE } else { drawn };
        simulator.power_cycle(power);
        system.give(&mut simulator, &mut feed);
        for (number, lane) in LANES.iter().enumerate() {
            let controllers = &mut sides[number];
            if scan > 0 {
                now[number] += system.scan_time(&simulator, *lane);
            }
            if crate::circuit::bit(&power, *lane) {
                let at = Instant(Duration::from_nanos(now[number]));
                controllers.iter_mut().for_each(|c| c.power_cycle(at));
                allowed[number].power(Power::Cycle);
            }
            let given: Vec<i64> = (0..twin.pairing.inputs.len()).map(|input| feed.value(input, *lane)).collect();
            for (input, value) in allowed[number].scan(&given).iter().enumerate() {
                sets(twin, controllers, input, *value);
            }
        }
        simulator.compute();
        for (number, lane) in LANES.iter().enumerate() {
            let at = Instant(Duration::from_nanos(now[number]));
            sides[number].iter_mut().for_each(|c| c.scan(at));
            rounds += sides[number].iter().map(Controller::rounds).sum::<u64>();
            let place = |at: usize| Place { at: at as u32, width: 1, signed: false };
            let bit = |at: usize| crate::circuit::bit(&simulator.planes(place(at))[0], *lane);
            let beyond = system.goals.iter().any(|g| g.what == What::Rounds && !g.at.is_some_and(bit));
            over[number] |= beyond;
            if over[number] {
                continue;
            }
            for goal in &system.goals {
                let said = goal.at.is_some_and(bit);
                let engine = agrees(twin, &mut sides[number], goal.what);
                if engine.is_some_and(|engine| engine != said) {
                    let what = match goal.what {
                        What::Output(n) => format!("whether {} agrees", system.outputs[n]),
                        What::Faults => "whether the same fault stops both".to_string(),
                        What::Rounds | What::Rule(..) => continue,
                    };
                    return Some(format!("in scan {scan} of a scenario they do not say the same of {what}"));
                }
            }
        }
        simulator.advance();
        for (number, lane) in LANES.iter().enumerate().filter(|(n, _)| !over[*n]) {
            let holds = |register: usize| simulator.number(system.plan.registers[register].place, *lane);
            if let Some(wrong) = differs(twin, &sides[number], system, holds) {
                return Some(format!("in scan {scan} of a scenario: {wrong}"));
            }
        }
    }
    None
}

/// What the engine says of a goal, if that can be told from the end of this scan.
fn agrees(twin: &Twin<'_>, controllers: &mut [Controller; 2], what: What) -> Option<bool> {
    let [left, right] = &*controllers;
    match what {
        What::Faults => Some(left.fault().map(|f| f.kind) == right.fault().map(|f| f.kind)),
        What::Output(number) => pair_agrees(twin, controllers, number),
        What::Rounds | What::Rule(..) => None,
    }
}

/// A variable that the engine has another value of than the circuit.
fn differs(
    twin: &Twin<'_>,
    controllers: &[Controller; 2],
    system: &System,
    holds: impl Fn(usize) -> i64,
) -> Option<String> {
    for (register, kept) in system.kept.iter().enumerate() {
        let Kept { slot: Some((side, slot)), is_stopwatch: false, per, .. } = *kept else { continue };
        let said = holds(register).wrapping_mul(system.plan.registers[register].unit) / per;
        let engine = controllers[side].slot(slot);
        if said != engine {
            let points = twin.machines()[side].points();
            let name = points.iter().find(|p| p.slot == slot).map_or("a value on the way", |p| p.name.as_str());
            let (version, by) = (&system.versions[side], writer(twin, side, slot));
            return Some(format!("{name} in {version} is {said} by the circuit and {engine} by the engine{by}"));
        }
    }
    None
}

/// The operation that writes a slot last, in words.
fn writer(twin: &Twin<'_>, side: usize, slot: u32) -> String {
    let (version, tape) = (twin.versions()[side], twin.machines()[side].tape());
    let Some(at) = tape.code.iter().rposition(|op| op.target() == Some(slot)) else { return String::new() };
    let shown = format!("{:?}", tape.code[at]);
    let name = shown.split([' ', '{']).next().unwrap_or_default();
    format!("; the operation {name} writes it, at {}", version.checked.project().place(tape.spans[at]))
}

/// Does a scan from states that the solver found, of a part: what disagrees, in a sentence. `begun` are both controllers as they are at
/// power-up.
pub(super) fn states(twin: &Twin<'_>, begun: &[Controller; 2], part: &Part, found: &Induction) -> Option<String> {
    let system = &part.system;
    let tasks = twin.machines().iter().any(|m| m.tape().entries.iter().any(|e| e.interval > 0));
    // A register that stands for a quotient may hold a remainder too, which the engine has not.
    let known = |kept: &Kept| kept.per == 1 && (kept.slot.is_some() || kept.role != Role::Plain);
    if tasks || system.may_go_beyond || system.plan.has_whole() || !system.kept.iter().all(known) {
        return None;
    }
    let round = found.round.as_ref()?;
    let from = round.sweep.first_state();
    let whole = (from..round.sweep.states).rev().filter(|state| round.sweep.is_whole(*state));
    whole.take(MOST_STATES).find_map(|state| {
        let shows = |bit: Bit| round.sweep.shows_in(bit, state);
        one_state((twin, system), begun, &round.bits, &round.next, shows)
    })
}

fn one_state(
    (twin, system): (&Twin<'_>, &System),
    begun: &[Controller; 2],
    bits: &[Bit],
    next: &[Bit],
    shows: impl Fn(Bit) -> bool,
) -> Option<String> {
    let number = |bits: &[Bit], signed: bool| Word { bits, signed, zero: Bit::FALSE }.number(&shows);
    let of =
        |place: Place| number(&bits[place.at as usize..place.at as usize + usize::from(place.width)], place.signed);
    let machines = twin.machines();
    let mut controllers = begun.each_ref().map(Controller::fork);
    // A stopwatch that shows the same in every scan is no register: it was restarted in the scan before.
    let mut slots = machines.map(|m| m.tape().watches.iter().map(|slot| (*slot, BEFORE)).collect::<Vec<(u32, i64)>>());
    let mut before: Vec<i64> = (0..twin.pairing.inputs.len()).map(|input| twin.resting(input)).collect();
    for (register, kept) in system.plan.registers.iter().zip(&system.kept) {
        let value = of(register.place);
        // What no state can hold, as far as was told beforehand, is not laid out right.
        let is_sound = (register.least..=register.most).contains(&value);
        let runs = match kept.role {
            Role::Plain | Role::Held => true,
            Role::Given(input) => {
                before[input as usize] = value.wrapping_mul(register.unit);
                true
            }
            Role::FirstScan | Role::AfterPower | Role::Fault => value == 0,
            Role::HasBegun => value == 1,
        };
        if !is_sound || !runs {
            return None;
        }
        if let Some((side, slot)) = kept.slot {
            let value = value.wrapping_mul(register.unit);
            slots[side].push((slot, if kept.is_stopwatch { BEFORE - value } else { value }));
        }
    }
    let mut passed = system.times.0;
    for (side, slots) in slots.iter().enumerate() {
        controllers[side].put(slots, BEFORE);
    }
    // What has no part in it stays as it was.
    let mut inputs = before.clone();
    for (given, (place, ..)) in system.outside.iter().zip(system.given()) {
        let value = of(place).wrapping_mul(given.unit);
        match given.pair {
            Some(input) => inputs[input] = value,
            None => passed = value,
        }
    }
    for (input, value) in Allowed::after(twin, before).scan(&inputs).iter().enumerate() {
        sets(twin, &mut controllers, input, *value);
    }
    let at = Instant(Duration::from_nanos(BEFORE + passed));
    controllers.iter_mut().for_each(|c| c.scan(at));
    let after = system.words_of(next);
    let holds = |register: usize| number(&after[register], system.plan.registers[register].place.signed);
    differs(twin, &controllers, system, holds)
        .map(|wrong| format!("a scan from a state that the solver found: {wrong}"))
}
