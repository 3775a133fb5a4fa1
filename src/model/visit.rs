//! Going over every expression of statements.

use super::{Arg, Call, Expr, ExprKind, Operand, Stmt, StmtKind};

impl Stmt {
    /// Calls `found` with every expression in it, outermost first, those in nested statements too. What `found` puts in
    /// the place of one is not looked into again.
    pub fn each_expr(&mut self, found: &mut dyn FnMut(&mut Expr) -> Walk) {
        match &mut self.kind {
            StmtKind::Empty | StmtKind::Exit | StmtKind::Continue | StmtKind::Return => {}
            StmtKind::Assign(target, value) => {
                target.each(found);
                value.each(found);
            }
            StmtKind::Call(call) => each_of_call(call, found),
            StmtKind::If(branches, otherwise) => {
                for (condition, body) in branches {
                    condition.each(found);
                    body.iter_mut().for_each(|s| s.each_expr(found));
                }
                otherwise.iter_mut().flatten().for_each(|s| s.each_expr(found));
            }
            StmtKind::Case(selector, branches, otherwise) => {
                selector.each(found);
                branches.iter_mut().flat_map(|b| &mut b.body).for_each(|s| s.each_expr(found));
                otherwise.iter_mut().flatten().for_each(|s| s.each_expr(found));
            }
            StmtKind::For(head, body) => {
                head.var.each(found);
                head.from.each(found);
                head.to.each(found);
                head.by.iter_mut().for_each(|e| e.each(found));
                body.iter_mut().for_each(|s| s.each_expr(found));
            }
            StmtKind::While(condition, body) | StmtKind::Repeat(body, condition) => {
                condition.each(found);
                body.iter_mut().for_each(|s| s.each_expr(found));
            }
        }
    }
}

/// Whether to look into an expression.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Walk {
    /// Its parts are next.
    Into,
    /// It is done with.
    Past,
}

impl Expr {
    /// Calls `found` with this expression and its parts, outermost first.
    pub fn each(&mut self, found: &mut dyn FnMut(&mut Expr) -> Walk) {
        if found(self) == Walk::Past {
            return;
        }
        match &mut self.kind {
            ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Address(_) => {}
            ExprKind::Field(base, _) => base.each(found),
            ExprKind::Index(base, indices) => {
                base.each(found);
                indices.iter_mut().for_each(|i| i.each(found));
            }
            ExprKind::Unary(_, inner) => inner.each(found),
            ExprKind::Binary(_, left, right) => {
                left.each(found);
                right.each(found);
            }
            ExprKind::Call(call) => each_of_call(call, found),
        }
    }
}

fn each_of_call(call: &mut Call, found: &mut dyn FnMut(&mut Expr) -> Walk) {
    call.callee.each(found);
    for arg in &mut call.args {
        match arg {
            Arg::Plain(Operand::Expr(value)) | Arg::Input(_, Operand::Expr(value)) => value.each(found),
            Arg::Output { target, .. } => target.each(found),
            Arg::Plain(Operand::List(_)) | Arg::Input(_, Operand::List(_)) => {}
        }
    }
}
