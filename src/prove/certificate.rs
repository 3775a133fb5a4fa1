//! What a proof leaves for others to check: both versions as a circuit, the facts, and what makes them a proof.

use super::computed::Computed;
use super::cube::Literal;
use super::facts::{Claim, Fact, Held, Term};
use super::layout::Layout;
use super::part::Proof;
use super::system::{System, What};
use crate::circuit::{Bit, Role};
use crate::model::{Duration, format_duration};
use flussab::DeferredWriter;
use flussab_aiger::aig::{OrderedAig, OrderedAndGate, OrderedLatch, Symbol, SymbolTarget};
use flussab_aiger::binary::Writer;
use std::collections::BTreeSet;

/// The files of a certificate. Graphs are in the binary form of the AIGER format, version 1.9.
#[derive(Clone, Debug)]
pub struct Certificate {
    /// One scan of both versions with registers between scans. A latch is 0 at power-up: a bit that is TRUE then is stored
    /// inverted. An input `power` takes the place of a scan by a loss of power. Each bad state property is an output that
    /// differs, each output a fact that fails. Constraints are that unknown functions give the same for the same, and what is
    /// assumed of what is given, which stands there in words.
    pub miter: Vec<u8>,
    /// Outputs that are all constant FALSE if, and only if, the facts hold at power-up, every scan and every loss of power
    /// keeps them, and they suffice. The inputs are the latches of the miter, then its inputs.
    pub certificate: Vec<u8>,
    /// The facts, one a line, in words.
    pub facts: String,
    /// What is assumed, one a line.
    pub assumptions: String,
}

impl Certificate {
    pub(super) fn new(system: &System, found: &Proof, assumptions: &[String]) -> Certificate {
        let facts = facts(system, found);
        let goals: Vec<String> = system.goals.iter().map(|goal| system.goal_words(goal.what)).collect();
        let lines = |list: &[String]| list.iter().map(|line| format!("{line}\n")).collect::<String>();
        Certificate {
            miter: miter(system, &Layout::new(system, found, false), &facts, &goals),
            certificate: certificate(system, &Layout::new(system, found, true), &facts, &goals),
            facts: lines(&facts),
            assumptions: lines(assumptions),
        }
    }

