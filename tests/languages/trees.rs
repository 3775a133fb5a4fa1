//! Trees drawn at random, not only programs that make sense: what is written of a tree is read as that tree, and whoever
//! goes over one comes by every part of it.

use honest_twin::lang::{Language, read_file, write_file};
use honest_twin::model::ops::{BinaryOp, UnaryOp};
use honest_twin::model::{
    Arg, Body, Call, CaseBranch, CaseLabel, Expr, ExprKind, ForHead, FunctionForm, Head, Instr, InstrKind, Item,
    Literal, LiteralValue, Mention, Name, Notes, Operand, Stmt, StmtKind, Unit, UnitKind, Walk, When, each_statement,
};
use honest_twin::source::{FileId, Limits, Source, Span};
use proptest::prelude::*;

const NOWHERE: Span = Span { file: FileId(0), start: 0, end: 0 };

fn name(text: &str) -> Name {
    Name::new(text, NOWHERE)
}

fn at(kind: ExprKind) -> Expr {
    Expr::new(kind, NOWHERE)
}

fn literal(text: impl Into<String>, value: LiteralValue) -> Expr {
    at(ExprKind::Literal(Literal { text: text.into(), typed: None, value }))
}

fn variable_name() -> impl Strategy<Value = &'static str> {
    prop::sample::select(vec!["Low", "Oxygen", "Rinse_1", "x", "Blower", "Count9", "AND_then", "T"])
}

fn number() -> impl Strategy<Value = Expr> {
    prop_oneof![
        any::<bool>().prop_map(|b| Expr::truth(b, NOWHERE)),
        any::<u32>().prop_map(|n| literal(n.to_string(), LiteralValue::Int(n.into()))),
        any::<u16>().prop_map(|n| literal(format!("16#{n:X}"), LiteralValue::Int(n.into()))),
        (0u32..90_000).prop_map(|n| literal(format!("{n}.25"), LiteralValue::Real(f64::from(n) + 0.25))),
        (1i64..90_000).prop_map(|n| literal(format!("T#{n}ms"), LiteralValue::Time(n * 1_000_000, false))),
        "[a-z ]{0,6}".prop_map(|text| literal(format!("'{text}'"), LiteralValue::Text(text))),
        (0i64..500).prop_map(|n| {
            let typed = Some(name("DINT"));
            let value = LiteralValue::Int(n.into());
            at(ExprKind::Literal(Literal { text: format!("DINT#{n}"), typed, value }))
        }),
    ]
}

/// A variable or a part of one; indices are what `inner` gives.
fn place(inner: impl Strategy<Value = Expr> + Clone + 'static) -> impl Strategy<Value = Expr> + Clone {
    let root = prop_oneof![
        4 => variable_name().prop_map(|n| Expr::variable(n, NOWHERE)),
        1 => prop::sample::select(vec!["%IX0.3", "%QW7", "%MD4"]).prop_map(|a| at(ExprKind::Address(name(a)))),
    ];
    let part = prop_oneof![variable_name().prop_map(Err), prop::collection::vec(inner, 1..3).prop_map(Ok),];
    let join = |base: Expr, part: Result<Vec<Expr>, &'static str>| match part {
        Ok(indices) => at(ExprKind::Index(Box::new(base), indices)),
        Err(field) => at(ExprKind::Field(Box::new(base), name(field))),
    };
    (root, prop::collection::vec(part, 0..3))
        .prop_map(move |(root, parts)| {
            // An address has no parts.
            if matches!(root.kind, ExprKind::Address(_)) { root } else { parts.into_iter().fold(root, join) }
        })
        .boxed()
}

fn argument(inner: impl Strategy<Value = Expr> + Clone + 'static) -> impl Strategy<Value = Arg> {
    let target = place(Just(literal("1", LiteralValue::Int(1))));
    prop_oneof![
        inner.clone().prop_map(|v| Arg::Plain(Operand::Expr(v))),
        (variable_name(), inner).prop_map(|(n, v)| Arg::Input(name(n), Operand::Expr(v))),
        (variable_name(), any::<bool>(), target).prop_map(|(n, negated, target)| Arg::Output {
            name: name(n),
            negated,
            target
        }),
    ]
}

