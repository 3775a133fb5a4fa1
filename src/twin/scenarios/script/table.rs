//! The sequence table: rows of times or steps, columns of inputs given and outputs expected.
//!
//! CSV. The first column is `time_ms`, when the row begins, or `step`, a label; then `@for_ms` says how long the row lasts
//! (of steps it must). Other columns are points: inputs are given their cells when the row begins, and all else is
//! expected to have the values of its cells when the row is over; with `@settle_ms`, from that long after the row's
//! beginning until its end. An empty cell says nothing; a column `@note` is for people.

use super::{Deed, Line, Script, ScriptError, When};
use crate::model::{Duration, Family};
use crate::scan::{Direction, Machine, PointType};

enum Column {
    For,
    Settle,
    Note,
    Given(String),
    Expected(String, PointType),
}

/// How long a last row of times lasts if it does not say.
const LAST: i64 = 1_000;

/// Reads a sequence table for a version as a scenario; line numbers are those of the table.
///
/// # Errors
/// The first row that is wrong.
pub fn read_table(name: &str, text: &str, machine: &Machine) -> Result<Script, ScriptError> {
    let mut reader = csv::ReaderBuilder::new().flexible(true).trim(csv::Trim::All).from_reader(text.as_bytes());
    let wrong = |line: usize, what: String| ScriptError { line, what };
    let header = reader.headers().map_err(|e| wrong(1, e.to_string()))?.clone();
    let by_time = match header.get(0) {
        Some(first) if first.eq_ignore_ascii_case("time_ms") => true,
        Some(first) if first.eq_ignore_ascii_case("step") => false,
        _ => return Err(wrong(1, "the first column is `time_ms` or `step`".to_string())),
    };
    let columns: Vec<Column> = header
        .iter()
        .skip(1)
        .map(|name| column(name, machine))
        .collect::<Result<_, _>>()
        .map_err(|what| wrong(1, what))?;
    let mut rows = Vec::new();
    for (index, record) in reader.records().enumerate() {
        let record = record.map_err(|e| wrong(index + 2, e.to_string()))?;
        if record.len() > header.len() {
            return Err(wrong(index + 2, format!("{} cells, but the header has {}", record.len(), header.len())));
        }
        rows.push(record);
    }
    let mut lines = Vec::new();
    // Rows lie on the time axis of the scenario, so that none drifts, whatever the scan time.
    let mut end = 0;
    for (index, row) in rows.iter().enumerate() {
        let number = index + 2;
        let time = |text: &str| {
            text.parse::<i64>()
                .ok()
                .filter(|t| *t >= 0)
                .ok_or_else(|| wrong(number, format!("`{text}` is not a time in milliseconds")))
        };
        let of = |wanted: fn(&Column) -> bool| -> Option<&str> {
            columns.iter().position(wanted).and_then(|c| row.get(c + 1)).filter(|cell| !cell.is_empty())
        };
        let said = of(|c| matches!(c, Column::For)).map(time).transpose()?;
        let length = match (said, by_time) {
            (Some(length), _) => length,
            (None, false) => return Err(wrong(number, "a step needs its length in `@for_ms`".to_string())),
            (None, true) => match rows.get(index + 1) {
                Some(next) => time(next.get(0).unwrap_or(""))? - time(row.get(0).unwrap_or(""))?,
                None => LAST,
            },
        };
        if length <= 0 {
            return Err(wrong(number, "a row lasts longer than no time, and times rise".to_string()));
        }
        let settle = of(|c| matches!(c, Column::Settle)).map(time).transpose()?;
        let begin = if by_time { time(row.get(0).unwrap_or(""))?.max(end) } else { end };
        let mut deeds_of_row = Vec::new();
        if begin > end {
            let moment = Duration::from_millis(begin);
            deeds_of_row.push(Deed::Row { expected: None, from: moment, until: moment });
        }
        end = begin + length;
        deeds_of_row.extend(deeds(&columns, row, (begin, end), settle.filter(|s| *s < length)));
        lines.extend(deeds_of_row.into_iter().map(|deed| Line { number, deed }));
    }
    Ok(Script { name: name.to_string(), lines })
}

fn column(name: &str, machine: &Machine) -> Result<Column, String> {
    match name.to_ascii_lowercase().as_str() {
        "@for_ms" => return Ok(Column::For),
        "@settle_ms" => return Ok(Column::Settle),
        "@note" => return Ok(Column::Note),
        _ => {}
    }
    let point = machine.find(name).ok_or_else(|| format!("there is no variable `{name}`"))?;
    let point = machine.point(point);
    Ok(if let Direction::Input = point.direction {
        Column::Given(point.name.clone())
    } else {
        Column::Expected(point.name.clone(), point.ty.clone())
    })
}

/// What a row does from its beginning to its end.
fn deeds(columns: &[Column], row: &csv::StringRecord, (begin, end): (i64, i64), settle: Option<i64>) -> Vec<Deed> {
    let mut given = Vec::new();
    let mut expected = Vec::new();
    for (column, cell) in columns.iter().zip(row.iter().skip(1)).filter(|(_, cell)| !cell.is_empty()) {
        match column {
            Column::Given(name) => given.push(Deed::Set(name.clone(), cell.to_string())),
            Column::Expected(name, ty) => expected.push(equals(name, ty, cell)),
            Column::For | Column::Settle | Column::Note => {}
        }
    }
    let until = Duration::from_millis(end);
    let all = (!expected.is_empty()).then(|| expected.join(" AND "));
    let mut out = given;
    match settle {
        Some(settle) => out.push(Deed::Row { expected: all, from: Duration::from_millis(begin + settle), until }),
        None => {
            out.push(Deed::Row { expected: None, from: until, until });
            out.extend(expected.into_iter().map(|e| Deed::Expect(e, When::Now)));
        }
    }
    out
}

/// A cell as an expression.
fn equals(name: &str, ty: &PointType, cell: &str) -> String {
    match ty.family() {
        Family::Bool => match cell {
            "0" => format!("NOT {name}"),
            cell if cell.eq_ignore_ascii_case("false") || cell.eq_ignore_ascii_case("off") => format!("NOT {name}"),
            _ => name.to_string(),
        },
        Family::Time => format!("({name} = T#{cell}ms)"),
        Family::Text => format!("({name} = '{cell}')"),
        Family::Bits | Family::Int | Family::Real => format!("({name} = {cell})"),
    }
}
