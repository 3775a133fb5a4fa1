//! Dialects in words: a list, one in full, two side by side.

use crate::dialect::rack::{Placed, places, protocol_place};
use crate::model::sheet::{
    Counting, Device, DoneAt, DoneWhen, Holds, Idle, Image, Library, Limit, Listing, MemoryArea, Overflow, Past, Phase,
    PowerUp, PresetUnit, ResetBy, Role, Separator, Sheet, Trigger,
};
use comfy_table::{Table, presets};

/// The names and titles of dialects, one a line.
#[must_use]
pub fn dialect_list<'l>(all: impl Iterator<Item = &'l Library>) -> String {
    let mut table = Table::new();
    table.load_preset(presets::NOTHING);
    for library in all {
        table.add_row([library.sheet.name.as_str(), library.sheet.title.as_str()]);
    }
    trimmed(&table)
}

/// One dialect in full.
#[must_use]
pub fn dialect(library: &Library) -> String {
    let sheet = &library.sheet;
    let mut out = format!("{}: {}\n\n{}\n\n", sheet.name, sheet.title, sheet.about.trim());
    let mut table = Table::new();
    table.load_preset(presets::NOTHING);
    for (what, says) in rows(sheet) {
        table.add_row([what, says]);
    }
    table.set_width(118);
    table.set_content_arrangement(comfy_table::ContentArrangement::Dynamic);
    out.push_str(&trimmed(&table));
    if !sheet.words.is_empty() {
        out.push_str("\nWords of the list form, with the standard's in brackets:\n");
        let words: Vec<String> = sheet.words.iter().map(|(own, to)| format!("{own} [{to}]")).collect();
        for line in words.chunks(6) {
            out.push_str(&format!("  {}\n", line.join(", ")));
        }
    }
    out
}

/// Two dialects side by side: what each says, and only that in which they differ is marked.
#[must_use]
pub fn dialects_beside(left: &Library, right: &Library) -> String {
    let (a, b) = (rows(&left.sheet), rows(&right.sheet));
    let mut table = Table::new();
    table.load_preset(presets::NOTHING);
    table.set_header(["", "", left.sheet.name.as_str(), right.sheet.name.as_str()]);
    let find = |rows: &[(String, String)], what: &str| rows.iter().find(|(w, _)| w == what).map(|(_, s)| s.clone());
    let mut all: Vec<String> = a.iter().map(|(w, _)| w.clone()).collect();
    all.extend(b.iter().map(|(w, _)| w.clone()).filter(|w| find(&a, w).is_none()));
    for what in all {
        let (x, y) = (find(&a, &what), find(&b, &what));
        let mark = if x == y { "" } else { "*" };
        let none = || "-".to_string();
        table.add_row([mark.to_string(), what, x.unwrap_or_else(none), y.unwrap_or_else(none)]);
    }
    table.set_width(118);
    table.set_content_arrangement(comfy_table::ContentArrangement::Dynamic);
    trimmed(&table)
}

fn trimmed(table: &Table) -> String {
    table.to_string().lines().map(|l| format!("{}\n", l.trim_end())).collect()
}

