//! What is large, deep, long or far away, through the command line: each case with limits on memory and on time by the operating
//! system, and what was said of it as one table.
#![cfg(unix)]
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    clippy::print_stdout,
    reason = "a test may fail loudly, and says how long it took"
)]

use std::fmt::Write;
use std::fs;
use std::path::Path;
use std::process::Command;
use std::time::Instant;
use tempfile::TempDir;

/// Kilobytes that a call may ask for, and seconds of one processor. What is tested is optimised, and checks its sums besides.
const MEMORY: u32 = 6_000_000;
const SECONDS: u32 = 120;

/// Bytes that a call may say.
const MOST_SAID: usize = 40_000;

/// A call, the files that it finds, and what it is about.
#[derive(Clone)]
struct Case {
    title: &'static str,
    files: Vec<(&'static str, String)>,
    call: &'static str,
}

/// Status and all that is said, cut to its first line.
fn said(folder: &Path, call: &str) -> String {
    let program = env!("CARGO_BIN_EXE_honest-twin");
    let limited = format!("ulimit -v {MEMORY} -t {SECONDS} && exec {program} {call} 2>&1");
    let output = Command::new("bash").current_dir(folder).args(["-c", &limited]).output().unwrap();
    let text = String::from_utf8(output.stdout).unwrap();
    let status = match output.status.code() {
        Some(_) if text.len() > MOST_SAID => return format!("{} bytes were said", text.len()),
        Some(status) if !text.contains("panicked") => status,
        _ => return format!("ENDED BY FORCE: {}", text.chars().take(300).collect::<String>()),
    };
    let line: String =
        text.lines().find(|line| !line.trim().is_empty()).unwrap_or_default().chars().take(150).collect();
    format!("{status}  {line}")
}

const HEAD: &str =
    "PROGRAM P\nVAR_INPUT a : BOOL; n : INT; x, y : LREAL; END_VAR\nVAR_OUTPUT q : BOOL; m : INT; z : LREAL; END_VAR\n";

fn program(body: &str) -> String {
    format!("{HEAD}{body}\nEND_PROGRAM\n")
}

fn many(count: usize, one: impl Fn(usize) -> String) -> String {
    (0..count).map(one).collect()
}

/// A document with so many boxes in one network, each in another one: two to the power of the depth, less one.
fn boxes(folder: &Path, depth: u32) -> String {
    fn tree(depth: u32) -> String {
        let op = if depth.is_multiple_of(2) { "OR" } else { "AND" };
        if depth == 0 { "a".to_string() } else { format!("({} {op} {})", tree(depth - 1), tree(depth - 1)) }
    }
    fs::write(folder.join("boxes.st"), program(&format!("q := {};", tree(depth)))).unwrap();
    let made = said(folder, "translate boxes.st --to fbd --exchange --unverified --out boxes.xml");
    assert!(made.starts_with('0'), "{made}");
    let document = fs::read_to_string(folder.join("boxes.xml")).unwrap();
    assert_eq!(document.matches("typeName=").count(), (1 << depth) - 1);
    document
}

/// Sources: long lines, many names, many statements, deep nesting.
fn sources() -> Vec<Case> {
    let check = |title, name: &'static str, text: String, call| Case { title, files: vec![(name, text)], call };
    let declared = |n: usize| format!("    v{n} : INT;\n");
    vec![
        check(
            "text of 10 MB in one line, with an error",
            "p.st",
            program(&format!("{} m := ;", "m := n; ".repeat(1_250_000))),
            "check p.st",
        ),
        check("a list of 2 MB in one line", "p.il", program(&"LD a ".repeat(400_000)), "check p.il"),
        check("a rung of 10 MB", "p.ld", program(&format!("|{}", "-".repeat(10_000_000))), "check p.ld"),
        check("blanks of 2 MB in a drawing", "p.ld", program(&format!("{}x", " ".repeat(2_000_000))), "check p.ld"),
        check("boxes of 1 MB in one line", "p.fbd", program(&"a--[b]".repeat(170_000)), "check p.fbd"),
        check("200,000 pragmas that do not end in a drawing", "p.ld", program(&"{\n".repeat(200_000)), "check p.ld"),
        check("1,000,000 comments that do not end", "p.st", program(&"(*".repeat(1_000_000)), "check p.st"),
        check("a name of 3 MB", "p.st", program(&format!("m := {};", "n".repeat(3_000_000))), "check p.st"),
        check("100,000 statements", "p.st", program(&"m := n;\n".repeat(100_000)), "check p.st"),
        check("100,000 lines of a list", "p.il", program(&"LD n\nST m\n".repeat(50_000)), "check p.il"),
        check(
            "16,000 variables",
            "p.st",
            format!("{HEAD}VAR\n{}END_VAR\nm := v9;\nEND_PROGRAM\n", many(16_000, declared)),
            "check p.st",
        ),
        check("8,000 unknown names", "p.st", program(&many(8_000, |n| format!("m := lost{n};\n"))), "check p.st"),
        check(
            "8,000 jumps to labels that are not there",
            "p.il",
            program(&many(8_000, |n| format!("L{n}: LD a\nJMPC M{n}\n"))),
            "check p.il",
        ),
        check(
            "30,000 labels of a CASE",
            "p.st",
            program(&format!("CASE n OF\n{}END_CASE;", many(30_000, |n| format!("{n}: m := 1;\n")))),
            "check p.st",
        ),
        check(
            "20,000 branches of an IF",
            "p.st",
            program(&format!("IF a THEN m := 0;\n{}END_IF;", "ELSIF a THEN m := n;\n".repeat(20_000))),
            "check p.st",
        ),
        check("parentheses 100,000 deep", "p.st", program(&format!("q := {}a;", "(".repeat(100_000))), "check p.st"),
        check("statements 100,000 deep", "p.st", program(&"IF a THEN ".repeat(100_000)), "check p.st"),
        check("4,000 nested instances", "p.st", nested(4_000), "check p.st"),
        check(
            "an array of a thousand million",
            "p.st",
            format!("{HEAD}VAR w : ARRAY[1..1000000000] OF INT; END_VAR\nm := w[n];\nEND_PROGRAM\n"),
            "check p.st",
        ),
        check("1,000 variables to rungs", "p.st", program_of(1_000), "translate p.st --to ld --unverified --out q.ld"),
        check("a network of 4,001 lines", "p.ld", program(&"|\n".repeat(4_001)), "check p.ld"),
    ]
}

/// Blocks in blocks.
fn nested(depth: usize) -> String {
    let block = |n: usize| {
        let (inner, call) = if n == 0 {
            (String::new(), String::new())
        } else {
            (format!("VAR i : B{}; END_VAR ", n - 1), "i();".to_string())
        };
        format!("FUNCTION_BLOCK B{n} {inner}VAR_OUTPUT o : BOOL; END_VAR o := TRUE; {call} END_FUNCTION_BLOCK\n")
    };
    format!("{}{HEAD}VAR i : B{}; END_VAR i();\nEND_PROGRAM\n", many(depth, block), depth - 1)
}

/// A program with as many variables, each used.
fn program_of(count: usize) -> String {
    let vars = many(count, |n| format!("v{n} : INT; "));
    format!("{HEAD}VAR {vars}END_VAR\n{}END_PROGRAM\n", many(count, |n| format!("v{n} := v{} + n;\n", (n + 1) % count)))
}

/// Runs: far times, many scans, repetitions in repetitions, waits of hours.
fn runs() -> Vec<Case> {
    let p = || ("p.st", program("q := a; m := n;"));
    let run = |title, more: Option<(&'static str, String)>, call| Case {
        title,
        files: [Some(p()), more].into_iter().flatten().collect(),
        call,
    };
    let repeats = |body: &str| format!("{}{body}{}", "repeat 1000 times\n".repeat(7), "end\n".repeat(7));
    let failing = "repeat 100000 times\nwait 1 scan\nexpect q = TRUE\nend\n".to_string();
    vec![
        run(
            "a stimulus ten years ahead",
            Some(("s.csv", "time_ms,a\n0,1\n315360000000,0\n".to_string())),
            "run p.st --stimulus s.csv",
        ),
        run("a million million scans", None, "run p.st --scans 1000000000000"),
        run("two million hours", None, "run p.st --for 2000000h"),
        run("scans of a nanosecond", None, "run p.st --for 1h --scan 1ns"),
        Case {
            title: "a trace of eight numbers that never stand still",
            files: vec![("p.st", restless(8))],
            call: "run p.st --scans 9000000 --trace t.csv",
        },
        run("a picture a thousand million scans on", None, "draw p.st --at 1000000000"),
        run(
            "seven levels of repetitions",
            Some(("s.scenario", repeats("set a on\nwait 1 scan\n"))),
            "run p.st --scenario s.scenario",
        ),
        run(
            "repetitions in which no time passes",
            Some(("s.scenario", repeats("set a on\n"))),
            "run p.st --scenario s.scenario",
        ),
        run(
            "100,000 expectations that fail",
            Some(("s.scenario", failing)),
            "run p.st --scenario s.scenario --trace t.csv",
        ),
        run(
            "200,000 lines of a scenario",
            Some(("s.scenario", "wait 1 scan\n".repeat(200_000))),
            "run p.st --scenario s.scenario --trace t.csv",
        ),
        run(
            "200,000 tags",
            Some(("tags.csv", format!("address,symbol\n{}", many(200_000, |n| format!("REG{n},Probe{n}\n"))))),
            "check p.st --tags tags.csv --from flat-register",
        ),
        run("a tolerance of hours", None, "compare p.st p.st --within 2h --scenarios 3 --faults 0"),
        run(
            "a wave of 100,000 scopes in one another",
            Some(("w.vcd", format!("$timescale 1 ms $end\n{}", "$scope module s $end\n".repeat(100_000)))),
            "run p.st --scenario w.vcd",
        ),
        run(
            "a range the wrong way round",
            Some(("t.toml", "[[version]]\nfiles = [\"p.st\"]\n[range]\nn = \"9..1\"\n".to_string())),
            "compare t.toml",
        ),
        run(
            "tables in tables of a twin file",
            Some(("t.toml", format!("a = {}", "[".repeat(100_000)))),
            "compare t.toml",
        ),
        run("a state of lists in lists", Some(("s.json", "[".repeat(1_000_000))), "compare p.st p.st --state s.json"),
    ]
}

/// A program with so many outputs that are another number in every scan.
fn restless(count: usize) -> String {
    let outputs = many(count, |n| format!("m{n} : DINT; "));
    format!("PROGRAM P\nVAR_OUTPUT {outputs}END_VAR\n{}END_PROGRAM\n", many(count, |n| format!("m{n} := m{n} + 1;\n")))
}

/// Documents of the exchange format, and a proof.
fn documents(folder: &Path) -> Vec<Case> {
    let wrong = |text: String| {
        let other = text.replacen("typeName=\"OR\"", "typeName=\"NONE_SUCH\"", 1);
        assert_ne!(text, other);
        vec![("boxes.xml", other)]
    };
    let attributes = many(200_000, |n| format!(" a{n}=\"1\""));
    let products = program("z := x * y + y * x + x * x * y;");
    let sums = products.replace("y * x", "x * y");
    vec![
        Case {
            title: "255 boxes in one network, one of them of no type",
            files: wrong(boxes(folder, 8)),
            call: "check boxes.xml",
        },
        Case {
            title: "4,095 boxes in one network, one of them of no type",
            files: wrong(boxes(folder, 12)),
            call: "check boxes.xml",
        },
        Case { title: "elements 100,000 deep", files: vec![("d.xml", "<a>".repeat(100_000))], call: "check d.xml" },
        Case {
            title: "200,000 attributes",
            files: vec![("d.xml", format!("<project{attributes}></project>"))],
            call: "check d.xml",
        },
        Case {
            title: "products of reals the other way round",
            files: vec![("p.st", products), ("r.st", sums)],
            call: "prove p.st r.st --time-limit 30s",
        },
    ]
}

/// Two versions with very many points, none of them by one name.
fn twins() -> Vec<Case> {
    let side = |name: &str, count: usize| {
        let outputs = many(count, |n| format!("    {name}{n} : BOOL;\n"));
        let body = many(count, |n| format!("    {name}{n} := a;\n"));
        format!("PROGRAM P\nVAR_INPUT a : BOOL; END_VAR\nVAR_OUTPUT\n{outputs}END_VAR\n{body}END_PROGRAM\n")
    };
    let both = |count| vec![("old.st", side("Feeder", count)), ("new.st", side("Blower", count))];
    let versions = "[[version]]\nfiles = [\"old.st\"]\n[[version]]\nfiles = [\"new.st\"]\n";
    let pairs = many(5_000, |n| format!("[[pair]]\nleft = \"Feeder{n}\"\nright = \"Blower{n}\"\n"));
    let rows = many(5_000, |n| format!(",,,Blower{n},\n"));
    vec![
        Case { title: "20,000 outputs without a partner", files: both(20_000), call: "compare old.st new.st" },
        Case {
            title: "5,000 pairs of a twin file",
            files: [both(5_000), vec![("t.toml", format!("{versions}{pairs}"))]].concat(),
            call: "compare t.toml --scenarios 2 --faults 0",
        },
        Case {
            title: "5,000 rows of a map that pair nothing",
            files: [
                both(5_000),
                vec![
                    ("m.csv", format!("old,symbol,comment,new,why\n{rows}")),
                    ("t.toml", format!("map = \"m.csv\"\n{versions}")),
                ],
            ]
            .concat(),
            call: "compare t.toml",
        },
    ]
}

#[test]
fn each_case_is_told_within_its_limits() {
    let folder = TempDir::new().unwrap();
    let cases = [sources(), runs(), documents(folder.path()), twins()].concat();
    let mut table = String::new();
    for Case { title, files, call } in cases {
        for (name, text) in files {
            fs::write(folder.path().join(name), text).unwrap();
        }
        let begun = Instant::now();
        writeln!(table, "{title}\n    {call}\n    {}", said(folder.path(), call)).unwrap();
        println!("{:6.1} s  {title}", begun.elapsed().as_secs_f64());
    }
    insta::assert_snapshot!(table);
}
