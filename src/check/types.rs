//! Types as written become types with nothing left to look up.

use super::env::{Env, key};
use super::typed::{ArrayTy, EnumDef, Origin, StructDef, TInit, Ty, UnitId, Var};
use crate::model::{Elem, Expr, Name, Retain, Section, TypeSpec, UnitKind};
use crate::source::{Span, codes};
use std::sync::Arc;

/// Most elements of one array.
const MOST_ELEMENTS: u64 = 1 << 20;

impl Env<'_> {
    /// A named type; `name` is its key.
    pub(super) fn named_type(&mut self, name: &str) -> Option<(Ty, TInit)> {
        if let Some(found) = self.types.get(name) {
            return Some(found.clone());
        }
        let decl = *self.type_decls.get(name)?;
        if !self.open_types.insert(name.to_string()) {
            self.error(codes::UNKNOWN_TYPE, decl.name.span, format!("type `{}` contains itself", decl.name.text));
            return Some((Ty::Unknown(None), TInit::Default));
        }
        let (ty, mut default) = self.named_spec(&decl.spec, &decl.name.text);
        if let Some(value) = &decl.init {
            default = self.init(value, &ty);
        }
        self.open_types.remove(name);
        self.types.insert(name.to_string(), (ty.clone(), default.clone()));
        Some((ty, default))
    }

    /// A type as written, with the initial value its variables have.
    pub(super) fn spec(&mut self, spec: &TypeSpec) -> (Ty, TInit) {
        self.named_spec(spec, "")
    }

    fn named_spec(&mut self, spec: &TypeSpec, name: &str) -> (Ty, TInit) {
        match spec {
            TypeSpec::Elem(elem, _) => (Ty::Elem(*elem), TInit::Default),
            TypeSpec::String(length, span) => {
                let length = length.as_ref().map_or(80, |l| self.bound(l, *span, 1, 10_000));
                (Ty::Text(length as u16), TInit::Default)
            }
            TypeSpec::Named(other) => self.by_name(other),
            TypeSpec::Range(elem, low, high, span) => {
                if !elem.is_integer() {
                    self.error(codes::TYPE, *span, format!("a subrange is of an integer type, not of {}", elem.name()));
                    return (Ty::Elem(*elem), TInit::Default);
                }
                let (least, most) = elem.shape().map_or((0, 0), |s| s.range());
                let (least, most) = (least as i64, most.min(i128::from(i64::MAX)) as i64);
                let low = self.bound(low, *span, least, most);
                let high = self.bound(high, *span, least, most);
                if low > high {
                    self.error(codes::RANGE, *span, format!("the range {low}..{high} is empty"));
                }
                // A variable starts at 0 if that is in the range, or at the lower end (the standard's rule).
                let init = if low <= 0 && high >= 0 { TInit::Default } else { TInit::Slot(low) };
                (Ty::Range(*elem, low, high), init)
            }
            TypeSpec::Enum(base, values, span) => self.enumeration(base.unwrap_or(Elem::Int), values, name, *span),
            TypeSpec::Array(bounds, of, span) => self.array(bounds, of, *span),
            TypeSpec::Struct(fields, _) => {
                let mut vars: Vec<Var> = Vec::new();
                for field in fields {
                    let (ty, default) = self.spec(&field.spec);
                    let init = field.init.as_ref().map_or(default, |init| self.init(init, &ty));
                    for field_name in &field.names {
                        if let Some(first) = vars.iter().find(|v| v.name.eq_ignore_ascii_case(&field_name.text)) {
                            let first = first.span;
                            self.duplicate(field_name, first);
                        }
                        vars.push(Var {
                            name: field_name.text.clone(),
                            ty: ty.clone(),
                            section: Section::Local,
                            init: init.clone(),
                            retain: Retain::Unsaid,
                            constant: false,
                            address: None,
                            global: None,
                            edge: None,
                            span: field_name.span,
                            origin: Origin::Declared,
                        });
                    }
                }
                self.structs.push(StructDef { name: name.to_string(), fields: vars });
                (Ty::Struct(self.structs.len() as u32 - 1), TInit::Default)
            }
        }
    }

    fn by_name(&mut self, name: &Name) -> (Ty, TInit) {
        if let Some(found) = self.named_type(&key(&name.text)) {
            return found;
        }
        if name.text.eq_ignore_ascii_case("STOPWATCH") {
            return (Ty::Watch, TInit::Default);
        }
        if let Some(&unit) = self.unit_names.get(&key(&name.text)) {
            if self.units[unit.0 as usize].kind == UnitKind::FunctionBlock {
                let span = name.span;
                self.calls.push((self.current, unit, span));
                return (Ty::Block(unit), TInit::Default);
            }
            let message = format!("`{}` is a {}, not a type", name.text, self.units[unit.0 as usize].kind.word());
            self.error(codes::UNKNOWN_TYPE, name.span, message);
            return (Ty::Unknown(None), TInit::Default);
        }
        let help = self.compared.closest(&name.text, || {
            let mut known: Vec<&str> = Elem::ALL.iter().map(|e| e.name()).collect();
            known.extend(self.type_decls.values().map(|d| d.name.text.as_str()));
            known.extend(self.units.iter().filter(|u| u.kind == UnitKind::FunctionBlock).map(|u| u.name.as_str()));
            known.sort();
            known
        });
        let mut problem = crate::source::Diagnostic::error(
            codes::UNKNOWN_TYPE,
            name.span,
            format!("there is no type or function block `{}`", name.text),
        );
        problem.help = help.map(|h| format!("did you mean `{h}`?"));
        self.problems.push(problem);
        (Ty::Unknown(None), TInit::Default)
    }

    fn enumeration(&mut self, base: Elem, values: &[(Name, Option<Expr>)], name: &str, span: Span) -> (Ty, TInit) {
        let id = self.enums.len() as u32;
        let (least, most) = base.shape().map_or((0, 0), |s| s.range());
        self.enums.push(EnumDef { name: name.to_string(), base, values: Vec::new() });
        let mut next = 0i64;
        for (value_name, value) in values {
            if let Some(value) = value {
                next = self.bound(value, span, least as i64, most.min(i128::from(i64::MAX)) as i64);
            }
            if self.enums[id as usize].values.iter().any(|(n, _)| n.eq_ignore_ascii_case(&value_name.text)) {
                self.duplicate(value_name, span);
            }
            self.enums[id as usize].values.push((value_name.text.clone(), next));
            self.enum_values.entry(key(&value_name.text)).or_default().push((id, next));
            next = next.wrapping_add(1);
        }
        let first = self.enums[id as usize].values.first().map_or(0, |(_, v)| *v);
        (Ty::Enum(id), TInit::Slot(first))
    }

    fn array(&mut self, bounds: &[(Expr, Expr)], of: &TypeSpec, span: Span) -> (Ty, TInit) {
        let (of, default) = self.spec(of);
        let bounds: Vec<(i64, i64)> = bounds
            .iter()
            .map(|(low, high)| {
                let limit = i64::from(i32::MAX);
                (self.bound(low, span, -limit, limit), self.bound(high, span, -limit, limit))
            })
            .collect();
        if bounds.iter().any(|(low, high)| low > high) {
            self.error(codes::RANGE, span, "a dimension of this array is empty");
            return (Ty::Unknown(None), TInit::Default);
        }
        let array = ArrayTy { bounds, of };
        if array.len() > MOST_ELEMENTS {
            self.error(codes::LIMIT, span, format!("this array has more than {MOST_ELEMENTS} elements"));
            return (Ty::Unknown(None), TInit::Default);
        }
        let init = match default {
            TInit::Default => TInit::Default,
            other @ (TInit::Slot(_) | TInit::Text(_) | TInit::Array(_) | TInit::Struct(_)) => {
                TInit::Array(vec![other; array.len() as usize])
            }
        };
        (Ty::Array(Arc::new(array)), init)
    }

    /// A constant of a declaration, within limits.
    fn bound(&mut self, expr: &Expr, span: Span, least: i64, most: i64) -> i64 {
        match self.constant_int(expr) {
            Some(value) if (i128::from(least)..=i128::from(most)).contains(&value) => value as i64,
            Some(value) => {
                self.error(codes::RANGE, expr.span, format!("{value} is not within {least} to {most}"));
                least.max(1).min(most)
            }
            None => {
                self.error(codes::TYPE, span, "a constant is needed here");
                least.max(1).min(most)
            }
        }
    }
}