    /// The names of the files, and what is in them.
    #[must_use]
    pub fn files(&self) -> [(&'static str, &[u8]); 4] {
        [
            ("miter.aig", &self.miter),
            ("certificate.aig", &self.certificate),
            ("facts.txt", self.facts.as_bytes()),
            ("assumptions.txt", self.assumptions.as_bytes()),
        ]
    }
}

/// What a latch is called that holds what an input was in the scan before; its name follows.
const GIVEN_BEFORE: &str = "given before: ";

/// What a latch is called that tells whether the next scan is the first after power-up.
const AFTER_POWER: &str = "first after power-up";

/// Names of what is free in a scan.
fn free_names(system: &System, layout: &Layout) -> Vec<String> {
    let mut out = Vec::new();
    for (name, (_, _, count)) in system.inputs.iter().zip(system.given()) {
        out.extend((0..count).map(|bit| format!("{name} above its least, bit {bit}")));
    }
    out.push("power".to_string());
    out.extend((out.len()..layout.free.len()).map(|n| format!("unknown {n}")));
    out
}

fn latch_names(system: &System, layout: &Layout) -> Vec<String> {
    let name = |bit: usize| {
        let inverted = if system.initial(bit) { "not " } else { "" };
        format!("{inverted}{}", system.bit_name(bit))
    };
    let broken = (layout.latches.len() > system.bits.len()).then(|| "what is assumed was broken before".to_string());
    (0..system.bits.len()).map(name).chain(broken).collect()
}

fn miter(system: &System, layout: &Layout, facts: &[String], goals: &[String]) -> Vec<u8> {
    let mut order = Order::new(layout);
    layout.free.iter().chain(&layout.latches).for_each(|bit| order.input(*bit));
    let assumed = assumed_words(system);
    let unnamed = layout.constraints.len() - assumed.len();
    let roots = [&layout.next, &layout.fails, &layout.bad, &layout.constraints];
    let [next, outputs, bad, constraints] = roots.map(|list| order.all(list));
    let latches = next.into_iter().map(|next_state| OrderedLatch { next_state, initialization: Some(false) });
    let mut symbols = Vec::new();
    symbols.extend(named(SymbolTarget::Input, free_names(system, layout)));
    symbols.extend(named(SymbolTarget::Latch, latch_names(system, layout)));
    symbols.extend(named(SymbolTarget::Output, facts.iter().map(|fact| format!("not so: {fact}"))));
    symbols.extend(named(SymbolTarget::BadStateProperty, goals.iter().map(|goal| format!("not so: {goal}"))));
    let words = assumed.into_iter().enumerate().map(|(n, words)| Symbol {
        target: SymbolTarget::InvariantConstraint(unnamed + n),
        name: format!("assumed: {words}").into(),
    });
    symbols.extend(words);
    let aig = OrderedAig {
        input_count: layout.free.len(),
        latches: latches.collect(),
        outputs,
        bad_state_properties: bad,
        invariant_constraints: constraints,
        symbols,
        ..order.aig()
    };
    written(&aig)
}

/// What is assumed, in the order of the constraints.
fn assumed_words(system: &System) -> Vec<String> {
    let power = system.lasting.then(|| "power stays on".to_string());
    system.assumed.iter().map(|(words, _)| words.clone()).chain(power).collect()
}

fn certificate(system: &System, layout: &Layout, facts: &[String], goals: &[String]) -> Vec<u8> {
    let mut graph = layout.graph.clone();
    let mut given = Bit::TRUE;
    for bit in layout.fails.iter().map(|bit| bit.not()).chain(layout.constraints.iter().copied()) {
        given = graph.and(given, bit);
    }
    let mut wrong = layout.fails_at_power_up.clone();
    wrong.extend(layout.fails_after.iter().chain(&layout.bad).map(|bit| graph.and(given, *bit)));
    let mut order = Order { graph: &graph, ..Order::new(layout) };
    layout.latches.iter().chain(&layout.free).for_each(|bit| order.input(*bit));
    let outputs = order.all(&wrong);
    let mut symbols = Vec::new();
    let inputs = latch_names(system, layout).into_iter().chain(free_names(system, layout));
    symbols.extend(named(SymbolTarget::Input, inputs));
    let claims = facts.iter().map(|fact| format!("at power-up not so: {fact}"));
    let claims = claims.chain(facts.iter().map(|fact| format!("after a scan not so: {fact}")));
    let claims = claims.chain(goals.iter().map(|goal| format!("does not follow: {goal}")));
    symbols.extend(named(SymbolTarget::Output, claims));
    let aig = OrderedAig { input_count: layout.latches.len() + layout.free.len(), outputs, symbols, ..order.aig() };
    written(&aig)
}

fn named(
    target: impl Fn(usize) -> SymbolTarget,
    names: impl IntoIterator<Item = String>,
) -> impl Iterator<Item = Symbol<'static>> {
    names.into_iter().enumerate().map(move |(n, name)| Symbol { target: target(n), name: name.into() })
}

/// The numbers that nodes of a graph have in a file: inputs first, then what is computed and asked for.
struct Order<'g> {
    graph: &'g crate::circuit::Graph,
    /// Of each node its number; 0 if it has none yet.
    numbers: Vec<u32>,
    next: u32,
    gates: Vec<OrderedAndGate<u32>>,
}

