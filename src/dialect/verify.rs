//! What a sheet says is held against itself and against its blocks.

use super::place::{Places, path};
use super::read::list;
use crate::lang::read_duration;
use crate::model::ops::BinaryOp;
use crate::model::sheet::{AreaRole, Device, DeviceKind, Field, Holds, Pattern, Piece, Role, Sheet};
use crate::model::{Elem, Item, Section, Unit, UnitKind};
use crate::source::{Diagnostic, FileId, codes};

struct Verifier<'s> {
    sheet: &'s Sheet,
    items: &'s [Item],
    places: Places<'s>,
    problems: Vec<Diagnostic>,
}

/// Everything that is wrong with a sheet. `unread` are patterns that could not be taken apart.
pub(super) fn verify(
    sheet: &Sheet,
    items: &[Item],
    text: &str,
    file: FileId,
    unread: Vec<(String, String)>,
) -> Vec<Diagnostic> {
    let mut verifier = Verifier { sheet, items, places: Places::new(text, file), problems: Vec::new() };
    for (at, message) in unread {
        verifier.error(&at, message);
    }
    verifier.general();
    for number in 0..sheet.areas.len() {
        verifier.area(number);
    }
    verifier.cards();
    for (word, to) in &sheet.words {
        verifier.word(word, to);
    }
    for (number, device) in sheet.devices.iter().enumerate() {
        verifier.device(number, device);
    }
    verifier.problems
}

/// The operators of the list form, with the modifiers they may have.
fn is_operator(word: &str) -> bool {
    const PLAIN: &[&str] = &[
        "LD", "LDN", "ST", "STN", "S", "R", "NOT", "ANDN", "ORN", "XORN", "JMP", "JMPC", "JMPCN", "CAL", "CALC",
        "CALCN", "RET", "RETC", "RETCN",
    ];
    let is_last = || crate::lang::il::last_results(word).is_some();
    PLAIN.contains(&word) || BinaryOp::ALL.into_iter().any(|op| op.function() == word) || is_last()
}

