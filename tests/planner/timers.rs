//! Timers.

use super::{Device, Row, hold};

const DEVICES: &[Device] = &[
    (
        "an on-delay of five seconds",
        "T : TON;",
        "T(IN := Run, PT := T#5s);
On := T.Q;",
    ),
    (
        "an on-delay finer than a tick",
        "T : TON;",
        "T(IN := Run, PT := T#1234ms);
On := T.Q;",
    ),
    (
        "an on-delay longer than a number of ticks",
        "T : TON;",
        "T(IN := Run, PT := T#2h);
On := T.Q;",
    ),
    (
        "an on-delay whose elapsed time is compared",
        "T : TON;",
        "T(IN := Run, PT := T#5s);
On := T.ET >= T#2s;",
    ),
    (
        "an on-delay with a preset from a variable",
        "T : TON; Span : TIME := T#3s;",
        "IF Reset THEN
Span := T#4s;
END_IF;
T(IN := Run, PT := Span);
On := T.Q;",
    ),
    (
        "an on-delay that restarts itself",
        "T : TON;",
        "T(IN := Run AND NOT T.Q, PT := T#1s);
On := T.Q;",
    ),
    (
        "an on-delay behind a decision",
        "T : TON;",
        "IF Reset THEN
T(IN := Run, PT := T#1s);
END_IF;
On := T.Q;",
    ),
    (
        "an off-delay",
        "T : TOF;",
        "T(IN := Run, PT := T#3s);
On := T.Q;",
    ),
    (
        "a pulse",
        "T : TP;",
        "T(IN := Run, PT := T#500ms);
On := T.Q;",
    ),
];

const ROWS: &[Row] = &[
    ("an on-delay of five seconds", "byte-bit", "
T : DELAY_ON;
    T(GO := Run, SPAN := T#5s);
    On := T.OUT;
L10 exact: `T` became a `DELAY_ON`: 5s became 5s
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before"),
    ("an on-delay of five seconds", "flat-register", "
T AT REG1 : REGISTER_DELAY;
    T(RUN := Run, PRESET := 50);
    On := T;
L10 exact: `T` became a `REGISTER_DELAY`: 5s became 50 ticks of 100ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 100ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("an on-delay of five seconds", "octal-coil", "
T AT DELAY160 : COIL_TIMER;
    T(COIL := Run, PRESET := 500);
    On := T;
L10 exact: `T` became a `COIL_TIMER`: 5s became 500 ticks of 10ms"),
    ("an on-delay of five seconds", "point-block", "
T AT TBLOCK1 : BLOCK_DELAY;
    T(TRIGGER := Run, PRESET := 500);
    On := T;
L10 exact: `T` became a `BLOCK_DELAY`: 5s became 500 ticks of 10ms"),
    ("an on-delay of five seconds", "status-word", "
T AT TREC0 : RECORD_DELAY;
    T(RUN := Run, GOAL := 500);
    On := T;
L10 exact: `T` became a `RECORD_DELAY`: 5s became 500 ticks of 10ms
L14 approximate: `T`: its done bit changes one scan later
it differs, as foretold"),
    ("an on-delay of five seconds", "word-bit", "
T AT DUE240 : LEFT_TIMER;
    T(RUN := Run, PRESET := 500);
    On := T;
L10 exact: `T` became a `LEFT_TIMER`: 5s became 500 ticks of 10ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 10ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before"),
    ("an on-delay finer than a tick", "byte-bit", "
T : DELAY_ON;
    T(GO := Run, SPAN := T#1s230ms);
    On := T.OUT;
L12 approximate: `T` became a `DELAY_ON`: 1s234ms became 1s230ms, which is 4ms short
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("an on-delay finer than a tick", "flat-register", "
T AT REG1 : REGISTER_DELAY;
    T(RUN := Run, PRESET := 12);
    On := T;
L12 approximate: `T` became a `REGISTER_DELAY`: 1s234ms became 12 ticks of 100ms, which is 34ms short
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 100ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("an on-delay finer than a tick", "octal-coil", "
T AT DELAY160 : COIL_TIMER;
    T(COIL := Run, PRESET := 123);
    On := T;
L12 approximate: `T` became a `COIL_TIMER`: 1s234ms became 123 ticks of 10ms, which is 4ms short
it differs, as foretold"),
    ("an on-delay finer than a tick", "point-block", "
T AT TBLOCK1 : BLOCK_DELAY;
    T(TRIGGER := Run, PRESET := 123);
    On := T;
L12 approximate: `T` became a `BLOCK_DELAY`: 1s234ms became 123 ticks of 10ms, which is 4ms short
it differs, as foretold"),
    ("an on-delay finer than a tick", "status-word", "
T AT TREC0 : RECORD_DELAY;
    T(RUN := Run, GOAL := 123);
    On := T;
L12 approximate: `T` became a `RECORD_DELAY`: 1s234ms became 123 ticks of 10ms, which is 4ms short
L14 approximate: `T`: its done bit changes one scan later
it differs, as foretold"),
    ("an on-delay finer than a tick", "word-bit", "
T AT DUE240 : LEFT_TIMER;
    T(RUN := Run, PRESET := 123);
    On := T;
L12 approximate: `T` became a `LEFT_TIMER`: 1s234ms became 123 ticks of 10ms, which is 4ms short
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 10ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("an on-delay longer than a number of ticks", "byte-bit", "
T : DELAY_ON;
    T(GO := Run, SPAN := T#2h);
    On := T.OUT;
L10 exact: `T` became a `DELAY_ON`: 2h became 2h
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before"),
    ("an on-delay longer than a number of ticks", "flat-register", "
    T(IN := Run, PT := T#2h);
    On := T.Q;
L11 carried: `T`: the iec on-delay comes along as the block `TON`"),
    ("an on-delay longer than a number of ticks", "octal-coil", "
    T(IN := Run, PT := T#2h);
    On := T.Q;
L11 carried: `T`: the iec on-delay comes along as the block `TON`"),
    ("an on-delay longer than a number of ticks", "point-block", "
    T(IN := Run, PT := T#2h);
    On := T.Q;
L11 carried: `T`: the iec on-delay comes along as the block `TON`"),
    ("an on-delay longer than a number of ticks", "status-word", "
T AT TREC100 : RECORD_SLOW;
    T(RUN := Run, GOAL := 7200);
    On := T;
L10 exact: `T` became a `RECORD_SLOW`: 2h became 7200 ticks of 1s
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 1s early
L14 approximate: `T`: its done bit changes one scan later
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before"),
    ("an on-delay longer than a number of ticks", "word-bit", "
    T(IN := Run, PT := T#2h);
    On := T.Q;
L11 carried: `T`: the iec on-delay comes along as the block `TON`"),
    ("an on-delay whose elapsed time is compared", "byte-bit", "
T : DELAY_ON;
    T(GO := Run, SPAN := T#5s);
    On := T.PASSED >= T#2s;
L10 exact: `T` became a `DELAY_ON`: 5s became 5s
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
L16 approximate: `T`: its elapsed time moves in steps of 10ms, where they were 1ms"),
    ("an on-delay whose elapsed time is compared", "flat-register", "
T AT REG1 : REGISTER_DELAY;
    T(RUN := Run, PRESET := 50);
    On := T#100ms * T >= T#2s;
L10 exact: `T` became a `REGISTER_DELAY`: 5s became 50 ticks of 100ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 100ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
L16 approximate: `T`: its elapsed time moves in steps of 100ms, where they were 1ms
it differs, as foretold"),
    ("an on-delay whose elapsed time is compared", "octal-coil", "
T AT DELAY160 : COIL_TIMER;
    T(COIL := Run, PRESET := 500);
    On := T#10ms * T >= T#2s;
L10 exact: `T` became a `COIL_TIMER`: 5s became 500 ticks of 10ms
L16 approximate: `T`: its elapsed time moves in steps of 10ms, where they were 1ms"),
    ("an on-delay whose elapsed time is compared", "point-block", "
T AT TBLOCK1 : BLOCK_DELAY;
    T(TRIGGER := Run, PRESET := 500);
    On := MIN(T#10ms * T, T#5s) >= T#2s;
L10 exact: `T` became a `BLOCK_DELAY`: 5s became 500 ticks of 10ms
L16 approximate: `T`: its elapsed time moves in steps of 10ms, where they were 1ms
L16 exact: `T`: its elapsed time runs on past the preset; it is read as at most the preset, where it stayed"),
    ("an on-delay whose elapsed time is compared", "status-word", "
T AT TREC0 : RECORD_DELAY;
    T(RUN := Run, GOAL := 500);
    On := T#10ms * T >= T#2s;
L10 exact: `T` became a `RECORD_DELAY`: 5s became 500 ticks of 10ms
L14 approximate: `T`: its done bit changes one scan later
L16 approximate: `T`: its elapsed time moves in steps of 10ms, where they were 1ms"),
    ("an on-delay whose elapsed time is compared", "word-bit", "
T AT DUE240 : LEFT_TIMER;
    T(RUN := Run, PRESET := 500);
    On := T#10ms * (500 - T) >= T#2s;
L10 exact: `T` became a `LEFT_TIMER`: 5s became 500 ticks of 10ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 10ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
L16 approximate: `T`: its elapsed time moves in steps of 10ms, where they were 1ms
L16 conditional: `T`: what is read of it is reckoned from the preset: before it first executes, and where the preset changes, that is not the same"),
    ("an on-delay with a preset from a variable", "byte-bit", "
T : DELAY_ON;
    IF Reset THEN
        Span := T#4s;
    END_IF;
    T(GO := Run, SPAN := Span);
    On := T.OUT;
L12 approximate: `T`: its preset is a variable, and is cut to whole 10ms
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before"),
    ("an on-delay with a preset from a variable", "flat-register", "
T AT REG1 : REGISTER_DELAY;
    IF Reset THEN
        Span := T#4s;
    END_IF;
    T(RUN := Run, PRESET := LINT_TO_INT(TIME_TO_LINT(Span) / 100));
    On := T;
L12 approximate: `T`: its preset is a variable, and is cut to whole 100ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 100ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("an on-delay with a preset from a variable", "octal-coil", "
T AT DELAY160 : COIL_TIMER;
    IF Reset THEN
        Span := T#4s;
    END_IF;
    T(COIL := Run, PRESET := LINT_TO_INT(TIME_TO_LINT(Span) / 10));
    On := T;
L12 approximate: `T`: its preset is a variable, and is cut to whole 10ms"),
    ("an on-delay with a preset from a variable", "point-block", "
T AT TBLOCK1 : BLOCK_DELAY;
    IF Reset THEN
        Span := T#4s;
    END_IF;
    T(TRIGGER := Run, PRESET := LINT_TO_INT(TIME_TO_LINT(Span) / 10));
    On := T;
L12 approximate: `T`: its preset is a variable, and is cut to whole 10ms"),
    ("an on-delay with a preset from a variable", "status-word", "
T AT TREC0 : RECORD_DELAY;
    IF Reset THEN
        Span := T#4s;
    END_IF;
    T(RUN := Run, GOAL := LINT_TO_INT(TIME_TO_LINT(Span) / 10));
    On := T;
L12 approximate: `T`: its preset is a variable, and is cut to whole 10ms
L14 approximate: `T`: its done bit changes one scan later
it differs, as foretold"),
    ("an on-delay with a preset from a variable", "word-bit", "
T AT DUE240 : LEFT_TIMER;
    IF Reset THEN
        Span := T#4s;
    END_IF;
    T(RUN := Run, PRESET := LINT_TO_INT(TIME_TO_LINT(Span) / 10));
    On := T;
L12 approximate: `T`: its preset is a variable, and is cut to whole 10ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 10ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("an on-delay that restarts itself", "byte-bit", "
T : DELAY_ON;
    T(GO := Run AND NOT T.OUT, SPAN := T#1s);
    On := T.OUT;
L10 exact: `T` became a `DELAY_ON`: 1s became 1s
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before"),
    ("an on-delay that restarts itself", "flat-register", "
T AT REG1 : REGISTER_DELAY;
    T(RUN := Run AND NOT T, PRESET := 10);
    On := T;
L10 exact: `T` became a `REGISTER_DELAY`: 1s became 10 ticks of 100ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 100ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("an on-delay that restarts itself", "octal-coil", "
T AT DELAY160 : COIL_TIMER;
    T(COIL := Run AND NOT T, PRESET := 100);
    On := T;
L10 exact: `T` became a `COIL_TIMER`: 1s became 100 ticks of 10ms"),
    ("an on-delay that restarts itself", "point-block", "
T AT TBLOCK1 : BLOCK_DELAY;
    T(TRIGGER := Run AND NOT T, PRESET := 100);
    On := T;
L10 exact: `T` became a `BLOCK_DELAY`: 1s became 100 ticks of 10ms"),
    ("an on-delay that restarts itself", "status-word", "
T AT TREC0 : RECORD_DELAY;
    T(RUN := Run AND NOT T, GOAL := 100);
    On := T;
L10 exact: `T` became a `RECORD_DELAY`: 1s became 100 ticks of 10ms
L14 approximate: `T`: its done bit changes one scan later
it differs, as foretold"),
    ("an on-delay that restarts itself", "word-bit", "
T AT DUE240 : LEFT_TIMER;
    T(RUN := Run AND NOT T, PRESET := 100);
    On := T;
L10 exact: `T` became a `LEFT_TIMER`: 1s became 100 ticks of 10ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 10ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before"),
    ("an on-delay behind a decision", "byte-bit", "
T : DELAY_ON;
    IF Reset THEN
        T(GO := Run, SPAN := T#1s);
    END_IF;
    On := T.OUT;
L10 exact: `T` became a `DELAY_ON`: 1s became 1s
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("an on-delay behind a decision", "flat-register", "
T AT REG1 : REGISTER_DELAY;
    IF Reset THEN
        T(RUN := Run, PRESET := 10);
    END_IF;
    On := T;
L10 exact: `T` became a `REGISTER_DELAY`: 1s became 10 ticks of 100ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 100ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("an on-delay behind a decision", "octal-coil", "
T AT DELAY160 : COIL_TIMER;
    IF Reset THEN
        T(COIL := Run, PRESET := 100);
    END_IF;
    On := T;
L10 exact: `T` became a `COIL_TIMER`: 1s became 100 ticks of 10ms"),
    ("an on-delay behind a decision", "point-block", "
T AT TBLOCK1 : BLOCK_DELAY;
    IF Reset THEN
        T(TRIGGER := Run, PRESET := 100);
    END_IF;
    On := T;
L10 exact: `T` became a `BLOCK_DELAY`: 1s became 100 ticks of 10ms"),
    ("an on-delay behind a decision", "status-word", "
T AT TREC0 : RECORD_DELAY;
    IF Reset THEN
        T(RUN := Run, GOAL := 100);
    END_IF;
    On := T;
L10 exact: `T` became a `RECORD_DELAY`: 1s became 100 ticks of 10ms
L14 approximate: `T`: its done bit changes one scan later
it differs, as foretold"),
    ("an on-delay behind a decision", "word-bit", "
T AT DUE240 : LEFT_TIMER;
    IF Reset THEN
        T(RUN := Run, PRESET := 100);
    END_IF;
    On := T;
L10 exact: `T` became a `LEFT_TIMER`: 1s became 100 ticks of 10ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 10ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("an off-delay", "byte-bit", "
T : DELAY_OFF;
    T(GO := Run, SPAN := T#3s);
    On := T.OUT;
L10 exact: `T` became a `DELAY_OFF`: 3s became 3s
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before"),
    ("an off-delay", "flat-register", "
    T(IN := Run, PT := T#3s);
    On := T.Q;
L11 carried: `T`: the iec off-delay comes along as the block `TOF`"),
    ("an off-delay", "octal-coil", "
    T(IN := Run, PT := T#3s);
    On := T.Q;
L11 carried: `T`: the iec off-delay comes along as the block `TOF`"),
    ("an off-delay", "point-block", "
T AT TBLOCK65 : BLOCK_LAG;
    T(TRIGGER := Run, PRESET := 300);
    On := T;
L10 exact: `T` became a `BLOCK_LAG`: 3s became 300 ticks of 10ms"),
    ("an off-delay", "status-word", "
T AT TREC150 : RECORD_LAG;
    T(RUN := Run, GOAL := 300);
    On := T;
L10 exact: `T` became a `RECORD_LAG`: 3s became 300 ticks of 10ms
L14 approximate: `T`: its done bit changes one scan later
it differs, as foretold"),
    ("an off-delay", "word-bit", "
    T(IN := Run, PT := T#3s);
    On := T.Q;
L11 carried: `T`: the iec off-delay comes along as the block `TOF`"),
    ("a pulse", "byte-bit", "
T : PULSE_OUT;
    T(GO := Run, SPAN := T#500ms);
    On := T.OUT;
L10 exact: `T` became a `PULSE_OUT`: 500ms became 500ms
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before"),
    ("a pulse", "flat-register", "
T AT REG1 : REGISTER_PULSE;
    T(RUN := Run, PRESET := 5);
    On := T;
L10 exact: `T` became a `REGISTER_PULSE`: 500ms became 5 ticks of 100ms
L13 approximate: `T`: its ticks run on through the scans, so it is done up to 100ms early
L15 conditional: `T`: in a scan that does not execute it (it is jumped over) it stands still, where it went on before
it differs, as foretold"),
    ("a pulse", "octal-coil", "
    T(IN := Run, PT := T#500ms);
    On := T.Q;
L11 carried: `T`: the iec pulse comes along as the block `TP`"),
    ("a pulse", "point-block", "
T AT TBLOCK129 : BLOCK_PULSE;
    T(TRIGGER := Run, PRESET := 50);
    On := T;
L10 exact: `T` became a `BLOCK_PULSE`: 500ms became 50 ticks of 10ms"),
    ("a pulse", "status-word", "
    T(IN := Run, PT := T#500ms);
    On := T.Q;
L11 carried: `T`: the iec pulse comes along as the block `TP`"),
    ("a pulse", "word-bit", "
    T(IN := Run, PT := T#500ms);
    On := T.Q;
L11 carried: `T`: the iec pulse comes along as the block `TP`"),
];

#[test]
fn timers() {
    hold(DEVICES, ROWS);
}
