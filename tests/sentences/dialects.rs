//! Programs in dialects, and sheets with a mistake in them.

use honest_twin::lang::Language;

/// A family, a language, a program, and what is said of it.
type Spoken = (&'static str, Language, &'static str, &'static [&'static str]);
/// What stands in a shipped sheet, what is put in its place, and what is said of it.
type Changed = (&'static str, &'static str, &'static [&'static str]);

pub(super) const DIALECT: &[Spoken] = &[
    (
        "octal-coil",
        Language::St,
        "VAR_GLOBAL RETAIN\n    A AT FLAG3 : BOOL;\n    B AT FLAG400 : BOOL;\nEND_VAR\nPROGRAM P\nA := B;\nEND_PROGRAM\n",
        &["2:10 error C12: what stands at `FLAG3` does not survive the power; FLAG400 to FLAG599 do"],
    ),
    (
        "octal-coil",
        Language::St,
        "VAR_GLOBAL\n    A AT FLAG3 : BOOL;\n    B AT FLAG400 : BOOL;\nEND_VAR\nPROGRAM P\nA := B;\nEND_PROGRAM\n",
        &["1:1 error C12: addresses that survive the power and others need VAR_GLOBAL sections of their own"],
    ),
    (
        "octal-coil",
        Language::St,
        "PROGRAM P\nVAR T AT DELAY900 : COIL_TIMER; END_VAR\nT(COIL := TRUE, PRESET := 5);\nEND_PROGRAM\n",
        &["2:15 error C12: in `DELAY900`: `900` is out of range; these numbers go from 0 to 319"],
    ),
    (
        "octal-coil",
        Language::St,
        "PROGRAM P\nVAR T AT DELAY3 : TON; END_VAR\nT(IN := TRUE, PT := T#1s);\nEND_PROGRAM\n",
        &["2:10 error C12: this number is an on-delay timer: its type is `COIL_TIMER`"],
    ),
    (
        "octal-coil",
        Language::St,
        "PROGRAM P\nVAR T AT DELAY3 : BOOL; END_VAR\nT := TRUE;\nEND_PROGRAM\n",
        &["2:10 error C12: this number is an on-delay timer: its type is `COIL_TIMER`"],
    ),
    (
        "octal-coil",
        Language::St,
        "PROGRAM P\nVAR n AT SLOT3 : REAL; END_VAR\nn := 1.0;\nEND_PROGRAM\n",
        &["2:5 error C12: `n` does not have the width of SLOT3"],
    ),
    (
        "octal-coil",
        Language::St,
        "PROGRAM P\nVAR n AT SLOT3 : BOOL; END_VAR\nn := TRUE;\nEND_PROGRAM\n",
        &["2:5 error C12: `n` does not have the width of SLOT3"],
    ),
    (
        "octal-coil",
        Language::St,
        "PROGRAM P\nVAR_OUTPUT o : BOOL; END_VAR\no := DELAY319;\nEND_PROGRAM\n",
        &["3:6 warning H02: `DELAY319` is read but never called: its outputs stay at their initial values"],
    ),
    (
        "octal-coil",
        Language::St,
        "PROGRAM P\nVAR_OUTPUT o : BOOL; END_VAR\no := TALLY239 > 3;\nEND_PROGRAM\n",
        &["3:6 warning H02: `TALLY239` is read but never called: its outputs stay at their initial values"],
    ),
    (
        "octal-coil",
        Language::St,
        "PROGRAM P\nINLET0 := TRUE;\nEND_PROGRAM\n",
        &[
            "2:1 error C07: `INLET0` is an input and cannot be written here | copy it to a variable of its own, or declare it VAR_IN_OUT",
        ],
    ),
    (
        "octal-coil",
        Language::St,
        "PROGRAM P\nOUTLET9 := TRUE;\nEND_PROGRAM\n",
        &["2:7 error C12: in `OUTLET9`: `9` is not an octal digit"],
    ),
    (
        "octal-coil",
        Language::St,
        "PROGRAM P\nOUTLET1 := %IX0.0;\nEND_PROGRAM\n",
        &["2:12 error C12: in `%IX0.0`: `%IX0.0` is not an address"],
    ),
    (
        "octal-coil",
        Language::Il,
        "LD INLET0\nSTN DELAY3\nLASTLINE",
        &["2:5 error D03: a device is not written like a variable; call it, or use the words that drive it"],
    ),
    (
        "octal-coil",
        Language::Il,
        "LD INLET0\nST DELAY3, 5, 6\nLASTLINE",
        &["2:1 error D03: `ST` takes PRESET behind the device"],
    ),
    (
        "octal-coil",
        Language::Il,
        "LD INLET0\nR DELAY3, 5\nLASTLINE",
        &["2:1 error D03: `R` takes nothing behind the device"],
    ),
    (
        "octal-coil",
        Language::Il,
        "LD INLET0\nUPWARD DELAY3\nLASTLINE",
        &["2:1 error D03: `UPWARD` does not drive an on-delay timer; `ST` or `R` does"],
    ),
    (
        "octal-coil",
        Language::Il,
        "LD INLET0\nUPWARD OUTLET0\nLASTLINE",
        &["2:8 error D03: `UPWARD` drives a device, and this is none"],
    ),
    (
        "octal-coil",
        Language::Il,
        "LD INLET0\nST TALLY900, 5\nLASTLINE",
        &["2:9 error C12: in `TALLY900`: `900` is out of range; these numbers go from 0 to 239"],
    ),
    (
        "octal-coil",
        Language::Il,
        "LD INLET0\nST OUTLET0\nLASTLINE\nLD INLET1\nST OUTLET1",
        &["4:1 warning H03: no scan reaches this instruction: it stands behind a jump or return and has no label"],
    ),
    (
        "octal-coil",
        Language::Il,
        "LD INLET0\nJMP LASTLINE\nST OUTLET0\nLASTLINE",
        &[
            "2:5 error C09: there is no label `LASTLINE`",
            "3:1 warning H03: no scan reaches this instruction: it stands behind a jump or return and has no label",
        ],
    ),
    (
        "flat-register",
        Language::Il,
        "LD INP1\nWAIT REG10, 5\nLD INP2\nWAIT REG11, 5\nFINIS",
        &[
            "4:6 error C12: this block takes REG10 to REG12, and the block at REG11 lies over it / the first block is driven here",
        ],
    ),
    ("flat-register", Language::Il, "LD INP1\nLD INP2\nTALLY REG3000, 5\nFINIS", &[]),
    (
        "flat-register",
        Language::Il,
        "LD INP1\nTALLY REG30, 5\nFINIS",
        &["2:1 error D03: `TALLY` takes 2 conditions, loaded one after the other"],
    ),
    ("flat-register", Language::Il, "LD INP1\nWAIT OREG1, 5\nFINIS", &[]),
    (
        "flat-register",
        Language::Il,
        "LD INP1\nWAIT BIT1, 5\nFINIS",
        &["2:6 error D03: `WAIT` drives a device, and this is none"],
    ),
    (
        "flat-register",
        Language::Il,
        "LD INP1\nWAIT REG10\nFINIS",
        &["2:1 error D03: `WAIT` takes PRESET behind the device"],
    ),
    (
        "flat-register",
        Language::Il,
        "LD INP1\nSPELL REG10, 5\nLD REG10\nST REG12\nLD 3\nST REG10\nFINIS",
        &[
            "4:4 error D03: a device is not written like a variable; call it, or use the words that drive it",
            "6:4 error D03: a device is not written like a variable; call it, or use the words that drive it",
        ],
    ),
    (
        "word-bit",
        Language::Il,
        "READ SIG000.00\nUSEUP DUE000\nFINISH",
        &["2:1 error D03: `USEUP` does not drive an on-delay timer; `RUNOUT` does"],
    ),
    (
        "word-bit",
        Language::Il,
        "READ SIG000.00\nUSEUP DUE000, SIG000.01\nFINISH",
        &["2:1 error D03: `USEUP` does not drive an on-delay timer; `RUNOUT` does"],
    ),
    (
        "word-bit",
        Language::Il,
        "READ DUE000.DONE\nWRITE CMD000.00\nFINISH",
        &["1:6 warning H02: `DUE000` is read but never called: its outputs stay at their initial values"],
    ),
    (
        "status-word",
        Language::Il,
        "SEE DIN0.0\nSHOW TREC0.DONE",
        &["2:12 error C01: there is no `DONE` here | it has RUN, GOAL, CLEAR, TICK, READY, BUSY, RUNS, PRESENT"],
    ),
    (
        "status-word",
        Language::Il,
        "SEE TREC0\nSHOW DOUT0.0",
        &["1:5 warning H02: `TREC0` is read but never called: its outputs stay at their initial values"],
    ),
    (
        "status-word",
        Language::Il,
        "SEE TREC99999.DONE\nSHOW DOUT0.0",
        &["1:9 error C12: in `TREC99999`: `99999` is out of range; these numbers go from 0 to 199"],
    ),
    (
        "point-block",
        Language::Il,
        "FROM PTIN1\nINTO PTOUT1\nSTOPHERE\nFROM PTIN2\nINTO PTOUT2",
        &["4:1 warning H03: no scan reaches this instruction: it stands behind a jump or return and has no label"],
    ),
    (
        "point-block",
        Language::Il,
        "FROM PTIN1\nHALT PTOUT1\nSTOPHERE",
        &["2:1 error C01: `HALT` is neither an instruction nor a function"],
    ),
    (
        "byte-bit",
        Language::St,
        "PROGRAM P\nVAR D : DELAY_ON; END_VAR\nD(GO := TRUE, SPAN := T#5ms, IN := TRUE);\nEND_PROGRAM\n",
        &["3:30 error C06: `DELAY_ON` has no input `IN` | it has GO, SPAN, CLEAR"],
    ),
    (
        "byte-bit",
        Language::St,
        "PROGRAM P\nACT100.0 := SENSE0.9;\nEND_PROGRAM\n",
        &[
            "2:4 error C12: in `ACT100.0`: `100` is out of range; these numbers go from 0 to 99",
            "2:20 error C12: in `SENSE0.9`: `9` is out of range; these numbers go from 0 to 7",
        ],
    ),
    (
        "byte-bit",
        Language::St,
        "PROGRAM P\nCELL600 := 3;\nDIAL3 := CELL599;\nEND_PROGRAM\n",
        &["2:5 error C12: in `CELL600`: `600` is out of range; these numbers go from 0 to 599"],
    ),
    (
        "octal-coil",
        Language::Ld,
        "PROGRAM P\n|  INLET0      DELAY3  |\n+---| |-------( # )---+\nEND_PROGRAM\n",
        &[
            "2:24 error R08: this wire ends in the air",
            "3:15 error R08: this coil has no second value below it | write it on the line below, over the middle",
            "3:23 error R08: this wire ends in the air",
        ],
    ),
    (
        "octal-coil",
        Language::Ld,
        "PROGRAM P\n|  INLET0   OUTLET0  |\n+---| |-----(FISH)--+\nEND_PROGRAM\n",
        &[
            "2:13 error R08: `OUTLET0` belongs to nothing | a name stands right above its contact, coil or box; a value at the end of a wire",
            "2:22 error R08: this wire ends in the air",
            "3:13 error R08: `(FISH)` is no coil",
            "3:21 error R08: this wire ends in the air",
        ],
    ),
];

