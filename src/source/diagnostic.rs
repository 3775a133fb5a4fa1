//! What is wrong, where, and what would mend it.

use super::Span;
use serde::Serialize;

/// A stable code of a diagnostic: `R` reading, `C` checking, `H` a hint that does not stop anything.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
pub struct Code(pub &'static str);

/// How much a diagnostic weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// The program has no meaning until this is mended.
    Error,
    /// It runs, but a careful colleague would ask.
    Warning,
}

/// One problem at one place.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Diagnostic {
    /// The stable code.
    pub code: Code,
    /// How much it weighs.
    pub severity: Severity,
    /// Where.
    pub span: Span,
    /// What is wrong, in one sentence without a full stop.
    pub message: String,
    /// What would mend it, if known.
    pub help: Option<String>,
    /// Other places that belong to it, each with a word on why.
    pub related: Vec<(Span, String)>,
}

impl Diagnostic {
    /// An error at a place.
    pub fn error(code: Code, span: Span, message: impl Into<String>) -> Self {
        Diagnostic { code, severity: Severity::Error, span, message: message.into(), help: None, related: Vec::new() }
    }

    /// A warning at a place.
    pub fn warning(code: Code, span: Span, message: impl Into<String>) -> Self {
        Diagnostic { severity: Severity::Warning, ..Diagnostic::error(code, span, message) }
    }

    /// Adds what would mend it.
    #[must_use]
    pub fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }

    /// Adds another place that belongs to it.
    #[must_use]
    pub fn related(mut self, span: Span, why: impl Into<String>) -> Self {
        self.related.push((span, why.into()));
        self
    }
}

/// All problems found, in the order of their places.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Diagnostics(pub Vec<Diagnostic>);

impl Diagnostics {
    /// True if any of them is an error.
    #[must_use]
    pub fn has_errors(&self) -> bool {
        self.0.iter().any(|d| d.severity == Severity::Error)
    }

    /// How many there are of a severity.
    #[must_use]
    pub fn count(&self, severity: Severity) -> usize {
        self.0.iter().filter(|d| d.severity == severity).count()
    }

    /// Sorts by place and drops exact repetitions.
    pub fn settle(&mut self) {
        self.0.sort_by(|a, b| (a.span, a.code, &a.message).cmp(&(b.span, b.code, &b.message)));
        self.0.dedup();
    }
}

/// The codes, with what each one means.
pub mod codes {
    use super::Code;

    macro_rules! codes {
        ($($(#[$doc:meta])* $name:ident = $code:literal;)*) => {
            $($(#[$doc])* pub const $name: Code = Code($code);)*
            /// Every code there is, for documentation and tests.
            pub const ALL: &[Code] = &[$($name),*];
        };
    }

    codes! {
        /// A character that no token begins with.
        CHARACTER = "R01";
        /// A comment, string or parenthesis that never ends.
        UNENDED = "R02";
        /// Something else was expected here.
        EXPECTED = "R03";
        /// A literal that is malformed or beyond every type.
        LITERAL = "R04";
        /// Nesting or size beyond the limits.
        LIMIT = "R05";
        /// Part of the standard that Honest Twin does not read.
        UNSUPPORTED = "R06";
        /// Text after the end marker of a unit that belongs to nothing.
        STRAY = "R07";
        /// A drawing with a loose end, a missing name, or wires that do not meet as they must.
        DRAWING = "R08";
        /// A file of the exchange format that is not as its schema says.
        EXCHANGE = "R09";
        /// A sheet that is not as its schema says.
        SHEET = "D01";
        /// A map of addresses that cannot be followed.
        MAP = "D02";
        /// A fact that a sheet states of a device and its block does not bear out.
        FACT = "D04";
        /// An instruction, coil or device that the dialect does not have.
        DIALECT = "D03";
        /// A name that is not declared.
        UNKNOWN_NAME = "C01";
        /// A name declared twice.
        DUPLICATE = "C02";
        /// A type that is not declared, or a type that contains itself.
        UNKNOWN_TYPE = "C03";
        /// A value of one type where another is needed.
        TYPE = "C04";
        /// A constant that does not fit its type.
        RANGE = "C05";
        /// An argument that is missing, unknown, given twice or of the wrong direction.
        ARGUMENT = "C06";
        /// A write to a constant, to an input or to something that is not a variable.
        WRITE = "C07";
        /// A unit that calls itself, directly or through others.
        RECURSION = "C08";
        /// A jump to a label that is not there, or a label given twice.
        LABEL = "C09";
        /// EXIT or CONTINUE outside a loop.
        LOOP = "C10";
        /// The current result is missing or of the wrong type.
        CURRENT_RESULT = "C11";
        /// An address that is malformed, or one address given to two names.
        ADDRESS = "C12";
        /// A variable that nothing reads or writes.
        UNUSED = "H01";
        /// A variable that is read but never written.
        NEVER_WRITTEN = "H02";
        /// Code that no scan reaches.
        UNREACHABLE = "H03";
        /// One output written in two places; the last write of a scan wins (trap 13).
        TWO_WRITES = "H04";
        /// A loop that ends only at the loop limit.
        ENDLESS = "H05";
        /// A name longer than the controller keeps.
        NAME_LENGTH = "H07";
        /// An input that is TRUE at rest and read only inverted (trap 14).
        INVERTED_TWICE = "H08";
        /// A timer or counter driven twice in a scan, with two presets.
        TWO_PRESETS = "H09";
        /// A preset that the timer or counter cannot hold, or not to the full.
        PRESET = "H10";
        /// A CASE label that an earlier branch already takes.
        CASE_LABEL = "H06";
        /// A text without a head: what it uses is declared by how it is used.
        FRAGMENT = "H11";
        /// A line of a drawing that is shifted by a character, and was read as if it were not.
        SHIFTED = "H12";
    }
}
