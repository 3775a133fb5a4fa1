//! Which outputs changes can reach, by the compiled programs of both sides.

use super::units::{Held, HeldNames};
use super::{Both, Cause, Outputs, Reach};
use crate::model::UnitKind;
use crate::scan::{Bits, Direction, Machine, PointId, Seeds, spread};
use crate::source::Span;
use std::collections::{BTreeMap, HashMap, HashSet};

/// Changes that are followed at a time; the last bit is for what cannot be told apart.
const AT_A_TIME: usize = Bits::BITS as usize - 1;
const REST: Bits = 1 << AT_A_TIME;

/// Changes that are followed one by one at most; of more it is only told what all of them reach.
const MOST_FOLLOWED: usize = 16 * AT_A_TIME;

/// Both sides compiled, and their outputs by their names on the left, in capitals: with their own names and slots.
struct Ends {
    machines: [Machine; 2],
    outputs: [BTreeMap<String, (String, u32)>; 2],
}

/// Which outputs are touched: by which changes, and those of which that cannot be told.
#[derive(Default)]
struct Touched {
    by: BTreeMap<String, Vec<usize>>,
    rest: HashSet<String>,
    /// What operations that changed read and write, left and right.
    handled: [HashSet<u32>; 2],
}

/// What each change reaches goes to the change; which outputs are touched by any comes back.
pub(super) fn reached(both: &mut Both<'_>, held: &Held) -> (Outputs, [Vec<PointId>; 2]) {
    let [Some(left), Some(right)] = both.machines.clone() else {
        let why = "one side has no program that can be compiled".to_string();
        for found in both.found.iter_mut().filter(|found| !matches!(found.cause, Cause::Nothing)) {
            found.change.reach = Reach::Everything(why.clone());
        }
        return (Outputs { why: Some(why), ..Outputs::default() }, Default::default());
    };
    let outputs = [outputs(&left, None), outputs(&right, Some(&held.names))];
    let ends = Ends { machines: [left, right], outputs };
    let running: Vec<usize> =
        (0..both.found.len()).filter(|at| !matches!(both.found[*at].cause, Cause::Nothing)).collect();
    let is_many = running.len() > MOST_FOLLOWED;
    let batches: Vec<&[usize]> =
        if is_many || running.is_empty() { vec![&[]] } else { running.chunks(AT_A_TIME).collect() };
    let mut touched = Touched::default();
    for batch in batches {
        follow(both, held, &ends, batch, &mut touched);
    }
    if is_many {
        for at in running {
            both.found[at].change.reach =
                Reach::Everything("there are too many changes to follow each of them".to_string());
        }
    }
    let handled = [0, 1].map(|side: usize| {
        let points = ends.machines[side].points().iter().enumerate();
        let own = points.filter(|(_, point)| touched.handled[side].contains(&point.slot));
        own.map(|(number, _)| PointId(number as u32)).collect()
    });
    (summed(both, &ends, touched), handled)
}

