//! How the lists of a controller are laid out on paper, where that is not the standard's way.

use crate::model::When;
use indexmap::IndexMap;
use serde::{Deserialize, Serialize};

/// The layout of a printed or exported list. What a sheet does not say is as in the standard's instruction list.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct Listing {
    /// Instructions have a number in front of them; a jump may name it in place of a label.
    #[serde(default)]
    pub step_numbers: bool,
    /// Signs from which on the rest of a line is a comment, beside the standard's comments.
    #[serde(default)]
    pub comments: Vec<String>,
    /// What stands in front of a constant, with the radix of the digits behind it: 10 or 16.
    #[serde(default)]
    pub constants: IndexMap<String, u32>,
    /// What stands between the operands of an instruction.
    #[serde(default)]
    pub operands: Separator,
    /// A line that ends with this sign goes on in the next.
    #[serde(default)]
    pub continuation: Option<String>,
    /// Beginnings of lines that are no part of the program: titles, page numbers, rules across the page.
    #[serde(default)]
    pub heads: Vec<String>,
    /// So many lines at the top of each page are no part of the program; a form feed begins a page.
    #[serde(default)]
    pub head_lines: u32,
}

/// The words by which lists and ladders speak of routines: parts of a program without parameters that share all points and
/// devices with it.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct Routines {
    /// Begins one in a list; its name or number stands behind it.
    pub begin: String,
    /// Ends it.
    pub end: String,
    /// Calls one, whatever the current result.
    #[serde(default)]
    pub call: Option<String>,
    /// Calls one if the current result is TRUE; in a ladder a coil with this word in it, and the routine above it.
    #[serde(default)]
    pub call_if: Option<String>,
}

impl Routines {
    /// The name of the block that a routine becomes: a number is no name.
    #[must_use]
    pub(crate) fn block(routine: &str) -> String {
        if routine.starts_with(|c: char| c.is_ascii_digit()) {
            format!("Routine_{routine}")
        } else {
            routine.to_string()
        }
    }

    /// The name of its only instance.
    #[must_use]
    pub(crate) fn instance(block: &str) -> String {
        format!("Run_{block}")
    }

    /// The block of an instance, by their names.
    #[must_use]
    pub(crate) fn block_of(instance: &str) -> Option<&str> {
        let head = instance.get(..4)?;
        head.eq_ignore_ascii_case("Run_").then(|| &instance[4..])
    }

    /// The routine of a block, as lists write it.
    #[must_use]
    pub(crate) fn written(block: &str) -> &str {
        match block.strip_prefix("Routine_") {
            Some(number) if !number.is_empty() && number.bytes().all(|b| b.is_ascii_digit()) => number,
            Some(_) | None => block,
        }
    }

    /// When a word calls a routine, if it does.
    #[must_use]
    pub(crate) fn calls(&self, word: &str) -> Option<When> {
        let is = |own: &Option<String>| own.as_ref().is_some_and(|own| own.eq_ignore_ascii_case(word));
        if is(&self.call) {
            Some(When::Always)
        } else if is(&self.call_if) {
            Some(When::IfTrue)
        } else {
            None
        }
    }
}

/// What stands between operands.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Separator {
    /// A comma, with or without blanks.
    #[default]
    Comma,
    /// Blanks; a comma does as well.
    Blank,
}

impl Separator {
    /// As it is written.
    #[must_use]
    pub(crate) const fn text(self) -> &'static str {
        match self {
            Separator::Comma => ", ",
            Separator::Blank => " ",
        }
    }
}

impl Listing {
    /// True for the standard's own layout.
    #[must_use]
    pub(crate) fn is_standard(&self) -> bool {
        *self == Listing::default()
    }

    /// The constant at the beginning of a text, if one stands there: how long it is with its sign and its digits, where the
    /// digits begin, and their radix.
    #[must_use]
    pub(crate) fn constant_at(&self, text: &str) -> Option<Constant> {
        let fits = |(prefix, radix): (&String, &u32)| {
            let head = text.get(..prefix.len())?;
            if !head.eq_ignore_ascii_case(prefix) {
                return None;
            }
            let rest = &text[prefix.len()..];
            let negative = rest.starts_with('-');
            let signed = usize::from(negative || rest.starts_with('+'));
            let digits = rest[signed..].bytes().take_while(|b| b.is_ascii_alphanumeric()).count();
            // What stands behind a sign is a number, if perhaps a wrong one; what stands behind a letter may be a name.
            let is_sign = !prefix.ends_with(|c: char| c.is_ascii_alphabetic())
                && rest[signed..].starts_with(|c: char| c.is_ascii_digit());
            let good = digits > 0 && (is_sign || rest[signed..signed + digits].chars().all(|c| c.is_digit(*radix)));
            let ends =
                !rest[signed + digits..].starts_with(|c: char| c.is_alphanumeric() || matches!(c, '_' | '#' | '.'));
            let start = prefix.len() + signed;
            (good && ends).then_some(Constant { start, length: start + digits, radix: *radix, negative })
        };
        // The longest prefix that fits: `KH10` is not `K` with the digits `H10`.
        self.constants.iter().filter_map(fits).max_by_key(|c| c.start)
    }

    /// A number as a constant of decimal digits, if the layout has a prefix for them.
    #[must_use]
    pub(crate) fn write_constant(&self, number: i128) -> Option<String> {
        let (prefix, _) = self.constants.iter().find(|(_, radix)| **radix == 10)?;
        Some(format!("{prefix}{number}"))
    }
}

/// A constant of a listing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Constant {
    /// Where its digits begin.
    pub(crate) start: usize,
    /// Where they end.
    pub(crate) length: usize,
    pub(crate) radix: u32,
    pub(crate) negative: bool,
}
