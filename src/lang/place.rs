//! What stands at a place, in words: of a text the text, of a drawing the element and its network.

use super::grid::paint::{coil, contact};
use super::st::expression;
use crate::model::{Body, Element, ElementKind, Item, Project, Unit};
use crate::source::Span;
use std::collections::HashMap;

/// The statement or instruction at a place as it is written, cut to 160 characters; an element of a drawing by what it is:
/// `( ) Heat in network 3`.
#[must_use]
pub fn statement_at(project: &Project, place: Span) -> String {
    let found = elements(project).find(|(_, element)| element.span == place);
    found.map_or_else(|| project.excerpt(place), |(number, element)| told(number, element))
}

/// The elements of a project's drawings, by their places: what stands at a place is a name, a sign or a piece of a border,
/// which by itself says nothing.
pub(crate) struct Elements<'p> {
    project: &'p Project,
    by_place: HashMap<Span, String>,
}

impl<'p> Elements<'p> {
    pub(crate) fn of(project: &'p Project) -> Elements<'p> {
        let by_place = elements(project).map(|(number, element)| (element.span, told(number, element))).collect();
        Elements { project, by_place }
    }

    /// As [`statement_at`], for many places.
    pub(crate) fn at(&self, place: Span) -> String {
        self.element(place).map_or_else(|| self.project.excerpt(place), str::to_string)
    }

    /// The element at a place, if one stands there.
    pub(crate) fn element(&self, place: Span) -> Option<&str> {
        self.by_place.get(&place).map(String::as_str)
    }
}

/// The elements of all drawings, each with the number of its network in its unit.
fn elements(project: &Project) -> impl Iterator<Item = (usize, &Element)> {
    let drawings = project.items.iter().map(|item| match item {
        Item::Unit(Unit { body: Body::Ladder(list) | Body::Blocks(list), .. }) => list.as_slice(),
        Item::Unit(_) | Item::Type(_) | Item::Globals(_) | Item::Configuration(_) | Item::Envelope(_) => &[],
    });
    drawings
        .flat_map(|list| list.iter().zip(1..))
        .flat_map(|(network, number)| network.elements.iter().map(move |element| (number, element)))
}

fn told(number: usize, element: &Element) -> String {
    format!("{} in network {number}", element_words(element))
}

/// An element of a drawing in a few words: its sign and its name.
pub(crate) fn element_words(element: &Element) -> String {
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
