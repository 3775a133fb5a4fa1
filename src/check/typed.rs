//! What a checked project consists of: every name resolved, every conversion explicit, every type known.
//!
//! The scan engine compiles from here and from nowhere else.

use crate::model::functions::Function;
use crate::model::ops::{BinaryOp, Typing, UnaryOp};
use crate::model::{Edge, Elem, Retain, Section, UnitKind, When};
use crate::source::Span;
use std::sync::Arc;

/// Index of a unit in a checked project.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) struct UnitId(pub(crate) u32);

/// A type with nothing left to look up.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Ty {
    Elem(Elem),
    /// STRING with its greatest length in characters.
    Text(u16),
    Range(Elem, i64, i64),
    /// Index of an enumeration.
    Enum(u32),
    Array(Arc<ArrayTy>),
    /// Index of a structure.
    Struct(u32),
    Block(UnitId),
    /// The kernel's stopwatch.
    Watch,
    /// An integer constant that takes the type its place wants.
    LitInt,
    /// A real constant that takes the type its place wants.
    LitReal,
    /// A problem has been reported; fits everything. An undeclared name carries its number.
    Unknown(Option<u32>),
}

impl Ty {
    pub(crate) const BOOL: Ty = Ty::Elem(Elem::Bool);

    /// The elementary type its values compute in.
    pub(crate) fn elem(&self) -> Option<Elem> {
        if let Ty::Elem(e) | Ty::Range(e, ..) = self { Some(*e) } else { None }
    }

    pub(crate) fn is_untyped(&self) -> bool {
        matches!(self, Ty::LitInt | Ty::LitReal)
    }

    pub(crate) fn is_unknown(&self) -> bool {
        matches!(self, Ty::Unknown(_))
    }
}

#[derive(Clone, Debug, PartialEq)]
pub(crate) struct ArrayTy {
    pub(crate) bounds: Vec<(i64, i64)>,
    pub(crate) of: Ty,
}

impl ArrayTy {
    pub(crate) fn len(&self) -> u64 {
        self.bounds.iter().map(|(low, high)| (high - low + 1) as u64).fold(1, u64::saturating_mul)
    }
}

#[derive(Clone, Debug)]
pub(crate) struct EnumDef {
    pub(crate) name: String,
    pub(crate) base: Elem,
    pub(crate) values: Vec<(String, i64)>,
}

#[derive(Clone, Debug)]
pub(crate) struct StructDef {
    pub(crate) name: String,
    pub(crate) fields: Vec<Var>,
}

/// An initial value.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum TInit {
    Default,
    Slot(i64),
    Text(String),
    Array(Vec<TInit>),
    Struct(Vec<(u32, TInit)>),
}

/// A variable of a unit, a global, or a field of a structure.
#[derive(Clone, Debug)]
pub(crate) struct Var {
    pub(crate) name: String,
    pub(crate) ty: Ty,
    pub(crate) section: Section,
    pub(crate) init: TInit,
    pub(crate) retain: Retain,
    pub(crate) constant: bool,
    pub(crate) address: Option<String>,
    /// For VAR_EXTERNAL: the global it stands for.
    pub(crate) global: Option<u32>,
    /// For an input with R_EDGE or F_EDGE: what the body sees in its place.
    pub(crate) edge: Option<EdgeVars>,
    pub(crate) span: Span,
    pub(crate) origin: Origin,
}

/// What a variable comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Origin {
    /// A declaration, or an address that a program uses.
    Declared,
    /// A wire of a drawing.
    Wire,
    /// What an edge contact or an edge coil of a drawing remembers.
    Edge,
    /// What a box or an edge input remembers or computes in between.
    Between,
}

/// An input that is TRUE only in the call in which it changed: the body reads `seen`, and `memory` is what the edge
/// block of that kind would remember. Neither has a name that text could write.
#[derive(Clone, Copy, Debug)]
pub(crate) struct EdgeVars {
    pub(crate) kind: Edge,
    pub(crate) seen: u32,
    pub(crate) memory: u32,
}

impl Var {
    /// One that no text can name.
    pub(crate) fn hidden(name: String, ty: Ty, section: Section, origin: Origin, span: Span) -> Var {
        Var {
            name,
            ty,
            section,
            init: TInit::Default,
            retain: Retain::Unsaid,
            constant: false,
            address: None,
            global: None,
            edge: None,
            span,
            origin,
        }
    }

    /// True if no text can name it: it stands for something of a drawing or of an edge input. Its name is unlike any that a
    /// declaration can give.
    pub(crate) fn is_hidden(&self) -> bool {
        match self.origin {
            Origin::Declared => false,
            Origin::Wire | Origin::Edge | Origin::Between => true,
        }
    }

    /// Set from outside: VAR_INPUT of a program, wherever it is located, or located in the input area (SEMANTICS section 6).
    pub(crate) fn is_input(&self) -> bool {
        self.section == Section::Input || (self.section != Section::Output && self.area() == Some('I'))
    }

    /// Seen from outside: VAR_OUTPUT of a program, wherever it is located, or located in the output area.
    pub(crate) fn is_output(&self) -> bool {
        self.section == Section::Output || (self.section != Section::Input && self.area() == Some('Q'))
    }

