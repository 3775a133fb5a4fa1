//! Random programs of what provers have stumbled over, each with a change in it: two arrays on one index, elements handed
//! over, 64 bits of both signs, words beside BOOL, large arrays, long loops, enumerations, and a door that no search opens.

use fastrand::Rng;

/// A door that one number in four thousand million opens.
pub const KEY: u32 = 4_242_356_634;

const LIBRARY: &str = "\
TYPE Mode : (Rest, Rinse, Fault := 5); END_TYPE
FUNCTION_BLOCK Trough
VAR_IN_OUT p : INT; END_VAR
VAR_INPUT k : INT; END_VAR
VAR b : ARRAY[0..3] OF INT; x : INT; END_VAR
IF k >= 0 AND k < 4 THEN x := b[k]; b[k] := x + 1; END_IF;
p := p + x + 1;
END_FUNCTION_BLOCK
";

const HEAD: &str = "\
PROGRAM Hatchery
VAR_INPUT b0, b1 : BOOL; i, j : INT; w : WORD; u : ULINT; l : LINT; k : DWORD; m : Mode; END_VAR
VAR_OUTPUT ob, oc : BOOL; oi : INT; ow : WORD; ol : LINT; ou : ULINT; om : Mode; END_VAR
VAR RETAIN kept : INT; END_VAR
VAR a : ARRAY[0..9] OF INT; c : ARRAY[0..3] OF INT := [1, 2, 3, 4]; large : ARRAY[0..4999] OF INT;
f, g : Trough; n, x : INT; q : DINT; tm : TON; ct : CTU; END_VAR
";

/// Names and values of the inputs, in the order of the declaration.
pub const INPUTS: [&str; 9] = ["b0", "b1", "i", "j", "w", "u", "l", "k", "m"];

struct Writer(Rng);

impl Writer {
    fn pick<'t>(&mut self, list: &[&'t str]) -> &'t str {
        list[self.0.usize(0..list.len())]
    }

    fn small(&mut self) -> i32 {
        [1, 2, 3, 4, 5, 7, 9, 10, 15, 100][self.0.usize(0..10)]
    }

    fn int(&mut self, deep: u32) -> String {
        if deep == 0 || self.0.u8(0..3) == 0 {
            return match self.0.u8(0..5) {
                0 => self.small().to_string(),
                _ => self.pick(&["i", "j", "oi", "x", "kept", "ct.CV", "a[7]", "WORD_TO_INT(w)"]).to_string(),
            };
        }
        let (one, other, small) = (self.int(deep - 1), self.int(deep - 1), self.small());
        match self.0.u8(0..8) {
            0 => format!("({one} + {other})"),
            1 => format!("({one} - {other})"),
            2 => format!("({one} * {small})"),
            3 => format!("({one} / {small})"),
            4 => format!("MIN({one}, {other})"),
            5 => format!("({one} MOD {small})"),
            6 => format!("SEL({}, {one}, {other})", self.bool(deep - 1)),
            _ => format!("LIMIT(0, {one}, {small})"),
        }
    }

    fn bool(&mut self, deep: u32) -> String {
        if deep == 0 || self.0.u8(0..3) == 0 {
            return self.pick(&["b0", "b1", "ob", "tm.Q", "ct.Q", "oc"]).to_string();
        }
        let (a, b) = (self.bool(deep - 1), self.bool(deep - 1));
        match self.0.u8(0..6) {
            0 => format!("({a} AND {b})"),
            1 => format!("({a} OR {b})"),
            2 => format!("NOT ({a})"),
            3 => format!("({a} XOR {b})"),
            4 => format!("(m = {})", self.pick(&["Rest", "Rinse", "Fault"])),
            _ => {
                let op = self.pick(&["<", "<=", ">", "=", "<>"]);
                format!("({} {op} {})", self.int(deep - 1), self.int(deep - 1))
            }
        }
    }

    fn statement(&mut self) -> String {
        let (small, other) = (self.small(), self.small());
        match [
            0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 1, 2, 7, 12, 13, 14, 15, 16, 17, 18, 17,
        ][self.0.usize(0..30)]
        {
            0 => format!("oi := a[LIMIT(0, {0}, 9)] + c[LIMIT(0, {0}, 3)];", self.pick(&["i", "j", "oi"])),
            1 => format!("IF i >= 0 AND i < {} THEN f(p := a[i], k := i); END_IF;", 1 + small.min(9)),
            2 => format!("IF j >= 0 AND j < 4 THEN g(p := c[j], k := j); a[j + {}] := c[j]; END_IF;", small.min(6)),
            3 => format!("ol := ULINT_TO_LINT(u / {small}) / {other};"),
            4 => format!("oc := ULINT_TO_LINT(u / {small}) < {other};"),
            5 => format!("ou := LINT_TO_ULINT(l) / {small} + u MOD {other};"),
            6 => format!("oc := {small} < l / {other};"),
            7 => {
                let b = self.bool(1);
                format!("ow := (w AND BOOL_TO_WORD({b})) OR (w AND BOOL_TO_WORD(NOT ({b})));")
            }
            8 => format!("ow := BOOL_TO_WORD({}) OR (SHL(w, {small}) AND BOOL_TO_WORD(b0));", self.bool(1)),
            9 => format!("large[{}] := j; oi := large[LIMIT(0, i, 4999)];", 480 * small.min(10)),
            10 => format!("x := 0; FOR n := 1 TO {small} DO x := x + {}; END_FOR; oi := x;", self.int(1)),
            11 => format!("FOR n := 1 TO LIMIT(0, i, {small}) DO IF n > {other} THEN EXIT; END_IF; oi := n; END_FOR;"),
            12 => format!("tm(IN := {}, PT := T#{}ms); ob := tm.Q;", self.bool(1), small * 10),
            13 => format!("ct(CU := b1, R := {}, PV := {small}); ob := ct.Q;", self.bool(1)),
            14 => format!("IF {} THEN om := Rinse; ELSIF b1 THEN om := Fault; ELSE om := m; END_IF;", self.bool(1)),
            15 => format!("IF {} THEN kept := {}; END_IF;", self.bool(1), self.int(2)),
            16 => format!(
                "CASE {} OF 0: oi := {small}; 1..5: oi := {}; ELSE ob := b0; END_CASE;",
                self.int(1),
                self.int(1)
            ),
            17 => format!("ob := {};", self.bool(3)),
            _ => format!("oi := {};", self.int(3)),
        }
    }
}

