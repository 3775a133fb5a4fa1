//! What is proved about: one scan of both versions, laid out, and states of it that really occur.

use super::proviso::{Proviso, most, multiples, outset, pinned, ticks};
use crate::circuit::{ALL, Bit, Gate, InputId, NONE, Net, Node, Place, Plan, Plane, Role, Simulator, Word, plan};
use crate::model::{Duration, Family, IntShape, format_duration};
use crate::scan::{PointType, ScanTime};
use crate::twin::{Assumption, Both, Stimuli, Timing, Twin};
use rayon::prelude::*;
use std::collections::BTreeSet;
use std::sync::Arc;

/// Words of 64 states each that facts are sought in.
pub(super) const WORDS: usize = 48;

/// Batches of scenarios that they come from, each twice as long as the one before.
const BATCHES: u64 = 6;

/// Both versions, one scan.
pub(super) struct System {
    pub(super) plan: Arc<Plan>,
    /// What has to be TRUE in every scan.
    pub(super) goals: Vec<Goal>,
    /// The constants of both programs.
    pub(super) marks: Vec<i64>,
    /// The constants of the plan, as they are counted there.
    pub(super) counts: Vec<i64>,
    /// Ticks that times are divided by, in nanoseconds.
    pub(super) ticks: Vec<i64>,
    /// True if something is assumed on top of what the twin says: many of these are tried.
    pub(super) is_conditional: bool,
    /// What whole numbers are at most, if that is assumed.
    pub(super) most: Option<i64>,
    /// The range of each input, in its unit.
    ranges: Vec<(i64, i64)>,
    /// What each input is, in the order of [`System::given`].
    pub(super) outside: Vec<Outside>,
    /// Which input is the scan time, if that varies.
    dt: Option<InputId>,
    /// Register bits in order: of which register, which bit.
    pub(super) bits: Vec<(usize, u8)>,
    /// Of each register the version and the variable it is, if it has a name.
    pub(super) names: Vec<Option<Name>>,
    /// Of each pair of outputs where its left side is in the plan, if it is.
    shown: Vec<Option<Place>>,
    /// Of each register what it is in the engine.
    pub(super) kept: Vec<Kept>,
    /// True if a loop may run more rounds than are laid out.
    pub(super) may_go_beyond: bool,
    /// Names of the pairs of outputs.
    pub(super) outputs: Vec<String>,
    /// Names of the rules.
    pub(super) rules: Vec<String>,
    /// Names of the inputs.
    pub(super) inputs: Vec<String>,
    /// Scan times: shortest, longest, and what all are a multiple of, in nanoseconds.
    pub(super) times: (i64, i64, i64),
    /// Names of both versions.
    pub(super) versions: [String; 2],
    /// What is assumed of what is given, in words, each with its bit in the plan.
    pub(super) assumed: Vec<(String, usize)>,
    /// True if power is never lost.
    pub(super) lasting: bool,
}

/// What a register is in the engine.
#[derive(Clone, Copy, Debug)]
pub(super) struct Kept {
    pub(super) role: Role,
    /// The version and the slot, if it is a variable.
    pub(super) slot: Option<(usize, u32)>,
    pub(super) is_stopwatch: bool,
    pub(super) per: i64,
}

/// A variable that a register is.
#[derive(Clone)]
pub(super) struct Name {
    pub(super) side: usize,
    pub(super) name: String,
    /// True if its values are nanoseconds.
    pub(super) is_time: bool,
    /// True if it is an integer.
    pub(super) is_whole: bool,
    /// What the register holds is so many times its value, or a little more.
    pub(super) per: i64,
}

impl Name {
    /// What a register holds, in words; `fully` with the part of a tick that has gone by.
    fn shows(&self, holds: i64, fully: bool) -> String {
        let time = |nanos: i64| format_duration(Duration::from_nanos(nanos));
        let value = holds / self.per;
        match (self.is_time, fully) {
            (true, _) => time(value),
            (false, true) => format!("{value} and {} of the next", time(holds % self.per)),
            (false, false) => value.to_string(),
        }
    }
}

/// What is given from outside.
#[derive(Clone, Copy)]
pub(super) struct Outside {
    /// The number of its pair; none for the scan time.
    pub(super) pair: Option<usize>,
    /// What its bits count.
    pub(super) unit: i64,
    pub(super) signed: bool,
}

/// What has to be TRUE in every scan.
#[derive(Clone, Copy)]
pub(super) struct Goal {
    pub(super) what: What,
    /// Its bit in the plan; none if it is FALSE.
    pub(super) at: Option<usize>,
}

