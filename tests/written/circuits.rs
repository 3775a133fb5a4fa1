//! Function block diagrams drawn by hand as structured text.

use super::{Row, hold};
use honest_twin::lang::Language;

const CIRCUITS: &[Row] = &[
    (
        "a wire",
        "Low --- Valve",
        "
    Valve := Low;",
    ),
    (
        "a box",
        "       +-----+
 Low --+ AND +-- Valve
High --+     |
       +-----+",
        "
    Valve := Low AND High;",
    ),
    (
        "a box that feeds two",
        "       +-----+
 Low --+ AND +--+-- Valve
High --+     |  |
       +-----+  +-- Alarm",
        "
    Valve := Low AND High;
    Alarm := Low AND High;",
    ),
    (
        "a negated input",
        "        +----+
  Low --+ OR +-- Valve
High --o+    |
        +----+",
        "
    Valve := Low OR NOT High;",
    ),
    (
        "a box on a condition",
        "        +----------+
  Low --+EN ADD ENO+-- Valve
 Flow --+          +-- Sum
Level --+          |
        +----------+",
        "
    Valve := Low;
    IF Low THEN
        Sum := Flow + Level;
    END_IF;",
    ),
    (
        "a chain of boxes",
        "       +-----+        +----+
Flow --+ ADD +--------+ GT +-- Valve
   3 --+     |  10 ---+    |
       +-----+        +----+",
        "
    Valve := Flow + 3 > 10;",
    ),
    (
        "a timer",
        "          Soak
       +--------+
 Low --+IN TON Q+-- Valve
Span --+PT    ET+-- Left
       +--------+",
        "
    Soak(IN := Low, PT := Span, Q => Valve, ET => Left);",
    ),
    (
        "a latch block",
        "         Latch
       +--------+
 Low --+S1 SR Q1+-- Valve
High --+R       |
       +--------+",
        "
    Latch(S1 := Low, R := High, Q1 => Valve);",
    ),
    (
        "a counter",
        "          Shots
        +--------+
Rinse --+CU CTU Q+-- Alarm
  Ack --+R     CV+-- Count
    6 --+PV      |
        +--------+",
        "
    Shots(CU := Rinse, R := Ack, PV := 6, Q => Alarm, CV => Count);",
    ),
    (
        "a jump",
        "Low --->>past

High --- Valve

past:
Rinse --- Alarm",
        "
    IF NOT Low THEN
        Valve := High;
    END_IF;

    Alarm := Rinse;",
    ),
    (
        "a return",
        "Low ---<RETURN>

High --- Valve",
        "
    IF Low THEN
        RETURN;
    END_IF;

    Valve := High;",
    ),
    (
        "a choice",
        "        +------+
  Low --+G SEL +-- Sum
 Flow --+IN0   |
Level --+IN1   |
        +------+",
        "
    Sum := SEL(Low, Flow, Level);",
    ),
];

#[test]
fn blocks_as_texts() {
    hold(CIRCUITS, Language::Fbd, Language::St);
}
