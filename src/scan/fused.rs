//! The tape once more, for runs that nothing watches: two neighbouring operations that only combine numbers
//! ([`acts`](super::acts)) are one step, and so are such an operation and the jump behind it, and as many on BOOL values as a table tells
//! of ([`logic`](super::logic)). Memory is the same after each step as after the operations that it stands for, but for intermediate
//! values that nothing reads any more; where a program or a jump may come in, a step begins.

use super::acts::{Act, Choose, kind};
use super::logic::{self, Joined, Joins};
use super::op::{Leads, Op, Slot};
use super::run::{Goes, State, operate};
use super::tape::Tape;
use crate::model::ops::FaultKind;
use std::marker::PhantomData;

/// What a step works with: the slots of two operations, of which the last one may be the step that a jump leads to; or where a table
/// puts what it tells, by which slots it is found, and as the last number the table itself.
type Numbers = [u32; 2 + logic::MOST];

/// Does what a step stands for; true if it goes on at the step that is the last one of its slots.
type Run = fn(&mut [i64], &Numbers, i64) -> bool;

/// One or more operations.
#[derive(Clone, Copy, Debug)]
enum Step {
    /// Such that combine numbers, or jump.
    Combined { run: Run, numbers: Numbers },
    /// Any other one, with its place on the tape.
    Single { op: Op, at: u32 },
}

/// The steps of a tape.
#[derive(Clone, Debug)]
pub(crate) struct Fused {
    steps: Vec<Step>,
    /// Where each program begins, in the order of the entries.
    entries: Vec<u32>,
}

/// What comes second in a step.
trait Then {
    fn then(memory: &mut [i64], slots: [Slot; 3], now: i64) -> bool;
}

impl<A: Act> Then for A {
    #[inline(always)]
    fn then(memory: &mut [i64], slots: [Slot; 3], now: i64) -> bool {
        A::act(memory, slots, now);
        false
    }
}

/// No operation, as the first or the second of a step.
struct Nothing;

impl Act for Nothing {
    #[inline(always)]
    fn act(_: &mut [i64], _: [Slot; 3], _: i64) {}
}

/// A jump that is always taken, or by what the first of its slots holds.
struct Jump;
struct JumpIf;
struct JumpUnless;

impl Then for Jump {
    #[inline(always)]
    fn then(_: &mut [i64], _: [Slot; 3], _: i64) -> bool {
        true
    }
}

impl Then for JumpIf {
    #[inline(always)]
    fn then(memory: &mut [i64], [c, ..]: [Slot; 3], _: i64) -> bool {
        memory[c as usize] != 0
    }
}

impl Then for JumpUnless {
    #[inline(always)]
    fn then(memory: &mut [i64], [c, ..]: [Slot; 3], _: i64) -> bool {
        memory[c as usize] == 0
    }
}

fn both<A: Act, B: Then>(memory: &mut [i64], numbers: &Numbers, now: i64) -> bool {
    let [d, a, b, d2, a2, b2, _] = *numbers;
    A::act(memory, [d, a, b], now);
    B::then(memory, [d2, a2, b2], now)
}

/// Looks up what comes out for so many values.
fn look_up<const VALUES: usize>(memory: &mut [i64], numbers: &Numbers, _: i64) -> bool {
    let [d, values @ .., table] = numbers;
    let combination = values[..VALUES].iter().rev().fold(0, |all, slot| all << 1 | memory[*slot as usize]);
    memory[*d as usize] = i64::from(table >> (combination & 31) & 1);
    false
}

/// A table as a step.
fn looked_up(joined: &Joined) -> Step {
    let run = match joined.values.len() {
        0 => look_up::<0>,
        1 => look_up::<1>,
        2 => look_up::<2>,
        3 => look_up::<3>,
        4 => look_up::<4>,
        _ => look_up::<{ logic::MOST }>,
    };
    let mut numbers = [0; 2 + logic::MOST];
    (numbers[0], numbers[1 + logic::MOST]) = (joined.d, joined.table);
    numbers[1..].iter_mut().zip(&joined.values).for_each(|(number, slot)| *number = *slot);
    Step::Combined { run, numbers }
}

/// The first of a step is known.
struct First<A>(PhantomData<A>);

impl<A: Act> Choose for First<A> {
    type Chosen = Run;

    fn of<B: Act>(self) -> Run {
        both::<A, B>
    }
}

