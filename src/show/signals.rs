//! Signals in other forms: a timing diagram in characters, and waves for other tools.

use super::WriteError;
use super::timing::Timing;
use crate::model::{Value, format_duration};
use crate::scan::Trace;

/// A timing diagram in characters, so many columns wide at most: bars for BOOL, numbers where they change. Of two
/// sides that differ both are shown, and `!` marks where. A column stands for one scan, or for several if there are more.
#[must_use]
pub fn timing_text(timing: &Timing, columns: usize) -> String {
    let scans = timing.times.len();
    let names = timing.tracks.iter().map(|t| t.name.chars().count()).max().unwrap_or(0).min(24) + 2;
    let room = columns.saturating_sub(names + 2).max(10);
    let each = scans.div_ceil(room).max(1);
    let mut out = String::new();
    for track in &timing.tracks {
        let differs = |n: usize| track.other.as_ref().is_some_and(|o| o.get(n) != track.values.get(n));
        let apart = (0..scans).any(differs);
        line(&mut out, &track.name, names, &curve(&track.values, each));
        if let (Some(other), true) = (&track.other, apart) {
            line(&mut out, "", names, &curve(other, each));
            let marks = (0..scans).step_by(each).map(|n| (n..(n + each).min(scans)).any(differs));
            line(&mut out, "", names, &marks.map(|m| if m { '!' } else { ' ' }).collect::<String>());
        }
    }
    let at = |n: usize| timing.times.get(n).map_or(String::new(), |t| format_duration(t.0));
    let (first, last) = (at(0), at(scans.saturating_sub(1)));
    let width = scans.div_ceil(each);
    let gap = width.saturating_sub(first.chars().count() + last.chars().count()).max(1);
    line(&mut out, "", names, &format!("{first}{}{last}", " ".repeat(gap)));
    out
}

fn line(out: &mut String, name: &str, width: usize, text: &str) {
    let name: String = name.chars().take(width).collect();
    out.push_str(format!("{name:<width$}{text}").trim_end());
    out.push('\n');
}

/// One side of a signal; a BOOL that changes within a column shows as half a bar.
fn curve(values: &[Value], each: usize) -> String {
    let is_bit = values.iter().all(|v| matches!(v, Value::Bool(_)));
    if is_bit {
        let column = |chunk: &[Value]| {
            let on = |v: &Value| *v == Value::Bool(true);
            match (chunk.iter().any(on), chunk.iter().all(on)) {
                (_, true) => '▆',
                (false, _) => '▁',
                _ => '▌',
            }
        };
        return values.chunks(each).map(column).collect();
    }
    let mut out = String::new();
    let mut last: Option<&Value> = None;
    for (number, chunk) in values.chunks(each).enumerate() {
        let now = &chunk[chunk.len() - 1];
        // A dot at least stands between two numbers, so that 1 and then 2 is not 12.
        let has_room = number == 0 || out.chars().count() < number;
        if last != Some(now) && has_room {
            let text = now.said();
            out.extend(std::iter::repeat_n('·', number - out.chars().count()));
            out.push_str(&text);
            last = Some(now);
        }
    }
    let width = values.len().div_ceil(each);
    out.extend(std::iter::repeat_n('·', width.saturating_sub(out.chars().count())));
    out.chars().take(width.max(1)).collect()
}

/// Both traces as waves (VCD, IEEE 1364), each side a scope of its own; time in nanoseconds.
///
/// # Errors
/// If a name is nothing that a wave can be called.
pub fn vcd(traces: &[Trace], sides: &[&str]) -> Result<String, WriteError> {
    let mut bytes = Vec::new();
    write_vcd(&mut bytes, traces, sides).map_err(WriteError::new)?;
    String::from_utf8(bytes).map_err(WriteError::new)
}

fn write_vcd(bytes: &mut Vec<u8>, traces: &[Trace], sides: &[&str]) -> std::io::Result<()> {
    let mut writer = vcd::Writer::new(bytes);
    writer.timescale(1, vcd::TimescaleUnit::NS)?;
    let mut codes = Vec::new();
    for (trace, side) in traces.iter().zip(sides) {
        writer.add_module(&word(side))?;
        let mut own = Vec::new();
        for (column, name) in trace.names.iter().enumerate() {
            let width = match trace.at(0, column) {
                Some(Value::Bool(_)) => Some(1),
                Some(Value::Real(_)) => None,
                Some(Value::Text(_)) => Some(0),
                _ => Some(64),
            };
            own.push(match width {
                Some(0) => None,
                Some(width) => Some(writer.add_wire(width, &word(name))?),
                None => Some(writer.add_var(vcd::VarType::Real, 64, &word(name), None)?),
            });
        }
        writer.upscope()?;
        codes.push(own);
    }
    writer.enddefinitions()?;
    let mut turns: Vec<Vec<usize>> = traces.iter().map(|t| vec![0; t.names.len()]).collect();
    let rows = traces.iter().map(|t| t.scans().len()).max().unwrap_or(0);
    for row in 0..rows {
        let Some((_, at)) = traces.iter().find_map(|t| t.scans().get(row)) else { continue };
        writer.timestamp(at.0.nanos() as u64)?;
        for (side, trace) in traces.iter().enumerate() {
            for (column, turn) in turns[side].iter_mut().enumerate() {
                let Some((_, value)) = trace.turns(column).get(*turn).filter(|(from, _)| *from == row) else {
                    continue;
                };
                *turn += 1;
                if let Some(code) = codes[side][column] {
                    change(&mut writer, code, value)?;
                }
            }
        }
    }
    Ok(())
}

fn change(writer: &mut vcd::Writer<&mut Vec<u8>>, code: vcd::IdCode, value: &Value) -> std::io::Result<()> {
    let vector = |writer: &mut vcd::Writer<&mut Vec<u8>>, number: i64| {
        let bits: Vec<vcd::Value> = (0..64).rev().map(|bit| vcd::Value::from(number >> bit & 1 == 1)).collect();
        writer.change_vector(code, bits)
    };
    match value {
        Value::Bool(b) => writer.change_scalar(code, *b),
        Value::Real(r) => writer.change_real(code, *r),
        Value::Int(i) => vector(writer, *i as i64),
        Value::Enum(n, _) => vector(writer, *n),
        Value::Time(t) => vector(writer, t.nanos()),
        Value::Text(_) => Ok(()),
    }
}

/// A name without what waves do not allow.
fn word(name: &str) -> String {
    name.chars().map(|c| if c.is_ascii_alphanumeric() || "_.[]".contains(c) { c } else { '_' }).collect()
}
