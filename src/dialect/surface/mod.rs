//! From what the checker knows back to a text as its dialect writes it: the way of `resolve`, backwards.

mod list;
mod networks;
mod routines;

use super::resolve::name_of;
use super::walk::{self, Leaves, Want, bare_pin, pin_wants};
use crate::model::sheet::{Device, Library, Listing, Sheet};
use crate::model::{
    Body, Comment, CommentKind, Elem, Expr, ExprKind, Init, Instr, Item, LiteralValue, Name, Retain, TypeSpec, Unit,
    VarDecl, VarSection,
};
use crate::source::{FileId, Span};
use std::collections::{HashMap, HashSet};

/// The items of a project as its dialect writes them; each file says in its first line which one that is.
pub(crate) fn items(items: &[Item], library: &Library) -> Vec<Item> {
    let (globals, locals, seen) = (HashMap::new(), HashMap::new(), HashSet::new());
    let routines = routines::blocks(items, &library.sheet);
    let mut writer = SurfaceWriter { sheet: &library.sheet, globals, locals, seen, listing: None, routines };
    for item in items {
        match item {
            Item::Globals(section) => writer.globals.extend(writer.known(std::slice::from_ref(section))),
            Item::Configuration(c) => writer.globals.extend(writer.known(&c.globals)),
            Item::Type(_) | Item::Unit(_) | Item::Envelope(_) => {}
        }
    }
    let mut all: Vec<Item> = items.to_vec();
    for item in &mut all {
        if let Item::Unit(unit) = item {
            writer.unit(unit);
        }
    }
    routines::join(&mut all, &writer.routines, &library.sheet);
    let mut out = Vec::new();
    let mut said: Vec<FileId> = Vec::new();
    for mut item in all {
        match &mut item {
            Item::Unit(_) => {}
            Item::Globals(section) => {
                let mut sections = vec![section.clone()];
                writer.sections(&mut sections, true);
                match sections.pop() {
                    Some(left) => *section = left,
                    None => continue,
                }
            }
            Item::Configuration(c) => writer.sections(&mut c.globals, true),
            Item::Type(_) | Item::Envelope(_) => {}
        }
        let file = item.span().file;
        if !said.contains(&file) {
            said.push(file);
            say(&mut item, &library.sheet.name);
        }
        out.push(item);
    }
    out
}

/// The comment in the first line of a file by which it says its dialect.
#[must_use]
pub(crate) fn pragma(name: &str) -> Comment {
    Comment { kind: CommentKind::Pragma, text: format!("dialect {name}") }
}

fn say(item: &mut Item, name: &str) {
    let notes = match item {
        Item::Unit(unit) => &mut unit.notes,
        Item::Globals(section) => &mut section.notes,
        Item::Configuration(c) => &mut c.notes,
        Item::Type(t) => &mut t.above,
        Item::Envelope(_) => return,
    };
    let own = pragma(name);
    if !notes.leading.contains(&own) {
        notes.leading.insert(0, own);
    }
}

/// What is known of a variable.
#[derive(Clone)]
enum Known {
    Bit(Option<String>),
    Word(Option<String>),
    /// An instance of a device of the sheet.
    Device(usize, Option<String>),
    Other,
}

impl Known {
    /// The address that stands for it, if it needs no name.
    fn address(&self) -> Option<&String> {
        match self {
            Known::Bit(a) | Known::Word(a) | Known::Device(_, a) => a.as_ref(),
            Known::Other => None,
        }
    }
}

struct SurfaceWriter<'s> {
    sheet: &'s Sheet,
    globals: HashMap<String, Known>,
    locals: HashMap<String, Known>,
    /// Addresses that bodies mention: what only a declaration speaks of keeps it.
    seen: HashSet<String>,
    /// The body at hand is a list or a drawing: constants and addresses are written as this says.
    listing: Option<&'s Listing>,
    /// Blocks that are routines here, in capital letters.
    routines: HashSet<String>,
}