/// What pairs of outputs did in states that occur, by their numbers.
#[derive(Default)]
pub(super) struct Watched {
    /// Those whose left side moved, of those that are in the plan.
    pub(super) moving: BTreeSet<usize>,
    /// Those that did not agree.
    pub(super) parted: BTreeSet<usize>,
}

/// What a goal says.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum What {
    /// No loop runs more rounds than are laid out; without it nothing else is worth anything.
    Rounds,
    /// Both versions run, or both are stopped by the same fault.
    Faults,
    /// The outputs of a pair agree.
    Output(usize),
    /// A rule holds on a side. Where that is not proved it is tested, and the rest is proved all the same.
    Rule(usize, usize),
}

/// Scan times that are proved about: shortest, longest, and what all are a multiple of.
pub(super) fn scan_times(timing: &Timing) -> Result<(i64, i64, i64), String> {
    let Timing::Lockstep(time) = timing else {
        return Err("versions that scan each on its own have no scan in common to be proved about".to_string());
    };
    let times: Vec<i64> = match time {
        ScanTime::Fixed(time) => vec![time.nanos()],
        ScanTime::Range { low, high, step, .. } if step.nanos() > 1 => {
            return Ok((low.nanos(), high.nanos(), step.nanos()));
        }
        ScanTime::Range { low, high, .. } => vec![low.nanos(), high.nanos()],
        ScanTime::Given(times) => times.iter().map(|t| t.nanos()).collect(),
    };
    let (low, high) = (times.iter().copied().min().unwrap_or(0), times.iter().copied().max().unwrap_or(0));
    if low <= 0 {
        return Err("the scan time must be above zero".to_string());
    }
    // In steps as coarse as their ends allow: whole milliseconds, or else microseconds, or nanoseconds.
    let step = [1_000_000, 1_000, 1].into_iter().find(|s| low % s == 0 && high % s == 0).unwrap_or(1);
    Ok((low, high, if low == high { low } else { step }))
}

/// Scan times in words.
pub(super) fn time_words((low, high, step): (i64, i64, i64)) -> String {
    let words = |t: i64| crate::model::format_duration(Duration::from_nanos(t));
    if low == high {
        format!("every scan takes {}", words(low))
    } else {
        format!("every scan takes a time of its own, {} to {}, in steps of {}", words(low), words(high), words(step))
    }
}

/// Lets registers that are not read in the first scan begin with what they hold after it: what is the same from then on
/// is then the same from the beginning.
fn begin_after_the_first(plan: &mut Plan) {
    if plan.registers.iter().all(|kept| !kept.unread) {
        return;
    }
    let mut simulator = Simulator::new(Arc::new(plan.clone()));
    simulator.compute();
    simulator.advance();
    for kept in plan.registers.iter_mut().filter(|kept| kept.unread) {
        kept.init = simulator.number(kept.place, 0);
    }
}

/// What is asked of both versions.
fn goals(both: &mut Both) -> Vec<(What, Node)> {
    let within = both.net.not(both.beyond);
    let mut out = vec![(What::Rounds, within), (What::Faults, both.same_fault)];
    out.extend(both.agree.iter().enumerate().map(|(number, agree)| (What::Output(number), *agree)));
    out.extend(both.rules.iter().map(|(rule, side, holds)| (What::Rule(*rule, *side), *holds)));
    out
}

/// The time since the scan before: a constant, or the first input of the net.
fn time(net: &mut Net, (low, high, step): (i64, i64, i64), is_multiple: bool) -> Node {
    match is_multiple {
        _ if low == high => net.constant(low),
        // By its own bits: what it is counted in elsewhere may be finer.
        true => {
            let (count, of) = (net.input((low / step, high / step), 1), net.constant(step));
            net.add(Gate::Mul(IntShape::LONG, count, of))
        }
        false => net.input((low, high), step),
    }
}

/// What each register is in the engine.
fn kept(both: &Both, plan: &Plan) -> Vec<Kept> {
    let each = plan.registers.iter().map(|kept| {
        let register = &both.net.registers[kept.id.0 as usize];
        let (role, slot, per) = (register.role, register.slot, register.per);
        Kept { role, slot, per, is_stopwatch: register.stopwatch }
    });
    each.collect()
}

