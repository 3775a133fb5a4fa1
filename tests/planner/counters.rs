//! Counters.

use super::{Device, Row, hold};

const DEVICES: &[Device] = &[
    (
        "an up counter",
        "C : CTU;",
        "C(CU := Run, R := Reset, PV := 5);
On := C.Q;
N := C.CV;",
    ),
    (
        "an up counter with a large preset",
        "C : CTU;",
        "C(CU := Run, R := Reset, PV := 12000);
On := C.Q;",
    ),
    (
        "an up counter with a preset from a variable",
        "C : CTU; Most : INT := 5;",
        "IF Reset THEN
Most := 7;
END_IF;
C(CU := Run, R := Reset, PV := Most);
On := C.Q;",
    ),
    (
        "a down counter",
        "C : CTD;",
        "C(CD := Run, LD := Reset, PV := 5);
On := C.Q;
N := C.CV;",
    ),
    (
        "a counter of both ways",
        "C : CTUD;",
        "C(CU := Run, CD := Reset, PV := 5);
On := C.QU;
N := C.CV;",
    ),
];

const ROWS: &[Row] = &[
    ("an up counter", "byte-bit", "
C : COUNT_UP;
    C(UP := Run, CLEAR := Reset, GOAL := 5);
    On := C.OUT;
    N := C.COUNT;
L10 exact: `C` became a `COUNT_UP`: up counter
L19 conditional: `C`: an input that is on when it first executes counts none, where it counted one before
L17 conditional: `C`: its count stays at 0 and 4000, where it stayed at 0 and 32767
it differs, as foretold"),
    ("an up counter", "flat-register", "
    C(CU := Run, R := Reset, PV := 5);
    On := C.Q;
    N := C.CV;
L11 carried: `C`: the iec up counter comes along as the block `CTU`"),
    ("an up counter", "octal-coil", "
C AT TALLY0 : COIL_COUNTER;
    C(COIL := Run, PRESET := 5, CLEAR := Reset);
    On := C;
    N := C;
L10 exact: `C` became a `COIL_COUNTER`: up counter
L17 conditional: `C`: its count stays at the preset, where it stayed at 0 and 32767
it differs, as foretold"),
    ("an up counter", "point-block", "
C AT CBLOCK1 : BLOCK_COUNTER;
    C(COUNT := Run, PRESET := 5, RESET := Reset);
    On := C >= 5;
    N := C;
L10 exact: `C` became a `BLOCK_COUNTER`: up counter
L19 conditional: `C`: an input that is on when it first executes counts none, where it counted one before
L18 exact: `C`: done is asked as a count at least the preset
it differs, as foretold"),
    ("an up counter", "status-word", "
C AT CREC0 : RECORD_COUNTER;
    C(UP := Run, GOAL := 5, CLEAR := Reset);
    On := C;
    N := C;
L10 exact: `C` became a `RECORD_COUNTER`: counter of both directions
L19 conditional: `C`: an input that is on when it first executes counts one only if it was off before the power went, where it counted one before
L21 conditional: `C`: it keeps its state over a power cycle, and did not before
L17 conditional: `C`: its count starts over beyond 32767, where it stayed at 0 and 32767
it differs, as foretold"),
    ("an up counter", "word-bit", "
C AT DUE320 : LEFT_COUNTER;
    C(COUNT := Run, RESET := Reset, PRESET := 5);
    On := C;
    N := 5 - C;
L10 exact: `C` became a `LEFT_COUNTER`: counter towards zero
L19 conditional: `C`: an input that is on when it first executes counts one only if it was off before the power went, where it counted one before
L21 conditional: `C`: it keeps its state over a power cycle, and did not before
L17 conditional: `C`: its count stays at the preset, where it stayed at 0 and 32767
L16 conditional: `C`: what is read of it is reckoned from the preset: before it first executes, and where the preset changes, that is not the same
it differs, as foretold"),
    ("an up counter with a large preset", "byte-bit", "
    C(CU := Run, R := Reset, PV := 12000);
    On := C.Q;
L11 carried: `C`: the iec up counter comes along as the block `CTU`"),
    ("an up counter with a large preset", "flat-register", "
    C(CU := Run, R := Reset, PV := 12000);
    On := C.Q;
L11 carried: `C`: the iec up counter comes along as the block `CTU`"),
    ("an up counter with a large preset", "octal-coil", "
C AT TALLY0 : COIL_COUNTER;
    C(COIL := Run, PRESET := 12000, CLEAR := Reset);
    On := C;
L10 exact: `C` became a `COIL_COUNTER`: up counter"),
    ("an up counter with a large preset", "point-block", "
C AT CBLOCK1 : BLOCK_COUNTER;
    C(COUNT := Run, PRESET := 12000, RESET := Reset);
    On := C >= 12000;
L10 exact: `C` became a `BLOCK_COUNTER`: up counter
L19 conditional: `C`: an input that is on when it first executes counts none, where it counted one before
L18 exact: `C`: done is asked as a count at least the preset
it differs, as foretold"),
    ("an up counter with a large preset", "status-word", "
C AT CREC0 : RECORD_COUNTER;
    C(UP := Run, GOAL := 12000, CLEAR := Reset);
    On := C;
L10 exact: `C` became a `RECORD_COUNTER`: counter of both directions
L19 conditional: `C`: an input that is on when it first executes counts one only if it was off before the power went, where it counted one before
L21 conditional: `C`: it keeps its state over a power cycle, and did not before
L17 conditional: `C`: its count starts over beyond 32767, where it stayed at 0 and 32767"),
    ("an up counter with a large preset", "word-bit", "
    C(CU := Run, R := Reset, PV := 12000);
    On := C.Q;
L11 carried: `C`: the iec up counter comes along as the block `CTU`"),
    ("an up counter with a preset from a variable", "byte-bit", "
C : COUNT_UP;
    IF Reset THEN
        Most := 7;
    END_IF;
    C(UP := Run, CLEAR := Reset, GOAL := Most);
    On := C.OUT;
L10 exact: `C` became a `COUNT_UP`: up counter
L17 conditional: `C`: its preset is a variable; the same as long as that is at most 4000
L19 conditional: `C`: an input that is on when it first executes counts none, where it counted one before
it differs, as foretold"),
    ("an up counter with a preset from a variable", "flat-register", "
    IF Reset THEN
        Most := 7;
    END_IF;
    C(CU := Run, R := Reset, PV := Most);
    On := C.Q;
L11 carried: `C`: the iec up counter comes along as the block `CTU`"),
    ("an up counter with a preset from a variable", "octal-coil", "
C AT TALLY0 : COIL_COUNTER;
    IF Reset THEN
        Most := 7;
    END_IF;
    C(COIL := Run, PRESET := Most, CLEAR := Reset);
    On := C;
L10 exact: `C` became a `COIL_COUNTER`: up counter"),
    ("an up counter with a preset from a variable", "point-block", "
C AT CBLOCK1 : BLOCK_COUNTER;
    IF Reset THEN
        Most := 7;
    END_IF;
    C(COUNT := Run, PRESET := Most, RESET := Reset);
    On := C >= Most;
L10 exact: `C` became a `BLOCK_COUNTER`: up counter
L19 conditional: `C`: an input that is on when it first executes counts none, where it counted one before
L18 conditional: `C`: done is asked as a count at least the preset; the same once it has executed
it differs, as foretold"),
    ("an up counter with a preset from a variable", "status-word", "
C AT CREC0 : RECORD_COUNTER;
    IF Reset THEN
        Most := 7;
    END_IF;
    C(UP := Run, GOAL := Most, CLEAR := Reset);
    On := C;
L10 exact: `C` became a `RECORD_COUNTER`: counter of both directions
L19 conditional: `C`: an input that is on when it first executes counts one only if it was off before the power went, where it counted one before
L21 conditional: `C`: it keeps its state over a power cycle, and did not before
L17 conditional: `C`: its count starts over beyond 32767, where it stayed at 0 and 32767
it differs, as foretold"),
    ("an up counter with a preset from a variable", "word-bit", "
C AT DUE320 : LEFT_COUNTER;
    IF Reset THEN
        Most := 7;
    END_IF;
    C(COUNT := Run, RESET := Reset, PRESET := Most);
    On := C;
L10 exact: `C` became a `LEFT_COUNTER`: counter towards zero
L17 conditional: `C`: its preset is a variable; the same as long as that is at most 9999
L19 conditional: `C`: an input that is on when it first executes counts one only if it was off before the power went, where it counted one before
L21 conditional: `C`: it keeps its state over a power cycle, and did not before
it differs, as foretold"),
    ("a down counter", "byte-bit", "
C : COUNT_DOWN;
    C(DOWN := Run, FILL := Reset, GOAL := 5);
    On := C.OUT;
    N := C.COUNT;
L10 exact: `C` became a `COUNT_DOWN`: down counter
L19 conditional: `C`: an input that is on when it first executes counts none, where it counted one before
L17 conditional: `C`: its count stays at 0 and 4000, where it stayed at -32768 and 32767
it differs, as foretold"),
    ("a down counter", "flat-register", "
    C(CD := Run, LD := Reset, PV := 5);
    On := C.Q;
    N := C.CV;
L11 carried: `C`: the iec down counter comes along as the block `CTD`"),
    ("a down counter", "octal-coil", "
    C(CD := Run, LD := Reset, PV := 5);
    On := C.Q;
    N := C.CV;
L11 carried: `C`: the iec down counter comes along as the block `CTD`"),
    ("a down counter", "point-block", "
    C(CD := Run, LD := Reset, PV := 5);
    On := C.Q;
    N := C.CV;
L11 carried: `C`: the iec down counter comes along as the block `CTD`"),
    ("a down counter", "status-word", "
    C(CD := Run, LD := Reset, PV := 5);
    On := C.Q;
    N := C.CV;
L11 carried: `C`: the iec down counter comes along as the block `CTD`"),
    ("a down counter", "word-bit", "
    C(CD := Run, LD := Reset, PV := 5);
    On := C.Q;
    N := C.CV;
L11 carried: `C`: the iec down counter comes along as the block `CTD`"),
    ("a counter of both ways", "byte-bit", "
C : COUNT_BOTH;
    C(UP := Run, DOWN := Reset, GOAL := 5);
    On := C.OUT;
    N := C.COUNT;
L10 exact: `C` became a `COUNT_BOTH`: up/down counter
L19 conditional: `C`: an input that is on when it first executes counts none, where it counted one before
L17 conditional: `C`: its count stays at 0 and 4000, where it stayed at -32768 and 32767
it differs, as foretold"),
    ("a counter of both ways", "flat-register", "
    C(CU := Run, CD := Reset, PV := 5);
    On := C.QU;
    N := C.CV;
L11 carried: `C`: the iec up/down counter comes along as the block `CTUD`"),
    ("a counter of both ways", "octal-coil", "
C AT TALLY160 : COIL_TWO_WAY;
    C(COIL := Run OR Reset, UPWARD := Run, PRESET := 5);
    On := C;
    N := C;
L10 exact: `C` became a `COIL_TWO_WAY`: counter with a direction
L20 conditional: `C`: one count input with a direction: an edge of one input while the other is on is not counted
it differs, as foretold"),
    ("a counter of both ways", "point-block", "
C AT CBLOCK65 : BLOCK_COUNTER;
    C(COUNT := Run OR Reset, PRESET := 5, DIRECTION := Run);
    On := C >= 5;
    N := C;
L10 exact: `C` became a `BLOCK_COUNTER`: counter with a direction
L19 conditional: `C`: an input that is on when it first executes counts none, where it counted one before
L20 conditional: `C`: one count input with a direction: an edge of one input while the other is on is not counted
L18 exact: `C`: done is asked as a count at least the preset
it differs, as foretold"),
    ("a counter of both ways", "status-word", "
C AT CREC0 : RECORD_COUNTER;
    C(UP := Run, DOWN := Reset, GOAL := 5);
    On := C;
    N := C;
L10 exact: `C` became a `RECORD_COUNTER`: counter of both directions
L19 conditional: `C`: an input that is on when it first executes counts one only if it was off before the power went, where it counted one before
L21 conditional: `C`: it keeps its state over a power cycle, and did not before
L17 conditional: `C`: its count starts over beyond 32767, where it stayed at -32768 and 32767
it differs, as foretold"),
    ("a counter of both ways", "word-bit", "
    C(CU := Run, CD := Reset, PV := 5);
    On := C.QU;
    N := C.CV;
L11 carried: `C`: the iec up/down counter comes along as the block `CTUD`"),
];

#[test]
fn counters() {
    hold(DEVICES, ROWS);
}
