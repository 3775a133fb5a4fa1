//! Variables that stand for something of a drawing, and that no text can name.

use super::Lowering;
use crate::check::env::key;
use crate::check::typed::{Origin, Place, Root, TExpr, TKind, Ty, Var};
use crate::model::{Expr, ExprKind, Name, Section, Wire};
use crate::source::Span;

impl Lowering<'_, '_, '_> {
    /// A variable of the unit with a name that no text can write.
    pub(super) fn hide(&mut self, what: &str, ty: Ty, span: Span) -> u32 {
        self.hidden += 1;
        let name = format!("network {} {what} {}", self.number + 1, self.hidden);
        self.hide_as(Origin::Between, name, ty, span)
    }

    /// The memory of an edge contact or coil.
    pub(super) fn hide_edge(&mut self, span: Span) -> u32 {
        self.hidden += 1;
        let name = format!("network {} edge {}", self.number + 1, self.hidden);
        self.hide_as(Origin::Edge, name, Ty::BOOL, span)
    }

    /// The variable behind a wire.
    pub(super) fn hide_wire(&mut self, wire: Wire, ty: Ty, span: Span) -> u32 {
        self.hide_as(Origin::Wire, wire_name(self.number, wire), ty, span)
    }

    fn hide_as(&mut self, origin: Origin, name: String, ty: Ty, span: Span) -> u32 {
        let index = self.env.current.0 as usize;
        let number = self.env.units[index].vars.len() as u32;
        self.env.local_names[index].insert(key(&name), number);
        self.env.units[index].vars.push(Var::hidden(name, ty, Section::Local, origin, span));
        number
    }

    pub(super) fn hidden_place(&self, number: u32, span: Span) -> Place {
        let ty = self.env.units[self.env.current.0 as usize].vars[number as usize].ty.clone();
        Place { root: Root::Local(number), steps: Vec::new(), ty, span }
    }

    pub(super) fn hidden_read(&self, number: u32, span: Span) -> TExpr {
        let place = self.hidden_place(number, span);
        TExpr { ty: place.ty.clone(), span, kind: TKind::Read(place) }
    }

    /// A hidden variable as the name that stands for it.
    pub(super) fn hidden_name(&self, number: u32, span: Span) -> Expr {
        let text = self.env.units[self.env.current.0 as usize].vars[number as usize].name.clone();
        Expr { kind: ExprKind::Name(Name { text, span }), span }
    }
}

/// The name of the variable behind a wire of the unit's network of this number, from 0.
pub(crate) fn wire_name(network: usize, wire: Wire) -> String {
    format!("network {} wire {}", network + 1, wire.0)
}