/// The constants above zero.
fn marks(net: &Net) -> Vec<i64> {
    let constants = net.gates.iter().filter_map(|g| if let Gate::Const(k) = g { Some(*k) } else { None });
    let mut marks: Vec<i64> = constants.filter(|k| *k > 0).collect();
    marks.sort_unstable();
    marks.dedup();
    marks
}

impl System {
    /// Both versions of a twin, under conditions.
    pub(super) fn new(twin: &Twin<'_>, provisos: &[Proviso]) -> Result<System, String> {
        let (mut low, mut high, mut step) = scan_times(&twin.timing)?;
        for proviso in provisos {
            if let Proviso::Multiple(of) = proviso {
                (low, high) = multiples((low, high), *of).ok_or("no scan time is such a multiple")?;
                step = *of;
            }
        }
        let twin = &pinned(twin, provisos);
        let outset = outset(twin, provisos);
        let is_multiple = provisos.iter().any(|p| matches!(p, Proviso::Multiple(_)))
            || twin.assumed().iter().any(|a| matches!(a, Assumption::ScanMultiple(_)));
        let time = |net: &mut Net| time(net, (low, high, step), is_multiple);
        let both = Both::new(twin, &outset, time);
        let mut both = both.map_err(|e| e.to_string())?.undivided();
        let goals = goals(&mut both);
        let mut asked: Vec<Node> = goals.iter().map(|(_, node)| *node).collect();
        if outset.most.is_some() {
            // What is shown where it is compared is no part of the question otherwise.
            asked.extend(&both.shown);
        }
        asked.extend(both.assumed.iter().map(|(_, node)| *node));
        let mut plan = plan(&mut both.net, &asked);
        // Where power stays on there is no power-up but the first: nothing has to outlast another one.
        if outset.lasting {
            plan.registers.iter_mut().for_each(|kept| kept.retained = false);
        }
        begin_after_the_first(&mut plan);
        let ranges = plan.inputs.iter().map(|(id, _)| {
            let (low, high) = both.net.inputs[id.0 as usize].range;
            let unit = plan.input_unit(*id);
            (low / unit, high / unit)
        });
        let ranges = ranges.collect();
        let registers = plan.registers.iter().enumerate();
        let bits = registers.flat_map(|(n, kept)| (0..kept.place.width).map(move |bit| (n, bit))).collect();
        let name = |id: crate::circuit::RegId| {
            let register = &both.net.registers[id.0 as usize];
            let (side, slot) = register.slot?;
            let machine = [&twin.left.machine, &twin.right.machine][side];
            let point = machine.points().iter().find(|p| p.slot == slot)?;
            let family = if let PointType::Elem(elem) = &point.ty { Some(elem.family()) } else { None };
            let (is_time, is_whole) = (family == Some(Family::Time), family == Some(Family::Int));
            Some(Name { side, name: point.name.clone(), is_time, is_whole, per: register.per })
        };
        let names = plan.registers.iter().map(|kept| name(kept.id)).collect();
        let first = usize::from(low != high);
        let outside = plan.inputs.iter().map(|(id, place)| Outside {
            pair: (id.0 as usize).checked_sub(first),
            unit: plan.input_unit(*id),
            signed: place.signed,
        });
        let outside = outside.collect();
        let inputs = plan.inputs.iter().map(|(id, _)| match (id.0 as usize).checked_sub(first) {
            Some(pair) => twin.pairing.inputs.get(pair).map_or(String::new(), |p| p.name.clone()),
            None => "scan time".to_string(),
        });
        let inputs = inputs.collect();
        Ok(System {
            marks: marks(&both.net),
            ticks: ticks(&both.net),
            is_conditional: !provisos.is_empty(),
            most: most(provisos),
            names,
            kept: kept(&both, &plan),
            assumed: both.assumed.iter().filter_map(|(words, node)| Some((words.clone(), plan.bit(*node)?))).collect(),
            lasting: outset.lasting,
            may_go_beyond: both.net.as_constant(both.beyond) != Some(0),
            ranges,
            bits,
            outside,
            dt: (low != high).then_some(InputId(0)),
            goals: goals.into_iter().map(|(what, node)| Goal { what, at: plan.bit(node) }).collect(),
            counts: plan.constant_values(),
            shown: both.shown.iter().map(|node| plan.place(*node)).collect(),
            plan: Arc::new(plan),
            times: (low, high, step),
            inputs,
            rules: twin.rules.iter().map(|r| r.name.clone()).collect(),
            outputs: twin.pairing.outputs.iter().map(|p| p.name.clone()).collect(),
            versions: [twin.left.name.clone(), twin.right.name.clone()],
        })
    }

