//! A project as it was written: every reader makes this tree, every writer takes it.
//!
//! Names keep the letters they were written with. Comments and blank lines ride along as [`Notes`], which are
//! equal to each other whatever they hold, so that two trees are equal when they say the same.

use super::ops::{BinaryOp, UnaryOp};
use super::sheet::Library;
use super::{Edge, Elem, Instr, Network, Plant};
use crate::source::{FileId, Source, Span};
use std::sync::Arc;

/// A name with the place it stands at.
#[derive(Clone, Debug)]
pub struct Name {
    /// As written.
    pub text: String,
    /// Where.
    pub span: Span,
}

/// Names are equal when they differ in case only, as the standard says; places do not count.
impl PartialEq for Name {
    fn eq(&self, other: &Self) -> bool {
        self.text.eq_ignore_ascii_case(&other.text)
    }
}

impl Name {
    /// A name at a place.
    #[must_use]
    pub fn new(text: impl Into<String>, span: Span) -> Name {
        Name { text: text.into(), span }
    }

    /// True for a name that says `what`, whatever the case of its letters.
    #[must_use]
    pub fn is(&self, what: &str) -> bool {
        self.text.eq_ignore_ascii_case(what)
    }
}

/// Which delimiters a comment has.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum CommentKind {
    /// `(* ... *)`
    Paren,
    /// `/* ... */`
    Slash,
    /// `// ...`
    Line,
    /// `{ ... }`, an implementer's note to the tool; kept, not obeyed.
    Pragma,
}

/// A comment, without its delimiters and without the blanks around the text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Comment {
    /// Its delimiters.
    pub kind: CommentKind,
    /// What it says.
    pub text: String,
}

/// Comments and blank lines around something; never part of what it means.
#[derive(Clone, Debug, Default)]
pub struct Notes {
    /// Comments on the lines above.
    pub leading: Vec<Comment>,
    /// Comments behind it on its last line.
    pub trailing: Vec<Comment>,
    /// A blank line stands above: a network begins here.
    pub blank_before: bool,
    /// What another tool keeps here in the exchange format, as it stands; handed back untouched.
    pub kept: Vec<String>,
}

impl PartialEq for Notes {
    fn eq(&self, _: &Self) -> bool {
        true
    }
}

/// Several source texts that belong together.
#[derive(Clone, Debug, Default)]
pub struct Project {
    /// The texts, by [`FileId`].
    pub sources: Vec<Source>,
    /// What they declare, file by file, in order.
    pub items: Vec<Item>,
    /// The conventions they are written by; `None`: the open standard's.
    pub library: Option<Arc<Library>>,
    /// What stands in for the machine when it runs.
    pub plants: Vec<Plant>,
}

impl Project {
    /// Its programs, functions and function blocks, in order.
    pub(crate) fn units(&self) -> impl Iterator<Item = &Unit> {
        self.items.iter().filter_map(|item| if let Item::Unit(unit) = item { Some(unit) } else { None })
    }

    /// What one file declares, in order.
    pub(crate) fn items_of(&self, file: FileId) -> impl Iterator<Item = &Item> {
        let plants = self.plants.iter().flat_map(|plant| &plant.items);
        self.items.iter().chain(plants).filter(move |i| i.span().file == file)
    }

    fn source(&self, file: FileId) -> Option<&Source> {
        let library = self.library.as_ref().filter(|_| file == Library::FILE);
        library.map(|l| &l.source).or_else(|| self.sources.get(file.0 as usize))
    }

    /// The text of a place, on one line.
    #[must_use]
    pub fn excerpt(&self, span: Span) -> String {
        self.source(span.file).map_or_else(String::new, |s| s.excerpt(span))
    }

    /// `name:line` of a place.
    #[must_use]
    pub fn place(&self, span: Span) -> String {
        match self.source(span.file) {
            Some(source) => format!("{}:{}", source.name, source.line_column(span.start).line),
            None => "built in".to_string(),
        }
    }
}

/// One thing a file declares.
#[derive(Clone, Debug, PartialEq)]
pub enum Item {
    /// `TYPE ... END_TYPE`, one declaration of it.
    Type(TypeDecl),
    /// A program, function or function block.
    Unit(Unit),
    /// `VAR_GLOBAL` outside a configuration.
    Globals(VarSection),
    /// `CONFIGURATION ... END_CONFIGURATION`.
    Configuration(Configuration),
    /// What a file of the exchange format says of itself.
    Envelope(Envelope),
}

