//! The elementary types: widths, ranges and which widens to which.
//!
//! Source of the widening rule: IEC 61131-3, third edition, the figure of implicit conversions.

use serde::Serialize;

/// An elementary type.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "UPPERCASE")]
#[allow(missing_docs, reason = "the names are the standard's own")]
pub enum Elem {
    Bool,
    Sint,
    Int,
    Dint,
    Lint,
    Usint,
    Uint,
    Udint,
    Ulint,
    Byte,
    Word,
    Dword,
    Lword,
    Real,
    Lreal,
    Time,
    Ltime,
}

/// What kind of value a type has, whatever its width.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Family {
    /// BOOL.
    Bool,
    /// BYTE to LWORD.
    Bits,
    /// SINT to ULINT.
    Int,
    /// REAL and LREAL.
    Real,
    /// TIME and LTIME.
    Time,
    /// STRING, which is no elementary type.
    Text,
}

/// How an integer-like value sits in a 64-bit slot: its width, and whether the top bit is a sign.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct IntShape {
    /// 1, 8, 16, 32 or 64.
    pub bits: u8,
    /// Two's complement if true.
    pub signed: bool,
}

impl IntShape {
    /// LINT and TIME.
    pub const LONG: IntShape = IntShape { bits: 64, signed: true };
    /// ULINT and LWORD: all bits of a slot.
    pub const WHOLE: IntShape = IntShape { bits: 64, signed: false };

    /// Keeps the low bits of `value`, sign- or zero-extended to the slot.
    #[inline]
    #[must_use]
    pub const fn wrap(self, value: i64) -> i64 {
        // Up to the top and down again, which brings the sign or zeros along.
        let above = 64u32.wrapping_sub(self.bits as u32);
        let top = value.wrapping_shl(above);
        if self.signed { top.wrapping_shr(above) } else { (top as u64).wrapping_shr(above) as i64 }
    }

    /// Smallest and largest value.
    #[must_use]
    pub const fn range(self) -> (i128, i128) {
        if self.signed {
            (-(1i128 << (self.bits - 1)), (1i128 << (self.bits - 1)) - 1)
        } else {
            (0, (1i128 << self.bits) - 1)
        }
    }

    /// The value a slot of this shape holds, as a number.
    #[must_use]
    #[inline]
    pub const fn number(self, slot: i64) -> i128 {
        if self.signed { slot as i128 } else { slot as u64 as i128 }
    }

    /// True if the slot must be compared as unsigned 64 bits.
    #[must_use]
    pub const fn is_unsigned_64(self) -> bool {
        self.bits == 64 && !self.signed
    }
}

impl Elem {
    /// Every elementary type.
    pub const ALL: [Elem; 17] = [
        Elem::Bool,
        Elem::Sint,
        Elem::Int,
        Elem::Dint,
        Elem::Lint,
        Elem::Usint,
        Elem::Uint,
        Elem::Udint,
        Elem::Ulint,
        Elem::Byte,
        Elem::Word,
        Elem::Dword,
        Elem::Lword,
        Elem::Real,
        Elem::Lreal,
        Elem::Time,
        Elem::Ltime,
    ];

