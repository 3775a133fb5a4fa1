//! Watchers that a circuit carries along: how far apart the changes of an output are, and rules that speak of times.
//!
//! They look at the end of a scan when the next one has begun, as only then it is known how long it took. A loss of power
//! does not touch them: who watches remembers.

use crate::circuit::{Gate, Net, Node, RegId};
use crate::model::IntShape;

/// Changes of one side that may wait for their counterparts at a time. More are not held, and so not proved.
const QUEUE: usize = 2;

/// What one side shows at the end of a scan.
pub(in crate::twin) struct Shown {
    pub(in crate::twin) value: Node,
    /// Whether it counts: a scan has run since power-up.
    pub(in crate::twin) counts: Node,
    /// What it is before anything has run.
    pub(in crate::twin) initial: i64,
}

/// What an expression of a rule gives at the end of a scan.
#[derive(Clone, Copy)]
pub(in crate::twin) struct Told {
    pub(in crate::twin) value: Node,
    /// Whether it can be computed.
    pub(in crate::twin) has_value: Node,
}

/// A register of a watcher.
#[derive(Clone, Copy)]
struct Remembered {
    id: RegId,
    now: Node,
}

impl Remembered {
    fn new(net: &mut Net, initial: i64) -> Remembered {
        let (id, now) = net.register(initial, true, false);
        Remembered { id, now }
    }

    fn becomes(self, net: &mut Net, next: Node) {
        net.registers[self.id.0 as usize].next = next;
    }
}

/// A net, and the time since the scan before.
pub(in crate::twin) struct Watcher<'n> {
    pub(in crate::twin) net: &'n mut Net,
    pub(in crate::twin) dt: Node,
}

