//! Pairs in which one version keeps what the other computes of what it keeps: a number and its digits, a limit that is asked before or
//! after a value is kept, a count and the bits that it counts. Each kind once as it should be, and mostly once with a slip.

use super::decided::{
    Row,
    Wanted::{Differs, Same},
};

const DOSES: &str = "VAR_INPUT Dose, Clear : BOOL; END_VAR VAR_OUTPUT Due : BOOL; Given : UDINT; END_VAR
    VAR All : UDINT; Low, High, Over : UINT; Edge : R_TRIG; END_VAR";

const LEVELS: &str = "VAR_INPUT Inlet, Outlet : INT; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR
    VAR Was, Before : BOOL; In1, Out1 : INT; END_VAR";

const TANKS: &str = "VAR_INPUT One, Two, Three, Clear : BOOL; END_VAR VAR_OUTPUT Full : BOOL; Count : INT; END_VAR
    VAR N : INT; F1, F2, F3 : BOOL; END_VAR";

const QUEUE: &str = "VAR_INPUT Request, Done : BOOL; END_VAR VAR_OUTPUT Waiting : INT; END_VAR VAR N : INT; First, Last : USINT; END_VAR";

const FEED: &str = "VAR_INPUT Small, Large, Clear : BOOL; END_VAR VAR_OUTPUT Fed : UDINT; Much : BOOL; END_VAR
    VAR Grams : UDINT; A, B : USINT; END_VAR";

const MIX: &str =
    "VAR_INPUT Warm : USINT; END_VAR VAR_OUTPUT Mean : UINT; END_VAR VAR Sum : UINT; W1, W2 : USINT; END_VAR";

pub(super) const KEPT: &[Row] = &[
    (
        "minutes and seconds, and seconds",
        DOSES,
        [
            "Edge(CLK := Dose); IF Clear THEN All := 0; ELSIF Edge.Q AND All < 3600 THEN All := All + 1; END_IF;
             Due := All >= 3600;",
            "Edge(CLK := Dose); IF Clear THEN High := 0; Low := 0; ELSIF Edge.Q AND High < 60 THEN Low := Low + 1;
             IF Low >= 60 THEN Low := 0; High := High + 1; END_IF; END_IF; Due := High >= 60;",
        ],
        Same,
    ),
    (
        "a number, and its three digits",
        DOSES,
        [
            "IF Dose AND All < 999 THEN All := All + 1; END_IF; Given := All; Due := All >= 500;",
            "IF Dose AND NOT (Over = 9 AND High = 9 AND Low = 9) THEN Low := Low + 1; IF Low > 9 THEN Low := 0;
             High := High + 1; IF High > 9 THEN High := 0; Over := Over + 1; END_IF; END_IF; END_IF;
             Given := Over * 100 + High * 10 + Low; Due := Over >= 5;",
        ],
        Same,
    ),
    (
        "a number, and its two digits of which the second is one too long",
        DOSES,
        [
            "IF Dose AND All < 99 THEN All := All + 1; END_IF; Given := All;",
            "IF Dose AND NOT (High = 9 AND Low = 9) THEN Low := Low + 1; IF Low > 10 THEN Low := 0;
             High := High + 1; END_IF; END_IF; Given := High * 10 + Low;",
        ],
        Differs,
    ),
    (
        "a limit asked before a level is kept, or after",
        LEVELS,
        [
            "Alarm := Was; Was := DINT#0 + Inlet + Outlet > 100;",
            "Alarm := DINT#0 + In1 + Out1 > 100; In1 := Inlet; Out1 := Outlet;",
        ],
        Same,
    ),
    (
        "a limit asked before a level is kept, or after, two scans late",
        LEVELS,
        [
            "Alarm := Before; Before := Was; Was := Inlet > Outlet;",
            "Alarm := Was; Was := In1 > Out1; In1 := Inlet; Out1 := Outlet;",
        ],
        Same,
    ),
    (
        "a limit asked of a level that is a scan older",
        LEVELS,
        [
            "Alarm := Was; Was := Inlet > Outlet;",
            "Alarm := In1 > Out1; Out1 := Outlet; IF Inlet > 0 THEN In1 := Inlet; END_IF;",
        ],
        Differs,
    ),
    (
        "tanks that are full, and how many",
        TANKS,
        [
            "IF Clear THEN N := 0; F1 := FALSE; F2 := FALSE; F3 := FALSE; ELSE
             IF One AND NOT F1 THEN F1 := TRUE; N := N + 1; END_IF; IF Two AND NOT F2 THEN F2 := TRUE; N := N + 1; END_IF;
             IF Three AND NOT F3 THEN F3 := TRUE; N := N + 1; END_IF; END_IF; Count := N; Full := N = 3;",
            "IF Clear THEN F1 := FALSE; F2 := FALSE; F3 := FALSE; ELSE F1 := F1 OR One; F2 := F2 OR Two; F3 := F3 OR Three; END_IF;
             Count := BOOL_TO_INT(F1) + BOOL_TO_INT(F2) + BOOL_TO_INT(F3); Full := F1 AND F2 AND F3;",
        ],
        Same,
    ),
    (
        "requests that wait, and the ends of the queue",
        QUEUE,
        [
            "IF Request AND N < 20 THEN N := N + 1; ELSIF Done AND N > 0 THEN N := N - 1; END_IF; Waiting := N;",
            "IF Request AND First - Last < 20 THEN First := First + 1; ELSIF Done AND First <> Last THEN Last := Last + 1; END_IF;
             Waiting := USINT_TO_INT(First - Last);",
        ],
        Same,
    ),
    (
        "requests that wait, and the ends of a queue that has room for one more",
        QUEUE,
        [
            "IF Request AND N < 20 THEN N := N + 1; ELSIF Done AND N > 0 THEN N := N - 1; END_IF; Waiting := N;",
            "IF Request AND First - Last <= 20 THEN First := First + 1; ELSIF Done AND First <> Last THEN Last := Last + 1; END_IF;
             Waiting := USINT_TO_INT(First - Last);",
        ],
        Differs,
    ),
    (
        "grams that were fed, and doses of two kinds",
        FEED,
        [
            "IF Clear THEN Grams := 0; A := 0; B := 0; ELSE IF Small AND A < 10 THEN A := A + 1; Grams := Grams + 3; END_IF;
             IF Large AND B < 10 THEN B := B + 1; Grams := Grams + 5; END_IF; END_IF; Fed := Grams; Much := Grams > 60;",
            "IF Clear THEN A := 0; B := 0; ELSE IF Small AND A < 10 THEN A := A + 1; END_IF;
             IF Large AND B < 10 THEN B := B + 1; END_IF; END_IF; Fed := UDINT#3 * A + UDINT#5 * B; Much := Fed > 60;",
        ],
        Same,
    ),
    (
        "a square, and what it grows by",
        FEED,
        [
            "IF Clear THEN A := 0; ELSIF Small AND A < 90 THEN A := A + 1; END_IF; Fed := UDINT#1 * A * A;",
            "IF Clear THEN A := 0; Grams := 0; ELSIF Small AND A < 90 THEN Grams := Grams + 2 * A + 1; A := A + 1; END_IF;
             Fed := Grams;",
        ],
        Same,
    ),
    (
        "the mean of two values, summed anew or kept",
        MIX,
        [
            "W2 := W1; W1 := Warm; Mean := (UINT#0 + W1 + W2) / 2;",
            "Sum := Sum - W2 + Warm; W2 := W1; W1 := Warm; Mean := Sum / 2;",
        ],
        Same,
    ),
];
