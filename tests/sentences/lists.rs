//! Instruction lists.

use super::Body;

pub(super) const IL: &[Body] = &[
    (
        "x : BOOL;",
        "ST x",
        &[
            "3:1 error C11: there is no current result yet; load one first | write LD with the value this should work on",
        ],
    ),
    (
        "x : BOOL;",
        "LD x\nJMP there\nST x",
        &[
            "4:5 error C09: there is no label `there`",
            "5:1 warning H03: no scan reaches this instruction: it stands behind a jump or return and has no label",
        ],
    ),
    ("x : BOOL;", "here:\nhere:\nLD x", &["4:1 error C02: `here` is declared twice / first declared here"]),
    (
        "x : BOOL;",
        "LD x\nAND( x\nST x",
        &["6:1 error R03: expected `)`, found `END_PROGRAM` / this parenthesis is open"],
    ),
    ("x : BOOL;", "LD x\n)\nST x", &["4:1 error R03: expected an instruction or `END_PROGRAM`, found `)`"]),
    (
        "x : BOOL;",
        "LD x\nAND( x\nJMP there\n)\nthere:\nST x",
        &["4:6 error C11: these parentheses leave no value", "5:5 error C09: a jump cannot stand inside parentheses"],
    ),
    ("x : INT;", "LD x\nSTN x", &["4:1 error C04: `NOT` does not take INT"]),
    ("x : INT;", "LDN x\nST x", &["3:1 error C04: `NOT` does not take INT"]),
    (
        "x : INT;",
        "LD x\nS x",
        &[
            "4:1 error C11: the current result is INT, but a condition is BOOL",
            "4:3 error C04: S and R act on BOOL, not on INT",
        ],
    ),
    (
        "x : INT; b : BOOL;",
        "LD x\nJMPC on\non:\nLD b\nST b",
        &["4:1 error C11: the current result is INT, but a condition is BOOL"],
    ),
    (
        "x : INT; b : BOOL;",
        "LD b\nJMPC on\nLD x\non:\nST b",
        &[
            "7:1 error C11: the ways that meet at the label above bring current results of different types | write LD with the value this should work on",
        ],
    ),
    ("x : BOOL;", "LD x\nANDX x", &["4:1 error C01: `ANDX` is neither an instruction nor a function"]),
    (
        "x : BOOL;",
        "LD\nST x",
        &[
            "3:1 error R03: expected a value behind `LD` on the same line",
            "4:1 error C11: there is no current result yet; load one first | write LD with the value this should work on",
        ],
    ),
    (
        "x : BOOL;",
        "LD x x\nST x",
        &[
            "3:6 error R03: one instruction a line: expected the end of the line, found `x`",
            "4:1 error C11: there is no current result yet; load one first | write LD with the value this should work on",
        ],
    ),
    (
        "x : BOOL;",
        "LD x, x\nST x",
        &[
            "3:5 error R03: one instruction a line: expected the end of the line, found `,`",
            "4:1 error C11: there is no current result yet; load one first | write LD with the value this should work on",
        ],
    ),
    ("T : TON;", "LD TRUE\nIN T\nPV T", &["5:1 error C06: this block has no input `PV`"]),
    ("T : TON;", "CAL T(IN := TRUE, PT := T#1s", &["4:1 error R03: expected `,` or `)`, found `END_PROGRAM`"]),
    (
        "T : TON;",
        "CALC T(IN := TRUE, PT := T#1s)",
        &[
            "3:1 error C11: there is no current result yet; load one first | write LD with the value this should work on",
        ],
    ),
    (
        "T : TON;",
        "CAL U(IN := TRUE)",
        &["3:5 error C01: unknown name `U` | declare it; `check --declare` writes the declaration of `U`"],
    ),
    ("x : INT;", "CAL x", &["3:5 error C04: INT cannot be called; only function blocks can"]),
    ("x : INT;", "LD x\nRINSE\nST x", &["4:1 error C01: `RINSE` is neither an instruction nor a function"]),
    ("x : INT;", "LD x\nLIMIT 1\nST x", &["4:1 error C06: this takes 3 inputs, but 2 are given"]),
    (
        "x : INT;",
        "LD x\nADD TRUE\nST x",
        &["4:1 error C04: `+` does not take INT and BOOL | bring both to one type, for instance with BOOL_TO_INT(...)"],
    ),
    (
        "x : INT; r : REAL;",
        "LD x\nADD r\nST x",
        &["5:1 error C04: this is REAL, but INT is needed | convert it: REAL_TO_INT(...)"],
    ),
    ("x : BOOL;", "LD x\nRETC x", &["4:6 error R03: one instruction a line: expected the end of the line, found `x`"]),
    ("x : BOOL;", "JMP\nLD x\nST x", &["3:1 error R03: expected a label behind `JMP` on the same line"]),
    (
        "x : BOOL;",
        "LD x; ST x",
        &[
            "3:5 error R03: instructions end with their line, not with `;`",
            "3:7 error R03: one instruction a line: expected the end of the line, found `ST`",
        ],
    ),
    (
        "x : BOOL;",
        "IF x THEN\nLD x",
        &["3:6 error R03: one instruction a line: expected the end of the line, found `THEN`"],
    ),
    ("x : BOOL;", "LD x\nGT x\nST x", &[]),
    (
        "x : WORD; b : BOOL;",
        "LD x\nAND b\nST x",
        &["2:15 warning H02: `b` is read but never written: it stays at its initial value"],
    ),
    (
        "a : ARRAY[1..3] OF INT;",
        "LD a[5]\nST a[0]",
        &["3:6 error C05: index 5 is outside 1..3", "4:6 error C05: index 0 is outside 1..3"],
    ),
    (
        "x : INT;",
        "LD x\nMOD 2.5\nST x",
        &[
            "4:1 error C04: `MOD` does not take INT and LREAL | bring both to one type, for instance with LREAL_TO_INT(...)",
        ],
    ),
    ("x : INT;", "LD x\nNOT\nST x", &["4:1 error C04: `NOT` does not take INT"]),
    ("x : TIME;", "LD x\nMUL T#1s\nST x", &["4:1 error C04: `*` does not take TIME and TIME"]),
    (
        "x : BOOL; n : INT;",
        "LD n\nEQ x\nST x",
        &["4:1 error C04: `=` does not take INT and BOOL | bring both to one type, for instance with BOOL_TO_INT(...)"],
    ),
    ("s : SR;", "LD TRUE\nS s\nR s", &["4:3 error C06: this block has no input `S`"]),
];
