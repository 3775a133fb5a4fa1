//! Building a graph in which what is the same is one node.
//!
//! Every node carries what it shows in some thousand states that can really occur. Two nodes that show the same are
//! put before the solver; if it finds no state in which they differ they are one from then on. So the two versions
//! grow together, node by node, and no question is ever about more than the little that was added last.

use super::solve::{Answer, Budget, Question, Variables};
use crate::circuit::{Algebra, Bit, Graph, Whole, Word, to_bits, to_numbers};
use rustc_hash::FxHashMap;
use std::cmp::Reverse;
use std::collections::{BinaryHeap, HashMap};

/// What setting up a question takes, in steps of the solver.
const A_QUESTION: u64 = 50;

/// What a new node takes, and what the first call of an unknown function does: what they show is worked out for all states.
const A_NODE: u64 = 4;
const A_CALL: u64 = 150;

/// Nodes near a question that are looked at first, then if that does not answer it.
const NEAR: [usize; 3] = [150, 1_500, usize::MAX];

/// Words of states that the solver found, of which the last are kept.
const RING: usize = 8;

/// Nodes that show the same and are tried, at most.
const MOST_TRIED: usize = 4;

/// A function, whether its failing is meant, how many bits it gives, and its operands.
type Of = (Whole, bool, usize, Vec<Bit>, Vec<Bit>);

/// A graph under construction.
pub(super) struct Sweep {
    pub(super) graph: Graph,
    /// Words of what each node shows.
    words: usize,
    /// What each node shows in the states that were given.
    shown: Vec<u64>,
    /// What each node shows in the last states that the solver found, a word of 64 states each.
    found: Vec<Vec<u64>>,
    /// Which nodes read a node.
    readers: Vec<Vec<u32>>,
    /// States that the solver found.
    pub(super) states: usize,
    alike: FxHashMap<u64, Vec<Bit>>,
    /// The bits of each unknown function, by what it is of.
    unknown: HashMap<Of, (usize, Vec<Bit>)>,
    /// Of each call of an unknown function, in their order, the first one with the same operands.
    pub(super) calls: Vec<usize>,
    /// What may be taken as TRUE of every state, each with the inputs it is about.
    given: Vec<(Bit, Vec<usize>)>,
    seen: Seen,
    vars: Variables,
    /// What one question may take.
    pub(super) budget: Budget,
    /// Questions asked, and those that took too long.
    pub(super) asked: u64,
    pub(super) too_long: u64,
    /// Work that nodes and questions so far have taken.
    pub(super) work: u64,
}

/// The nodes that a walk through a graph has come to. It is kept from walk to walk: there is one for nearly every question.
#[derive(Default)]
struct Seen {
    /// Of each node the number of the last walk that came to it.
    last: Vec<u32>,
    walk: u32,
    /// Nodes that a walk still has to go on from; empty between walks.
    waiting: Vec<usize>,
}

impl Seen {
    /// Begins a walk that has come to nothing yet.
    fn begin(&mut self, graph: &Graph) {
        self.last.resize(graph.len(), 0);
        self.walk = self.walk.wrapping_add(1);
        if self.walk == 0 {
            self.last.fill(0);
            self.walk = 1;
        }
    }

    fn has(&self, node: usize) -> bool {
        self.last[node] == self.walk
    }

    /// Comes to a node; false if it has been there.
    fn is_new(&mut self, node: usize) -> bool {
        std::mem::replace(&mut self.last[node], self.walk) != self.walk
    }

    /// The inputs that bits depend on and that it has not come to before.
    fn walk(&mut self, graph: &Graph, bits: &[Bit]) -> Vec<usize> {
        let mut out = Vec::new();
        self.waiting.extend(bits.iter().map(|bit| bit.node()));
        while let Some(node) = self.waiting.pop() {
            if node == 0 || !self.is_new(node) {
                continue;
            }
            match graph.reads(node) {
                Some((a, b)) => self.waiting.extend([a.node(), b.node()]),
                None => out.push(node),
            }
        }
        out
    }
}

/// What became of the question whether two bits are the same.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Same {
    Yes,
    /// No: the state of this number shows it.
    No(usize),
    Unknown,
}

