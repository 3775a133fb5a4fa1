//! Running the tape: one pass over a program.

use super::acts::{self, Act};
use super::op::{One, Op, Slot};
use super::seen::Seen;
use super::tape::{Dimension, Tape};
use crate::model::functions;
use crate::model::ops::{self, BinaryOp, FaultKind, Precision};
use indexmap::IndexSet;

/// What the tape works on.
#[derive(Clone)]
pub(super) struct State {
    pub(super) memory: Vec<i64>,
    /// Strings by number; equal strings have equal numbers.
    pub(super) texts: IndexSet<String>,
    /// Nanoseconds since power-up, at the start of this scan.
    pub(super) now: i64,
    /// Nanoseconds since the start of the previous scan.
    pub(super) since_last: i64,
    pub(super) first_scan: bool,
    /// Rounds of loops left in this scan.
    pub(super) rounds: u64,
}

/// What watches a run closely; the plain run compiles to nothing of it.
pub(super) trait Watch {
    /// Before an operation runs: what it is about to read.
    #[inline(always)]
    fn before(&mut self, _: &[i64], _: usize, _: &Op) {}
    /// After an operation that ran and did not jump.
    fn after(&mut self, tape: &Tape, memory: &mut [i64], at: usize, op: &Op);
}

/// Watches nothing.
pub(super) struct Unwatched;

impl Watch for Unwatched {
    #[inline(always)]
    fn after(&mut self, _: &Tape, _: &mut [i64], _: usize, _: &Op) {}
}

impl Watch for Seen {
    #[inline(always)]
    fn before(&mut self, memory: &[i64], at: usize, op: &Op) {
        self.look(memory, at, *op);
    }

    #[inline(always)]
    fn after(&mut self, _: &Tape, _: &mut [i64], _: usize, _: &Op) {}
}

/// The slots that an operation has written: the first and how many.
pub(super) fn written(tape: &Tape, memory: &[i64], op: Op) -> Option<(Slot, u32)> {
    op.footprint().writes.map(|area| area.moved(&tape.blocks, memory))
}

/// Holds forced variables at their values, and notes which operation wrote a slot last.
#[derive(Clone, Default)]
pub(super) struct Closely {
    pub(super) forced: Vec<(Slot, i64)>,
    /// Of inputs that are forced: what they are given meanwhile.
    pub(super) given: Vec<(Slot, i64)>,
    pub(super) writers: Option<std::collections::HashMap<Slot, u32>>,
}

impl Watch for Closely {
    fn after(&mut self, tape: &Tape, memory: &mut [i64], at: usize, op: &Op) {
        for (slot, value) in &self.forced {
            memory[*slot as usize] = *value;
        }
        let Some(writers) = &mut self.writers else { return };
        let Some((first, count)) = written(tape, memory, *op) else { return };
        for slot in first..first + count {
            writers.insert(slot, at as u32);
        }
    }
}

/// What operations look at beside memory.
pub(super) struct Around<'s> {
    texts: &'s mut IndexSet<String>,
    pub(super) now: i64,
    since_last: i64,
    first_scan: bool,
    rounds: &'s mut u64,
}

impl State {
    /// Taken apart once: where memory lies need not be looked up for each operation.
    #[inline(always)]
    pub(super) fn apart(&mut self) -> (&mut [i64], Around<'_>) {
        let State { memory, texts, now, since_last, first_scan, rounds } = self;
        (memory, Around { texts, now: *now, since_last: *since_last, first_scan: *first_scan, rounds })
    }
}

/// Where it goes on behind an operation.
pub(super) enum Goes {
    /// At the next one.
    On,
    To(u32),
    /// The program is at its end.
    Nowhere,
}

