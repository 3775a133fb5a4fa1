//! Timing diagrams: what signals do over time, of one run or of two laid over each other.

use crate::model::{Duration, Instant, Value, format_duration};
use crate::scan::Trace;
use crate::source::RowError;
use svg::node::element::{Group, Line, Path, Rectangle, Text};
use svg::{Document, Node};

/// One signal.
#[derive(Clone, Debug)]
pub struct Track {
    /// What it is called.
    pub name: String,
    /// Its value after each scan.
    pub values: Vec<Value>,
    /// That of the other side, if there is one.
    pub other: Option<Vec<Value>>,
}

/// A timing diagram as data.
#[derive(Clone, Debug, Default)]
pub struct Timing {
    /// What stands above.
    pub caption: String,
    /// The names of the two sides, if there are two.
    pub sides: Option<[String; 2]>,
    /// When each scan began.
    pub times: Vec<Instant>,
    /// The signals, from the top.
    pub tracks: Vec<Track>,
}

impl Timing {
    /// The signals of a trace, by name; all of them if none is named.
    #[must_use]
    pub fn of(trace: &Trace, names: &[&str]) -> Timing {
        let times = trace.scans().iter().map(|(_, at)| *at).collect();
        let wanted = |n: &str| names.is_empty() || names.iter().any(|w| w.eq_ignore_ascii_case(n));
        let tracks = trace.names.iter().enumerate().filter(|(_, n)| wanted(n)).map(|(column, name)| Track {
            name: name.clone(),
            values: trace.column(column).cloned().collect(),
            other: None,
        });
        Timing { tracks: tracks.collect(), times, ..Timing::default() }
    }

    /// Reads a trace as `run` writes it: CSV with the header `scan,time_ms,NAME,...`. A column of 0 and 1 is a BOOL.
    ///
    /// # Errors
    /// The first line that is not as it should be.
    pub fn read(text: &str) -> Result<Timing, RowError> {
        let mut reader = csv::Reader::from_reader(text.as_bytes());
        let header = reader.headers().map_err(|e| RowError::new(1, e.to_string()))?.clone();
        if header.get(0) != Some("scan") || header.get(1) != Some("time_ms") {
            return Err(RowError::new(1, "a trace begins with the columns scan,time_ms"));
        }
        let mut out = Timing::default();
        let mut columns: Vec<Vec<String>> = vec![Vec::new(); header.len() - 2];
        for (index, record) in reader.records().enumerate() {
            let record = record.map_err(|e| RowError::new(index as u64 + 2, e.to_string()))?;
            let wrong = |why: &str| RowError::new(index as u64 + 2, format!("`{}` {why}", &record[1]));
            let time = Duration::read_milliseconds(&record[1]).filter(|time| *time >= Duration::ZERO);
            let time = Instant(time.ok_or_else(|| wrong("is no time"))?);
            if out.times.last().is_some_and(|before| *before > time) {
                return Err(wrong("is before the time of the row above"));
            }
            out.times.push(time);
            columns.iter_mut().zip(record.iter().skip(2)).for_each(|(c, cell)| c.push(cell.to_string()));
        }
        // What happened to the controller is no signal.
        for (name, cells) in header.iter().skip(2).zip(columns).filter(|(name, _)| !name.starts_with('@')) {
            let is_bit = cells.iter().all(|c| c == "0" || c == "1");
            let value = |cell: &String| match cell.parse::<i128>() {
                Ok(n) if is_bit => Value::Bool(n == 1),
                Ok(n) => Value::Int(n),
                Err(_) => cell.parse().map_or_else(|_| Value::Text(cell.clone()), Value::Real),
            };
            out.tracks.push(Track { name: name.to_string(), values: cells.iter().map(value).collect(), other: None });
        }
        Ok(out)
    }

    /// Lays the signals of another diagram over those of the same names.
    #[must_use]
    pub fn over(mut self, other: Timing, sides: [&str; 2]) -> Timing {
        for track in &mut self.tracks {
            let found = other.tracks.iter().find(|t| t.name.eq_ignore_ascii_case(&track.name));
            track.other = found.map(|t| t.values.clone());
        }
        self.sides = Some(sides.map(str::to_string));
        self
    }

    /// Lays the signals of another run over those of the same names. Signals that only one side has keep one line.
    #[must_use]
    pub fn beside(self, other: &Trace, sides: [&str; 2]) -> Timing {
        self.over(Timing::of(other, &[]), sides)
    }
}

