//! From a checked project to the tape.

mod call;
mod expr;
mod list;
mod plants;
mod stmt;

use super::layout::{Layout, Memory};
use super::op::{Op, Slot};
use super::plants::{Laid, Wired, wire};
use super::points::{self, Point};
use super::tape::{Asked, Dimension, Entry, Reach, Tape};
use crate::check::typed::{Part, PathStep, Place, Root, Ty, UnitId};
use crate::check::{Checked, Probe};
use crate::model::functions::{Function, Shift};
use crate::model::{Edge, IntShape, Section};
use crate::source::Span;
use std::collections::HashMap;

/// Most operations of a tape; calls are laid out in line, so a project can outgrow it.
const MOST_OPERATIONS: usize = 1 << 22;

/// Why a checked project cannot run.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum BuildError {
    /// There is no PROGRAM in it.
    #[error("there is no PROGRAM to run")]
    NoProgram,
    /// A plant cannot be wired as it is to be.
    #[error("{0}")]
    Plant(String),
    /// Its variables need more than 16 million slots.
    #[error("the variables need more memory than there is (16 million values)")]
    Memory,
    /// A program writes what the outside gives before every scan: which of them a scan reads depends on the controller.
    #[error("`{0}` is given from outside, and a program writes it as well; give the outside a variable of its own")]
    InputWritten(String),
    /// The engine has no meaning for a function where it stands, which would be a mistake of ours.
    #[error("the engine cannot run `{0}` here")]
    Unknown(String),
    /// Laid out in line it has more than 4 million operations.
    #[error("the program has more than 4 million operations when its calls are laid out")]
    Size,
}

/// Where a value lies.
#[derive(Clone, Copy, Debug)]
enum Target {
    Fixed(Slot),
    /// At `base` plus the content of slot `off`, which is within a reach.
    Moved {
        base: Slot,
        off: Slot,
        reach: Reach,
    },
}

/// The unit being laid out.
struct Frame {
    unit: UnitId,
    base: Slot,
    /// What the caller passed for VAR_IN_OUT.
    shared: HashMap<u32, Target>,
    /// Jumps to the end of the unit.
    returns: Vec<usize>,
    /// Instruction list: the slots of the current results, innermost last.
    current: Vec<Slot>,
    /// Loops around the code at hand: where EXIT and CONTINUE jump from.
    loops: Vec<Loop>,
}

#[derive(Default)]
struct Loop {
    exits: Vec<usize>,
    continues: Vec<usize>,
}

pub(super) struct Compiler<'c> {
    checked: &'c Checked,
    /// The address of the bit that is TRUE in the first scan.
    flag: Option<String>,
    layout: Layout<'c>,
    memory: Memory,
    code: Vec<Op>,
    spans: Vec<Span>,
    asked: Vec<Asked>,
    /// What the next operation is asked for, if that is less than its statement.
    asks: Option<Asked>,
    selectors: Vec<Slot>,
    span: Span,
    /// False while a shipped block is laid out: its operations belong to the call.
    own_code: bool,
    constants: HashMap<i64, Slot>,
    temps: Vec<Slot>,
    temps_used: usize,
    ranges: Vec<(i64, i64)>,
    dimensions: Vec<Dimension>,
    blocks: Vec<(Slot, u32)>,
    reaches: HashMap<u32, Reach>,
    globals: Vec<Slot>,
    functions: HashMap<UnitId, Slot>,
    frame: Frame,
    too_large: bool,
    /// What there is no operation for.
    unknown: Option<Function>,
}

/// What the tape and the names on it come from.
pub(super) struct Compiled {
    pub(super) tape: Tape,
    pub(super) globals: Vec<Slot>,
    /// Base of each program's variables.
    pub(super) programs: Vec<Slot>,
    pub(super) points: Vec<Point>,
    pub(super) plants: Vec<Wired>,
}