/// Runs from `start` to the end of the program.
///
/// # Errors
/// The fault and the operation that raised it.
pub(super) fn run<W: Watch>(
    tape: &Tape,
    state: &mut State,
    start: u32,
    watch: &mut W,
) -> Result<(), (FaultKind, usize)> {
    let code = tape.code.as_slice();
    // What is still to run, up to the end or the next jump.
    let mut rest = code[start as usize..].iter();
    let (memory, mut around) = state.apart();
    // An operation is read in place: a copy would take all its parts apart, whichever it is.
    while let Some(op) = rest.next() {
        let at = code.len() - rest.len() - 1;
        watch.before(memory, at, op);
        match operate(tape, memory, &mut around, op) {
            Ok(Goes::On) => watch.after(tape, memory, at, op),
            Ok(Goes::To(to)) => rest = code[to as usize..].iter(),
            Ok(Goes::Nowhere) => return Ok(()),
            Err(kind) => return Err((kind, at)),
        }
    }
    Ok(())
}

/// Does one operation, wherever that is done: by itself, or among the steps of [`fused`](super::fused).
///
/// # Errors
/// The fault that ends the scan here.
#[inline(always)]
pub(super) fn operate(tape: &Tape, m: &mut [i64], around: &mut Around<'_>, op: &Op) -> Result<Goes, FaultKind> {
    let now = around.now;
    macro_rules! get {
        ($slot:expr) => {
            m[$slot as usize]
        };
    }
    match *op {
        Op::Move { d, a } => acts::Move::act(m, [d, a, a], now),
        Op::MoveIf { d, c, a } if get!(c) != 0 => get!(d) = get!(a),
        Op::MoveIf { .. } => {}
        Op::NotBool { d, a } => acts::NotBool::act(m, [d, a, a], now),
        Op::And { d, a, b } => acts::And::act(m, [d, a, b], now),
        Op::Or { d, a, b } => acts::Or::act(m, [d, a, b], now),
        Op::Xor { d, a, b } => acts::Xor::act(m, [d, a, b], now),
        Op::AndNot { d, a, b } => acts::AndNot::act(m, [d, a, b], now),
        Op::OrNot { d, a, b } => acts::OrNot::act(m, [d, a, b], now),
        Op::Add { s, d, a, b } => get!(d) = ops::add(s, get!(a), get!(b)),
        Op::Sub { s, d, a, b } => get!(d) = ops::sub(s, get!(a), get!(b)),
        Op::Mul { s, d, a, b } => get!(d) = ops::mul(s, get!(a), get!(b)),
        Op::Mod { s, d, a, b } => get!(d) = ops::modulo(s, get!(a), get!(b)),
        Op::Eq { d, a, b } => acts::Eq::act(m, [d, a, b], now),
        Op::Ne { d, a, b } => acts::Ne::act(m, [d, a, b], now),
        Op::Lt { d, a, b } => acts::Lt::act(m, [d, a, b], now),
        Op::Le { d, a, b } => acts::Le::act(m, [d, a, b], now),
        Op::LtUnsigned { d, a, b } => acts::LtUnsigned::act(m, [d, a, b], now),
        Op::LeUnsigned { d, a, b } => acts::LeUnsigned::act(m, [d, a, b], now),
        Op::Min { d, a, b } => acts::Min::act(m, [d, a, b], now),
        Op::Max { d, a, b } => acts::Max::act(m, [d, a, b], now),
        Op::Jump { to } => return Ok(Goes::To(to)),
        Op::JumpIf { c, to } if get!(c) != 0 => return Ok(Goes::To(to)),
        Op::JumpUnless { c, to } if get!(c) == 0 => return Ok(Goes::To(to)),
        Op::JumpIf { .. } | Op::JumpUnless { .. } => {}
        Op::Back { .. } if *around.rounds == 0 => return Err(FaultKind::LoopLimit),
        Op::Back { to } => {
            *around.rounds -= 1;
            return Ok(Goes::To(to));
        }
        Op::Load { d, base, off } => get!(d) = get!(base as i64 + get!(off)),
        Op::Store { base, off, a } => get!(base as i64 + get!(off)) = get!(a),
        Op::Restart { d } => acts::Restart::act(m, [d, d, d], now),
        Op::Since { d, a } => acts::Since::act(m, [d, a, a], now),
        Op::Div { s, d, a, b } => get!(d) = ops::div(s, get!(a), get!(b))?,
        Op::Real { op, precision, d, a, b } => get!(d) = ops::real(op, precision, get!(a), get!(b)),
        Op::ScaleTime { op, d, a, b } => get!(d) = ops::scale_time(op, get!(a), get!(b))?,
        Op::Shift { k, s, d, a, b } => get!(d) = functions::shift(k, s, get!(a), get!(b))?,
        Op::One { f, d, a } => get!(d) = one(f, get!(a))?,
        Op::Bound { a, range } => bound(tape.ranges[range as usize], get!(a))?,
        Op::Index { d, a, dim } => get!(d) += index(tape.dimensions[dim as usize], get!(a))?,
        Op::Copy { d, a, n } => copy(m, a.into(), d.into(), n),
        Op::LoadBlock { d, off, block } => {
            let (base, n) = tape.blocks[block as usize];
            copy(m, i64::from(base) + get!(off), d.into(), n);
        }
        Op::StoreBlock { a, off, block } => {
            let (base, n) = tape.blocks[block as usize];
            copy(m, a.into(), i64::from(base) + get!(off), n);
        }
        Op::RestartAt { base, off } => get!(base as i64 + get!(off)) = now,
        Op::FirstScan { d } => get!(d) = i64::from(around.first_scan),
        Op::ScanTime { d } => get!(d) = around.since_last,
        Op::Ticks { d, a } => get!(d) = ticks(now, around.since_last, get!(a)),
        Op::Text { op, d, a, b } => get!(d) = i64::from(compare(around.texts, op, get!(a), get!(b))),
        Op::Cut { d, a, length } => get!(d) = cut(around.texts, get!(a), length),
        Op::End => return Ok(Goes::Nowhere),
    }
    Ok(Goes::On)
}

