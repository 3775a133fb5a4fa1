//! Parts of one project in another one: their places are in its files, which follow those of the other.

use crate::model::{
    Arg, Body, Call, Configuration, Element, ElementKind, Expr, ExprKind, Init, Instr, InstrKind, Item, Mention, Name,
    Operand, Stmt, StmtKind, TypeSpec, Unit, VarDecl, VarSection, Walk, each_statement_mut,
};
use crate::source::{FileId, Span};

/// How many files stand in front.
#[derive(Clone, Copy, Debug)]
pub(super) struct Behind(pub(super) u32);

impl Behind {
    fn span(self, span: &mut Span) {
        // Places in shipped blocks are nobody's.
        if !crate::dialect::is_built_in(span.file) {
            span.file = FileId(span.file.0 + self.0);
        }
    }

    fn name(self, name: &mut Name) {
        self.span(&mut name.span);
    }

    /// An item with all its places.
    pub(super) fn item(self, item: &mut Item) {
        match item {
            Item::Type(decl) => {
                self.name(&mut decl.name);
                self.spec(&mut decl.spec);
                decl.init.iter_mut().for_each(|init| self.init(init));
            }
            Item::Unit(unit) => self.unit(unit),
            Item::Globals(section) => self.section(section),
            Item::Configuration(configuration) => self.configuration(configuration),
            Item::Envelope(envelope) => self.span(&mut envelope.span),
        }
    }

    fn configuration(self, of: &mut Configuration) {
        self.name(&mut of.name);
        if let Some((name, target)) = &mut of.resource {
            self.name(name);
            self.name(target);
        }
        of.globals.iter_mut().for_each(|section| self.section(section));
        for task in &mut of.tasks {
            self.name(&mut task.name);
            for (name, value) in &mut task.args {
                self.name(name);
                self.expr(value);
            }
        }
        for program in &mut of.programs {
            self.name(&mut program.name);
            self.name(&mut program.unit);
            program.task.iter_mut().for_each(|task| self.name(task));
        }
    }

    fn unit(self, unit: &mut Unit) {
        self.name(&mut unit.name);
        unit.result.iter_mut().for_each(|spec| self.spec(spec));
        unit.sections.iter_mut().for_each(|section| self.section(section));
        match &mut unit.body {
            Body::Statements(list) => list.iter_mut().for_each(|stmt| self.statement(stmt)),
            Body::Instructions(list) => list.iter_mut().for_each(|instr| self.instruction(instr)),
            Body::Ladder(list) | Body::Blocks(list) => {
                for network in list {
                    self.span(&mut network.span);
                    network.label.iter_mut().for_each(|label| self.name(label));
                    network.elements.iter_mut().for_each(|element| self.element(element));
                }
            }
        }
    }

    fn section(self, section: &mut VarSection) {
        self.span(&mut section.span);
        section.vars.iter_mut().for_each(|decl| self.decl(decl));
    }

    fn decl(self, decl: &mut VarDecl) {
        decl.names.iter_mut().chain(&mut decl.address).for_each(|name| self.name(name));
        self.spec(&mut decl.spec);
        decl.init.iter_mut().for_each(|init| self.init(init));
    }

    fn spec(self, spec: &mut TypeSpec) {
        match spec {
            TypeSpec::Elem(_, span) => self.span(span),
            TypeSpec::String(length, span) => {
                length.iter_mut().for_each(|length| self.expr(length));
                self.span(span);
            }
            TypeSpec::Named(name) => self.name(name),
            TypeSpec::Range(_, low, high, span) => {
                self.expr(low);
                self.expr(high);
                self.span(span);
            }
            TypeSpec::Enum(_, values, span) => {
                for (name, value) in values {
                    self.name(name);
                    value.iter_mut().for_each(|value| self.expr(value));
                }
                self.span(span);
            }
            TypeSpec::Array(bounds, of, span) => {
                for (low, high) in bounds {
                    self.expr(low);
                    self.expr(high);
                }
                self.spec(of);
                self.span(span);
            }
            TypeSpec::Struct(fields, span) => {
                fields.iter_mut().for_each(|decl| self.decl(decl));
                self.span(span);
            }
        }
    }

