//! The names by which memory is reached from outside: inputs, outputs, and anything else by its path.

use super::layout::Layout;
use crate::check::typed::{Origin, Ty, Var};
use crate::check::{Checked, written_address};
use crate::model::{Elem, Section};
use crate::source::Span;
use std::collections::HashMap;
use std::sync::Arc;

/// What a point is for, in the order in which the points of a machine stand.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Direction {
    /// Given from outside before a scan.
    Input,
    /// Seen from outside after a scan.
    Output,
    /// Neither; it can be watched and forced.
    Internal,
}

/// The type of a point's value.
#[derive(Clone, Debug, PartialEq)]
pub enum PointType {
    /// An elementary type.
    Elem(Elem),
    /// A subrange, ends included.
    Range(Elem, i64, i64),
    /// An enumeration: names and numbers.
    Enum(Arc<Vec<(String, i64)>>),
    /// STRING.
    Text,
}

/// A value that can be reached from outside.
#[derive(Clone, Debug, PartialEq)]
pub struct Point {
    /// Its path: `Pump`, `T1.ET`, `Doses[3]`; with the program's name in front if several run.
    pub name: String,
    /// What it is for.
    pub direction: Direction,
    /// What it holds.
    pub ty: PointType,
    /// Where it is located, as its program writes that: `%IX0.3`, or an address of the dialect. Of a part of a device the
    /// address of the device with the part behind it.
    pub address: Option<String>,
    /// True of a part of an array, a structure or an instance.
    pub(crate) is_part: bool,
    pub(crate) slot: u32,
}

/// Number of a point in its list.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, serde::Serialize, schemars::JsonSchema)]
pub struct PointId(pub u32);

/// Arrays and structures with more parts than this are not listed part by part.
const MOST_PARTS: u64 = 4096;

/// Lists the points of a compiled project: inputs, then outputs, then all else.
pub(super) fn list(checked: &Checked, globals: &[u32], programs: &[u32]) -> Vec<Point> {
    let Some(layout) = Layout::new(checked) else { return Vec::new() };
    let mut lister = Lister { checked, layout, out: Vec::new(), depth: 0 };
    for (var, slot) in checked.globals.iter().zip(globals) {
        lister.part(&var.ty, var.name.clone(), address_of(checked, var), *slot, direction(var, false));
    }
    let several = checked.programs.len() > 1;
    for (program, base) in checked.programs.iter().zip(programs) {
        let unit = checked.unit(program.unit);
        for (number, var) in unit.vars.iter().enumerate() {
            if var.global.is_some() || var.section == Section::InOut || var.is_hidden() {
                continue;
            }
            let slot = base + lister.layout.offset(program.unit, number as u32);
            let name = if several { format!("{}.{}", program.instance, var.name) } else { var.name.clone() };
            lister.part(&var.ty, name, address_of(checked, var), slot, direction(var, true));
        }
    }
    let mut out = lister.out;
    sort(&mut out);
    out
}

/// Inputs first, then outputs, then all else.
pub(super) fn sort(points: &mut [Point]) {
    points.sort_by_key(|p| match p.direction {
        Direction::Input => 0,
        Direction::Output => 1,
        Direction::Internal => 2,
    });
}

/// Points by what they are called, and by their addresses where nothing else is called so; in capitals.
pub(super) fn names(points: &[Point]) -> HashMap<String, PointId> {
    let numbered = || points.iter().enumerate().map(|(number, point)| (PointId(number as u32), point));
    let mut names: HashMap<String, PointId> = numbered().map(|(id, p)| (p.name.to_uppercase(), id)).collect();
    for (id, point) in numbered() {
        if let Some(address) = &point.address {
            names.entry(address.to_uppercase()).or_insert(id);
        }
    }
    names
}

/// Slots of the wires of programs that are drawn, by unit and name; and of the memories of their edge contacts and coils, by
/// place.
pub(super) fn hidden(checked: &Checked, programs: &[u32]) -> (HashMap<String, u32>, HashMap<Span, u32>) {
    let (mut wires, mut edges) = (HashMap::new(), HashMap::new());
    let Some(mut layout) = Layout::new(checked) else { return (wires, edges) };
    for (program, base) in checked.programs.iter().zip(programs) {
        let unit = checked.unit(program.unit);
        layout.unit_size(program.unit);
        for (number, var) in unit.vars.iter().enumerate().filter(|(_, var)| var.ty == Ty::BOOL) {
            let slot = base + layout.offset(program.unit, number as u32);
            match var.origin {
                Origin::Wire => drop(wires.insert(format!("{} {}", unit.name.to_uppercase(), var.name), slot)),
                Origin::Edge => drop(edges.insert(var.span, slot)),
                Origin::Declared | Origin::Between => {}
            }
        }
    }
    (wires, edges)
}

