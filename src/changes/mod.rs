//! Two projects side by side: what changed, and what that may reach.
//!
//! Bodies are held against each other as trees of parts (statements, rungs, networks), after names that only one side has
//! were found to be new names of old things. So a new name is one change, what was moved is told as moved, and how a text
//! is laid out is told apart from what it does. What each change can reach follows from the compiled programs: an output
//! that is called untouched hangs on nothing that changed. Whether a change matters is for the prover:
//! [`Changes::stands`] gives it each changed unit by itself, with the rest as it was.

mod align;
mod apart;
mod data;
mod declared;
mod drawn;
mod ledger;
mod points;
mod reach;
mod rehome;
mod renames;
mod sheets;
mod stood;
mod timing;
mod token;
mod told;
mod tree;
mod units;

pub use apart::{Stand, Standing};
pub use stood::{GroupVerdict, Overall, Stood, UnitVerdict};
pub use told::{Cell, LineState, Row};

use crate::check::Checked;
use crate::lang::Language;
use crate::scan::{Machine, PointId};
use crate::source::Span;
use crate::twin::{Scenario, Twin};
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::HashMap;

/// What a change is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Group {
    /// What programs do.
    Logic,
    /// Variables and types.
    Data,
    /// Addresses, wiring, cards, what the outside gives and sees.
    Points,
    /// Tasks, and the order in which programs run.
    Timing,
    /// Comments, layout and names: nothing that runs.
    Texts,
}

/// All groups, in the order in which they are told.
pub const GROUPS: [Group; 5] = [Group::Logic, Group::Data, Group::Points, Group::Timing, Group::Texts];

impl Group {
    /// Its word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Group::Logic => "logic",
            Group::Data => "data",
            Group::Points => "points",
            Group::Timing => "timing",
            Group::Texts => "texts",
        }
    }
}

/// What kind of change it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// Only the right side has it.
    Added,
    /// Only the left side has it.
    Removed,
    /// The same in another place.
    Moved,
    /// It goes by another name.
    Renamed,
    /// A value that is written out is another one: a preset, a limit.
    Value,
    /// Open or closed, negated or not, set or reset, an edge or a level.
    Form,
    /// Another variable stands there.
    Operand,
    /// Another operator stands there.
    Operator,
    /// Contacts or conditions were added or taken away, or are joined otherwise.
    Branch,
    /// Anything else.
    Rewritten,
    /// The body is in another language.
    Language,
    /// Another type.
    Type,
    /// Another initial value.
    Initial,
    /// Whether it survives loss of power.
    Retention,
    /// What it is for: an input, an output, a constant, an edge input.
    Class,
    /// Inputs or outputs of a function or block stand in another order, which calls by position meet.
    Order,
    /// Another address.
    Address,
    /// Another device at the terminal: what it reads at rest.
    Wiring,
    /// Whether a panel or the plant gives or sees it.
    Outside,
    /// Another number of the open protocol.
    Protocol,
    /// The cards of the rack.
    Card,
    /// The conventions of the controller.
    Sheet,
    /// How often a task runs.
    Interval,
    /// How urgent a task is.
    Priority,
    /// Which task a program runs in.
    Task,
    /// The order in which programs run.
    Sequence,
    /// A comment or a title.
    Comment,
    /// Blanks, lines, letters, places on the paper.
    Layout,
}

impl Kind {
    /// Its word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Kind::Added => "added",
            Kind::Removed => "removed",
            Kind::Moved => "moved",
            Kind::Renamed => "renamed",
            Kind::Value => "value",
            Kind::Form => "form",
            Kind::Operand => "operand",
            Kind::Operator => "operator",
            Kind::Branch => "branch",
            Kind::Rewritten => "rewritten",
            Kind::Language => "language",
            Kind::Type => "type",
            Kind::Initial => "initial value",
            Kind::Retention => "retention",
            Kind::Class => "class",
            Kind::Order => "order",
            Kind::Address => "address",
            Kind::Wiring => "wiring",
            Kind::Outside => "outside",
            Kind::Protocol => "protocol number",
            Kind::Card => "card",
            Kind::Sheet => "sheet",
            Kind::Interval => "interval",
            Kind::Priority => "priority",
            Kind::Task => "task",
            Kind::Sequence => "sequence",
            Kind::Comment => "comment",
            Kind::Layout => "layout",
        }
    }
}

/// One side of a change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Spot {
    /// `file:line`.
    pub place: String,
    /// What stands there.
    pub text: String,
    /// The network, counted from 1, where it is a part of a body.
    pub network: Option<usize>,
    /// The very place.
    #[serde(skip)]
    pub(crate) spans: Vec<Span>,
}