const LEFT: f64 = 150.0;
const RIGHT: f64 = 24.0;
const ROW: f64 = 46.0;
const HIGH: f64 = 26.0;
const FONT: &str = "DejaVu Sans Mono, Liberation Mono, Menlo, Consolas, monospace";
const INK: &str = "#22313a";
const FIRST: &str = "#12456b";
const SECOND: &str = "#a8480b";
const FAINT: &str = "#d8dee2";
const APART: &str = "#f6e3d2";

/// The diagram as SVG, so many pixels wide.
#[must_use]
pub fn timing(timing: &Timing, width: u32) -> String {
    let width = f64::from(width.max(400));
    let top = if timing.sides.is_some() { 62.0 } else { 40.0 };
    let height = top + ROW * timing.tracks.len() as f64 + 34.0;
    let mut group = Group::new();
    group.append(Rectangle::new().set("width", width).set("height", height).set("fill", "#ffffff"));
    text(&mut group, (16.0, 22.0), &timing.caption, INK, "start", 13.0);
    if let Some([left, right]) = &timing.sides {
        legend(&mut group, (LEFT, 42.0), left, FIRST, false);
        legend(&mut group, (LEFT + 24.0 + 7.4 * (left.chars().count() as f64 + 4.0), 42.0), right, SECOND, true);
    }
    let axis = Axis::new(&timing.times, width);
    let bottom = top + ROW * timing.tracks.len() as f64;
    for (at, label) in axis.marks() {
        line(&mut group, (axis.x(at), top), (axis.x(at), bottom), FAINT, 1.0);
        text(&mut group, (axis.x(at), bottom + 18.0), &label, INK, "middle", 11.0);
    }
    for (number, track) in timing.tracks.iter().enumerate() {
        let base = top + ROW * (number as f64 + 1.0) - 12.0;
        draw_track(&mut group, &axis, track, base);
    }
    let document = Document::new()
        .set("viewBox", (0.0, 0.0, width, height))
        .set("width", width)
        .set("height", height)
        .set("font-family", FONT)
        .add(group);
    document.to_string()
}

struct Axis {
    times: Vec<i64>,
    start: i64,
    end: i64,
    scale: f64,
}

impl Axis {
    fn new(times: &[Instant], width: f64) -> Axis {
        let times: Vec<i64> = times.iter().map(|t| t.0.nanos()).collect();
        let last = times.last().copied().unwrap_or(0);
        let step = times.windows(2).next_back().map_or(10_000_000, |w| (w[1] - w[0]).max(1));
        let end = last + step;
        let start = times.first().copied().unwrap_or(0);
        Axis { times, start, end, scale: (width - LEFT - RIGHT) / (end - start).max(1) as f64 }
    }

    fn x(&self, nanos: i64) -> f64 {
        LEFT + (nanos - self.start) as f64 * self.scale
    }

    /// Where scan `number` begins, or the end behind the last.
    fn start(&self, number: usize) -> f64 {
        self.x(self.times.get(number).copied().unwrap_or(self.end))
    }

    /// Round times, at most a dozen.
    fn marks(&self) -> Vec<(i64, String)> {
        const STEPS: &[i64] =
            &[10, 20, 50, 100, 200, 500, 1_000, 2_000, 5_000, 10_000, 20_000, 60_000, 120_000, 300_000, 600_000];
        let span = (self.end - self.start).max(1);
        let fits = |millis: &&i64| span / (**millis * 1_000_000) <= 10;
        let step = STEPS.iter().find(fits).copied().unwrap_or(3_600_000) * 1_000_000;
        let first = self.start / step + i64::from(self.start % step != 0);
        let last = (self.end / step).min(first + 1_000);
        let label = |nanos: i64| {
            // A row of labels is read faster in one unit.
            if self.end >= 1_000_000_000 && self.end < 100_000_000_000 && step < 1_000_000_000 {
                format!("{:.1}s", nanos as f64 / 1e9)
            } else {
                format_duration(Duration::from_nanos(nanos))
            }
        };
        (first..=last).map(|n| (n * step, label(n * step))).collect()
    }
}

fn number(value: &Value) -> f64 {
    match value {
        Value::Bool(b) => f64::from(u8::from(*b)),
        Value::Int(i) => *i as f64,
        Value::Real(r) => *r,
        Value::Time(t) => t.nanos() as f64,
        Value::Enum(n, _) => *n as f64,
        Value::Text(_) => 0.0,
    }
}

/// A column that is read back may be taken for BOOL on one side and for a number on the other.
fn same(a: &Value, b: &Value) -> bool {
    match (a, b) {
        (Value::Text(_), _) | (_, Value::Text(_)) => a == b,
        _ => number(a) == number(b),
    }
}

