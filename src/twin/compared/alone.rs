//! What has no partner, and which point of the other version may be meant.

use super::pair::{Pairing, asks, by_names};
use super::reading;
use crate::scan::{Direction, Point, PointId, PointType};
use crate::twin::Version;
use serde::Serialize;
use std::collections::{HashMap, HashSet};
use std::fmt;

/// An input or output that is not paired.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Alone {
    /// Its name.
    pub name: String,
    /// `input` or `output`.
    pub kind: String,
    /// Why it has no partner.
    pub why: String,
    /// What a user may have meant, or has to say; empty if nothing comes to mind.
    pub hint: String,
    /// True if the verdict hangs on it, so that nothing is decided until someone has agreed: a version reads the input, or
    /// both have the output.
    pub matters: bool,
    /// True if someone has agreed: the input keeps its value at rest, the output is not compared.
    pub agreed: bool,
}

/// Why a pair that was taken apart is alone.
pub(super) const LEFT_OUT: &str = "left out, as was said";

impl Alone {
    /// True of a point whose pair was taken apart by saying so.
    pub(crate) fn is_left_out(&self) -> bool {
        self.why == LEFT_OUT
    }
}

impl fmt::Display for Alone {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} {}: {}", self.kind, self.name, self.why)?;
        match (self.agreed, self.kind.as_str()) {
            (true, "input") => write!(f, "; it keeps its value at rest, as was agreed"),
            (true, _) => write!(f, "; it is not compared, as was agreed"),
            (false, "output") if !self.matters => write!(f, ", so it is not compared"),
            (false, _) => Ok(()),
        }?;
        if self.agreed || self.hint.is_empty() { Ok(()) } else { write!(f, "; {}", self.hint) }
    }
}

impl Pairing {
    /// Says what has no partner.
    pub(crate) fn find_alone(&mut self, left: &Version, right: &Version) {
        let before = std::mem::take(&mut self.alone);
        let mut out = Vec::new();
        // Those that only one version has and nothing is near: the place in `out`, and the point, left and right.
        let mut lost: [Vec<(usize, PointId)>; 2] = Default::default();
        for direction in [Direction::Input, Direction::Output] {
            let is_input = direction == Direction::Input;
            let pairs = if is_input { &self.inputs } else { &self.outputs };
            let paired = [pairs.iter().map(|p| p.left).collect(), pairs.iter().map(|p| p.right).collect()];
            let [mut of_left, mut of_right] = [(left, &paired[0]), (right, &paired[1])]
                .map(|(version, paired)| Free::new(version, direction, paired));
            let reads = |version: &Version, id: PointId| is_input && version.machine.reads(id);
            for (id, point) in of_left.points.clone() {
                let (why, hint, matters) = match of_right.namesake(&point.name) {
                    Some((other, p)) => {
                        let types = format!("{} in {} and {} in {}", point.ty, left.name, p.ty, right.name);
                        let possible = reading::only(&point.ty, &p.ty).err().unwrap_or_default();
                        let matters = !is_input || reads(left, id) || reads(right, other);
                        (types, format!("{}{}", asks(&possible), enum_numbers(&point.ty, &p.ty)), matters)
                    }
                    None => {
                        let likely = of_right.likely(point);
                        lost[0].extend(likely.is_empty().then_some((out.len(), id)));
                        (format!("only in {}", left.name), likely, reads(left, id))
                    }
                };
                out.push(alone(direction, &point.name, [why, hint], matters));
            }
            for (id, point) in of_right.points {
                if of_left.namesake(&point.name).is_none() {
                    let likely = of_left.likely(point);
                    lost[1].extend(likely.is_empty().then_some((out.len(), id)));
                    let why = format!("only in {}", right.name);
                    out.push(alone(direction, &point.name, [why, likely], reads(right, id)));
                }
            }
            by_place(&mut out, std::mem::take(&mut lost), [left, right]);
        }
        let agreed: HashSet<(&str, &str)> =
            before.iter().filter(|b| b.agreed).map(|b| (b.name.as_str(), b.kind.as_str())).collect();
        out.iter_mut().for_each(|alone| alone.agreed = agreed.contains(&(alone.name.as_str(), alone.kind.as_str())));
        self.alone = out;
    }
}

