//! What is proved about: one scan of both versions, laid out, and states of it that really occur.

use super::proviso::{LONGEST_STOP, Proviso, most, multiples, outset, pinned, reach, ticks};
use crate::circuit::{Bit, Gate, InputId, Net, Node, Passing, Place, Plan, Role, Simulator, Standing, Word, plan};
use crate::model::{Duration, Family, IntShape, format_duration};
use crate::scan::{PointType, ScanTime};
use crate::twin::{Assumption, Both, Stops, Timing, Twin};
use std::collections::HashMap;
use std::sync::Arc;

/// What is told where the bell rings before there is anything to ask.
pub(super) const STOPPED: &str = "it was stopped before all facts were settled";

/// Both versions, one scan.
pub(super) struct System {
    pub(super) plan: Arc<Plan>,
    /// What has to be TRUE in every scan.
    pub(super) goals: Vec<Goal>,
    /// What hangs on strings, of which nothing is known.
    pub(super) unasked: Vec<What>,
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
    pub(super) ranges: Vec<(i64, i64)>,
    /// What each input is, in the order of [`System::given`].
    pub(super) outside: Vec<Outside>,
    /// Which input is the scan time, if that varies.
    pub(super) dt: Option<InputId>,
    /// Which is how long both stand still between power-up and the first scan, if they do.
    pub(super) standing: Option<InputId>,
    /// Register bits in order: of which register, which bit.
    pub(super) bits: Vec<(usize, u8)>,
    /// Of each register the version and the variable it is, if it has a name.
    pub(super) names: Vec<Option<Name>>,
    /// Of each pair of outputs where its left side is in the plan, if it is.
    pub(super) shown: Vec<Option<Place>>,
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
    /// Scan times: shortest, longest, and what all are a multiple of, in nanoseconds; but for those after STOP and RUN.
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
    /// The number of its pair; none for the scan time and for the time that both stand still at power-up.
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

/// What is asked, and what hangs on strings, which cannot be.
fn asked_and_not(twin: &Twin<'_>, both: &mut Both) -> (Vec<(What, Node)>, Vec<What>) {
    let all = goals(both);
    let hangs = both.net.hangs_on_unknown();
    let is_text = |what: What| match what {
        What::Output(n) => twin.left.machine.point(twin.pairing.outputs[n].left).ty == PointType::Text,
        What::Rounds | What::Faults | What::Rule(..) => false,
    };
    let (not, asked): (Vec<_>, Vec<_>) =
        all.into_iter().partition(|(what, node)| hangs[node.0 as usize] || is_text(*what));
    (asked, not.into_iter().map(|(what, _)| what).collect())
}

/// Of each register of a plan the variable that it is, if it has a name.
fn names(twin: &Twin<'_>, both: &Both, plan: &Plan) -> Vec<Option<Name>> {
    let by_slot = twin.machines().map(|m| m.points().iter().map(|p| (p.slot, p)).collect::<HashMap<_, _>>());
    let name = |id: crate::circuit::RegId| {
        let register = &both.net.registers[id.0 as usize];
        let (side, slot) = register.slot?;
        let point = by_slot[side].get(&slot)?;
        let family = if let PointType::Elem(elem) = &point.ty { Some(elem.family()) } else { None };
        let (is_time, is_whole) = (family == Some(Family::Time), family == Some(Family::Int));
        Some(Name { side, name: point.name.clone(), is_time, is_whole, per: register.per })
    };
    plan.registers.iter().map(|kept| name(kept.id)).collect()
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

/// What is given from outside, and its names: in front how long the scan takes and how long both stand still at power-up, where
/// these vary, then what each pair of inputs is.
fn outside(twin: &Twin<'_>, plan: &Plan, [dt, standing]: [Option<InputId>; 2]) -> (Vec<Outside>, Vec<String>) {
    let first = dt.iter().chain(&standing).count();
    let each = plan.inputs.iter().map(|(id, place)| {
        let pair = (id.0 as usize).checked_sub(first);
        let name = match pair {
            Some(pair) => twin.pairing.inputs.get(pair).map_or("", |p| &p.name),
            None if Some(*id) == standing => "time from power-up to the first scan",
            None => "scan time",
        };
        (Outside { pair, unit: plan.input_unit(*id), signed: place.signed }, name.to_string())
    });
    each.unzip()
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

/// The plan of both, if the bell has not rung by then: it takes a second for every ten thousand rungs.
fn planned(twin: &Twin<'_>, both: &mut Both, asked: &[Node]) -> Result<Plan, String> {
    let goes_on = || if twin.halt.has_rung() { Err(STOPPED.to_string()) } else { Ok(()) };
    goes_on()?;
    let plan = plan(&mut both.net, asked);
    goes_on().map(|()| plan)
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
        let times = (low, high, step);
        let stops = reach(provisos);
        if stops != Stops::Excluded {
            // The scan after RUN comes so many scans later.
            high += LONGEST_STOP / step * step;
        }
        let twin = &pinned(twin, provisos);
        let outset = outset(twin, provisos);
        let is_multiple = provisos.iter().any(|p| matches!(p, Proviso::Multiple(_)))
            || twin.assumed().iter().any(|a| matches!(a, Assumption::ScanMultiple(_)));
        let stands = stops == Stops::Included;
        let passing = |net: &mut Net| {
            let dt = time(net, (low, high, step), is_multiple);
            let standing = stands.then(|| {
                let since_power = time(net, (0, LONGEST_STOP / step * step, step), is_multiple);
                // The time since a scan before is free in the first of all.
                let shortest = net.constant(low);
                let more = net.add(Gate::Sub(IntShape::LONG, dt, shortest));
                Standing { since_power, at_all: net.add(Gate::Max(since_power, more)) }
            });
            Passing { dt, standing }
        };
        let both = Both::new(twin, &outset, passing);
        let mut both = both.map_err(|e| e.to_string())?.without_others().undivided();
        let (goals, unasked) = asked_and_not(twin, &mut both);
        let mut asked: Vec<Node> = goals.iter().map(|(_, node)| *node).collect();
        if outset.most.is_some() {
            // What is shown where it is compared is no part of the question otherwise.
            asked.extend(&both.shown);
        }
        asked.extend(both.assumed.iter().map(|(_, node)| *node));
        let mut plan = planned(twin, &mut both, &asked)?;
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
        let names = names(twin, &both, &plan);
        let times_given = [(low != high).then_some(InputId(0)), stands.then_some(InputId(1))];
        let (outside, inputs) = outside(twin, &plan, times_given);
        let [dt, standing] = times_given;
        Ok(System {
            unasked,
            marks: marks(&both.net),
            ticks: ticks(&both.net),
            is_conditional: provisos.iter().any(|p| !matches!(p, Proviso::Stops | Proviso::StopsLater)),
            most: most(provisos),
            names,
            kept: kept(&both, &plan),
            assumed: both.assumed.iter().filter_map(|(words, node)| Some((words.clone(), plan.bit(*node)?))).collect(),
            lasting: outset.lasting,
            may_go_beyond: both.net.as_constant(both.beyond) != Some(0),
            ranges,
            bits,
            outside,
            dt,
            standing,
            goals: goals.into_iter().map(|(what, node)| Goal { what, at: plan.bit(node) }).collect(),
            counts: plan.constant_values(),
            shown: both.shown.iter().map(|node| plan.place(*node)).collect(),
            plan: Arc::new(plan),
            times,
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
            unasked: Vec::new(),
            marks: Vec::new(),
            counts: plan.constant_values(),
            ticks: Vec::new(),
            is_conditional: self.is_conditional,
            most: self.most,
            ranges: inputs.iter().map(|n| self.ranges[*n]).collect(),
            outside: inputs.iter().map(|n| self.outside[*n]).collect(),
            dt: None,
            standing: None,
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

    /// Whether anything depends on how long a scan takes, where that varies.
    pub(super) fn is_timed(&self) -> bool {
        self.plan.inputs.iter().any(|(id, _)| [self.dt, self.standing].contains(&Some(*id)))
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
}
