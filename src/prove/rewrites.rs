//! Each way of rewriting a gate is proved: a row of patterns for each, over operands of every kind, tried with all values
//! of eight bits and put before the solver for 64. A way without a row does not compile.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    clippy::print_stdout,
    clippy::wildcard_enum_match_arm,
    reason = "a test may fail loudly"
)]

use super::solve::{Answer, Budget, Question, Variables};
use crate::circuit::{self, Bit, Gate, Graph, Net, Node, Rewrite, plan, watched};
use crate::model::IntShape;

const SINT: IntShape = IntShape { bits: 8, signed: true };
const USINT: IntShape = IntShape { bits: 8, signed: false };

/// What operands are: 0 or 1, or numbers of a shape.
#[derive(Clone, Copy, Debug, PartialEq)]
enum OperandKind {
    Bit,
    Of(IntShape),
}

const KINDS: [OperandKind; 5] = [
    OperandKind::Bit,
    OperandKind::Of(SINT),
    OperandKind::Of(USINT),
    OperandKind::Of(IntShape::LONG),
    OperandKind::Of(IntShape::WHOLE),
];

impl OperandKind {
    fn range(self) -> (i64, i64) {
        match self {
            OperandKind::Bit => (0, 1),
            OperandKind::Of(IntShape { bits: 64, .. }) => (i64::MIN, i64::MAX),
            OperandKind::Of(shape) => (shape.range().0 as i64, shape.range().1 as i64),
        }
    }

    fn is_wide(self) -> bool {
        matches!(self, OperandKind::Of(shape) if shape.bits == 64)
    }

    fn shape(self) -> IntShape {
        if let OperandKind::Of(shape) = self { shape } else { USINT }
    }

    /// All its values, or of 64 bits those at which something may happen.
    fn values(self) -> Vec<i64> {
        match self {
            OperandKind::Of(IntShape { bits: 64, .. }) => {
                let mut rng = fastrand::Rng::with_seed(7);
                let near = [i64::MIN, -1000, -15, 0, 15, 1000, 1 << 32, i64::MAX - 40];
                let near = near.into_iter().flat_map(|v| (0..31).map(move |d| v.saturating_add(d)));
                near.chain((0..200).map(|_| rng.i64(..))).collect()
            }
            kind => (kind.range().0..=kind.range().1).collect(),
        }
    }
}

/// What a pattern is made of.
struct Pad<'n> {
    net: &'n mut Net,
    kinds: [OperandKind; 2],
    leaves: [Node; 2],
    bit: Node,
    number: i64,
    /// Whether the number was asked for.
    is_numbered: bool,
}

impl Pad<'_> {
    fn x(&self) -> Node {
        self.leaves[0]
    }

    fn y(&self) -> Node {
        self.leaves[1]
    }

    fn shape(&self) -> IntShape {
        self.kinds[0].shape()
    }

    fn number(&mut self) -> Node {
        self.is_numbered = true;
        self.net.constant(self.number)
    }

    fn k(&mut self, value: i64) -> Node {
        self.net.constant(value)
    }

    fn put(&mut self, gate: Gate) -> Node {
        self.net.put(gate)
    }

    fn not(&mut self, node: Node) -> Node {
        let one = self.k(1);
        self.put(Gate::Xor(node, one))
    }

    /// `x / k`, as so many bits as x has.
    fn quotient(&mut self, by: i64) -> Node {
        let (x, shape, by) = (self.x(), self.shape(), self.net.constant(by));
        self.put(Gate::Div(shape, x, by))
    }
}