/// Compiles a project.
pub(super) fn compile(checked: &Checked, probes: &[Probe]) -> Result<Compiled, BuildError> {
    if checked.programs.is_empty() {
        return Err(BuildError::NoProgram);
    }
    let layout = Layout::new(checked).ok_or(BuildError::Memory)?;
    let mut compiler = Compiler::new(checked, layout);
    compiler.memory.text("");
    compiler.globals();
    let mut entries = Vec::new();
    let mut programs = Vec::new();
    for program in &checked.programs {
        let base = compiler.memory.grow(compiler.layout.unit_size(program.unit) as u32);
        compiler.layout.init_unit(&mut compiler.memory, program.unit, base, false);
        programs.push(base);
    }
    let mut points = points::list(checked, &compiler.globals, &programs);
    let Compiler { layout, memory, globals, .. } = &mut compiler;
    let plants = wire(&mut Laid { checked, layout, memory, globals }, &mut points)?;
    for (program, base) in checked.programs.iter().zip(&programs) {
        entries.push(Entry { start: compiler.code.len() as u32, interval: program.interval });
        compiler.first_scan(&checked.globals, &compiler.globals.clone());
        compiler.unit_body(program.unit, *base, HashMap::new());
        compiler.emit(Op::End);
    }
    let own_end = compiler.here();
    let mut behind = compiler.plants(&plants).into_iter();
    entries.splice(0..0, behind.next());
    entries.extend(behind);
    let probes = compiler.probes(probes, &programs);
    if compiler.too_large {
        return Err(BuildError::Size);
    }
    if let Some(function) = compiler.unknown {
        return Err(BuildError::Unknown(function.name()));
    }
    let tape = Tape {
        code: compiler.code,
        spans: compiler.spans,
        asked: compiler.asked,
        selectors: compiler.selectors,
        constants: compiler.constants.values().copied().collect(),
        temporaries: compiler.temps.iter().copied().collect(),
        probes,
        entries,
        own_end,
        lasting: plants.iter().flat_map(|wires| wires.memory.iter().cloned()).collect(),
        image: compiler.memory.image,
        retained: compiler.memory.retained,
        watches: compiler.memory.watches.into_iter().collect(),
        ranges: compiler.ranges,
        dimensions: compiler.dimensions,
        blocks: compiler.blocks,
        reaches: compiler.reaches,
        texts: compiler.memory.texts.into_iter().collect(),
        read: std::sync::OnceLock::new(),
        fused: std::sync::OnceLock::new(),
    };
    let plants = plants.into_iter().map(|wires| wires.told).collect();
    Ok(Compiled { tape, globals: compiler.globals, programs, points, plants })
}

impl<'c> Compiler<'c> {
    fn new(checked: &'c Checked, layout: Layout<'c>) -> Self {
        let nowhere = Span { file: crate::source::FileId(u32::MAX), start: 0, end: 0 };
        let frame = Frame {
            unit: checked.programs[0].unit,
            base: 0,
            shared: HashMap::new(),
            returns: Vec::new(),
            current: Vec::new(),
            loops: Vec::new(),
        };
        Compiler {
            checked,
            flag: checked.project().library.as_ref().and_then(|library| library.sheet.first_scan_address()),
            layout,
            memory: Memory::default(),
            code: Vec::new(),
            spans: Vec::new(),
            asked: Vec::new(),
            asks: None,
            selectors: Vec::new(),
            span: nowhere,
            own_code: true,
            constants: HashMap::new(),
            temps: Vec::new(),
            temps_used: 0,
            ranges: Vec::new(),
            dimensions: Vec::new(),
            blocks: Vec::new(),
            reaches: HashMap::new(),
            globals: Vec::new(),
            functions: HashMap::new(),
            frame,
            too_large: false,
            unknown: None,
        }
    }

    fn globals(&mut self) {
        for var in &self.checked.globals {
            let size = self.layout.size(&var.ty) as u32;
            let at = self.memory.grow(size);
            let retained = var.retain == crate::model::Retain::Retain;
            self.layout.init(&mut self.memory, &var.ty, &var.init, at, retained);
            self.globals.push(at);
        }
    }

    fn emit(&mut self, op: Op) -> usize {
        if self.code.len() >= MOST_OPERATIONS {
            self.too_large = true;
            return 0;
        }
        self.code.push(op);
        self.spans.push(self.span);
        let plain = Asked { span: self.span, logical: false };
        self.asked.push(self.asks.take().unwrap_or(plain));
        self.code.len() - 1
    }

    /// An operation on memory that is moved by an offset.
    fn emit_moved(&mut self, op: Op, reach: Reach) -> usize {
        let at = self.emit(op);
        self.reaches.insert(at as u32, reach);
        at
    }

    /// Says what the next operation is asked for.
    fn ask(&mut self, span: Span, logical: bool) {
        self.asks = Some(Asked { span, logical });
    }

    /// Lays out expressions that are asked between scans, each as a little program of its own.
    fn probes(&mut self, probes: &[Probe], programs: &[Slot]) -> Vec<(u32, Slot)> {
        let mut out = Vec::new();
        for probe in probes {
            self.frame.unit = self.checked.programs[probe.program].unit;
            self.frame.base = programs[probe.program];
            let start = self.here();
            let value = self.expr(&probe.expr);
            // A slot of its own: temporaries belong to whoever comes next.
            let d = self.memory.grow(1);
            self.emit(Op::Move { d, a: value });
            self.emit(Op::End);
            out.push((start, d));
        }
        out
    }

    fn here(&self) -> u32 {
        self.code.len() as u32
    }

