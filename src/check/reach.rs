//! Networks that no scan reaches.

use crate::model::{Element, ElementKind, ExprKind, LiteralValue, Network, Wire};
use crate::source::{Diagnostic, codes};

/// A hint for the first network behind one that is left whatever happens, up to the next label.
pub(super) fn networks(list: &[Network]) -> Vec<Diagnostic> {
    let mut hints = Vec::new();
    let mut ended = None;
    for network in list {
        if network.label.is_some() {
            ended = None;
        }
        if let Some(end) = ended.take()
            && !network.elements.is_empty()
        {
            hints.push(
                Diagnostic::warning(codes::UNREACHABLE, network.span, "no scan reaches this network")
                    .related(end, "the list ends here, or goes on elsewhere"),
            );
            continue;
        }
        ended = network.elements.iter().find(|element| always_leaves(network, element)).map(|element| element.span);
    }
    hints
}

/// Whether an element leaves the list in every scan that meets it.
fn always_leaves(network: &Network, element: &Element) -> bool {
    let (ElementKind::Jump { from, .. } | ElementKind::Return { from }) = &element.kind else { return false };
    has_power(network, *from)
}

/// Whether a wire is the power rail, or comes from a literal TRUE.
fn has_power(network: &Network, wire: Wire) -> bool {
    let is_true = |element: &Element| {
        let ElementKind::Source { value, to } = &element.kind else { return false };
        let ExprKind::Literal(literal) = &value.kind else { return false };
        *to == wire && literal.value == LiteralValue::Bool(true)
    };
    wire == Wire::RAIL || network.elements.iter().any(is_true)
}
