//! Literals in every form, what is wrong with the others, and the parentheses of written expressions.

use honest_twin::check::verify;
use honest_twin::lang::{Language, read_project};
use honest_twin::model::Duration;
use honest_twin::scan::{Controller, Machine};
use honest_twin::source::Source;

/// The value of a constant expression, or the first problem with it.
fn value(ty: &str, expression: &str) -> String {
    let text = format!("PROGRAM P\nVAR v : {ty}; END_VAR\nv := {expression};\nEND_PROGRAM\n");
    let (project, read) = read_project(vec![(Source::new("v.st", text), Language::St)]);
    match verify(project, read) {
        (Some(checked), _) => {
            let mut controller = Controller::new(&Machine::new(&checked).unwrap());
            controller.scan(honest_twin::model::Instant(Duration::ZERO));
            controller.get_named("v").unwrap().to_string()
        }
        (None, problems) => problems.0[0].message.clone(),
    }
}

#[test]
fn literals_in_every_form() {
    let rows = [
        ("DINT", "1_000_000", "1000000"),
        ("INT", "16#7F_FF", "32767"),
        ("WORD", "2#1010_0101", "165"),
        ("BYTE", "8#17", "15"),
        ("INT", "INT#16#10", "16"),
        ("INT", "INT#-5", "-5"),
        ("BOOL", "BOOL#1", "1"),
        ("BOOL", "bool#true", "1"),
        ("LREAL", "1.5E-3", "0.0015"),
        ("LREAL", "12e2", "1200"),
        ("REAL", "REAL#3", "3"),
        ("REAL", "7", "7"),
        ("TIME", "T#14ms", "14"),
        ("TIME", "t#-14.7s", "-14700"),
        ("TIME", "TIME#25h15m", "90900000"),
        ("TIME", "T#5d14h12m18s3.5ms", "483138003"),
        ("TIME", "T#1_0s_5_0ms", "10050"),
        ("TIME", "T#90m", "5400000"),
        ("LTIME", "LT#1s500us", "1000"),
        ("LTIME", "LTIME#3ms_200us_7ns", "3"),
        ("TIME", "T#0.5d", "43200000"),
        ("STRING", "'it$'s $$5'", "it's $5"),
        ("STRING", "'a$41b'", "aAb"),
        ("ULINT", "18446744073709551615", "18446744073709551615"),
        ("LINT", "-9223372036854775808", "-9223372036854775808"),
    ];
    for (ty, expression, want) in rows {
        assert_eq!(value(ty, expression), want, "{expression}");
    }
}

#[test]
fn what_is_wrong_with_a_literal() {
    let rows = [
        ("INT", "40000", "40000 does not fit INT, which holds -32768 to 32767"),
        ("INT", "INT#40000", "40000 does not fit INT, which holds -32768 to 32767"),
        ("USINT", "-1", "-1 does not fit USINT, which holds 0 to 255"),
        ("INT", "8#19", "9 is not a digit of base 8"),
        ("INT", "3#12", "the base of a number is 2, 8 or 16, not 3"),
        ("ULINT", "99999999999999999999", "this number is larger than any type holds (64 bits)"),
        ("TIME", "T#5", "a duration needs a unit: d, h, m, s, ms, us or ns"),
        ("TIME", "T#5x", "`x` is not a unit of time; d, h, m, s, ms, us and ns are"),
        ("TIME", "T#5ms3s", "the units of a duration go from large to small, each once"),
        ("TIME", "T#1.5s20ms", "only the last unit of a duration may have a fraction"),
        ("TIME", "T#0.1ns", "this duration is finer than a nanosecond"),
        ("TIME", "T#300000d", "this duration is longer than TIME holds (about 292 years)"),
        ("TIME", "5", "5 is not a value of TIME"),
        ("BOOL", "2", "2 does not fit BOOL, which holds 0 to 1"),
        ("INT", "1.5", "1.5 is not a value of INT"),
        ("STRING", "'$x'", "behind `$` stands $, ', L, N, P, R, T or two hexadecimal digits"),
        ("INT", "Depth#3", "there is no type `Depth` for a literal"),
    ];
    for (ty, expression, want) in rows {
        assert_eq!(value(ty, expression), want, "{expression}");
    }
}

/// What is written for an expression; it must mean the same when it is read again.
#[test]
fn parentheses_are_those_that_are_needed_or_welcome() {
    let rows = [
        ("(a OR b) OR c", "a OR b OR c"),
        ("a OR (b OR c)", "a OR (b OR c)"),
        ("a AND b OR c", "(a AND b) OR c"),
        ("a OR b AND c", "a OR (b AND c)"),
        ("NOT a AND b", "NOT a AND b"),
        ("NOT (a AND b)", "NOT (a AND b)"),
        ("NOT (NOT a)", "NOT (NOT a)"),
        ("((n > 3)) AND b", "(n > 3) AND b"),
        ("n + 1 > m * 2", "n + 1 > m * 2"),
        ("(n > m) = a", "(n > m) = a"),
        ("n - (m - 1) > 0", "n - (m - 1) > 0"),
        ("n - (-m) > 0", "n - (-m) > 0"),
        ("n - -1 > 0", "n - (-1) > 0"),
        ("(n + m) * 2 / 3 > 0", "(n + m) * 2 / 3 > 0"),
        ("a & b & c", "a AND b AND c"),
        ("a XOR (b XOR c)", "a XOR (b XOR c)"),
    ];
    for (expression, want) in rows {
        let program = |e: &str| {
            format!(
                "PROGRAM P\nVAR_INPUT\n    a, b, c : BOOL;\n    n, m : INT;\nEND_VAR\nVAR_OUTPUT\n    x : BOOL;\nEND_VAR\n\n    x := {e};\nEND_PROGRAM\n"
            )
        };
        let written = crate::common::translated("parentheses", &program(expression), Language::St, Language::St);
        assert_eq!(written, program(want));
        assert_eq!(crate::common::translated("again", &written, Language::St, Language::St), written);
    }
}
