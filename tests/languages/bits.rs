//! Parts of bit strings: `%X3`, `%B1`, `%W0`, `%D1`, read and written, against arithmetic, in every language, and proved.

use crate::common::{checked, machine, version};
use honest_twin::check::check;
use honest_twin::lang::{LANGUAGES, Language, read_project};
use honest_twin::model::Value;
use honest_twin::prove;
use honest_twin::scan::Controller;
use honest_twin::show;
use honest_twin::source::Source;
use honest_twin::translate::translate;
use honest_twin::twin::{Effort, Twin, Verdict, compare};
use proptest::prelude::*;

fn program(body: &str) -> String {
    format!(
        "PROGRAM P\nVAR_INPUT Key : BOOL; Word_In : LWORD; Byte_In : BYTE; Half : DWORD; END_VAR
VAR_OUTPUT Lamp : BOOL; Out : LWORD; Small : BYTE; Wide : WORD; Status : WORD; END_VAR
VAR Table : ARRAY [1..3] OF WORD; N : INT; END_VAR\n{body}\nEND_PROGRAM\n"
    )
}

/// One scan of a body with these inputs; the values of some outputs.
fn scan(body: &str, inputs: &[(&str, Value)], outputs: &[&str]) -> Vec<String> {
    let machine = machine("bits", &program(body), Language::St);
    let mut controller = Controller::new(&machine);
    for (name, value) in inputs {
        controller.set(machine.find(name).unwrap(), value).unwrap();
    }
    controller.scan(honest_twin::model::Instant::default());
    outputs.iter().map(|name| controller.get(machine.find(name).unwrap()).to_string()).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn parts_are_what_shifts_and_masks_say(word: u64, byte: u8, half: u32, key: bool, bit in 0u32..64, at in 0u32..8, up in 0u32..2) {
        let body = format!(
            "Lamp := Word_In.%X{bit}; Small := Word_In.%b{at}; Wide := Word_In.%W{};
             Out := Word_In; Out.%D{up} := Half; Out.%B{at} := Byte_In; Out.%X{bit} := Key;",
            at / 2
        );
        let inputs = [
            ("Key", Value::Bool(key)),
            ("Word_In", Value::Int(i128::from(word))),
            ("Byte_In", Value::Int(i128::from(byte))),
            ("Half", Value::Int(i128::from(half))),
        ];
        let mut out = word;
        let mut put = |value: u64, bits: u32, at: u32| {
            let mask = ((1u128 << bits) - 1) as u64;
            out = out & !(mask << (bits * at)) | (value & mask) << (bits * at);
        };
        put(u64::from(half), 32, up);
        put(u64::from(byte), 8, at);
        put(u64::from(key), 1, bit);
        let expected = [
            u64::from(word >> bit & 1 == 1).to_string(),
            (word >> (8 * at) & 0xFF).to_string(),
            (word >> (16 * (at / 2)) & 0xFFFF).to_string(),
            out.to_string(),
        ];
        prop_assert_eq!(scan(&body, &inputs, &["Lamp", "Small", "Wide", "Out"]), expected);
    }
}

/// What a body does, with the same said by masks.
const SAME: &[(&str, &str)] = &[
    ("Lamp := Half.%X31;", "Lamp := (Half AND DWORD#16#8000_0000) <> DWORD#0;"),
    ("Status.%X3 := Key;", "Status := SEL(Key, Status AND WORD#16#FFF7, Status OR WORD#16#8);"),
    ("IF Key THEN Status.%X0 := TRUE; END_IF;", "IF Key THEN Status := Status OR WORD#1; END_IF;"),
    (
        "IF Key THEN Status.%X15 := FALSE; ELSE Status.%X15 := TRUE; END_IF; Lamp := Status.%X15;",
        "Lamp := NOT Key; Status := SEL(Key, WORD#16#8000, WORD#0);",
    ),
    ("Table[2].%B1 := Byte_In; Wide := Table[2];", "Wide := SHL(BYTE_TO_WORD(Byte_In), 8);"),
    (
        "N := N + 1; IF N > 3 THEN N := 1; END_IF; Table[N].%X4 := Key; Lamp := Table[N].%X4;",
        "N := N + 1; IF N > 3 THEN N := 1; END_IF; Lamp := Key;",
    ),
];

#[test]
fn parts_are_proved_to_be_what_masks_say() {
    for (parts, masks) in SAME {
        let [left, right] = [("parts", parts), ("masks", masks)].map(|(n, b)| version(n, &program(b), Language::St));
        let verdict = prove::prove(&Twin::new(&left, &right), &prove::Means::default(), |_| true);
        assert!(matches!(verdict, Verdict::Proved(_)), "{parts}\n{}", show::verdict(&verdict));
    }
}

#[test]
fn parts_are_said_in_every_language() {
    for (body, _) in SAME {
        let source = checked("bits", &program(body), Language::St);
        for &to in LANGUAGES {
            let text = translate(&source, to).unwrap().files[0].text.to_string();
            assert!(text.contains(".%"), "{text}");
            let [left, right] = [version("source", &program(body), Language::St), version("target", &text, to)];
            let verdict = compare(&left, &right, &Effort { scenarios: 100, ..Effort::default() }, |_| {});
            assert!(matches!(verdict, Verdict::Tested(_)), "{text}\n{}", show::verdict(&verdict));
        }
    }
}

#[test]
fn what_is_no_part_is_said_at_its_place() {
    let rows = [
        ("Lamp := Wide.%X16;", "WORD has the parts %X0 to %X15, %B0 to %B1"),
        ("Lamp := Small.%B0;", "BYTE has the parts %X0 to %X7"),
        ("Lamp := Out.%X;", "LWORD has the parts %X0 to %X63, %B0 to %B7, %W0 to %W3, %D0 to %D1"),
        ("Lamp := Out.%Q3;", "LWORD has the parts %X0 to %X63, %B0 to %B7, %W0 to %W3, %D0 to %D1"),
        ("Lamp := N.%X1;", "INT has no parts; BYTE, WORD, DWORD and LWORD have"),
        ("Lamp := Key.%X0;", "BOOL has no parts; BYTE, WORD, DWORD and LWORD have"),
        ("Lamp := Out.%B1;", "this is BYTE, but BOOL is needed"),
        (
            "FOR Out.%B2 := 0 TO 3 DO N := N + 1; END_FOR;",
            "a part of a bit string is no variable by itself; a copy of it can stand here",
        ),
        ("Word_In.%X1 := TRUE;", "`Word_In` is an input and cannot be written here"),
    ];
    for (body, expected) in rows {
        let (project, _) = read_project(vec![(Source::new("p.st", program(body)), Language::St)]);
        let problems = check(project).err().map_or(Vec::new(), |p| p.0);
        let said: Vec<&str> = problems.iter().map(|p| p.message.as_str()).collect();
        assert!(said.iter().any(|s| s.contains(expected)), "{body}: {said:?}");
    }
}
