//! Timers, counters, latches and one-shots of a sheet, and the facts about them.

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};

/// A kind of timer, counter, latch or one-shot, with the block that does it.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct Device {
    /// In words.
    pub name: String,
    /// What it is.
    pub kind: DeviceKind,
    /// The function block that does it.
    pub block: String,
    /// The numbers by which it is addressed; `None`: programs declare instances of the block.
    #[serde(default)]
    pub numbers: Option<DeviceNumbers>,
    /// Inputs that the number settles, each with a literal.
    #[serde(default)]
    pub set: IndexMap<String, String>,
    /// How the list form and coils drive it.
    #[serde(default, rename = "op")]
    pub ops: Vec<Operation>,
    /// The block's pins by what they are for.
    pub pins: IndexMap<Role, String>,
    /// The output that a bare mention means where a BOOL is wanted.
    #[serde(default)]
    pub bit: Option<String>,
    /// The output that a bare mention means where a number is wanted.
    #[serde(default)]
    pub word: Option<String>,
    /// True if its state survives a power cycle.
    #[serde(default)]
    pub retained: bool,
    /// For a device in registers: the output that each register of its run shows, from the first.
    #[serde(default)]
    pub registers: Vec<String>,
    /// About a timer.
    #[serde(default)]
    pub timer: Option<TimerFacts>,
    /// About a counter.
    #[serde(default)]
    pub counter: Option<CounterFacts>,
    /// About a latch.
    #[serde(default)]
    pub latch: Option<LatchFacts>,
    /// About a one-shot.
    #[serde(default)]
    pub edge: Option<EdgeFacts>,
}

/// What a device is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum DeviceKind {
    /// A timer that is done when its input has been on for the preset.
    OnDelay,
    /// A timer that stays on for the preset after its input has gone.
    OffDelay,
    /// A timer that is on for the preset from the rise of its input.
    Pulse,
    /// An on-delay that keeps its elapsed time while the input is off.
    Retentive,
    /// A counter of one input.
    CountUp,
    /// A counter that is loaded and counts towards zero.
    CountDown,
    /// A counter of both directions.
    CountBoth,
    /// A latch.
    Latch,
    /// TRUE for one evaluation when its input has risen.
    Rise,
    /// TRUE for one evaluation when its input has fallen.
    Fall,
}

impl Device {
    /// True if a number of an area is one of its own.
    #[must_use]
    pub fn has_number(&self, area: &str, index: u32) -> bool {
        self.numbers.as_ref().is_some_and(|n| n.area == area && (n.first..=n.last).contains(&index))
    }
}

impl DeviceKind {
    /// In words.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            DeviceKind::OnDelay => "on-delay timer",
            DeviceKind::OffDelay => "off-delay timer",
            DeviceKind::Pulse => "pulse timer",
            DeviceKind::Retentive => "retentive timer",
            DeviceKind::CountUp => "up counter",
            DeviceKind::CountDown => "down counter",
            DeviceKind::CountBoth => "up/down counter",
            DeviceKind::Latch => "latch",
            DeviceKind::Rise => "rising edge",
            DeviceKind::Fall => "falling edge",
        }
    }

    /// In words, with its article.
    #[must_use]
    pub fn a_word(self) -> String {
        let word = self.word();
        let article = if word.starts_with(['o', 'u']) { "an" } else { "a" };
        format!("{article} {word}")
    }

    /// True for the four kinds of timers.
    #[must_use]
    pub const fn is_timer(self) -> bool {
        matches!(self, DeviceKind::OnDelay | DeviceKind::OffDelay | DeviceKind::Pulse | DeviceKind::Retentive)
    }

    /// True for the three kinds of counters.
    #[must_use]
    pub const fn is_counter(self) -> bool {
        matches!(self, DeviceKind::CountUp | DeviceKind::CountDown | DeviceKind::CountBoth)
    }
}

/// A range of numbers of an area, counted from 0.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct DeviceNumbers {
    /// The area.
    pub area: String,
    /// The first number.
    pub first: u32,
    /// The last one, included.
    pub last: u32,
}

/// An instruction or coil that drives a device.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct Operation {
    /// Its word in list form.
    pub word: String,
    /// The inputs that take conditions, in the order in which these are loaded.
    pub power: Vec<String>,
    /// The inputs whose values stand behind the device.
    #[serde(default)]
    pub operands: Vec<String>,
    /// The output that is the current result afterwards.
    #[serde(default)]
    pub result: Option<String>,
}

