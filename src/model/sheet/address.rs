//! Addresses: patterns of letters, separators and numeric fields in any radix, read and written.

use serde::{Deserialize, Serialize};

/// A numeric field of a pattern.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct Field {
    /// 8, 10 or 16.
    #[serde(default = "decimal")]
    pub radix: u32,
    /// Exactly so many digits, with leading zeros; 0 for as many as it takes.
    #[serde(default)]
    pub digits: usize,
    /// The first number.
    #[serde(default)]
    pub first: u32,
    /// The last number, included.
    pub last: u32,
}

const fn decimal() -> u32 {
    10
}

/// A part of a pattern.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Piece {
    /// Letters and separators, as they stand; the case of letters does not count.
    Fixed(String),
    /// A number.
    Field(Field),
}

/// A pattern, taken apart.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Pattern {
    /// Its parts in order.
    pub pieces: Vec<Piece>,
}

/// What is wrong with an address.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct AddressError {
    /// Byte of the address at which the wrong part begins.
    pub at: usize,
    /// How many bytes are wrong.
    pub length: usize,
    /// What is wrong, in words.
    pub message: String,
}

impl Field {
    /// How many numbers it has.
    #[must_use]
    pub const fn count(self) -> u32 {
        self.last.saturating_sub(self.first).saturating_add(1)
    }

    /// The name of its radix.
    #[must_use]
    pub(crate) const fn radix_name(self) -> &'static str {
        match self.radix {
            8 => "octal",
            16 => "hexadecimal",
            _ => "decimal",
        }
    }

    fn write(self, number: u32) -> String {
        let width = self.digits;
        match self.radix {
            8 => format!("{number:0width$o}"),
            16 => format!("{number:0width$X}"),
            _ => format!("{number:0width$}"),
        }
    }

    /// How much of a text may be its digits: those it has, where another field follows at once.
    fn length_in(self, text: &str, adjoins: bool) -> usize {
        let there = text.bytes().take_while(u8::is_ascii_alphanumeric).count();
        if adjoins { there.min(self.digits) } else { there }
    }

    fn read(self, digits: &str, at: usize) -> Result<u32, AddressError> {
        if let Some((offset, bad)) = digits.char_indices().find(|(_, c)| !c.is_digit(self.radix)) {
            let article = if self.radix == 8 { "an" } else { "a" };
            let message = format!("`{bad}` is not {article} {} digit", self.radix_name());
            return Err(AddressError { at: at + offset, length: bad.len_utf8(), message });
        }
        let wrong = |message| Err(AddressError { at, length: digits.len(), message });
        if self.digits > 0 && digits.len() != self.digits {
            return wrong(format!("`{digits}` should have {} digits, as {}", self.digits, self.write(self.first)));
        }
        match u32::from_str_radix(digits, self.radix) {
            Ok(number) if (self.first..=self.last).contains(&number) => Ok(number),
            _ => wrong(format!(
                "`{digits}` is out of range; these numbers go from {} to {}{}",
                self.write(self.first),
                self.write(self.last),
                if self.radix == 10 {
                    ""
                } else if self.radix == 8 {
                    " in octal"
                } else {
                    " in hexadecimal"
                }
            )),
        }
    }
}

impl Pattern {
    /// How many addresses it can write.
    #[must_use]
    pub fn count(&self) -> u32 {
        self.fields().fold(1u32, |n, f| n.saturating_mul(f.count()))
    }

    fn fields(&self) -> impl Iterator<Item = Field> + '_ {
        self.pieces.iter().filter_map(|p| if let Piece::Field(f) = p { Some(*f) } else { None })
    }

    /// True if a field follows the piece of this number without anything between them.
    fn adjoins(&self, number: usize) -> bool {
        matches!(self.pieces.get(number + 1), Some(Piece::Field(_)))
    }

    /// How long the text at the beginning of `text` is that has the pattern's shape: its letters and separators, and
    /// for each field a digit with letters and digits behind it.
    #[must_use]
    pub(crate) fn shape_length(&self, text: &str) -> Option<usize> {
        if self.pieces.is_empty() {
            return None;
        }
        let mut at = 0;
        for (number, piece) in self.pieces.iter().enumerate() {
            let rest = text.get(at..)?;
            match piece {
                Piece::Fixed(fixed) => {
                    let head = rest.get(..fixed.len())?;
                    if !head.eq_ignore_ascii_case(fixed) {
                        return None;
                    }
                    at += fixed.len();
                }
                Piece::Field(field) => {
                    if !rest.starts_with(|c: char| c.is_ascii_digit()) {
                        return None;
                    }
                    at += field.length_in(rest, self.adjoins(number));
                }
            }
        }
        let more = text.get(at..)?.chars().next().is_some_and(|c| c.is_alphanumeric() || c == '_');
        (!more).then_some(at)
    }

    /// The number of an address, counted from 0 through the whole area.
    ///
    /// # Errors
    /// The first part that is wrong.
    pub fn read(&self, text: &str) -> Result<u32, AddressError> {
        let (mut at, mut index) = (0usize, 0u32);
        for (number, piece) in self.pieces.iter().enumerate() {
            let rest = text.get(at..).unwrap_or("");
            match piece {
                Piece::Fixed(fixed) => {
                    if !rest.get(..fixed.len()).is_some_and(|head| head.eq_ignore_ascii_case(fixed)) {
                        return Err(AddressError { at, length: rest.len(), message: format!("expected `{fixed}`") });
                    }
                    at += fixed.len();
                }
                Piece::Field(field) => {
                    let length = field.length_in(rest, self.adjoins(number));
                    let read = field.read(&rest[..length], at)?;
                    index = index.saturating_mul(field.count()).saturating_add(read - field.first);
                    at += length;
                }
            }
        }
        if at < text.len() {
            let message = format!("`{}` is too much", &text[at..]);
            return Err(AddressError { at, length: text.len() - at, message });
        }
        Ok(index)
    }

    /// The address of a number; `None` if it is beyond the last.
    #[must_use]
    pub fn write(&self, index: u32) -> Option<String> {
        if index >= self.count() {
            return None;
        }
        let mut rest = index;
        let mut out: Vec<String> = Vec::new();
        for piece in self.pieces.iter().rev() {
            match piece {
                Piece::Fixed(fixed) => out.push(fixed.clone()),
                Piece::Field(field) => {
                    out.push(field.write(field.first + rest % field.count()));
                    rest /= field.count();
                }
            }
        }
        out.reverse();
        Some(out.concat())
    }
}