/// Where both versions have as many points without a partner, and of types that have one reading, the first of one may be the
/// first of the other.
fn by_place(out: &mut [Alone], lost: [Vec<(usize, PointId)>; 2], versions: [&Version; 2]) {
    let point = |side: usize, place: usize| versions[side].machine.point(lost[side][place].1);
    let same = lost[0].len() == lost[1].len();
    if !same || (0..lost[0].len()).any(|n| reading::only(&point(0, n).ty, &point(1, n).ty).is_err()) {
        return;
    }
    for place in 0..lost[0].len() {
        for side in [0, 1] {
            let other = point(1 - side, place);
            let at = other.address.as_ref().map_or(String::new(), |address| format!(", at {address}"));
            out[lost[side][place].0].hint =
                format!("by its place `{}`{at} in {} may be meant", other.name, versions[1 - side].name);
        }
    }
}

fn alone(direction: Direction, name: &str, [why, hint]: [String; 2], matters: bool) -> Alone {
    let kind = if direction == Direction::Input { "input" } else { "output" };
    Alone { name: name.to_string(), kind: kind.to_string(), why, hint, matters, agreed: false }
}

/// Of enumerations the first name that has another number on the other side.
fn enum_numbers(from: &PointType, to: &PointType) -> String {
    let moved = reading::names(from, to).into_iter().find(|(a, b)| Some(*a) != *b);
    let (PointType::Enum(values), Some((number, other))) = (from, moved) else { return String::new() };
    let name = values.iter().find(|(_, v)| *v == number).map_or("", |(n, _)| n.as_str());
    match other {
        Some(other) => format!(" ({name} is {number} here and {other} there)"),
        None => format!(" ({name} is not there)"),
    }
}

/// Names that are held against others at most, in one pairing and direction.
const MOST_NEAR: usize = 1_000_000;

/// The points of a version that have no partner.
struct Free<'v> {
    version: &'v Version,
    points: Vec<(PointId, &'v Point)>,
    names: HashMap<String, (PointId, &'v Point)>,
    addresses: HashMap<&'v str, Vec<&'v Point>>,
    /// Names that are still held against others.
    left: usize,
}

impl<'v> Free<'v> {
    fn new(version: &'v Version, direction: Direction, paired: &HashSet<PointId>) -> Free<'v> {
        let is_free = |(id, _): &(PointId, &Point)| !paired.contains(id);
        let points: Vec<(PointId, &Point)> = version.machine.points_of(direction).filter(is_free).collect();
        let mut names = by_names(version, direction);
        names.retain(|_, named| is_free(named));
        let mut addresses: HashMap<&str, Vec<&Point>> = HashMap::new();
        for (_, point) in &points {
            if let Some(address) = point.address.as_deref() {
                addresses.entry(address).or_default().push(point);
            }
        }
        Free { version, points, names, addresses, left: MOST_NEAR }
    }

    /// The one of that name.
    fn namesake(&self, name: &str) -> Option<(PointId, &'v Point)> {
        self.names.get(&name.to_ascii_lowercase()).copied()
    }

    /// The one that may be meant by a point, as it has the same address or a near name, in words. Where there are very many no name
    /// is said to be near.
    fn likely(&mut self, point: &Point) -> String {
        let fits = |p: &&Point| reading::only(&point.ty, &p.ty).is_ok();
        let version = &self.version.name;
        let there = point.address.as_deref().and_then(|address| self.addresses.get(address));
        if let Some(p) = there.and_then(|list| list.iter().copied().find(fits)) {
            let address = p.address.as_deref().unwrap_or_default();
            return format!("`{}` in {version} is at {address} as well and may be meant", p.name);
        }
        let Some(left) = self.left.checked_sub(self.points.len()) else { return String::new() };
        self.left = left;
        let near = |p: &Point| {
            let (a, b) = (p.name.to_lowercase(), point.name.to_lowercase());
            let part = if a.contains(&b) || b.contains(&a) { 0.9 } else { 0.0 };
            strsim::jaro_winkler(&a, &b).max(part)
        };
        let free = self.points.iter().map(|(_, p)| *p).filter(fits);
        let best = free.map(|p| (near(p), p)).filter(|(near, _)| *near > 0.8).max_by(|a, b| a.0.total_cmp(&b.0));
        best.map_or(String::new(), |(_, p)| format!("`{}` in {version} may be meant", p.name))
    }
}
