//! Both versions in one net: the same inputs, the same time, and whether they agree after a scan.

use crate::circuit::{
    Gate, InputId, Net, Node, Passing, Probed, Scanned, Unfit, Unread, Whole, add_version, limits, undivided,
};
use crate::model::ops::{BinaryOp, Precision};
use crate::model::{Elem, Family, IntShape};
use crate::scan::{Direction, Machine, PointId};
use crate::twin::assumed::{self, Given};
use crate::twin::monitor::{Shown, Told, Watcher};
use crate::twin::reading;
use crate::twin::{Assumption, Law, Mapping, Pair, Tolerance, Twin};

/// One scan of both versions.
pub(crate) struct Both {
    pub(crate) net: Net,
    /// Of each pair of outputs whether they agree, as exactly as is asked. Where changes may be apart that is told a scan
    /// later, and never where more of them wait for a counterpart than are held.
    pub(crate) agree: Vec<Node>,
    /// Of each pair of outputs what the left version shows, or 0 where they are not compared.
    pub(crate) shown: Vec<Node>,
    /// Of each rule that can be asked: its number, the version's, and whether it holds or a fault has stopped it; of those
    /// that speak of times, whether it held up to the scan before.
    pub(crate) rules: Vec<(usize, usize, Node)>,
    /// Whether both are stopped by the same fault or by none.
    pub(crate) same_fault: Node,
    /// Whether either did what the circuit does not hold.
    pub(crate) beyond: Node,
    /// What is assumed of the inputs, in words, and whether they keep to it as they are given.
    pub(crate) assumed: Vec<(String, Node)>,
    /// The inputs that select seeded faults, in the order of [`Outset::selectors`].
    pub(crate) selectors: Vec<InputId>,
}

/// What is taken for granted beside what a twin says.
#[derive(Clone, Debug, Default)]
pub(crate) struct Outset {
    /// What inputs are until the first scan after each power-up has run, whatever is given.
    pub(crate) begin: Begin,
    /// Power is never lost.
    pub(crate) lasting: bool,
    /// Inputs of 0 or 1 that are not 1 together, by the numbers of their pairs, the smaller first: then the later one is 0.
    pub(crate) apart: Vec<(usize, usize)>,
    /// Whole numbers are compared in those scans only in which both are 0 to so much.
    pub(crate) most: Option<i64>,
    /// At most one input changes from one scan to the next, power-ups aside.
    pub(crate) one_change: bool,
    /// Inputs of the right version without a partner that are given nevertheless, 0 or 1: what selects seeded faults.
    pub(crate) selectors: Vec<PointId>,
    /// What is computed from strings may be anything: for proofs of what does not hang on it.
    pub(crate) strings_unknown: bool,
}

/// What inputs are until the first scan after power-up has run.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Begin {
    /// Anything.
    #[default]
    Any,
    /// What they are at rest.
    Rest,
    /// As at rest, but each BOOL the other way.
    Opposite,
}

impl Begin {
    pub(crate) fn words(self) -> &'static str {
        match self {
            Begin::Any => "inputs may be anything in the first scan after power-up",
            Begin::Rest => "inputs are at rest until the first scan after power-up has run",
            Begin::Opposite => {
                "BOOL inputs are the opposite of what they are at rest, until the first scan after power-up has run"
            }
        }
    }
}

impl Outset {
    /// What a twin says itself.
    pub(crate) fn of(twin: &Twin<'_>) -> Outset {
        let assumes = |what: &Assumption| twin.assumed.contains(what);
        Outset {
            begin: if assumes(&Assumption::RestFirst) { Begin::Rest } else { Begin::Any },
            lasting: assumes(&Assumption::PowerStays),
            apart: twin.apart(),
            most: None,
            one_change: assumes(&Assumption::OneChange),
            selectors: Vec::new(),
            strings_unknown: false,
        }
    }

    fn unread(&self) -> Unread {
        match (self.begin, self.lasting) {
            (Begin::Any, _) => Unread::None,
            (_, false) => Unread::Lost,
            (_, true) => Unread::All,
        }
    }
}

