//! Initial values.

use super::env::Env;
use super::meant::it_has;
use super::typed::{TInit, TKind, Ty};
use crate::model::{Init, Value};
use crate::source::{Span, codes};

impl Env<'_> {
    /// An initial value for a variable of a type.
    pub(super) fn init(&mut self, init: &Init, ty: &Ty) -> TInit {
        match (init, ty) {
            (_, Ty::Unknown(_)) => TInit::Default,
            (Init::Array(values, span), Ty::Array(array)) => {
                let mut out = Vec::new();
                for (times, value) in values {
                    let value = self.init(value, &array.of);
                    out.extend(std::iter::repeat_n(value, *times as usize));
                    if out.len() as u64 > array.len() {
                        self.error(
                            codes::RANGE,
                            *span,
                            format!("there are more values than the {} elements", array.len()),
                        );
                        out.truncate(array.len() as usize);
                        break;
                    }
                }
                TInit::Array(out)
            }
            (Init::Struct(fields, _), Ty::Struct(id)) => {
                let known: Vec<(String, Ty)> =
                    self.structs[*id as usize].fields.iter().map(|f| (f.name.clone(), f.ty.clone())).collect();
                self.fields(fields, &known)
            }
            (Init::Struct(fields, _), Ty::Block(unit)) => {
                let known: Vec<(String, Ty)> =
                    self.units[unit.0 as usize].vars.iter().map(|f| (f.name.clone(), f.ty.clone())).collect();
                self.fields(fields, &known)
            }
            (Init::Expr(expr), _) => {
                let typed = self.expr(expr);
                let value = self.coerce(typed, ty);
                if let TKind::Text(text) = &value.kind {
                    return TInit::Text(text.clone());
                }
                match self.fold(&value) {
                    Some(slot) => TInit::Slot(slot),
                    None => {
                        if !value.ty.is_unknown() {
                            self.error(codes::TYPE, expr.span, "an initial value must be constant");
                        }
                        TInit::Default
                    }
                }
            }
            (Init::Array(_, span) | Init::Struct(_, span), _) => {
                let message = format!("this does not initialise {}", self.show(ty));
                self.error(codes::TYPE, *span, message);
                TInit::Default
            }
        }
    }

    fn fields(&mut self, fields: &[(crate::model::Name, Init)], known: &[(String, Ty)]) -> TInit {
        let mut out = Vec::new();
        for (name, value) in fields {
            match known.iter().position(|(n, _)| n.eq_ignore_ascii_case(&name.text)) {
                Some(at) => {
                    let value = self.init(value, &known[at].1);
                    out.push((at as u32, value));
                }
                None => self.no_field(name, known.iter().map(|(n, _)| n.as_str())),
            }
        }
        TInit::Struct(out)
    }

    /// Reports a field that is not there.
    pub(super) fn no_field<'a>(&mut self, name: &crate::model::Name, known: impl Iterator<Item = &'a str> + Clone) {
        let help = match self.compared.closest(&name.text, || known.clone()) {
            Some(other) => format!("did you mean `{other}`?"),
            None if known.clone().next().is_none() => "nothing of it is seen from outside".to_string(),
            None => it_has(&known.collect::<Vec<_>>()),
        };
        self.problems.push(
            crate::source::Diagnostic::error(
                codes::UNKNOWN_NAME,
                name.span,
                format!("there is no `{}` here", name.text),
            )
            .help(help),
        );
    }

    /// The slot of a literal value of an elementary type; reports what does not fit.
    pub(super) fn literal_slot(&mut self, value: &Value, elem: crate::model::Elem, span: Span) -> i64 {
        value.to_slot(elem).unwrap_or_else(|| {
            let message = match (value, elem.shape()) {
                (Value::Int(_), Some(shape)) if !elem.is_time() => {
                    let (low, high) = shape.range();
                    format!("{value} does not fit {}, which holds {low} to {high}", elem.name())
                }
                (Value::Bool(bit), _) => {
                    format!("{} is not a value of {}", if *bit { "TRUE" } else { "FALSE" }, elem.name())
                }
                (value, _) => format!("{value} is not a value of {}", elem.name()),
            };
            self.error(codes::RANGE, span, message);
            0
        })
    }
}
