//! Latches, edges and memory.

use super::{Device, Row, hold};

const DEVICES: &[Device] = &[
    (
        "a latch that sets first",
        "L : SR;",
        "L(S1 := Run, R := Reset);
On := L.Q1;",
    ),
    (
        "a latch that resets first",
        "L : RS;",
        "L(S := Run, R1 := Reset);
On := L.Q1;",
    ),
    (
        "a rising edge",
        "E : R_TRIG;",
        "E(CLK := Run);
On := E.Q;",
    ),
    (
        "a falling edge",
        "E : F_TRIG;",
        "E(CLK := Run);
On := E.Q;",
    ),
    (
        "a kept number",
        "Kept : INT;",
        "IF Run THEN
Kept := Kept + 1;
END_IF;
N := Kept;",
    ),
];

const ROWS: &[Row] = &[
    (
        "a latch that sets first",
        "byte-bit",
        "
L : SET_WINS;
    L(ON := Run, OFF := Reset);
    On := L.OUT;
L10 exact: `L` became a `SET_WINS`: latch, set wins",
    ),
    (
        "a latch that sets first",
        "flat-register",
        "
    L(S1 := Run, R := Reset);
    On := L.Q1;
L11 carried: `L`: the iec latch, set wins comes along as the block `SR`",
    ),
    (
        "a latch that sets first",
        "octal-coil",
        "
    L(S1 := Run, R := Reset);
    On := L.Q1;
L11 carried: `L`: the iec latch, set wins comes along as the block `SR`",
    ),
    (
        "a latch that sets first",
        "point-block",
        "
    L(S1 := Run, R := Reset);
    On := L.Q1;
L11 carried: `L`: the iec latch, set wins comes along as the block `SR`",
    ),
    (
        "a latch that sets first",
        "status-word",
        "
    L(S1 := Run, R := Reset);
    On := L.Q1;
L11 carried: `L`: the iec latch, set wins comes along as the block `SR`",
    ),
    (
        "a latch that sets first",
        "word-bit",
        "
L AT HOOK000 : LATCHED;
    L(ON := Run, OFF := Reset AND NOT Run);
    On := L;
L10 exact: `L` became a `LATCHED`: latch, reset wins
L22 exact: `set` still wins: `reset` is held off while it is on
L21 conditional: `L`: it keeps its state over a power cycle, and did not before
it differs, as foretold",
    ),
    (
        "a latch that resets first",
        "byte-bit",
        "
L : RESET_WINS;
    L(ON := Run, OFF := Reset);
    On := L.OUT;
L10 exact: `L` became a `RESET_WINS`: latch, reset wins",
    ),
    (
        "a latch that resets first",
        "flat-register",
        "
    L(S := Run, R1 := Reset);
    On := L.Q1;
L11 carried: `L`: the iec latch, reset wins comes along as the block `RS`",
    ),
    (
        "a latch that resets first",
        "octal-coil",
        "
    L(S := Run, R1 := Reset);
    On := L.Q1;
L11 carried: `L`: the iec latch, reset wins comes along as the block `RS`",
    ),
    (
        "a latch that resets first",
        "point-block",
        "
    L(S := Run, R1 := Reset);
    On := L.Q1;
L11 carried: `L`: the iec latch, reset wins comes along as the block `RS`",
    ),
    (
        "a latch that resets first",
        "status-word",
        "
    L(S := Run, R1 := Reset);
    On := L.Q1;
L11 carried: `L`: the iec latch, reset wins comes along as the block `RS`",
    ),
    (
        "a latch that resets first",
        "word-bit",
        "
L AT HOOK000 : LATCHED;
    L(ON := Run, OFF := Reset);
    On := L;
L10 exact: `L` became a `LATCHED`: latch, reset wins
L21 conditional: `L`: it keeps its state over a power cycle, and did not before
it differs, as foretold",
    ),
    (
        "a rising edge",
        "byte-bit",
        "
E : HAS_RISEN;
    E(LOOK := Run);
    On := E.OUT;
L10 exact: `E` became a `HAS_RISEN`: rising edge
L19 conditional: `E`: it answers FALSE in its first call, if the input stands there that way from the beginning
it differs, as foretold",
    ),
    (
        "a rising edge",
        "flat-register",
        "
    E(CLK := Run);
    On := E.Q;
L11 carried: `E`: the iec rising edge comes along as the block `R_TRIG`",
    ),
    (
        "a rising edge",
        "octal-coil",
        "
    E(CLK := Run);
    On := E.Q;
L11 carried: `E`: the iec rising edge comes along as the block `R_TRIG`",
    ),
    (
        "a rising edge",
        "point-block",
        "
    E(CLK := Run);
    On := E.Q;
L11 carried: `E`: the iec rising edge comes along as the block `R_TRIG`",
    ),
    (
        "a rising edge",
        "status-word",
        "
E AT SREC0 : RECORD_ONCE;
    E(LOOK := Run);
    On := E;
L10 exact: `E` became a `RECORD_ONCE`: one-shot
L21 conditional: `E`: it keeps its state over a power cycle, and did not before
it differs, as foretold",
    ),
    (
        "a rising edge",
        "word-bit",
        "
    E(CLK := Run);
    On := E.Q;
L11 carried: `E`: the iec rising edge comes along as the block `R_TRIG`",
    ),
    (
        "a falling edge",
        "byte-bit",
        "
E : HAS_FALLEN;
    E(LOOK := Run);
    On := E.OUT;
L10 exact: `E` became a `HAS_FALLEN`: falling edge
L19 conditional: `E`: it answers FALSE in its first call, if the input stands there that way from the beginning
it differs, as foretold",
    ),
    (
        "a falling edge",
        "flat-register",
        "
    E(CLK := Run);
    On := E.Q;
L11 carried: `E`: the iec falling edge comes along as the block `F_TRIG`",
    ),
    (
        "a falling edge",
        "octal-coil",
        "
    E(CLK := Run);
    On := E.Q;
L11 carried: `E`: the iec falling edge comes along as the block `F_TRIG`",
    ),
    (
        "a falling edge",
        "point-block",
        "
    E(CLK := Run);
    On := E.Q;
L11 carried: `E`: the iec falling edge comes along as the block `F_TRIG`",
    ),
    (
        "a falling edge",
        "status-word",
        "
    E(CLK := Run);
    On := E.Q;
L11 carried: `E`: the iec falling edge comes along as the block `F_TRIG`",
    ),
    (
        "a falling edge",
        "word-bit",
        "
    E(CLK := Run);
    On := E.Q;
L11 carried: `E`: the iec falling edge comes along as the block `F_TRIG`",
    ),
    (
        "a kept number",
        "byte-bit",
        "
    IF Run THEN
        Kept := Kept + 1;
    END_IF;
    N := Kept;",
    ),
    (
        "a kept number",
        "flat-register",
        "
    IF Run THEN
        Kept := Kept + 1;
    END_IF;
    N := Kept;",
    ),
    (
        "a kept number",
        "octal-coil",
        "
    IF Run THEN
        Kept := Kept + 1;
    END_IF;
    N := Kept;",
    ),
    (
        "a kept number",
        "point-block",
        "
    IF Run THEN
        Kept := Kept + 1;
    END_IF;
    N := Kept;",
    ),
    (
        "a kept number",
        "status-word",
        "
    IF Run THEN
        Kept := Kept + 1;
    END_IF;
    N := Kept;",
    ),
    (
        "a kept number",
        "word-bit",
        "
    IF Run THEN
        Kept := Kept + 1;
    END_IF;
    N := Kept;",
    ),
];

#[test]
fn others() {
    hold(DEVICES, ROWS);
}
