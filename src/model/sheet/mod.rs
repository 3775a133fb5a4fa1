//! The conventions of a controller, as its sheet states them (SEMANTICS section 5): plain data, read by
//! the room `dialect`.
//!
//! A sheet says how things are written and which block a written thing stands for. What a block *does* stands in its
//! structured text and nowhere else; the `facts` of a device say it again in a few words, for whoever chooses among
//! devices, and a test runs the blocks to see that the facts are true.

mod address;
mod device;
mod listing;

pub use address::{AddressError, Field, Pattern, Piece};
pub use device::{
    CounterFacts, Counting, Device, DeviceKind, DeviceNumbers, DoneAt, DoneWhen, EdgeFacts, Idle, LatchFacts, Limit,
    Operation, Past, Phase, PowerUp, PresetUnit, ResetBy, Role, TimerFacts, Trigger,
};
pub use listing::{Listing, Routines, Separator};

use super::{Item, Outside};
use crate::source::{FileId, Source};
use indexmap::IndexMap;
use serde::{Deserialize, Serialize};

/// What a controller's programs are written by.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct Sheet {
    /// The word by which it is asked for: letters, digits and `-`.
    pub name: String,
    /// One line.
    pub title: String,
    /// A paragraph for those who choose.
    #[serde(default)]
    pub about: String,
    /// What a scan does.
    #[serde(default)]
    pub scan: ScanRules,
    /// Numbers.
    #[serde(default)]
    pub numbers: NumberRules,
    /// Names of variables.
    #[serde(default)]
    pub names: NameRules,
    /// Areas of memory with the way their addresses are written.
    #[serde(default, rename = "area")]
    pub areas: Vec<MemoryArea>,
    /// The cards of the rack, in order; without any, every point of an area is there.
    #[serde(default, rename = "card")]
    pub cards: Vec<Card>,
    /// Words of the list form, each with what it stands for: an operator of the standard (`ANDN`), or a function of
    /// the blocks. Empty: the standard's own words.
    #[serde(default)]
    pub words: IndexMap<String, String>,
    /// How lists are laid out.
    #[serde(default)]
    pub listing: Listing,
    /// How routines are written; `None`: there are none.
    #[serde(default)]
    pub routines: Option<Routines>,
    /// Timers, counters, latches and one-shots.
    #[serde(default, rename = "device")]
    pub devices: Vec<Device>,
}

/// A sheet with its blocks: the conventions that a project is written by.
#[derive(Clone, Debug)]
pub struct Library {
    /// How things are written, and what they stand for.
    pub sheet: Sheet,
    /// The text of the sheet.
    pub text: Source,
    /// The text of the blocks.
    pub source: Source,
    /// What it declares; places are in the file [`Library::FILE`].
    pub items: Vec<Item>,
}

impl Library {
    /// The file that places in the blocks are in; no file of a project has this number.
    pub const FILE: FileId = FileId(u32::MAX - 1);
}

/// What a scan does.
#[derive(Clone, Debug, PartialEq, Eq, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct ScanRules {
    /// Whether inputs are copied before the logic runs. Programs here cannot tell the difference, since nothing
    /// changes from outside within a scan.
    #[serde(default)]
    pub inputs: Image,
    /// Whether outputs are seen outside at the end of the scan.
    #[serde(default)]
    pub outputs: Image,
    /// The word that ends a program in list form; what stands below it never runs. `None`: there is none.
    #[serde(default)]
    pub end: Option<String>,
    /// Name of the bit that is TRUE in the first scan.
    #[serde(default)]
    pub first_scan: Option<String>,
}

/// When values pass between the image and the outside.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Image {
    /// All at once, between scans.
    #[default]
    Copied,
    /// Each when it is read or written.
    Live,
}

/// How registers hold numbers.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct NumberRules {
    /// The standard's type of a word that is not declared.
    pub word: String,
    /// What the list form's arithmetic does beyond the limits; the functions in the blocks say how.
    #[serde(default)]
    pub overflow: Overflow,
    /// Decimal digits that a register shows; `None`: it is binary.
    #[serde(default)]
    pub decimal_digits: Option<u32>,
    /// Which word of a number of 32 or 64 bits comes first in the open protocol.
    #[serde(default)]
    pub word_order: WordOrder,
}

impl Default for NumberRules {
    fn default() -> Self {
        NumberRules {
            word: "INT".to_string(),
            overflow: Overflow::Wraps,
            decimal_digits: None,
            word_order: WordOrder::HighFirst,
        }
    }
}