/// Gates that a way is taken for, and some that look like those.
#[allow(clippy::too_many_lines, reason = "a table: a row for each way")]
fn row(rewrite: Rewrite) -> &'static [fn(&mut Pad<'_>) -> Gate] {
    use Gate::*;
    match rewrite {
        Rewrite::AndNothing => &[|p| And(p.x(), p.k(0))],
        Rewrite::AndOne => &[|p| And(p.x(), p.k(1))],
        Rewrite::AndSame => &[|p| And(p.x(), p.x())],
        Rewrite::AndOpposite => &[|p| And(p.x(), p.not(p.x()))],
        Rewrite::AndImplied => &[|p| And(p.put(And(p.x(), p.y())), p.y()), |p| And(p.x(), p.put(And(p.x(), p.y())))],
        Rewrite::OrNothing => &[|p| Or(p.x(), p.k(0))],
        Rewrite::OrOne => &[|p| Or(p.x(), p.k(1))],
        Rewrite::OrSame => &[|p| Or(p.x(), p.x())],
        Rewrite::OrOpposite => &[|p| Or(p.x(), p.not(p.x()))],
        Rewrite::OrSplit => &[
            |p| {
                let not = p.not(p.bit);
                Or(p.put(And(p.x(), p.bit)), p.put(And(p.x(), not)))
            },
            |p| {
                let not = p.not(p.y());
                Or(p.put(And(p.y(), p.x())), p.put(And(p.x(), not)))
            },
        ],
        Rewrite::OrRest => &[
            |p| {
                let not = p.not(p.bit);
                Or(p.bit, p.put(And(p.x(), not)))
            },
            |p| {
                let not = p.not(p.y());
                Or(p.put(And(p.y(), p.x())), not)
            },
        ],
        Rewrite::OrAbsorbed => &[|p| Or(p.x(), p.put(And(p.x(), p.y()))), |p| Or(p.put(And(p.x(), p.y())), p.y())],
        Rewrite::OrWays => &[
            |p| {
                let not = p.not(p.bit);
                let (a, b) = (p.put(Eq(p.x(), p.y())), p.put(Less(p.x(), p.y())));
                let (way, other) = (p.put(And(p.bit, a)), p.put(And(not, b)));
                let both = p.put(Or(way, other));
                Or(both, p.bit)
            },
            |p| {
                let not = p.not(p.bit);
                let same = p.put(Eq(p.x(), p.y()));
                let other = p.put(And(same, p.bit));
                let either = p.put(Or(not, other));
                Or(either, p.put(And(p.y(), p.bit)))
            },
            |p| {
                let not = p.not(p.bit);
                let inner = p.put(And(p.x(), not));
                let (less, same) = (p.put(Less(p.y(), p.x())), p.put(Eq(p.x(), p.y())));
                let way = p.put(And(inner, less));
                Or(way, p.put(Or(p.bit, same)))
            },
        ],
        Rewrite::XorNothing => &[|p| Xor(p.x(), p.k(0))],
        Rewrite::XorTwice => &[|p| {
            let (k, l) = (p.k(1), p.number());
            Xor(p.put(Xor(p.x(), k)), l)
        }],
        Rewrite::XorSame => &[|p| Xor(p.x(), p.x())],
        Rewrite::AddNothing => &[|p| Add(p.shape(), p.x(), p.k(0)), |p| Add(p.kinds[1].shape(), p.k(0), p.x())],
        Rewrite::SubNothing => &[|p| Sub(p.shape(), p.x(), p.k(0)), |p| Sub(p.kinds[1].shape(), p.x(), p.k(0))],
        Rewrite::MulNothing => &[|p| Mul(p.shape(), p.x(), p.k(0))],
        Rewrite::MulOne => &[|p| Mul(p.kinds[1].shape(), p.k(1), p.x())],
        Rewrite::WrapWhole => &[|p| Wrap(p.kinds[1].shape(), p.x())],
        Rewrite::WrapBool => &[|p| Wrap(p.kinds[1].shape(), p.x())],
        Rewrite::EqOne => &[|p| Eq(p.x(), p.k(1))],
        Rewrite::EqNothing => &[|p| Eq(p.k(0), p.x())],
        Rewrite::EqSame => &[|p| Eq(p.x(), p.x())],
        Rewrite::LessSame => &[|p| Less(p.x(), p.x()), |p| Below(p.x(), p.x())],
        Rewrite::LeastSame => &[|p| Min(p.x(), p.x()), |p| Max(p.x(), p.x())],
        // Operands of a division are numbers of its shape; 64 bits of either sign may meet.
        Rewrite::DivTwice => &[
            |p| {
                let by = p.number();
                Div(p.shape(), p.quotient(5), by)
            },
            |p| {
                let by = p.number();
                Div(IntShape::LONG, p.quotient(5), by)
            },
        ],
        Rewrite::MinOfQuotient => &[|p| Min(p.quotient(3), p.number()), |p| Min(p.number(), p.quotient(10))],
        Rewrite::QuotientLess => &[|p| Less(p.quotient(3), p.number()), |p| Less(p.quotient(10), p.number())],
        Rewrite::QuotientMore => &[|p| Less(p.number(), p.quotient(3)), |p| Less(p.number(), p.quotient(10))],
        Rewrite::MuxKnown => {
            &[|p| Mux(p.k(1), p.x(), p.y()), |p| Mux(p.k(0), p.x(), p.y()), |p| Mux(p.k(6), p.x(), p.y())]
        }
        Rewrite::MuxTruth => &[|p| Mux(p.x(), p.y(), p.bit), |p| Mux(p.x(), p.bit, p.y())],
        Rewrite::MuxSame => &[|p| Mux(p.y(), p.x(), p.x())],
        Rewrite::MuxGiven => &[
            |p| Mux(p.bit, p.put(Mux(p.bit, p.x(), p.y())), p.y()),
            |p| {
                let not = p.not(p.bit);
                Mux(not, p.x(), p.put(Mux(p.bit, p.x(), p.y())))
            },
            |p| {
                let not = p.not(p.y());
                Mux(p.y(), p.x(), p.put(Mux(not, p.x(), p.bit)))
            },
        ],
        Rewrite::MuxNegated => &[|p| Mux(p.not(p.bit), p.x(), p.y()), |p| Mux(p.not(p.y()), p.x(), p.bit)],
        Rewrite::MuxLeast => &[|p| Mux(p.put(Less(p.x(), p.y())), p.x(), p.y())],
        Rewrite::MuxMost => &[|p| Mux(p.put(Less(p.x(), p.y())), p.y(), p.x())],
        Rewrite::MuxIs => &[|p| Mux(p.x(), p.k(1), p.k(0)), |p| Mux(p.x(), p.k(0), p.k(1))],
        Rewrite::MuxLogic => &[
            |p| Mux(p.y(), p.k(1), p.x()),
            |p| Mux(p.y(), p.k(0), p.x()),
            |p| Mux(p.y(), p.x(), p.k(0)),
            |p| Mux(p.y(), p.x(), p.k(1)),
        ],
        Rewrite::AdvanceNothing => &[|p| Advance(p.x(), p.k(0))],
    }
}

