//! The open protocol: requests and answers byte by byte, numbers of points, values as words, machines that are served, and
//! anything at all instead of a request.

use crate::common::dialects::{families, programs, read_in};
use crate::common::version;
use honest_twin::dialect::{LIBRARIES, read_library, read_project_in};
use honest_twin::lang::Language;
use honest_twin::model::{Duration, Value};
use honest_twin::protocol::{Cut, Frame, MIRROR, Numbers, Served, Table, Writable, frame};
use honest_twin::scan::{Machine, Recorder, ScanTime};
use honest_twin::show;
use honest_twin::source::Source;
use honest_twin::twin::Version;
use honest_twin::twin::script::{Script, play};
use std::sync::Arc;

const SCAN: Duration = Duration::from_millis(10);
const ALL: Writable = Writable { coils: true, registers: true, inputs: true };

/// The heater of the hatchery, with a point of each kind.
const HEATER: &str = "PROGRAM Heater
    VAR_INPUT Key, Door : BOOL; Degrees : INT; Aim AT %MW10 : INT; Level : REAL; Pause : TIME; END_VAR
    VAR_OUTPUT Heat, Lamp : BOOL; Sum : DINT; Power : INT; END_VAR
    VAR Setpoint AT %MW20 : INT := 7; Long : DINT; Bit AT %MX0.3 : BOOL; Step : (Rest, Warm, Hot); T : TON; END_VAR
    Heat := Key AND NOT Door AND Degrees < Setpoint; Lamp := Bit OR Step = Hot; Sum := Sum + Degrees;
    Power := LIMIT(0, (Setpoint - Degrees) * 5, 100); T(IN := Heat, PT := Pause); Long := Long + REAL_TO_DINT(Level);
    END_PROGRAM";

fn heater(writable: Writable) -> Served {
    let version = version("heater", HEATER, Language::St);
    let numbers = Numbers::of(version.checked(), version.machine(), &["Step".to_string(), "Long".to_string()]).unwrap();
    Served::new(&version, numbers, writable, SCAN)
}

fn bytes(text: &str) -> Vec<u8> {
    text.split_whitespace().map(|byte| u8::from_str_radix(byte, 16).unwrap()).collect()
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect::<Vec<_>>().join(" ")
}

#[test]
fn points_stand_where_the_sheet_says_or_where_there_is_room() {
    let version = version("heater", HEATER, Language::St);
    let numbers = Numbers::of(version.checked(), version.machine(), &["Step".to_string(), "Long".to_string()]).unwrap();
    insta::assert_snapshot!(
        "numbers",
        show::numbers(&numbers, Writable { coils: false, registers: true, inputs: true })
    );
}

/// A program's points are where they are, with a plant beside it or without; the plant's own come behind.
#[test]
fn a_plant_moves_no_number() {
    let text = "PROGRAM M VAR_INPUT Key, Low, Top : BOOL; Aim : INT; END_VAR VAR_OUTPUT Valve : BOOL; END_VAR
        Valve := Low AND NOT Top AND NOT Key AND Aim > 0; END_PROGRAM";
    let plant = "PROGRAM Water VAR_INPUT Valve, Rain : BOOL; Loss : INT; END_VAR VAR_OUTPUT Low, Top : BOOL; END_VAR
        Low := NOT Valve; Top := Rain AND Loss > 0; END_PROGRAM";
    let file = "files = [\"p\"]\n[sensors]\nLow = { stuck = true }";
    let numbers = |plants: &[(&str, &str)]| {
        let checked = crate::plants::with_plants(text, plants).unwrap();
        let machine = Machine::new(&checked).unwrap();
        let list = Numbers::of(&checked, &machine, &[]).unwrap();
        list.list().iter().map(|n| format!("{} {} {}", n.table, n.number, n.name)).collect::<Vec<_>>()
    };
    let (alone, with) = (numbers(&[]), numbers(&[(file, plant)]));
    assert_eq!(
        alone,
        [
            "coils 0 Valve",
            "discrete inputs 0 Key",
            "discrete inputs 1 Low",
            "discrete inputs 2 Top",
            "input registers 0 Aim"
        ]
    );
    assert!(alone.iter().all(|line| with.contains(line)), "{with:?}");
    let more: Vec<&String> = with.iter().filter(|line| !alone.contains(line)).collect();
    assert_eq!(more, ["discrete inputs 3 Water.Rain", "discrete inputs 4 Low.stuck", "input registers 1 Water.Loss"]);
    // What the plant gives is read, and not written; what nobody gives it is.
    let checked = crate::plants::with_plants(text, &[(file, plant)]).unwrap();
    let version = Version::new("m", checked).unwrap();
    let numbers = Numbers::of(version.checked(), version.machine(), &[]).unwrap();
    let mut served = Served::new(&version, numbers, ALL, SCAN);
    for _ in 0..3 {
        served.scan();
    }
    assert_eq!(hex(&served.answer(&bytes("02 00 01 00 01"))), "02 01 01");
    assert_eq!(hex(&served.answer(&bytes("05 e0 01 ff 00"))), "85 01");
    assert_eq!(hex(&served.answer(&bytes("05 e0 03 ff 00"))), "05 e0 03 ff 00");
}

