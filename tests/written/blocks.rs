//! Structured text as function block diagrams.

use super::{Row, hold};
use honest_twin::lang::Language;

const BLOCKS: &[Row] = &[
    (
        "a wire",
        "Valve := Low;",
        "
      Low --- Valve",
    ),
    (
        "a circle",
        "Valve := NOT Low;",
        "
            +-----+
      Low --+ NOT +-- Valve
            +-----+",
    ),
    (
        "and",
        "Valve := Low AND High AND NOT Rinse;",
        "
               +-----+
         Low --+ AND +-- Valve
        High --+     |
      Rinse --o+     |
               +-----+",
    ),
    (
        "or behind and",
        "Valve := Low AND High OR Rinse;",
        "
             +-----+           +----+
       Low --+ AND +-----------+ OR +-- Valve
      High --+     |   Rinse --+    |
             +-----+           +----+",
    ),
    (
        "a negated box",
        "Valve := NOT (Low AND High);",
        "
             +-----+   +-----+
       Low --+ AND +---+ NOT +-- Valve
      High --+     |   +-----+
             +-----+",
    ),
    (
        "exclusive or",
        "Valve := Low XOR High;",
        "
             +-----+
       Low --+ XOR +-- Valve
      High --+     |
             +-----+",
    ),
    (
        "a box that feeds two",
        "Valve := Low AND High; Alarm := Valve OR Rinse;",
        "
             +-----+
       Low --+ AND +-- Valve
      High --+     |
             +-----+

              +----+
      Valve --+ OR +-- Alarm
      Rinse --+    |
              +----+",
    ),
    (
        "a comparison",
        "Valve := Flow > 12 AND Low;",
        "
             +----+         +-----+
      Flow --+ GT +---------+ AND +-- Valve
        12 --+    |   Low --+     |
             +----+         +-----+",
    ),
    (
        "sums and products",
        "Sum := Flow + Level * Size;",
        "
                               +-----+
              +-----+   Flow --+ ADD +-- Sum
      Level --+ MUL +----------+     |
       Size --+     |          +-----+
              +-----+",
    ),
    (
        "a limit",
        "Sum := LIMIT(0, Flow, 100);",
        "
             +---------+
         0 --+MN LIMIT +-- Sum
      Flow --+IN       |
       100 --+MX       |
             +---------+",
    ),
    (
        "a choice",
        "Sum := SEL(Low, Flow, Level);",
        "
              +------+
        Low --+G SEL +-- Sum
       Flow --+IN0   |
      Level --+IN1   |
              +------+",
    ),
    (
        "IF and ELSE",
        "IF Low THEN Sum := Flow; ELSE Sum := Level; END_IF;",
        "
             +-----------+
       Low --+EN MOVE ENO|
      Flow --+           +-- Sum
             +-----------+

            +-----+           +-----------+
      Low --+ NOT +-----------+EN MOVE ENO|
            +-----+   Level --+           +-- Sum
                              +-----------+",
    ),
    (
        "IF around a coil",
        "IF Low THEN Valve := TRUE; END_IF;",
        "
             +-----------+
       Low --+EN MOVE ENO|
      TRUE --+           +-- Valve
             +-----------+",
    ),
    (
        "a timer",
        "Soak(IN := Low AND NOT High, PT := T#5s); Valve := Soak.Q;",
        "
                                  Soak
              +-----+          +--------+
        Low --+ AND +----------+IN TON Q+-- Valve
      High --o+     |   T#5s --+PT    ET|
              +-----+          +--------+",
    ),
    (
        "a counter",
        "Shots(CU := Rinse, R := Ack, PV := 6); Alarm := Shots.Q; Count := Shots.CV;",
        "
                Shots
              +--------+
      Rinse --+CU CTU Q+-- Alarm
        Ack --+R     CV+-- Count
          6 --+PV      |
              +--------+",
    ),
    (
        "a latch block",
        "Latch(S1 := Low, R := High); Valve := Latch.Q1;",
        "
               Latch
             +--------+
       Low --+S1 SR Q1+-- Valve
      High --+R       |
             +--------+",
    ),
    (
        "a conversion",
        "Mean := INT_TO_REAL(Flow) / 2.0;",
        "
             +-------------+         +-----+
      Flow --+ INT_TO_REAL +---------+ DIV +-- Mean
             +-------------+   2.0 --+     |
                                     +-----+",
    ),
    (
        "RETURN",
        "IF Low THEN RETURN; END_IF; Valve := High;",
        "
      Low ---<RETURN>

      High --- Valve",
    ),
];

#[test]
fn texts_as_blocks() {
    hold(BLOCKS, Language::St, Language::Fbd);
}
