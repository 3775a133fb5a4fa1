//! What one scan did, for the drawing: which wires had power, what conducted, and what values were read.
//!
//! A contact is drawn as it conducted when it was executed, by a [`Moment`]. Its variable may have been written again since,
//! so what memory holds after the scan does not tell that; without a moment no contact is said to conduct or not.

use crate::lang::st;
use crate::model::{ElementKind, Expr, Network, Users, Value, Wire, usage};
use crate::scan::{Controller, Moment, PointId};

/// What is shown of a scan: the controller as it stands after it.
#[allow(missing_debug_implementations, reason = "a controller is too large to be shown")]
#[derive(Clone)]
pub struct Live<'c> {
    /// The controller.
    pub controller: &'c Controller,
    /// What is said about the moment, such as `scan 12, 120 ms`.
    pub caption: String,
    /// What the scan did, place by place.
    pub moment: Option<&'c Moment>,
    pub(super) program: String,
}

impl<'c> Live<'c> {
    /// What a controller shows after its last scan: wires with power, and values. What conducted is told by
    /// [`Live::executed`].
    #[must_use]
    pub fn new(controller: &'c Controller, caption: impl Into<String>) -> Live<'c> {
        Live { controller, caption: caption.into(), moment: None, program: String::new() }
    }

    /// With what the last scan did ([`Controller::scan_closely`]).
    #[must_use]
    pub fn executed(self, moment: &'c Moment) -> Live<'c> {
        Live { moment: Some(moment), ..self }
    }

    pub(super) fn of_program(&self, program: &str) -> Live<'c> {
        Live { program: program.to_string(), ..self.clone() }
    }

    fn point(&self, name: &str) -> Option<PointId> {
        let machine = self.controller.machine();
        machine.find(&format!("{}.{name}", self.program)).or_else(|| machine.find(name))
    }

    /// What a name holds after the scan.
    pub(super) fn named(&self, name: &str) -> Option<Value> {
        self.point(name).map(|point| self.controller.get(point))
    }

    pub(super) fn value(&self, expr: &Expr) -> Option<String> {
        self.named(&st::expression(expr)).map(|value| value.said())
    }
}

/// One network in one scan.
pub(super) struct Lit<'l> {
    live: &'l Live<'l>,
    network: &'l Network,
    /// Its number in its unit, from 0.
    number: usize,
    /// The elements that feed each wire.
    fed: Users,
}

impl<'l> Lit<'l> {
    pub(super) fn new(live: &'l Live<'l>, network: &'l Network, number: usize) -> Lit<'l> {
        let fed = usage(network.elements.iter().map(|element| &element.kind)).0;
        Lit { live, network, number, fed }
    }

    /// Whether anything of the network was executed in the scan, as far as is known.
    pub(super) fn ran(&self) -> bool {
        let elements = &self.network.elements;
        self.live.moment.is_none_or(|moment| elements.is_empty() || elements.iter().any(|e| moment.ran(e.span)))
    }

    /// Whether a wire had power, if it is one of BOOL and something has fed it in the scan.
    pub(super) fn wire(&self, wire: Wire) -> Option<bool> {
        if wire == Wire::RAIL {
            return self.ran().then_some(true);
        }
        if let (Some(moment), Some(feeders)) = (self.live.moment, self.fed.get(&wire))
            && !feeders.iter().any(|feeder| moment.ran(self.network.elements[*feeder].span))
        {
            return None;
        }
        self.live.controller.wire(&self.live.program, self.number, wire)
    }

    /// Whether a contact or a comparison conducted when it was executed.
    pub(super) fn conducts(&self, element: usize) -> Option<bool> {
        let moment = self.live.moment?;
        let element = self.network.elements.get(element)?;
        match &element.kind {
            ElementKind::Contact { form, operand, .. } => {
                let point = self.live.point(&st::expression(operand))?;
                self.live.controller.contact(moment, element.span, *form, point)
            }
            ElementKind::Compare { .. } => moment.compared(element.span),
            ElementKind::Coil { .. }
            | ElementKind::Block(_)
            | ElementKind::Source { .. }
            | ElementKind::Sink { .. }
            | ElementKind::Jump { .. }
            | ElementKind::Return { .. } => None,
        }
    }

    /// Whether power came to an element that ends a rung, when it was executed.
    pub(super) fn power(&self, element: usize, wire: Wire) -> Option<bool> {
        let Some(moment) = self.live.moment else { return self.wire(wire) };
        let place = self.network.elements.get(element)?.span;
        if !moment.ran(place) {
            return None;
        }
        let (controller, program) = (self.live.controller, &self.live.program);
        controller.power_at(moment, place, program, self.number, wire).or_else(|| self.wire(wire))
    }

    /// What an element read of a value when it was executed; what that holds after the scan if it read it in another way.
    fn read(&self, element: usize, expr: &Expr) -> Option<Value> {
        let point = self.live.point(&st::expression(expr))?;
        let place = self.network.elements.get(element)?.span;
        let then = self.live.moment.and_then(|moment| self.live.controller.read_at(moment, place, point));
        Some(then.map_or_else(|| self.live.controller.get(point), |slot| self.live.controller.value_of(point, slot)))
    }

    /// A BOOL that an element read.
    pub(super) fn bool_read(&self, element: usize, expr: &Expr) -> Option<bool> {
        if let Some(Value::Bool(value)) = self.read(element, expr) { Some(value) } else { None }
    }

    /// What an element read, in words.
    pub(super) fn value_read(&self, element: usize, expr: &Expr) -> Option<String> {
        self.read(element, expr).map(|value| value.said())
    }

    /// As [`Lit::value_read`], but of a BOOL nothing: that is drawn.
    pub(super) fn number_read(&self, element: usize, expr: &Expr) -> Option<String> {
        self.read(element, expr).filter(|v| !matches!(v, Value::Bool(_))).map(|value| value.said())
    }

    /// Where a variable is located, if that is not its name.
    pub(super) fn address(&self, expr: &Expr) -> Option<String> {
        let name = st::expression(expr);
        let point = self.live.point(&name)?;
        let address = self.live.controller.machine().point(point).address.clone()?;
        (!address.eq_ignore_ascii_case(&name)).then_some(address)
    }

    /// What a variable holds after the scan, in words.
    pub(super) fn value(&self, expr: &Expr) -> Option<String> {
        self.live.value(expr)
    }

    /// Whether a variable is TRUE after the scan, if it is a BOOL.
    pub(super) fn bool_of(&self, expr: &Expr) -> Option<bool> {
        if let Some(Value::Bool(value)) = self.live.named(&st::expression(expr)) { Some(value) } else { None }
    }

    /// What an output of a block instance holds, if it is no BOOL.
    pub(super) fn output(&self, instance: &Expr, pin: &str) -> Option<String> {
        let value = self.live.named(&format!("{}.{pin}", st::expression(instance)))?;
        (!matches!(value, Value::Bool(_))).then(|| value.said())
    }
}