/// What a change can reach.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Reach {
    /// Nothing that runs.
    Nothing,
    /// These outputs, by their names on the left, be it many scans later. None: no output hangs on it.
    Outputs(Vec<String>),
    /// All outputs, for this reason.
    Everything(String),
}

/// One change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Change {
    /// Its number, from 1.
    pub number: usize,
    /// What it is about.
    pub group: Group,
    /// Of what kind it is.
    pub kind: Kind,
    /// The unit it is in, by its name on the left if it is there.
    pub unit: Option<String>,
    /// What changed: `network`, `statement`, the name of a variable.
    pub subject: String,
    /// Left and right.
    pub sides: [Option<Spot>; 2],
    /// What there is to say beside both sides; empty if nothing.
    pub note: String,
    /// What it can reach.
    pub reach: Reach,
}

/// What became of a unit.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum UnitState {
    /// The same, letter by letter or but for nothing that is told.
    Same,
    /// Only comments and layout are other.
    Texts,
    /// The same by another name.
    Renamed,
    /// Changed.
    Changed,
    /// Only on the left.
    OnlyLeft,
    /// Only on the right.
    OnlyRight,
}

/// An entry of the ledger of a translation, beside the network to which it belongs.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct LedgerLine {
    /// Its code.
    pub code: String,
    /// Its grade.
    pub grade: String,
    /// Where it belongs on the left.
    pub place: String,
    /// The network on the left, counted from 1.
    pub network: Option<usize>,
    /// The reason.
    pub reason: String,
}

/// A program, function or function block of both projects, or of one.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct UnitChange {
    /// What it is, in the standard's word.
    pub kind: String,
    /// Its names.
    pub names: [Option<String>; 2],
    /// The languages of its bodies.
    pub languages: [Option<Language>; 2],
    /// What became of it.
    pub state: UnitState,
    /// The numbers of its changes.
    pub changes: Vec<usize>,
    /// Whether that matters, once it was asked.
    pub verdict: Option<UnitVerdict>,
    /// What is not one to one where its languages or dialects differ.
    pub ledger: Vec<LedgerLine>,
    /// Its lines or networks side by side.
    #[serde(skip)]
    pub rows: Vec<Row>,
}

impl UnitChange {
    /// Its name, that of the left if it is there.
    #[must_use]
    pub fn name(&self) -> &str {
        self.names.iter().flatten().next().map_or("", String::as_str)
    }
}

/// Which outputs changes can reach.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Outputs {
    /// Outputs that hang on something that changed, by their names on the left, each with the numbers of the changes; of
    /// one that hangs on more than can be told apart, none.
    pub touched: Vec<(String, Vec<usize>)>,
    /// Outputs that hang on nothing that changed.
    pub untouched: Vec<String>,
    /// Outputs of one side only.
    pub alone: [Vec<String>; 2],
    /// Why no output is untouched, where that is so.
    pub why: Option<String>,
}

/// Two projects side by side.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Changes {
    /// What both are called.
    pub versions: [String; 2],
    /// Programs, functions and function blocks, in the order of the left.
    pub units: Vec<UnitChange>,
    /// All changes.
    pub changes: Vec<Change>,
    /// What they can reach.
    pub outputs: Outputs,
    /// A verdict on each group, and on all.
    pub stood: Stood,
    #[serde(skip)]
    names: units::HeldNames,
    /// What parts that changed read and write, left and right.
    #[serde(skip)]
    handled: [Vec<PointId>; 2],
}

impl Changes {
    /// How parts of bodies stand to those of the other side, by their places: left or right.
    pub(crate) fn marks(&self, side: usize) -> HashMap<Span, LineState> {
        let mut out = HashMap::new();
        for change in self.changes.iter().filter(|change| change.group == Group::Logic && change.kind != Kind::Language)
        {
            let Some(spot) = &change.sides[side] else { continue };
            let alone = change.sides[1 - side].is_none();
            let state = match (change.kind, alone, side) {
                (Kind::Moved, ..) => LineState::Moved,
                (Kind::Added | Kind::Removed | Kind::Branch, true, 0) => LineState::Gone,
                (Kind::Added | Kind::Removed | Kind::Branch, true, _) => LineState::New,
                _ => LineState::Changed,
            };
            out.extend(spot.spans.iter().map(|span| (*span, state)));
        }
        out
    }

    /// Whether a scenario passes through what changed: something that a changed part reads or writes is other in it than where
    /// nothing happens, or it tells both sides apart. Where it does neither it says nothing of what changed.
    #[must_use]
    pub fn is_passed(&self, twin: &Twin<'_>, scenario: &Scenario) -> bool {
        crate::twin::moves(twin, scenario, self.handled.each_ref().map(Vec::as_slice))
    }

