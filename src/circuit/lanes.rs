//! Many controllers of one program at a time.

use super::build::{FAULTS, Scanned, Unfit, Unread, add_version};
use super::net::{InputId, Net, Node};
use super::plan::{Place, Plan, plan};
use super::planes::{NONE, Plane, Simulator, WIDE, number, set_bit};
use super::words::Word;
use crate::model::ops::FaultKind;
use crate::model::{Duration, Value};
use crate::scan::{Direction, Machine, PointError, PointId, PointType};
use std::collections::HashMap;
use std::sync::Arc;

/// How many controllers run at a time.
pub const LANES: usize = WIDE;

/// As many controllers as [`LANES`] that run one program in lockstep, each with inputs of its own: what
/// [`crate::scan::Controller`] does one by one, by a circuit.
///
/// ```
/// use honest_twin::lang::{Language, read_project};
/// use honest_twin::{circuit::Lanes, check::check, model::{Duration, Value}, scan::Machine, source::Source};
/// let text = "PROGRAM P VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR Alarm := Low; END_PROGRAM";
/// let (project, _) = read_project(vec![(Source::new("p.st", text), Language::St)]);
/// let machine = Machine::new(&check(project).unwrap()).unwrap();
/// let mut lanes = Lanes::new(&machine, Duration::from_millis(10)).unwrap();
/// lanes.set(machine.find("Low").unwrap(), 7, &Value::Bool(true)).unwrap();
/// lanes.scan();
/// let alarm = machine.find("Alarm").unwrap();
/// assert_eq!(lanes.get(alarm, 7), Some(Value::Bool(true)));
/// assert_eq!(lanes.get(alarm, 8), Some(Value::Bool(false)));
/// ```
pub struct Lanes {
    machine: Machine,
    plan: Arc<Plan>,
    simulator: Simulator,
    scanned: Scanned,
    first_output: u32,
    /// What is seen from outside.
    seen: HashMap<Node, Shown>,
    /// What is no more in its place once a scan is over: where it begins in `left`, and its place.
    places: Vec<(usize, Place)>,
    /// What the last scan left there.
    left: Vec<Plane>,
}

/// Where the bits of a node are after a scan.
#[derive(Clone, Copy)]
enum Shown {
    /// In their place, until they are computed again.
    Computed(Place),
    /// Among those that were left, from there on: a register holds what comes next already, and an input may have been given anew.
    Left(usize, Place),
}

impl std::fmt::Debug for Lanes {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Lanes")
            .field("points", &self.machine.points().len())
            .field("seen", &self.seen.len())
            .finish_non_exhaustive()
    }
}

impl Lanes {
    /// Controllers that have just been powered up and scan every `scan`.
    ///
    /// # Errors
    /// [`Unfit`] if the program has no circuit.
    pub fn new(machine: &Machine, scan: Duration) -> Result<Lanes, Unfit> {
        let mut net = Net::default();
        let inputs = input_nodes(&mut net, machine);
        let dt = net.constant(scan.nanos());
        let scanned = add_version(&mut net, 0, machine, &inputs, dt, Unread::None)?;
        let mut asked = scanned.outputs.clone();
        asked.extend([scanned.fault, scanned.beyond]);
        let plan = Arc::new(plan(&mut net, &asked));
        let (mut left, mut places, mut seen) = (0, Vec::new(), HashMap::new());
        let first_computed = plan.steps.iter().map(|step| step.d.at).min().unwrap_or(u32::MAX);
        for node in asked {
            let Some(place) = plan.place(node).filter(|_| !seen.contains_key(&node)) else { continue };
            if place.at >= first_computed {
                seen.insert(node, Shown::Computed(place));
                continue;
            }
            seen.insert(node, Shown::Left(left, place));
            places.push((left, place));
            left += usize::from(place.width);
        }
        let mut lanes = Lanes {
            seen,
            places,
            left: vec![NONE; left],
            machine: machine.clone(),
            simulator: Simulator::new(Arc::clone(&plan)),
            plan,
            scanned,
            first_output: inputs.len() as u32,
        };
        // Inputs begin with their initial values.
        for (number, (_, point)) in machine.points_of(Direction::Input).enumerate() {
            let value = machine.initial(point);
            (0..LANES).for_each(|lane| lanes.give(InputId(number as u32), lane, value));
        }
        Ok(lanes)
    }

