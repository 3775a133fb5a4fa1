//! Running the tape: one pass over a program.

use super::seen::Seen;
use super::tape::{One, Op, Slot, Tape};
use crate::model::IntShape;
use crate::model::functions;
use crate::model::ops::{self, BinaryOp, FaultKind};

/// What the tape works on.
#[derive(Clone)]
pub(super) struct State {
    pub(super) memory: Vec<i64>,
    /// Strings by number; equal strings have equal numbers.
    pub(super) texts: indexmap::IndexSet<String>,
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
    fn before(&mut self, _: &[i64], _: usize, _: Op) {}
    /// After an operation that ran and did not jump.
    fn after(&mut self, state: &mut State, at: usize, op: Op);
}

/// Watches nothing.
pub(super) struct Unwatched;

impl Watch for Unwatched {
    #[inline(always)]
    fn after(&mut self, _: &mut State, _: usize, _: Op) {}
}

impl Watch for Seen {
    #[inline(always)]
    fn before(&mut self, memory: &[i64], at: usize, op: Op) {
        self.look(memory, at, op);
    }

    #[inline(always)]
    fn after(&mut self, _: &mut State, _: usize, _: Op) {}
}

/// The slots that an operation has written.
pub(super) fn written(state: &State, op: Op) -> Option<(Slot, u32)> {
    match op {
        Op::Store { base, off, .. } => Some((base + state.memory[off as usize] as u32, 1)),
        Op::Copy { d, n, .. } => Some((d, n)),
        _ => op.target().map(|d| (d, 1)),
    }
}

/// Holds forced variables at their values, and notes which operation wrote a slot last.
#[derive(Default)]
pub(super) struct Closely {
    pub(super) forced: Vec<(Slot, i64)>,
    /// Of inputs that are forced: what they are given meanwhile.
    pub(super) given: Vec<(Slot, i64)>,
    pub(super) writers: Option<std::collections::HashMap<Slot, u32>>,
}

impl Watch for Closely {
    fn after(&mut self, state: &mut State, at: usize, op: Op) {
        for (slot, value) in &self.forced {
            state.memory[*slot as usize] = *value;
        }
        let Some(writers) = &mut self.writers else { return };
        let Some((first, count)) = written(state, op) else { return };
        for slot in first..first + count {
            writers.insert(slot, at as u32);
        }
    }
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
    let mut at = start as usize;
    let code = tape.code.as_slice();
    loop {
        let op = code[at];
        watch.before(&state.memory, at, op);
        let m = state.memory.as_mut_slice();
        macro_rules! get {
            ($slot:expr) => {
                m[$slot as usize]
            };
        }
        macro_rules! jump {
            ($to:expr) => {{
                at = $to as usize;
                continue;
            }};
        }
        match op {
            Op::Move { d, a } => get!(d) = get!(a),
            Op::MoveIf { d, c, a } => {
                if get!(c) != 0 {
                    get!(d) = get!(a);
                }
            }
            Op::NotBool { d, a } => get!(d) = get!(a) ^ 1,
            Op::And { d, a, b } => get!(d) = get!(a) & get!(b),
            Op::Or { d, a, b } => get!(d) = get!(a) | get!(b),
            Op::Xor { d, a, b } => get!(d) = get!(a) ^ get!(b),
            Op::AndNot { d, a, b } => get!(d) = get!(a) & (get!(b) ^ 1),
            Op::OrNot { d, a, b } => get!(d) = get!(a) | (get!(b) ^ 1),
            Op::Add { s, d, a, b } => get!(d) = ops::add(s, get!(a), get!(b)),
            Op::Sub { s, d, a, b } => get!(d) = ops::sub(s, get!(a), get!(b)),
            Op::Mul { s, d, a, b } => get!(d) = ops::mul(s, get!(a), get!(b)),
            Op::Mod { s, d, a, b } => get!(d) = ops::modulo(s, get!(a), get!(b)),
            Op::Eq { d, a, b } => get!(d) = i64::from(get!(a) == get!(b)),
            Op::Ne { d, a, b } => get!(d) = i64::from(get!(a) != get!(b)),
            Op::Lt { d, a, b } => get!(d) = i64::from(ops::less(IntShape::LONG, get!(a), get!(b))),
            Op::Le { d, a, b } => get!(d) = i64::from(!ops::less(IntShape::LONG, get!(b), get!(a))),
            Op::LtUnsigned { d, a, b } => get!(d) = i64::from(ops::less(UNSIGNED, get!(a), get!(b))),
            Op::LeUnsigned { d, a, b } => get!(d) = i64::from(!ops::less(UNSIGNED, get!(b), get!(a))),
            Op::Min { d, a, b } => get!(d) = get!(a).min(get!(b)),
            Op::Max { d, a, b } => get!(d) = get!(a).max(get!(b)),
            Op::Jump { to } => jump!(to),
            Op::JumpIf { c, to } => {
                if get!(c) != 0 {
                    jump!(to)
                }
            }
            Op::JumpUnless { c, to } => {
                if get!(c) == 0 {
                    jump!(to)
                }
            }
            Op::Back { to } => {
                if state.rounds == 0 {
                    return Err((FaultKind::LoopLimit, at));
                }
                state.rounds -= 1;
                jump!(to)
            }
            Op::Load { d, base, off } => get!(d) = get!(base as i64 + get!(off)),
            Op::Store { base, off, a } => get!(base as i64 + get!(off)) = get!(a),
            Op::Restart { d } => get!(d) = state.now,
            Op::Since { d, a } => get!(d) = state.now - get!(a),
            Op::End => return Ok(()),
            _ => rare(tape, state, op).map_err(|fault| (fault, at))?,
        }
        watch.after(state, at, op);
        at += 1;
    }
}