    /// The standard's name.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Elem::Bool => "BOOL",
            Elem::Sint => "SINT",
            Elem::Int => "INT",
            Elem::Dint => "DINT",
            Elem::Lint => "LINT",
            Elem::Usint => "USINT",
            Elem::Uint => "UINT",
            Elem::Udint => "UDINT",
            Elem::Ulint => "ULINT",
            Elem::Byte => "BYTE",
            Elem::Word => "WORD",
            Elem::Dword => "DWORD",
            Elem::Lword => "LWORD",
            Elem::Real => "REAL",
            Elem::Lreal => "LREAL",
            Elem::Time => "TIME",
            Elem::Ltime => "LTIME",
        }
    }

    /// The type of that name, whatever the case of its letters.
    #[must_use]
    pub fn from_name(name: &str) -> Option<Elem> {
        Elem::ALL.into_iter().find(|e| e.name().eq_ignore_ascii_case(name))
    }

    /// Width and sign of the slot; `None` for REAL and LREAL. TIME and LTIME are 64-bit nanoseconds.
    #[must_use]
    #[inline]
    pub const fn shape(self) -> Option<IntShape> {
        let (bits, signed) = match self {
            Elem::Bool => (1, false),
            Elem::Sint => (8, true),
            Elem::Int => (16, true),
            Elem::Dint => (32, true),
            Elem::Lint | Elem::Time | Elem::Ltime => (64, true),
            Elem::Usint | Elem::Byte => (8, false),
            Elem::Uint | Elem::Word => (16, false),
            Elem::Udint | Elem::Dword => (32, false),
            Elem::Ulint | Elem::Lword => (64, false),
            Elem::Real | Elem::Lreal => return None,
        };
        Some(IntShape { bits, signed })
    }

    /// What kind of value it has.
    #[must_use]
    #[inline]
    pub const fn family(self) -> Family {
        match self {
            Elem::Bool => Family::Bool,
            Elem::Byte | Elem::Word | Elem::Dword | Elem::Lword => Family::Bits,
            Elem::Sint | Elem::Int | Elem::Dint | Elem::Lint => Family::Int,
            Elem::Usint | Elem::Uint | Elem::Udint | Elem::Ulint => Family::Int,
            Elem::Real | Elem::Lreal => Family::Real,
            Elem::Time | Elem::Ltime => Family::Time,
        }
    }

    /// SINT to ULINT.
    #[must_use]
    pub const fn is_integer(self) -> bool {
        matches!(self.family(), Family::Int)
    }

    /// SINT to LINT.
    #[must_use]
    pub const fn is_signed_integer(self) -> bool {
        matches!(self, Elem::Sint | Elem::Int | Elem::Dint | Elem::Lint)
    }

    /// REAL or LREAL.
    #[must_use]
    pub const fn is_real(self) -> bool {
        matches!(self.family(), Family::Real)
    }

    /// An integer or a real.
    #[must_use]
    pub const fn is_number(self) -> bool {
        matches!(self.family(), Family::Int | Family::Real)
    }

    /// BOOL or a bit string.
    #[must_use]
    pub const fn is_bits(self) -> bool {
        matches!(self.family(), Family::Bool | Family::Bits)
    }

    /// TIME or LTIME.
    #[must_use]
    pub const fn is_time(self) -> bool {
        matches!(self.family(), Family::Time)
    }

    /// True if a value of `self` is taken where `other` is wanted, without a conversion function.
    #[must_use]
    pub const fn widens_to(self, other: Elem) -> bool {
        use Elem::*;
        match self {
            Bool => matches!(other, Bool | Byte | Word | Dword | Lword),
            Byte => matches!(other, Byte | Word | Dword | Lword),
            Word => matches!(other, Word | Dword | Lword),
            Dword => matches!(other, Dword | Lword),
            Lword => matches!(other, Lword),
            Sint => matches!(other, Sint | Int | Dint | Lint | Real | Lreal),
            Int => matches!(other, Int | Dint | Lint | Real | Lreal),
            Dint => matches!(other, Dint | Lint | Lreal),
            Lint => matches!(other, Lint),
            Usint => matches!(other, Usint | Uint | Udint | Ulint | Int | Dint | Lint | Real | Lreal),
            Uint => matches!(other, Uint | Udint | Ulint | Dint | Lint | Real | Lreal),
            Udint => matches!(other, Udint | Ulint | Lint | Lreal),
            Ulint => matches!(other, Ulint),
            Real => matches!(other, Real | Lreal),
            Lreal => matches!(other, Lreal),
            Time => matches!(other, Time | Ltime),
            Ltime => matches!(other, Ltime),
        }
    }

    /// The narrower of two types to which both widen; `None` if neither widens to the other.
    #[must_use]
    pub const fn join(self, other: Elem) -> Option<Elem> {
        if self.widens_to(other) {
            Some(other)
        } else if other.widens_to(self) {
            Some(self)
        } else {
            None
        }
    }
}

/// What the outside does with a variable.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Outside {
    /// It is given from outside before every scan, as an input is; no program may write it.
    Given,
    /// It is shown outside after every scan, as an output is.
    Shown,
}