/// A request, and what it is answered by the heater after a scan; one after another.
const TALK: &[(&str, &str)] = &[
    // Coils: Heat, Lamp at 0 and 1; the area of outputs is there beyond them, as a controller's would be.
    ("01 00 00 00 02", "01 01 00"),
    ("01 00 00 00 0a", "01 02 00 00"),
    ("02 00 00 00 02", "02 01 00"),
    // Holding register 20, Setpoint, and two behind it that no point is at.
    ("03 00 14 00 03", "03 06 00 07 00 00 00 00"),
    // One coil, and the value is 00 or ff.
    ("05 80 03 ff 00", "05 80 03 ff 00"),
    ("01 80 03 00 01", "01 01 01"),
    ("05 80 03 00 00", "05 80 03 00 00"),
    ("05 80 03 ff 01", "85 03"),
    // One register, read back.
    ("06 00 14 00 2a", "06 00 14 00 2a"),
    ("03 00 14 00 01", "03 02 00 2a"),
    // Several coils, and a byte count that is not theirs.
    ("0f 80 00 00 0a 02 ff 03", "0f 80 00 00 0a"),
    ("01 80 00 00 0a", "01 02 ff 03"),
    ("0f 80 00 00 0a 03 ff 03 00", "8f 03"),
    ("0f 80 00 00 00 00", "8f 03"),
    // Several registers: a value of two words, the highest first; half of it.
    ("10 00 03 00 02 04 00 01 00 02", "10 00 03 00 02"),
    ("03 00 03 00 02", "03 04 00 01 00 02"),
    ("06 00 03 ff ff", "06 00 03 ff ff"),
    ("03 00 03 00 02", "03 04 ff ff 00 02"),
    // A mask: (42 AND 15) OR (3 AND NOT 15).
    ("16 00 14 00 0f 00 03", "16 00 14 00 0f 00 03"),
    ("03 00 14 00 01", "03 02 00 0a"),
    // Read and write at once: what is read is what was written.
    ("17 00 14 00 01 00 14 00 01 02 00 63", "17 02 00 63"),
    ("17 00 14 00 00 00 14 00 01 02 00 63", "97 03"),
    // Inputs by their mirrors.
    ("05 e0 00 ff 00", "05 e0 00 ff 00"),
    ("02 00 00 00 01", "02 01 01"),
    ("01 e0 00 00 01", "01 01 01"),
    // Unknown functions, cut off requests, nothing at all, too many, beyond the end.
    ("2b 0e 01 00", "ab 01"),
    ("00", "80 01"),
    ("03 00 14", "83 03"),
    ("03 00 14 00 01 00", "83 03"),
    ("", "80 01"),
    ("03 00 14 00 7e", "83 03"),
    ("01 00 00 07 d1", "81 03"),
    ("03 ff ff 00 02", "83 02"),
    // Where no area is.
    ("03 ff ff 00 01", "83 02"),
    ("06 ff fe 00 01", "86 02"),
];

#[test]
fn requests_are_answered_byte_by_byte() {
    let mut served = heater(ALL);
    served.scan();
    for (request, expected) in TALK {
        assert_eq!(&hex(&served.answer(&bytes(request))), expected, "{request}");
    }
}