    /// The same with only some of the inputs and registers, by their numbers.
    pub(super) fn only(&self, plan: Arc<Plan>, goals: Vec<Goal>, inputs: &[usize], registers: &[usize]) -> System {
        let bits = plan.registers.iter().enumerate();
        System {
            goals,
            marks: Vec::new(),
            counts: plan.constant_values(),
            ticks: Vec::new(),
            is_conditional: self.is_conditional,
            most: self.most,
            ranges: inputs.iter().map(|n| self.ranges[*n]).collect(),
            outside: inputs.iter().map(|n| self.outside[*n]).collect(),
            dt: None,
            bits: bits.flat_map(|(n, kept)| (0..kept.place.width).map(move |bit| (n, bit))).collect(),
            names: registers.iter().map(|n| self.names[*n].clone()).collect(),
            kept: registers.iter().map(|n| self.kept[*n]).collect(),
            may_go_beyond: self.may_go_beyond,
            shown: Vec::new(),
            outputs: Vec::new(),
            rules: Vec::new(),
            inputs: inputs.iter().map(|n| self.inputs[*n].clone()).collect(),
            times: self.times,
            versions: self.versions.clone(),
            assumed: Vec::new(),
            lasting: self.lasting,
            plan,
        }
    }

    /// What a register bit is at power-up.
    pub(super) fn initial(&self, bit: usize) -> bool {
        let (register, at) = self.bits[bit];
        self.plan.registers[register].init >> at & 1 == 1
    }

    pub(super) fn is_retained(&self, bit: usize) -> bool {
        self.plan.registers[self.bits[bit].0].retained
    }

    /// What each register holds in a state, in its unit.
    pub(super) fn holds(&self, value: impl Fn(usize) -> bool) -> Vec<i64> {
        let mut values: Vec<i64> = vec![0; self.plan.registers.len()];
        for (number, (register, at)) in self.bits.iter().enumerate() {
            let place = self.plan.registers[*register].place;
            let sign = place.signed && *at + 1 == place.width;
            if value(number) {
                values[*register] |= if sign { -1i64 << at } else { 1i64 << at };
            }
        }
        values
    }

    /// What both versions remember in a state, in words: what has one name on both sides and differs, then the rest.
    pub(super) fn words(&self, value: impl Fn(usize) -> bool) -> String {
        let values = self.holds(value);
        let said = |n: usize| {
            let name = self.names[n].as_ref()?;
            Some((name, values[n].wrapping_mul(self.plan.registers[n].unit)))
        };
        let all: Vec<(&Name, i64)> = (0..values.len()).filter_map(said).collect();
        let mut out = Vec::new();
        for (own, value) in &all {
            let partner = all.iter().find(|(n, _)| n.side != own.side && n.name.eq_ignore_ascii_case(&own.name));
            let name = &own.name;
            match partner {
                Some((other, there)) if own.shows(*value, false) == other.shows(*there, false) => {
                    // What differs is a part of a tick that has gone by.
                    let part = value != there && own.per == other.per && own.side == 0;
                    out.extend(
                        part.then(|| format!("{name} = {} and {}", own.shows(*value, true), own.shows(*there, true))),
                    );
                }
                Some((other, there)) if own.side == 0 => {
                    out.push(format!("{name} = {} and {}", own.shows(*value, false), other.shows(*there, false)));
                }
                Some(_) => {}
                None => out.push(format!("{name} = {} in {}", own.shows(*value, false), self.versions[own.side])),
            }
        }
        const SHOWN: usize = 8;
        let more = out.len().saturating_sub(SHOWN);
        out.truncate(SHOWN);
        if more > 0 {
            out.push(format!("and {more} more"));
        }
        out.join(", ")
    }

    /// What register bits are after a scan, from all bits of the plan.
    pub(super) fn after(&self, bits: &[Bit]) -> impl Iterator<Item = Bit> {
        self.bits.iter().map(|(register, at)| {
            let place = self.plan.registers[*register].next;
            let own = &bits[place.at as usize..place.at as usize + usize::from(place.width)];
            Word { bits: own, signed: place.signed, zero: Bit::FALSE }.bit(usize::from(*at))
        })
    }

    /// The bits of each register, from register bits in order.
    pub(super) fn words_of(&self, bits: &[Bit]) -> Vec<Vec<Bit>> {
        let mut out = vec![Vec::new(); self.plan.registers.len()];
        self.bits.iter().zip(bits).for_each(|((register, _), bit)| out[*register].push(*bit));
        out
    }