/// Follows the changes of a batch on both sides.
fn follow(both: &mut Both<'_>, held: &Held, ends: &Ends, batch: &[usize], touched: &mut Touched) {
    let reached = [0, 1].map(|side| {
        let machine = &ends.machines[side];
        let seeds = seeds(both, held, side, machine, batch);
        touched.handled[side].extend(seeds.handled(machine.tape()));
        spread(machine.tape(), &seeds)
    });
    let everything = everything(both, batch) | reached[0].all | reached[1].all;
    let bits = |key: &String| {
        let of = |side: usize| ends.outputs[side].get(key).map_or(0, |(_, slot)| reached[side].slots[*slot as usize]);
        of(0) | of(1) | everything
    };
    for (key, (own, _)) in &ends.outputs[0] {
        let bits = bits(key);
        if bits & REST != 0 {
            touched.rest.insert(own.clone());
        }
        let numbers = batch.iter().enumerate().filter(|(bit, _)| bits >> bit & 1 == 1);
        let numbers: Vec<usize> = numbers.map(|(_, at)| both.found[*at].change.number).collect();
        if !numbers.is_empty() {
            touched.by.entry(own.clone()).or_default().extend(numbers);
        }
    }
    let all: Vec<(&String, &String)> = {
        let [left, right] = &ends.outputs;
        let only_right = right.iter().filter(|(key, _)| !left.contains_key(*key));
        left.iter().chain(only_right).map(|(key, (own, _))| (key, own)).collect()
    };
    for (bit, at) in batch.iter().enumerate() {
        let stops = [0, 1].iter().find_map(|side| {
            let op = reached[*side].stops.filter(|_| reached[*side].all >> bit & 1 == 1)?;
            let span = *ends.machines[*side].tape().spans.get(op as usize)?;
            Some(format!("what it reaches may stop the program, at {}", both.sides[*side].project().place(span)))
        });
        let why = match (&both.found[*at].cause, stops) {
            (Cause::Everything(why), _) => Some((*why).to_string()),
            (Cause::Nothing | Cause::Parts(_) | Cause::Variable(..) | Cause::Constant(..), stops) => stops,
        };
        let outputs = || {
            let reached = all.iter().filter(|(key, _)| bits(key) >> bit & 1 == 1);
            let mut list: Vec<String> = reached.map(|(_, own)| (*own).clone()).collect();
            list.sort_unstable();
            list
        };
        both.found[*at].change.reach = why.map_or_else(|| Reach::Outputs(outputs()), Reach::Everything);
    }
}

/// What is told of outputs.
fn summed(both: &Both<'_>, ends: &Ends, mut touched: Touched) -> Outputs {
    let [left, right] = &ends.outputs;
    let alone = [(left, right), (right, left)].map(|(own, other)| {
        own.iter().filter(|(key, _)| !other.contains_key(*key)).map(|(_, (name, _))| name.clone()).collect()
    });
    let mut out = Outputs { alone, ..Outputs::default() };
    for (_, (own, _)) in left.iter().filter(|(key, _)| right.contains_key(*key)) {
        match touched.by.remove(own) {
            None if !touched.rest.contains(own) => out.untouched.push(own.clone()),
            numbers => out.touched.push((own.clone(), numbers.unwrap_or_default())),
        }
    }
    out.why = why_none(both, &out);
    out
}

/// Outputs by their names on the left, in capitals: with their own names and slots.
fn outputs(machine: &Machine, names: Option<&HeldNames>) -> BTreeMap<String, (String, u32)> {
    let key = |name: &str| names.map_or_else(|| name.to_uppercase(), |names| names.old(name));
    machine
        .points_of(Direction::Output)
        .map(|(_, point)| (key(&point.name), (point.name.clone(), point.slot)))
        .collect()
}

/// Changes of a batch that reach everything by what they are.
fn everything(both: &Both<'_>, batch: &[usize]) -> Bits {
    let bits = batch.iter().enumerate().filter(|(_, at)| matches!(both.found[**at].cause, Cause::Everything(_)));
    bits.fold(0, |all, (bit, _)| all | 1 << bit)
}

fn why_none(both: &Both<'_>, out: &Outputs) -> Option<String> {
    if !out.untouched.is_empty() || out.touched.is_empty() {
        return None;
    }
    both.found.iter().find_map(|found| match &found.change.reach {
        Reach::Everything(why) => Some(format!("change {}: {why}", found.change.number)),
        Reach::Nothing | Reach::Outputs(_) => None,
    })
}