/// Who may only read is told so, and nothing has changed.
#[test]
fn what_may_not_be_written_is_refused() {
    let writes =
        ["05 80 03 ff 00", "06 00 14 00 2a", "0f 80 00 00 01 01 01", "10 00 14 00 01 02 00 2a", "16 00 14 ff ff 00 03"];
    let mut served = heater(Writable::default());
    for request in writes {
        let code = bytes(request)[0];
        assert_eq!(served.answer(&bytes(request)), [code | 0x80, 1], "{request}");
    }
    // Without mirrors there is nothing at their numbers.
    assert_eq!(hex(&served.answer(&bytes("05 e0 00 ff 00"))), "85 01");
    assert!(served.arrived().is_empty());
    let mut registers = heater(Writable { registers: true, ..Writable::default() });
    assert_eq!(hex(&registers.answer(&bytes("05 80 03 ff 00"))), "85 01");
    assert_eq!(hex(&registers.answer(&bytes("06 00 14 00 2a"))), "06 00 14 00 2a");
    // Step has three values; a fourth is none.
    let step = registers.numbers().list().iter().find(|n| n.name == "Step").unwrap().number;
    let write = |value: u16| [vec![6], step.to_be_bytes().to_vec(), value.to_be_bytes().to_vec()].concat();
    assert_eq!(registers.answer(&write(2))[0], 6);
    assert_eq!(registers.answer(&write(3)), [0x86, 3]);
    assert_eq!(registers.controller().get_named("Step").unwrap().to_string(), "Hot");
}

/// Of every type what is written is what is read, by either order of words, whole and word by word.
#[test]
fn values_are_words_and_words_are_values() {
    let types = "SINT USINT INT UINT DINT UDINT LINT ULINT BYTE WORD DWORD LWORD REAL LREAL TIME LTIME";
    for order in ["high-first", "low-first"] {
        let shipped = LIBRARIES.iter().find(|l| l.name == "word-bit").unwrap();
        let sheet = match shipped.sheet.contains("[numbers]") {
            true => shipped.sheet.replace("[numbers]\n", &format!("[numbers]\nword-order = \"{order}\"\n")),
            false => shipped.sheet.replacen(
                "[[area]]",
                &format!("[numbers]\nword = \"INT\"\nword-order = \"{order}\"\n\n[[area]]"),
                1,
            ),
        };
        let library = read_library(&Source::new("own.toml", sheet), &Source::new("own.st", shipped.blocks)).unwrap();
        for ty in types.split(' ') {
            let text = format!("PROGRAM P VAR x : {ty}; END_VAR VAR_OUTPUT o : BOOL; END_VAR o := x = x; END_PROGRAM");
            let (project, problems) =
                read_project_in(vec![(Source::new("p.st", text), Language::St)], &Arc::new(library.clone()));
            assert!(!problems.has_errors());
            let version = Version::new("p", honest_twin::check::check(project).unwrap()).unwrap();
            let numbers = Numbers::of(version.checked(), version.machine(), &["x".to_string()]).unwrap();
            let of = numbers.list().iter().find(|n| n.name == "x").unwrap().clone();
            let mut served = Served::new(&version, numbers, ALL, SCAN);
            let mut rng = fastrand::Rng::with_seed(7);
            for _ in 0..200 {
                let words: Vec<u16> = (0..of.count).map(|_| rng.u16(..)).collect();
                // Of a type of 8 bits the high byte is its sign, or nothing.
                let words = match ty {
                    "SINT" => vec![words[0] as u8 as i8 as u16],
                    "USINT" | "BYTE" => vec![words[0] & 0xff],
                    _ => words,
                };
                let data: Vec<u8> = words.iter().flat_map(|word| word.to_be_bytes()).collect();
                let head = [of.number.to_be_bytes(), of.count.to_be_bytes()].concat();
                let written = served.answer(&[vec![16], head.clone(), vec![data.len() as u8], data.clone()].concat());
                assert_eq!(written, [vec![16], head.clone()].concat(), "{ty} {words:?}");
                let read = served.answer(&[vec![3], head].concat());
                let nan = matches!(served.controller().get_named("x").unwrap(), Value::Real(x) if x.is_nan());
                assert!(nan || read[2..] == data, "{ty} {order}: {words:x?} became {:x?}", &read[2..]);
                let number = words.iter().fold(0u64, |n, word| (n << 16) | u64::from(*word));
                if order == "high-first" && ty == "UDINT" {
                    assert_eq!(served.controller().get_named("x").unwrap(), Value::Int(i128::from(number)));
                }
            }
        }
    }
}

/// Each family's programs have their points where its sheet says, and two never meet.
#[test]
fn every_family_has_numbers() {
    let mut seen = 0;
    for family in families() {
        for (name, text, language) in programs(family) {
            let checked = read_in(family, &name, &text, language);
            let machine = Machine::new(&checked).unwrap();
            let numbers = Numbers::of(&checked, &machine, &[]).unwrap_or_else(|e| panic!("{family}/{name}: {e}"));
            for number in numbers.list() {
                assert_eq!(numbers.at(number.table, number.number), Some(number), "{family}/{name}");
                seen += usize::from(!number.placed);
            }
        }
    }
    assert!(seen > 100, "points with addresses have the numbers of their sheet: {seen}");
}