    /// Lets a jump go to the next operation.
    fn land(&mut self, jump: usize) {
        let here = self.here();
        if let Some(Op::Jump { to } | Op::JumpIf { to, .. } | Op::JumpUnless { to, .. }) = self.code.get_mut(jump) {
            *to = here;
        }
    }

    fn land_all(&mut self, jumps: Vec<usize>) {
        for jump in jumps {
            self.land(jump);
        }
    }

    /// A slot that holds a constant.
    fn constant(&mut self, value: i64) -> Slot {
        if let Some(&slot) = self.constants.get(&value) {
            return slot;
        }
        let slot = self.memory.grow(1);
        self.memory.image[slot as usize] = value;
        self.constants.insert(value, slot);
        slot
    }

    /// A slot for an intermediate value; free again at the end of the statement.
    fn temp(&mut self) -> Slot {
        if self.temps_used == self.temps.len() {
            let slot = self.memory.grow(1);
            self.temps.push(slot);
        }
        self.temps_used += 1;
        self.temps[self.temps_used - 1]
    }

    fn at(&mut self, span: Span) {
        if self.own_code {
            self.span = span;
        }
    }

    /// Lays out the body of a unit whose variables begin at `base`.
    fn unit_body(&mut self, unit: UnitId, base: Slot, shared: HashMap<u32, Target>) {
        if self.too_large {
            return;
        }
        let typed = self.checked.unit(unit);
        let frame = Frame { unit, base, shared, returns: Vec::new(), current: Vec::new(), loops: Vec::new() };
        let outer = std::mem::replace(&mut self.frame, frame);
        let (outer_own, outer_span) = (self.own_code, self.span);
        self.own_code &= !typed.built_in;
        self.fresh_temporaries(unit, base);
        if self.flag.is_some() {
            let own = (0..typed.vars.len()).map(|number| base + self.layout.offset(unit, number as u32));
            let own: Vec<Slot> = own.collect();
            self.first_scan(&typed.vars, &own);
        }
        self.edges(unit, base);
        match &typed.code {
            crate::check::typed::Code::Block(list) => self.block(list),
            crate::check::typed::Code::List(list) => self.body_list(list),
        }
        let returns = std::mem::take(&mut self.frame.returns);
        self.land_all(returns);
        self.frame = outer;
        self.own_code = outer_own;
        self.span = outer_span;
    }

    /// The bit that is TRUE in the first scan is written before what reads it.
    fn first_scan(&mut self, vars: &[crate::check::typed::Var], slots: &[Slot]) {
        for (var, slot) in vars.iter().zip(slots) {
            if var.global.is_none() && self.flag.is_some() && var.address == self.flag {
                self.emit(Op::FirstScan { d: *slot });
            }
        }
    }

    /// VAR_TEMP begins anew in each call.
    fn fresh_temporaries(&mut self, unit: UnitId, base: Slot) {
        let typed = self.checked.unit(unit);
        for (number, var) in typed.vars.iter().enumerate() {
            if var.section == Section::Temp && !var.constant {
                self.reset(unit, number as u32, base);
            }
        }
    }

    /// Inputs with R_EDGE or F_EDGE: what R_TRIG and F_TRIG would answer (their text is in `dialect/blocks`).
    fn edges(&mut self, unit: UnitId, base: Slot) {
        let typed = self.checked.unit(unit);
        for (number, var) in typed.vars.iter().enumerate() {
            let Some(edge) = var.edge else { continue };
            let at = |number: u32| base + self.layout.offset(unit, number);
            let (a, seen, memory) = (at(number as u32), at(edge.seen), at(edge.memory));
            let level = self.temp();
            self.emit(match edge.kind {
                Edge::Rising => Op::Move { d: level, a },
                Edge::Falling => Op::NotBool { d: level, a },
            });
            self.emit(Op::AndNot { d: seen, a: level, b: memory });
            self.emit(Op::Move { d: memory, a: level });
        }
    }

    /// Gives a variable its initial value again.
    fn reset(&mut self, unit: UnitId, number: u32, base: Slot) {
        let var = &self.checked.unit(unit).vars[number as usize];
        let size = self.layout.size(&var.ty) as u32;
        let to = base + self.layout.offset(unit, number);
        if size == 1 && !matches!(var.ty, Ty::Array(_) | Ty::Struct(_) | Ty::Block(_)) {
            let value = self.memory.image[to as usize];
            let slot = self.constant(value);
            self.emit(Op::Move { d: to, a: slot });
        } else {
            let copy = self.memory.grow(size);
            self.layout.init(&mut self.memory, &var.ty, &var.init, copy, false);
            self.emit(Op::Copy { d: to, a: copy, n: size });
        }
    }

