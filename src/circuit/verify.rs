//! What holds of every net and plan, checked: whenever one is laid out in debug builds, and by tests.

use super::net::{Gate, Net, Node};
use super::plan::{Act, Place, Plan, Step};

/// An invariant of the net that does not hold, and of which gate, register or input.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub(crate) enum NetFlaw {
    #[error("gate {0} reads a gate that does not stand before it")]
    Order(usize),
    #[error("gate {0} is not found by what it computes, or is there twice")]
    Shared(usize),
    #[error("gate {0} is said to be 0 or 1 and cannot be told to be, or the other way round")]
    Bool(usize),
    #[error("gate {0} names a register or an input that there is not")]
    Number(usize),
    #[error("what register {0} holds next is no gate")]
    Next(usize),
    #[error("register {0} is 0 or 1 and begins with something else")]
    Begin(usize),
    #[error("register {0} counts in a unit below 1")]
    Unit(usize),
    #[error("input {0} has a smallest value above its largest, or a step below 1")]
    Input(usize),
}

impl Net {
    /// Checks the invariants.
    ///
    /// # Errors
    /// The first that does not hold.
    pub(crate) fn verify(&self) -> Result<(), NetFlaw> {
        for (at, gate) in self.gates.iter().enumerate() {
            let node = Node(at as u32);
            if gate.operands().any(|operand| operand >= node) {
                return Err(NetFlaw::Order(at));
            }
            if self.found(*gate) != Some(node) {
                return Err(NetFlaw::Shared(at));
            }
            let has_number = if let Gate::Reg(id) = gate {
                (id.0 as usize) < self.registers.len()
            } else if let Gate::Input(id) = gate {
                (id.0 as usize) < self.inputs.len()
            } else {
                true
            };
            if !has_number {
                return Err(NetFlaw::Number(at));
            }
            // A register is told to be 0 or 1 before its gate is made, never after.
            if self.is_bool(node) != self.gives_bool(*gate) {
                return Err(NetFlaw::Bool(at));
            }
        }
        for (number, register) in self.registers.iter().enumerate() {
            if register.next.0 as usize >= self.gates.len() {
                return Err(NetFlaw::Next(number));
            }
            if register.bool && !(0..=1).contains(&register.init) {
                return Err(NetFlaw::Begin(number));
            }
            if register.per < 1 {
                return Err(NetFlaw::Unit(number));
            }
        }
        match self.inputs.iter().position(|input| input.range.0 > input.range.1 || input.step < 1) {
            Some(number) => Err(NetFlaw::Input(number)),
            None => Ok(()),
        }
    }
}

/// An invariant of a plan that does not hold, and of which step, register or input.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub(crate) enum PlanFlaw {
    #[error("there are {constants} constant bits of {bits}")]
    Constants { constants: usize, bits: usize },
    #[error("the bits of input {0} are written twice, or beyond the last")]
    Input(usize),
    #[error("the bits of register {0} are written twice, or beyond the last")]
    Register(usize),
    #[error("step {0} writes bits that are written already, or beyond the last")]
    Written(usize),
    #[error("step {0} reads bits that nothing has written")]
    Unwritten(usize),
    #[error("step {0} gives more or less than one bit")]
    Width(usize),
    #[error("what register {0} holds next is in bits that nothing writes")]
    Next(usize),
    #[error("register {0} begins outside what it can hold")]
    Begin(usize),
    #[error("steps that stand together are not of one kind, or are not all of them")]
    Runs,
}

impl Plan {
    /// Checks the invariants.
    ///
    /// # Errors
    /// The first that does not hold.
    pub(crate) fn verify(&self) -> Result<(), PlanFlaw> {
        let constants = self.constants.len();
        if constants > self.bits {
            return Err(PlanFlaw::Constants { constants, bits: self.bits });
        }
        let mut bits = Bits((0..self.bits).map(|bit| bit < constants).collect());
        for (number, (_, place)) in self.inputs.iter().enumerate() {
            bits.write(*place).ok_or(PlanFlaw::Input(number))?;
        }
        for (number, kept) in self.registers.iter().enumerate() {
            bits.write(kept.place).ok_or(PlanFlaw::Register(number))?;
            if !(kept.least..=kept.most).contains(&kept.init) {
                return Err(PlanFlaw::Begin(number));
            }
        }
        for (number, step) in self.steps.iter().enumerate() {
            // Of a step with less than three operands the others have no bits.
            if ![step.a, step.b, step.c].iter().all(|place| bits.are_written(*place)) {
                return Err(PlanFlaw::Unwritten(number));
            }
            if !step.has_width() {
                return Err(PlanFlaw::Width(number));
            }
            bits.write(step.d).ok_or(PlanFlaw::Written(number))?;
        }
        if let Some(number) = self.registers.iter().position(|kept| !bits.are_written(kept.next)) {
            return Err(PlanFlaw::Next(number));
        }
        let mut next = 0;
        for run in &self.runs {
            let Some(steps) = self.steps.get(run.steps.clone()).filter(|steps| !steps.is_empty()) else {
                return Err(PlanFlaw::Runs);
            };
            let act = std::mem::discriminant(&steps[0].act);
            let is_one = steps.iter().all(|s| std::mem::discriminant(&s.act) == act && s.logic() == run.logic);
            if run.steps.start != next || !is_one {
                return Err(PlanFlaw::Runs);
            }
            next = run.steps.end;
        }
        if next == self.steps.len() { Ok(()) } else { Err(PlanFlaw::Runs) }
    }
}

impl Step {
    /// Whether what is TRUE or FALSE is one bit.
    fn has_width(&self) -> bool {
        match self.act {
            Act::Eq | Act::Less | Act::Below | Act::Fails(_) => self.d.width == 1,
            Act::And
            | Act::Or
            | Act::Xor
            | Act::Add
            | Act::Sub
            | Act::Mul
            | Act::Div(_)
            | Act::Mod(_)
            | Act::Copy
            | Act::Mux
            | Act::Min
            | Act::Max
            | Act::Shift(..)
            | Act::Whole(_) => true,
        }
    }
}

/// Which bits hold something.
struct Bits(Vec<bool>);

impl Bits {
    fn write(&mut self, place: Place) -> Option<()> {
        let bits = self.0.get_mut(place.at as usize..place.at as usize + usize::from(place.width))?;
        let is_new = bits.iter().all(|written| !written);
        bits.fill(true);
        is_new.then_some(())
    }

    fn are_written(&self, place: Place) -> bool {
        let bits = self.0.get(place.at as usize..place.at as usize + usize::from(place.width));
        bits.is_some_and(|bits| bits.iter().all(|written| *written))
    }
}