    /// How many bits, and how many steps, one scan takes.
    #[must_use]
    pub fn size(&self) -> (usize, usize) {
        (self.plan.bits, self.plan.steps.len())
    }

    /// Gives an input of one controller a value; seen from the next scan on.
    ///
    /// # Errors
    /// [`PointError`] if it is no input, or the value does not fit.
    pub fn set(&mut self, point: PointId, lane: usize, value: &Value) -> Result<(), PointError> {
        let of = self.machine.point(point);
        let wrong = || PointError::Value { name: of.name.clone(), value: value.to_string() };
        let slot = of.ty.slot(value, |_| None).filter(|s| within(&of.ty, *s)).ok_or_else(wrong)?;
        if point.0 >= self.first_output || lane >= LANES {
            return Err(wrong());
        }
        self.give(InputId(point.0), lane, slot);
        Ok(())
    }

    fn give(&mut self, id: InputId, lane: usize, value: i64) {
        if let Some((_, place)) = self.simulator.input(id) {
            self.simulator.set_number(place, lane, value);
        }
    }

    /// An output of one controller after a scan. `None` if it is no output.
    #[must_use]
    pub fn get(&self, point: PointId, lane: usize) -> Option<Value> {
        let slot = self.get_slot(point, lane)?;
        let ty = &self.machine.point(point).ty;
        (*ty != PointType::Text).then(|| ty.value(slot, |_| String::new()))
    }

    fn get_slot(&self, point: PointId, lane: usize) -> Option<i64> {
        let number = point.0.checked_sub(self.first_output)? as usize;
        Some(self.read(*self.scanned.outputs.get(number)?, lane))
    }

    fn read(&self, node: Node, lane: usize) -> i64 {
        let (bits, place) = match self.seen.get(&node) {
            Some(Shown::Computed(place)) => (self.simulator.planes(*place), place),
            Some(Shown::Left(at, place)) => (&self.left[*at..*at + usize::from(place.width)], place),
            None => return 0,
        };
        number(Word { bits, signed: place.signed, zero: NONE }, lane).wrapping_mul(self.plan.unit(node))
    }

    /// The kind of fault that stopped a controller.
    #[must_use]
    pub fn fault(&self, lane: usize) -> Option<FaultKind> {
        let number = self.read(self.scanned.fault, lane);
        number.checked_sub(1).and_then(|n| FAULTS.get(usize::try_from(n).ok()?)).copied()
    }

    /// True if in the last scan a controller went beyond what the circuit holds: it ran more rounds of a loop than are
    /// laid out. From then on it says nothing.
    #[must_use]
    pub fn is_beyond(&self, lane: usize) -> bool {
        self.read(self.scanned.beyond, lane) != 0
    }

    /// One scan of all controllers.
    pub fn scan(&mut self) {
        self.simulator.compute();
        for (at, place) in &self.places {
            self.left[*at..*at + usize::from(place.width)].copy_from_slice(self.simulator.planes(*place));
        }
        self.simulator.advance();
    }

    /// Switches one controller off and on, before its next scan.
    pub fn power_cycle(&mut self, lane: usize) {
        let mut mask = NONE;
        set_bit(&mut mask, lane, true);
        self.simulator.power_cycle(mask);
    }
}

/// Nodes of the inputs of a machine, in the order of its points.
pub(crate) fn input_nodes(net: &mut Net, machine: &Machine) -> Vec<Node> {
    machine.points_of(Direction::Input).map(|(_, point)| net.input(limits(&point.ty), 1)).collect()
}

/// The smallest and largest value of a type.
pub(crate) fn limits(ty: &PointType) -> (i64, i64) {
    let unlimited = if *ty == PointType::Text { (0, 0) } else { (i64::MIN, i64::MAX) };
    ty.limits().unwrap_or(unlimited)
}

fn within(ty: &PointType, value: i64) -> bool {
    let (low, high) = limits(ty);
    (low..=high).contains(&value)
}
