//! Tapes that are broken on purpose: the verifier names each flaw.
#![allow(clippy::unwrap_used, reason = "a test may fail loudly")]

use super::Machine;
use super::op::{Area, Footprint, Leads, Op};
use super::tape::Tape;
use super::verify::TapeFlaw;
use crate::check::{Checked, check};
use crate::lang::{Language, read_project};
use crate::model::IntShape;
use crate::source::Source;

fn checked(text: &str) -> Checked {
    let (project, _) = read_project(vec![(Source::new("hatchery.st", text), Language::St)]);
    check(project).unwrap()
}

/// A program with a loop, an array, a subrange, a timer and a choice; whatever a tape can hold of numbers is there.
fn tape() -> Tape {
    let text = "TYPE Dose : STRUCT Grams : INT; Done : BOOL; END_STRUCT END_TYPE
        PROGRAM Feeder
        VAR_INPUT Row : INT; Run : BOOL; END_VAR
        VAR_OUTPUT Sum : DINT; Late : BOOL; Share : INT; END_VAR
        VAR i : INT; Doses : ARRAY [1..4] OF Dose; One : Dose; Wait : TON; Level : INT (0..9); END_VAR
        Wait(IN := Run, PT := T#2s);
        Late := Wait.Q;
        FOR i := 1 TO 4 DO Sum := Sum + Doses[i].Grams; END_FOR;
        One := Doses[LIMIT(1, Row, 4)];
        Doses[LIMIT(1, Row, 4)] := One;
        Level := LIMIT(0, Row, 9);
        IF Run THEN Share := (Row + 3) * (Level + 1); END_IF;
        END_PROGRAM";
    super::compile::compile(&checked(text), &[]).unwrap().tape
}

fn find(tape: &Tape, is: impl Fn(&Op) -> bool) -> usize {
    tape.code.iter().position(is).unwrap()
}

/// The tape after a change, and the flaw that is then found.
fn flaw(change: impl FnOnce(&mut Tape) -> TapeFlaw) {
    let mut broken = tape();
    assert_eq!(broken.verify(), Ok(()));
    let expected = change(&mut broken);
    assert_eq!(broken.verify(), Err(expected));
}

#[test]
fn each_flaw_is_named() {
    flaw(|t| {
        t.spans.pop();
        TapeFlaw::Beside { code: t.code.len(), spans: t.spans.len(), asked: t.asked.len() }
    });
    flaw(|t| {
        t.retained.push(false);
        TapeFlaw::Memory { image: t.image.len(), retained: t.retained.len() }
    });
    flaw(|t| {
        let last = t.code.len() - 1;
        t.code[last] = t.code[0];
        TapeFlaw::Open(last)
    });
    flaw(|t| {
        let at = find(t, |op| matches!(op, Op::Back { .. }));
        t.code[at] = Op::Back { to: at as u32 + 1 };
        TapeFlaw::Jump(at)
    });
    flaw(|t| {
        let at = find(t, |op| matches!(op.footprint().leads, Leads::Branch(_)));
        t.code[at] = Op::JumpIf { c: 0, to: t.code.len() as u32 };
        TapeFlaw::Jump(at)
    });
    flaw(|t| {
        t.ranges.clear();
        TapeFlaw::Number(find(t, |op| matches!(op, Op::Bound { .. })))
    });
    flaw(|t| {
        t.dimensions.clear();
        TapeFlaw::Number(find(t, |op| matches!(op, Op::Index { .. })))
    });
    flaw(|t| {
        t.code[0] = Op::Move { d: t.image.len() as u32, a: 0 };
        TapeFlaw::Beyond(0)
    });
    flaw(|t| {
        let at = find(t, |op| matches!(op.footprint().reads[0], Some(Area::Block { .. } | Area::Moved { .. })));
        t.reaches.get_mut(&(at as u32)).unwrap().most = t.image.len() as i64;
        TapeFlaw::Beyond(at)
    });
    flaw(|t| {
        let slot = *t.constants.iter().next().unwrap();
        t.code[0] = Op::Move { d: slot, a: 0 };
        TapeFlaw::Constant(0)
    });
    flaw(|t| {
        let slot = *t.watches.iter().next().unwrap();
        t.code[0] = Op::Move { d: slot, a: 0 };
        TapeFlaw::Watch(0, slot)
    });
    flaw(|t| {
        let at = find(t, |op| matches!(op, Op::Since { .. }));
        t.code[at] = Op::Since { d: t.code[at].target().unwrap(), a: 0 };
        TapeFlaw::Watch(at, 0)
    });
    flaw(|t| {
        // What is written on one of two ways only.
        let (slot, point) = (*t.temporaries.iter().next().unwrap(), 1);
        let ways = [Op::JumpIf { c: 0, to: 2 }, Op::Move { d: slot, a: 0 }, Op::Move { d: point, a: slot }, Op::End];
        (t.code, t.spans, t.asked) = (ways.to_vec(), t.spans[..4].to_vec(), t.asked[..4].to_vec());
        TapeFlaw::Unwritten(2, slot)
    });
}

/// What an operation writes is what running it changes, and it takes nothing that the table does not name: memory that
/// differs only in slots it does not read leads to the same values and the same next operation.
#[test]
fn the_table_of_operations_is_what_they_do() {
    let s = IntShape { bits: 16, signed: true };
    let samples = [
        Op::Move { d: 0, a: 1 },
        Op::MoveIf { d: 0, c: 1, a: 2 },
        Op::NotBool { d: 0, a: 1 },
        Op::AndNot { d: 0, a: 1, b: 2 },
        Op::OrNot { d: 0, a: 1, b: 2 },
        Op::Add { s, d: 0, a: 1, b: 2 },
        Op::Div { s, d: 0, a: 1, b: 2 },
        Op::LeUnsigned { d: 0, a: 1, b: 2 },
        Op::Index { d: 0, a: 1, dim: 0 },
        Op::Load { d: 0, base: 4, off: 3 },
        Op::Store { base: 4, off: 3, a: 1 },
        Op::Copy { d: 4, a: 1, n: 2 },
        Op::LoadBlock { d: 0, off: 3, block: 0 },
        Op::StoreBlock { a: 0, off: 3, block: 0 },
        Op::Restart { d: 0 },
        Op::RestartAt { base: 4, off: 3 },
        Op::Since { d: 0, a: 1 },
        Op::FirstScan { d: 0 },
        Op::ScanTime { d: 0 },
        Op::Ticks { d: 0, a: 1 },
    ];
    for op in samples {
        let Footprint { reads, writes, .. } = op.footprint();
        let mut tape = tape();
        tape.code = vec![op, Op::End];
        tape.dimensions = vec![super::tape::Dimension { low: 0, high: 9, stride: 2 }];
        tape.blocks = vec![(4, 2)];
        let before: Vec<i64> = vec![1, 5, 3, 1, 7, 8, 9, 6];
        let area = |area: Area| {
            let (first, count) = area.moved(&tape.blocks, &before);
            first..first + count
        };
        let offsets = reads.into_iter().chain([writes]).flatten().filter_map(Area::offset);
        let read: Vec<u32> = reads.into_iter().flatten().flat_map(area).chain(offsets).collect();
        let written: Vec<u32> = writes.into_iter().flat_map(area).collect();
        let after = ran(&tape, before.clone());
        for slot in 0..before.len() as u32 {
            let changed = before[slot as usize] != after[slot as usize];
            assert!(!changed || written.contains(&slot), "{op:?} writes slot {slot}");
            if read.contains(&slot) {
                continue;
            }
            let mut other = before.clone();
            other[slot as usize] += 1;
            let other = ran(&tape, other);
            assert!(written.iter().all(|w| after[*w as usize] == other[*w as usize]), "{op:?} reads slot {slot}");
        }
    }
}

/// Memory after an operation.
fn ran(tape: &Tape, memory: Vec<i64>) -> Vec<i64> {
    let mut state = super::run::State {
        memory,
        texts: indexmap::IndexSet::default(),
        now: 50_000_000,
        since_last: 10_000_000,
        first_scan: true,
        rounds: 10,
    };
    super::run::run(tape, &mut state, 0, &mut super::run::Unwatched).unwrap();
    state.memory
}

#[test]
fn a_machine_is_only_built_of_a_whole_tape() {
    let machine = Machine::new(&checked(
        "PROGRAM P VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR Alarm := Low; END_PROGRAM",
    ));
    assert_eq!(machine.unwrap().tape().verify(), Ok(()));
}
