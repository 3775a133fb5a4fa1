//! Where an input resets something: an input wired normally closed is read inverted there, and that is as it should be.

use super::env::Env;
use super::typed::{TExpr, TKind, TStmt, TStmtKind, UnitId};
use crate::model::ops::UnaryOp;
use crate::model::{ContactForm, ElementKind, ExprKind, Network, Wire};

/// Inputs that reset a block, as the standard and the shipped sheets call them.
const RESET_PINS: [&str; 3] = ["R", "R1", "RESET"];

impl Env<'_> {
    /// A value resets something: what it reads inverted is no hint of wiring that was inverted twice.
    pub(super) fn resets(&mut self, value: &TExpr) {
        let inner = if let TKind::Unary(UnaryOp::Not, inner) = &value.kind { inner } else { return };
        if let TKind::Read(place) = &inner.kind {
            self.not_inverted(place.root);
        }
    }

    /// As [`Env::resets`], of what is given to an input of a block.
    pub(super) fn resets_by_pin(&mut self, unit: UnitId, at: u32, value: &TExpr) {
        let name = &self.units[unit.0 as usize].vars[at as usize].name;
        if RESET_PINS.iter().any(|pin| pin.eq_ignore_ascii_case(name)) {
            self.resets(value);
        }
    }

    /// As [`Env::resets`], of a condition under which everything that is assigned becomes FALSE or 0.
    pub(super) fn resets_if(&mut self, condition: &TExpr, body: &[TStmt]) {
        let clears =
            |stmt: &TStmt| matches!(&stmt.kind, TStmtKind::Assign(_, value) if matches!(value.kind, TKind::Const(0)));
        if !body.is_empty() && body.iter().all(clears) {
            self.resets(condition);
        }
    }

    /// As [`Env::resets`], of a reset coil with a negated contact before it.
    pub(super) fn resets_by_coil(&mut self, network: &Network, coil: Wire) {
        for element in &network.elements {
            let ElementKind::Contact { form: ContactForm::Closed, operand, to, .. } = &element.kind else { continue };
            let ExprKind::Name(name) = &operand.kind else { continue };
            if *to == coil
                && let Some((root, _)) = self.variable(&name.text)
            {
                self.not_inverted(root);
            }
        }
    }
}
