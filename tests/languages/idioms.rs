//! How single idioms of one language read in the other: pairs of snippets, as snapshots that a person has read. Each
//! pair is also run side by side.

use crate::common::{translated, version};
use honest_twin::lang::Language;
use honest_twin::show;
use honest_twin::twin::{Effort, Verdict, compare};
use std::fmt::Write;

const HEAD: &str = "\
PROGRAM P
VAR_INPUT
    a, b, c : BOOL;
    n, m : INT;
    w : WORD;
    r : REAL;
    t : TIME;
END_VAR
VAR_OUTPUT
    x, y, z : BOOL;
    i, j : INT;
    d : DINT;
    o : WORD;
    q : REAL;
    p : TIME;
END_VAR
VAR
    on : TON;
    up : CTU;
    latch : SR;
    edge : R_TRIG;
    list : ARRAY [0..9] OF INT;
    k : INT;
END_VAR
";

/// The body of a program, without the indentation of its unit; added variables in front.
fn body(text: &str) -> String {
    let start = text.rfind("END_VAR").unwrap() + "END_VAR\n".len();
    let body = text[start..].trim_matches('\n').trim_end_matches("END_PROGRAM");
    let added = text.find("VAR_TEMP").map_or(String::new(), |at| {
        let section = &text[at..at + text[at..].find("END_VAR").unwrap()];
        section.lines().skip(1).map(|l| format!("  [{}]\n", l.trim())).collect()
    });
    format!(
        "{added}{}",
        body.lines().map(|l| format!("  {}\n", l.strip_prefix("    ").unwrap_or(l))).collect::<String>()
    )
}

fn pairs(snippets: &[&str], from: Language, to: Language) -> String {
    let mut out = String::new();
    for snippet in snippets {
        let text = format!("{HEAD}{snippet}\nEND_PROGRAM\n");
        let other = translated(snippet, &text, from, to);
        let effort = Effort { scenarios: 120, scans: 12_000, ..Effort::default() };
        let verdict = compare(&version("left", &text, from), &version("right", &other, to), &effort, |_| {});
        assert!(matches!(verdict, Verdict::Tested(_)), "{snippet}\n{other}\n{}", show::verdict(&verdict));
        let shown: String = snippet.lines().map(|l| format!("  {}\n", l.trim_end())).collect();
        let _ = writeln!(out, "{}:\n{shown}{}:\n{}", from.ending(), to.ending(), body(&other));
    }
    out
}

#[test]
fn text_as_list() {
    let snippets = [
        "x := a AND NOT b OR c;",
        "x := (a OR b) AND (b XOR NOT c);",
        "x := NOT (a AND b);",
        "x := NOT a;",
        "i := n + m * 2 - k;",
        "i := (n - m) * (n + m);",
        "i := -n;",
        "i := -5;",
        "d := n - DINT#70000;",
        "q := r ** 2;",
        "q := SQRT(ABS(r));",
        "p := t * 2 + T#5s;",
        "o := SHL(w AND 16#00FF, 8) OR WORD#1;",
        "i := MAX(n, m, 3);",
        "i := SEL(a AND b, n, m + 1);",
        "i := LIMIT(MN := 0, IN := n, MX := 9);",
        "x := n > m;",
        "x := (n > m) = (n > 3);",
        "x := LT(n, m, 9);",
        "IF a AND b THEN x := TRUE; END_IF;",
        "IF a THEN x := TRUE; y := FALSE; END_IF;",
        "IF a THEN x := b; END_IF;",
        "IF a THEN i := 1; ELSIF b THEN i := 2; ELSE i := 3; END_IF;",
        "IF NOT a THEN i := 1; END_IF;",
        "IF n > 100 THEN RETURN; END_IF; i := 1;",
        "CASE n OF 1: i := 10; 2, 5..7: i := 20; ELSE i := 0; END_CASE;",
        "FOR k := 0 TO 9 DO list[k] := k; END_FOR;",
        "FOR k := n TO m BY 2 DO i := i + 1; IF i > 50 THEN EXIT; END_IF; END_FOR;",
        "FOR k := 9 TO 0 BY -3 DO IF list[k] = 0 THEN CONTINUE; END_IF; i := i + 1; END_FOR;",
        "WHILE (k < 5) AND a DO k := k + 1; END_WHILE; k := 0;",
        "REPEAT k := k + 1; UNTIL k >= 4 END_REPEAT; k := 0;",
        "on(IN := a AND b, PT := T#1s); x := on.Q; p := on.ET;",
        "up(CU := a, R := b, PV := 3, Q => x, CV => i);",
        "latch(a, NOT b); x := latch.Q1;",
        "on.IN := a; on();",
    ];
    insta::assert_snapshot!(pairs(&snippets, Language::St, Language::Il));
}

#[test]
fn list_as_text() {
    let snippets = [
        "LD a\nOR x\nAND b\nST x",
        "LD a\nANDN b\nORN c\nSTN x",
        "LD a\nOR( b\nAND c\n)\nST x",
        "LD a\nST x\nAND b\nST y",
        "LD a\nAND x\nST x\nST y",
        "LD n\nADD m\nST i\nMUL 2\nST j",
        "LD n\nADD m\nST d",
        "LD a\nS x\nR y",
        "LD x\nXOR a\nS x\nST y",
        "LD a\nNOT\nST x",
        "LD n\nGT 5\nAND( m\nLT 3\n)\nST x",
        "LD n\nMAX m, 7\nST i",
        "SEL(G := a, IN0 := n, IN1 := (\nLD m\nADD 1\n)\n)\nST i",
        "LD w\nANDN 16#0F\nST o",
        "LD a\nIN on\nLD T#1s\nPT on\nLD on.Q\nST x",
        "LD a\nCU up\nLD b\nR up\nLD 3\nPV up\nLD up.CV\nST i",
        "LD a\nCALC edge(CLK := b)\nLD edge.Q\nST x",
        "LD a\nJMPCN skip\nLD n\nST i\nskip:",
        "LD a\nJMPC yes\nLD 1\nJMP both\nyes:\nLD 2\nboth:\nST i",
        "LD a\nJMPC out\nLD b\nJMPC out\nLD c\nST x\nout:",
        "LD n\nEQ 1\nJMPC one\nLD n\nEQ 2\nJMPC two\nLD 0\nST i\nJMP out\none:\nLD 10\nST i\nJMP out\ntwo:\nLD 20\nST i\nout:",
        "LD 0\nST k\nmore:\nLD k\nADD 1\nST k\nLT 5\nJMPC more\nLD k\nST i",
        "LD 0\nST k\ntop:\nLD k\nGT 9\nJMPC out\nLD list[k]\nADD i\nST i\nLD k\nADD 1\nST k\nJMP top\nout:",
        "LD a\nRETC\nLD n\nST i",
        "LD a\nJMPC deep\nback:\nLD n\nST i\nJMP out\ndeep:\nLD m\nST j\nLD b\nJMPC back\nout:",
        "LD n\nDIV 3\nLD a\nST x",
        "LD a\nST x\nJMP out\nLD b\nST y\nout:",
    ];
    insta::assert_snapshot!(pairs(&snippets, Language::Il, Language::St));
}