fn expr() -> BoxedStrategy<Expr> {
    let leaf = prop_oneof![number(), place(Just(literal("0", LiteralValue::Int(0))))];
    leaf.prop_recursive(5, 60, 4, |inner| {
        let op = prop::sample::select(BinaryOp::ALL.to_vec());
        let call = (variable_name(), prop::collection::vec(argument(inner.clone()), 0..4));
        prop_oneof![
            (op, inner.clone(), inner.clone()).prop_map(|(op, a, b)| Expr::binary(op, a, b)),
            (prop::sample::select(vec![UnaryOp::Not, UnaryOp::Negate]), inner.clone())
                .prop_map(|(op, a)| at(ExprKind::Unary(op, Box::new(a)))),
            place(inner),
            call.prop_map(|(f, args)| {
                let callee = Expr::variable(f, NOWHERE);
                at(ExprKind::Call(Box::new(Call { callee, args, span: NOWHERE })))
            }),
        ]
    })
    .boxed()
}

fn stmt(kind: StmtKind) -> Stmt {
    Stmt { kind, span: NOWHERE, notes: Notes::default() }
}

fn label() -> impl Strategy<Value = CaseLabel> {
    let value = prop_oneof![
        (0u32..99).prop_map(|n| literal(n.to_string(), LiteralValue::Int(n.into()))),
        variable_name().prop_map(|n| Expr::variable(n, NOWHERE)),
    ];
    prop_oneof![
        value.clone().prop_map(CaseLabel::One),
        (value.clone(), value).prop_map(|(a, b)| CaseLabel::Range(a, b))
    ]
}

fn statement() -> BoxedStrategy<Stmt> {
    let calls = (place(expr()), prop::collection::vec(argument(expr()), 0..3));
    let leaf = prop_oneof![
        4 => (place(expr()), expr()).prop_map(|(target, value)| StmtKind::Assign(target, value)),
        // What stands by itself and is no call of a plain or dotted name cannot be written.
        1 => calls.prop_map(|(callee, args)| StmtKind::Call(Call { callee, args, span: NOWHERE })),
        1 => prop::sample::select(vec![StmtKind::Exit, StmtKind::Continue, StmtKind::Return]),
    ];
    leaf.prop_map(stmt)
        .prop_recursive(3, 24, 4, |inner| {
            let body = prop::collection::vec(inner, 0..3);
            let branch = (prop::collection::vec(label(), 1..3), body.clone()).prop_map(|(labels, body)| CaseBranch {
                labels,
                body,
                notes: Notes::default(),
            });
            let otherwise = prop::option::of(prop::collection::vec(expr(), 1..2).prop_map(|values| {
                values.into_iter().map(|v| stmt(StmtKind::Assign(Expr::variable("Other", NOWHERE), v))).collect()
            }));
            let head = (variable_name(), expr(), expr(), prop::option::of(expr()))
                .prop_map(|(var, from, to, by)| Box::new(ForHead { var: Expr::variable(var, NOWHERE), from, to, by }));
            prop_oneof![
                (prop::collection::vec((expr(), body.clone()), 1..3), otherwise.clone())
                    .prop_map(|(branches, otherwise)| StmtKind::If(branches, otherwise)),
                (expr(), prop::collection::vec(branch, 1..3), otherwise)
                    .prop_map(|(selector, branches, otherwise)| StmtKind::Case(selector, branches, otherwise)),
                (head, body.clone()).prop_map(|(head, body)| StmtKind::For(head, body)),
                (expr(), body.clone()).prop_map(|(condition, body)| StmtKind::While(condition, body)),
                (body, expr()).prop_map(|(body, condition)| StmtKind::Repeat(body, condition)),
            ]
            .prop_map(stmt)
        })
        .boxed()
}

fn instr(kind: InstrKind) -> Instr {
    Instr { label: None, kind, span: NOWHERE, notes: Notes::default() }
}