/// A type as it is written in a declaration.
pub(super) fn name(
    ty: &Ty,
    enums: &[EnumDef],
    structs: &[StructDef],
    unit: impl Fn(UnitId) -> String + Copy,
) -> String {
    let or = |name: &str, word: &str| if name.is_empty() { word.to_string() } else { name.to_string() };
    match ty {
        Ty::Elem(elem) => elem.name().to_string(),
        Ty::Text(80) => "STRING".to_string(),
        Ty::Text(length) => format!("STRING[{length}]"),
        Ty::Range(elem, low, high) => format!("{} ({low}..{high})", elem.name()),
        Ty::Enum(id) => or(&enums[*id as usize].name, "an enumeration"),
        Ty::Struct(id) => or(&structs[*id as usize].name, "a structure"),
        Ty::Block(id) => unit(*id),
        Ty::Watch => "STOPWATCH".to_string(),
        Ty::LitInt => "an integer".to_string(),
        Ty::LitReal => "a real number".to_string(),
        Ty::Unknown(_) => "an unknown type".to_string(),
        Ty::Array(array) => {
            let bounds: Vec<String> = array.bounds.iter().map(|(low, high)| format!("{low}..{high}")).collect();
            format!("ARRAY [{}] OF {}", bounds.join(", "), name(&array.of, enums, structs, unit))
        }
    }
}

impl Env<'_> {
    /// A type for a message.
    pub(super) fn show(&self, ty: &Ty) -> String {
        name(ty, &self.enums, &self.structs, |id| self.units[id.0 as usize].name.clone())
    }
}