impl Both {
    /// Both versions of a twin; `passing` gives how time passes.
    ///
    /// # Errors
    /// [`Unfit`], if one of them has no circuit.
    pub(crate) fn new(
        twin: &Twin<'_>,
        outset: &Outset,
        passing: impl FnOnce(&mut Net) -> Passing,
    ) -> Result<Both, Unfit> {
        let mut net = Net::default();
        net.unknown = outset.strings_unknown.then(Vec::new);
        let passing = passing(&mut net);
        let dt = passing.dt;
        let machines = [&twin.left.machine, &twin.right.machine];
        // What has no partner keeps its initial value.
        let mut given = machines.map(|machine| initial(&mut net, machine));
        let inputs = &twin.pairing.inputs;
        let free: Vec<Node> = inputs.iter().map(|pair| net.input(range(twin, pair), 1)).collect();
        let begin: Vec<Node> = inputs.iter().map(|pair| begin(&mut net, twin, outset, pair)).collect();
        let names: Vec<&str> = inputs.iter().map(|pair| pair.name.as_str()).collect();
        let Given { nodes, assumed } = assumed::given(&mut net, outset, &free, &names, &begin);
        for (pair, node) in inputs.iter().zip(nodes) {
            given[0][pair.left.0 as usize] = node;
            // Inputs are given only what the right type holds.
            if !pair.unwired {
                given[1][pair.right.0 as usize] = mapped(&mut net, twin, pair, node).0;
            }
        }
        // One version by itself is laid out once, as the left one.
        let side = usize::from(!twin.is_single());
        let mut selectors = Vec::new();
        for point in &outset.selectors {
            let node = net.input((0, 1), 1);
            if let Gate::Input(id) = net.gate(node) {
                selectors.push(id);
            }
            given[side][point.0 as usize] = node;
        }
        let unread = outset.unread();
        let left = add_version(&mut net, 0, machines[0], &given[0], passing, unread)?;
        if twin.halt.has_rung() {
            return Err(Unfit::Stopped);
        }
        let right = match twin.is_single() {
            true => left.clone(),
            false => add_version(&mut net, 1, machines[1], &given[1], passing, unread)?,
        };
        let first = machines.map(|m| m.points_of(Direction::Input).count() as u32);
        let running = net.and(left.has_run, right.has_run);
        let waits = net.not(running);
        let (mut agree, mut shown) = (Vec::new(), Vec::new());
        for pair in &twin.pairing.outputs {
            let (a, b) =
                (left.outputs[(pair.left.0 - first[0]) as usize], right.outputs[(pair.right.0 - first[1]) as usize]);
            let left_shows = a;
            let b = if pair.unwired { net.constant(0) } else { b };
            let (a, is_held) = mapped(&mut net, twin, pair, a);
            // What is told a scan later, or in another unit, is compared whatever it is.
            let plain = pair.tolerance == Tolerance::Exact && pair.mapping == Mapping::Same;
            let most = outset.most.filter(|_| plain && is_whole(machines[0], pair));
            let far = most.map(|most| too_far(&mut net, [a, b], most));
            let same = match pair.tolerance {
                // They are compared from when both have run a whole scan.
                Tolerance::Exact => {
                    let is_real = machines[0].point(pair.left).ty.family() == Family::Real;
                    let same = if is_real { same_real(&mut net, a, b) } else { net.equal(a, b) };
                    let same = net.and(is_held, same);
                    net.or(waits, same)
                }
                Tolerance::Within(most) => {
                    let initial = pair.right_of(machines, machines[0].initial(machines[0].point(pair.left)));
                    // As the engine tells what the right type does not hold.
                    let none = net.constant(i64::MIN);
                    let value = net.mux(is_held, a, none);
                    let left = Shown { value, counts: left.has_run, initial: initial.unwrap_or(i64::MIN) };
                    let initial = machines[1].initial(machines[1].point(pair.right));
                    let right = Shown { value: b, counts: right.has_run, initial };
                    Watcher { net: &mut net, dt }.within([left, right], most.nanos())
                }
            };
            let known = twin.known_node(&mut net, [&left, &right], agree.len());
            let same = known.map_or(same, |known| net.or(known, same));
            let none = net.constant(0);
            shown.push(far.map_or(left_shows, |far| net.mux(far, none, left_shows)));
            agree.push(far.map_or(same, |far| net.or(far, same)));
        }
        let rules = rules(twin, &mut net, dt, [&left, &right]);
        let same_fault = net.equal(left.fault, right.fault);
        let beyond = net.or(left.beyond, right.beyond);
        Ok(Both { net, agree, shown, rules, same_fault, beyond, assumed, selectors })
    }

    /// The same where registers hold dividends, not quotients.
    pub(crate) fn undivided(self) -> Both {
        let Some((net, same)) = undivided(&self.net) else { return self };
        self.moved(net, &same)
    }

