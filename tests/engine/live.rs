//! Drawings of a scan: what is drawn is what was executed.

use crate::common::{checked, translated};
use fastrand::Rng;
use honest_twin::model::{Body, CoilForm, Duration, ElementKind, Expr, ExprKind, Instant, Item, Value};
use honest_twin::scan::{Controller, Direction, Machine, Moment};
use honest_twin::show::{self, Live, Page, Row, Tone, Which};
use honest_twin::{Checked, Language};
use std::collections::BTreeMap;

fn at(scan: i64) -> Instant {
    Instant(Duration::from_millis(10 * scan))
}

/// The rows of a network after a scan.
fn rows(checked: &Checked, controller: &Controller, moment: &Moment, network: usize) -> Vec<Row> {
    let which = Which { networks: Some(vec![network]), ..Which::default() };
    show::rows(checked, &which, Some(&Live::new(controller, "a scan").executed(moment)), 100)
}

fn text(rows: &[Row]) -> String {
    rows.iter().map(|row| row.text() + "\n").collect()
}

/// Runs scans with inputs as they are given, `1` for TRUE, and draws a network after the last.
fn drawn(program: &str, language: Language, inputs: &[(&str, &str)], scans: i64, network: usize) -> String {
    let checked = checked("live", program, language);
    let mut controller = Controller::new(&Machine::new(&checked).unwrap());
    let mut moment = Moment::default();
    for scan in 0..scans {
        for (name, course) in inputs {
            let point = controller.machine().find(name).unwrap();
            let cell = course.split(' ').nth(scan as usize).unwrap_or(course.split(' ').next_back().unwrap());
            let value = controller.machine().parse(point, cell).unwrap();
            controller.set(point, &value).unwrap();
        }
        moment = controller.scan_closely(at(scan));
    }
    text(&rows(&checked, &controller, &moment, network))
}

const OPENS_IN_THE_SAME_SCAN: &str = "
PROGRAM Hatch
VAR_INPUT Key : BOOL; END_VAR
VAR_OUTPUT Feed, Busy : BOOL; END_VAR
    | Key   Busy   Feed |
    +-| |----|/|----( )-+

    | Key   Busy |
    +-| |----( )-+
END_PROGRAM
";

#[test]
fn a_closed_contact_that_opens_in_the_same_scan_is_drawn_as_it_conducted() {
    // After the scan Busy is TRUE; when the contact was executed it was not.
    let first = drawn(OPENS_IN_THE_SAME_SCAN, Language::Ld, &[("Key", "1")], 1, 1);
    assert!(first.contains("━━┫█┣━━━┫/┣━━━━(●)━"), "{first}");
    let second = drawn(OPENS_IN_THE_SAME_SCAN, Language::Ld, &[("Key", "1")], 2, 1);
    assert!(second.contains("━━┫█┣━━━┤/├────( )─"), "{second}");
}

const SIX_EDGES: &str = "
PROGRAM Edges
VAR_INPUT A, B, C, D, E, F : BOOL; END_VAR
VAR_OUTPUT Any : BOOL; END_VAR
    |  A        Any |
    +-|P|-+-----( )-+
    |  B  |         |
    +-|N|-+         |
    |  C  |         |
    +-|P|-+         |
    |  D  |         |
    +-|N|-+         |
    |  E  |         |
    +-|P|-+         |
    |  F  |         |
    +-|N|-+         |
END_PROGRAM
";

#[test]
fn each_of_six_edge_contacts_conducts_in_the_scan_of_its_edge() {
    let inputs = [("A", "0 1 1"), ("B", "1 0 0"), ("C", "1 1 0"), ("D", "0 0 1"), ("E", "0 0 1"), ("F", "0 1 0")];
    let marks = |scans: i64| -> String {
        let drawn = drawn(SIX_EDGES, Language::Ld, &inputs, scans, 1);
        let sign = |line: &str| match () {
            () if line.contains("┫P┣") || line.contains("┫N┣") => Some('1'),
            () if line.contains("┤P├") || line.contains("┤N├") => Some('0'),
            () => None,
        };
        drawn.lines().filter_map(sign).collect::<String>() + if drawn.contains("(●)") { " on" } else { " off" }
    };
    // An edge contact that is executed for the first time holds what was before for FALSE.
    assert_eq!(marks(1), "001000 on");
    assert_eq!(marks(2), "110000 on");
    assert_eq!(marks(3), "000011 on");
    assert_eq!(marks(4), "000000 off");
}

