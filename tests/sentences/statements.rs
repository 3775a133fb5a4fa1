//! Statements and lists.

use super::{Row, list, statements};

#[allow(clippy::too_many_lines, reason = "a table")]
pub(super) fn rows() -> Vec<Row> {
    vec![
        statements(
            "Flow : INT;",
            "Flow := RINSE(Flow);",
            &["3:9 error C01: there is no function `RINSE` | did you mean `SINCE`?"],
        ),
        statements(
            "Flow : INT;",
            "Flow := LIMITT(0, Flow, 9);",
            &["3:9 error C01: there is no function `LIMITT` | did you mean `LIMIT`?"],
        ),
        statements(
            "Flow : INT;",
            "Flow := ABS(IN := Flow, N := 2);",
            &["3:25 error C06: this function has no input `N`"],
        ),
        statements(
            "Flow, Old : INT;",
            "Flow := LIMIT(MN := 0, IN := Flow, MX := 9, OLD => Old);",
            &["3:45 error C06: this function has no output `OLD`"],
        ),
        statements(
            "Flow : INT;",
            "Flow := LIMIT(MN := 0, MN := 1, IN := Flow, MX := 9);",
            &["3:24 error C06: this input is given twice"],
        ),
        statements("Flow : INT;", "Flow := LIMIT(MN := 0, IN := Flow);", &["3:9 error C06: input MX is missing"]),
        statements("Flow : INT;", "Flow := ABS(Flow, Flow);", &["3:9 error C06: this takes 1 input, but 2 are given"]),
        statements("Flow : INT;", "Flow := LIMIT(MN := 0, MX := 5);", &["3:9 error C06: input IN is missing"]),
        statements(
            "Flow : INT;",
            "Flow := MUX(Flow);",
            &["3:9 error C06: this takes 2 inputs or more, but 1 is given"],
        ),
        statements("Flow : BOOL;", "Flow := MAX(Flow, TRUE);", &["3:9 error C04: this function does not take BOOL"]),
        statements(
            "Flow : INT;",
            "Flow := SEL(Flow, 1, 2);",
            &["3:13 error C04: the selector is INT, but BOOL is needed"],
        ),
        statements(
            "Flow : INT; Share : REAL;",
            "Flow := MUX(Share, 1, 2);",
            &["3:13 error C04: the selector is REAL, but an integer is needed"],
        ),
        statements("Name : STRING;", "Name := ABS(Name);", &["3:9 error C04: `ABS` does not take STRING"]),
        statements(
            "Low : BOOL; Word1 : WORD;",
            "Low := SHL(Word1, Low);",
            &["3:8 error C04: `SHL` does not take BOOL"],
        ),
        statements("Low : BOOL;", "Low := SINCE(Low);", &["3:8 error C04: `SINCE` does not take BOOL"]),
        statements(
            "W : STOPWATCH; Since1 : TIME;",
            "Since1 := RESTART(W);",
            &["3:11 error C04: `RESTART` has no value"],
        ),
        statements("Low : BOOL;", "RESTART(Low);", &["3:9 error C04: `RESTART` takes a stopwatch"]),
        statements("W : STOPWATCH;", "RESTART();", &["3:1 error C06: `RESTART` takes a stopwatch"]),
        statements(
            "T : TON; On : BOOL;",
            "T(IN := On, PT := T#1s, Preset := T#2s);",
            &["3:25 error C06: `TON` has no input `Preset` | it has IN, PT"],
        ),
        statements(
            "T : TON; On : BOOL;",
            "T(IN := On, PT := T#1s, Done => On);",
            &["3:25 error C06: `TON` has no output `Done` | it has Q, ET"],
        ),
        statements(
            "T : TON; On : BOOL; n : INT;",
            "T(IN := On, PT := T#1s, ENO => n);",
            &["3:32 error C04: ENO is BOOL"],
        ),
        statements(
            "T : TON; On : BOOL;",
            "On := T(IN := On);",
            &["3:7 error C04: `T` is a variable and has no value when called; read one of its outputs"],
        ),
        statements("On : BOOL;", "On();", &["3:1 error C04: BOOL cannot be called; only function blocks can"]),
        statements(
            "On : BOOL; T : TON;",
            "On := T.IN(1);",
            &["3:11 error R03: expected `;` here, before `(`", "3:11 error R03: expected a value, found `(`"],
        ),
        statements("Level : INT (0..9);", "Level := 12;", &["3:10 error C05: 12 does not fit 0..9"]),
        statements(
            "Low : BOOL; n : INT;",
            "Low := n;",
            &["3:8 error C04: this is INT, but BOOL is needed | convert it: INT_TO_BOOL(...)"],
        ),
        statements("Share : REAL;", "Share := NOT 1.5;", &["3:10 error C04: `NOT` does not take a real number"]),
        statements("n : INT; Low : BOOL;", "Low := TRUE + FALSE;", &["3:8 error C04: `+` does not take BOOL and BOOL"]),
        statements("n : SINT;", "n := 300;", &["3:6 error C05: 300 does not fit SINT, which holds -128 to 127"]),
        statements(
            "t : TIME;",
            "t := 5;",
            &["3:6 error C04: 5 is not a value of TIME | a duration is written with its unit, T#5ms or T#5s"],
        ),
        statements("Low : BOOL;", "Low := 2.5;", &["3:8 error C04: 2.5 is not a value of BOOL"]),
        statements(
            "n : INT; t : TIME; Low : BOOL;",
            "Low := n = t;",
            &[
                "3:8 error C04: `=` does not take INT and TIME | bring both to one type, for instance with TIME_TO_INT(...)",
            ],
        ),
        statements(
            "Share : REAL; n : INT;",
            "n := Share MOD 2;",
            &["3:6 error C04: `MOD` does not take REAL and REAL"],
        ),
        statements("Name : STRING; Low : BOOL;", "Low := NOT Name;", &["3:8 error C04: `NOT` does not take STRING"]),
        statements("n : UINT;", "n := -n;", &["3:6 error C04: `-` does not take UINT"]),
        statements("Flow : INT;", "Flow := Flwo;", &["3:9 error C01: unknown name `Flwo` | did you mean `Flow`?"]),
        statements(
            "Counter : INT;",
            "Countr := 1;",
            &["3:1 error C01: unknown name `Countr` | did you mean `Counter`?"],
        ),
        statements("n : INT;", "n := WRD#5;", &["3:6 error C03: there is no type `WRD` for a literal"]),
        statements("n : INT;", "5 := n;", &["3:1 error R03: expected a value, found `5`"]),
        statements("T : TON;", "T.Q := TRUE;", &["3:1 error C07: `Q` is an output of the block and cannot be written"]),
        statements("n : INT;", "n.a := 1;", &["3:3 error C04: INT has no fields"]),
        statements("n : INT;", "n[1] := 1;", &["3:1 error C04: INT is not an array"]),
        statements(
            "a : ARRAY [1..3] OF INT;",
            "a[1, 2] := 1;",
            &["3:1 error C04: this array has 1 dimension, but 2 indices are given"],
        ),
        statements(
            "a : ARRAY [1..3] OF INT; r : REAL;",
            "a[r] := 1;",
            &["3:3 error C04: an index is an integer, not REAL"],
        ),
        statements("a : ARRAY [1..3] OF INT;", "a[4] := 1;", &["3:3 error C05: index 4 is outside 1..3"]),
        statements("T : TON; U : TON;", "T := U;", &["3:1 error C04: TON cannot be assigned"]),
        statements("n : INT; N : DINT;", "n := 1;", &["2:14 error C02: `N` is declared twice / first declared here"]),
        statements(
            "a AT %KX0 : BOOL;",
            "a := TRUE;",
            &[
                "2:5 error C12: `%KX0` is not an address | an address is %, the area I, Q or M, a size X, B, W, D or L, and numbers with dots: %IX0.0",
            ],
        ),
        statements("a AT %IW0 : BOOL; o : BOOL;", "o := a;", &["2:5 error C12: `a` does not have the width of %IW0"]),
        statements(
            "a AT %QX0.1 : BOOL; b AT %QX0.1 : BOOL;",
            "a := TRUE; b := FALSE;",
            &["2:25 error C12: %QX0.1 is given to `a` and to `b` / first used here"],
        ),
        statements("o : BOOL;", "o := %KX1;", &["3:6 error C12: `%KX1` is not an address"]),
        statements(
            "a : ARRAY [1..2] OF INT := [1, 2, 3];",
            "a[1] := 0;",
            &["2:32 error C05: there are more values than the 2 elements"],
        ),
        statements(
            "n : INT; m : INT := n;",
            "m := 1;",
            &["2:25 error C01: unknown name `n` | declare it; `check --declare` writes the declaration of `n`"],
        ),
        statements("n : INT := [1, 2];", "n := 1;", &["2:16 error C04: this does not initialise INT"]),
        statements("r : REAL (0..5);", "r := 1.0;", &["2:9 error C04: a subrange is of an integer type, not of REAL"]),
        statements(
            "n : INT (5..2);",
            "n := 1;",
            &["2:9 error C05: the range 5..2 is empty", "3:6 error C05: 1 does not fit 5..2"],
        ),
        statements("n : Blower;", "n := 1;", &["2:9 error C03: there is no type or function block `Blower`"]),
        statements("a : ARRAY [5..2] OF INT;", "a[1] := 1;", &["2:9 error C05: a dimension of this array is empty"]),
        statements(
            "a : ARRAY [1..3000, 1..3000] OF INT;",
            "a[1, 1] := 1;",
            &["2:9 error R05: this array has more than 1048576 elements"],
        ),
        statements("a : STRING[100000];", "a := 'x';", &["2:16 error C05: 100000 is not within 1 to 10000"]),
        statements(
            "n : INT; a : ARRAY [1..n] OF INT;",
            "a[1] := 1;",
            &[
                "2:18 error C04: a constant is needed here",
                "2:28 error C01: unknown name `n` | declare it; `check --declare` writes the declaration of `n`",
            ],
        ),
        statements(
            "a : ARRAY [1..9] OF INT := [2000000(0)];",
            "a[1] := 1;",
            &[
                "2:33 error R05: a value is repeated at most 1000000 times",
                "3:1 error C01: unknown name `a` | declare it; `check --declare` writes the declaration of `a`",
            ],
        ),
        statements(
            "n : INT;",
            "RETURN; n := 1;",
            &["3:9 warning H03: no scan reaches this statement / the list ends here"],
        ),
        statements("n : INT;", "n := 1; EXIT;", &["3:9 error C10: EXIT stands outside every loop"]),
        statements("n : INT;", "CONTINUE;", &["3:1 error C10: CONTINUE stands outside every loop"]),
        statements(
            "r : REAL;",
            "CASE r OF 1: r := 2.0; END_CASE;",
            &["3:6 error C04: CASE selects by an integer or an enumeration, not by REAL"],
        ),
        statements(
            "n : INT;",
            "CASE n OF 5..2: n := 1; 3: n := 2; 3: n := 3; END_CASE;",
            &[
                "3:11 error C05: the range 5..2 is empty",
                "3:36 warning H06: an earlier branch takes a value of this label | the first branch that matches wins (trap 21)",
            ],
        ),
        statements("n, m : INT;", "CASE n OF m: n := 1; END_CASE;", &["3:11 error C04: a label of a CASE is constant"]),
        statements(
            "r : REAL;",
            "FOR r := 0.0 TO 1.0 DO r := r; END_FOR;",
            &["3:5 error C04: FOR counts in an integer variable, not in REAL"],
        ),
        statements(
            "n : INT;",
            "FOR n := 1 TO 5 BY 0 DO n := n; END_FOR;",
            &[
                "3:5 warning H05: this loop ends only at the loop limit | no value of INT is above its limit; use a wider variable or another limit",
            ],
        ),
        statements("n : INT;", "WHILE TRUE DO n := 1; END_WHILE;", &[]),
        statements(
            "n : INT;",
            "IF n THEN n := 1; END_IF;",
            &["3:4 error C04: this is INT, but BOOL is needed | convert it: INT_TO_BOOL(...)"],
        ),
        statements(
            "T : TON; On, Off : BOOL;",
            "T(IN := On, PT := T#1s); T(IN := Off, PT := T#2s); On := T.Q;",
            &[
                "2:18 warning H02: `Off` is read but never written: it stays at its initial value",
                "3:26 warning H09: `T` is driven twice in a scan, with two presets / first driven here | give each of the two a timer or counter of its own",
            ],
        ),
        statements("n : INT;", "n := 1", &["3:7 error R03: expected `;` here, before `END_PROGRAM`"]),
        statements("n : INT;", "n = 1;", &["3:3 error R03: `=` compares; an assignment is written `:=` | write `:=`"]),
        statements("n : INT;", "IF n > 1 n := 2; END_IF;", &["3:9 error R03: expected `THEN` here, before `n`"]),
        statements(
            "n : INT;",
            "IF n > 1 THEN n := 2;",
            &["4:1 error R03: expected `END_IF`, found `END_PROGRAM` / this IF is open"],
        ),
        statements("n : INT;", "n := ;", &["3:6 error R03: expected a value, found `;`"]),
        statements("n : INT;", "n := (1;", &["3:8 error R03: expected `)`, found `;`"]),
        statements("n : INT;", "FOR n := 1 TO 3 n := 2; END_FOR;", &["3:16 error R03: expected `DO` here, before `n`"]),
        statements(
            "n : INT;",
            "FOR n = 1 TO 3 DO n := 2; END_FOR;",
            &[
                "3:7 error R03: expected `:=`, found `=`",
                "3:27 error R03: expected a statement or `END_PROGRAM`, found `END_FOR`",
            ],
        ),
        statements(
            "n : INT;",
            "CASE n OF END_CASE;",
            &["2:5 warning H02: `n` is read but never written: it stays at its initial value"],
        ),
        statements(
            "n : INT;",
            "REPEAT n := 1; END_REPEAT;",
            &[
                "3:16 error R03: expected `UNTIL`, found `END_REPEAT` / this REPEAT is open",
                "3:16 error R03: expected a statement or `END_PROGRAM`, found `END_REPEAT`",
            ],
        ),
        statements(
            "n : INT;",
            "n := 1; END_IF;",
            &["3:9 error R03: expected a statement or `END_PROGRAM`, found `END_IF`"],
        ),
        statements(
            "n : INT;",
            "? := 1;",
            &["3:1 error R01: `?` begins nothing in this language", "3:3 error R03: expected a value, found `:=`"],
        ),
        statements(
            "n : INT;",
            "n := 1; (* open",
            &[
                "3:9 error R02: this comment never ends; the rest of the file is part of it | close it; comments nest, so each opening needs its own end",
                "5:1 error R03: expected a statement or `END_PROGRAM`, found the end of the file",
            ],
        ),
        statements(
            "s : STRING;",
            "s := 'open;",
            &[
                "3:6 error R02: this string does not end on its line",
                "4:1 error R03: expected a value, but `END_PROGRAM` is a word of the language",
            ],
        ),
        statements(
            "s : STRING;",
            "s := 'a$';",
            &[
                "3:6 error R02: this string does not end on its line",
                "4:1 error R03: expected a value, but `END_PROGRAM` is a word of the language",
            ],
        ),
        statements(
            "s : STRING;",
            "s := 'a$q';",
            &["3:6 error R04: behind `$` stands $, ', L, N, P, R, T or two hexadecimal digits"],
        ),
        statements("s : STRING;", "s := 'a$4';", &["3:6 error R04: `$` needs two hexadecimal digits behind it"]),
        statements(
            "IF : INT;",
            "n := 1;",
            &[
                "2:5 error R03: expected a variable's name, but `IF` is a word of the language",
                "3:1 error C01: unknown name `n` | declare it; `check --declare` writes the declaration of `n`",
            ],
        ),
        statements(
            "n : INT;",
            "n := 99999999999999999999999999;",
            &["3:6 error R04: this number is larger than any type holds (64 bits)"],
        ),
        statements("n : INT;", "n := 2#12;", &["3:6 error R04: 2 is not a digit of base 2"]),
        statements("n : INT;", "n := 3#12;", &["3:6 error R04: the base of a number is 2, 8 or 16, not 3"]),
        statements("r : LREAL;", "r := 1.0E999;", &["3:6 error R04: this number is larger than LREAL holds"]),
        statements("t : TIME;", "t := T#5;", &["3:6 error R04: a duration needs a unit: d, h, m, s, ms, us or ns"]),
        statements(
            "t : TIME;",
            "t := T#5ms3s;",
            &["3:6 error R04: the units of a duration go from large to small, each once"],
        ),
        statements(
            "t : TIME;",
            "t := T#400y;",
            &["3:6 error R04: `y` is not a unit of time; d, h, m, s, ms, us and ns are"],
        ),
        statements(
            "t : TIME;",
            "t := T#200000d;",
            &["3:6 error R04: this duration is longer than TIME holds (about 292 years)"],
        ),
        statements("t : TIME;", "t := T#;", &["3:8 error R03: expected a literal behind the type, found `;`"]),
        statements(
            "t : TIME;",
            "t := T#1.5s20ms;",
            &["3:6 error R04: only the last unit of a duration may have a fraction"],
        ),
        statements("t : TIME;", "t := T#1.2.3s;", &["3:6 error R04: `1.2.3` is not a number"]),
        statements("t : TIME;", "t := T#0.00000000001s;", &["3:6 error R04: this duration is finer than a nanosecond"]),
        statements("n : INT;", "n := INT#;", &["3:10 error R03: expected a literal behind the type, found `;`"]),
        statements("n : INT;", "n := INT#TRUE;", &["3:6 error C05: TRUE is not a value of INT"]),
        statements(
            "p : REF_TO INT;",
            "p := 1;",
            &["2:9 error R06: REF_TO is not supported", "3:1 error C01: `p` is a PROGRAM, not a variable"],
        ),
        statements(
            "p : POINTER TO INT;",
            "p := 1;",
            &["2:9 error R06: POINTER is not supported", "3:1 error C01: `p` is a PROGRAM, not a variable"],
        ),
        list(
            "n : INT;",
            "ADD n\nST n",
            &[
                "3:1 error C11: there is no current result yet; load one first | write LD with the value this should work on",
                "4:1 error C11: there is no current result yet; load one first | write LD with the value this should work on",
            ],
        ),
        list(
            "n : INT;",
            "LD n\nJMPC Done\nDone: ST n",
            &["4:1 error C11: the current result is INT, but a condition is BOOL"],
        ),
        list("n : INT; On : BOOL;", "LD On\nJMPC Gone\nST On", &["4:6 error C09: there is no label `Gone`"]),
        list(
            "n : INT;",
            "LD n\nS n",
            &[
                "4:1 error C11: the current result is INT, but a condition is BOOL",
                "4:3 error C04: S and R act on BOOL, not on INT",
            ],
        ),
        list(
            "n : INT; On : BOOL;",
            "LD On\nAND( n\nL1: OR On\n)\nST On",
            &[
                "5:1 error C09: a label cannot stand inside parentheses",
                "5:1 error C04: `OR` does not take INT and BOOL | bring both to one type, for instance with BOOL_TO_INT(...)",
            ],
        ),
        list(
            "n : INT; On : BOOL;",
            "LD On\nAND( On\nJMP Done\n)\nDone: ST On",
            &[
                "4:6 error C11: these parentheses leave no value",
                "5:5 error C09: a jump cannot stand inside parentheses",
            ],
        ),
        list(
            "n : INT; On : BOOL;",
            "LD On\nAND( On\nRET\n)\nST On",
            &[
                "4:6 error C11: these parentheses leave no value",
                "5:1 error C09: a return cannot stand inside parentheses",
            ],
        ),
        list(
            "n : INT; On : BOOL;",
            "LD On\nJMPC Next\nLD n\nNext: ST n",
            &[
                "6:1 error C11: the ways that meet at the label above bring current results of different types | write LD with the value this should work on",
            ],
        ),
        list("n : INT;", "LD n\nRINSE n\nST n", &["4:1 error C01: `RINSE` is neither an instruction nor a function"]),
        list(
            "T : TON; On : BOOL;",
            "LD On\nFEED T\nST On",
            &["4:1 error C01: `FEED` is neither an instruction nor a function"],
        ),
        list(
            "T : TON; On : BOOL;",
            "LD On\nIN T\nPT T\nCV T",
            &[
                "5:1 error C04: this is BOOL, but TIME is needed | convert it: BOOL_TO_TIME(...)",
                "6:1 error C01: `CV` is neither an instruction nor a function",
            ],
        ),
        list(
            "On : BOOL;",
            "LD On\nRET\nST On",
            &["5:1 warning H03: no scan reaches this instruction: it stands behind a jump or return and has no label"],
        ),
        list(
            "On : BOOL;",
            "LD On ST On",
            &["3:7 error R03: one instruction a line: expected the end of the line, found `ST`"],
        ),
        list(
            "On : BOOL;",
            "LD\nST On",
            &[
                "3:1 error R03: expected a value behind `LD` on the same line",
                "4:1 error C11: there is no current result yet; load one first | write LD with the value this should work on",
            ],
        ),
        list(
            "On : BOOL;",
            "LD On\nAND( On\nST On",
            &["6:1 error R03: expected `)`, found `END_PROGRAM` / this parenthesis is open"],
        ),
        list(
            "On : BOOL;",
            "AND( \n)\nST On",
            &[
                "1:1 error C11: these parentheses leave no value",
                "3:1 error C11: there is no current result yet; load one first | write LD with the value this should work on",
                "5:1 error C11: there is no current result yet; load one first | write LD with the value this should work on",
            ],
        ),
        list("On : BOOL;", "; := 4", &["3:3 error R03: expected an instruction, found `:=`"]),
        list("On : BOOL; n : INT;", "LD On\nADD 1\nST n", &["4:1 error C04: `+` does not take BOOL and BOOL"]),
        list("On : BOOL; n : INT;", "LD n\nNOT\nST On", &["4:1 error C04: `NOT` does not take INT"]),
        list(
            "n : INT; T : TON;",
            "LD n\nRETC\nCALC T(IN := TRUE)",
            &[
                "4:1 error C11: the current result is INT, but a condition is BOOL",
                "5:1 error C11: the current result is INT, but a condition is BOOL",
            ],
        ),
    ]
}