/// A program of a seed, and the same with one change; behind the door where `gated`.
pub fn pair(seed: u64, gated: bool) -> [String; 2] {
    let mut w = Writer(Rng::with_seed(seed));
    let count = w.0.usize(2..6);
    let body: Vec<String> = (0..count).map(|_| w.statement()).collect();
    let body = body.join("\n");
    let changed = change(&mut w.0, &body);
    [body, changed].map(|body| {
        let door = "IF (k XOR SHL(k, 13) XOR SHR(k, 7)) = DWORD#16#5A17C3E9 THEN";
        let body = if gated { format!("{door}\n{body}\nEND_IF;") } else { body };
        format!("{LIBRARY}{HEAD}{body}\nEND_PROGRAM\n")
    })
}

/// One operator, number or name is another one; or, seldom, the same said in another way.
fn change(rng: &mut Rng, body: &str) -> String {
    const CHANGES: [(&str, &str); 19] = [
        (" < ", " <= "),
        (" > ", " >= "),
        (" AND ", " OR "),
        (" OR ", " AND "),
        ("NOT (", "("),
        (" + ", " - "),
        (" / ", " * "),
        (" = ", " <> "),
        ("b0", "b1"),
        ("(i", "(j"),
        (", 9)", ", 8)"),
        ("< 10", "< 4"),
        ("1 TO", "2 TO"),
        ("Rinse", "Fault"),
        ("T#10ms", "T#20ms"),
        ("b1", "(b1 AND TRUE)"),
        ("oi := x;", "oi := x + 0;"),
        (", 3)", ", 2)"),
        ("u / ", "1 + u / "),
    ];
    let mut sites: Vec<(usize, usize)> = Vec::new();
    for (number, (from, _)) in CHANGES.iter().enumerate() {
        sites.extend(body.match_indices(from).map(|(at, _)| (at, number)));
    }
    // Numbers of one digit as well.
    let digits = body.char_indices().filter(|(at, c)| {
        let before = body[..*at].chars().next_back().unwrap_or(' ');
        c.is_ascii_digit() && !before.is_ascii_alphanumeric() && before != '#'
    });
    let digits: Vec<usize> = digits.map(|(at, _)| at).collect();
    if sites.is_empty() || (rng.bool() && !digits.is_empty()) {
        let Some(at) = digits.get(rng.usize(0..digits.len().max(1))) else { return body.to_string() };
        let digit = body.as_bytes()[*at] - b'0';
        return format!("{}{}{}", &body[..*at], (digit + 1).min(9), &body[at + 1..]);
    }
    let (at, number) = sites[rng.usize(0..sites.len())];
    let (from, to) = CHANGES[number];
    format!("{}{to}{}", &body[..at], &body[at + from.len()..])
}