    /// The same without what has to do with nothing that it tells.
    pub(crate) fn without_others(self) -> Both {
        let told = self.agree.iter().chain(&self.shown).chain([&self.same_fault, &self.beyond]);
        let told =
            told.chain(self.rules.iter().map(|(.., node)| node)).chain(self.assumed.iter().map(|(_, node)| node));
        let told: Vec<Node> = told.copied().collect();
        let (net, same) = self.net.without_others(&told);
        self.moved(net, &same)
    }

    /// The same in another net, in which each gate has another number.
    fn moved(self, net: Net, same: &[Node]) -> Both {
        let at = |node: Node| same[node.0 as usize];
        Both {
            net,
            agree: self.agree.into_iter().map(at).collect(),
            shown: self.shown.into_iter().map(at).collect(),
            rules: self.rules.into_iter().map(|(rule, side, node)| (rule, side, at(node))).collect(),
            same_fault: at(self.same_fault),
            beyond: at(self.beyond),
            assumed: self.assumed.into_iter().map(|(words, node)| (words, at(node))).collect(),
            selectors: self.selectors,
        }
    }

    /// All that the versions agree in while they do; of one version by itself the rules that it keeps.
    pub(crate) fn fine(&self, twin: &Twin<'_>) -> Vec<Node> {
        let rules = self.rules.iter().filter(|_| twin.is_single()).map(|(.., holds)| *holds);
        rules.chain(self.agree.iter().copied()).chain([self.same_fault]).collect()
    }
}

/// Rules on each version that can be asked.
fn rules(twin: &Twin<'_>, net: &mut Net, dt: Node, versions: [&Scanned; 2]) -> Vec<(usize, usize, Node)> {
    let mut out = Vec::new();
    for (number, (rule, probes)) in twin.rules.iter().zip(&twin.probes).enumerate() {
        for (side, (version, probes)) in versions.into_iter().zip(probes).enumerate() {
            let probed = |at: usize| probes.get(at).and_then(|p| version.probes.get(*p).copied().flatten());
            let Some(first) = probed(0).map(told) else { continue };
            // A version that has stopped breaks no rule.
            let none = net.constant(0);
            let runs = net.equal(version.fault, none);
            let mut watcher = Watcher { net, dt };
            let holds = match (&rule.law, probed(1).map(told)) {
                (Law::Always(_), _) => in_scan(net, first, first.value, runs),
                (Law::Never(_), _) => {
                    let not = net.not(first.value);
                    in_scan(net, first, not, runs)
                }
                (Law::Lasts(_, least), _) => watcher.lasts(first, runs, least.nanos()),
                (Law::After(_, _, most), Some(second)) => watcher.after(first, second, runs, most.nanos()),
                (Law::After(..), None) => continue,
            };
            out.push((number, side, holds));
        }
    }
    out
}

fn told(probed: Probed) -> Told {
    Told { value: probed.value, has_value: probed.has_value }
}

/// Whether a rule about every scan by itself holds; what cannot be computed breaks none.
fn in_scan(net: &mut Net, told: Told, holds: Node, runs: Node) -> Node {
    let asked = net.and(runs, told.has_value);
    let not = net.not(asked);
    net.or(not, holds)
}

/// What an input is until the first scan after power-up has run, where that is assumed; else what it is at rest.
fn begin(net: &mut Net, twin: &Twin<'_>, outset: &Outset, pair: &Pair) -> Node {
    let machine = &twin.left.machine;
    let point = machine.point(pair.left);
    let rest = net.constant(pair.rest.unwrap_or_else(|| machine.initial(point)));
    let is_bool = point.ty.family() == Family::Bool;
    if outset.begin == Begin::Opposite && is_bool && range(twin, pair) == (0, 1) { net.not(rest) } else { rest }
}

/// Whether a pair of points is of whole numbers.
pub(crate) fn is_whole(left: &Machine, pair: &Pair) -> bool {
    left.point(pair.left).ty.elem().is_some_and(Elem::is_integer)
}

/// Whether one of two numbers is below 0 or above the most.
fn too_far(net: &mut Net, numbers: [Node; 2], most: i64) -> Node {
    let (none, most) = (net.constant(0), net.constant(most));
    let mut any = net.bool(false);
    for number in numbers {
        for beyond in [net.add(Gate::Less(number, none)), net.add(Gate::Less(most, number))] {
            any = net.or(any, beyond);
        }
    }
    any
}

fn initial(net: &mut Net, machine: &Machine) -> Vec<Node> {
    machine.points_of(Direction::Input).map(|(_, point)| net.constant(machine.initial(point))).collect()
}