/// What a file of the exchange format says of itself, as it stands there; it means nothing here and is handed back.
#[derive(Clone, Debug)]
pub struct Envelope {
    /// The attributes of its outermost element.
    pub attributes: String,
    /// Its headers.
    pub headers: Vec<String>,
    /// What stands behind the rest.
    pub rest: Vec<String>,
    /// Where.
    pub span: Span,
}

impl PartialEq for Envelope {
    fn eq(&self, _: &Self) -> bool {
        true
    }
}

impl Item {
    /// Where it stands.
    #[must_use]
    pub fn span(&self) -> Span {
        match self {
            Item::Type(t) => t.name.span,
            Item::Unit(u) => u.name.span,
            Item::Globals(s) => s.span,
            Item::Configuration(c) => c.name.span,
            Item::Envelope(e) => e.span,
        }
    }
}

/// One named type.
#[derive(Clone, Debug, PartialEq)]
pub struct TypeDecl {
    /// Its name.
    pub name: Name,
    /// What it is.
    pub spec: TypeSpec,
    /// Initial value of its variables, if not the default.
    pub init: Option<Init>,
    /// Comments.
    pub notes: Notes,
    /// Comments above the word TYPE, if it is the first behind one.
    pub above: Notes,
}

/// How a type is written.
#[derive(Clone, Debug, PartialEq)]
pub enum TypeSpec {
    /// An elementary type.
    Elem(Elem, Span),
    /// `STRING` or `STRING[n]`.
    String(Option<Box<Expr>>, Span),
    /// A named type or function block.
    Named(Name),
    /// `INT (low..high)`.
    Range(Elem, Box<Expr>, Box<Expr>, Span),
    /// `(A, B := 3, C)`, with a base type if one is given.
    Enum(Option<Elem>, Vec<(Name, Option<Expr>)>, Span),
    /// `ARRAY [low..high, ...] OF type`.
    Array(Vec<(Expr, Expr)>, Box<TypeSpec>, Span),
    /// `STRUCT ... END_STRUCT`.
    Struct(Vec<VarDecl>, Span),
}

/// An initial value.
#[derive(Clone, Debug, PartialEq)]
pub enum Init {
    /// A constant expression.
    Expr(Expr),
    /// `[a, b, 3(c)]`: values with how often each is repeated.
    Array(Vec<(u32, Init)>, Span),
    /// `(field := value, ...)`.
    Struct(Vec<(Name, Init)>, Span),
}

/// What a variable section is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs, reason = "the names are the standard's own")]
pub enum Section {
    Local,
    Temp,
    Input,
    Output,
    InOut,
    External,
    Global,
}

impl Section {
    /// The standard's word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Section::Local => "VAR",
            Section::Temp => "VAR_TEMP",
            Section::Input => "VAR_INPUT",
            Section::Output => "VAR_OUTPUT",
            Section::InOut => "VAR_IN_OUT",
            Section::External => "VAR_EXTERNAL",
            Section::Global => "VAR_GLOBAL",
        }
    }
}

/// What survives a power cycle.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Retain {
    /// Nothing is said: it does not, unless what holds it is retained.
    #[default]
    Unsaid,
    /// `RETAIN`.
    Retain,
    /// `NON_RETAIN`.
    NonRetain,
}

/// `VAR ... END_VAR` of any kind.
#[derive(Clone, Debug)]
pub struct VarSection {
    /// Which kind.
    pub section: Section,
    /// RETAIN or NON_RETAIN.
    pub retain: Retain,
    /// CONSTANT.
    pub constant: bool,
    /// Its variables.
    pub vars: Vec<VarDecl>,
    /// Where it begins.
    pub span: Span,
    /// Comments; those before END_VAR are in `tail`.
    pub notes: Notes,
    /// Comments before END_VAR.
    pub tail: Vec<Comment>,
}

impl PartialEq for VarSection {
    fn eq(&self, other: &Self) -> bool {
        (self.section, self.retain, self.constant, &self.vars)
            == (other.section, other.retain, other.constant, &other.vars)
    }
}