    /// Where a place lies; computes indices that are not constant.
    fn target(&mut self, place: &Place) -> Target {
        let unit = self.frame.unit;
        let (mut target, mut ty) = match place.root {
            Root::Global(number) => {
                (Target::Fixed(self.globals[number as usize]), self.checked.globals[number as usize].ty.clone())
            }
            Root::Local(number) => {
                let var = &self.checked.unit(unit).vars[number as usize];
                let ty = var.ty.clone();
                let seen = var.edge.map_or(number, |edge| edge.seen);
                let own = Target::Fixed(self.frame.base + self.layout.offset(unit, seen));
                (self.frame.shared.get(&number).copied().unwrap_or(own), ty)
            }
        };
        for step in &place.steps {
            match step {
                PathStep::Field(field) => {
                    let (offset, field_ty) = self.layout.field(&ty, *field);
                    target = moved(target, offset);
                    ty = field_ty;
                }
                PathStep::Index(indices) => {
                    let Ty::Array(array) = ty.clone() else { return target };
                    let strides = self.layout.strides(&array);
                    for ((index, (low, high)), stride) in indices.iter().zip(&array.bounds).zip(strides) {
                        target = self.index(target, index, Dimension { low: *low, high: *high, stride });
                    }
                    ty = array.of.clone();
                }
                // The bits lie in the slot of the whole.
                PathStep::Part(_) => {}
            }
        }
        target
    }

    /// What is in the bits of a word.
    fn taken(&mut self, word: Slot, part: Part) -> Slot {
        let (down, d) = (self.temp(), self.temp());
        let (by, mask) = (self.constant(i64::from(part.shift)), self.constant(ones(part.bits)));
        self.emit(Op::Shift { k: Shift::Shr, s: IntShape::WHOLE, d: down, a: word, b: by });
        self.emit(Op::And { d, a: down, b: mask });
        d
    }

    /// Stores one slot at a place; of a part of a word the other bits stay.
    fn write(&mut self, place: &Place, a: Slot) {
        let target = self.target(place);
        let Some(part) = place.part() else { return self.store(target, a) };
        let word = self.read(target);
        let [rest, up, whole] = [self.temp(), self.temp(), self.temp()];
        let (by, others) = (self.constant(i64::from(part.shift)), self.constant(!(ones(part.bits) << part.shift)));
        self.emit(Op::And { d: rest, a: word, b: others });
        self.emit(Op::Shift { k: Shift::Shl, s: IntShape::WHOLE, d: up, a, b: by });
        self.emit(Op::Or { d: whole, a: rest, b: up });
        self.store(target, whole);
    }

    fn index(&mut self, target: Target, index: &crate::check::typed::TExpr, dim: Dimension) -> Target {
        if let crate::check::typed::TKind::Const(value) = index.kind
            && (dim.low..=dim.high).contains(&value)
        {
            return moved(target, ((value - dim.low) * dim.stride) as u32);
        }
        let a = self.expr(index);
        let off = self.temp();
        let (base, start, before) = match target {
            Target::Fixed(base) => (base, self.constant(0), Reach::default()),
            Target::Moved { base, off, reach } => (base, off, reach),
        };
        self.emit(Op::Move { d: off, a: start });
        self.dimensions.push(dim);
        let number = self.dimensions.len() as u32 - 1;
        self.emit(Op::Index { d: off, a, dim: number });
        Target::Moved { base, off, reach: before.beyond(dim) }
    }

    /// Copies `size` slots to a fixed place.
    fn fetch(&mut self, target: Target, d: Slot, size: u32) {
        match target {
            Target::Fixed(a) => self.emit(Op::Copy { d, a, n: size }),
            Target::Moved { base, off, reach } => {
                self.blocks.push((base, size));
                let block = self.blocks.len() as u32 - 1;
                self.emit_moved(Op::LoadBlock { d, off, block }, reach)
            }
        };
    }

    /// Copies `size` slots from a fixed place.
    fn put(&mut self, a: Slot, target: Target, size: u32) {
        match target {
            Target::Fixed(d) => self.emit(Op::Copy { d, a, n: size }),
            Target::Moved { base, off, reach } => {
                self.blocks.push((base, size));
                let block = self.blocks.len() as u32 - 1;
                self.emit_moved(Op::StoreBlock { a, off, block }, reach)
            }
        };
    }

    /// Stores one slot.
    fn store(&mut self, target: Target, a: Slot) {
        match target {
            Target::Fixed(d) => self.emit(Op::Move { d, a }),
            Target::Moved { base, off, reach } => self.emit_moved(Op::Store { base, off, a }, reach),
        };
    }
}

/// So many ones.
fn ones(bits: u8) -> i64 {
    (1 << bits) - 1
}

fn moved(target: Target, by: u32) -> Target {
    match target {
        Target::Fixed(at) => Target::Fixed(at + by),
        Target::Moved { base, off, reach } => Target::Moved { base: base + by, off, reach },
    }
}
