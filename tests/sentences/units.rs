//! Whole files: units, sections, types and configurations.

use super::Text;

pub(super) const FILES: &[Text] = &[
    (
        "PROGRAM P\nVAR n AT : INT; END_VAR\nEND_PROGRAM\n",
        &["2:10 error R03: expected an address such as %IX0.0, found `:`"],
    ),
    (
        "PROGRAM P\nVAR n AT x : INT; END_VAR\nEND_PROGRAM\n",
        &["2:10 error R03: expected an address such as %IX0.0, found `x`"],
    ),
    (
        "CONFIGURATION\nPROGRAM One : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &[
            "2:1 error R03: expected a name for the configuration, but `PROGRAM` is a word of the language",
            "2:13 error R03: expected a value, found `:`",
            "3:1 error R03: expected a value, but `END_CONFIGURATION` is a word of the language",
        ],
    ),
    (
        "CONFIGURATION C\nRESOURCE ON Main\nPROGRAM One : P;\nEND_RESOURCE\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &[
            "2:13 error R03: expected `ON`, found `Main`",
            "3:13 error R03: expected a value, found `:`",
            "4:1 error R03: expected a value, but `END_RESOURCE` is a word of the language",
        ],
    ),
    (
        "CONFIGURATION C\nRESOURCE R ON\nPROGRAM One : P;\nEND_RESOURCE\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &[
            "3:1 error R03: expected the kind of the resource, but `PROGRAM` is a word of the language",
            "3:13 error R03: expected a value, found `:`",
            "4:1 error R03: expected a value, but `END_RESOURCE` is a word of the language",
        ],
    ),
    (
        "CONFIGURATION C\nTASK Fast(5);\nPROGRAM One WITH Fast : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &[
            "2:11 error R03: expected INTERVAL, SINGLE or PRIORITY, found `5`",
            "3:13 error R03: expected a value, but `WITH` is a word of the language",
            "4:1 error R03: expected a value, but `END_CONFIGURATION` is a word of the language",
        ],
    ),
    (
        "CONFIGURATION C\nTASK Fast(SPEED := 5);\nPROGRAM One WITH Fast : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &["2:11 error C06: a task says INTERVAL, SINGLE, PRIORITY, not `SPEED`"],
    ),
    (
        "CONFIGURATION C\nTASK Fast(INTERVAL := 5);\nPROGRAM One WITH Fast : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &["2:23 error C04: INTERVAL is a duration, written out: T#10ms"],
    ),
    (
        "CONFIGURATION C\nTASK Fast(INTERVAL := T#10ms, PRIORITY := TRUE);\nPROGRAM One WITH Fast : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &["2:43 error C04: PRIORITY is a whole number, written out; 0 is the first"],
    ),
    (
        "CONFIGURATION C\nPROGRAM : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &["2:9 error R03: expected a name for the program instance, found `:`"],
    ),
    (
        "CONFIGURATION C\nPROGRAM One : P;\nPROGRAM One : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &["3:9 error C02: `One` is declared twice / first declared here"],
    ),
    (
        "CONFIGURATION C\nTASK Fast(INTERVAL := T#10ms);\nTASK Fast(INTERVAL := T#20ms);\nPROGRAM One WITH Fast : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &["3:6 error C02: `Fast` is declared twice / first declared here"],
    ),
    (
        "PROGRAM P\nEND_PROGRAM\nPROGRAM P\nEND_PROGRAM\n",
        &["3:9 error C02: `P` is declared twice / first declared here"],
    ),
    (
        "TYPE Dose : INT; END_TYPE\nTYPE Dose : REAL; END_TYPE\nPROGRAM P\nEND_PROGRAM\n",
        &["2:6 error C02: `Dose` is declared twice / first declared here"],
    ),
    (
        "TYPE Phase : (Rest, Rest); END_TYPE\nPROGRAM P\nVAR f : Phase; END_VAR\nf := Rest;\nEND_PROGRAM\n",
        &[
            "1:21 error C02: `Rest` is declared twice / first declared here",
            "4:6 error C01: `Rest` is a value of several enumerations; write Type#Rest",
        ],
    ),
    (
        "TYPE Phase : (Rest, Rinse); END_TYPE\nPROGRAM P\nVAR f : Phase; END_VAR\nf := Drain;\nEND_PROGRAM\n",
        &["4:6 error C01: unknown name `Drain` | declare it; `check --declare` writes the declaration of `Drain`"],
    ),
    (
        "TYPE Phase : (Rest, Rinse); END_TYPE\nPROGRAM P\nVAR f : Phase; END_VAR\nf := 1;\nEND_PROGRAM\n",
        &["4:6 error C04: this is an integer, but Phase is needed"],
    ),
    (
        "TYPE Phase : (Rest, Rinse); END_TYPE\nPROGRAM P\nVAR f : Phase; b : BOOL; END_VAR\nb := f > Rest;\nEND_PROGRAM\n",
        &["4:6 error C04: `>` does not take Phase and Phase"],
    ),
    (
        "TYPE Phase : (Rest := 70000); END_TYPE\nPROGRAM P\nVAR f : Phase; END_VAR\nf := Rest;\nEND_PROGRAM\n",
        &["1:23 error C05: 70000 is not within -32768 to 32767"],
    ),
    (
        "TYPE Dose : STRUCT Grams : INT; Grams : REAL; END_STRUCT; END_TYPE\nPROGRAM P\nVAR d : Dose; END_VAR\nd.Grams := 1;\nEND_PROGRAM\n",
        &["1:33 error C02: `Grams` is declared twice / first declared here"],
    ),
    (
        "TYPE Dose : STRUCT Grams : INT; END_STRUCT; END_TYPE\nPROGRAM P\nVAR d : Dose; END_VAR\nd.Kilos := 1;\nd := 3;\nEND_PROGRAM\n",
        &[
            "4:3 error C01: there is no `Kilos` here | it has Grams",
            "5:6 error C04: this is an integer, but Dose is needed",
        ],
    ),
    (
        "TYPE Little : INT (5..1); END_TYPE\nPROGRAM P\nVAR d : Little; END_VAR\nd := 1;\nEND_PROGRAM\n",
        &["1:15 error C05: the range 5..1 is empty", "4:6 error C05: 1 does not fit 5..1"],
    ),
    (
        "TYPE Little : REAL (0..1); END_TYPE\nPROGRAM P\nVAR d : Little; END_VAR\nd := 1.0;\nEND_PROGRAM\n",
        &["1:15 error C04: a subrange is of an integer type, not of REAL"],
    ),
    (
        "FUNCTION Twice : INT\nVAR_INPUT a : INT; END_VAR\nTwice := Twice(a);\nEND_FUNCTION\nPROGRAM P\nEND_PROGRAM\n",
        &["3:10 error C08: `Twice` reaches itself here | a controller has no recursion; use a loop"],
    ),
    (
        "FUNCTION Twice : INT\nVAR T : TON; END_VAR\nT(IN := TRUE);\nTwice := 1;\nEND_FUNCTION\nPROGRAM P\nEND_PROGRAM\n",
        &[],
    ),
    (
        "FUNCTION Twice : FISH\nTwice := 1;\nEND_FUNCTION\nPROGRAM P\nEND_PROGRAM\n",
        &["1:18 error C03: there is no type or function block `FISH`"],
    ),
    (
        "FUNCTION Twice : INT\nVAR_INPUT a : INT; END_VAR\nTwice := 2 * a;\nEND_FUNCTION\nPROGRAM P\nVAR x : INT; END_VAR\nTwice(1);\nx := Twice(b := 1);\nx := Twice(TRUE);\nEND_PROGRAM\n",
        &[
            "8:12 error C06: `Twice` has no input `b` | it has a",
            "9:12 error C04: this is BOOL, but INT is needed | convert it: BOOL_TO_INT(...)",
        ],
    ),
    (
        "FUNCTION_BLOCK Keep\nVAR_INPUT Go : BOOL; END_VAR\nVAR_OUTPUT On : BOOL; END_VAR\nOn := Go;\nEND_FUNCTION_BLOCK\nPROGRAM P\nVAR k : Keep; b : BOOL; END_VAR\nk(Went := TRUE);\nk(Go := TRUE, Off => b);\nb := k.Inner;\nEND_PROGRAM\n",
        &[
            "8:3 error C06: `Keep` has no input `Went` | it has Go",
            "9:15 error C06: `Keep` has no output `Off` | it has On",
            "10:8 error C01: there is no `Inner` here | it has Go, On",
        ],
    ),
    (
        "FUNCTION_BLOCK Keep\nVAR n : INT; END_VAR\nn := n + 1;\nEND_FUNCTION_BLOCK\nPROGRAM P\nVAR k : Keep; x : INT; END_VAR\nk();\nx := k.n;\nEND_PROGRAM\n",
        &["8:8 error C01: there is no `n` here | nothing of it is seen from outside"],
    ),
    (
        "FUNCTION_BLOCK Keep\nVAR_IN_OUT n : INT; END_VAR\nn := n + 1;\nEND_FUNCTION_BLOCK\nPROGRAM P\nVAR CONSTANT c : INT := 3; END_VAR\nVAR k : Keep; END_VAR\nk(n := c);\nk(n := 1 + 2);\nEND_PROGRAM\n",
        &[
            "8:8 error C07: `c` is a constant and cannot be written",
            "9:1 error C06: `n` (VAR_IN_OUT) must be given",
            "9:8 error C07: a variable is needed here",
        ],
    ),
    (
        "VAR_GLOBAL Sum : INT; END_VAR\nPROGRAM P\nVAR_EXTERNAL Sum : REAL; END_VAR\nSum := 1.0;\nEND_PROGRAM\n",
        &[
            "3:14 error C04: `Sum` is REAL here, but INT where VAR_GLOBAL declares it / declared here",
            "4:8 error C05: 1 does not fit INT, which holds -32768 to 32767",
        ],
    ),
    (
        "VAR_GLOBAL Sum : INT; Sum : INT; END_VAR\nPROGRAM P\nVAR_EXTERNAL Sum : INT; END_VAR\nSum := 1;\nEND_PROGRAM\n",
        &["1:23 error C02: `Sum` is declared twice / first declared here"],
    ),
    (
        "VAR_GLOBAL CONSTANT Most : INT := 5; END_VAR\nPROGRAM P\nVAR_EXTERNAL Most : INT; END_VAR\nMost := 1;\nEND_PROGRAM\n",
        &["4:1 error C07: `Most` is a constant and cannot be written"],
    ),
    (
        "PROGRAM P\nVAR_INPUT a : BOOL; END_VAR\na := TRUE;\nEND_PROGRAM\n",
        &[
            "3:1 error C07: `a` is an input and cannot be written here | copy it to a variable of its own, or declare it VAR_IN_OUT",
        ],
    ),
    ("PROGRAM P\nVAR_INPUT CONSTANT a : BOOL; END_VAR\nVAR_OUTPUT o : BOOL; END_VAR\no := a;\nEND_PROGRAM\n", &[]),
    ("PROGRAM P\nVAR CONSTANT RETAIN a : BOOL; END_VAR\nEND_PROGRAM\n", &["2:21 warning H01: `a` is never used"]),
    ("PROGRAM P\nVAR_IN_OUT a : BOOL; END_VAR\na := TRUE;\nEND_PROGRAM\n", &[]),
    (
        "PROGRAM P\nVAR_TEMP a : BOOL; END_VAR\nVAR_OUTPUT o : BOOL; END_VAR\no := a;\nEND_PROGRAM\n",
        &["2:10 warning H02: `a` is read but never written: it stays at its initial value"],
    ),
    (
        "PROGRAM P\nVAR a : BOOL; END_VAR\nRETURN;\na := TRUE;\nEND_PROGRAM\n",
        &["4:1 warning H03: no scan reaches this statement / the list ends here"],
    ),
    (
        "PROGRAM P\nVAR a : BOOL; T : TON; END_VAR\nIF a THEN T(IN := a, PT := T#1s); END_IF;\nEND_PROGRAM\n",
        &["2:5 warning H02: `a` is read but never written: it stays at its initial value"],
    ),
    (
        "PROGRAM P\nVAR a : BOOL; T : TON; END_VAR\nT(IN := a, PT := T#1s);\nT(IN := a, PT := T#2s);\nEND_PROGRAM\n",
        &[
            "2:5 warning H02: `a` is read but never written: it stays at its initial value",
            "4:1 warning H09: `T` is driven twice in a scan, with two presets / first driven here | give each of the two a timer or counter of its own",
        ],
    ),
    (
        "PROGRAM P\nVAR a : REAL; o : BOOL; END_VAR\no := a = 0.5;\nEND_PROGRAM\n",
        &["2:5 warning H02: `a` is read but never written: it stays at its initial value"],
    ),
    ("PROGRAM P\nVAR_INPUT n : INT; END_VAR\nVAR_OUTPUT o : INT; END_VAR\no := 100 / n;\nEND_PROGRAM\n", &[]),
    (
        "END_PROGRAM\n",
        &[
            "1:1 error R07: `END_PROGRAM` stands outside every unit | a file holds PROGRAM, FUNCTION, FUNCTION_BLOCK, TYPE, VAR_GLOBAL and CONFIGURATION",
        ],
    ),
    (
        "PROGRAM P\nVAR a : BOOL; END_VAR\na := TRUE;\nEND_FUNCTION\n",
        &["4:1 error R03: expected a statement or `END_PROGRAM`, found `END_FUNCTION`"],
    ),
    (
        "PROGRAM P\nVAR a : BOOL;\na := TRUE;\nEND_PROGRAM\n",
        &[
            "3:3 error R03: expected `:` and a type, found `:=`",
            "4:1 error R03: expected a variable's name, but `END_PROGRAM` is a word of the language",
            "5:1 error R03: expected `END_VAR`, found the end of the file",
            "5:1 error R03: expected a statement or `END_PROGRAM`, found the end of the file",
        ],
    ),
    ("PROGRAM P : INT\nEND_PROGRAM\n", &["1:11 error R03: expected a value, found `:`"]),
    ("TYPE END_TYPE\nPROGRAM P\nEND_PROGRAM\n", &[]),
    ("NAMESPACE N\nEND_NAMESPACE\nPROGRAM P\nEND_PROGRAM\n", &["1:1 error R06: NAMESPACE is not supported"]),
    (
        "CONFIGURATION C\nTASK Fast(INTERVAL := T#-5ms, PRIORITY := -1, INTERVAL := T#1s);\nPROGRAM One WITH Fast : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &[
            "2:23 error C04: INTERVAL is a duration, written out: T#10ms",
            "2:43 error C04: PRIORITY is a whole number, written out; 0 is the first",
            "2:47 error C06: this is said twice",
        ],
    ),
    (
        "VAR_GLOBAL CONSTANT Pace : TIME := T#1s; END_VAR\nCONFIGURATION C\nTASK Fast(INTERVAL := Pace);\nPROGRAM One WITH Fast : P;\nEND_CONFIGURATION\nPROGRAM P\nEND_PROGRAM\n",
        &["3:23 error C04: INTERVAL is a duration, written out: T#10ms"],
    ),
];