#[test]
fn what_has_no_number_is_said() {
    let text = "PROGRAM P VAR s : STRING; a AT %MX0.0 : BOOL; END_VAR VAR_OUTPUT o AT %QX0.0 : BOOL; END_VAR
        o := s = 'x' AND a; END_PROGRAM";
    let shipped = LIBRARIES.iter().find(|l| l.name == "iec").unwrap();
    let of = |start: &str, also: &[&str]| {
        let sheet = shipped.sheet.replace("name = \"iec\"", "name = \"mine\"").replace("start = 32768", start);
        let library = read_library(&Source::new("mine.toml", sheet), &Source::new("mine.st", shipped.blocks)).unwrap();
        let (project, problems) = read_project_in(vec![(Source::new("p.st", text), Language::St)], &Arc::new(library));
        assert!(!problems.has_errors(), "{problems:?}");
        let checked = honest_twin::check::check(project).unwrap();
        let machine = Machine::new(&checked).unwrap();
        let also: Vec<String> = also.iter().map(ToString::to_string).collect();
        Numbers::of(&checked, &machine, &also).map(|n| n.list().len()).map_err(|e| e.to_string())
    };
    assert_eq!(of("start = 32768", &[]), Ok(2));
    assert_eq!(of("start = 0", &[]), Err("`o` and `a` are both at number 0 of the coils".to_string()));
    assert_eq!(of("start = 32768", &["x"]), Err("there is no variable `x` to serve".to_string()));
    assert_eq!(
        of("start = 32768", &["s"]),
        Err("`s` cannot stand in a table of the protocol: it is a string".to_string())
    );
}

/// A stream cut anywhere is the same frames; what is none ends it.
#[test]
fn frames_are_cut_from_a_stream() {
    let frames = [
        Frame { transaction: 1, unit: 1, pdu: bytes("03 00 00 00 01") },
        Frame { transaction: 65_535, unit: 255, pdu: bytes("2b") },
        Frame { transaction: 7, unit: 0, pdu: vec![9; 253] },
    ];
    let stream: Vec<u8> = frames.iter().flat_map(Frame::bytes).collect();
    for part in 1..stream.len() {
        let (mut buffer, mut found) = (Vec::new(), Vec::new());
        for chunk in stream.chunks(part) {
            buffer.extend(chunk);
            while let Cut::Frame(frame, length) = frame(&buffer) {
                buffer.drain(..length);
                found.push(frame);
            }
        }
        assert_eq!(found, frames, "in parts of {part}");
    }
    let said = |text: &str| match frame(&bytes(text)) {
        Cut::Malformed(why) => why.to_string(),
        other => format!("{other:?}"),
    };
    assert_eq!(said("47 45 54 20"), "the header is that of another protocol");
    assert_eq!(said("00 01 00 00 00 01"), "the length in the header is not 2 to 254");
    assert_eq!(said("00 01 00 00 00 ff"), "the length in the header is not 2 to 254");
    assert_eq!(said("00 01 00 00 00 02 01"), "More");
}

/// Anything instead of a request: there is an answer, of a length that a frame holds, and the machine runs on.
#[test]
fn anything_is_answered() {
    let count = std::env::var("HONEST_TWIN_PROGRAMS").ok().and_then(|n| n.parse().ok()).unwrap_or(100_000);
    let mut served = heater(ALL).stepped();
    let mut rng = fastrand::Rng::with_seed(3);
    let mut refused = 0;
    for _ in 0..count {
        let most = if rng.bool() { 8 } else { 260 };
        let length = rng.usize(..most);
        let mut request: Vec<u8> = (0..length).map(|_| rng.u8(..)).collect();
        // Most begin as a request does, near points that there are.
        if rng.u8(..4) > 0 && length > 4 {
            request[0] = *rng.choice(&[1, 2, 3, 4, 5, 6, 15, 16, 22, 23]).unwrap();
            request[1] = *rng.choice(&[0, 0x80, 0xe0, 0xff]).unwrap();
            request[2] = rng.u8(..32);
            request[3] = 0;
        }
        let answer = served.answer(&request);
        assert!((2..=253).contains(&answer.len()), "{request:x?}");
        let code = request.first().copied().unwrap_or(0);
        assert!(answer[0] == code || (answer[0] == code | 0x80 && answer.len() == 2), "{request:x?}: {answer:x?}");
        refused += usize::from(answer[0] != code);
        if rng.u8(..50) == 0 {
            served.scan();
        }
    }
    assert!(refused > count / 10 && refused < count, "{refused} of {count} refused");
}