const UNSIGNED: IntShape = IntShape { bits: 64, signed: false };

/// Operations that are seldom, large or may fault.
fn rare(tape: &Tape, state: &mut State, op: Op) -> Result<(), FaultKind> {
    let (first_scan, since_last, now) = (state.first_scan, state.since_last, state.now);
    let m = state.memory.as_mut_slice();
    let get = |slot: Slot, m: &[i64]| m[slot as usize];
    match op {
        Op::Div { s, d, a, b } => m[d as usize] = ops::div(s, get(a, m), get(b, m))?,
        Op::Real { op, single, d, a, b } => m[d as usize] = ops::real(op, single, get(a, m), get(b, m)),
        Op::ScaleTime { op, d, a, b } => m[d as usize] = ops::scale_time(op, get(a, m), get(b, m))?,
        Op::Shift { k, s, d, a, b } => m[d as usize] = functions::shift(k, s, get(a, m), get(b, m))?,
        Op::One { f, d, a } => m[d as usize] = one(f, get(a, m))?,
        Op::Bound { a, range } => {
            let (low, high) = tape.ranges[range as usize];
            if !(low..=high).contains(&get(a, m)) {
                return Err(FaultKind::OutOfRange);
            }
        }
        Op::Index { d, a, dim } => {
            let dim = tape.dimensions[dim as usize];
            let index = get(a, m);
            if !(dim.low..=dim.high).contains(&index) {
                return Err(FaultKind::Index);
            }
            m[d as usize] += (index - dim.low) * dim.stride;
        }
        Op::Copy { d, a, n } => m.copy_within(a as usize..(a + n) as usize, d as usize),
        Op::LoadBlock { d, off, block } => {
            let (base, n) = tape.blocks[block as usize];
            let from = base as usize + get(off, m) as usize;
            m.copy_within(from..from + n as usize, d as usize);
        }
        Op::StoreBlock { a, off, block } => {
            let (base, n) = tape.blocks[block as usize];
            let to = base as usize + get(off, m) as usize;
            m.copy_within(a as usize..(a + n) as usize, to);
        }
        Op::RestartAt { base, off } => {
            let at = base as usize + get(off, m) as usize;
            m[at] = now;
        }
        Op::FirstScan { d } => m[d as usize] = i64::from(first_scan),
        Op::ScanTime { d } => m[d as usize] = since_last,
        Op::Ticks { d, a } => {
            let base = get(a, m);
            let ticks = if base > 0 { now / base - (now - since_last) / base } else { 0 };
            m[d as usize] = ticks.min(i64::from(i32::MAX));
        }
        Op::Text { op, d, a, b } => {
            let (x, y) = (get(a, m) as usize, get(b, m) as usize);
            let order = state.texts.get_index(x).cmp(&state.texts.get_index(y));
            m[d as usize] = i64::from(match op {
                BinaryOp::Eq => order.is_eq(),
                BinaryOp::Ne => order.is_ne(),
                BinaryOp::Lt => order.is_lt(),
                BinaryOp::Le => order.is_le(),
                BinaryOp::Gt => order.is_gt(),
                _ => order.is_ge(),
            });
        }
        Op::Cut { d, a, length } => {
            let text = state.texts.get_index(get(a, m) as usize).map_or("", String::as_str);
            let cut: String = text.chars().take(length as usize).collect();
            m[d as usize] = state.texts.insert_full(cut).0 as i64;
        }
        _ => {}
    }
    Ok(())
}

fn one(f: One, a: i64) -> Result<i64, FaultKind> {
    Ok(match f {
        One::Negate(elem) => ops::negate(elem, a),
        One::Not(shape) => ops::not(shape, a),
        One::Abs(elem) => match elem.shape() {
            Some(shape) if shape.signed && a < 0 => ops::negate(elem, a),
            Some(_) => a,
            None => f64::from_bits(a as u64).abs().to_bits() as i64,
        },
        One::Real(f, single) => ops::round(single, functions::real(f, f64::from_bits(a as u64))).to_bits() as i64,
        One::Convert(from, to) => functions::convert(from, to, a)?,
        One::Truncate(to) => functions::truncate(to, a)?,
        One::FromBcd(to) => functions::from_bcd(to, a)?,
        One::ToBcd(from, to) => functions::to_bcd(from, to, a)?,
    })
}