impl Watcher<'_> {
    /// What all scan times are a multiple of.
    fn step(&self) -> i64 {
        let step = match self.net.gate(self.dt) {
            Gate::Const(time) => time,
            Gate::Input(id) => self.net.inputs[id.0 as usize].step,
            Gate::Mul(_, _, by) => self.net.as_constant(by).unwrap_or(1),
            Gate::Reg(_)
            | Gate::And(..)
            | Gate::Or(..)
            | Gate::Xor(..)
            | Gate::Add(..)
            | Gate::Sub(..)
            | Gate::Div(..)
            | Gate::Mod(..)
            | Gate::Advance(..)
            | Gate::Wrap(..)
            | Gate::Eq(..)
            | Gate::Less(..)
            | Gate::Below(..)
            | Gate::Mux(..)
            | Gate::Min(..)
            | Gate::Max(..)
            | Gate::Shift(..)
            | Gate::Whole(..)
            | Gate::Fails(..) => 1,
        };
        step.max(1)
    }

    /// The shortest time that is longer than this.
    fn longer_than(&self, time: i64) -> i64 {
        let step = self.step();
        (time / step + 1) * step
    }

    /// What was so in the scan before; nothing before there was one.
    fn before(&mut self, node: Node) -> Node {
        let kept = Remembered::new(self.net, 0);
        kept.becomes(self.net, node);
        kept.now
    }

    /// An age, one scan on; it is not counted beyond `most`.
    fn older(&mut self, age: Node, most: Node) -> Node {
        let sum = self.net.add(Gate::Add(IntShape::LONG, age, self.dt));
        self.net.add(Gate::Min(sum, most))
    }

    fn differ(&mut self, a: Node, b: Node) -> Node {
        let same = self.net.equal(a, b);
        self.net.not(same)
    }

    /// Whether two sides show the same sequence of values, and each change has its counterpart at most `most`
    /// nanoseconds away (SEMANTICS section 6). FALSE as well where more changes wait than are held.
    pub(in crate::twin) fn within(&mut self, sides: [Shown; 2], most: i64) -> Node {
        let initial = [sides[0].initial, sides[1].initial];
        let begun = self.net.and(sides[0].counts, sides[1].counts);
        let [a, b] = sides.map(|side| {
            let kept = Remembered::new(self.net, side.initial);
            let next = self.net.mux(side.counts, side.value, kept.now);
            kept.becomes(self.net, next);
            kept.now
        });
        if initial[0] == initial[1] {
            let known = self.net.bool(true);
            return self.follow([a, b], known, initial[0], most);
        }
        // Where they are not the same before anything has run, the first value of each is a change from nothing.
        let begun = self.before(begun);
        let known = Remembered::new(self.net, 0);
        let next = self.net.or(known.now, begun);
        known.becomes(self.net, next);
        let fine = self.follow([a, b], known.now, initial[0], most);
        let first = self.net.not(known.now);
        let first = self.net.and(first, begun);
        let apart = self.differ(a, b);
        let wrong = self.net.and(first, apart);
        let right = self.net.not(wrong);
        self.net.and(fine, right)
    }

    /// The changes of both, one against the other, from when they are `known`.
    ///
    /// What both have shown last is the base. Changes of the side that is ahead wait behind it, each with its age; a
    /// place that is free holds what the one before it holds, so that no bit is needed for which are taken.
    fn follow(&mut self, [a, b]: [Node; 2], known: Node, initial: i64, most: i64) -> Node {
        let zero = self.net.constant(0);
        let late = self.longer_than(most);
        let late = self.net.constant(late);
        let base = Remembered::new(self.net, initial);
        let right_leads = Remembered::new(self.net, 0);
        let queue = [(); QUEUE].map(|()| (Remembered::new(self.net, initial), Remembered::new(self.net, 0)));
        let none = self.net.equal(queue[0].0.now, base.now);
        let left_rests = self.net.equal(a, base.now);
        let leads = self.net.mux(none, left_rests, right_leads.now);
        let (ahead, behind) = (self.net.mux(leads, b, a), self.net.mux(leads, a, b));
        // All that wait now, what has just changed among them.
        let mut waiting: Vec<(Node, Node)> = Vec::new();
        let mut last = base.now;
        for (value, age) in &queue {
            let taken = self.differ(value.now, last);
            let older = self.older(age.now, late);
            waiting.push((self.net.mux(taken, value.now, ahead), self.net.mux(taken, older, zero)));
            last = value.now;
        }
        let too_many = self.differ(ahead, waiting[QUEUE - 1].0);
        waiting.push((ahead, zero));
        let meets = self.differ(behind, base.now);
        let other = self.differ(behind, waiting[0].0);
        let stays = self.net.not(meets);
        let in_time = self.net.add(Gate::Less(waiting[0].1, late));
        let wrong = [self.net.and(meets, other), self.net.and(stays, too_many), self.net.not(in_time)];
        // Until it is known what to begin with nothing waits.
        let next_base = self.net.mux(meets, waiting[0].0, base.now);
        let next_base = self.net.mux(known, next_base, a);
        base.becomes(self.net, next_base);
        for (at, (value, age)) in queue.iter().enumerate() {
            let (here, after) = (waiting[at], waiting[at + 1]);
            let next = self.net.mux(meets, after.0, here.0);
            let next = self.net.mux(known, next, a);
            value.becomes(self.net, next);
            let next = self.net.mux(meets, after.1, here.1);
            let next = self.net.mux(known, next, zero);
            age.becomes(self.net, next);
        }
        let next_first = self.net.registers[queue[0].0.id.0 as usize].next;
        let waits = self.differ(next_first, next_base);
        let next = self.net.and(leads, waits);
        right_leads.becomes(self.net, next);
        let wrong = wrong.into_iter().fold(zero, |all, one| self.net.or(all, one));
        let wrong = self.net.and(known, wrong);
        self.net.not(wrong)
    }

    /// Whether an expression that has become TRUE stayed so for `least` nanoseconds. `asked` is whether the version runs.
    pub(in crate::twin) fn lasts(&mut self, told: Told, asked: Node, least: i64) -> Node {
        let Turn { was, rises, falls, .. } = self.turn(told, asked);
        let zero = self.net.constant(0);
        let enough = self.longer_than(least - 1);
        let enough = self.net.constant(enough);
        let age = Remembered::new(self.net, 0);
        let older = self.older(age.now, enough);
        let next = self.net.mux(rises, zero, older);
        let next = self.net.mux(was, next, zero);
        age.becomes(self.net, next);
        let early = self.net.add(Gate::Less(older, enough));
        let wrong = self.net.and(falls, early);
        self.net.not(wrong)
    }

    /// Whether the second expression is TRUE at most `most` nanoseconds after the first has become TRUE, or the first is
    /// FALSE again by then.
    pub(in crate::twin) fn after(&mut self, cause: Told, effect: Told, asked: Node, most: i64) -> Node {
        let met = self.net.and(effect.value, effect.has_value);
        let met = self.before(met);
        let Turn { asked, is, rises, .. } = self.turn(cause, asked);
        let zero = self.net.constant(0);
        let late = self.longer_than(most);
        let late = self.net.constant(late);
        let (owed, age) = (Remembered::new(self.net, 0), Remembered::new(self.net, 0));
        let ended = self.net.not(is);
        let paid = self.net.or(ended, met);
        let paid = self.net.and(asked, paid);
        let open = self.net.not(paid);
        let due = self.net.or(owed.now, rises);
        let due = self.net.and(due, open);
        owed.becomes(self.net, due);
        let older = self.older(age.now, late);
        let older = self.net.mux(rises, zero, older);
        let next = self.net.mux(due, older, zero);
        age.becomes(self.net, next);
        let in_time = self.net.add(Gate::Less(older, late));
        let too_late = self.net.not(in_time);
        let wrong = self.net.and(due, too_late);
        let wrong = self.net.and(asked, wrong);
        self.net.not(wrong)
    }

    /// Whether an expression is TRUE, and has become so or ceased to be; what cannot be computed stays as it was.
    fn turn(&mut self, told: Told, asked: Node) -> Turn {
        let (value, has_value) = (self.before(told.value), self.before(told.has_value));
        let asked = self.before(asked);
        let was = Remembered::new(self.net, 0);
        let is = self.net.mux(has_value, value, was.now);
        let next = self.net.mux(asked, is, was.now);
        was.becomes(self.net, next);
        let (not, was_not) = (self.net.not(is), self.net.not(was.now));
        let (rises, falls) = (self.net.and(is, was_not), self.net.and(not, was.now));
        Turn { asked, is, was: next, rises: self.net.and(asked, rises), falls: self.net.and(asked, falls) }
    }
}

/// What an expression does.
struct Turn {
    asked: Node,
    is: Node,
    /// What it is taken for in the next scan.
    was: Node,
    rises: Node,
    falls: Node,
}