/// What a gate gives for values of the operands: `given[0]` and `given[1]`, and the bit.
fn value(net: &Net, node: Node, pad: (&[Node; 2], Node), given: ([i64; 2], i64)) -> i64 {
    let mut values = vec![0; net.gates.len()];
    for (at, gate) in net.gates.iter().enumerate() {
        let own = Node(at as u32);
        values[at] = match gate {
            _ if own == pad.1 => given.1,
            _ if own == pad.0[0] => given.0[0],
            _ if own == pad.0[1] => given.0[1],
            gate => gate.value(|n| values[n.0 as usize]).unwrap_or_default(),
        };
    }
    values[node.0 as usize]
}

/// A pattern over operands of these kinds: the net, what it is made of, the gate as it is, and what became of it.
struct Rewritten {
    net: Net,
    leaves: [Node; 2],
    bit: Node,
    plain: Node,
    simple: Node,
    is_numbered: bool,
}

fn rewritten(pattern: fn(&mut Pad<'_>) -> Gate, kinds: [OperandKind; 2], number: i64) -> Rewritten {
    let mut net = Net::default();
    let leaves = kinds.map(|kind| net.input(kind.range(), 1));
    let bit = net.input((0, 1), 1);
    let mut pad = Pad { net: &mut net, kinds, leaves, bit, number, is_numbered: false };
    let gate = pattern(&mut pad);
    let is_numbered = pad.is_numbered;
    watched::taken();
    let simple = net.add(gate);
    let plain = net.put(gate);
    Rewritten { net, leaves, bit, plain, simple, is_numbered }
}

impl Rewritten {
    /// Values with which it is not the same, of those that are tried.
    fn differs(&self, kinds: [OperandKind; 2]) -> Option<([i64; 2], i64)> {
        let (x, y) = (kinds[0].values(), kinds[1].values());
        // Of the second one the ends, what is near 0, and some between.
        let last = y.len() - 1;
        let y: Vec<i64> = (0..=last)
            .filter(|at| *at < 3 || *at + 3 > last || at % 11 == 0 || y[*at].unsigned_abs() < 3)
            .map(|at| y[at])
            .collect();
        for x in x {
            for y in &y {
                for bit in [0, 1] {
                    let given = ([x, *y], bit);
                    let of = |node| value(&self.net, node, (&self.leaves, self.bit), given);
                    if of(self.plain) != of(self.simple) {
                        return Some(given);
                    }
                }
            }
        }
        None
    }

    /// Whether all choices are by what is 0 or 1: a plan knows no others, and none are left after rewriting.
    fn has_choices_by_bits(&self) -> bool {
        self.net.gates.iter().all(|gate| !matches!(gate, Gate::Mux(c, ..) if !self.net.is_bool(*c)))
    }

    /// What the solver says of whether it can differ.
    fn asked(mut self) -> Answer {
        let same = self.net.put(Gate::Eq(self.plain, self.simple));
        let plan = plan(&mut self.net, &[same]);
        let mut graph = Graph::new();
        let mut bits = vec![Bit::FALSE; plan.bits];
        circuit::begin(&mut graph, &plan, &mut bits);
        for (_, place) in &plan.inputs {
            let at = place.at as usize;
            bits[at..at + usize::from(place.width)].fill_with(|| graph.input());
        }
        circuit::run_all(&mut graph, &plan, &mut bits);
        let differs = plan.bit(same).map_or(Bit::TRUE, |at| bits[at].not());
        let mut vars = Variables::default();
        let mut question = Question::new(&graph, &mut vars, &[&[differs]]);
        question.look_at(usize::MAX);
        question.answer(&Budget { conflicts: 30_000, ..Budget::default() })
    }
}

/// Whether the solver is asked about so wide a gate: the quotients of 64 bits are beyond it, and are tried with values.
fn is_asked(rewrite: Rewrite) -> bool {
    !matches!(rewrite, Rewrite::DivTwice | Rewrite::MinOfQuotient | Rewrite::QuotientLess | Rewrite::QuotientMore)
}

#[test]
fn every_way_of_rewriting_is_proved() {
    let (mut tried, mut asked) = (0, 0);
    for rewrite in Rewrite::ALL {
        let mut taken = false;
        for pattern in row(*rewrite) {
            for kinds in KINDS.into_iter().flat_map(|x| KINDS.map(|y| [x, y])) {
                for number in [0, 1, 5, 7, 100] {
                    let case = format!("{rewrite:?} of {kinds:?} and {number}");
                    let found = rewritten(*pattern, kinds, number);
                    taken |= watched::taken().contains(rewrite);
                    if !found.is_numbered && number > 0 {
                        break;
                    }
                    assert_eq!(found.differs(kinds), None, "{case}");
                    tried += 1;
                    if kinds.iter().any(|k| k.is_wide())
                        && number < 2
                        && is_asked(*rewrite)
                        && found.has_choices_by_bits()
                    {
                        assert!(matches!(found.asked(), Answer::No), "{case}");
                        asked += 1;
                    }
                }
            }
        }
        assert!(taken, "no pattern of its row takes {rewrite:?}");
    }
    println!("{tried} gates tried, {asked} of them put before the solver");
    assert!(tried > 2_000 && asked > 600, "{tried} tried, {asked} asked");
}

/// Rewrites whose conditions matter: without them the rows above find a difference.
#[test]
fn a_rewrite_broken_on_purpose_is_found() {
    for rewrite in [
        Rewrite::AndOne,
        Rewrite::OrOne,
        Rewrite::OrSplit,
        Rewrite::OrRest,
        Rewrite::OrWays,
        Rewrite::WrapBool,
        Rewrite::EqOne,
        Rewrite::EqNothing,
        Rewrite::DivTwice,
        Rewrite::MinOfQuotient,
        Rewrite::QuotientLess,
        Rewrite::QuotientMore,
        Rewrite::MuxLogic,
    ] {
        let wrong = row(rewrite).iter().any(|pattern| {
            KINDS.into_iter().flat_map(|x| KINDS.map(|y| [x, y])).any(|kinds| {
                [0, 1, 5, 7, 100].into_iter().any(|number| {
                    let found = watched::breaking(rewrite, || rewritten(*pattern, kinds, number));
                    found.differs(kinds).is_some()
                })
            })
        });
        assert!(wrong, "{rewrite:?} without its conditions is not found out");
    }
}