// What is seldom is kept out of what is above, which so stays small.

#[inline(never)]
fn bound((low, high): (i64, i64), value: i64) -> Result<(), FaultKind> {
    if (low..=high).contains(&value) { Ok(()) } else { Err(FaultKind::OutOfRange) }
}

/// How far an index leads into an array.
#[inline(never)]
fn index(dim: Dimension, index: i64) -> Result<i64, FaultKind> {
    if (dim.low..=dim.high).contains(&index) { Ok((index - dim.low) * dim.stride) } else { Err(FaultKind::Index) }
}

#[inline(never)]
fn copy(memory: &mut [i64], from: i64, to: i64, count: u32) {
    let from = from as usize;
    memory.copy_within(from..from + count as usize, to as usize);
}

/// Ticks of a base that fell since the start of the previous scan.
#[inline(never)]
fn ticks(now: i64, since_last: i64, base: i64) -> i64 {
    let ticks = if base > 0 { now / base - (now - since_last) / base } else { 0 };
    ticks.min(i64::from(i32::MAX))
}

#[inline(never)]
fn compare(texts: &IndexSet<String>, op: BinaryOp, a: i64, b: i64) -> bool {
    op.holds(texts.get_index(a as usize).cmp(&texts.get_index(b as usize)))
}

/// The number of a text cut to so many characters.
#[inline(never)]
fn cut(texts: &mut IndexSet<String>, text: i64, length: u32) -> i64 {
    let text = texts.get_index(text as usize).map_or("", String::as_str);
    let cut: String = text.chars().take(length as usize).collect();
    texts.insert_full(cut).0 as i64
}

#[inline(never)]
fn one(f: One, a: i64) -> Result<i64, FaultKind> {
    Ok(match f {
        One::Negate(elem) => ops::negate(elem, a),
        One::Not(shape) => ops::not(shape, a),
        One::Abs(elem) => match elem.shape() {
            Some(shape) if shape.signed && a < 0 => ops::negate(elem, a),
            Some(_) => a,
            None => ops::round(Precision::Double, f64::from_bits(a as u64).abs()).to_bits() as i64,
        },
        One::Real(f, precision) => ops::round(precision, functions::real(f, f64::from_bits(a as u64))).to_bits() as i64,
        One::Convert(from, to) => functions::convert(from, to, a)?,
        One::Truncate(to) => functions::truncate(to, a)?,
        One::FromBcd(to) => functions::from_bcd(to, a)?,
        One::ToBcd(from, to) => functions::to_bcd(from, to, a)?,
    })
}