/// One declaration line: one or more names of one type.
#[derive(Clone, Debug, PartialEq)]
pub struct VarDecl {
    /// The names.
    pub names: Vec<Name>,
    /// `AT %IX0.0`.
    pub address: Option<Name>,
    /// `R_EDGE` or `F_EDGE` behind a BOOL input.
    pub edge: Option<Edge>,
    /// The type.
    pub spec: TypeSpec,
    /// The initial value.
    pub init: Option<Init>,
    /// Comments.
    pub notes: Notes,
}

/// What a unit is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs, reason = "the names are the standard's own")]
pub enum UnitKind {
    Program,
    Function,
    FunctionBlock,
}

impl UnitKind {
    /// The standard's word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            UnitKind::Program => "PROGRAM",
            UnitKind::Function => "FUNCTION",
            UnitKind::FunctionBlock => "FUNCTION_BLOCK",
        }
    }
}

/// A program organisation unit.
#[derive(Clone, Debug, PartialEq)]
pub struct Unit {
    /// What it is.
    pub kind: UnitKind,
    /// Its name.
    pub name: Name,
    /// A function's type.
    pub result: Option<TypeSpec>,
    /// Its variables.
    pub sections: Vec<VarSection>,
    /// What it does.
    pub body: Body,
    /// Comments above it.
    pub notes: Notes,
    /// Whether the text has its first line and its declarations.
    pub head: Head,
}

/// What of a unit stands in its text beside the body.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Head {
    /// Its first line, its declarations and its end.
    #[default]
    Written,
    /// Nothing: the text is a fragment. It is taken for a program, and what it uses is declared by how it is used.
    Missing,
}

/// The code of a unit, in the language it was written in.
#[derive(Clone, Debug, PartialEq)]
pub enum Body {
    /// Structured text.
    Statements(Vec<Stmt>),
    /// Instruction list.
    Instructions(Vec<Instr>),
    /// Ladder.
    Ladder(Vec<Network>),
    /// Function block diagram.
    Blocks(Vec<Network>),
}

/// `CONFIGURATION`: globals, tasks, and the programs that run.
#[derive(Clone, Debug, PartialEq)]
pub struct Configuration {
    /// Its name.
    pub name: Name,
    /// The name and target word of its resource, if it has one.
    pub resource: Option<(Name, Name)>,
    /// Its VAR_GLOBAL sections.
    pub globals: Vec<VarSection>,
    /// Its tasks.
    pub tasks: Vec<TaskDecl>,
    /// Its programs, in order.
    pub programs: Vec<ProgramDecl>,
    /// Comments above it.
    pub notes: Notes,
}

/// `TASK name(INTERVAL := ..., PRIORITY := ...);`
#[derive(Clone, Debug, PartialEq)]
pub struct TaskDecl {
    /// Its name.
    pub name: Name,
    /// Parameters in order.
    pub args: Vec<(Name, Expr)>,
    /// Comments.
    pub notes: Notes,
}

/// `PROGRAM instance WITH task : Type;`
#[derive(Clone, Debug, PartialEq)]
pub struct ProgramDecl {
    /// The instance's name.
    pub name: Name,
    /// The task it runs in.
    pub task: Option<Name>,
    /// The program it is an instance of.
    pub unit: Name,
    /// Comments.
    pub notes: Notes,
}

/// A statement of structured text.
#[derive(Clone, Debug)]
pub struct Stmt {
    /// What it does.
    pub kind: StmtKind,
    /// Where.
    pub span: Span,
    /// Comments.
    pub notes: Notes,
}

impl PartialEq for Stmt {
    fn eq(&self, other: &Self) -> bool {
        self.kind == other.kind
    }
}

/// What a statement does.
#[derive(Clone, Debug, PartialEq)]
pub enum StmtKind {
    /// Nothing: `;`, or comments that stand before the end of a list.
    Empty,
    /// `target := value;`
    Assign(Expr, Expr),
    /// A call of a function block, or of a function whose value is not used.
    Call(Call),
    /// Conditions with their statements, then the ELSE branch.
    If(Vec<(Expr, Vec<Stmt>)>, Option<Vec<Stmt>>),
    /// `CASE selector OF ... ELSE ... END_CASE`.
    Case(Expr, Vec<CaseBranch>, Option<Vec<Stmt>>),
    /// `FOR variable := from TO to BY step DO ... END_FOR`.
    For(Box<ForHead>, Vec<Stmt>),
    /// `WHILE condition DO ... END_WHILE`.
    While(Expr, Vec<Stmt>),
    /// `REPEAT ... UNTIL condition END_REPEAT`.
    Repeat(Vec<Stmt>, Expr),
    /// `EXIT`.
    Exit,
    /// `CONTINUE`.
    Continue,
    /// `RETURN`.
    Return,
}