impl Sweep {
    pub(super) fn new(words: usize, budget: Budget) -> Sweep {
        let mut sweep = Sweep {
            graph: Graph::new(),
            words,
            shown: vec![0; words],
            found: Vec::new(),
            readers: vec![Vec::new()],
            states: 0,
            alike: FxHashMap::default(),
            unknown: HashMap::new(),
            calls: Vec::new(),
            given: Vec::new(),
            seen: Seen::default(),
            vars: Variables::default(),
            budget,
            asked: 0,
            too_long: 0,
            work: 0,
        };
        let key = sweep.key(Bit::FALSE);
        sweep.alike.entry(key).or_default().push(Bit::FALSE);
        sweep
    }

    /// Whether it has taken all the work that it may: no question is answered any more.
    pub(super) fn is_spent(&self) -> bool {
        self.budget.work.is_some_and(|most| self.work >= most)
    }

    /// Lets go of all that only further questions need: what states that were found show stays.
    pub(super) fn close(&mut self) {
        self.shown = Vec::new();
        self.readers = Vec::new();
        self.alike = FxHashMap::default();
        self.unknown = HashMap::new();
        self.seen = Seen::default();
        self.vars = Variables::default();
        self.graph.close();
    }

    /// An input that shows this in the states that are given.
    pub(super) fn input(&mut self, shown: &[u64]) -> Bit {
        let bit = self.graph.input();
        self.readers.push(Vec::new());
        self.shown.extend(shown);
        // As in the state that each was made from.
        let first = self.states.div_ceil(64).saturating_sub(RING);
        for number in first..self.states.div_ceil(64) {
            let value = shown[number % self.words.max(1)];
            self.found[number % RING].push(value);
        }
        let key = self.key(bit);
        self.alike.entry(key).or_default().push(bit);
        bit
    }

    pub(super) fn shows(&self, bit: Bit) -> impl Iterator<Item = u64> {
        let flip = if bit.is_inverted() { u64::MAX } else { 0 };
        let at = bit.node() * self.words;
        self.shown[at..at + self.words].iter().map(move |w| w ^ flip)
    }

    /// The first state that is still there.
    pub(super) fn first_state(&self) -> usize {
        self.states.div_ceil(64).saturating_sub(RING) * 64
    }

    /// What a bit shows in a state that the solver found.
    pub(super) fn shows_in(&self, bit: Bit, state: usize) -> bool {
        (self.found[state / 64 % RING][bit.node()] >> (state % 64) & 1 == 1) ^ bit.is_inverted()
    }

    /// Whether all that was taken as TRUE is so in a state that the solver found: a question is only about what has to do
    /// with it, so the rest of a state may be anything.
    pub(super) fn is_whole(&self, state: usize) -> bool {
        self.given.iter().all(|(bit, _)| self.shows_in(*bit, state))
    }

    /// Bits that show the same, or all the opposite, have the same key.
    fn key(&self, bit: Bit) -> u64 {
        let flip = if self.first(bit) { u64::MAX } else { 0 };
        self.shows(bit).fold(0, |key: u64, w| (key.rotate_left(5) ^ w ^ flip).wrapping_mul(0x9E37_79B9_7F4A_7C15))
    }

    fn first(&self, bit: Bit) -> bool {
        self.shows(bit).next().is_some_and(|w| w & 1 == 1)
    }

    fn seem_alike(&self, a: Bit, b: Bit) -> bool {
        let flip = |bit: Bit| if bit.is_inverted() { u64::MAX } else { 0 };
        self.shows(a).eq(self.shows(b))
            && self.found.iter().all(|word| word[a.node()] ^ flip(a) == word[b.node()] ^ flip(b))
    }

    /// From now on takes a bit as TRUE of every state.
    pub(super) fn take(&mut self, bit: Bit) {
        if bit != Bit::TRUE {
            self.seen.begin(&self.graph);
            let about = self.seen.walk(&self.graph, &[bit]);
            self.given.push((bit, about));
        }
    }

    /// What was taken as TRUE of every state.
    pub(super) fn taken(&self) -> Vec<Bit> {
        self.given.iter().map(|(bit, _)| *bit).collect()
    }

