//! What a signal did over time: how often it rose, how long it was on, from rise to rise, the least and the most.

use super::Trace;
use crate::model::{Duration, Instant, Value};
use serde::Serialize;

/// The shortest and the longest of several times.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct Spread {
    /// The shortest.
    pub least: Duration,
    /// The longest.
    pub most: Duration,
}

impl Spread {
    fn with(before: Option<Spread>, time: Duration) -> Option<Spread> {
        Some(match before {
            Some(spread) => Spread { least: spread.least.min(time), most: spread.most.max(time) },
            None => Spread { least: time, most: time },
        })
    }
}

/// What was seen of a signal.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Measure {
    /// What it is called.
    pub name: String,
    /// Whether it is a BOOL; of all else only changes, extremes and the last value are told.
    pub is_bool: bool,
    /// How often it changed.
    pub changes: u64,
    /// How often it became TRUE; what is TRUE from the beginning has not risen.
    pub rises: u64,
    /// How often it became FALSE.
    pub falls: u64,
    /// How long it was TRUE in all.
    pub on: Duration,
    /// Times for which it was TRUE without a break, of those that began and ended while it was watched.
    pub on_times: Option<Spread>,
    /// Times for which it was FALSE likewise.
    pub off_times: Option<Spread>,
    /// Times from a rise to the next.
    pub periods: Option<Spread>,
    /// The smallest value, of a number or a time.
    pub least: Option<String>,
    /// The largest value.
    pub most: Option<String>,
    /// The last value.
    pub last: Option<String>,
    /// From when on it was watched.
    pub from: Instant,
    /// Until when.
    pub until: Instant,
}

/// Takes the values of a signal, one after another.
#[derive(Clone, Debug)]
pub struct Measuring {
    out: Measure,
    now: Option<(Instant, Value)>,
    /// When it rose and fell last.
    rose: Option<Instant>,
    fell: Option<Instant>,
    extremes: Option<[Value; 2]>,
}

impl Measuring {
    /// Of a signal of which nothing was seen yet.
    #[must_use]
    pub fn new(name: impl Into<String>) -> Measuring {
        let out = Measure {
            name: name.into(),
            is_bool: false,
            changes: 0,
            rises: 0,
            falls: 0,
            on: Duration::ZERO,
            on_times: None,
            off_times: None,
            periods: None,
            least: None,
            most: None,
            last: None,
            from: Instant::default(),
            until: Instant::default(),
        };
        Measuring { out, now: None, rose: None, fell: None, extremes: None }
    }

    /// It has a value from a moment on, which is not before the one before.
    pub fn value(&mut self, at: Instant, value: Value) {
        self.until(at);
        let before = self.now.replace((at, value.clone()));
        self.extend(&value);
        let Some((_, before)) = before else {
            self.out.is_bool = matches!(value, Value::Bool(_));
            self.out.from = at;
            return;
        };
        if before == value {
            return;
        }
        self.out.changes += 1;
        if value == Value::Bool(true) {
            self.out.rises += 1;
            self.out.periods =
                self.rose.map_or(self.out.periods, |rose| Spread::with(self.out.periods, lapse(rose, at)));
            self.out.off_times =
                self.fell.map_or(self.out.off_times, |fell| Spread::with(self.out.off_times, lapse(fell, at)));
            self.rose = Some(at);
        } else if value == Value::Bool(false) {
            self.out.falls += 1;
            // What was on from the beginning was on for longer than was seen.
            self.out.on_times =
                self.rose.map_or(self.out.on_times, |rose| Spread::with(self.out.on_times, lapse(rose, at)));
            self.fell = Some(at);
        }
    }

    /// What was seen until a moment.
    #[must_use]
    pub fn finish(mut self, end: Instant) -> Measure {
        self.until(end);
        self.out.until = end;
        self.out.last = self.now.as_ref().map(|(_, value)| value.readable());
        if let Some([least, most]) = self.extremes.filter(|_| !self.out.is_bool) {
            (self.out.least, self.out.most) = (Some(least.readable()), Some(most.readable()));
        }
        self.out
    }

    fn until(&mut self, at: Instant) {
        if let Some((since, Value::Bool(true))) = &self.now {
            self.out.on = self.out.on.plus(lapse(*since, at));
        }
        if let Some((since, _)) = &mut self.now {
            *since = (*since).max(at);
        }
    }

    fn extend(&mut self, value: &Value) {
        let Some(number) = value.number() else { return };
        let [least, most] = self.extremes.get_or_insert_with(|| [value.clone(), value.clone()]);
        if least.number().is_none_or(|n| number < n) {
            *least = value.clone();
        }
        if most.number().is_none_or(|n| number > n) {
            *most = value.clone();
        }
    }
}

fn lapse(from: Instant, to: Instant) -> Duration {
    Duration::from_nanos(to.0.nanos() - from.0.nanos())
}

/// What each column of a trace did. The last row counts for as long as the one before it.
#[must_use]
pub fn measures(trace: &Trace) -> Vec<Measure> {
    let times: Vec<Instant> = trace.scans().iter().map(|(_, at)| *at).collect();
    let end = match times.as_slice() {
        [.., before, last] => last.after(lapse(*before, *last)),
        [only] => *only,
        [] => Instant::default(),
    };
    let column = |(column, name): (usize, &String)| {
        let mut measuring = Measuring::new(name);
        times.iter().zip(trace.column(column)).for_each(|(at, value)| measuring.value(*at, value.clone()));
        measuring.finish(end)
    };
    trace.names.iter().enumerate().map(column).collect()
}