/// What a sheet says, property by property.
fn rows(sheet: &Sheet) -> Vec<(String, String)> {
    let mut out = Vec::new();
    for area in &sheet.areas {
        out.push((area.name.clone(), area_text(area)));
    }
    for (number, device) in sheet.devices.iter().enumerate() {
        let before = sheet.devices[..number].iter().filter(|d| d.kind == device.kind).count();
        let again = if before > 0 { format!(" ({})", before + 1) } else { String::new() };
        out.push((format!("{}{again}", device.kind.word()), device_text(sheet, device)));
    }
    let image = |i: Image| if i == Image::Copied { "copied between scans" } else { "passed on at once" };
    out.push(("inputs in a scan".to_string(), image(sheet.scan.inputs).to_string()));
    out.push(("outputs in a scan".to_string(), image(sheet.scan.outputs).to_string()));
    let end = sheet.scan.end.as_ref().map_or("none is needed".to_string(), |e| format!("`{e}`"));
    out.push(("end marker".to_string(), end));
    if let Some(bit) = &sheet.scan.first_scan {
        out.push(("TRUE in the first scan".to_string(), bit.clone()));
    }
    let overflow = match sheet.numbers.overflow {
        Overflow::Wraps => "wraps",
        Overflow::Saturates => "stays at the limit",
        Overflow::Faults => "stops the program",
    };
    let digits = sheet.numbers.decimal_digits.map_or(String::new(), |d| format!(", {d} decimal digits"));
    out.push(("arithmetic".to_string(), format!("{}{digits}; a sum beyond {overflow}", sheet.numbers.word)));
    out.push(("names".to_string(), format!("up to {} characters", sheet.names.length)));
    out.extend(cards(sheet));
    if let Some(text) = listing_text(&sheet.listing) {
        out.push(("lists on paper".to_string(), text));
    }
    if let Some(r) = &sheet.routines {
        let call = |word: &Option<String>, when: &str| word.as_ref().map(|w| format!("`{w} name` calls it{when}"));
        let mut parts = vec![format!("from `{} name` to `{}`", r.begin, r.end)];
        parts.extend(call(&r.call, ""));
        parts.extend(call(&r.call_if, " if the current result is TRUE"));
        out.push(("routines".to_string(), parts.join("; ")));
    }
    out
}

/// The cards of the rack with their points, and where the protocol has them.
fn cards(sheet: &Sheet) -> Vec<(String, String)> {
    let text = |placed: &Placed| {
        let write = |n: u32| sheet.areas[placed.area].parsed.write(n).unwrap_or_default();
        let (first, last) = (placed.points.start, placed.points.end.saturating_sub(1));
        let protocol = match protocol_place(sheet, placed.area, first) {
            Some((_, number)) => format!("; protocol address {number} and on"),
            None => String::new(),
        };
        (format!("card {}", placed.name), format!("{} to {}{protocol}", write(first), write(last)))
    };
    places(sheet).unwrap_or_default().iter().map(text).collect()
}

/// How lists are laid out, where that is not the standard's way.
fn listing_text(listing: &Listing) -> Option<String> {
    let mut parts = Vec::new();
    let signs = |list: &[String]| list.iter().map(|s| format!("`{s}`")).collect::<Vec<_>>().join(", ");
    if listing.step_numbers {
        parts.push("a number in front of each instruction".to_string());
    }
    if !listing.comments.is_empty() {
        parts.push(format!("comments behind {}", signs(&listing.comments)));
    }
    for (prefix, radix) in &listing.constants {
        let base = if *radix == 10 { "decimal" } else { "hexadecimal" };
        parts.push(format!("`{prefix}` in front of {base} constants"));
    }
    if listing.operands == Separator::Blank {
        parts.push("operands parted by blanks".to_string());
    }
    if let Some(sign) = &listing.continuation {
        parts.push(format!("a line that ends with `{sign}` goes on"));
    }
    if !listing.heads.is_empty() {
        parts.push(format!("lines that begin with {} are passed over", signs(&listing.heads)));
    }
    if listing.head_lines > 0 {
        parts.push(format!("so are the first {} lines of a page", listing.head_lines));
    }
    (!parts.is_empty()).then(|| parts.join("; "))
}

fn area_text(area: &MemoryArea) -> String {
    let write = |n: u32| area.parsed.write(n).unwrap_or_default();
    let holds = match area.holds {
        Holds::Bit => "bits",
        Holds::Word => "words",
        Holds::Device => "devices",
    };
    let mut text = format!("{} to {}, {holds}", write(0), write(area.parsed.count().saturating_sub(1)));
    let ranges = |list: &[(u32, u32)]| -> Vec<String> {
        list.iter().map(|(a, b)| format!("{} to {}", write(*a), write(*b))).collect()
    };
    let kept = ranges(&area.retained);
    for (list, what) in [(&area.given, "are given by the outside"), (&area.shown, "are shown outside")] {
        if !list.is_empty() {
            text.push_str(&format!("; {} {what}", ranges(list).join(", ")));
        }
    }
    if !kept.is_empty() {
        text.push_str(&format!("; {} survive the power", kept.join(", ")));
    }
    text
}