impl Order<'_> {
    fn new(layout: &Layout) -> Order<'_> {
        Order { graph: &layout.graph, numbers: Vec::new(), next: 1, gates: Vec::new() }
    }

    fn number(&mut self, node: usize) -> &mut u32 {
        self.numbers.resize(self.graph.len().max(self.numbers.len()), 0);
        &mut self.numbers[node]
    }

    fn input(&mut self, bit: Bit) {
        *self.number(bit.node()) = self.next;
        self.next += 1;
    }

    fn literal(&mut self, bit: Bit) -> u32 {
        *self.number(bit.node()) << 1 | u32::from(bit.is_inverted())
    }

    /// The literals of bits, with all that they read.
    fn all(&mut self, bits: &[Bit]) -> Vec<u32> {
        let mut needed: Vec<usize> = Vec::new();
        let mut waiting: Vec<usize> = bits.iter().map(|b| b.node()).collect();
        let mut seen = vec![false; self.graph.len()];
        while let Some(node) = waiting.pop() {
            if node == 0 || *self.number(node) > 0 || std::mem::replace(&mut seen[node], true) {
                continue;
            }
            needed.push(node);
            waiting.extend(self.graph.reads(node).into_iter().flat_map(|(a, b)| [a.node(), b.node()]));
        }
        needed.sort_unstable();
        for node in needed {
            if let Some((a, b)) = self.graph.reads(node) {
                let inputs = [self.literal(a), self.literal(b)];
                self.gates.push(OrderedAndGate { inputs });
                *self.number(node) = self.next;
                self.next += 1;
            }
        }
        bits.iter().map(|bit| self.literal(*bit)).collect()
    }

    fn aig(self) -> OrderedAig<u32> {
        OrderedAig {
            max_var_index: self.next as usize - 1,
            input_count: 0,
            latches: Vec::new(),
            outputs: Vec::new(),
            bad_state_properties: Vec::new(),
            invariant_constraints: Vec::new(),
            justice_properties: Vec::new(),
            fairness_constraints: Vec::new(),
            and_gates: self.gates,
            symbols: Vec::new(),
            comment: Some("Honest Twin".to_string()),
        }
    }
}

fn written(aig: &OrderedAig<u32>) -> Vec<u8> {
    let mut out = Vec::new();
    {
        let mut writer: Writer<'_, u32> = Writer::new(DeferredWriter::from_write(&mut out));
        writer.write_ordered_aig(aig);
        // Writing into memory cannot fail.
        writer.flush_defer_err();
    }
    out
}

/// All facts in words, in the order of the graph.
fn facts(system: &System, found: &Proof) -> Vec<String> {
    let bit = |(bit, inverted): (usize, bool)| {
        let not = if inverted { "NOT " } else { "" };
        format!("{not}{}", system.bit_name(bit))
    };
    let bits = found.groups.claims().map(|(a, b)| match b {
        Some(b) => format!("{} = {}", bit((a.0, a.1 != b.1)), bit((b.0, false))),
        None => format!("{} = {}", bit((a.0, false)), if a.1 { "TRUE" } else { "FALSE" }),
    });
    bits.chain(found.facts.iter().map(|fact| in_words(fact, system))).collect()
}