fn draw_track(group: &mut Group, axis: &Axis, track: &Track, base: f64) {
    text(group, (LEFT - 12.0, base - 6.0), &track.name, INK, "end", 12.0);
    if let Some(other) = &track.other {
        apart(group, axis, track, other, base);
    }
    let all: Vec<&Value> = track.values.iter().chain(track.other.iter().flatten()).collect();
    let (low, high) = all.iter().map(|v| number(v)).fold((f64::MAX, f64::MIN), |(l, h), n| (l.min(n), h.max(n)));
    let is_bit = all.iter().all(|v| matches!(v, Value::Bool(_)));
    let (low, high) = if is_bit { (0.0, 1.0) } else { (low.min(0.0), high.max(low + 1.0)) };
    line(group, (LEFT, base), (axis.x(axis.end), base), FAINT, 1.0);
    let y = |v: &Value| base - (number(v) - low) / (high - low) * HIGH;
    if let Some(other) = &track.other {
        curve(group, axis, other, &y, SECOND, true);
    }
    curve(group, axis, &track.values, &y, FIRST, false);
    if !is_bit && let Some(most) = all.iter().max_by(|a, b| number(a).total_cmp(&number(b))) {
        text(group, (LEFT - 12.0, base - HIGH + 6.0), &most.said(), "#6b7780", "end", 9.5);
    }
}

/// Bands where the two sides are not the same.
fn apart(group: &mut Group, axis: &Axis, track: &Track, other: &[Value], base: f64) {
    let mut scan = 0;
    while scan < track.values.len() {
        let differs = |n: usize| other.get(n).is_some_and(|v| !same(v, &track.values[n]));
        if !differs(scan) {
            scan += 1;
            continue;
        }
        let from = scan;
        while scan < track.values.len() && differs(scan) {
            scan += 1;
        }
        let (x1, x2) = (axis.start(from), axis.start(scan));
        let band = Rectangle::new()
            .set("x", round(x1))
            .set("y", round(base - HIGH - 5.0))
            .set("width", round((x2 - x1).max(2.0)))
            .set("height", HIGH + 10.0)
            .set("fill", APART);
        group.append(band);
    }
}

fn curve(group: &mut Group, axis: &Axis, values: &[Value], y: &dyn Fn(&Value) -> f64, colour: &str, dashed: bool) {
    let mut data = svg::node::element::path::Data::new();
    let mut last: Option<f64> = None;
    for (scan, value) in values.iter().enumerate() {
        let (x, at) = (round(axis.start(scan)), round(y(value)));
        data = match last {
            None => data.move_to((x, at)),
            Some(before) if before == at => data,
            Some(before) => data.line_to((x, before)).line_to((x, at)),
        };
        last = Some(at);
    }
    if let Some(at) = last {
        data = data.line_to((round(axis.start(values.len())), at));
    }
    let mut path = Path::new().set("d", data).set("fill", "none").set("stroke", colour).set("stroke-width", 1.8);
    if dashed {
        path = path.set("stroke-width", 3.2).set("stroke-dasharray", "5 3");
    }
    group.append(path);
}

fn legend(group: &mut Group, (x, y): (f64, f64), name: &str, colour: &str, dashed: bool) {
    let mut stroke = Line::new()
        .set("x1", round(x))
        .set("y1", y - 4.0)
        .set("x2", round(x + 24.0))
        .set("y2", y - 4.0)
        .set("stroke", colour)
        .set("stroke-width", if dashed { 3.2 } else { 1.8 });
    if dashed {
        stroke = stroke.set("stroke-dasharray", "5 3");
    }
    group.append(stroke);
    text(group, (x + 30.0, y), name, INK, "start", 12.0);
}

fn line(group: &mut Group, (x1, y1): (f64, f64), (x2, y2): (f64, f64), colour: &str, weight: f64) {
    let line = Line::new()
        .set("x1", round(x1))
        .set("y1", round(y1))
        .set("x2", round(x2))
        .set("y2", round(y2))
        .set("stroke", colour)
        .set("stroke-width", weight);
    group.append(line);
}

fn text(group: &mut Group, (x, y): (f64, f64), what: &str, colour: &str, anchor: &str, size: f64) {
    let text = Text::new(what)
        .set("x", round(x))
        .set("y", round(y))
        .set("fill", colour)
        .set("font-size", size)
        .set("text-anchor", anchor);
    group.append(text);
}

fn round(value: f64) -> f64 {
    (value * 10.0).round() / 10.0
}