impl SurfaceWriter<'_> {
    fn known(&self, sections: &[VarSection]) -> Vec<(String, Known)> {
        let mut out = Vec::new();
        for decl in sections.iter().flat_map(|s| &s.vars) {
            let address = self.implied(decl);
            let known = match &decl.spec {
                TypeSpec::Elem(Elem::Bool, _) => Known::Bit(address),
                TypeSpec::Elem(..) | TypeSpec::Range(..) => Known::Word(address),
                TypeSpec::Named(name) => match self.device_number(decl, name) {
                    Some(device) => Known::Device(device, address),
                    None => Known::Other,
                },
                TypeSpec::String(..) | TypeSpec::Enum(..) | TypeSpec::Array(..) | TypeSpec::Struct(..) => Known::Other,
            };
            out.extend(decl.names.iter().map(|n| (n.text.to_uppercase(), known.clone())));
        }
        out
    }

    /// The device that a declaration is an instance of: by its number, or by its block.
    fn device_number(&self, decl: &VarDecl, block: &Name) -> Option<usize> {
        let fits = |d: &Device| block.is(&d.block);
        let at = decl.address.as_ref().and_then(|a| self.sheet.parse_known(&a.text));
        let by_number = at.and_then(|(area, index)| {
            let name = &self.sheet.areas[area].name;
            self.sheet.devices.iter().position(|d| fits(d) && d.has_number(name, index))
        });
        by_number.or_else(|| self.sheet.devices.iter().position(fits))
    }

    /// The address of a variable that says nothing but its address.
    fn implied(&self, decl: &VarDecl) -> Option<String> {
        let written = self.sheet.written(&decl.address.as_ref()?.text)?;
        let [name] = decl.names.as_slice() else { return None };
        let silent = decl.notes.leading.is_empty() && decl.notes.trailing.is_empty() && decl.edge.is_none();
        let usual = match &decl.spec {
            TypeSpec::Elem(elem, _) => {
                let word = Elem::from_name(&self.sheet.numbers.word).unwrap_or(Elem::Int);
                decl.init.is_none() && (*elem == Elem::Bool || *elem == word)
            }
            TypeSpec::Named(block) => {
                let device = self.device_number(decl, block);
                device.is_some_and(|d| settles(decl.init.as_ref(), &self.sheet.devices[d]))
            }
            TypeSpec::String(..)
            | TypeSpec::Range(..)
            | TypeSpec::Enum(..)
            | TypeSpec::Array(..)
            | TypeSpec::Struct(..) => false,
        };
        (name.is(&name_of(&written)) && silent && usual).then_some(written)
    }

    fn is_in_registers(&self, decl: &VarDecl) -> bool {
        let TypeSpec::Named(block) = &decl.spec else { return false };
        self.device_number(decl, block).is_some_and(|d| !self.sheet.devices[d].registers.is_empty())
    }

    /// Leaves out what an address says by itself, and writes the other addresses.
    fn sections(&self, sections: &mut Vec<VarSection>, in_text: bool) {
        let mut out: Vec<VarSection> = Vec::new();
        for mut section in std::mem::take(sections) {
            let mut located = Vec::new();
            let mut others = Vec::new();
            for mut decl in std::mem::take(&mut section.vars) {
                let implied = self.implied(&decl).filter(|address| self.seen.contains(address));
                // Only words and boxes say what a register is when it is a device.
                let is_said = !in_text || !self.is_in_registers(&decl);
                match implied {
                    Some(_) if is_said => continue,
                    Some(address) => decl.names[0].text = address,
                    None => {}
                }
                let written = decl.address.as_ref().and_then(|a| self.sheet.written(&a.text));
                let Some(text) = written else {
                    others.push(decl);
                    continue;
                };
                if let TypeSpec::Named(block) = &decl.spec
                    && let Some(device) = self.device_number(&decl, block)
                    && settles(decl.init.as_ref(), &self.sheet.devices[device])
                {
                    decl.init = None;
                }
                if let Some(address) = &mut decl.address {
                    address.text = text;
                }
                located.push(decl);
            }
            // Where it stands says whether it survives the power; the section need not.
            if section.retain == Retain::Retain && !located.is_empty() {
                let tail = if others.is_empty() { std::mem::take(&mut section.tail) } else { Vec::new() };
                let notes = std::mem::take(&mut section.notes);
                out.push(VarSection { vars: located, retain: Retain::Unsaid, notes, tail, ..section.clone() });
            } else {
                // Both kinds keep their order only where they are not mixed; located ones come first.
                located.append(&mut others);
                others = located;
            }
            if !others.is_empty() || !section.tail.is_empty() {
                section.vars = others;
                out.push(section);
            }
        }
        *sections = out;
    }

    fn unit(&mut self, unit: &mut Unit) {
        self.locals = self.known(&unit.sections).into_iter().collect();
        self.listing = match &unit.body {
            Body::Statements(_) => None,
            Body::Instructions(_) | Body::Ladder(_) | Body::Blocks(_) => Some(&self.sheet.listing),
        };
        match &mut unit.body {
            Body::Statements(list) => walk::statements(self, list),
            Body::Instructions(list) => {
                self.list(list, Want::Bit);
                self.end(unit.kind, list);
            }
            Body::Ladder(list) => {
                self.coils(list);
                list.iter_mut().for_each(|network| self.network(network));
            }
            Body::Blocks(list) => list.iter_mut().for_each(|n| self.network(n)),
        }
        let is_text = matches!(unit.body, Body::Statements(_));
        self.sections(&mut unit.sections, is_text);
    }

    fn find(&self, name: &str) -> Option<&Known> {
        let key = name.to_uppercase();
        self.locals.get(&key).or_else(|| self.globals.get(&key))
    }

    fn named(&self, expr: &Expr) -> Option<&Known> {
        if let ExprKind::Name(name) = &expr.kind { self.find(&name.text) } else { None }
    }

    /// The device of an instance.
    fn device(&self, instance: &Expr) -> Option<&Device> {
        if let Known::Device(device, _) = self.named(instance)? { self.sheet.devices.get(*device) } else { None }
    }
}