/// The values that an input is given, as they sit in memory: those of its type and its range that the right type holds too.
pub(in crate::twin) fn range(twin: &Twin<'_>, pair: &Pair) -> (i64, i64) {
    let ty = &twin.left.machine.point(pair.left).ty;
    let (low, high) = limits(ty);
    let wanted = match (pair.range, ty) {
        (Some((a, b)), ty) if ty.family() != Family::Real => (low.max(a), high.min(b)),
        (Some(_) | None, _) => (low, high),
    };
    let rest = pair.rest.unwrap_or_else(|| twin.left.machine.initial(twin.left.machine.point(pair.left)));
    pair.mapping.domain(pair.types(twin.machines()), wanted).unwrap_or((rest, rest))
}

/// The values of an input's type that the right type holds as well, if those are not all.
pub(in crate::twin) fn narrowed(twin: &Twin<'_>, pair: &Pair) -> Option<(i64, i64)> {
    let all = limits(&twin.left.machine.point(pair.left).ty);
    let held = range(twin, &Pair { range: None, ..pair.clone() });
    (held != all).then_some(held)
}

/// What a left value is on the right, and whether the right type holds it.
fn mapped(net: &mut Net, twin: &Twin<'_>, pair: &Pair, node: Node) -> (Node, Node) {
    let types = pair.types(twin.machines());
    let always = net.bool(true);
    match pair.mapping {
        Mapping::Same => (node, always),
        Mapping::Inverted => (net.not(node), always),
        Mapping::Bits => match reading::shape(types[1]) {
            Some(shape) => (net.add(Gate::Wrap(shape, node)), always),
            None => (node, always),
        },
        Mapping::Name => {
            let (mut value, mut held) = (net.constant(0), net.bool(false));
            for (from, to) in reading::names(types[0], types[1]) {
                let from = net.constant(from);
                let is = net.equal(node, from);
                let to_node = net.constant(to.unwrap_or_default());
                value = net.mux(is, to_node, value);
                held = if to.is_some() { net.or(held, is) } else { held };
            }
            (value, held)
        }
        Mapping::Number | Mapping::Scaled(..) => {
            let all = limits(types[0]);
            let Some((low, high)) = pair.mapping.domain(types, all) else { return (node, net.bool(false)) };
            let mut held = always;
            if (low, high) != all {
                let (low, high) = (net.constant(low), net.constant(high));
                for beyond in [net.add(Gate::Less(node, low)), net.add(Gate::Less(high, node))] {
                    let not = net.not(beyond);
                    held = net.and(held, not);
                }
            }
            let Mapping::Scaled(by, over) = pair.mapping else { return (node, held) };
            (scaled(net, (node, low, high), by, over), held)
        }
    }
}

/// So many times a number from `low` to `high`, divided, cut towards zero. Outside of that it is anything.
fn scaled(net: &mut Net, (node, low, high): (Node, i64, i64), by: i64, over: i64) -> Node {
    let whole = |value: i64| value.checked_mul(by).is_some();
    let divisor = net.constant(over);
    let factor = net.constant(by);
    if whole(low) && whole(high) {
        let product = net.add(Gate::Mul(IntShape::LONG, node, factor));
        return net.add(Gate::Div(IntShape::LONG, product, divisor));
    }
    // What would not fit 64 bits on the way: the whole part and the rest, each by itself.
    let quotient = net.add(Gate::Div(IntShape::LONG, node, divisor));
    let rest = net.add(Gate::Mod(IntShape::LONG, node, divisor));
    let (much, little) =
        (net.add(Gate::Mul(IntShape::LONG, quotient, factor)), net.add(Gate::Mul(IntShape::LONG, rest, factor)));
    let little = net.add(Gate::Div(IntShape::LONG, little, divisor));
    net.add(Gate::Add(IntShape::LONG, much, little))
}

/// The same number, or both no number. What has the same bits is the same, which a proof can tell of values that it knows
/// nothing else about.
fn same_real(net: &mut Net, a: Node, b: Node) -> Node {
    let real = |net: &mut Net, op, a, b| net.add(Gate::Whole(Whole::Real { op, precision: Precision::Double }, a, b));
    let equal = real(net, BinaryOp::Eq, a, b);
    let none = [a, b].map(|x| real(net, BinaryOp::Ne, x, x));
    let neither = net.and(none[0], none[1]);
    let same = net.or(equal, neither);
    let bits = net.equal(a, b);
    net.or(bits, same)
}