fn device_text(sheet: &Sheet, device: &Device) -> String {
    let mut parts = vec![format!("{} ({})", device.name, device.block)];
    if let Some(numbers) = &device.numbers
        && let Some((_, area)) = sheet.area(&numbers.area)
    {
        let write = |n: u32| area.parsed.write(n).unwrap_or_default();
        parts.push(format!("{} to {}", write(numbers.first), write(numbers.last)));
    }
    for op in &device.ops {
        let behind: Vec<String> = op.operands.iter().map(|o| o.to_lowercase()).collect();
        let conditions =
            if op.power.len() > 1 { format!(" after {} conditions", op.power.len()) } else { String::new() };
        let behind = if behind.is_empty() { String::new() } else { format!(", {}", behind.join(", ")) };
        parts.push(format!("`{} device{behind}`{conditions}", op.word));
    }
    let pins: Vec<String> = device.pins.iter().map(|(role, pin)| format!("{} {pin}", role.word())).collect();
    parts.push(format!("pins: {}", pins.join(", ")));
    parts.extend(facts(device));
    if device.retained {
        parts.push("survives the power".to_string());
    }
    parts.join("; ")
}

/// The facts about a device in words.
fn facts(device: &Device) -> Vec<String> {
    let mut out: Vec<String> = Vec::new();
    if let Some(t) = &device.timer {
        out.push(match t.unit {
            PresetUnit::Ticks => format!("preset in ticks of {}, at most {}", &t.tick[2..], t.most),
            PresetUnit::Duration => format!("preset a duration, cut to {}", &t.tick[2..]),
        });
        out.push(
            if t.phase == Phase::Own { "its ticks begin with it" } else { "ticks run on through the scans" }
                .to_string(),
        );
        out.push(if t.counts == Counting::Up { "elapsed counts up" } else { "shows what is left" }.to_string());
        if t.past == Past::RunsOn {
            out.push("elapsed runs on past the preset".to_string());
        }
        if t.done == DoneAt::NextScan {
            out.push("done one scan later".to_string());
        }
        out.push(
            if t.idle == Idle::GoesOn { "goes on while not executed" } else { "stands still while not executed" }
                .to_string(),
        );
        out.push(reset_text(t.reset).to_string());
    }
    if let Some(c) = &device.counter {
        out.push(if c.trigger == Trigger::Rise { "counts rises" } else { "counts every scan" }.to_string());
        out.push(
            match c.power_up {
                PowerUp::Counts => "an input on at power-up counts",
                PowerUp::Ignored => "an input on at power-up does not count",
                PowerUp::Remembered => "remembers its input over the power",
            }
            .to_string(),
        );
        out.push(match c.limit {
            Limit::Preset => "stays at the preset".to_string(),
            Limit::Most => format!("stays at {} and {}", c.least, c.most),
            Limit::Wraps => format!("wraps beyond {}", c.most),
        });
        if c.counts == Counting::Down {
            out.push("shows what is left".to_string());
        }
        out.push(
            if c.done == DoneWhen::Equal { "done at the preset only" } else { "done at the preset and beyond" }
                .to_string(),
        );
        out.push(reset_text(c.reset).to_string());
    }
    if let Some(l) = &device.latch {
        out.push(if l.wins == Role::Set { "set wins" } else { "reset wins" }.to_string());
    }
    if let Some(e) = &device.edge {
        out.push(
            if e.first { "may answer TRUE in its first call" } else { "answers FALSE in its first call" }.to_string(),
        );
    }
    out
}

const fn reset_text(reset: ResetBy) -> &'static str {
    match reset {
        ResetBy::None => "no reset",
        ResetBy::Input => "reset by an input",
        ResetBy::Instruction => "reset by an instruction of its own",
    }
}