    /// A change by its number.
    #[must_use]
    pub fn change(&self, number: usize) -> Option<&Change> {
        self.changes.get(number.checked_sub(1)?)
    }
}

/// What a change is caused by, for whoever asks what it reaches.
#[derive(Clone, Debug)]
enum Cause {
    /// Nothing that runs.
    Nothing,
    /// Parts of bodies, on both sides.
    Parts([Vec<Span>; 2]),
    /// A variable: the names of its unit on both sides (none: a global), and its own.
    Variable([Option<String>; 2], [Option<String>; 2]),
    /// A constant, as [`Cause::Variable`]: what mentions it is made of its value.
    Constant([Option<String>; 2], [Option<String>; 2]),
    /// Everything.
    Everything(&'static str),
}

/// A change, and by what it is caused.
struct Found {
    change: Change,
    cause: Cause,
}

/// Both projects while they are held against each other.
struct Both<'c> {
    sides: [&'c Checked; 2],
    /// Compiled, where they have a program.
    machines: [Option<Machine>; 2],
    found: Vec<Found>,
}

impl Both<'_> {
    fn spot(&self, side: usize, span: Span, text: impl Into<String>) -> Option<Spot> {
        let place = self.sides[side].project().place(span);
        Some(Spot { place, text: text.into(), network: None, spans: vec![span] })
    }

    /// Numbers the changes: what runs first, texts behind; of each the number, in the order in which they were found.
    fn number(&mut self) -> Vec<usize> {
        let mut order: Vec<usize> = (0..self.found.len()).collect();
        order.sort_by_key(|at| self.found[*at].change.group == Group::Texts);
        let mut numbers = vec![0; order.len()];
        order.iter().enumerate().for_each(|(number, at)| numbers[*at] = number + 1);
        self.found.iter_mut().zip(&numbers).for_each(|(found, number)| found.change.number = *number);
        self.found.sort_by_key(|found| found.change.number);
        numbers
    }

    fn tell(&mut self, about: (Group, Kind), unit: Option<&str>, subject: impl Into<String>) -> &mut Found {
        let change = Change {
            number: 0,
            group: about.0,
            kind: about.1,
            unit: unit.map(str::to_string),
            subject: subject.into(),
            sides: [None, None],
            note: String::new(),
            reach: Reach::Nothing,
        };
        self.found.push(Found { change, cause: Cause::Nothing });
        let last = self.found.len() - 1;
        &mut self.found[last]
    }
}

impl Found {
    fn sides(&mut self, sides: [Option<Spot>; 2]) -> &mut Found {
        self.change.sides = sides;
        self
    }

    fn note(&mut self, note: impl Into<String>) -> &mut Found {
        self.change.note = note.into();
        self
    }

    fn cause(&mut self, cause: Cause) -> &mut Found {
        self.cause = cause;
        self
    }
}

/// Holds two projects against each other.
#[must_use]
pub fn changes(names: [&str; 2], left: &Checked, right: &Checked) -> Changes {
    let sides = [left, right];
    let mut both = Both { sides, machines: sides.map(|side| Machine::new(side).ok()), found: Vec::new() };
    let held = units::held(&mut both);
    sheets::told(&mut both);
    points::told(&mut both, &held.names);
    timing::told(&mut both, &held.names);
    let numbers = both.number();
    let (outputs, handled) = reach::reached(&mut both, &held);
    let list: Vec<Change> = both.found.into_iter().map(|found| found.change).collect();
    let mut of_unit: HashMap<String, Vec<usize>> = HashMap::new();
    for change in &list {
        of_unit.entry(change.unit.clone().unwrap_or_default()).or_default().push(change.number);
    }
    let mut units = held.units;
    for unit in &mut units {
        unit.rows.iter_mut().for_each(|row| row.change = row.found.and_then(|found| numbers.get(found).copied()));
        unit.changes = of_unit.remove(unit.name()).unwrap_or_default();
        unit.state = stood::state(unit, &list);
    }
    let mut out = Changes {
        versions: names.map(str::to_string),
        units,
        changes: list,
        outputs,
        stood: Stood::default(),
        names: held.names,
        handled,
    };
    out.stand();
    out
}

/// The schema of two projects side by side as JSON (JSON Schema, 2020-12).
#[must_use]
pub fn schema() -> String {
    let schema = schemars::schema_for!(Changes);
    serde_json::to_string_pretty(&schema).unwrap_or_default() + "\n"
}
