//! What stands at a place, in words: of a text the text, of a drawing the element and its network.

use super::grid::paint::{coil, contact};
use super::st::expression;
use crate::model::{Body, Element, ElementKind, Item, Project};
use crate::source::Span;

/// The statement or instruction at a place as it is written, cut to 160 characters; an element of a drawing by what it is:
/// `( ) Heat in network 3`.
#[must_use]
pub fn statement_at(project: &Project, place: Span) -> String {
    for item in &project.items {
        let Item::Unit(unit) = item else { continue };
        let (Body::Ladder(list) | Body::Blocks(list)) = &unit.body else { continue };
        for (number, network) in list.iter().enumerate() {
            if let Some(element) = network.elements.iter().find(|element| element.span == place) {
                return format!("{} in network {}", said(element), number + 1);
            }
        }
    }
    project.excerpt(place)
}

fn said(element: &Element) -> String {
    match &element.kind {
        ElementKind::Contact { form, operand, .. } => format!("{} {}", contact(*form), expression(operand)),
        ElementKind::Compare { op, left, right, .. } => {
            format!("|{}| {} and {}", op.symbol(), expression(left), expression(right))
        }
        ElementKind::Coil { target, drive: Some(drive), .. } => format!("({}) {}", drive.word.text, expression(target)),
        ElementKind::Coil { form, target, drive: None, .. } => format!("{} {}", coil(*form), expression(target)),
        ElementKind::Block(block) => match &block.instance {
            Some(instance) => format!("{} {}", block.name.text, expression(instance)),
            None => format!("the box {}", block.name.text),
        },
        ElementKind::Source { value, .. } => expression(value),
        ElementKind::Sink { target, .. } => format!("what goes to {}", expression(target)),
        ElementKind::Jump { label, .. } => format!(">>{}", label.text),
        ElementKind::Return { .. } => "<RETURN>".to_string(),
    }
}
