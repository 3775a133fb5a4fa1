//! Both versions run beside each other on what is drawn at random: whether an output ever differs.

use fastrand::Rng;
use honest_twin::check::Checked;
use honest_twin::model::{Duration, Elem, Instant, Value};
use honest_twin::scan::{Controller, Direction, Machine, PointType};
use std::collections::BTreeSet;

/// The outputs, by name, that differ in any scan of any of so many runs.
pub(crate) fn differing(left: &Checked, right: &Checked, runs: u64, scans: i64) -> BTreeSet<String> {
    let machines = [Machine::new(left).unwrap(), Machine::new(right).unwrap()];
    let mut out = BTreeSet::new();
    for run in 0..runs {
        let mut rng = Rng::with_seed(run);
        let mut controllers = machines.each_ref().map(|machine| {
            let mut controller = Controller::new(machine);
            controller.set_loop_limit(10_000);
            controller
        });
        let rate = [2, 8, 60][run as usize % 3];
        for scan in 0..scans {
            let at = Instant(Duration::from_millis(10 * scan));
            if scan > 0 && rng.u32(0..400) == 0 {
                controllers.iter_mut().for_each(|controller| controller.power_cycle(at));
            }
            // Inputs in their order: one may go by another name.
            let partners = machines[1].points_of(Direction::Input).map(|(id, _)| id);
            for ((id, point), partner) in machines[0].points_of(Direction::Input).zip(partners) {
                let Some(value) = (rng.u32(0..rate) == 0).then(|| drawn(&point.ty, &mut rng)).flatten() else {
                    continue;
                };
                controllers[0].set(id, &value).unwrap();
                let _ = controllers[1].set(partner, &value);
            }
            controllers.iter_mut().for_each(|controller| controller.scan(at));
            for (id, point) in machines[0].points_of(Direction::Output) {
                let Some(other) = machines[1].find(&point.name) else { continue };
                // By what is written of them: what is no number is not equal to itself.
                if controllers[0].get(id).to_string() != controllers[1].get(other).to_string() {
                    out.insert(point.name.clone());
                }
            }
        }
    }
    out
}

fn drawn(ty: &PointType, rng: &mut Rng) -> Option<Value> {
    match ty {
        PointType::Elem(Elem::Bool) => Some(Value::Bool(rng.bool())),
        PointType::Elem(elem) => {
            let shape = elem.shape()?;
            let value = [0, 1, 2, 3, 5, 10, 21, 100][rng.usize(0..8)];
            (shape.bits >= 8 && elem.name().ends_with("INT")).then_some(Value::Int(value))
        }
        PointType::Range(..) | PointType::Enum(_) | PointType::Text => None,
    }
}
