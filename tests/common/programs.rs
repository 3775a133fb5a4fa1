//! Random programs: typed, all statements, all standard blocks, functions and blocks of their own.

use fastrand::Rng;
use std::fmt::Write;

const ALL: &[&str] = &[
    "BOOL", "SINT", "INT", "DINT", "LINT", "USINT", "UINT", "UDINT", "ULINT", "BYTE", "WORD", "DWORD", "LWORD", "REAL",
    "LREAL", "TIME", "Mode",
];
const INTS: &[&str] = &["SINT", "INT", "DINT", "LINT", "USINT", "UINT", "UDINT", "ULINT"];

/// A program and a stimulus for it.
pub struct Random {
    pub text: String,
    pub stimulus: String,
}

struct Writer {
    rng: Rng,
    out: String,
    /// Names that can be read, by type; and which of them can be written.
    reads: Vec<(String, &'static str)>,
    writes: Vec<(String, &'static str)>,
    blocks: Vec<(String, &'static str)>,
    loops: u32,
    counters: u32,
    /// Control variables of the loops around the code at hand: nothing else writes them.
    busy: Vec<String>,
    /// Divisions by what may be zero, and indices that may be out of bounds.
    faults: bool,
}

/// The program of a seed.
pub fn random(seed: u64) -> Random {
    let mut w = Writer {
        rng: Rng::with_seed(seed),
        out: String::new(),
        reads: Vec::new(),
        writes: Vec::new(),
        blocks: Vec::new(),
        loops: 0,
        counters: 0,
        busy: Vec::new(),
        faults: seed.is_multiple_of(8),
    };
    w.out.push_str(LIBRARY);
    w.out.push_str("PROGRAM Hatchery\nVAR_INPUT\n");
    let mut inputs = Vec::new();
    for (index, ty) in ["BOOL", "BOOL", "BOOL", "INT", "DINT", "UINT", "WORD", "TIME"].into_iter().enumerate() {
        let name = format!("in{index}");
        let _ = writeln!(w.out, "    {name} : {ty};");
        w.reads.push((name.clone(), ty));
        inputs.push((name, ty));
    }
    w.out.push_str("END_VAR\nVAR_OUTPUT\n");
    w.variables("out", ALL);
    w.out.push_str("END_VAR\nVAR\n");
    w.variables("v", ALL);
    w.arrays();
    w.instances();
    w.out.push_str("    k0, k1, k2 : INT;\n    n0, n1, n2, n3, n4, n5, n6, n7, n8, n9 : INT;\nEND_VAR\n");
    let count = w.rng.usize(4..14);
    w.list(count, 0);
    w.out.push_str("END_PROGRAM\n");
    let stimulus = stimulus(&mut w.rng, &inputs);
    Random { text: w.out, stimulus }
}

const LIBRARY: &str = "\
TYPE
    Mode : (Rest, Feed, Clean := 5, Light);
    Pair : STRUCT
        A : INT := 3;
        B : BOOL;
    END_STRUCT;
END_TYPE

FUNCTION Scaled : INT
VAR_INPUT
    X : INT;
    Times : INT := 2;
END_VAR
VAR
    T : INT;
END_VAR
    T := X * Times;
    IF T > 100 THEN
        Scaled := T - 100;
        RETURN;
    END_IF;
    Scaled := T;
END_FUNCTION

FUNCTION_BLOCK Doser
VAR_INPUT
    Run : BOOL;
    Dose : INT;
END_VAR
VAR_OUTPUT
    Total : INT;
    Full : BOOL;
END_VAR
VAR_IN_OUT
    Shared : INT;
END_VAR
VAR
    Edge : R_TRIG;
END_VAR
    Edge(CLK := Run);
    IF Edge.Q THEN
        Total := Total + Dose;
        Shared := Shared + 1;
    END_IF;
    Full := Total > 50;
END_FUNCTION_BLOCK

";

impl Writer {
    fn variables(&mut self, prefix: &str, types: &[&'static str]) {
        for (index, ty) in types.iter().enumerate() {
            let name = format!("{prefix}{index}");
            let init = if self.rng.u8(0..3) == 0 { format!(" := {}", self.literal(ty)) } else { String::new() };
            let _ = writeln!(self.out, "    {name} : {ty}{init};");
            self.reads.push((name.clone(), ty));
            self.writes.push((name, ty));
        }
    }

    fn arrays(&mut self) {
        self.out.push_str("    arr : ARRAY [0..3, 1..2] OF INT := [1, 2, 3, 2(7)];\n    pair : Pair;\n    pairs : ARRAY [1..3] OF Pair;\n");
        for index in 0..4 {
            let name = format!("arr[{index}, {}]", 1 + index % 2);
            self.reads.push((name.clone(), "INT"));
            self.writes.push((name, "INT"));
        }
        for (name, ty) in [("pair.A", "INT"), ("pair.B", "BOOL"), ("pairs[2].A", "INT"), ("pairs[3].B", "BOOL")] {
            self.reads.push((name.to_string(), ty));
            self.writes.push((name.to_string(), ty));
        }
        // An index that varies, always within its bounds.
        self.reads.push(("pairs[1 + ABS(v1 MOD 3)].A".to_string(), "INT"));
        self.writes.push(("pairs[1 + ABS(v1 MOD 3)].A".to_string(), "INT"));
    }

    fn instances(&mut self) {
        let kinds: &[(&'static str, &[(&str, &'static str)])] = &[
            ("TON", &[("Q", "BOOL"), ("ET", "TIME")]),
            ("TOF", &[("Q", "BOOL"), ("ET", "TIME")]),
            ("TP", &[("Q", "BOOL"), ("ET", "TIME")]),
            ("CTU", &[("Q", "BOOL"), ("CV", "INT")]),
            ("CTD", &[("Q", "BOOL"), ("CV", "INT")]),
            ("CTUD", &[("QU", "BOOL"), ("QD", "BOOL"), ("CV", "INT")]),
            ("CTU_DINT", &[("Q", "BOOL"), ("CV", "DINT")]),
            ("SR", &[("Q1", "BOOL")]),
            ("RS", &[("Q1", "BOOL")]),
            ("R_TRIG", &[("Q", "BOOL")]),
            ("F_TRIG", &[("Q", "BOOL")]),
            ("Doser", &[("Total", "INT"), ("Full", "BOOL")]),
        ];
        for (kind, pins) in kinds {
            let name = format!("b{}", self.blocks.len());
            let _ = writeln!(self.out, "    {name} : {kind};");
            for (pin, ty) in *pins {
                self.reads.push((format!("{name}.{pin}"), ty));
            }
            self.blocks.push((name, kind));
        }
    }

    fn pick(&mut self, ty: &str, written: bool) -> Option<String> {
        let list = if written { &self.writes } else { &self.reads };
        let fits: Vec<&String> = list.iter().filter(|(_, t)| *t == ty).map(|(n, _)| n).collect();
        (!fits.is_empty()).then(|| fits[self.rng.usize(0..fits.len())].clone())
    }

    fn literal(&mut self, ty: &str) -> String {
        let small = self.rng.i32(0..9);
        match ty {
            "BOOL" => ["TRUE", "FALSE"][self.rng.usize(0..2)].to_string(),
            "TIME" => format!("T#{}ms", small * 10),
            "REAL" | "LREAL" => format!("{small}.{}", self.rng.u8(0..10)),
            "Mode" => ["Rest", "Mode#Feed", "Clean", "Light"][self.rng.usize(0..4)].to_string(),
            "BYTE" | "WORD" | "DWORD" | "LWORD" => format!("{ty}#16#{:X}", self.rng.u8(..)),
            "SINT" | "INT" | "DINT" | "LINT" if self.rng.bool() => format!("{ty}#-{small}"),
            _ if self.rng.bool() => format!("{ty}#{small}"),
            _ => small.to_string(),
        }
    }

    fn expr(&mut self, ty: &'static str, depth: u32) -> String {
        if depth == 0 || self.rng.u8(0..5) == 0 {
            let name = if self.rng.u8(0..4) == 0 { None } else { self.pick(ty, false) };
            return name.unwrap_or_else(|| self.literal(ty));
        }
        let d = depth - 1;
        match ty {
            "BOOL" => match self.rng.u8(0..8) {
                0 => format!("NOT ({})", self.expr("BOOL", d)),
                1..=4 => {
                    let op = ["AND", "OR", "XOR", "&"][self.rng.usize(0..4)];
                    format!("({} {op} {})", self.expr("BOOL", d), self.expr("BOOL", d))
                }
                5 => self.call(ty, d),
                _ => {
                    let of = ALL[self.rng.usize(0..ALL.len())];
                    let ops: &[&str] =
                        if matches!(of, "Mode" | "BOOL") { &["=", "<>"] } else { &["=", "<>", "<", "<=", ">", ">="] };
                    let op = ops[self.rng.usize(0..ops.len())];
                    // A literal alone on both sides has no type of its own to disagree with.
                    format!("({} {op} {})", self.pick(of, false).unwrap_or_default(), self.expr(of, d))
                }
            },
            "TIME" => match self.rng.u8(0..4) {
                0 => format!("({} + {})", self.expr(ty, d), self.expr(ty, d)),
                1 => format!("({} * {})", self.pick("TIME", false).unwrap_or_default(), self.rng.u8(0..4)),
                2 => format!("-({})", self.expr(ty, d)),
                _ => self.call(ty, d),
            },
            "BYTE" | "WORD" | "DWORD" | "LWORD" => match self.rng.u8(0..4) {
                0 => format!("NOT ({})", self.expr(ty, d)),
                1 => {
                    let f = ["SHL", "SHR", "ROL", "ROR"][self.rng.usize(0..4)];
                    format!("{f}({}, {})", self.pick(ty, false).unwrap_or_default(), self.rng.u8(0..20))
                }
                _ => {
                    let op = ["AND", "OR", "XOR"][self.rng.usize(0..3)];
                    format!("({} {op} {})", self.expr(ty, d), self.expr(ty, d))
                }
            },
            "REAL" | "LREAL" => {
                let op = ["+", "-", "*", "/"][self.rng.usize(0..4)];
                format!("({} {op} {})", self.expr(ty, d), self.expr(ty, d))
            }
            "Mode" => format!("SEL({}, {}, {})", self.expr("BOOL", d), self.expr(ty, d), self.expr(ty, d)),
            _ => match self.rng.u8(0..8) {
                0..=3 => {
                    let op = ["+", "-", "*", "MOD"][self.rng.usize(0..4)];
                    format!("({} {op} {})", self.expr(ty, d), self.expr(ty, d))
                }
                4 if self.faults => format!("({} / {})", self.expr(ty, d), self.expr(ty, 0)),
                4 => format!("({} / {})", self.expr(ty, d), self.rng.u8(1..9)),
                5 if matches!(ty, "SINT" | "INT" | "DINT" | "LINT") => {
                    format!("-({})", self.pick(ty, false).unwrap_or_default())
                }
                _ => self.call(ty, d),
            },
        }
    }

    fn call(&mut self, ty: &'static str, d: u32) -> String {
        match self.rng.u8(0..7) {
            0 => format!("SEL({}, {}, {})", self.expr("BOOL", d), self.expr(ty, d), self.expr(ty, d)),
            1 if ty != "BOOL" => format!("MAX({}, {}, {})", self.expr(ty, d), self.expr(ty, d), self.expr(ty, d)),
            2 if ty != "BOOL" => {
                format!("LIMIT(MX := {}, IN := {}, MN := {})", self.expr(ty, d), self.expr(ty, d), self.expr(ty, d))
            }
            3 => {
                let k = self.expr("INT", d);
                format!("MUX(LIMIT(0, {k}, 1), {}, {})", self.expr(ty, d), self.expr(ty, d))
            }
            4 if INTS.contains(&ty) => {
                let from = INTS[self.rng.usize(0..INTS.len())];
                format!("{from}_TO_{ty}({})", self.expr(from, d))
            }
            5 if ty == "INT" => format!("Scaled(Times := {}, X := {})", self.expr("INT", d), self.expr("INT", d)),
            6 if ty == "INT" => format!("Scaled({})", self.expr("INT", d)),
            _ => self.pick(ty, false).unwrap_or_else(|| self.literal(ty)),
        }
    }

    fn line(&mut self, level: usize, text: &str) {
        let _ = writeln!(self.out, "{}{text}", "    ".repeat(level + 1));
    }

    fn list(&mut self, count: usize, level: usize) {
        for _ in 0..count {
            if level == 0 && self.rng.u8(0..4) == 0 {
                self.out.push('\n');
                self.line(level, "(* raceway *)");
            }
            self.statement(level);
        }
    }

    fn assign(&mut self, level: usize) {
        let ty = ALL[self.rng.usize(0..ALL.len())];
        let ty = if self.rng.bool() { ["BOOL", "INT"][self.rng.usize(0..2)] } else { ty };
        let Some(target) = self.pick(ty, true) else { return };
        let value = self.expr(ty, 3);
        self.line(level, &format!("{target} := {value};"));
    }

    fn statement(&mut self, level: usize) {
        let kind = if level >= 3 { self.rng.u8(0..8) } else { self.rng.u8(0..20) };
        match kind {
            0..=5 => self.assign(level),
            6 | 7 | 17 => self.block_call(level),
            8..=10 => {
                let c = self.expr("BOOL", 2);
                self.line(level, &format!("IF {c} THEN"));
                self.inner(level);
                if self.rng.bool() {
                    let c = self.expr("BOOL", 2);
                    self.line(level, &format!("ELSIF {c} THEN"));
                    self.inner(level);
                }
                if self.rng.bool() {
                    self.line(level, "ELSE");
                    self.inner(level);
                }
                self.line(level, "END_IF;");
            }
            11 | 12 => self.case(level),
            13 | 14 => self.for_loop(level),
            15 | 16 => self.bounded_loop(level),
            18 => {
                let target = self.pick("BOOL", true).unwrap_or_default();
                let c = self.expr("BOOL", 2);
                let value = ["TRUE", "FALSE"][self.rng.usize(0..2)];
                self.line(level, &format!("IF {c} THEN {target} := {value}; END_IF;"));
            }
            _ if level > 0 && self.rng.u8(0..4) == 0 => {
                let c = self.expr("BOOL", 1);
                let word = if self.loops > 0 { ["EXIT", "CONTINUE", "RETURN"][self.rng.usize(0..3)] } else { "RETURN" };
                self.line(level, &format!("IF {c} THEN {word}; END_IF;"));
            }
            _ => self.line(level, "pairs[1] := pair;"),
        }
    }

    fn inner(&mut self, level: usize) {
        let count = self.rng.usize(1..3);
        self.list(count, level + 1);
    }

    fn case(&mut self, level: usize) {
        if self.rng.u8(0..3) == 0 {
            let selector = self.expr("Mode", 1);
            self.line(level, &format!("CASE {selector} OF"));
            for labels in ["Rest, Light", "Feed..Clean"] {
                self.line(level + 1, &format!("{labels}:"));
                self.inner(level + 1);
            }
        } else {
            let selector = self.expr("INT", 2);
            self.line(level, &format!("CASE {selector} OF"));
            for base in [-3, 2, 6] {
                let labels = match self.rng.u8(0..3) {
                    0 => format!("{base}"),
                    1 => format!("{base}..{}", base + 2),
                    _ => format!("{base}, {}..{}", base + 1, base + 3),
                };
                self.line(level + 1, &format!("{labels}:"));
                self.inner(level + 1);
            }
        }
        if self.rng.bool() {
            self.line(level, "ELSE");
            self.inner(level);
        }
        self.line(level, "END_CASE;");
    }

    fn for_loop(&mut self, level: usize) {
        let free: Vec<&str> = ["k0", "k1", "k2"].into_iter().filter(|k| !self.busy.iter().any(|b| b == k)).collect();
        let Some(k) = free.first().map(ToString::to_string) else { return self.assign(level) };
        let limit = match self.rng.u8(0..3) {
            0 => format!("LIMIT(0, {}, 6)", self.expr("INT", 1)),
            _ => self.rng.u8(2..7).to_string(),
        };
        let (head, by) = match self.rng.u8(0..4) {
            0 => (format!("FOR {k} := 6 TO 1"), " BY -2".to_string()),
            1 => (format!("FOR {k} := 0 TO {limit}"), " BY 2".to_string()),
            2 => (
                format!("FOR {k} := 1 TO {limit}"),
                format!(" BY MAX(1, {})", self.pick("INT", false).unwrap_or_default()),
            ),
            _ => (format!("FOR {k} := 1 TO {limit}"), String::new()),
        };
        // A large step from near the limit would wrap; the limits here are far from the end of INT.
        let by = if by.contains("MAX") { " BY LIMIT(1, v2, 5)".to_string() } else { by };
        self.line(level, &format!("{head}{by} DO"));
        self.busy.push(k.clone());
        self.reads.push((k, "INT"));
        self.loops += 1;
        self.inner(level);
        self.loops -= 1;
        self.reads.pop();
        self.busy.pop();
        self.line(level, "END_FOR;");
    }

    fn bounded_loop(&mut self, level: usize) {
        if self.counters == 10 {
            return self.assign(level);
        }
        let n = format!("n{}", self.counters);
        self.counters += 1;
        self.line(level, &format!("{n} := 0;"));
        let c = self.expr("BOOL", 1);
        let repeat = self.rng.bool();
        let head = if repeat { "REPEAT".to_string() } else { format!("WHILE ({n} < 5) AND {c} DO") };
        self.line(level, &head);
        self.line(level + 1, &format!("{n} := {n} + 1;"));
        self.loops += 1;
        self.inner(level);
        self.loops -= 1;
        self.line(
            level,
            &if repeat { format!("UNTIL ({n} >= 4) OR {c} END_REPEAT;") } else { "END_WHILE;".to_string() },
        );
    }

    fn block_call(&mut self, level: usize) {
        let (name, kind) = self.blocks[self.rng.usize(0..self.blocks.len())].clone();
        let b = |w: &mut Self| w.expr("BOOL", 2);
        let args = match kind {
            "TON" | "TOF" | "TP" => format!("IN := {}, PT := {}", b(self), self.expr("TIME", 1)),
            "CTU" | "CTU_DINT" => {
                let pv = if kind == "CTU" { self.expr("INT", 1) } else { self.expr("DINT", 1) };
                format!("CU := {}, R := {}, PV := {pv}", b(self), b(self))
            }
            "CTD" => format!("{}, {}, 3", b(self), b(self)),
            "CTUD" => format!("CU := {}, CD := {}, R := {}, LD := {}, PV := 4", b(self), b(self), b(self), b(self)),
            "SR" => format!("S1 := {}, R := {}", b(self), b(self)),
            "RS" => format!("S := {}, R1 := {}", b(self), b(self)),
            "Doser" => {
                let shared = self.pick("INT", true).unwrap_or_default();
                let total = self.pick("INT", true).unwrap_or_default();
                let full = self.pick("BOOL", true).unwrap_or_default();
                let run = b(self);
                format!(
                    "Run := {run}, Dose := {}, Shared := {shared}, Total => {total}, NOT Full => {full}",
                    self.expr("INT", 1)
                )
            }
            _ => format!("CLK := {}", b(self)),
        };
        self.line(level, &format!("{name}({args});"));
    }
}

fn stimulus(rng: &mut Rng, inputs: &[(String, &'static str)]) -> String {
    let names: Vec<&str> = inputs.iter().map(|(n, _)| n.as_str()).collect();
    let mut text = format!("time_ms,@controller,{}\n", names.join(","));
    for row in 0..40 {
        let mut cells =
            vec![(row * 20).to_string(), if rng.u8(0..20) == 0 { "power-cycle".to_string() } else { String::new() }];
        for (_, ty) in inputs {
            let value = match *ty {
                "BOOL" => rng.u8(0..2).to_string(),
                "UINT" | "WORD" | "TIME" => rng.u16(0..200).to_string(),
                _ => rng.i16(-12..12).to_string(),
            };
            cells.push(if rng.bool() { value } else { String::new() });
        }
        let _ = writeln!(text, "{}", cells.join(","));
    }
    text
}
