//! What is to be known of a standard function, in one row: the checker (of text and of drawings), the engine, the circuit
//! and the writers ask nothing else.

use super::Function;
use crate::model::Elem;
use crate::model::ops::BinaryOp;

/// What is to be known of a standard function.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Row {
    /// The names its arguments may be given by.
    pub parameters: Parameters,
    /// The types it takes and gives.
    pub rule: TypeRule,
    /// Whether it can stop the scan.
    pub faults: Faults,
    /// Whether it does more than to give a value.
    pub effect: SideEffect,
}

/// Names of a function's parameters.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Parameters {
    /// Exactly these.
    Fixed(&'static [&'static str]),
    /// These, then one or more numbered from the given number: `K, IN0, IN1, ...`.
    Extensible(&'static [&'static str], u32),
}

/// The type rule of a function.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TypeRule {
    /// That of an operator between each argument and the next; it may be written as the operator.
    Operator(BinaryOp),
    /// That of NOT; it may be written as the operator.
    Not,
    /// What is given, of any type; it may be left out.
    Same,
    /// All arguments have one type, which is that of the value, and an order.
    Ordered,
    /// As many arguments as there are choose, all others have one type, which is that of the value.
    Choice(Selector),
    /// Arguments one by one.
    Each([Option<Takes>; 2], Gives),
}

/// What chooses among the other arguments.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Selector {
    /// FALSE or TRUE.
    Bool,
    /// The number of a choice, from 0.
    Integer,
}

/// What an argument is to be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Takes {
    /// Of this type, or one that widens to it.
    Elem(Elem),
    /// Of any elementary type.
    Any,
    /// An integer or a real.
    Number,
    /// REAL, or what widens to LREAL.
    Real,
    /// A bit string, BOOL or an integer.
    Pattern,
    /// An integer.
    Integer,
    /// A stopwatch.
    Watch,
}

/// What type the value has.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Gives {
    /// This one.
    Elem(Elem),
    /// That of the first argument.
    First,
    /// There is no value.
    Nothing,
}

/// Whether a function can stop the scan, its arguments aside.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Faults {
    /// It has a value for all arguments.
    Never,
    /// It may, unless all types that take part are integers or bit strings.
    UnlessWhole,
    /// For some arguments.
    Maybe,
}

/// Whether a function does more than to give a value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SideEffect {
    /// It does not.
    None,
    /// It restarts the stopwatch that it is given.
    Restarts,
}

impl Function {
    /// Its row.
    #[must_use]
    pub const fn row(self) -> Row {
        use Parameters::{Extensible, Fixed};
        use Takes::{Any, Integer, Number, Pattern, Real, Watch};
        const IN: Parameters = Fixed(&["IN"]);
        const fn of(takes: Takes, gives: Gives) -> TypeRule {
            TypeRule::Each([Some(takes), None], gives)
        }
        let (parameters, rule, faults) = match self {
            Function::Real(_) => (IN, of(Real, Gives::First), Faults::Never),
            Function::Abs => (IN, of(Number, Gives::First), Faults::Never),
            Function::Shift(_) => {
                (Fixed(&["IN", "N"]), TypeRule::Each([Some(Pattern), Some(Integer)], Gives::First), Faults::Maybe)
            }
            Function::Sel => (Fixed(&["G", "IN0", "IN1"]), TypeRule::Choice(Selector::Bool), Faults::Never),
            Function::Mux => (Extensible(&["K"], 0), TypeRule::Choice(Selector::Integer), Faults::Maybe),
            Function::Max | Function::Min => (Extensible(&[], 1), TypeRule::Ordered, Faults::Never),
            Function::Limit => (Fixed(&["MN", "IN", "MX"]), TypeRule::Ordered, Faults::Never),
            Function::Move => (IN, TypeRule::Same, Faults::Never),
            Function::Not => (IN, TypeRule::Not, Faults::Never),
            Function::Operator(op) => operator(op),
            Function::Convert(from, to) => {
                let takes = if let Some(from) = from { Takes::Elem(from) } else { Any };
                (IN, of(takes, Gives::Elem(to)), Faults::UnlessWhole)
            }
            Function::Truncate(from, to) => {
                let from = if let Some(from) = from { from } else { Elem::Lreal };
                (IN, of(Takes::Elem(from), Gives::Elem(to)), Faults::Maybe)
            }
            Function::FromBcd(from, to) | Function::ToBcd(from, to) => {
                (IN, of(Takes::Elem(from), Gives::Elem(to)), Faults::Maybe)
            }
            Function::Since => (Fixed(&["WATCH"]), of(Watch, Gives::Elem(Elem::Time)), Faults::Never),
            Function::Restart => (Fixed(&["WATCH"]), of(Watch, Gives::Nothing), Faults::Never),
            Function::FirstScan => (Fixed(&[]), TypeRule::Each([None; 2], Gives::Elem(Elem::Bool)), Faults::Never),
            Function::ScanTime => (Fixed(&[]), TypeRule::Each([None; 2], Gives::Elem(Elem::Time)), Faults::Never),
            Function::Ticks => (Fixed(&["BASE"]), of(Takes::Elem(Elem::Time), Gives::Elem(Elem::Dint)), Faults::Never),
        };
        let effect = if matches!(self, Function::Restart) { SideEffect::Restarts } else { SideEffect::None };
        Row { parameters, rule, faults, effect }
    }
}