/// Which word of a number comes first, where it takes several.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum WordOrder {
    /// The highest.
    #[default]
    HighFirst,
    /// The lowest.
    LowFirst,
}

/// What arithmetic does beyond the limits.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Overflow {
    /// It starts over at the other end.
    #[default]
    Wraps,
    /// It stays at the limit.
    Saturates,
    /// It stops the program.
    Faults,
}

/// What names may look like.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct NameRules {
    /// Most characters.
    pub length: usize,
}

impl Default for NameRules {
    fn default() -> Self {
        NameRules { length: 64 }
    }
}

/// What an area is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum AreaRole {
    /// Given from outside.
    Input,
    /// Seen from outside.
    Output,
    /// Neither.
    Memory,
    /// Numbers of timers, counters and other devices.
    Devices,
}

/// What one address of an area holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Holds {
    /// A BOOL.
    Bit,
    /// A number of [`NumberRules::word`].
    Word,
    /// A device.
    Device,
}

/// An area of memory.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct MemoryArea {
    /// The word by which the rest of the sheet speaks of it.
    pub name: String,
    /// What it is for.
    pub role: AreaRole,
    /// What one address holds.
    pub holds: Holds,
    /// How an address is written: letters, separators, and `{field}`.
    pub pattern: String,
    /// The fields of the pattern.
    pub fields: IndexMap<String, Field>,
    /// Addresses that keep their values over a power cycle: ranges of numbers counted from 0, ends included.
    #[serde(default)]
    pub retained: Vec<(u32, u32)>,
    /// Addresses of memory that the outside writes, a panel or the plant: ranges as those of `retained`.
    #[serde(default)]
    pub given: Vec<(u32, u32)>,
    /// Addresses of memory that are shown outside likewise.
    #[serde(default)]
    pub shown: Vec<(u32, u32)>,
    /// The open protocol's view of it: table, and offset of the first point.
    #[serde(default)]
    pub protocol: Option<ProtocolArea>,
    /// The pattern, taken apart; made by the reader of the sheet.
    #[serde(skip)]
    pub parsed: Pattern,
}

/// A table of the Modbus data model.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum ProtocolTable {
    /// Bits that a client reads and writes.
    Coils,
    /// Bits that a client reads.
    DiscreteInputs,
    /// Words that a client reads.
    InputRegisters,
    /// Words that a client reads and writes.
    HoldingRegisters,
}

/// Where an area stands in the open protocol.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct ProtocolArea {
    /// The table.
    pub table: ProtocolTable,
    /// The protocol address of the area's first point, counted from 0.
    #[serde(default)]
    pub start: u32,
}

/// A card in the rack: it takes a run of points of one area.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct Card {
    /// What it is called.
    pub name: String,
    /// The area it takes points of.
    pub area: String,
    /// How many.
    pub points: u32,
    /// The address of its first point; `None`: the next free one.
    #[serde(default)]
    pub start: Option<String>,
    /// The protocol address of its first point, counted from 0; `None`: as the area says.
    #[serde(default)]
    pub protocol: Option<u32>,
}

impl MemoryArea {
    /// True if the address number `index` keeps its value over a power cycle.
    #[must_use]
    pub(crate) fn is_retained(&self, index: u32) -> bool {
        self.retained.iter().any(|(low, high)| (*low..=*high).contains(&index))
    }

    /// What the outside does with the address number `index`, where the sheet says so.
    #[must_use]
    pub fn outside(&self, index: u32) -> Option<Outside> {
        let is_in = |ranges: &[(u32, u32)]| ranges.iter().any(|(low, high)| (*low..=*high).contains(&index));
        match (is_in(&self.given), is_in(&self.shown)) {
            (true, _) => Some(Outside::Given),
            (false, true) => Some(Outside::Shown),
            (false, false) => None,
        }
    }

    /// Its first and last address in words.
    pub(crate) fn run(&self) -> String {
        let address = |index| self.parsed.write(index).unwrap_or_default();
        format!("{} from {} to {}", self.name, address(0), address(self.parsed.count().saturating_sub(1)))
    }

    /// The letters by which the standard calls it: `IX`, `QW`, `MX`; nothing for devices.
    #[must_use]
    pub const fn letters(&self) -> Option<&'static str> {
        Some(match (self.role, self.holds) {
            (AreaRole::Input, Holds::Bit) => "IX",
            (AreaRole::Output, Holds::Bit) => "QX",
            (AreaRole::Memory, Holds::Bit) => "MX",
            (AreaRole::Input, Holds::Word) => "IW",
            (AreaRole::Output, Holds::Word) => "QW",
            (AreaRole::Memory, Holds::Word) => "MW",
            _ => return None,
        })
    }
}