    /// What is taken as TRUE and has to do with a question, directly or by way of what else is taken.
    fn relevant(&mut self, wanted: &[Bit]) -> Vec<Bit> {
        if self.given.is_empty() {
            return Vec::new();
        }
        self.seen.begin(&self.graph);
        self.seen.walk(&self.graph, wanted);
        let mut out: Vec<Bit> = Vec::new();
        let mut left: Vec<&(Bit, Vec<usize>)> = self.given.iter().collect();
        loop {
            let (near, far): (Vec<_>, Vec<_>) =
                left.into_iter().partition(|(_, inputs)| inputs.iter().any(|input| self.seen.has(*input)));
            if near.is_empty() {
                return out;
            }
            for (bit, inputs) in near {
                out.push(*bit);
                inputs.iter().for_each(|input| _ = self.seen.is_new(*input));
            }
            left = far;
        }
    }

    /// Whether two bits are the same in every state, of all that is asked of a proof.
    pub(super) fn same(&mut self, a: Bit, b: Bit) -> Same {
        let budget = self.budget.of_fact();
        self.same_within(a, b, &budget)
    }

    fn same_within(&mut self, a: Bit, b: Bit, budget: &Budget) -> Same {
        if a == b {
            return Same::Yes;
        }
        if a.node() == 0 || b.node() == 0 {
            // With a constant there is but one way to differ.
            let other = if b.node() == 0 { a.flip(b == Bit::TRUE) } else { b.flip(a == Bit::TRUE) };
            return self.never_within(other, budget);
        }
        self.ask(&[&[a, b], &[a.not(), b.not()]], &[a, b], budget)
    }

    /// Whether a bit is never TRUE.
    pub(super) fn never(&mut self, bit: Bit) -> Same {
        let budget = self.budget.of_fact();
        self.never_within(bit, &budget)
    }

    fn never_within(&mut self, bit: Bit, budget: &Budget) -> Same {
        if bit == Bit::FALSE {
            return Same::Yes;
        }
        self.ask(&[&[bit]], &[bit], budget)
    }

    /// Whether clauses over some bits are never TRUE all at once.
    fn ask(&mut self, clauses: &[&[Bit]], bits: &[Bit], budget: &Budget) -> Same {
        self.asked += 1;
        if self.budget.halt.has_rung() || self.is_spent() {
            self.too_long += 1;
            return Same::Unknown;
        }
        let budget = &Budget { work: self.budget.work, ..budget.clone() }.after(self.work);
        let given = self.relevant(bits);
        let mut all = clauses.to_vec();
        all.extend(given.iter().map(std::slice::from_ref));
        let mut question = Question::new(&self.graph, &mut self.vars, &all);
        let mut last = Answer::Unknown;
        let mut is_all = false;
        for nodes in NEAR {
            is_all = question.look_at(nodes);
            last = question.answer(budget);
            if is_all || budget.is_near || matches!(last, Answer::No) {
                break;
            }
        }
        self.work += A_QUESTION + question.work();
        drop(question);
        match last {
            Answer::No => Same::Yes,
            Answer::Yes(values) if is_all => Same::No(self.add_state(&values)),
            Answer::Yes(_) | Answer::Unknown => {
                // What was not looked at further did not take long.
                let is_tried = is_all || !budget.is_near;
                self.too_long += u64::from(is_tried);
                self.budget.too_long += u64::from(is_tried);
                Same::Unknown
            }
        }
    }

    /// Adds a state that the solver found; inputs that it did not ask about are as in one of the states given. Only what
    /// depends on what is other than there is computed.
    fn add_state(&mut self, values: &[(usize, bool)]) -> usize {
        let state = self.states;
        self.states += 1;
        let at = state / 64 % RING;
        if state.is_multiple_of(64) {
            let from = state / 64 % self.words.max(1);
            let word = (0..self.graph.len()).map(|node| self.shown[node * self.words + from]).collect();
            if at == self.found.len() {
                self.found.push(word);
            } else {
                self.found[at] = word;
            }
        }
        let mask = 1u64 << (state % 64);
        let word = &mut self.found[at];
        let mut waiting: BinaryHeap<Reverse<u32>> = BinaryHeap::new();
        for (node, value) in values {
            if self.graph.reads(*node).is_none() && (word[*node] & mask != 0) != *value {
                word[*node] ^= mask;
                waiting.extend(self.readers[*node].iter().map(|n| Reverse(*n)));
            }
        }
        while let Some(Reverse(next)) = waiting.pop() {
            let node = next as usize;
            let Some((a, b)) = self.graph.reads(node) else { continue };
            let of = |bit: Bit, word: &[u64]| (word[bit.node()] & mask != 0) ^ bit.is_inverted();
            if (word[node] & mask != 0) != (of(a, word) && of(b, word)) {
                word[node] ^= mask;
                waiting.extend(self.readers[node].iter().map(|n| Reverse(*n)));
            }
        }
        state
    }