/// The initial values that the number of a device settles; `None`: it settles nothing.
pub(crate) fn settings(device: &Device, span: Span) -> Option<Init> {
    let set = device.set.iter().filter_map(|(pin, literal)| {
        Some((Name { text: pin.clone(), span }, Init::Expr(crate::lang::literal_expr(literal, span)?)))
    });
    let set: Vec<(Name, Init)> = set.collect();
    (!set.is_empty()).then_some(Init::Struct(set, span))
}

/// True for initial values that are those the number of a device settles.
pub(crate) fn settles(init: Option<&Init>, device: &Device) -> bool {
    match init {
        None => device.set.is_empty(),
        Some(Init::Struct(fields, _)) => {
            fields.len() == device.set.len()
                && fields.iter().all(|(name, value)| {
                    let (Some(literal), Init::Expr(value)) = (device.set.get(&name.text), value) else { return false };
                    crate::lang::literal_expr(literal, value.span).is_some_and(|l| l == *value)
                })
        }
        Some(_) => false,
    }
}

impl Leaves for SurfaceWriter<'_> {
    fn value(&mut self, expr: &mut Expr, want: Want) {
        if let ExprKind::Field(base, pin) = &expr.kind
            && let Some(device) = self.device(base)
            && bare_pin(device, want).is_some_and(|p| pin.is(&p))
        {
            *expr = Expr { kind: base.kind.clone(), span: expr.span };
        }
        let base = if let ExprKind::Field(base, _) = &mut expr.kind { base } else { expr };
        if let (ExprKind::Literal(literal), Some(listing)) = (&mut base.kind, self.listing)
            && let (LiteralValue::Int(number), None) = (&literal.value, &literal.typed)
            && let Some(text) = listing.write_constant(*number)
        {
            literal.text = text;
        }
        self.instance(base);
    }

    fn target(&mut self, expr: &mut Expr) {
        if let ExprKind::Field(base, _) = &mut expr.kind { self.instance(base) } else { self.instance(expr) }
    }

    fn instance(&mut self, expr: &mut Expr) {
        match &mut expr.kind {
            ExprKind::Name(name) => {
                // In structured text a number is no address.
                let may_stand =
                    |address: &&String| self.listing.is_some() || !address.starts_with(|c: char| c.is_ascii_digit());
                if let Some(text) = self.find(&name.text).and_then(Known::address).filter(may_stand).cloned() {
                    self.seen.insert(text.clone());
                    expr.kind = ExprKind::Address(Name { text, span: name.span });
                }
            }
            ExprKind::Index(..) => walk::expr(self, expr, Want::Word),
            ExprKind::Literal(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => {}
        }
    }

    fn wanted_by(&self, target: &Expr) -> Want {
        match &target.kind {
            ExprKind::Field(base, pin) => self.device(base).map_or(Want::Bit, |d| pin_wants(d, pin)),
            ExprKind::Name(_) => match self.named(target) {
                Some(Known::Word(_) | Known::Other) | None => Want::Word,
                Some(Known::Bit(_) | Known::Device(..)) => Want::Bit,
            },
            ExprKind::Literal(_)
            | ExprKind::Address(_)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => Want::Bit,
        }
    }

    fn called(&self, callee: &Expr) -> Option<&Device> {
        self.device(callee)
    }

    fn list(&mut self, list: &mut Vec<Instr>, want: Want) {
        self.write_list(list, want);
    }
}