fn instruction() -> BoxedStrategy<Instr> {
    let index = Just(literal("2", LiteralValue::Int(2)));
    let simple = prop_oneof![number(), place(index.clone())];
    let when = prop::sample::select(vec![When::Always, When::IfTrue, When::IfFalse]);
    // EXPT is a function and no operator there.
    let ops: Vec<BinaryOp> = BinaryOp::ALL.into_iter().filter(|op| *op != BinaryOp::Power).collect();
    let ops = prop::sample::select(ops);
    let no_modifier = |op: BinaryOp, n: bool| n && op.is_logic();
    let leaf = prop_oneof![
        (any::<bool>(), simple.clone()).prop_map(|(n, v)| InstrKind::Load(n, v)),
        (any::<bool>(), place(index.clone())).prop_map(|(n, v)| InstrKind::Store(n, v)),
        place(index.clone()).prop_map(InstrKind::Set),
        place(index.clone()).prop_map(InstrKind::Reset),
        Just(InstrKind::Not),
        (ops.clone(), any::<bool>(), simple.clone()).prop_map(move |(op, n, v)| InstrKind::Op(
            op,
            no_modifier(op, n),
            Operand::Expr(v)
        )),
        when.clone().prop_map(|when| InstrKind::Jump(when, name("Done"))),
        when.clone().prop_map(InstrKind::Return),
        (when, variable_name()).prop_map(|(when, callee)| {
            InstrKind::Call(when, Call { callee: Expr::variable(callee, NOWHERE), args: Vec::new(), span: NOWHERE })
        }),
        prop::collection::vec(simple.clone(), 1..3).prop_map(|values| {
            let args = values.into_iter().map(|v| Arg::Plain(Operand::Expr(v))).collect();
            let call = Call { callee: Expr::variable("LIMIT", NOWHERE), args, span: NOWHERE };
            InstrKind::Function(call, FunctionForm::CurrentResult)
        }),
    ];
    leaf.prop_map(instr)
        .prop_recursive(2, 12, 3, move |inner| {
            let load = simple.clone().prop_map(|v| instr(InstrKind::Load(false, v)));
            let no_jump = inner.prop_filter("leads out of parentheses", |i| {
                !matches!(i.kind, InstrKind::Jump(..) | InstrKind::Return(_))
            });
            (ops.clone(), load, prop::collection::vec(no_jump, 0..3)).prop_map(|(op, first, rest)| {
                let list = std::iter::once(first).chain(rest).collect();
                instr(InstrKind::Op(op, false, Operand::List(list)))
            })
        })
        .boxed()
}

fn unit(body: Body) -> Item {
    let kind = UnitKind::Program;
    Item::Unit(Unit {
        kind,
        name: name("Hatchery"),
        result: None,
        sections: Vec::new(),
        body,
        notes: Notes::default(),
        head: Head::Written,
    })
}

/// Writes an item, reads it, and writes what was read: the tree and the text are the same.
fn there_and_back(item: &Item, language: Language) -> Result<(), TestCaseError> {
    let text = write_file(std::iter::once(item), language).unwrap();
    let (items, problems) = read_file(FileId(0), &Source::new("drawn", text.clone()), language, Limits::default());
    prop_assert!(problems.is_empty(), "{problems:#?}\n{text}");
    prop_assert_eq!(&items, std::slice::from_ref(item), "read otherwise:\n{}", text);
    let again = write_file(items.iter(), language).unwrap();
    prop_assert_eq!(again, text);
    Ok(())
}

/// What a walker comes by, against the whole tree as it is printed.
#[derive(Default)]
struct Found {
    names: usize,
    literals: usize,
}

impl Found {
    fn look(&mut self, expr: &Expr) -> Walk {
        match &expr.kind {
            ExprKind::Name(_) | ExprKind::Address(_) => self.names += 1,
            ExprKind::Literal(_) => self.literals += 1,
            ExprKind::Field(..) | ExprKind::Index(..) | ExprKind::Unary(..) | ExprKind::Binary(..) => {}
            ExprKind::Call(_) => {}
        }
        Walk::Into
    }

