//! Going over the expressions of statements, instructions and networks: what stands where is told here once, for those who
//! look and for those who change, and with it whether it is read or written there.

use super::{
    Arg, Call, CaseLabel, Element, ElementKind, Expr, ExprKind, Feed, Instr, InstrKind, Operand, Stmt, StmtKind,
};

/// What is done with an expression where it stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Mention {
    /// Its value is taken.
    Read,
    /// It is a variable that gets a value.
    Written,
    /// It is called: an instance of a function block, which changes by it, or a function whose value is not used.
    Called,
    /// It is the name of a function whose value is used.
    Function,
}

/// Whether to look into an expression.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Walk {
    /// Its parts are next.
    Into,
    /// It is done with.
    Past,
}

/// The same ways over a tree for those who look (`$mut` is empty) and for those who change it (`$mut` is `mut`).
macro_rules! ways {
    ($parts:ident, $walk:ident, $call:ident, $operand:ident, $own:ident, $bodies:ident, $all:ident; $($mut:tt)?) => {
        impl Expr {
            /// Calls `found` with each of its parts and how that is used, if the whole is used so.
            pub fn $parts(&$($mut)? self, used: Mention, found: &mut dyn FnMut(&$($mut)? Expr, Mention)) {
                match &$($mut)? self.kind {
                    ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Address(_) => {}
                    ExprKind::Field(base, _) => found(base, used),
                    ExprKind::Index(base, indices) => {
                        found(base, used);
                        for index in indices {
                            found(index, Mention::Read);
                        }
                    }
                    ExprKind::Unary(_, inner) => found(inner, Mention::Read),
                    ExprKind::Binary(_, left, right) => {
                        found(left, Mention::Read);
                        found(right, Mention::Read);
                    }
                    ExprKind::Call(call) => $call(call, Mention::Function, found),
                }
            }

            /// Calls `found` with this expression and all that is in it, outermost first, each with how it is used if the
            /// whole is used so. What `found` puts in the place of one and is done with is not looked into.
            pub fn $walk(&$($mut)? self, used: Mention, found: &mut dyn FnMut(&$($mut)? Expr, Mention) -> Walk) {
                if found(self, used) == Walk::Into {
                    self.$parts(used, &mut |part, used| part.$walk(used, found));
                }
            }
        }

        fn $call(call: &$($mut)? Call, used: Mention, found: &mut dyn FnMut(&$($mut)? Expr, Mention)) {
            found(&$($mut)? call.callee, used);
            for arg in &$($mut)? call.args {
                match arg {
                    Arg::Plain(operand) | Arg::Input(_, operand) => $operand(operand, found),
                    Arg::Output { target, .. } => found(target, Mention::Written),
                }
            }
        }

        fn $operand(operand: &$($mut)? Operand, found: &mut dyn FnMut(&$($mut)? Expr, Mention)) {
            match operand {
                Operand::Expr(value) => found(value, Mention::Read),
                Operand::List(list) => {
                    for instr in list {
                        instr.$own(found);
                    }
                }
            }
        }

        impl Stmt {
            /// Calls `found` with each expression of the statement itself, not of statements in it.
            pub fn $own(&$($mut)? self, found: &mut dyn FnMut(&$($mut)? Expr, Mention)) {
                match &$($mut)? self.kind {
                    StmtKind::Empty | StmtKind::Exit | StmtKind::Continue | StmtKind::Return => {}
                    StmtKind::Assign(target, value) => {
                        found(target, Mention::Written);
                        found(value, Mention::Read);
                    }
                    StmtKind::Call(call) => $call(call, Mention::Called, found),
                    StmtKind::If(branches, _) => {
                        for (condition, _) in branches {
                            found(condition, Mention::Read);
                        }
                    }
                    StmtKind::Case(selector, branches, _) => {
                        found(selector, Mention::Read);
                        for branch in branches {
                            for label in &$($mut)? branch.labels {
                                match label {
                                    CaseLabel::One(value) => found(value, Mention::Read),
                                    CaseLabel::Range(low, high) => {
                                        found(low, Mention::Read);
                                        found(high, Mention::Read);
                                    }
                                }
                            }
                        }
                    }
                    StmtKind::For(head, _) => {
                        found(&$($mut)? head.var, Mention::Written);
                        found(&$($mut)? head.from, Mention::Read);
                        found(&$($mut)? head.to, Mention::Read);
                        if let Some(by) = &$($mut)? head.by {
                            found(by, Mention::Read);
                        }
                    }
                    StmtKind::While(condition, _) | StmtKind::Repeat(_, condition) => found(condition, Mention::Read),
                }
            }

            /// Calls `found` with each list of statements in it, in order.
            pub fn $bodies(&$($mut)? self, found: &mut dyn FnMut(&$($mut)? Vec<Stmt>)) {
                match &$($mut)? self.kind {
                    StmtKind::Empty
                    | StmtKind::Assign(..)
                    | StmtKind::Call(_)
                    | StmtKind::Exit
                    | StmtKind::Continue
                    | StmtKind::Return => {}
                    StmtKind::If(branches, otherwise) => {
                        for (_, body) in branches {
                            found(body);
                        }
                        if let Some(body) = otherwise {
                            found(body);
                        }
                    }
                    StmtKind::Case(_, branches, otherwise) => {
                        for branch in branches {
                            found(&$($mut)? branch.body);
                        }
                        if let Some(body) = otherwise {
                            found(body);
                        }
                    }
                    StmtKind::For(_, body) | StmtKind::While(_, body) | StmtKind::Repeat(body, _) => found(body),
                }
            }

            /// Calls `found` with every expression in it, outermost first, and how it is used; those in nested statements
            /// follow those of the statement itself.
            pub fn $walk(&$($mut)? self, found: &mut dyn FnMut(&$($mut)? Expr, Mention) -> Walk) {
                self.$own(&mut |expr, used| expr.$walk(used, found));
                self.$bodies(&mut |body| {
                    for stmt in body {
                        stmt.$walk(found);
                    }
                });
            }
        }

        impl Instr {
            /// Calls `found` with each expression of the instruction, those of a list in parentheses among them.
            pub fn $own(&$($mut)? self, found: &mut dyn FnMut(&$($mut)? Expr, Mention)) {
                match &$($mut)? self.kind {
                    InstrKind::Empty | InstrKind::Not | InstrKind::Jump(..) | InstrKind::Return(_) => {}
                    InstrKind::Load(_, value) => found(value, Mention::Read),
                    InstrKind::Store(_, to) | InstrKind::Set(to) | InstrKind::Reset(to) => found(to, Mention::Written),
                    InstrKind::Op(_, _, operand) => $operand(operand, found),
                    InstrKind::Call(_, call) => $call(call, Mention::Called, found),
                    InstrKind::Function(call, _) => $call(call, Mention::Function, found),
                    InstrKind::Pin(_, instance) => found(instance, Mention::Called),
                    // What a word of a dialect does with its operands is known once it is resolved.
                    InstrKind::Worded { operands, list, .. } => {
                        for operand in operands {
                            found(operand, Mention::Read);
                        }
                        if let Some(list) = list {
                            for instr in list {
                                instr.$own(found);
                            }
                        }
                    }
                }
            }
        }

        impl Element {
            /// Calls `found` with each expression that is written at the element.
            pub fn $own(&$($mut)? self, found: &mut dyn FnMut(&$($mut)? Expr, Mention)) {
                match &$($mut)? self.kind {
                    ElementKind::Jump { .. } | ElementKind::Return { .. } => {}
                    ElementKind::Contact { operand, .. } => found(operand, Mention::Read),
                    ElementKind::Compare { left, right, .. } => {
                        found(left, Mention::Read);
                        found(right, Mention::Read);
                    }
                    ElementKind::Source { value, .. } => found(value, Mention::Read),
                    ElementKind::Coil { target, .. } | ElementKind::Sink { target, .. } => found(target, Mention::Written),
                    ElementKind::Block(block) => {
                        if let Some(instance) = &$($mut)? block.instance {
                            found(instance, Mention::Called);
                        }
                        for pin in &$($mut)? block.inputs {
                            match &$($mut)? pin.feed {
                                Feed::Value(value) => found(value, Mention::Read),
                                Feed::Open | Feed::Wire(_) => {}
                            }
                        }
                        for pin in &$($mut)? block.outputs {
                            if let Some(target) = &$($mut)? pin.target {
                                found(target, Mention::Written);
                            }
                        }
                    }
                }
            }
        }

        /// Calls `found` with every statement of a list and of those in it, outermost first.
        pub fn $all(list: &$($mut)? [Stmt], found: &mut dyn FnMut(&$($mut)? Stmt)) {
            for stmt in list {
                found(stmt);
                stmt.$bodies(&mut |body| $all(body, found));
            }
        }
    };
}

ways!(parts, walk, call_parts, operand_parts, own, bodies, each_statement;);
ways!(parts_mut, walk_mut, call_parts_mut, operand_parts_mut, own_mut, bodies_mut, each_statement_mut; mut);