    /// How long it is since the scan before, in a scenario; of a system without conditions.
    pub(super) fn scan_time(&self, simulator: &Simulator, lane: usize) -> i64 {
        let timed = self.outside.iter().zip(&self.plan.inputs).find(|(given, _)| given.pair.is_none());
        timed.map_or(self.times.0, |(given, (_, place))| simulator.number(*place, lane).wrapping_mul(given.unit))
    }

    /// Each input: its place, its range, and how many free bits say which value of it.
    pub(super) fn given(&self) -> impl Iterator<Item = (Place, (i64, i64), usize)> {
        self.plan.inputs.iter().zip(&self.ranges).map(|((_, place), range)| {
            let count = 64 - (range.1.wrapping_sub(range.0) as u64).leading_zeros() as usize;
            (*place, *range, count)
        })
    }

    /// States that occur, with what is given in them: for each register bit, then for each free bit of each input, what
    /// it is in 64 states a word.
    pub(super) fn states(&self, stimuli: &Stimuli) -> Vec<Vec<u64>> {
        let most = if self.is_conditional { 4_000 } else { 12_000 };
        let scans = (200_000_000 / self.plan.work().max(1)).clamp(400, most) as u64;
        let each = WORDS as u64 / BATCHES;
        // Short, longer and long: what is quick and what is slow. The longest first, so that all end together.
        let order: Vec<u64> = (0..BATCHES).rev().collect();
        let batches = order
            .into_par_iter()
            .with_max_len(1)
            .map(|batch| self.batch(stimuli, batch, each, (scans >> (BATCHES - 1 - batch)).max(each + 1)));
        let mut batches: Vec<Vec<Vec<u64>>> = batches.collect();
        let mut out = batches.pop().unwrap_or_default();
        for batch in batches.into_iter().rev() {
            out.iter_mut().zip(batch).for_each(|(all, more)| all.extend(more));
        }
        out
    }

    /// States of one batch of scenarios, the first of them that at power-up.
    fn batch(&self, stimuli: &Stimuli, batch: u64, each: u64, length: u64) -> Vec<Vec<u64>> {
        let free: usize = self.given().map(|(.., count)| count).sum();
        let mut out = vec![Vec::with_capacity(WORDS); self.bits.len() + free];
        let mut feed = stimuli.feed(0x5EED + batch);
        let mut simulator = Simulator::new(Arc::clone(&self.plan));
        let mut looks: Vec<u64> = (0..each).map(|n| n * (length - 1) / each.max(1)).collect();
        // Scenarios in which something assumed was broken, from then on.
        let mut broken = NONE;
        for scan in 0..length {
            let power = stimuli.next(&mut feed, scan);
            if power != NONE {
                simulator.power_cycle(power);
            }
            self.give(&mut simulator, &mut feed);
            self.note_broken(&simulator, &mut broken);
            if looks.first() == Some(&scan) {
                looks.remove(0);
                let word = (0..4).map(|w| (w + scan as usize) % 4).min_by_key(|w| broken[*w].count_ones());
                self.look(&mut simulator, word.unwrap_or_default(), &broken, &mut out);
            }
            simulator.compute();
            simulator.advance();
        }
        out
    }

    /// What the pairs of outputs do in states that occur.
    pub(super) fn watch(&self, stimuli: &Stimuli) -> Watched {
        let scans = (50_000_000 / self.plan.work().max(1)).clamp(400, 3_000);
        let mut feed = stimuli.feed(0x5EED);
        let mut simulator = Simulator::new(Arc::clone(&self.plan));
        let mut broken = NONE;
        // Pairs with a place of what they show, or of whether they agree.
        let shown: Vec<(usize, Place)> = self.shown.iter().enumerate().filter_map(|(n, p)| Some((n, (*p)?))).collect();
        let agree = self.goals.iter().filter_map(|goal| match (goal.what, goal.at) {
            (What::Output(number), Some(at)) => Some((number, Place { at: at as u32, width: 1, signed: false })),
            _ => None,
        });
        let agree: Vec<(usize, Place)> = agree.collect();
        let look = |simulator: &Simulator, places: &[(usize, Place)], out: &mut Vec<Plane>| {
            out.clear();
            places.iter().for_each(|(_, place)| out.extend(simulator.planes(*place)));
        };
        let (mut first, mut now, mut same) = (Vec::new(), Vec::new(), Vec::new());
        let mut out = Watched::default();
        for scan in 0..scans as u64 {
            let power = stimuli.next(&mut feed, scan);
            if power != NONE {
                simulator.power_cycle(power);
            }
            self.give(&mut simulator, &mut feed);
            simulator.compute();
            look(&simulator, &shown, &mut now);
            look(&simulator, &agree, &mut same);
            // A scan that ends in what is not assumed does not count.
            simulator.advance();
            self.note_broken(&simulator, &mut broken);
            let other = |a: &Plane, b: &Plane| (0..4).any(|w| (a[w] ^ b[w]) & !broken[w] != 0);
            for ((number, _), same) in agree.iter().zip(&same) {
                if other(same, &ALL) {
                    out.parted.insert(*number);
                }
            }
            if scan == 0 {
                first.clone_from(&now);
            }
            let mut at = 0;
            for (number, place) in &shown {
                let bits = at..at + usize::from(place.width);
                at = bits.end;
                if now[bits.clone()].iter().zip(&first[bits]).any(|(a, b)| other(a, b)) {
                    out.moving.insert(*number);
                }
            }
        }
        out
    }