/// The head of a FOR loop.
#[derive(Clone, Debug, PartialEq)]
pub struct ForHead {
    /// The control variable.
    pub var: Expr,
    /// First value.
    pub from: Expr,
    /// Limit, inclusive.
    pub to: Expr,
    /// Step, 1 if absent.
    pub by: Option<Expr>,
}

/// One branch of a CASE.
#[derive(Clone, Debug, PartialEq)]
pub struct CaseBranch {
    /// Its labels.
    pub labels: Vec<CaseLabel>,
    /// Its statements.
    pub body: Vec<Stmt>,
    /// Comments above the labels.
    pub notes: Notes,
}

/// A label of a CASE branch.
#[derive(Clone, Debug, PartialEq)]
pub enum CaseLabel {
    /// One value.
    One(Expr),
    /// `low..high`, both included.
    Range(Expr, Expr),
}

/// An expression.
#[derive(Clone, Debug)]
pub struct Expr {
    /// What it is.
    pub kind: ExprKind,
    /// Where.
    pub span: Span,
}

impl PartialEq for Expr {
    fn eq(&self, other: &Self) -> bool {
        self.kind == other.kind
    }
}

/// What an expression is.
#[derive(Clone, Debug, PartialEq)]
pub enum ExprKind {
    /// A literal.
    Literal(Literal),
    /// A variable, enumeration value or (in a call) a unit.
    Name(Name),
    /// A directly represented variable, `%IX0.0`.
    Address(Name),
    /// `base.field`.
    Field(Box<Expr>, Name),
    /// `base[i, j]`.
    Index(Box<Expr>, Vec<Expr>),
    /// `-x`, `NOT x`.
    Unary(UnaryOp, Box<Expr>),
    /// `a op b`.
    Binary(BinaryOp, Box<Expr>, Box<Expr>),
    /// A function call.
    Call(Box<Call>),
}

/// A literal as it was written.
#[derive(Clone, Debug)]
pub struct Literal {
    /// The words of the source, `T#1m30s` or `INT#-5`.
    pub text: String,
    /// The type in front of it, if one is written.
    pub typed: Option<Name>,
    /// What it stands for.
    pub value: LiteralValue,
}

impl PartialEq for Literal {
    fn eq(&self, other: &Self) -> bool {
        self.typed == other.typed && self.value == other.value
    }
}

/// What a literal stands for.
#[derive(Clone, Debug, PartialEq)]
pub enum LiteralValue {
    /// TRUE or FALSE.
    Bool(bool),
    /// An integer; fits 65 bits with sign.
    Int(i128),
    /// A number with a decimal point.
    Real(f64),
    /// A duration in nanoseconds; the flag says that it is an LTIME.
    Time(i64, bool),
    /// A character string.
    Text(String),
}

/// A call: whom, with what.
#[derive(Clone, Debug)]
pub struct Call {
    /// A function's name or a function block instance.
    pub callee: Expr,
    /// The arguments.
    pub args: Vec<Arg>,
    /// Where.
    pub span: Span,
}

impl PartialEq for Call {
    fn eq(&self, other: &Self) -> bool {
        self.callee == other.callee && self.args == other.args
    }
}

/// One argument.
#[derive(Clone, Debug, PartialEq)]
pub enum Arg {
    /// By position.
    Plain(Operand),
    /// `NAME := value`.
    Input(Name, Operand),
    /// `NAME => variable`; negated if written `NOT NAME => variable`.
    Output {
        /// The output's name.
        name: Name,
        /// Written with NOT.
        negated: bool,
        /// Where it goes.
        target: Expr,
    },
}

/// A value in an argument or behind an IL operator: an expression, or a parenthesised instruction list.
#[derive(Clone, Debug, PartialEq)]
pub enum Operand {
    /// An expression; in IL a literal or a variable.
    Expr(Expr),
    /// `( LD a ... )`.
    List(Vec<Instr>),
}