    fn is_all_of(&self, tree: &str) -> Result<(), TestCaseError> {
        let count = |what: &str| tree.matches(what).count();
        prop_assert_eq!(self.literals, count("Literal("), "{}", tree);
        prop_assert_eq!(self.names, count("kind: Name(") + count("kind: Address("), "{}", tree);
        Ok(())
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn statements_are_read_as_they_are_written(list in prop::collection::vec(statement(), 1..4)) {
        there_and_back(&unit(Body::Statements(list)), Language::St)?;
    }

    #[test]
    fn instructions_are_read_as_they_are_written(list in prop::collection::vec(instruction(), 1..8)) {
        let mut list = list;
        let mut last = instr(InstrKind::Empty);
        last.label = Some(name("Done"));
        list.push(last);
        there_and_back(&unit(Body::Instructions(list)), Language::Il)?;
    }

    #[test]
    fn walkers_come_by_every_part(mut one in statement(), mut other in instruction()) {
        let mut found = Found::default();
        one.walk(&mut |e, _| found.look(e));
        found.is_all_of(&format!("{:?}", one))?;
        let mut same = Found::default();
        one.walk_mut(&mut |e, _| same.look(e));
        same.is_all_of(&format!("{:?}", one))?;

        let mut found = Found::default();
        other.own(&mut |e, used| e.walk(used, &mut |e, _| found.look(e)));
        found.is_all_of(&format!("{:?}", other))?;
        let mut same = Found::default();
        other.own_mut(&mut |e, used| e.walk_mut(used, &mut |e, _| same.look(e)));
        same.is_all_of(&format!("{:?}", other))?;
    }

    /// A statement is what it says itself and what is in it, and nothing twice.
    #[test]
    fn statements_are_counted_once(list in prop::collection::vec(statement(), 1..4)) {
        let mut count = 0;
        let mut own = 0;
        each_statement(&list, &mut |stmt| {
            count += 1;
            stmt.own(&mut |_, _| own += 1);
        });
        prop_assert_eq!(count, format!("{list:?}").matches("Stmt {").count());
        let mut all = 0;
        list.iter().for_each(|stmt| stmt.walk(&mut |_, _| { all += 1; Walk::Past }));
        prop_assert_eq!(all, own);
    }

    #[test]
    fn no_letters_at_all_make_the_readers_panic(text in "[A-Z a-z0-9:;=(){}<>'$#%.,+*/&|\\-\n\\[\\]]{0,160}") {
        for language in [Language::St, Language::Il, Language::Ld, Language::Fbd] {
            let whole = format!("PROGRAM P\n{text}\nEND_PROGRAM\n");
            for text in [&text, &whole] {
                let _ = read_file(FileId(0), &Source::new("letters", text.clone()), language, Limits::default());
            }
        }
    }
}

/// Which variables a text mentions, each with how: as statements, as instructions, and of FOR all three limits.
#[test]
fn a_mention_is_told_with_what_is_done_there() {
    let mentions = |text: &str, language: Language| {
        let text = format!("PROGRAM P\n{text}\nEND_PROGRAM\n");
        let (items, problems) = read_file(FileId(0), &Source::new("p", text), language, Limits::default());
        assert!(problems.is_empty(), "{problems:?}");
        let Item::Unit(unit) = &items[0] else { panic!("a program") };
        let mut out = String::new();
        let mut note = |e: &Expr, used: Mention| {
            if let ExprKind::Name(name) = &e.kind {
                let how = match used {
                    Mention::Read => "reads",
                    Mention::Written => "writes",
                    Mention::Called => "calls",
                    Mention::Function => "computes",
                };
                out.push_str(&format!("{how} {}; ", name.text));
            }
            Walk::Into
        };
        match &unit.body {
            Body::Statements(list) => list.iter().for_each(|stmt| stmt.walk(&mut note)),
            Body::Instructions(list) => {
                list.iter().for_each(|instr| instr.own(&mut |e, used| e.walk(used, &mut note)));
            }
            Body::Ladder(list) | Body::Blocks(list) => {
                let elements = list.iter().flat_map(|network| &network.elements);
                elements.for_each(|element| element.own(&mut |e, used| e.walk(used, &mut note)));
            }
        }
        out.trim_end().to_string()
    };
    let rows = [
        (
            Language::St,
            "FOR i := First TO Limit BY Stride DO a[i] := b; END_FOR;",
            "writes i; reads First; reads Limit; reads Stride; writes a; reads i; reads b;",
        ),
        (Language::St, "T1(IN := Low, PT := Wait, Q => Late);", "calls T1; reads Low; reads Wait; writes Late;"),
        (Language::St, "x.Rate := MAX(y.Rate, z[k]);", "writes x; computes MAX; reads y; reads z; reads k;"),
        (
            Language::St,
            "CASE Step OF Rest: n := 1; Low..High: n := 2; ELSE n := m; END_CASE;",
            "reads Step; reads Rest; reads Low; reads High; writes n; writes n; writes n; reads m;",
        ),
        (
            Language::St,
            "REPEAT n := n + 1; UNTIL Full END_REPEAT; WHILE Low DO EXIT; END_WHILE;",
            "reads Full; writes n; reads n; reads Low;",
        ),
        (
            Language::Il,
            "LD a\nAND( b\nOR c\n)\nST o\nS p\nR q\nCAL T1(IN := d)\nLIMIT e, f\nIN T1",
            "reads a; reads b; reads c; writes o; writes p; writes q; calls T1; reads d; computes LIMIT; reads e; reads f; calls T1;",
        ),
        (Language::Ld, "|   a         o     |\n|--| |-------( )----|", "reads a; writes o;"),
        (
            Language::Fbd,
            "          T\n      +-------+\n      |  TON  |\na ----|IN    Q|---- o\nb ----|PT     |\n      +-------+",
            "calls T; reads a; reads b; writes o;",
        ),
    ];
    for (language, text, expected) in rows {
        assert_eq!(mentions(text, language), expected, "{text}");
    }
}