    /// Notes the scenarios in which a number is beyond what is assumed.
    fn note_broken(&self, simulator: &Simulator, broken: &mut Plane) {
        for (register, most) in self.numbers() {
            let place = self.plan.registers[register].place;
            let planes = simulator.planes(place);
            let (digits, sign) = planes.split_at(planes.len() - usize::from(place.signed));
            for (word, broken) in broken.iter_mut().enumerate() {
                // From the lowest bit on: where a number and the limit differ the higher bit decides.
                let mut above = 0;
                for (at, digit) in digits.iter().enumerate() {
                    let is_set = at < 63 && most >> at & 1 == 1;
                    above = if is_set { above & digit[word] } else { above | digit[word] };
                }
                // A limit of more bits than the number has is not passed.
                let is_wider = digits.len() < 63 && most >> digits.len() != 0;
                let above = if is_wider { 0 } else { above };
                *broken |= above | sign.first().map_or(0, |s| s[word]);
            }
        }
    }

    pub(super) fn give(&self, simulator: &mut Simulator, feed: &mut crate::twin::Feed) {
        feed.give(simulator, self.dt.is_some());
        let Some(id) = self.dt else { return };
        let Some(at) = self.plan.inputs.iter().position(|(i, _)| *i == id) else { return };
        let (low, high) = self.ranges[at];
        let between = feed.rng.i64(low..=high);
        // A quarter at the longest always: what is slow gets through there.
        let pinned: Plane = [u64::MAX, 0, 0, 0];
        let (first, second) = ([0; 4].map(|_: u64| feed.rng.u64(..)), [0; 4].map(|_: u64| feed.rng.u64(..)));
        let plane = |value: i64, bit: usize| if value >> bit & 1 == 1 { ALL } else { NONE };
        if let Some((bits, _)) = simulator.input(id) {
            for (bit, out) in bits.iter_mut().enumerate() {
                let (l, h, b) = (plane(low, bit), plane(high, bit), plane(between, bit));
                *out = [0, 1, 2, 3].map(|w: usize| {
                    let drawn = (first[w] & l[w]) | (!first[w] & ((second[w] & h[w]) | (!second[w] & b[w])));
                    (pinned[w] & h[w]) | (!pinned[w] & drawn)
                });
            }
        }
    }

    /// Adds what 64 scenarios show. In place of one that is broken the first one that is not is taken; if all are, nothing.
    fn look(&self, simulator: &mut Simulator, word: usize, broken: &Plane, out: &mut [Vec<u64>]) {
        let Some(sound) = (0..64).find(|lane| broken[word] >> lane & 1 == 0) else { return };
        let mend = |w: u64| if w >> sound & 1 == 1 { w | broken[word] } else { w & !broken[word] };
        let mut at = 0;
        for (register, bit) in &self.bits {
            out[at].push(mend(simulator.planes(self.plan.registers[*register].place)[usize::from(*bit)][word]));
            at += 1;
        }
        for (place, range, count) in self.given() {
            let mut words = vec![0u64; count];
            for lane in 0..64 {
                let free = simulator.number(place, word * 64 + lane).wrapping_sub(range.0);
                words.iter_mut().enumerate().for_each(|(bit, w)| *w |= (free as u64 >> bit & 1) << lane);
            }
            for w in words {
                out[at].push(mend(w));
                at += 1;
            }
        }
    }
}
