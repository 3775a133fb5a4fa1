//! Time as newtypes of integers: the library never reads a clock.

use serde::{Deserialize, Serialize};

/// A span of time in whole nanoseconds; may be negative, as TIME values may.
#[derive(
    Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, schemars::JsonSchema,
)]
pub struct Duration(i64);

impl Duration {
    /// Milliseconds as text, with up to six digits behind the point; `None` of anything else.
    pub(crate) fn read_milliseconds(text: &str) -> Option<Duration> {
        let (sign, text) = text.strip_prefix('-').map_or((1, text), |text| (-1, text));
        let (whole, fraction) = text.split_once('.').unwrap_or((text, ""));
        if fraction.len() > 6 || !fraction.chars().all(|c| c.is_ascii_digit()) {
            return None;
        }
        let whole: i64 = whole.parse().ok().filter(|whole| *whole >= 0)?;
        let below: i64 = format!("{fraction:0<6}").parse().ok()?;
        Some(Duration::from_nanos(sign * whole.checked_mul(1_000_000)?.checked_add(below)?))
    }

    /// Milliseconds, with a fraction only where there is one.
    pub(crate) fn milliseconds_text(self) -> String {
        let (sign, nanos) = (if self.nanos() < 0 { "-" } else { "" }, self.nanos().unsigned_abs());
        let (whole, below) = (nanos / 1_000_000, nanos % 1_000_000);
        if below == 0 {
            format!("{sign}{whole}")
        } else {
            format!("{sign}{whole}.{below:06}").trim_end_matches('0').to_string()
        }
    }

    /// No time at all.
    pub const ZERO: Duration = Duration(0);

    /// From whole nanoseconds.
    #[must_use]
    pub const fn from_nanos(nanos: i64) -> Self {
        Duration(nanos)
    }

    /// From whole milliseconds; saturates at about 292 years.
    #[must_use]
    pub const fn from_millis(millis: i64) -> Self {
        Duration(millis.saturating_mul(1_000_000))
    }

    /// Whole nanoseconds.
    #[must_use]
    pub const fn nanos(self) -> i64 {
        self.0
    }

    /// Whole milliseconds, truncated towards zero.
    #[must_use]
    pub const fn millis(self) -> i64 {
        self.0 / 1_000_000
    }

    /// The sum, saturating.
    #[must_use]
    pub const fn plus(self, other: Duration) -> Duration {
        Duration(self.0.saturating_add(other.0))
    }

    /// Difference, at the limits if it is beyond them.
    #[must_use]
    pub const fn minus(self, other: Duration) -> Duration {
        Duration(self.0.saturating_sub(other.0))
    }
}

/// A moment: time since the scenario began, in nanoseconds. The first scan starts at zero.
#[derive(
    Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, schemars::JsonSchema,
)]
pub struct Instant(pub Duration);

impl Instant {
    /// The moment `by` later, saturating.
    #[must_use]
    pub const fn after(self, by: Duration) -> Instant {
        Instant(self.0.plus(by))
    }
}

/// Number of a scan since the scenario began, from 0.
#[derive(
    Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, schemars::JsonSchema,
)]
pub struct ScanNumber(pub u64);
