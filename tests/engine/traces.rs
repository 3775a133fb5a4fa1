//! Traces keep what changes, and say the same as a table of all values would.

use fastrand::Rng;
use honest_twin::model::{Duration, Instant, ScanNumber, Value};
use honest_twin::scan::{Power, Trace};

/// A table of all values, which a trace must agree with.
struct Table {
    names: Vec<String>,
    rows: Vec<(ScanNumber, Instant, Vec<Value>)>,
    powers: Vec<(usize, Power)>,
}

/// A value of the kind that a column has, often the one before.
fn value(rng: &mut Rng, column: usize, before: Option<&Value>) -> Value {
    if let Some(before) = before.filter(|_| rng.u8(0..4) > 0) {
        return before.clone();
    }
    match column % 6 {
        0 => Value::Bool(rng.bool()),
        1 => Value::Int(rng.i8(-3..4).into()),
        2 => Value::Real([0.0, -0.0, 1.5, f64::NAN, f64::INFINITY][rng.usize(..5)]),
        3 => Value::Time(Duration::from_millis(rng.i64(0..3))),
        4 => Value::Enum(rng.i64(0..3), [None, Some("Rinse".to_string())][rng.usize(..2)].clone()),
        _ => Value::Text(["", "=1+1", "trout, small", "a \"b\""][rng.usize(..4)].to_string()),
    }
}

fn table(rng: &mut Rng) -> Table {
    let names: Vec<String> = (0..rng.usize(0..8)).map(|n| format!("Signal{n}")).collect();
    let mut rows: Vec<(ScanNumber, Instant, Vec<Value>)> = Vec::new();
    let (first, length) = (rng.u64(0..100), rng.usize(0..12));
    for row in 0..length {
        let before = rows.last().map(|(.., values)| values.clone());
        let own = |column| value(rng, column, before.as_ref().map(|b: &Vec<Value>| &b[column]));
        let values = (0..names.len()).map(own).collect();
        rows.push((ScanNumber(first + row as u64), Instant(Duration::from_millis(10 * row as i64)), values));
    }
    let powers = (0..length).filter(|_| rng.u8(0..6) == 0).map(|row| (row, Power::Cycle)).collect();
    Table { names, rows, powers }
}

/// Values to the bit: a NaN is as itself.
fn told(values: impl IntoIterator<Item = impl std::borrow::Borrow<Value>>) -> String {
    values.into_iter().map(|value| format!("{:?} ", value.borrow())).collect()
}

impl Table {
    fn trace(&self) -> Trace {
        let mut trace = Trace::of(self.names.clone());
        for (scan, at, values) in &self.rows {
            trace.push(*scan, *at, values.clone());
        }
        trace.powers.clone_from(&self.powers);
        trace
    }

    /// The rows in which a value is another, something happened, or which are the first or the last.
    fn changes(&self) -> Table {
        let last = self.rows.len().saturating_sub(1);
        let happened = |row: usize| self.powers.iter().any(|(at, _)| *at == row);
        let differs = |row: usize| row == 0 || told(&self.rows[row - 1].2) != told(&self.rows[row].2);
        let kept: Vec<usize> =
            (0..self.rows.len()).filter(|row| differs(*row) || happened(*row) || *row == last).collect();
        let place = |row: usize| kept.iter().position(|k| *k == row).unwrap();
        Table {
            names: self.names.clone(),
            rows: kept.iter().map(|row| self.rows[*row].clone()).collect(),
            powers: self.powers.iter().map(|(row, power)| (place(*row), *power)).collect(),
        }
    }

    fn agrees(&self, trace: &Trace) {
        assert_eq!(trace.scans(), self.rows.iter().map(|(scan, at, _)| (*scan, *at)).collect::<Vec<_>>());
        let rows = trace.rows().map(|(scan, at, values)| format!("{scan:?} {at:?} {}", told(values)));
        let own = self.rows.iter().map(|(scan, at, values)| format!("{scan:?} {at:?} {}", told(values)));
        assert_eq!(rows.collect::<Vec<_>>(), own.collect::<Vec<_>>());
        for column in 0..self.names.len() {
            let own = told(self.rows.iter().map(|(.., values)| &values[column]));
            assert_eq!(told(trace.column(column)), own);
            assert_eq!(told((0..self.rows.len()).filter_map(|row| trace.at(row, column))), own);
            let turns = trace.turns(column);
            assert!(turns.windows(2).all(|pair| pair[0].0 < pair[1].0 && told([&pair[0].1]) != told([&pair[1].1])));
        }
        assert!(trace.at(self.rows.len(), 0).is_none() && trace.at(0, self.names.len()).is_none());
        assert_eq!(trace.column(self.names.len()).count(), 0);
        assert_eq!(trace.powers, self.powers);
        self.reads_back(&trace.write());
    }

    /// The text has a line for each row, with the cells that the values have.
    fn reads_back(&self, text: &str) {
        let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(text.as_bytes());
        let lines: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
        assert_eq!(lines.len(), self.rows.len() + 1);
        let own = 2 + usize::from(!self.powers.is_empty());
        assert_eq!(lines[0].iter().skip(own).collect::<Vec<_>>(), self.names);
        for (row, (line, (scan, _, values))) in lines[1..].iter().zip(&self.rows).enumerate() {
            assert_eq!(&line[0], scan.0.to_string());
            let cycles = self.powers.iter().filter(|(at, _)| *at == row).count();
            assert_eq!(own == 3 && !line[2].is_empty(), cycles > 0, "{text}");
            for (cell, value) in line.iter().skip(own).zip(values) {
                // What a spreadsheet would take for a formula has an apostrophe before it.
                let bare = cell.strip_prefix('\'').unwrap_or(cell);
                assert_eq!(bare, value.to_string(), "{text}");
            }
        }
    }
}

#[test]
fn a_trace_says_what_a_table_of_all_values_says() {
    let mut rng = Rng::with_seed(7);
    let mut kept = 0;
    for _ in 0..2_000 {
        let table = table(&mut rng);
        table.agrees(&table.trace());
        let changes = table.changes();
        changes.agrees(&table.trace().changes());
        kept += table.rows.len() - changes.rows.len();
    }
    assert!(kept > 200, "only {kept} rows without a change");
}

#[test]
fn what_stays_as_it_is_takes_no_room() {
    let mut trace = Trace::of(vec!["Full".to_string(), "Feeds".to_string()]);
    let values = |row: u64| [Value::Bool(row >= 500), Value::Int(i128::from(row / 250))];
    let at = |row: u64| Instant(Duration::from_millis(10 * row as i64));
    let changed: usize = (0..1_000).map(|row| trace.push(ScanNumber(row), at(row), values(row))).sum();
    assert_eq!((changed, trace.turns(0).len(), trace.turns(1).len()), (6, 2, 4));
    assert_eq!(trace.changes().scans().iter().map(|(scan, _)| scan.0).collect::<Vec<_>>(), [0, 250, 500, 750, 999]);
}