/// A fact about numbers in words.
fn in_words(fact: &Fact, system: &System) -> String {
    let value = |register: usize, count: i64| {
        let value = count.wrapping_mul(system.plan.registers[register].unit);
        let is_time = system.names[register].as_ref().is_some_and(|name| name.is_time);
        if is_time { format_duration(Duration::from_nanos(value)) } else { value.to_string() }
    };
    let term = |t: Term| {
        let name = system.register_name(t.register);
        if t.cap == i64::MAX { name } else { format!("MIN({name}, {})", value(t.register, t.cap)) }
    };
    // What bits count, so that factors are those of counts.
    let counts = |t: Term| match system.plan.registers[t.register].unit {
        1 => term(t),
        _ => format!("{} / {}", term(t), value(t.register, 1)),
    };
    let claim = match &fact.claim {
        Claim::Line { u, ku, v, kv, c } => {
            let sign = if *kv < 0 { "-" } else { "+" };
            format!("{ku} * {} {sign} {} * {} = {c}", counts(*u), kv.unsigned_abs(), counts(*v))
        }
        Claim::Constant { u, c } => format!("{} = {}", system.register_name(*u), value(*u, *c)),
        Claim::AtMost { u, c } => format!("{} <= {}", system.register_name(*u), value(*u, *c)),
        Claim::Sum { terms, c, is_most } => {
            let units: BTreeSet<i64> = terms.iter().map(|(r, _)| system.plan.registers[*r].unit).collect();
            // Where all count the same, what they come to is told as they are.
            let (of, is_one) = (terms.first().map_or(0, |t| t.0), units.len() == 1);
            let all = terms.iter().enumerate().fold(String::new(), |out, (number, (register, k))| {
                let name = counts(Term { register: *register, cap: i64::MAX });
                let name = if is_one { system.register_name(*register) } else { name };
                let times = if k.abs() == 1 { name } else { format!("{} * {name}", k.unsigned_abs()) };
                match (number, *k < 0) {
                    (0, false) => times,
                    (0, true) => format!("-{times}"),
                    (_, is_less) => format!("{out} {} {times}", if is_less { "-" } else { "+" }),
                }
            });
            let sum = if is_one { value(of, *c) } else { c.to_string() };
            format!("{all} {} {sum}", if *is_most { "<=" } else { "=" })
        }
        Claim::Alike(one, other) => {
            let held = |held: &Held| match held.bit {
                None => system.register_name(held.register),
                Some(at) => format!("bit {at} of {}", system.register_name(held.register)),
            };
            format!("{} = {}", held(one), held(other))
        }
        Claim::Same { one, other, is_opposite } => {
            let words = |computed: &Computed| computed.words(|register| system.register_name(register));
            match one.is_always() {
                Some(value) if value == *is_opposite => format!("{} = FALSE", words(other)),
                Some(_) => format!("{} = TRUE", words(other)),
                None => format!("{} = {}{}", words(one), if *is_opposite { "NOT " } else { "" }, words(other)),
            }
        }
        Claim::Never(cube) => {
            let literal = |literal: &Literal| match *literal {
                Literal::Bit { register, at, is } => {
                    format!("{}{}", if is { "" } else { "NOT " }, system.register_bit_name(register, at))
                }
                Literal::Least { register, c } => {
                    format!("{} >= {}", system.register_name(register), value(register, c))
                }
                Literal::Most { register, c } => {
                    format!("{} <= {}", system.register_name(register), value(register, c))
                }
            };
            let all: Vec<String> = cube.literals().iter().map(literal).collect();
            format!("never all of: {}", all.join(", "))
        }
    };
    let guards: Vec<String> =
        fact.guard.all().map(|(r, at)| format!("{} = {}", system.register_name(r), value(r, at))).collect();
    if guards.is_empty() { claim } else { format!("where {}: {claim}", guards.join(" and ")) }
}

impl System {
    /// What a register is, in words.
    fn register_name(&self, register: usize) -> String {
        match (&self.names[register], self.kept[register].role) {
            (Some(name), _) => format!("{}.{}", self.versions[name.side], name.name),
            (None, Role::Given(input)) => {
                let named = self.outside.iter().position(|given| given.pair == Some(input as usize));
                format!("{GIVEN_BEFORE}{}", named.map_or(String::new(), |at| self.inputs[at].clone()))
            }
            (None, Role::AfterPower) => AFTER_POWER.to_string(),
            (None, Role::Plain | Role::FirstScan | Role::HasBegun | Role::Fault | Role::Held) => {
                format!("memory {register}")
            }
        }
    }

    fn bit_name(&self, bit: usize) -> String {
        let (register, at) = self.bits[bit];
        self.register_bit_name(register, at)
    }

    fn register_bit_name(&self, register: usize, at: u8) -> String {
        let name = self.register_name(register);
        if self.plan.registers[register].place.width == 1 { name } else { format!("{name} bit {at}") }
    }

    fn goal_words(&self, what: What) -> String {
        let limit = self.most.map_or(String::new(), |most| format!(", as long as whole numbers are 0 to {most}"));
        let words = match what {
            What::Rounds => "loops run no more rounds than are laid out".to_string(),
            What::Faults => "both run, or the same fault has stopped both".to_string(),
            What::Output(number) => format!("{} agrees", self.outputs[number]),
            What::Rule(rule, side) => format!("rule {} holds in {}", self.rules[rule], self.versions[side]),
        };
        words + &limit
    }
}