    /// The letter of the area in which it is located.
    fn area(&self) -> Option<char> {
        self.address.as_ref()?.chars().nth(1).map(|c| c.to_ascii_uppercase())
    }
}

#[derive(Clone, Debug)]
pub(crate) struct TUnit {
    pub(crate) name: String,
    pub(crate) kind: UnitKind,
    /// For a function, the first one is its value.
    pub(crate) vars: Vec<Var>,
    pub(crate) code: Code,
    pub(crate) span: Span,
    /// Shipped with the dialect, not written by the user.
    pub(crate) built_in: bool,
}

#[derive(Clone, Debug)]
pub(crate) enum Code {
    Block(Vec<TStmt>),
    List(Vec<TInstr>),
}

#[derive(Clone, Debug)]
pub(crate) struct TStmt {
    pub(crate) kind: TStmtKind,
    pub(crate) span: Span,
}

pub(crate) type CaseArm = (Vec<(i64, i64)>, Vec<TStmt>);

#[derive(Clone, Debug)]
pub(crate) enum TStmtKind {
    Assign(Place, TExpr),
    Call(TCall),
    Restart(Place),
    If(Vec<(TExpr, Vec<TStmt>)>, Vec<TStmt>),
    Case(TExpr, Vec<CaseArm>, Vec<TStmt>),
    For(Box<TFor>),
    While(TExpr, Vec<TStmt>),
    Repeat(Vec<TStmt>, TExpr),
    Exit,
    Continue,
    Return,
}

#[derive(Clone, Debug)]
pub(crate) struct TFor {
    pub(crate) var: Place,
    pub(crate) elem: Elem,
    pub(crate) from: TExpr,
    pub(crate) to: TExpr,
    /// The step; its value if it is constant.
    pub(crate) by: TExpr,
    pub(crate) constant_by: Option<i64>,
    pub(crate) body: Vec<TStmt>,
}

#[derive(Clone, Debug)]
pub(crate) struct TExpr {
    pub(crate) kind: TKind,
    pub(crate) ty: Ty,
    pub(crate) span: Span,
}

#[derive(Clone, Debug)]
pub(crate) enum TKind {
    /// A slot of the expression's type.
    Const(i64),
    LitInt(i128),
    LitReal(f64),
    Text(String),
    Read(Place),
    Unary(UnaryOp, Box<TExpr>),
    Binary(BinaryOp, Typing, Box<TExpr>, Box<TExpr>),
    Function(Function, Vec<TExpr>),
    /// Widening to the expression's type.
    Widen(Box<TExpr>),
    /// Into a subrange: a fault if it lies outside.
    Bound(Box<TExpr>),
    Call(Box<TCall>),
    /// Instruction list: the current result.
    Current,
    /// Instruction list: what a parenthesised list leaves as its current result.
    List(Vec<TInstr>),
}

/// Where a variable begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Root {
    Local(u32),
    Global(u32),
}

/// A variable or a part of one.
#[derive(Clone, Debug)]
pub(crate) struct Place {
    pub(crate) root: Root,
    pub(crate) steps: Vec<PathStep>,
    pub(crate) ty: Ty,
    pub(crate) span: Span,
}

#[derive(Clone, Debug)]
pub(crate) enum PathStep {
    Field(u32),
    Index(Vec<TExpr>),
    /// Some bits of a bit string; always the last step.
    Part(Part),
}

/// Bits of a bit string: `Status.%X3`, `Status.%B1`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Part {
    /// The lowest of them.
    pub(crate) shift: u8,
    /// How many.
    pub(crate) bits: u8,
}

impl Place {
    /// The bits that are meant, if it is a part of a bit string.
    pub(crate) fn part(&self) -> Option<Part> {
        if let Some(PathStep::Part(part)) = self.steps.last() { Some(*part) } else { None }
    }
}

#[derive(Clone, Debug)]
pub(crate) enum Callee {
    Function,
    Block(Place),
}

#[derive(Clone, Debug)]
pub(crate) struct TCall {
    pub(crate) callee: Callee,
    pub(crate) unit: UnitId,
    pub(crate) inputs: Vec<(u32, TExpr)>,
    pub(crate) in_outs: Vec<(u32, Place)>,
    pub(crate) outputs: Vec<Taken>,
    pub(crate) en: Option<TExpr>,
    pub(crate) eno: Option<Place>,
    pub(crate) span: Span,
}

/// An output handed on: `Q => Lamp`.
#[derive(Clone, Debug)]
pub(crate) struct Taken {
    pub(crate) output: u32,
    pub(crate) target: Place,
    /// How the output's value becomes the target's: an expression over [`TKind::Current`].
    pub(crate) value: TExpr,
}

#[derive(Clone, Debug)]
pub(crate) struct TInstr {
    pub(crate) label: Option<String>,
    pub(crate) kind: TInstrKind,
    pub(crate) span: Span,
}

#[derive(Clone, Debug)]
pub(crate) enum TInstrKind {
    Nop,
    /// The current result becomes this.
    Compute(TExpr),
    Store(Place, TExpr),
    Set(Place),
    Reset(Place),
    Jump(When, String),
    Call(When, TCall),
    Restart(Place),
    Return(When),
}