fn direction(var: &Var, in_program: bool) -> Direction {
    // What is said to be given or shown outside, is, though it is a global without an address.
    let said = matches!(var.section, Section::Input | Section::Output);
    let by_section = in_program || var.address.is_some() || said;
    if var.constant || !by_section {
        Direction::Internal
    } else if var.is_input() {
        Direction::Input
    } else if var.is_output() {
        Direction::Output
    } else {
        Direction::Internal
    }
}

/// The address of a variable as its program writes it.
fn address_of(checked: &Checked, var: &Var) -> Option<String> {
    var.address.as_ref().map(|address| written_address(checked.project().library.as_deref(), address))
}

struct Lister<'c> {
    checked: &'c Checked,
    layout: Layout<'c>,
    out: Vec<Point>,
    /// How many arrays, structures and instances stand around the value at hand.
    depth: u32,
}

impl Lister<'_> {
    fn part(&mut self, ty: &Ty, name: String, address: Option<String>, slot: u32, direction: Direction) {
        if self.layout.size(ty) > MOST_PARTS {
            return;
        }
        let point = match ty {
            Ty::Elem(elem) => PointType::Elem(*elem),
            Ty::Range(elem, low, high) => PointType::Range(*elem, *low, *high),
            Ty::Enum(id) => PointType::Enum(Arc::new(self.checked.enums[*id as usize].values.clone())),
            Ty::Text(_) => PointType::Text,
            Ty::Array(array) => {
                let size = self.layout.size(&array.of) as u32;
                self.depth += 1;
                for (number, indices) in all_indices(&array.bounds).into_iter().enumerate() {
                    self.part(&array.of, format!("{name}[{indices}]"), None, slot + number as u32 * size, direction);
                }
                self.depth -= 1;
                return;
            }
            Ty::Struct(_) | Ty::Block(_) => {
                // A block writes its own parts, so nobody else gives them.
                let given = direction == Direction::Input && matches!(ty, Ty::Block(_));
                let direction = if given { Direction::Internal } else { direction };
                let fields: Vec<String> = match ty {
                    Ty::Struct(id) => {
                        self.checked.structs[*id as usize].fields.iter().map(|f| f.name.clone()).collect()
                    }
                    Ty::Block(unit) => self.checked.unit(*unit).vars.iter().map(|f| f.name.clone()).collect(),
                    Ty::Elem(_)
                    | Ty::Text(_)
                    | Ty::Range(..)
                    | Ty::Enum(_)
                    | Ty::Array(_)
                    | Ty::Watch
                    | Ty::LitInt
                    | Ty::LitReal
                    | Ty::Unknown(_) => Vec::new(),
                };
                let shared = |number: usize| {
                    matches!(ty, Ty::Block(unit) if {
                        let var = &self.checked.unit(*unit).vars[number];
                        var.section == Section::InOut || var.global.is_some() || var.is_hidden()
                    })
                };
                let own: Vec<usize> = (0..fields.len()).filter(|n| !shared(*n)).collect();
                self.depth += 1;
                for number in own {
                    let (offset, field) = self.layout.field(ty, number as u32);
                    let field_address = address.as_ref().map(|address| format!("{address}.{}", fields[number]));
                    self.part(&field, format!("{name}.{}", fields[number]), field_address, slot + offset, direction);
                }
                self.depth -= 1;
                return;
            }
            Ty::Watch | Ty::LitInt | Ty::LitReal | Ty::Unknown(_) => return,
        };
        let is_part = self.depth > 0;
        self.out.push(Point { name, direction, ty: point, address, is_part, slot });
    }
}

/// Index texts of an array in memory order: `1, 1`, `1, 2`, ...
fn all_indices(bounds: &[(i64, i64)]) -> Vec<String> {
    let mut out = vec![String::new()];
    for (low, high) in bounds {
        out = out
            .iter()
            .flat_map(|head| {
                (*low..=*high).map(move |i| if head.is_empty() { i.to_string() } else { format!("{head}, {i}") })
            })
            .collect();
    }
    out
}