    fn add_and(&mut self, reads: (Bit, Bit)) -> Bit {
        self.work += A_NODE;
        let bit = self.graph.and(reads.0, reads.1);
        self.readers.push(Vec::new());
        for read in [reads.0, reads.1] {
            self.readers[read.node()].push(bit.node() as u32);
        }
        let flip = |bit: Bit| if bit.is_inverted() { u64::MAX } else { 0 };
        let [first, second] = [reads.0, reads.1].map(|read| (read.node() * self.words, flip(read)));
        for word in 0..self.words {
            let both = (self.shown[first.0 + word] ^ first.1) & (self.shown[second.0 + word] ^ second.1);
            self.shown.push(both);
        }
        for word in &mut self.found {
            let value = (word[reads.0.node()] ^ flip(reads.0)) & (word[reads.1.node()] ^ flip(reads.1));
            word.push(value);
        }
        let key = self.key(bit);
        let first = self.first(bit);
        let mut tried = 0;
        // There may be thousands, as of what is FALSE in all states that were seen: they are looked at in place.
        for number in 0.. {
            let Some(other) = self.alike.get(&key).and_then(|all| all.get(number)).copied() else { break };
            let other = other.flip(self.first(other) != first);
            if !self.seem_alike(bit, other) {
                continue;
            }
            tried += 1;
            let budget = self.budget.of_merge();
            if self.same_within(bit, other, &budget) == Same::Yes {
                self.graph.merge(reads, other);
                return other;
            }
            if tried == MOST_TRIED {
                break;
            }
        }
        self.alike.entry(key).or_default().push(bit);
        bit
    }
}

impl Algebra for Sweep {
    type Bit = Bit;

    fn constant(&mut self, value: bool) -> Bit {
        self.graph.constant(value)
    }

    fn is_constant(&self, a: Bit, value: bool) -> bool {
        self.graph.is_constant(a, value)
    }

    fn not(&mut self, a: Bit) -> Bit {
        a.not()
    }

    fn and(&mut self, a: Bit, b: Bit) -> Bit {
        match self.graph.known(a, b) {
            Ok(bit) => bit,
            Err(reads) => self.add_and(reads),
        }
    }

    fn mux(&mut self, c: Bit, a: Bit, b: Bit) -> Bit {
        if a == b {
            return a;
        }
        let (left, right) = (self.and(c, a), self.and(c.not(), b));
        self.or(left, right)
    }

    /// The same unknown for the same operands, on both sides.
    fn whole(&mut self, f: Whole, fails: bool, a: Word<'_, Bit>, b: Word<'_, Bit>, d: &mut [Bit]) {
        let key = (f, fails, d.len(), a.canonical(), b.canonical());
        let number = self.calls.len();
        if let Some((first, bits)) = self.unknown.get(&key) {
            d.copy_from_slice(bits);
            self.calls.push(*first);
            return;
        }
        self.calls.push(number);
        self.work += A_CALL;
        let mut shown = vec![Vec::with_capacity(self.words); d.len()];
        for word in 0..self.words {
            let of =
                |bit: Bit| self.shown[bit.node() * self.words + word] ^ if bit.is_inverted() { u64::MAX } else { 0 };
            let mut values = to_numbers(a.bits.len(), |at| of(a.bit(at)));
            let others = to_numbers(b.bits.len(), |at| of(b.bit(at)));
            f.apply_each(fails, &mut values, &others);
            to_bits(values, d.len(), |at, bits| shown[at].push(bits));
        }
        for (d, shown) in d.iter_mut().zip(&shown) {
            *d = self.input(shown);
        }
        self.unknown.insert(key, (number, d.to_vec()));
    }
}