/// What arrived is a scenario that gives the same trace, scan by scan.
#[test]
fn a_session_replays_to_the_same_trace() {
    let version = version("heater", HEATER, Language::St);
    for seed in 0..20 {
        let mut served = heater(ALL);
        let mut recorder = Recorder::new(version.machine(), &[]);
        let mut rng = fastrand::Rng::with_seed(seed);
        for scan in 0..400 {
            while rng.u8(..12) == 0 {
                let list = served.numbers().list();
                let number = list[rng.usize(..list.len())].clone();
                let first = match number.table {
                    Table::DiscreteInputs | Table::InputRegisters => MIRROR + number.number,
                    Table::Coils | Table::HoldingRegisters => number.number,
                };
                let request = match number.table {
                    Table::Coils | Table::DiscreteInputs => {
                        [vec![5], first.to_be_bytes().to_vec(), vec![if rng.bool() { 0xff } else { 0 }, 0]].concat()
                    }
                    Table::HoldingRegisters | Table::InputRegisters => {
                        let data: Vec<u8> =
                            (0..number.count).flat_map(|at| if at == 0 { [0, 0] } else { [0, rng.u8(..40)] }).collect();
                        let head = [first.to_be_bytes(), number.count.to_be_bytes()].concat();
                        [vec![16], head, vec![data.len() as u8], data].concat()
                    }
                };
                let answer = served.answer(&request);
                assert_eq!(answer[0], request[0], "{number:?}");
            }
            let at = served.scan();
            recorder.row(served.controller(), honest_twin::model::ScanNumber(scan), at);
        }
        let scenario = served.scenario().unwrap();
        let script = Script::read("session", &scenario).unwrap_or_else(|e| panic!("{e}\n{scenario}"));
        let played = play(&script, &[&version], &ScanTime::Fixed(SCAN)).unwrap_or_else(|e| panic!("{e}\n{scenario}"));
        let mut replayed = played.traces[0].clone();
        replayed.writes.clear();
        assert_eq!(replayed.write(), recorder.finish().write(), "{scenario}");
        assert!(served.arrived().len() > 10);
    }
}

/// A rack has the points of its cards and no others; what no point of the program is at reads 0.
#[test]
fn a_rack_answers_for_its_cards() {
    let shipped = LIBRARIES.iter().find(|l| l.name == "iec").unwrap();
    let cards = "\n[[card]]\nname = \"keys\"\narea = \"inputs\"\npoints = 16\nstart = \"%IX0.0\"\n
        [[card]]\nname = \"floats\"\narea = \"inputs\"\npoints = 8\nstart = \"%IX4.0\"\nprotocol = 100\n";
    let sheet = shipped.sheet.replace("name = \"iec\"", "name = \"mine\"") + cards;
    let library = read_library(&Source::new("mine.toml", sheet), &Source::new("mine.st", shipped.blocks)).unwrap();
    let text =
        "PROGRAM P VAR a AT %IX0.3 : BOOL; b AT %IX4.1 : BOOL; END_VAR VAR_OUTPUT o : BOOL; END_VAR o := a AND b;
        END_PROGRAM";
    let (project, problems) = read_project_in(vec![(Source::new("p.st", text), Language::St)], &Arc::new(library));
    assert!(!problems.has_errors(), "{problems:?}");
    let version = Version::new("p", honest_twin::check::check(project).unwrap()).unwrap();
    let numbers = Numbers::of(version.checked(), version.machine(), &[]).unwrap();
    assert_eq!(numbers.at(Table::DiscreteInputs, 101).unwrap().name, "b");
    let mut served = Served::new(&version, numbers, ALL, SCAN);
    for (first, answer) in [
        (0, "02 01 00"),
        (3, "02 01 00"),
        (15, "02 01 00"),
        (16, "82 02"),
        (100, "02 01 00"),
        (107, "02 01 00"),
        (108, "82 02"),
    ] {
        assert_eq!(hex(&served.answer(&[2, 0, first, 0, 1])), answer, "{first}");
    }
}
