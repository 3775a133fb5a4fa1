//! A recorded wave (VCD, IEEE 1364) as a stimulus.

use super::{Direction, Event, Machine, PointId, PointType, Stimulus, StimulusError};
use crate::model::{Duration, Family, Value};
use std::collections::HashMap;

impl Stimulus {
    /// The stimulus that a wave holds: what its signals with the names of inputs do. Signals of other names are passed
    /// over; unknown values (x, z) keep what was.
    ///
    /// # Errors
    /// What is wrong, with the number of the change counted as a row; or that no signal is an input.
    pub fn from_vcd(text: &str, machine: &Machine) -> Result<Stimulus, StimulusError> {
        let mut row = 0;
        let wrong = |row: u64, what: String| StimulusError { row, what };
        // Whoever reads scopes does so one in another; no wave of a machine is that deep.
        if deepest(text) > MOST_SCOPES {
            return Err(wrong(1, format!("scopes are nested more than {MOST_SCOPES} deep")));
        }
        let mut parser = vcd::Parser::new(text.as_bytes());
        let header = parser.parse_header().map_err(|e| wrong(1, e.to_string()))?;
        let mut points: HashMap<vcd::IdCode, PointId> = HashMap::new();
        collect(&header.items, machine, &mut points);
        if points.is_empty() {
            let inputs: Vec<&str> = machine.points_of(Direction::Input).map(|(_, p)| p.name.as_str()).collect();
            return Err(wrong(1, format!("no signal is an input; the inputs are {}", inputs.join(", "))));
        }
        let unit = header.timescale.map_or(1.0, |(by, unit)| f64::from(by) * 1e9 / unit.divisor() as f64);
        let mut events: Vec<Event> = Vec::new();
        let mut now = Duration::ZERO;
        for command in parser {
            row += 1;
            let (code, value) = match command.map_err(|e| wrong(row, e.to_string()))? {
                vcd::Command::Timestamp(at) => {
                    now = Duration::from_nanos((at as f64 * unit).round() as i64);
                    continue;
                }
                vcd::Command::ChangeScalar(code, value) => (code, bits(std::iter::once(value))),
                vcd::Command::ChangeVector(code, vector) => (code, bits(vector.iter())),
                vcd::Command::ChangeReal(code, real) => (code, Some(Wave::Real(real))),
                vcd::Command::Comment(_)
                | vcd::Command::Date(_)
                | vcd::Command::Version(_)
                | vcd::Command::Timescale(..)
                | vcd::Command::ScopeDef(..)
                | vcd::Command::Upscope
                | vcd::Command::VarDef(..)
                | vcd::Command::Enddefinitions
                | vcd::Command::ChangeString(..)
                | vcd::Command::Begin(_)
                | vcd::Command::End(_)
                | _ => continue,
            };
            let (Some(point), Some(wave)) = (points.get(&code), value) else { continue };
            let Some(value) = wave.value(&machine.point(*point).ty) else {
                let name = &machine.point(*point).name;
                return Err(wrong(row, format!("a value of the wave is no value of `{name}`")));
            };
            if events.last().is_some_and(|e| e.at > now) {
                return Err(wrong(row, "times must not fall".to_string()));
            }
            if events.last().is_none_or(|e| e.at != now) {
                events.push(Event::at(now));
            }
            if let Some(event) = events.last_mut() {
                event.set.retain(|(p, _)| p != point);
                event.set.push((*point, value));
            }
        }
        Ok(Stimulus { events })
    }
}

/// Most scopes in one another.
const MOST_SCOPES: usize = 256;

/// How deep the scopes of a wave are nested.
fn deepest(text: &str) -> usize {
    let (mut depth, mut most) = (0usize, 0);
    for word in text.split_ascii_whitespace() {
        match word {
            "$scope" => depth += 1,
            "$upscope" => depth = depth.saturating_sub(1),
            "$enddefinitions" => break,
            _ => {}
        }
        most = most.max(depth);
    }
    most
}

enum Wave {
    Bits(u64),
    Real(f64),
}

/// Bits, highest first; `None` if one is unknown.
fn bits(values: impl Iterator<Item = vcd::Value>) -> Option<Wave> {
    let mut out = 0u64;
    for value in values {
        let bit = match value {
            vcd::Value::V0 => 0,
            vcd::Value::V1 => 1,
            vcd::Value::X | vcd::Value::Z => return None,
        };
        out = out << 1 | bit;
    }
    Some(Wave::Bits(out))
}

impl Wave {
    fn value(&self, ty: &PointType) -> Option<Value> {
        let bits = match (self, ty.family()) {
            (Wave::Real(real), Family::Real) => return Some(Value::Real(*real)),
            (Wave::Real(_), _) | (Wave::Bits(_), Family::Real | Family::Text) => return None,
            (Wave::Bits(bits), Family::Bool) => return Some(Value::Bool(*bits != 0)),
            (Wave::Bits(bits), Family::Time) => return Some(Value::Time(Duration::from_nanos(*bits as i64))),
            (Wave::Bits(bits), Family::Bits | Family::Int) => *bits,
        };
        // Of an enumeration any number is taken.
        let Some(elem) = ty.elem() else { return Some(Value::Enum(bits as i64, None)) };
        // A signed number of fewer bits than the wave has was written with its sign in front.
        let number = if elem.shape()?.signed { i128::from(bits as i64) } else { i128::from(bits) };
        let value = Value::Int(number);
        value.to_slot(elem).map(|_| value)
    }
}

fn collect(items: &[vcd::ScopeItem], machine: &Machine, points: &mut HashMap<vcd::IdCode, PointId>) {
    for item in items {
        match item {
            vcd::ScopeItem::Var(var) => {
                let name = match &var.index {
                    Some(index) => format!("{}{index}", var.reference),
                    None => var.reference.clone(),
                };
                let found = machine.find(&name).filter(|p| machine.point(*p).direction == Direction::Input);
                if let Some(point) = found {
                    points.insert(var.code, point);
                }
            }
            vcd::ScopeItem::Scope(scope) => collect(&scope.items, machine, points),
            vcd::ScopeItem::Comment(_) | _ => {}
        }
    }
}