pub(super) const SHEET: &[Changed] = &[
    (
        "[names]",
        "[numbers]\nword = \"STRING\"\n\n[names]",
        &["15:8 error D01: a word is one of the standard's integers or bit strings, such as INT"],
    ),
    ("length = 24", "length = 0", &["15:10 error D01: names have at least one character"]),
    (
        "retained = [[400, 599]]",
        "retained = [[400, 599]]\ngiven = [[0, 9]]\nshown = [[5, 20]]",
        &["41:9 error D01: 0 to 9 is given already"],
    ),
    (
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 8, last = 0o577 } }",
        "pattern = \"INLET{point}\"\ngiven = [[0, 3]]\nfields = { point = { radix = 8, last = 0o577 } }",
        &["22:9 error D01: only memory is given or shown so; inputs and outputs are anyhow"],
    ),
    (
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 8, last = 0o577 } }",
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 8, first = 9, last = 3 } }",
        &["22:51 error D01: the last number is below the first, 9"],
    ),
    (
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 8, last = 0o577 } }",
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 8, last = 0o577, digits = 2 } }",
        &["22:56 error D01: the last number, 383, has more than 2 digits"],
    ),
    (
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 8, last = 0o577 } }",
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 16, last = 255 } }",
        &["22:30 error D01: hexadecimal numbers need a fixed count of digits, so that they begin with a digit"],
    ),
    (
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 8, last = 0o577 } }",
        "pattern = \"INLET{point}.{point}\"\nfields = { point = { radix = 8, last = 7 } }",
        &["21:11 error D01: the field `point` stands in it twice"],
    ),
    (
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 8, last = 0o577 } }",
        "pattern = \"INLET{a}{b}\"\nfields = { a = { last = 7 }, b = { last = 7 } }",
        &[
            "21:11 error D01: nothing stands between `{b}` and the field before it, which has no fixed count of `digits`",
        ],
    ),
    (
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 8, last = 0o577 } }",
        "pattern = \"INLET{a}\"\nfields = { a = { last = 7 }, b = { last = 7 } }",
        &["22:34 error D01: the pattern has no `{b}`"],
    ),
    (
        "pattern = \"INLET{point}\"\nfields = { point = { radix = 8, last = 0o577 } }",
        "pattern = \"INLET\"\nfields = {}",
        &["21:11 error D01: an address needs a number: write a field in braces, `{number}`"],
    ),
    ("[names]", "[words]\n\"3D\" = \"LD\"\n\n[names]", &["15:8 error D01: `3D` is not a word"]),
    (
        "[names]",
        "[words]\nUPWARD = \"NOT_THERE\"\n\n[names]",
        &["15:10 error D01: `UPWARD` is also a word for a device"],
    ),
    (
        r#"power = ["COIL"], operands = ["PRESET"]"#,
        r#"power = [], operands = ["PRESET"]"#,
        &["79:30 error D01: an operation takes at least one condition"],
    ),
    (
        r#"power = ["COIL"], operands = ["PRESET"]"#,
        r#"power = ["COIL"], operands = ["PRESENT"]"#,
        &["79:7 error D01: `COIL_TIMER` has no input `PRESENT`; it has `COIL`, `PRESET`, `CLEAR`, `TICK`"],
    ),
    (
        "numbers = { area = \"timers\", first = 0, last = 159 }\n",
        "",
        &["78:6 error D01: only devices with numbers have operations and registers"],
    ),
    (
        "op = [{ word = \"ST\", power = [\"COIL\"], operands = [\"PRESET\"] }, { word = \"R\", power = [\"CLEAR\"] }]\n",
        "",
        &["77:11 error D01: a device with a number needs an `op` that drives it"],
    ),
    (
        r#"numbers = { area = "timers", first = 0, last = 159 }"#,
        r#"numbers = { area = "bits", first = 0, last = 159 }"#,
        &["77:20 error D01: devices have an area of their own, or stand in words with a list of `registers`"],
    ),
    (
        r#"numbers = { area = "timers", first = 0, last = 159 }"#,
        r#"numbers = { area = "timers", first = 9, last = 3 }"#,
        &["77:11 error D01: these numbers are counted from 0, and the area's last is 319"],
    ),
    (
        r#"pins = { run = "COIL", preset"#,
        "pins = { preset",
        &["80:8 error D01: an on-delay timer needs a pin for `run`"],
    ),
    (
        "timer = { unit",
        "counter = { unit",
        &[
            "83:13 error D01: unknown field `unit`, expected one of `trigger`, `power-up`, `counts`, `limit`, `least`, `most`, `most-preset`, `done`, `reset`",
        ],
    ),
    (
        r#"timer = { unit = "ticks""#,
        r#"timer = { unit = "fish""#,
        &["83:18 error D01: unknown variant `fish`, expected `duration` or `ticks`"],
    ),
    ("most = 32767", r#"most = "many""#, &[r#"83:67 error D01: invalid type: string "many", expected i64"#]),
    (r#"tick = "T#100ms""#, r#"tick = "T#0ms""#, &["83:34 error D01: `T#0ms` is no duration; write T#100ms"]),
    (
        r#"name = "octal-coil""#,
        r#"name = """#,
        &["1:8 error D01: a sheet's name is small letters, digits and `-`, and begins with a letter"],
    ),
    (
        r#"name = "octal-coil""#,
        r#"nme = "octal-coil""#,
        &[
            "1:1 error D01: unknown field `nme`, expected one of `name`, `title`, `about`, `scan`, `numbers`, `names`, `area`, `card`, `words`, `listing`, `routines`, `device`",
        ],
    ),
    (
        "[scan]",
        "[scann]",
        &[
            "10:2 error D01: unknown field `scann`, expected one of `name`, `title`, `about`, `scan`, `numbers`, `names`, `area`, `card`, `words`, `listing`, `routines`, `device`",
        ],
    ),
    (
        r#"protocol = { table = "coils""#,
        r#"protocol = { table = "spirals""#,
        &[
            "31:22 error D01: unknown variant `spirals`, expected one of `coils`, `discrete-inputs`, `input-registers`, `holding-registers`",
        ],
    ),
];