impl Verifier<'_> {
    fn error(&mut self, at: &str, message: impl Into<String>) {
        let span = self.places.find(&path(at));
        self.problems.push(Diagnostic::error(codes::SHEET, span, message));
    }

    fn general(&mut self) {
        let name = &self.sheet.name;
        let plain = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
        if !name.starts_with(|c: char| c.is_ascii_lowercase()) || !name.chars().all(plain) {
            self.error("name", "a sheet's name is small letters, digits and `-`, and begins with a letter");
        }
        if !Elem::from_name(&self.sheet.numbers.word).is_some_and(|e| e.is_integer() || e.is_bits()) {
            self.error("numbers/word", "a word is one of the standard's integers or bit strings, such as INT");
        }
        if self.sheet.names.length == 0 {
            self.error("names/length", "names have at least one character");
        }
        self.listing();
        if let Some(bit) = &self.sheet.scan.first_scan {
            match self.sheet.locate(bit) {
                Ok((area, _)) if self.sheet.areas[area].holds == Holds::Bit => {}
                Ok(_) => self.error("scan/first-scan", format!("`{bit}` is no bit")),
                Err(error) => self.error("scan/first-scan", error.message),
            }
        }
    }

    fn listing(&mut self) {
        let listing = &self.sheet.listing;
        for (prefix, radix) in &listing.constants {
            let at = format!("listing/constants/{prefix}");
            if !matches!(radix, 10 | 16) {
                self.error(&at, "the radix of a constant is 10 or 16");
            }
            let good = |c: char| c.is_ascii_alphabetic() || matches!(c, '#' | '=' | '$' | '!');
            if prefix.is_empty() || !prefix.chars().all(good) {
                self.error(&at, "in front of a constant stand letters, or one of `#`, `=`, `$`, `!`");
            }
        }
        let signs = listing.comments.iter().chain(&listing.continuation).chain(&listing.heads);
        if signs.clone().any(|s| s.trim().is_empty()) {
            self.error("listing", "a sign or a beginning of a line has at least one character that is no blank");
        }
        let clash = |sign: &&String| {
            let unit = |w: &str| w.eq_ignore_ascii_case(sign);
            self.sheet.words.keys().any(|w| unit(w)) || listing.constants.keys().any(|p| unit(p)) || *sign == "("
        };
        if let Some(sign) = listing.comments.iter().find(clash).cloned() {
            self.error("listing/comments", format!("`{sign}` means something else already"));
        }
    }

    fn area(&mut self, number: usize) {
        let area = &self.sheet.areas[number];
        let at = |part: &str| format!("area/{number}/{part}");
        if self.sheet.areas[..number].iter().any(|a| a.name == area.name) {
            self.error(&at("name"), format!("there are two areas `{}`", area.name));
        }
        if (area.role == AreaRole::Devices) != (area.holds == Holds::Device) {
            self.error(&at("holds"), "an area for devices holds devices, and no other area does");
        }
        for (name, field) in &area.fields {
            self.field(&at(&format!("fields/{name}")), *field);
        }
        let alike = |other: &Pattern| !other.pieces.is_empty() && skeleton(other) == skeleton(&area.parsed);
        let apart = |other: &Pattern| fields_apart(other, &area.parsed);
        if let Some(other) = self.sheet.areas[..number].iter().find(|a| alike(&a.parsed) && !apart(&a.parsed)) {
            let message = format!("addresses look like those of `{}`, and their numbers overlap", other.name);
            self.error(&at("pattern"), message);
        }
        let count = area.parsed.count();
        for (key, ranges) in [("retained", &area.retained), ("given", &area.given), ("shown", &area.shown)] {
            for (index, (low, high)) in ranges.iter().enumerate() {
                if low > high || *high >= count {
                    let message =
                        format!("a range goes from its low to its high number, and the last is {}", count - 1);
                    self.error(&at(&format!("{key}/{index}")), message);
                }
            }
            if key != "retained" && !ranges.is_empty() && area.role != AreaRole::Memory {
                self.error(&at(key), "only memory is given or shown so; inputs and outputs are anyhow");
            }
        }
        let overlap = area.given.iter().find(|(low, high)| area.shown.iter().any(|(l, h)| l <= high && low <= h));
        if let Some((low, high)) = overlap {
            self.error(&at("shown"), format!("{low} to {high} is given already"));
        }
        if area.protocol.is_some_and(|p| u64::from(p.start) + u64::from(count) > 65_536) {
            self.error(
                &at("protocol"),
                format!("{count} points from there go beyond the last protocol address, 65535"),
            );
        }
    }

    fn field(&mut self, at: &str, field: Field) {
        if !matches!(field.radix, 8 | 10 | 16) {
            self.error(&format!("{at}/radix"), "a radix is 8, 10 or 16");
            return;
        }
        if field.first > field.last {
            self.error(&format!("{at}/last"), format!("the last number is below the first, {}", field.first));
        }
        let widest = match field.radix {
            8 => format!("{:o}", field.last),
            16 => format!("{:x}", field.last),
            _ => field.last.to_string(),
        };
        if field.digits > 0 && widest.len() > field.digits {
            let message = format!("the last number, {}, has more than {} digits", field.last, field.digits);
            self.error(&format!("{at}/digits"), message);
        }
        if field.radix == 16 && field.digits == 0 && field.last > 9 {
            let message = "hexadecimal numbers need a fixed count of digits, so that they begin with a digit";
            self.error(&format!("{at}/radix"), message);
        }
    }

    fn cards(&mut self) {
        if let Err((card, message)) = super::rack::places(self.sheet) {
            self.error(&format!("card/{card}"), message);
        }
        for (number, card) in self.sheet.cards.iter().enumerate() {
            let Some(start) = card.protocol else { continue };
            let at = format!("card/{number}/protocol");
            if self.sheet.area(&card.area).is_none_or(|(_, area)| area.protocol.is_none()) {
                self.error(&at, format!("the area `{}` does not say in which table of the protocol it is", card.area));
            } else if u64::from(start) + u64::from(card.points) > 65_536 {
                let message = format!("{} points from there go beyond the last protocol address, 65535", card.points);
                self.error(&at, message);
            }
        }
    }

    fn word(&mut self, word: &str, to: &str) {
        let at = format!("words/{word}");
        if !word.starts_with(|c: char| c.is_ascii_alphabetic())
            || !word.chars().all(|c| c.is_alphanumeric() || c == '_')
        {
            self.error(&at, format!("`{word}` is not a word"));
        } else if self.sheet.is_device_word(word) && !is_operator(to) {
            self.error(&at, format!("`{word}` is also a word for a device"));
        } else if !is_operator(to) && self.unit(to, UnitKind::Function).is_none() {
            let message = format!(
                "`{to}` is neither an operator of the standard's instruction list nor a function of the blocks"
            );
            self.error(&at, message);
        }
    }

    fn unit(&self, name: &str, kind: UnitKind) -> Option<&Unit> {
        self.items.iter().find_map(|item| {
            if let Item::Unit(unit) = item
                && unit.kind == kind
                && unit.name.is(name)
            {
                Some(unit)
            } else {
                None
            }
        })
    }

    fn device(&mut self, number: usize, device: &Device) {
        let at = |part: &str| format!("device/{number}/{part}");
        let Some(block) = self.unit(&device.block, UnitKind::FunctionBlock) else {
            self.error(&at("block"), format!("the blocks have no function block `{}`", device.block));
            return;
        };
        let pins = |section: Section| -> Vec<String> {
            let sections = block.sections.iter().filter(|s| s.section == section);
            sections.flat_map(|s| &s.vars).flat_map(|v| &v.names).map(|n| n.text.clone()).collect()
        };
        let (inputs, outputs) = (pins(Section::Input), pins(Section::Output));
        let missing = |name: &str, list: &[String]| !list.iter().any(|p| p.eq_ignore_ascii_case(name));
        let mut wrong: Vec<(String, String, bool)> = Vec::new();
        for (role, pin) in &device.pins {
            let is_input = role.is_input();
            if missing(pin, if is_input { &inputs } else { &outputs }) {
                wrong.push((at("pins"), pin.clone(), is_input));
            }
        }
        wrong.extend(device.set.keys().filter(|p| missing(p, &inputs)).map(|p| (at("set"), p.clone(), true)));
        for (index, op) in device.ops.iter().enumerate() {
            let given = op.power.iter().chain(&op.operands).filter(|p| missing(p, &inputs));
            wrong.extend(given.map(|p| (at(&format!("op/{index}")), p.clone(), true)));
            let results = op.result.iter().filter(|p| missing(p, &outputs));
            wrong.extend(results.map(|p| (at(&format!("op/{index}/result")), p.clone(), false)));
        }
        let shown = device.bit.iter().chain(&device.word).chain(&device.registers);
        wrong.extend(shown.filter(|p| missing(p, &outputs)).map(|p| (at("pins"), p.clone(), false)));
        for (place, pin, is_input) in wrong {
            let (what, has) = if is_input { ("input", &inputs) } else { ("output", &outputs) };
            let message = format!("`{}` has no {what} `{pin}`; it has {}", device.block, list(has.iter()));
            self.error(&place, message);
        }
        for (index, op) in device.ops.iter().enumerate() {
            if op.power.is_empty() {
                self.error(&at(&format!("op/{index}/power")), "an operation takes at least one condition");
            }
        }
        self.numbers(number, device);
        self.facts(number, device);
    }

    fn numbers(&mut self, number: usize, device: &Device) {
        let at = |part: &str| format!("device/{number}/{part}");
        let Some(numbers) = &device.numbers else {
            if !device.ops.is_empty() || !device.registers.is_empty() {
                self.error(&at("op"), "only devices with numbers have operations and registers");
            }
            return;
        };
        let Some((_, area)) = self.sheet.area(&numbers.area) else {
            self.error(&at("numbers/area"), format!("there is no area `{}`", numbers.area));
            return;
        };
        let in_words = area.holds == Holds::Word;
        if area.holds == Holds::Bit || in_words == device.registers.is_empty() {
            let message = "devices have an area of their own, or stand in words with a list of `registers`";
            self.error(&at("numbers/area"), message);
        }
        let last = numbers.last.saturating_add(device.registers.len().saturating_sub(1) as u32);
        if numbers.first > numbers.last || last >= area.parsed.count() {
            let message =
                format!("these numbers are counted from 0, and the area's last is {}", area.parsed.count() - 1);
            self.error(&at("numbers"), message);
        }
        if device.ops.is_empty() {
            self.error(&at("numbers"), "a device with a number needs an `op` that drives it");
        }
        let clash = self.sheet.devices[..number].iter().find(|other| {
            let theirs = other.numbers.as_ref().filter(|n| n.area == numbers.area);
            let overlaps = theirs.is_some_and(|n| n.first <= numbers.last && numbers.first <= n.last);
            let same_word = other.ops.first().map(|o| &o.word) == device.ops.first().map(|o| &o.word);
            overlaps && (!in_words || same_word)
        });
        if let Some(other) = clash {
            self.error(&at("numbers"), format!("some of these numbers are those of `{}`", other.name));
        }
    }

    fn facts(&mut self, number: usize, device: &Device) {
        let at = |part: &str| format!("device/{number}/{part}");
        let kind = device.kind;
        let wanted = [
            ("timer", kind.is_timer(), device.timer.is_some()),
            ("counter", kind.is_counter(), device.counter.is_some()),
            ("latch", kind == DeviceKind::Latch, device.latch.is_some()),
            ("edge", matches!(kind, DeviceKind::Rise | DeviceKind::Fall), device.edge.is_some()),
        ];
        for (facts, wants, has) in wanted {
            if wants != has {
                let verb = if wants { "needs" } else { "has no use for" };
                self.error(&at("kind"), format!("this kind of device {verb} the facts of `{facts}`"));
            }
        }
        if let Some(tick) = device.timer.as_ref().map(|t| &t.tick)
            && literal_duration(tick).is_none_or(|d| d.nanos() <= 0)
        {
            self.error(&at("timer/tick"), format!("`{tick}` is no duration; write T#100ms"));
        }
        let needs: &[Role] = match kind {
            _ if kind.is_timer() => &[Role::Run, Role::Preset, Role::Done],
            _ if kind.is_counter() => &[Role::Count, Role::Preset, Role::Done, Role::Value],
            DeviceKind::Latch => &[Role::Set, Role::Reset, Role::Done],
            DeviceKind::OnDelay
            | DeviceKind::OffDelay
            | DeviceKind::Pulse
            | DeviceKind::Retentive
            | DeviceKind::CountUp
            | DeviceKind::CountDown
            | DeviceKind::CountBoth
            | DeviceKind::Rise
            | DeviceKind::Fall => &[Role::Run, Role::Done],
        };
        for role in needs.iter().filter(|r| !device.pins.contains_key(*r)) {
            self.error(&at("pins"), format!("{} needs a pin for `{}`", kind.a_word(), role.word()));
        }
        if device.latch.as_ref().is_some_and(|l| !matches!(l.wins, Role::Set | Role::Reset)) {
            self.error(&at("latch/wins"), "either `set` wins or `reset`");
        }
    }
}

/// A duration written as a literal.
pub(crate) fn literal_duration(text: &str) -> Option<crate::model::Duration> {
    let (head, rest) = text.split_once('#')?;
    head.eq_ignore_ascii_case("T").then(|| read_duration(rest).ok()).flatten()
}

/// True if two patterns of the same shape have no address in common: the ranges of one of their fields do not meet.
fn fields_apart(one: &Pattern, other: &Pattern) -> bool {
    let fields = |p: &Pattern| -> Vec<Field> {
        p.pieces.iter().filter_map(|p| if let Piece::Field(field) = p { Some(*field) } else { None }).collect()
    };
    let (one, other) = (fields(one), fields(other));
    let alike = |(a, b): (&Field, &Field)| a.radix == b.radix && a.digits == b.digits;
    one.iter().zip(&other).all(alike) && one.iter().zip(&other).any(|(a, b)| a.last < b.first || b.last < a.first)
}

/// What is left of a pattern without its numbers.
fn skeleton(pattern: &Pattern) -> Vec<String> {
    let piece = |p: &Piece| match p {
        Piece::Fixed(f) => f.to_ascii_uppercase(),
        Piece::Field(_) => "0".to_string(),
    };
    pattern.pieces.iter().map(piece).collect()
}