const fn operator(op: BinaryOp) -> (Parameters, TypeRule, Faults) {
    let two = Parameters::Fixed(&["IN1", "IN2"]);
    let more = Parameters::Extensible(&[], 1);
    let (parameters, faults) = match op {
        BinaryOp::Ne | BinaryOp::Sub | BinaryOp::Mod => (two, Faults::Never),
        // Of integers and TIME by zero; TIME by a real beyond its range.
        BinaryOp::Div => (two, Faults::Maybe),
        BinaryOp::Mul => (more, Faults::UnlessWhole),
        BinaryOp::Power => (two, Faults::Never),
        BinaryOp::Or
        | BinaryOp::Xor
        | BinaryOp::And
        | BinaryOp::Eq
        | BinaryOp::Lt
        | BinaryOp::Le
        | BinaryOp::Gt
        | BinaryOp::Ge
        | BinaryOp::Add => (more, Faults::Never),
    };
    (parameters, TypeRule::Operator(op), faults)
}

impl TypeRule {
    /// The type of the value where it does not hang on the arguments.
    #[must_use]
    pub const fn result(self) -> Option<Elem> {
        match self {
            TypeRule::Operator(op) if op.is_comparison() => Some(Elem::Bool),
            TypeRule::Each(_, Gives::Elem(elem)) => Some(elem),
            TypeRule::Operator(_) | TypeRule::Not | TypeRule::Same | TypeRule::Ordered | TypeRule::Choice(_) => None,
            TypeRule::Each(_, Gives::First | Gives::Nothing) => None,
        }
    }

    /// The first of the arguments that have the type of the value, and of which one may give it to the others; none if
    /// there are no such arguments.
    #[must_use]
    pub(crate) const fn alike_from(self) -> Option<usize> {
        match self {
            TypeRule::Operator(_) | TypeRule::Ordered => Some(0),
            TypeRule::Choice(_) => Some(1),
            TypeRule::Each([Some(Takes::Number), None], Gives::First) => Some(0),
            TypeRule::Not | TypeRule::Same | TypeRule::Each(..) => None,
        }
    }
}

impl Parameters {
    /// The name of parameter `index`, if there can be one.
    #[must_use]
    pub fn name(self, index: usize) -> Option<String> {
        match self {
            Parameters::Fixed(names) => names.get(index).map(ToString::to_string),
            Parameters::Extensible(names, first) => Some(match names.get(index) {
                Some(name) => (*name).to_string(),
                None => format!("IN{}", index - names.len() + first as usize),
            }),
        }
    }

    /// The position of a parameter by its name.
    #[must_use]
    pub fn position(self, name: &str) -> Option<usize> {
        let fixed = match self {
            Parameters::Fixed(names) | Parameters::Extensible(names, _) => names,
        };
        if let Some(at) = fixed.iter().position(|n| n.eq_ignore_ascii_case(name)) {
            return Some(at);
        }
        let Parameters::Extensible(_, first) = self else { return None };
        let number: u32 =
            name.get(..2).filter(|p| p.eq_ignore_ascii_case("IN")).and_then(|_| name[2..].parse().ok())?;
        (number >= first && number < 4096).then(|| fixed.len() + (number - first) as usize)
    }
}
