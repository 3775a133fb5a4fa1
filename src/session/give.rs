//! Giving values to one version or to both: what is given to a point of the first goes to its partner as well.

use crate::check::closest;
use crate::model::Value;
use crate::scan::{Controller, Direction, Machine, PointId};
use crate::twin::script::play::{input, variable};
use crate::twin::{Twin, sets};

/// The input's own name, of one that was named by its address.
pub(super) fn input_name(twin: &Twin<'_>, name: &str) -> String {
    let machines = twin.versions().map(|version| version.machine());
    let own = |machine: &Machine| {
        let point = machine.point(machine.find(name)?);
        (point.direction == Direction::Input).then(|| point.name.clone())
    };
    machines.into_iter().find_map(own).unwrap_or_else(|| name.to_string())
}

/// A variable's own name, of one that was named by its address.
pub(super) fn variable_name(twin: &Twin<'_>, name: &str) -> Result<String, String> {
    let machines = twin.versions().map(|version| version.machine());
    let own = |machine: &Machine| machine.find(name).map(|point| machine.point(point).name.clone());
    machines.into_iter().find_map(own).ok_or_else(|| {
        let near = closest(name, machines[0].points().iter().map(|point| point.name.as_str()));
        let hint = near.map_or(String::new(), |near| format!("; did you mean `{near}`?"));
        format!("there is no variable `{name}`{hint}")
    })
}

/// An input has a value from now on.
pub(super) fn set(twin: &Twin<'_>, controllers: &mut [Controller], name: &str, text: &str) -> Result<(), String> {
    let first = input(controllers[0].machine(), name, text);
    let (point, value) = match (first, controllers.len()) {
        (Ok(found), _) => found,
        (Err(what), 1) => return Err(what),
        // Only the second version has it.
        (Err(what), _) => {
            let (point, value) = input(controllers[1].machine(), name, text).map_err(|_| what)?;
            return controllers[1].set(point, &value).map_err(|e| e.to_string());
        }
    };
    let pair = twin.pairing.inputs().iter().position(|pair| pair.left() == point);
    let (Some(pair), 2..) = (pair, controllers.len()) else {
        return controllers[0].set(point, &value).map_err(|e| e.to_string());
    };
    let slot = twin.slot(point, &value).ok_or_else(|| format!("`{text}` is not a value of `{name}`"))?;
    let both = <&mut [Controller; 2]>::try_from(&mut *controllers).map_err(|e| e.to_string())?;
    sets(twin, both, pair, slot);
    if controllers[0].get(point) == value || controllers[0].is_forced(point) {
        Ok(())
    } else {
        Err(format!("`{text}` is a value of `{name}` that its partner cannot hold"))
    }
}

/// The points that a name stands for, with the first version's value as each version holds it.
fn partners(
    twin: &Twin<'_>,
    controllers: &[Controller],
    name: &str,
    text: &str,
) -> Result<Vec<(usize, PointId, Value)>, String> {
    let mut out = Vec::new();
    let mut first = None;
    for (side, controller) in controllers.iter().enumerate() {
        let machine = controller.machine();
        match variable(machine, name, text) {
            Ok((point, value)) => out.push((side, point, value)),
            Err(what) => first = first.or(Some(what)),
        }
    }
    // A partner of another name, or one that holds the value in another way.
    let pairs = twin.pairing.inputs().iter().chain(twin.pairing.outputs());
    let pair = out.first().filter(|(side, ..)| *side == 0).and_then(|(_, point, value)| {
        let pair = pairs.clone().find(|pair| pair.left() == *point)?;
        Some((pair, value.clone()))
    });
    if let (Some((pair, value)), 2..) = (pair, controllers.len()) {
        out.truncate(1);
        out.extend(twin.partner_value(pair, &value).map(|other| (1, pair.right(), other)));
    }
    if out.is_empty() { Err(first.unwrap_or_else(|| format!("there is no variable `{name}`"))) } else { Ok(out) }
}

/// A variable is given a value once.
pub(super) fn write(twin: &Twin<'_>, controllers: &mut [Controller], name: &str, text: &str) -> Result<(), String> {
    for (side, point, value) in partners(twin, controllers, name, text)? {
        controllers[side].set(point, &value).map_err(|e| e.to_string())?;
    }
    Ok(())
}

/// A variable is held at a value.
pub(super) fn force(twin: &Twin<'_>, controllers: &mut [Controller], name: &str, text: &str) -> Result<(), String> {
    for (side, point, value) in partners(twin, controllers, name, text)? {
        controllers[side].force(point, &value).map_err(|e| e.to_string())?;
    }
    Ok(())
}

/// The point of a name on each side, or its partner.
fn points(twin: &Twin<'_>, controllers: &[Controller], name: &str) -> Vec<Option<PointId>> {
    let own = |controller: &Controller| controller.machine().find(name);
    let mut out: Vec<Option<PointId>> = controllers.iter().map(own).collect();
    let pairs = twin.pairing.inputs().iter().chain(twin.pairing.outputs());
    if let [Some(left), right] = out.as_mut_slice()
        && let Some(pair) = pairs.clone().find(|pair| pair.left() == *left)
    {
        *right = Some(pair.right());
    }
    out
}

/// It is held no more.
pub(super) fn release(twin: &Twin<'_>, controllers: &mut [Controller], name: &str) {
    for (side, point) in points(twin, controllers, name).into_iter().enumerate() {
        point.into_iter().for_each(|point| controllers[side].release(point));
    }
}

/// What each version holds under a name.
pub(super) fn slots(twin: &Twin<'_>, controllers: &[Controller], name: &str) -> Vec<Option<i64>> {
    let all = points(twin, controllers, name).into_iter().zip(controllers);
    all.map(|(point, controller)| point.map(|point| controller.get_slot(point))).collect()
}

/// Puts back what each version held.
pub(super) fn restore(twin: &Twin<'_>, controllers: &mut [Controller], name: &str, was: &[Option<i64>]) {
    for (side, point) in points(twin, controllers, name).into_iter().enumerate() {
        if let (Some(point), Some(Some(slot))) = (point, was.get(side)) {
            controllers[side].set_slot(point, *slot);
        }
    }
}