#[test]
fn a_comparison_shows_what_it_compared_and_a_jump_what_it_left_out() {
    let program = "
PROGRAM Heat
VAR_INPUT Temp : INT; END_VAR
VAR_OUTPUT Heater, Late : BOOL; END_VAR
VAR Limit : INT := 80; END_VAR
    |  Temp           |
    +--|>=|-->>Hot    |
    |   95            |

    |  Temp   Heater  |
    +--|<|-----(S)----+
    |  Limit          |

    Hot:
    |  Temp    Late   |
    +--|>|-----( )----+
    |  Limit          |
END_PROGRAM
";
    let cold = drawn(program, Language::Ld, &[("Temp", "70")], 1, 2);
    assert!(cold.contains("Temp=70") && cold.contains("Limit=80") && cold.contains("┫<┣"), "{cold}");
    let hot = drawn(program, Language::Ld, &[("Temp", "70 96")], 2, 2);
    assert!(hot.contains("(not executed in this scan)") && !hot.contains('┫') && !hot.contains('━'), "{hot}");
    let late = drawn(program, Language::Ld, &[("Temp", "70 96")], 2, 3);
    assert!(late.contains("┫>┣") && late.contains("(●)"), "{late}");
}

#[test]
fn block_diagrams_have_values_at_their_pins() {
    let source = "PROGRAM Air VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR VAR Late : TON; END_VAR
                Late(IN := Low, PT := T#50ms, Q => Alarm); END_PROGRAM";
    let checked = checked("air", &translated("air", source, Language::St, Language::Fbd), Language::Fbd);
    let mut controller = Controller::new(&Machine::new(&checked).unwrap());
    controller.set_named("Low", &Value::Bool(true)).unwrap();
    let mut moment = Moment::default();
    for scan in 0..4 {
        moment = controller.scan_closely(at(scan));
    }
    let drawn = text(&rows(&checked, &controller, &moment, 1));
    assert!(drawn.contains("Low=1") && drawn.contains("Alarm=0") && drawn.contains("=30ms"), "{drawn}");
    let svg = show::draw(&checked, Page::default(), Some(&Live::new(&controller, "scan 3").executed(&moment)));
    // Of a BOOL the stub says what it is: Low was TRUE, Alarm is not yet.
    assert!(svg.contains("\n30ms\n") && svg.contains("stroke-width=\"3.4\" x1=\"70.6\""), "{svg}");
}

fn name_of(expr: &Expr) -> Option<String> {
    if let ExprKind::Name(name) = &expr.kind { Some(name.text.clone()) } else { None }
}

/// Plain coils of a program by network, of variables that are written once.
fn coils(checked: &Checked) -> Vec<(usize, String)> {
    let mut found: Vec<(usize, String)> = Vec::new();
    let mut written: BTreeMap<String, usize> = BTreeMap::new();
    for item in &checked.project().items {
        let Item::Unit(unit) = item else { continue };
        let Body::Ladder(list) = &unit.body else { continue };
        for (number, network) in list.iter().enumerate() {
            for element in &network.elements {
                element.own(&mut |expr, used| {
                    if let (honest_twin::model::Mention::Written, Some(name)) = (used, name_of(expr)) {
                        *written.entry(name.to_uppercase()).or_default() += 1;
                    }
                });
                if let ElementKind::Coil { form: CoilForm::Plain, target, .. } = &element.kind {
                    found.extend(name_of(target).map(|name| (number + 1, name)));
                }
            }
        }
    }
    found.retain(|(_, name)| written.get(&name.to_uppercase()) == Some(&1));
    found
}

/// Whether the coil of a name is drawn with power.
fn powered(rows: &[Row], name: &str) -> Option<bool> {
    let texts: Vec<Vec<char>> = rows.iter().map(|row| row.text().chars().collect()).collect();
    for (number, row) in texts.iter().enumerate() {
        let line: String = row.iter().collect();
        for (begin, _) in line.match_indices(name) {
            let begin = line[..begin].chars().count();
            let middle = begin + name.chars().count() / 2;
            let below = texts.get(number + 1)?;
            // The bracket of the coil stands right below the name's middle, or beside it.
            let near = (middle.saturating_sub(2)..=middle + 1).find(|at| below.get(*at) == Some(&'('));
            if let Some(at) = near {
                return match below.get(at + 1) {
                    Some('●') => Some(true),
                    Some(' ') => Some(false),
                    _ => None,
                };
            }
        }
    }
    None
}

#[test]
fn power_at_a_coil_is_what_is_written() {
    let mut programs: Vec<(String, Checked)> = Vec::new();
    let folders = std::fs::read_dir("tests/corpus").unwrap().map(|entry| entry.unwrap().path());
    let files = folders.flat_map(|folder| std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()));
    for path in files {
        let name = path.display().to_string();
        let text = std::fs::read_to_string(&path).unwrap();
        match path.extension().and_then(|e| e.to_str()) {
            Some("ld") => programs.push((name, checked("corpus", &text, Language::Ld))),
            Some("st") => {
                let ladder = translated("corpus", &text, Language::St, Language::Ld);
                programs.push((format!("{name} from text"), checked("corpus", &ladder, Language::Ld)));
            }
            _ => {}
        }
    }
    programs.push((
        "raceway".to_string(),
        checked("raceway", &std::fs::read_to_string("demo/raceway.ld").unwrap(), Language::Ld),
    ));
    programs.sort_by(|a, b| a.0.cmp(&b.0));
    let (mut on, mut off) = (0, 0);
    for (name, checked) in &programs {
        let coils = coils(checked);
        let mut controller = Controller::new(&Machine::new(checked).unwrap());
        let mut rng = Rng::with_seed(7);
        let inputs: Vec<_> = controller.machine().points_of(Direction::Input).map(|(id, _)| id).collect();
        for scan in 0..60 {
            for point in &inputs {
                let cell = if rng.u32(0..6) == 0 { Some(rng.i32(0..120).to_string()) } else { None };
                let parsed = cell.and_then(|cell| {
                    let machine = controller.machine();
                    machine.parse(*point, &cell).or_else(|| machine.parse(*point, if rng.bool() { "1" } else { "0" }))
                });
                if let Some(value) = parsed {
                    controller.set(*point, &value).unwrap();
                }
            }
            let moment = controller.scan_closely(at(scan * 7));
            if scan % 5 != 0 || controller.fault().is_some() {
                continue;
            }
            for (network, coil) in &coils {
                let Ok(Value::Bool(value)) = controller.get_named(coil) else { continue };
                let rows = rows(checked, &controller, &moment, *network);
                let Some(power) = powered(&rows, coil) else { continue };
                let unseen = text(&rows).contains("(not executed in this scan)");
                assert!(unseen || power == value, "{name}: {coil} is {value}\n{}", text(&rows));
                on += usize::from(power);
                off += usize::from(!power && !unseen);
            }
        }
    }
    assert!(on > 150 && off > 500, "{on} on, {off} off");
}

#[test]
fn tones_tell_what_signs_tell() {
    let checked = checked("live", OPENS_IN_THE_SAME_SCAN, Language::Ld);
    let mut controller = Controller::new(&Machine::new(&checked).unwrap());
    controller.set_named("Key", &Value::Bool(true)).unwrap();
    let moment = controller.scan_closely(at(0));
    let rows = rows(&checked, &controller, &moment, 1);
    for (piece, tone) in rows.iter().flat_map(|row| &row.pieces) {
        let heavy = piece.chars().any(|c| "━┫┣█●┃┳┻┏┓┗┛╋".contains(c));
        assert!(!heavy || *tone == Tone::On, "{piece} {tone:?}");
    }
    // Without a moment no contact is said to conduct, but wires are drawn as memory has them.
    let which = Which { networks: Some(vec![1]), ..Which::default() };
    let bare = text(&show::rows(&checked, &which, Some(&Live::new(&controller, "")), 100));
    assert!(bare.contains("┤ ├") && bare.contains('━'), "{bare}");
    // Without a scan nothing is drawn heavy.
    assert!(!show::terminal(&checked).contains('━'));
}