impl Sheet {
    /// The length of the address at the beginning of a text, if one stands there: the shape counts, so that a wrong
    /// digit is a wrong address and not a name.
    #[must_use]
    pub fn address_length(&self, text: &str) -> Option<usize> {
        self.areas.iter().filter_map(|a| a.parsed.shape_length(text)).max()
    }

    /// The area and number of an address.
    ///
    /// # Errors
    /// What is wrong with it, for the area whose shape it has.
    pub fn locate(&self, address: &str) -> Result<(usize, u32), AddressError> {
        let mut alike: Vec<&MemoryArea> = Vec::new();
        let mut first = None;
        for (number, area) in self.areas.iter().enumerate() {
            if area.parsed.shape_length(address) != Some(address.len()) {
                continue;
            }
            match area.parsed.read(address) {
                Ok(index) => return Ok((number, index)),
                Err(error) => {
                    first.get_or_insert(error);
                    alike.push(area);
                }
            }
        }
        let whole = |message| AddressError { at: 0, length: address.len(), message };
        Err(match first {
            // Areas that are parts of one run of numbers: it lies in none of them.
            Some(_) if alike.len() > 1 => {
                let runs: Vec<String> = alike.iter().map(|area| area.run()).collect();
                whole(format!("no area has it; there are {}", runs.join(", ")))
            }
            Some(error) => error,
            None => whole(format!("`{address}` is not an address")),
        })
    }

    /// An address as the rest of the house knows it: the standard's letters, the area's place in the sheet, and the
    /// number in the area: `%MX2.17`; for devices `%D`.
    #[must_use]
    pub fn known(&self, area: usize, index: u32) -> String {
        let letters = self.areas.get(area).and_then(MemoryArea::letters).unwrap_or("D");
        format!("%{letters}{area}.{index}")
    }

    /// Area and number of an address as [`Sheet::known`] has it.
    #[must_use]
    pub fn parse_known(&self, address: &str) -> Option<(usize, u32)> {
        let digits = address.strip_prefix('%')?.trim_start_matches(|c: char| c.is_ascii_alphabetic());
        let (area, index) = digits.split_once('.')?;
        let (area, index) = (area.parse().ok()?, index.parse().ok()?);
        (address == self.known(area, index)).then_some((area, index))
    }

    /// The place of the bit that is TRUE in the first scan, if there is one.
    #[must_use]
    pub fn first_scan(&self) -> Option<(usize, u32)> {
        self.scan.first_scan.as_ref().and_then(|bit| self.locate(bit).ok())
    }

    /// The address of that bit, as [`Sheet::known`] has it.
    #[must_use]
    pub(crate) fn first_scan_address(&self) -> Option<String> {
        self.first_scan().map(|(area, index)| self.known(area, index))
    }

    /// The address as a program writes it, of one as [`Sheet::known`] has it.
    #[must_use]
    pub fn written(&self, known: &str) -> Option<String> {
        let (area, index) = self.parse_known(known)?;
        self.areas.get(area)?.parsed.write(index)
    }

    /// The area of a name.
    #[must_use]
    pub fn area(&self, name: &str) -> Option<(usize, &MemoryArea)> {
        self.areas.iter().enumerate().find(|(_, a)| a.name == name)
    }

    /// The device that a number of an area is, by its place in the sheet.
    #[must_use]
    pub fn device_at(&self, area: usize, index: u32) -> Option<usize> {
        let area = &self.areas.get(area)?.name;
        self.devices.iter().position(|d| d.has_number(area, index))
    }

    /// What a word of the list form stands for: an operator of the standard or a function, in capital letters.
    #[must_use]
    pub fn word(&self, word: &str) -> Option<&str> {
        self.words.iter().find(|(w, _)| w.eq_ignore_ascii_case(word)).map(|(_, to)| to.as_str())
    }

    /// The word of the list form for an operator of the standard.
    #[must_use]
    pub(crate) fn word_for(&self, operator: &str) -> Option<&str> {
        if self.words.is_empty() {
            return None;
        }
        self.words.iter().find(|(_, to)| to.eq_ignore_ascii_case(operator)).map(|(w, _)| w.as_str())
    }

    /// True for a word that stands in front of a device in list form.
    #[must_use]
    pub(crate) fn is_device_word(&self, word: &str) -> bool {
        self.devices.iter().flat_map(|d| &d.ops).any(|op| op.word.eq_ignore_ascii_case(word))
    }
}