/// Where the changes of a batch begin on one side. What is not known to be as it was counts as changed.
fn seeds(both: &Both<'_>, held: &Held, side: usize, machine: &Machine, batch: &[usize]) -> Seeds {
    let tape = machine.tape();
    let mut of_span: HashMap<Span, Bits> = HashMap::new();
    let mut slots = Vec::new();
    // Each is gone over once, however many of its variables changed.
    let mut whole_units: BTreeMap<String, Bits> = BTreeMap::new();
    for (at, found) in both.found.iter().enumerate() {
        let bit = batch.iter().position(|own| *own == at).map_or(REST, |bit| 1 << bit);
        match &found.cause {
            Cause::Nothing | Cause::Everything(_) => {}
            Cause::Parts(spans) => spans[side].iter().for_each(|span| *of_span.entry(*span).or_default() |= bit),
            Cause::Variable(units, names) | Cause::Constant(units, names) => {
                if let (Cause::Constant(..), Some(name)) = (&found.cause, &names[side]) {
                    for span in mentions(both, side, units[side].as_deref(), name) {
                        *of_span.entry(span).or_default() |= bit;
                    }
                }
                let (unit, name) = (units[side].as_deref(), names[side].as_deref());
                slots.extend(variable_slots(both, side, machine, unit, name).into_iter().map(|slot| (slot, bit)));
                if let Some(unit) = unit.filter(|unit| !is_program(both, side, unit)) {
                    *whole_units.entry(unit.to_string()).or_default() |= bit;
                }
            }
        }
    }
    for (unit, bit) in whole_units {
        // A function begins anew in each call, which stands where it is called.
        for span in unit_spans(both, side, &unit).into_iter().chain(mentions(both, side, None, &unit)) {
            *of_span.entry(span).or_default() |= bit;
        }
    }
    let (same, other) = (&held.same[side], &held.other[side]);
    let operations = tape.spans.iter().enumerate().map(|(at, span)| {
        let known = of_span.get(span).copied().unwrap_or(0);
        // What stands nowhere belongs to no unit: that is done before and behind programs, and by plants.
        let outside = at as u32 >= tape.own_end || (span.start, span.end) == (0, 0);
        let is_same = outside || (same.contains(span) && !other.contains(span));
        known | if known == 0 && !is_same { REST } else { 0 }
    });
    Seeds { operations: operations.collect(), slots }
}

fn is_program(both: &Both<'_>, side: usize, unit: &str) -> bool {
    both.sides[side].units.iter().any(|u| u.name.eq_ignore_ascii_case(unit) && u.kind == UnitKind::Program)
}

/// The places of all operations of a unit's own body.
fn unit_spans(both: &Both<'_>, side: usize, unit: &str) -> Vec<Span> {
    let project = both.sides[side].project();
    let units = project.units().filter(|own| own.name.is(unit));
    units.flat_map(|own| super::tree::parts(project, &own.body)).flat_map(|node| node.spans()).collect()
}

/// The places of all parts in which a name stands: of one unit, or of all where it is a global.
fn mentions(both: &Both<'_>, side: usize, unit: Option<&str>, name: &str) -> Vec<Span> {
    let project = both.sides[side].project();
    let wanted = super::token::Token::name(name);
    let units = project.units().filter(|own| unit.is_none_or(|unit| own.name.is(unit)));
    let parts = units.flat_map(|own| super::tree::parts(project, &own.body));
    let mentioned = parts.filter(|part| {
        let mut found = false;
        part.each(&mut |inner| found |= inner.tokens.contains(&wanted));
        found
    });
    mentioned.flat_map(|part| part.spans()).collect()
}

/// The slots of a variable: of a program or a global its own; of a block those of all instances. All there are where it has
/// none that are listed, as an array that is too large to be listed part by part.
fn variable_slots(both: &Both<'_>, side: usize, machine: &Machine, unit: Option<&str>, name: Option<&str>) -> Vec<u32> {
    let Some(name) = name else { return Vec::new() };
    let wanted = name.to_uppercase();
    let of_program = unit.is_none_or(|unit| is_program(both, side, unit));
    // With several programs their names stand in front of those of their variables.
    let deepest = match (of_program, both.sides[side].programs().count()) {
        (true, 0 | 1) => 1,
        (true, _) => 2,
        (false, _) => usize::MAX,
    };
    let is_meant = |point: &str| {
        let path = point.split(['.', '[']).take(deepest);
        path.map(str::to_uppercase).any(|part| part == wanted)
    };
    let points = machine.points();
    let own: Vec<u32> = points.iter().filter(|point| is_meant(&point.name)).map(|point| point.slot).collect();
    if own.is_empty() && of_program { points.iter().map(|point| point.slot).collect() } else { own }
}