/// What a pin is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Role {
    /// A timer runs, an edge looks, a block works by it.
    Run,
    /// Where a timer ends or a counter is done.
    Preset,
    /// Starts over.
    Reset,
    /// Counts (up, if there is also `down`; either way, if there is `direction`).
    Count,
    /// Counts down.
    Down,
    /// TRUE: up.
    Direction,
    /// Takes over the preset.
    Load,
    /// A latch is set.
    Set,
    /// The device has done what it is for.
    Done,
    /// A counter is at zero or below.
    AtZero,
    /// Elapsed time, or what is left of it.
    Elapsed,
    /// The count, or what is left of it.
    Value,
    /// A timer is under way.
    Timing,
    /// The input, as the device saw it last.
    Enabled,
    /// A count went over its limit.
    Overflowed,
}

impl Role {
    /// True for the pins that are given, not answered.
    #[must_use]
    pub(crate) const fn is_input(self) -> bool {
        use Role::{Count, Direction, Down, Load, Preset, Reset, Run, Set};
        matches!(self, Run | Preset | Reset | Count | Down | Direction | Load | Set)
    }

    /// The word for it in a sheet.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Role::Run => "run",
            Role::Preset => "preset",
            Role::Reset => "reset",
            Role::Count => "count",
            Role::Down => "down",
            Role::Direction => "direction",
            Role::Load => "load",
            Role::Set => "set",
            Role::Done => "done",
            Role::AtZero => "at-zero",
            Role::Elapsed => "elapsed",
            Role::Value => "value",
            Role::Timing => "timing",
            Role::Enabled => "enabled",
            Role::Overflowed => "overflowed",
        }
    }
}

/// The unit of a preset.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum PresetUnit {
    /// A TIME.
    Duration,
    /// A whole number of ticks.
    Ticks,
}

/// Where ticks begin.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Phase {
    /// With the timer.
    Own,
    /// They run on through the scans; a timer counts those that fall.
    Common,
}

/// Which way a number runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Counting {
    /// From zero to the preset.
    Up,
    /// From the preset to zero.
    Down,
}

/// What happens at the preset.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Past {
    /// Elapsed stays there.
    Stops,
    /// Elapsed runs on to the register's limit.
    RunsOn,
}

/// When the done bit changes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum DoneAt {
    /// When the device executes.
    Once,
    /// When it executes in the next scan.
    NextScan,
}

/// What a device does that is not executed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Idle {
    /// Time that passes counts.
    GoesOn,
    /// Time that passes does not count.
    StandsStill,
}

/// How a device is reset.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum ResetBy {
    /// Only by what else it does.
    None,
    /// By an input beside the others.
    Input,
    /// By an instruction of its own, anywhere.
    Instruction,
}

/// Facts about a timer.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct TimerFacts {
    /// The unit of the preset, and of elapsed.
    pub unit: PresetUnit,
    /// How fine it is: the length of a tick, or what durations are cut to a multiple of. A literal: `T#100ms`.
    pub tick: String,
    /// Where its ticks begin.
    pub phase: Phase,
    /// The largest preset, in ticks.
    pub most: i64,
    /// Which way elapsed runs.
    pub counts: Counting,
    /// What happens at the preset.
    pub past: Past,
    /// When the done bit changes.
    pub done: DoneAt,
    /// What it does while it is not executed.
    pub idle: Idle,
    /// How it is reset.
    pub reset: ResetBy,
}

/// What makes a counter count.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Trigger {
    /// The rise of its input.
    Rise,
    /// Every scan in which its input is on.
    EveryScan,
}

/// What a counter makes of an input that is on when it first executes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum PowerUp {
    /// That counts.
    Counts,
    /// That does not count.
    Ignored,
    /// It remembers the input over the power cycle.
    Remembered,
}

/// Where a count ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Limit {
    /// It stays at the preset (or at zero, counting down from it).
    Preset,
    /// It stays at `most` (and at `least`).
    Most,
    /// Beyond `most` it starts over at `least`.
    Wraps,
}

/// When a counter is done.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum DoneWhen {
    /// At the preset only.
    Equal,
    /// At the preset and beyond.
    AtLeast,
}

/// Facts about a counter. In all of them a reset that is on holds the count where it resets it.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct CounterFacts {
    /// What makes it count.
    pub trigger: Trigger,
    /// An input that is on from the beginning.
    pub power_up: PowerUp,
    /// Which way the number runs that programs read.
    pub counts: Counting,
    /// Where it ends.
    pub limit: Limit,
    /// The lowest number it holds.
    pub least: i64,
    /// The highest number it holds.
    pub most: i64,
    /// The largest preset.
    pub most_preset: i64,
    /// When it is done.
    pub done: DoneWhen,
    /// How it is reset.
    pub reset: ResetBy,
}

/// Facts about a latch.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct LatchFacts {
    /// The side that wins: `set` or `reset`.
    pub wins: Role,
}

/// Facts about a one-shot.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct EdgeFacts {
    /// Its answer in its first call, if the input is on (rising) or off (falling).
    pub first: bool,
}
