//! What is the same as a gate and simpler. Each way to make it so is a [`Rewrite`]: it has a name, the conditions under
//! which it holds, and a row in the tests, in which it is proved for small widths one by one and for 64 bits by a solver.

use super::{Gate, Net, Node};
use crate::model::IntShape;
use crate::model::ops::{BinaryOp, Precision};

/// The ways, and a list of all of them: one that is not in the list cannot be.
macro_rules! rewrites {
    ($(#[$about:meta])* pub(crate) enum Rewrite { $($(#[$doc:meta])* $name:ident,)* }) => {
        $(#[$about])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
        pub(crate) enum Rewrite { $($(#[$doc])* $name,)* }

        #[cfg(test)]
        impl Rewrite {
            /// All of them.
            pub(crate) const ALL: &[Rewrite] = &[$(Rewrite::$name,)*];
        }
    };
}

rewrites! {
    /// A way in which a gate is made simpler.
    ///
    /// A gate holds numbers. `AND`, `OR` and `XOR` work on all their bits, so what is true of BOOL is asked of a number only
    /// where it is known to be 0 or 1. A quotient is one of whole numbers with a sign: 64 bits without a sign are another
    /// division.
    pub(crate) enum Rewrite {
        /// `x AND 0` is 0.
        AndNothing,
        /// `x AND 1` is x, if x is 0 or 1.
        AndOne,
        /// `x AND x` is x.
        AndSame,
        /// `x AND NOT x` is 0, if x is 0 or 1.
        AndOpposite,
        /// `(x AND y) AND y` is `x AND y`.
        AndImplied,
        /// `x OR 0` is x.
        OrNothing,
        /// `x OR 1` is 1, if x is 0 or 1.
        OrOne,
        /// `x OR x` is x.
        OrSame,
        /// `x OR NOT x` is 1, if x is 0 or 1.
        OrOpposite,
        /// `(p AND c) OR (p AND NOT c)` is p, if p and c are 0 or 1.
        OrSplit,
        /// `c OR (p AND NOT c)` is `c OR p`, if p and c are 0 or 1.
        OrRest,
        /// `x OR (x AND y)` is x.
        OrAbsorbed,
        /// What is ruled out by one way is not asked in another one, if all are 0 or 1.
        OrWays,
        /// `x XOR 0` is x.
        XorNothing,
        /// `(x XOR k) XOR l` is `x XOR (k XOR l)`.
        XorTwice,
        /// `x XOR x` is 0.
        XorSame,
        /// `x + 0` is x, wrapped.
        AddNothing,
        /// `x - 0` is x, wrapped.
        SubNothing,
        /// `x * 0` is 0.
        MulNothing,
        /// `x * 1` is x, wrapped.
        MulOne,
        /// 64 bits are never wrapped.
        WrapWhole,
        /// What is 0 or 1 is never wrapped.
        WrapBool,
        /// `x = 1` is x, if x is 0 or 1.
        EqOne,
        /// `x = 0` is NOT x, if x is 0 or 1.
        EqNothing,
        /// `x = x` is 1.
        EqSame,
        /// `x < x` is 0.
        LessSame,
        /// The smaller, or the larger, of x and x is x.
        LeastSame,
        /// `x / a / b` is `x / ab`, if neither is a division of 64 bits without a sign.
        DivTwice,
        /// `MIN(x / k, c)` is `MIN(x, ck) / k`, of division with a sign and c not below 0.
        MinOfQuotient,
        /// `x / k < c` is `x < ck`, of division with a sign and c above 0.
        QuotientLess,
        /// `c < x / k` is `NOT x < (c + 1)k`, of division with a sign and c not below 0.
        QuotientMore,
        /// A choice by a constant.
        MuxKnown,
        /// A choice by a number is one by whether it is not 0.
        MuxTruth,
        /// A choice between x and x.
        MuxSame,
        /// What is known by a choice is not asked again behind it.
        MuxGiven,
        /// A choice by NOT c is one by c, the other way round.
        MuxNegated,
        /// `x if x < y, else y` is the smaller one.
        MuxLeast,
        /// `y if x < y, else x` is the larger one.
        MuxMost,
        /// A choice between 0 and 1 by c is c, or NOT c.
        MuxIs,
        /// A choice between 1 or 0 and x by c is an OR or an AND, if x is 0 or 1.
        MuxLogic,
        /// A time that goes on by 0 stands still.
        AdvanceNothing,
    }
}

/// A simpler node, which only a [`Rewrite`] makes.
pub(super) struct Simpler(Node);

impl Simpler {
    /// The node.
    pub(super) fn told(self) -> Node {
        self.0
    }
}

impl Rewrite {
    /// A node that is the same by this.
    fn to(self, node: Node) -> Result<Simpler, Gate> {
        #[cfg(test)]
        super::watched::note(self);
        Ok(Simpler(node))
    }

    /// Whether this may be done; in tests one may be broken on purpose, so that its conditions do not count.
    pub(super) fn needs(self, condition: bool) -> bool {
        #[cfg(test)]
        if super::watched::is_broken(self) {
            return true;
        }
        condition
    }
}

impl Net {
    /// What is the same as a gate and simpler: a node, or else a gate in its usual form.
    pub(super) fn simpler(&mut self, gate: Gate) -> Result<Simpler, Gate> {
        use Gate::*;
        match gate {
            And(a, b) => self.simpler_and(a, b),
            Or(a, b) => self.simpler_or(a, b),
            Xor(a, b) => self.simpler_xor(a, b),
            Add(s, a, b) => match self.usual(a, b) {
                (a, b) if self.is(b, 0) => Rewrite::AddNothing.to(self.add(Wrap(s, a))),
                (a, b) => Err(Add(s, a, b)),
            },
            Sub(s, a, b) if self.is(b, 0) => Rewrite::SubNothing.to(self.add(Wrap(s, a))),
            Mul(s, a, b) => match self.usual(a, b) {
                (_, b) if self.is(b, 0) => Rewrite::MulNothing.to(b),
                (a, b) if self.is(b, 1) => Rewrite::MulOne.to(self.add(Wrap(s, a))),
                (a, b) => Err(Mul(s, a, b)),
            },
            Wrap(IntShape { bits: 64, .. }, a) => Rewrite::WrapWhole.to(a),
            Wrap(_, a) if Rewrite::WrapBool.needs(self.is_bool(a)) => Rewrite::WrapBool.to(a),
            Eq(a, b) => self.simpler_eq(a, b),
            Less(a, b) | Below(a, b) if a == b => Rewrite::LessSame.to(self.bool(false)),
            Min(a, b) | Max(a, b) if a == b => Rewrite::LeastSame.to(a),
            Less(..) | Div(..) => self.of_quotient(gate),
            Min(a, b) => {
                let (a, b) = self.usual(a, b);
                self.of_quotient(Min(a, b))
            }
            Max(a, b) => {
                let (a, b) = self.usual(a, b);
                Err(Max(a, b))
            }
            Mux(c, a, b) => self.choice(c, a, b),
            Advance(a, b) if self.is(b, 0) => Rewrite::AdvanceNothing.to(a),
            Whole(super::Whole::Real { op, precision }, a, b) => Err(self.usual_real(op, precision, a, b)),
            Sub(..) | Wrap(..) | Advance(..) | Mod(..) | Below(..) | Shift(..) | Whole(..) | Fails(..) => Err(gate),
            Const(_) | Input(_) | Reg(_) => Err(gate),
        }
    }

    fn is(&self, node: Node, value: i64) -> bool {
        self.as_constant(node) == Some(value)
    }

    /// Operands that may be swapped stand in order, a constant last.
    fn usual(&self, a: Node, b: Node) -> (Node, Node) {
        let k = |n: Node| self.as_constant(n).is_some();
        if k(a) || (!k(b) && a > b) { (b, a) } else { (a, b) }
    }

    /// An operation on reals in its usual form. Sums and products may be swapped, as what is not a number is always the
    /// same one; nothing else is done to reals, as hardly any law of numbers holds of them.
    fn usual_real(&self, op: BinaryOp, precision: Precision, a: Node, b: Node) -> Gate {
        let (op, a, b) = match op {
            BinaryOp::Add | BinaryOp::Mul | BinaryOp::Eq | BinaryOp::Ne => {
                let (a, b) = self.usual(a, b);
                (op, a, b)
            }
            BinaryOp::Gt => (BinaryOp::Lt, b, a),
            BinaryOp::Ge => (BinaryOp::Le, b, a),
            BinaryOp::Sub
            | BinaryOp::Div
            | BinaryOp::Power
            | BinaryOp::Lt
            | BinaryOp::Le
            | BinaryOp::And
            | BinaryOp::Or
            | BinaryOp::Xor
            | BinaryOp::Mod => (op, a, b),
        };
        Gate::Whole(super::Whole::Real { op, precision }, a, b)
    }

    fn simpler_and(&mut self, a: Node, b: Node) -> Result<Simpler, Gate> {
        let (a, b) = self.usual(a, b);
        match () {
            () if self.is(b, 0) => Rewrite::AndNothing.to(b),
            () if self.is(b, 1) && Rewrite::AndOne.needs(self.is_bool(a)) => Rewrite::AndOne.to(a),
            () if a == b => Rewrite::AndSame.to(a),
            () if self.opposite(a, b) => Rewrite::AndOpposite.to(self.bool(false)),
            () if self.implied(a, b) => Rewrite::AndImplied.to(a),
            () if self.implied(b, a) => Rewrite::AndImplied.to(b),
            () => Err(Gate::And(a, b)),
        }
    }

    fn simpler_or(&mut self, a: Node, b: Node) -> Result<Simpler, Gate> {
        let (a, b) = self.usual(a, b);
        match () {
            () if self.is(b, 0) => Rewrite::OrNothing.to(a),
            () if self.is(b, 1) && Rewrite::OrOne.needs(self.is_bool(a)) => Rewrite::OrOne.to(b),
            () if a == b => Rewrite::OrSame.to(a),
            () if self.opposite(a, b) => Rewrite::OrOpposite.to(self.bool(true)),
            () => self.either(a, b),
        }
    }

    fn simpler_xor(&mut self, a: Node, b: Node) -> Result<Simpler, Gate> {
        let (a, b) = self.usual(a, b);
        match (self.as_constant(b), self.gate(a)) {
            (Some(0), _) => Rewrite::XorNothing.to(a),
            (Some(x), Gate::Xor(c, d)) if self.as_constant(d).is_some() => {
                let rest = self.constant(x ^ self.as_constant(d).unwrap_or_default());
                Rewrite::XorTwice.to(self.add(Gate::Xor(c, rest)))
            }
            _ if a == b => Rewrite::XorSame.to(self.constant(0)),
            _ => Err(Gate::Xor(a, b)),
        }
    }

    fn simpler_eq(&mut self, a: Node, b: Node) -> Result<Simpler, Gate> {
        let (a, b) = self.usual(a, b);
        match () {
            () if self.is(b, 1) && Rewrite::EqOne.needs(self.is_bool(a)) => Rewrite::EqOne.to(a),
            () if self.is(b, 0) && Rewrite::EqNothing.needs(self.is_bool(a)) => Rewrite::EqNothing.to(self.not(a)),
            () if a == b => Rewrite::EqSame.to(self.bool(true)),
            () => Err(Gate::Eq(a, b)),
        }
    }

    /// A quotient by a constant above zero: its dividend and the constant.
    fn quotient(&self, node: Node, by: Rewrite) -> Option<(IntShape, Node, i64)> {
        let Gate::Div(s, x, divisor) = self.gate(node) else { return None };
        let divisor = self.as_constant(divisor).filter(|k| *k > 0)?;
        by.needs(!s.is_unsigned_64()).then_some((s, x, divisor))
    }

    /// What is asked of a quotient is asked of its dividend, if the divisor is a constant above zero: then nobody has to
    /// divide what is large. Quotients are cut towards zero, so all of this holds of negative dividends too; but not of
    /// 64 bits without a sign, of which the comparisons here know nothing.
    fn of_quotient(&mut self, gate: Gate) -> Result<Simpler, Gate> {
        use Gate::*;
        let k = |n: Node| self.as_constant(n);
        match gate {
            Div(s, a, b) => {
                let by = Rewrite::DivTwice;
                if let (Some((_, x, first)), Some(second)) = (self.quotient(a, by), k(b).filter(|b| *b > 0))
                    && by.needs(!s.is_unsigned_64())
                    && let Some(divisor) = first.checked_mul(second)
                {
                    let divisor = self.constant(divisor);
                    return by.to(self.add(Div(s, x, divisor)));
                }
            }
            Min(a, b) => {
                let by = Rewrite::MinOfQuotient;
                if let (Some((s, x, divisor)), Some(c)) = (self.quotient(a, by), k(b).filter(|c| *c >= 0))
                    && let Some(most) = c.checked_mul(divisor)
                {
                    let (most, divisor) = (self.constant(most), self.constant(divisor));
                    let least = self.add(Min(x, most));
                    return by.to(self.add(Div(s, least, divisor)));
                }
            }
            Less(a, b) => {
                let by = Rewrite::QuotientLess;
                if let (Some((_, x, divisor)), Some(c)) = (self.quotient(a, by), k(b).filter(|c| *c > 0))
                    && let Some(most) = c.checked_mul(divisor)
                {
                    let most = self.constant(most);
                    return by.to(self.add(Less(x, most)));
                }
                let by = Rewrite::QuotientMore;
                if let (Some(c), Some((_, x, divisor))) = (k(a).filter(|c| *c >= 0), self.quotient(b, by))
                    && let Some(most) = c.checked_add(1).and_then(|c| c.checked_mul(divisor))
                {
                    let most = self.constant(most);
                    let less = self.add(Less(x, most));
                    return by.to(self.not(less));
                }
            }
            Const(_) | Input(_) | Reg(_) | And(..) | Or(..) | Xor(..) | Add(..) | Sub(..) | Mul(..) | Mod(..)
            | Advance(..) | Wrap(..) | Eq(..) | Below(..) | Mux(..) | Max(..) | Shift(..) | Whole(..) | Fails(..) => {}
        }
        Err(gate)
    }

    /// A or B, where they may be two ways of one condition.
    fn either(&mut self, a: Node, b: Node) -> Result<Simpler, Gate> {
        if let (Gate::And(p, c), Gate::And(q, d)) = (self.gate(a), self.gate(b)) {
            for (p, c) in [(p, c), (c, p)] {
                for (q, d) in [(q, d), (d, q)] {
                    if p == q && self.opposite(c, d) && Rewrite::OrSplit.needs(self.is_bool(p)) {
                        return Rewrite::OrSplit.to(p);
                    }
                }
            }
        }
        for (a, b) in [(a, b), (b, a)] {
            if let Gate::And(p, c) = self.gate(b) {
                for (p, c) in [(p, c), (c, p)] {
                    if self.opposite(a, c) && Rewrite::OrRest.needs(self.is_bool(p)) {
                        return Rewrite::OrRest.to(self.add(Gate::Or(a, p)));
                    }
                }
                if p == a || c == a {
                    return Rewrite::OrAbsorbed.to(a);
                }
            }
        }
        match self.ways(a, b) {
            Ok(node) => Rewrite::OrWays.to(node),
            Err(gate) => Err(gate),
        }
    }

    fn choice(&mut self, c: Node, a: Node, b: Node) -> Result<Simpler, Gate> {
        if let Some(known) = self.as_constant(c) {
            return Rewrite::MuxKnown.to(if known != 0 { a } else { b });
        }
        if a == b {
            return Rewrite::MuxSame.to(a);
        }
        if !self.is_bool(c) {
            let zero = self.constant(0);
            let is_zero = self.equal(c, zero);
            let truth = self.not(is_zero);
            if truth != c {
                return Rewrite::MuxTruth.to(self.add(Gate::Mux(truth, a, b)));
            }
        }
        // Not asked again what is known by then.
        let (x, y) = (self.given(a, c, true), self.given(b, c, false));
        if (x, y) != (a, b) {
            return Rewrite::MuxGiven.to(self.add(Gate::Mux(c, x, y)));
        }
        if let Some(positive) = self.negated(c) {
            return Rewrite::MuxNegated.to(self.add(Gate::Mux(positive, b, a)));
        }
        // The smaller or larger of two is written as that.
        if let Gate::Less(x, y) = self.gate(c) {
            if (a, b) == (x, y) {
                return Rewrite::MuxLeast.to(self.add(Gate::Min(x, y)));
            }
            if (a, b) == (y, x) {
                return Rewrite::MuxMost.to(self.add(Gate::Max(x, y)));
            }
        }
        self.logic(c, a, b)
    }

    /// A choice by what is 0 or 1, of which one side is that too.
    fn logic(&mut self, c: Node, a: Node, b: Node) -> Result<Simpler, Gate> {
        match (self.as_constant(a), self.as_constant(b)) {
            (Some(1), Some(0)) => return Rewrite::MuxIs.to(c),
            (Some(0), Some(1)) => return Rewrite::MuxIs.to(self.not(c)),
            _ => {}
        }
        if !Rewrite::MuxLogic.needs(self.is_bool(a) && self.is_bool(b)) {
            return Err(Gate::Mux(c, a, b));
        }
        let node = match (self.as_constant(a), self.as_constant(b)) {
            (Some(1), _) => self.or(c, b),
            (Some(0), _) => {
                let not = self.not(c);
                self.and(not, b)
            }
            (_, Some(0)) => self.and(c, a),
            (_, Some(1)) => {
                let not = self.not(c);
                self.or(not, a)
            }
            _ => return Err(Gate::Mux(c, a, b)),
        };
        Rewrite::MuxLogic.to(node)
    }

    /// What a node is where a condition is known.
    fn given(&self, node: Node, condition: Node, holds: bool) -> Node {
        let mut node = node;
        while let Gate::Mux(c, a, b) = self.gate(node) {
            if c == condition {
                node = if holds { a } else { b };
            } else if self.opposite(c, condition) {
                node = if holds { b } else { a };
            } else {
                break;
            }
        }
        node
    }

    /// The node this one is the NOT of.
    fn negated(&self, node: Node) -> Option<Node> {
        if let Gate::Xor(a, one) = self.gate(node)
            && self.as_constant(one) == Some(1)
            && self.is_bool(a)
        {
            Some(a)
        } else {
            None
        }
    }

    /// Whether both are 0 or 1, and one is the NOT of the other.
    pub(super) fn opposite(&self, a: Node, b: Node) -> bool {
        self.negated(a) == Some(b) || self.negated(b) == Some(a)
    }

    /// True if `a` is an AND of which `b` is a part.
    fn implied(&self, a: Node, b: Node) -> bool {
        matches!(self.gate(a), Gate::And(x, y) if x == b || y == b)
    }
}