/// What comes behind the first of a step: an operation that combines numbers, a jump forward, or nothing.
struct Second(Option<Op>);

impl Choose for Second {
    /// What the step does, and the slots of the second operation.
    type Chosen = (Run, [Slot; 3]);

    fn of<A: Act>(self) -> (Run, [Slot; 3]) {
        match self.0 {
            Some(Op::Jump { to }) => (both::<A, Jump>, [0, 0, to]),
            Some(Op::JumpIf { c, to }) => (both::<A, JumpIf>, [c, 0, to]),
            Some(Op::JumpUnless { c, to }) => (both::<A, JumpUnless>, [c, 0, to]),
            other => match other.and_then(kind) {
                Some((second, slots)) => (second.chosen(First::<A>(PhantomData)), slots),
                None => (both::<A, Nothing>, [0; 3]),
            },
        }
    }
}

/// True for jumps forward.
const fn jumps(op: Op) -> bool {
    matches!(op.footprint().leads, Leads::Jump(_) | Leads::Branch(_))
}

impl Step {
    /// The operation at a place, with the next one where both can be one step; and how many these are.
    fn of(tape: &Tape, at: usize, begins: &[bool]) -> (Step, usize) {
        let op = tape.code[at];
        match kind(op) {
            Some((first, [d, a, b])) => {
                let next = tape.code.get(at + 1).copied().filter(|_| !begins[at + 1]);
                let next = next.filter(|next| kind(*next).is_some() || jumps(*next));
                let (run, [d2, a2, b2]) = first.chosen(Second(next));
                (Step::Combined { run, numbers: [d, a, b, d2, a2, b2, 0] }, 1 + usize::from(next.is_some()))
            }
            None if jumps(op) => {
                let (run, [c, other, to]) = Second(Some(op)).of::<Nothing>();
                (Step::Combined { run, numbers: [0, 0, 0, c, other, to, 0] }, 1)
            }
            None => (Step::Single { op, at: at as u32 }, 1),
        }
    }
}

impl Fused {
    pub(super) fn of(tape: &Tape) -> Fused {
        let mut begins = tape.landings();
        tape.entries.iter().for_each(|entry| begins[entry.start as usize] = true);
        let joins = Joins::of(tape, &begins);
        let mut steps = Vec::with_capacity(tape.code.len());
        // The step of each operation that begins one.
        let mut numbers = vec![0; tape.code.len() + 1];
        // Steps that jump, and the operation that each jumps to.
        let mut jumping = Vec::new();
        let mut at = 0;
        while at < tape.code.len() {
            numbers[at] = steps.len() as u32;
            let (step, operations) = match joins.from(at) {
                Some(joined) => (looked_up(&joined), joined.operations),
                None => Step::of(tape, at, &begins),
            };
            steps.push(step);
            at += operations;
            if let Some(to) = tape.code[at - 1].footprint().leads.landing() {
                jumping.push((steps.len() - 1, to));
            }
        }
        for (number, to) in jumping {
            let to = numbers[to as usize];
            match &mut steps[number] {
                Step::Combined { numbers: [.., last, _], .. } | Step::Single { op: Op::Back { to: last }, .. } => {
                    *last = to
                }
                Step::Single { .. } => {}
            }
        }
        let entries = tape.entries.iter().map(|entry| numbers[entry.start as usize]).collect();
        Fused { steps, entries }
    }

    /// Runs a program, by its number among the entries, to its end.
    ///
    /// # Errors
    /// The fault and the operation of the tape that raised it.
    pub(super) fn run(&self, tape: &Tape, state: &mut State, entry: usize) -> Result<(), (FaultKind, usize)> {
        let mut rest = self.steps[self.entries[entry] as usize..].iter();
        let (memory, mut around) = state.apart();
        let now = around.now;
        while let Some(step) = rest.next() {
            match step {
                Step::Combined { run, numbers } => {
                    if run(memory, numbers, now) {
                        rest = self.steps[numbers[5] as usize..].iter();
                    }
                }
                Step::Single { op, at } => match operate(tape, memory, &mut around, op) {
                    Ok(Goes::On) => {}
                    Ok(Goes::To(to)) => rest = self.steps[to as usize..].iter(),
                    Ok(Goes::Nowhere) => return Ok(()),
                    Err(kind) => return Err((kind, *at as usize)),
                },
            }
        }
        Ok(())
    }
}