    fn init(self, init: &mut Init) {
        match init {
            Init::Expr(value) => self.expr(value),
            Init::Array(values, span) => {
                values.iter_mut().for_each(|(_, value)| self.init(value));
                self.span(span);
            }
            Init::Struct(fields, span) => {
                for (name, value) in fields {
                    self.name(name);
                    self.init(value);
                }
                self.span(span);
            }
        }
    }

    fn statement(self, stmt: &mut Stmt) {
        each_statement_mut(std::slice::from_mut(stmt), &mut |stmt| {
            self.span(&mut stmt.span);
            if let StmtKind::Call(call) = &mut stmt.kind {
                self.call(call);
            }
            stmt.own_mut(&mut |expr, _| self.expr(expr));
        });
    }

    /// What of a call is no expression.
    fn call(self, call: &mut Call) {
        self.span(&mut call.span);
        for arg in &mut call.args {
            match arg {
                Arg::Plain(operand) => self.operand(operand),
                Arg::Input(name, operand) => {
                    self.name(name);
                    self.operand(operand);
                }
                Arg::Output { name, .. } => self.name(name),
            }
        }
    }

    fn operand(self, operand: &mut Operand) {
        match operand {
            // Expressions are gone over by whoever has the call.
            Operand::Expr(_) => {}
            Operand::List(list) => list.iter_mut().for_each(|instr| self.places(instr)),
        }
    }

    fn instruction(self, instr: &mut Instr) {
        self.places(instr);
        instr.own_mut(&mut |expr, _| self.expr(expr));
    }

    /// Places of an instruction and of those in its parentheses, but for those of expressions.
    fn places(self, instr: &mut Instr) {
        self.span(&mut instr.span);
        instr.label.iter_mut().for_each(|label| self.name(label));
        match &mut instr.kind {
            InstrKind::Empty
            | InstrKind::Load(..)
            | InstrKind::Store(..)
            | InstrKind::Set(_)
            | InstrKind::Reset(_)
            | InstrKind::Not
            | InstrKind::Return(_) => {}
            InstrKind::Op(_, _, operand) => self.operand(operand),
            InstrKind::Jump(_, name) | InstrKind::Pin(name, _) => self.name(name),
            InstrKind::Call(_, call) | InstrKind::Function(call, _) => self.call(call),
            InstrKind::Worded { word, list, .. } => {
                self.name(word);
                list.iter_mut().flatten().for_each(|instr| self.places(instr));
            }
        }
    }

    fn element(self, element: &mut Element) {
        self.span(&mut element.span);
        match &mut element.kind {
            ElementKind::Coil { drive: Some(drive), .. } => {
                self.name(&mut drive.word);
                drive.below.iter_mut().for_each(|below| self.expr(below));
            }
            ElementKind::Block(block) => {
                self.name(&mut block.name);
                block.inputs.iter_mut().flat_map(|pin| &mut pin.name).for_each(|name| self.name(name));
                block.outputs.iter_mut().flat_map(|pin| &mut pin.name).for_each(|name| self.name(name));
            }
            ElementKind::Jump { label, .. } => self.name(label),
            ElementKind::Contact { .. }
            | ElementKind::Compare { .. }
            | ElementKind::Coil { drive: None, .. }
            | ElementKind::Source { .. }
            | ElementKind::Sink { .. }
            | ElementKind::Return { .. } => {}
        }
        element.own_mut(&mut |expr, _| self.expr(expr));
    }

    fn expr(self, expr: &mut Expr) {
        expr.walk_mut(Mention::Read, &mut |inner, _| {
            self.span(&mut inner.span);
            match &mut inner.kind {
                ExprKind::Name(name) | ExprKind::Address(name) | ExprKind::Field(_, name) => self.name(name),
                ExprKind::Literal(literal) => literal.typed.iter_mut().for_each(|name| self.name(name)),
                ExprKind::Call(call) => self.call(call),
                ExprKind::Index(..) | ExprKind::Unary(..) | ExprKind::Binary(..) => {}
            }
            Walk::Into
        });
    }
}
