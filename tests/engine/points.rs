//! Points belong to the project, wherever they are used (SEMANTICS section 6): what the outside gives is driven and what
//! it sees is compared, in memory, in globals, in function blocks and in several programs, in every family.

use crate::common::checked;
use crate::common::dialects::{families, read_in, wired};
use fastrand::Rng;
use honest_twin::dialect::{Tags, library, read_library, read_project_in, read_project_tagged};
use honest_twin::lang::Language;
use honest_twin::model::Outside;
use honest_twin::model::sheet::{AreaRole, Holds};
use honest_twin::prove::{Means, prove};
use honest_twin::scan::{Direction, Machine};
use honest_twin::show;
use honest_twin::source::Source;
use honest_twin::translate::{Mode, migrate};
use honest_twin::twin::{Effort, Mapping, Twin, Verdict, Version, compare_twin};

/// Bodies over two bits that are given, and a bit and a word that are seen.
struct Parts {
    bit: String,
    word: String,
}

/// Draws what the bit and the word become of `a`, `b`, `p`, `q`.
fn parts(rng: &mut Rng) -> Parts {
    let gate = ["AND", "OR", "XOR"][rng.usize(0..3)];
    let held = ["a", "p", "NOT p"][rng.usize(0..3)];
    let (add, most) = (rng.i32(1..4), rng.i32(4..90));
    Parts {
        bit: format!("p := (b {gate} NOT a) OR ({held} AND NOT b);"),
        word: format!("IF a THEN q := MIN(q + {add}, {most}); ELSIF b THEN q := 0; END_IF;"),
    }
}

/// A change that whoever sees the outputs can see.
fn changed(parts: &Parts, rng: &mut Rng) -> Parts {
    if rng.bool() {
        Parts { bit: parts.bit.replace("p := ", "p := NOT (").replace(';', ");"), word: parts.word.clone() }
    } else {
        Parts { bit: parts.bit.clone(), word: parts.word.replace("q := 0", "q := 1") }
    }
}

/// A way of placing the four points: a program of the parts, and the names of what is given and seen.
struct Placing {
    name: String,
    family: &'static str,
    text: Box<dyn Fn(&Parts) -> String>,
    given: Vec<String>,
    seen: Vec<String>,
}

fn named(text: &str, names: &[String; 4]) -> String {
    let mut out = String::new();
    for word in text.split_inclusive(|c: char| !c.is_ascii_alphanumeric() && c != '_') {
        let (name, end) = word.split_at(word.trim_end_matches(|c: char| !c.is_ascii_alphanumeric() && c != '_').len());
        let place = ["a", "b", "p", "q"].iter().position(|n| *n == name);
        out.push_str(place.map_or(name, |n| &names[n]));
        out.push_str(end);
    }
    out
}

/// Placings in the standard's own conventions.
fn standard() -> Vec<Placing> {
    let placing = |name: &str, text: Box<dyn Fn(&Parts) -> String>| Placing {
        name: format!("iec, {name}"),
        family: "iec",
        text,
        given: vec!["a".into(), "b".into()],
        seen: vec!["p".into(), "q".into()],
    };
    let body = |p: &Parts| format!("{}\n{}", p.bit, p.word);
    let inside = |sections: &'static str| -> Box<dyn Fn(&Parts) -> String> {
        Box::new(move |p| format!("PROGRAM Main {sections}\n{}\nEND_PROGRAM", body(p)))
    };
    let globals = "VAR_GLOBAL a AT %IX0.0 : BOOL; b AT %IX7.7 : BOOL; p AT %QX0.1 : BOOL; q AT %QW4 : INT; END_VAR\n";
    let external = "VAR_EXTERNAL a, b, p : BOOL; q : INT; END_VAR";
    vec![
        placing("declared", inside("VAR_INPUT a, b : BOOL; END_VAR VAR_OUTPUT p : BOOL; q : INT; END_VAR")),
        placing(
            "in memory",
            inside(
                "VAR_INPUT a AT %MX5.0 : BOOL; b AT %MX5.1 : BOOL; END_VAR
                 VAR_OUTPUT p AT %MX9.0 : BOOL; q AT %MW7 : INT; END_VAR",
            ),
        ),
        placing(
            "located",
            inside("VAR a AT %IX0.0 : BOOL; b AT %IX0.1 : BOOL; p AT %QX3.0 : BOOL; q AT %QW7 : INT; END_VAR"),
        ),
        placing(
            "crossed areas",
            inside(
                "VAR_INPUT a AT %MX5.0 : BOOL; b AT %IX0.1 : BOOL; END_VAR
                 VAR_OUTPUT p AT %QX9.0 : BOOL; q AT %MW7 : INT; END_VAR",
            ),
        ),
        placing(
            "globals in a function block",
            Box::new(move |p| {
                format!(
                    "{globals} FUNCTION_BLOCK Inner {external}\n{}\nEND_FUNCTION_BLOCK
                     PROGRAM Main VAR Part : Inner; END_VAR Part(); END_PROGRAM",
                    body(p)
                )
            }),
        ),
        placing(
            "globals in two programs",
            Box::new(move |p| {
                format!(
                    "{globals} PROGRAM One {external}\n{}\nEND_PROGRAM PROGRAM Two {external}\n{}\nEND_PROGRAM",
                    p.bit, p.word
                )
            }),
        ),
    ]
}

/// Placings by bare addresses: in the program, in a function block, in a block that runs twice, in two programs.
fn bare(family: &'static str) -> Vec<Placing> {
    let sheet = &library(family).unwrap().sheet;
    let address = |role: AreaRole, holds: Holds, number: u32| {
        let area = sheet.areas.iter().find(|a| a.role == role && a.holds == holds).unwrap();
        area.parsed.write(number).unwrap()
    };
    let names = [
        address(AreaRole::Input, Holds::Bit, 3),
        address(AreaRole::Input, Holds::Bit, 7),
        address(AreaRole::Output, Holds::Bit, 2),
        address(AreaRole::Output, Holds::Word, 1),
    ];
    let [a, b, p, q] = names.clone().map(|n| n.replace('.', "_"));
    let placing = |name: &str, text: &'static dyn Fn(&str, &str) -> String| {
        let names = names.clone();
        Placing {
            name: format!("{family}, {name}"),
            family,
            text: Box::new(move |parts| text(&named(&parts.bit, &names), &named(&parts.word, &names))),
            given: sorted([a.clone(), b.clone()]),
            seen: sorted([p.clone(), q.clone()]),
        }
    };
    vec![
        placing("in the program", &|bit, word| format!("PROGRAM Main\n{bit}\n{word}\nEND_PROGRAM")),
        placing("in a function block", &|bit, word| {
            format!(
                "FUNCTION_BLOCK Inner\n{bit}\n{word}\nEND_FUNCTION_BLOCK
                 PROGRAM Main VAR Part : Inner; END_VAR Part(); END_PROGRAM"
            )
        }),
        placing("in a block that runs twice", &|bit, word| {
            format!(
                "FUNCTION_BLOCK Inner\n{bit}\n{word}\nEND_FUNCTION_BLOCK
                 PROGRAM Main VAR Part, Other : Inner; END_VAR Part(); Other(); END_PROGRAM"
            )
        }),
        placing("in two programs", &|bit, word| {
            format!("PROGRAM One\n{bit}\nEND_PROGRAM\nPROGRAM Two\n{word}\nEND_PROGRAM")
        }),
    ]
}

fn sorted(names: impl IntoIterator<Item = String>) -> Vec<String> {
    let mut names: Vec<String> = names.into_iter().collect();
    names.sort();
    names
}

fn read(placing: &Placing, parts: &Parts) -> Version {
    let text = (placing.text)(parts);
    let source = if placing.family == "iec" {
        checked("main", &text, Language::St)
    } else {
        read_in(placing.family, "main", &text, Language::St)
    };
    Version::new(placing.name.clone(), source).unwrap()
}

fn names(machine: &Machine, direction: Direction) -> Vec<String> {
    sorted(machine.points_of(direction).map(|(_, point)| point.name.clone()))
}

#[test]
fn what_the_outside_gives_is_driven_and_what_it_sees_is_compared() {
    let effort = Effort { scenarios: 40, scans: 6_000, faults: 0, ..Effort::default() };
    let means = Means { effort: effort.clone(), conditions: false, ..Means::default() };
    let placings: Vec<Placing> =
        standard().into_iter().chain(families().filter(|f| *f != "iec").flat_map(bare)).collect();
    let mut judged = 0;
    for (seed, placing) in placings.iter().enumerate() {
        let mut rng = Rng::with_seed(seed as u64);
        for _ in 0..3 {
            let parts = parts(&mut rng);
            let (left, right) = (read(placing, &parts), read(placing, &parts));
            assert_eq!(names(left.machine(), Direction::Input), placing.given, "{}", placing.name);
            assert_eq!(names(left.machine(), Direction::Output), placing.seen, "{}", placing.name);
            let twin = Twin::new(&left, &right);
            assert_eq!((twin.pairing.inputs().len(), twin.pairing.outputs().len()), (2, 2), "{}", placing.name);
            let verdict = compare_twin(&twin, &effort, |_| {});
            assert!(matches!(verdict, Verdict::Tested(_)), "{}: {}", placing.name, show::verdict(&verdict));
            let verdict = prove(&twin, &means, |_| true);
            assert!(matches!(verdict, Verdict::Proved(_)), "{}: {}", placing.name, show::verdict(&verdict));
            let other = read(placing, &changed(&parts, &mut rng));
            let twin = Twin::new(&left, &other);
            for verdict in [compare_twin(&twin, &effort, |_| {}), prove(&twin, &means, |_| true)] {
                let text = show::verdict(&verdict);
                assert!(matches!(verdict, Verdict::Different(_)), "{}: {text}", placing.name);
            }
            judged += 1;
        }
    }
    println!("{judged} programs in {} placings", placings.len());
}

/// A device belongs to the project as a point does: one number is one timer, however many blocks drive it, at home and after
/// it has moved.
#[test]
fn a_numbered_device_is_one_for_all_blocks() {
    let text = "FUNCTION_BLOCK Feeder
        DELAY3(COIL := INLET0, PRESET := 5);
        OUTLET0 := DELAY3;
        END_FUNCTION_BLOCK
        PROGRAM Main VAR First, Second : Feeder; END_VAR First(); Second(); OUTLET1 := DELAY3; END_PROGRAM";
    let source = read_in("octal-coil", "main", text, Language::St);
    let machine = Machine::new(&source).unwrap();
    let timers: Vec<&str> =
        machine.points().iter().map(|p| p.name.as_str()).filter(|name| name.ends_with("DONE")).collect();
    assert_eq!(timers, ["DELAY3.DONE"]);
    for mode in [Mode::Native, Mode::Faithful] {
        let st = (Language::St, Language::St.into());
        let moved = migrate(&source, &library("iec").unwrap(), st, mode, None).unwrap();
        let text = &moved.translation.files[0].text;
        assert_eq!(text.matches("DELAY3 : ").count(), 1, "{text}");
        let [left, right] = [("old", source.clone()), ("new", moved.checked.clone())]
            .map(|(name, checked)| Version::new(name, checked).unwrap());
        let twin = Twin::new(&left, &right);
        let verdict = prove(&twin, &Means::default(), |_| true);
        assert!(matches!(verdict, Verdict::Proved(_)), "{}\n{text}", show::verdict(&verdict));
    }
}

/// An instance is initialised field by field wherever its block stands.
#[test]
fn instances_are_initialised_before_and_behind_their_blocks() {
    let block = "FUNCTION_BLOCK Feeder VAR_INPUT Dose : INT; END_VAR VAR_OUTPUT Given : INT; END_VAR
        Given := Dose; END_FUNCTION_BLOCK ";
    let global = "VAR_GLOBAL Night : Feeder := (Dose := 7); END_VAR ";
    let outer = "FUNCTION_BLOCK Outer VAR_OUTPUT Shown : INT; END_VAR VAR Inner : Feeder := (Dose := 9); END_VAR
        Inner(); Shown := Inner.Given; END_FUNCTION_BLOCK ";
    let main = "PROGRAM Main VAR_OUTPUT p, q : INT; END_VAR VAR Part : Outer; Line : ARRAY[0..1] OF Feeder := [2((Dose := 3))];
        END_VAR VAR_EXTERNAL Night : Feeder; END_VAR
        Night(); Part(); Line[1](); p := Night.Given + Line[1].Given; q := Part.Shown; END_PROGRAM ";
    for order in [[block, global, outer, main], [main, outer, global, block], [global, outer, block, main]] {
        let machine = crate::common::machine("main", &order.concat(), Language::St);
        let (trace, fault) = crate::common::trace(&machine, "time_ms\n0\n", 1);
        assert!(fault.is_none() && trace.ends_with("10,9\n"), "{trace}");
    }
}

/// An address is a good name of its point, and likely partners are offered by it.
#[test]
fn addresses_are_names() {
    let tagged = "PROGRAM Main VAR Feed AT INLET3 : BOOL; Gate AT OUTLET0 : BOOL; Time AT DELAY2 : COIL_TIMER; END_VAR
        Time(COIL := Feed, PRESET := 2); Gate := Feed; END_PROGRAM";
    let bare = "PROGRAM Main OUTLET0 := INLET3; END_PROGRAM";
    let [left, right] = wired("octal-coil", tagged, bare);
    let find =
        |version: &Version, name: &str| version.machine().find(name).map(|p| version.machine().point(p).name.clone());
    assert_eq!(find(&left, "inlet3").as_deref(), Some("Feed"));
    assert_eq!(find(&left, "DELAY2.DONE").as_deref(), Some("Time.DONE"));
    assert_eq!(find(&right, "INLET3").as_deref(), Some("INLET3"));
    let (trace, _) = crate::common::trace(left.machine(), "time_ms,INLET3\n0,0\n10,1\n", 3);
    assert!(trace.ends_with("2,20,1,1\n"), "{trace}");
    let objection = Twin::new(&left, &right).pairing.objection().unwrap();
    assert!(
        objection.contains("input Feed: only in old; `INLET3` in new is at INLET3 as well and may be meant"),
        "{objection}"
    );
}

/// What a panel or the plant writes and reads, said by a tag list or by name, is driven and compared like any other point.
#[test]
fn panels_and_plants_write_memory() {
    let text = |least: u32| {
        format!(
            "PROGRAM Main VAR Level AT %MW5 : INT; Model : BOOL; Shown AT %MW9 : INT; END_VAR
             VAR_INPUT Key : BOOL; END_VAR VAR_OUTPUT Rinse : BOOL; END_VAR
             Rinse := Key AND Level > {least} AND NOT Model; Shown := Level + {least}; END_PROGRAM"
        )
    };
    let said = |least: u32, more: &[&str]| {
        let source = checked("main", &text(least), Language::St);
        let source =
            ["%MW5", "model"].iter().chain(more).fold(source, |s, name| s.outside(name, Outside::Given).unwrap());
        Version::new("version", source.outside("Shown", Outside::Shown).unwrap())
    };
    let version = said(30, &[]).unwrap();
    assert_eq!(names(version.machine(), Direction::Input), ["Key", "Level", "Model"]);
    assert_eq!(names(version.machine(), Direction::Output), ["Rinse", "Shown"]);
    let effort = Effort { scenarios: 60, scans: 6_000, faults: 0, ..Effort::default() };
    let means = Means { effort: effort.clone(), conditions: false, ..Means::default() };
    let other = said(31, &[]).unwrap();
    for verdict in [
        compare_twin(&Twin::new(&version, &other), &effort, |_| {}),
        prove(&Twin::new(&version, &other), &means, |_| true),
    ] {
        assert!(matches!(verdict, Verdict::Different(_)), "{}", show::verdict(&verdict));
    }
    // Moved into another dialect it is given and shown as before.
    let st = (Language::St, Language::St.into());
    let moved = migrate(version.checked(), &library("word-bit").unwrap(), st, Mode::Native, None).unwrap();
    let moved = Version::new("moved", moved.checked).unwrap();
    assert_eq!(names(moved.machine(), Direction::Input), ["Key", "Level", "Model"]);
    let verdict = prove(&Twin::new(&version, &moved), &means, |_| true);
    assert!(matches!(verdict, Verdict::Proved(_)), "{}", show::verdict(&verdict));
    // Whoever gives what the program writes is told, and so is whoever names what there is not.
    let wrong = said(30, &["Shown", "Rinse"]).err().map(|e| e.to_string());
    assert!(
        wrong.as_deref().is_some_and(|w| w.contains("`Rinse` is given from outside, and a program writes it")),
        "{wrong:?}"
    );
    let other = "PROGRAM P VAR t : TON; END_VAR VAR CONSTANT Most : INT := 3; END_VAR VAR_OUTPUT o : BOOL; END_VAR
        t(IN := Most > 2, PT := T#1s); o := t.Q; END_PROGRAM";
    for (name, says) in [
        ("Levle", "there is no variable `Levle` that the outside could give or see"),
        ("most", "`Most` is a constant, which no outside gives or changes"),
        ("t", "`t` is an instance, which writes its own parts; name a variable"),
        ("", "there is no variable `` that the outside could give or see"),
    ] {
        assert_eq!(checked("main", other, Language::St).outside(name, Outside::Given).unwrap_err().to_string(), says);
    }
}

#[test]
fn tag_lists_say_what_the_outside_does() {
    let shipped = library("octal-coil").unwrap();
    let text = "FUNCTION_BLOCK Inner
        LD SLOT7
        GT 30
        AND INLET0
        ST OUTLET0
        LD SLOT7
        ST SLOT8
        END_FUNCTION_BLOCK
        PROGRAM Main
        VAR Part : Inner; END_VAR
        CAL Part
        LASTLINE
        END_PROGRAM";
    let list = "address,symbol,outside\nSLOT7,Setpoint,given\nSLOT8,Display,shown\nINLET0,Key,\n";
    let tags = Tags::read(list, &shipped.sheet).unwrap();
    assert_eq!(
        Tags::write(&tags.rows),
        list.replace("symbol,outside", "symbol,comment,wiring,outside")
            .replace("point,g", "point,,,g")
            .replace("play,s", "play,,,s")
            .replace("Key,", "Key,,,")
    );
    let (project, problems) = read_project_tagged(vec![(Source::new("main.il", text), Language::Il)], &shipped, &tags);
    assert!(!problems.has_errors(), "{problems:?}");
    let source = honest_twin::check::check(project).unwrap().outside_by(&tags);
    let machine = Machine::new(&source).unwrap();
    assert_eq!(names(&machine, Direction::Input), ["Key", "Setpoint"]);
    assert_eq!(names(&machine, Direction::Output), ["Display", "OUTLET0"]);
    let wrong = Tags::read("address,symbol,outside\nSLOT7,Setpoint,panel\n", &shipped.sheet).unwrap_err();
    assert_eq!(wrong[0].to_string(), "line 2: the outside has it `given` or `shown`, not `panel`");
    assert_eq!((wrong.len(), wrong[0].line), (1, 2));
}

/// What a scan reads of its inputs is the same throughout, so no program writes one, wherever it is located.
#[test]
fn inputs_are_not_written() {
    for place in
        ["VAR a AT %IX0.0 : BOOL; END_VAR", "VAR_INPUT a : BOOL; END_VAR", "VAR_INPUT a AT %MX0.0 : BOOL; END_VAR"]
    {
        let text = format!("PROGRAM Main {place} VAR_OUTPUT o : BOOL; END_VAR o := a; a := FALSE; END_PROGRAM");
        let (project, _) = honest_twin::lang::read_project(vec![(Source::new("main.st", text.as_str()), Language::St)]);
        let problems = honest_twin::check::check(project).unwrap_err();
        assert!(
            problems.0.iter().any(|p| p.message == "`a` is an input and cannot be written here"),
            "{place}: {problems:?}"
        );
    }
}

/// Wiring that a tag list says goes for the point, whether the source gives it a name or not.
#[test]
fn wiring_of_a_tag_list_goes_for_declared_points() {
    let shipped = library("octal-coil").unwrap();
    let tags = Tags::read("address,symbol,wiring\nINLET0,Hold,NC\nINLET1,Feed,\n", &shipped.sheet).unwrap();
    for declared in ["VAR_INPUT Stop AT INLET0 : BOOL; END_VAR", ""] {
        let name = if declared.is_empty() { "INLET0" } else { "Stop" };
        let text = format!("PROGRAM Main {declared} OUTLET0 := INLET1 AND {name}; END_PROGRAM");
        let (project, problems) =
            read_project_tagged(vec![(Source::new("main.st", text.as_str()), Language::St)], &shipped, &tags);
        assert!(!problems.has_errors(), "{problems:?}");
        let machine = Machine::new(&honest_twin::check::check(project).unwrap()).unwrap();
        let (trace, _) = crate::common::trace(&machine, "time_ms,Feed\n0,1\n", 1);
        assert!(trace.ends_with(",1\n") && trace.contains("0,0,1,1,1"), "{declared}: {trace}");
    }
}

/// Two families that share no symbol: partners are offered by their places, and nothing is claimed.
#[test]
fn partners_are_offered_where_no_name_is_shared() {
    let old = read_in(
        "octal-coil",
        "old",
        "PROGRAM Main OUTLET0 := INLET0 AND NOT INLET1; SPOUT0 := 7; END_PROGRAM",
        Language::St,
    );
    let new = read_in(
        "byte-bit",
        "new",
        "PROGRAM Main ACT0.0 := SENSE0.0 AND NOT SENSE0.1; DIAL0 := 7; END_PROGRAM",
        Language::St,
    );
    let [old, new] = [("old", old), ("new", new)].map(|(name, checked)| Version::new(name, checked).unwrap());
    let mut twin = Twin::new(&old, &new);
    let effort = Effort { scenarios: 20, scans: 2_000, faults: 0, ..Effort::default() };
    for verdict in [compare_twin(&twin, &effort, |_| {}), prove(&twin, &Means::default(), |_| true)] {
        let text = show::verdict(&verdict);
        assert!(matches!(verdict, Verdict::Undecided { .. }), "{text}");
        for (own, other) in [("INLET1", "`SENSE0_1`, at SENSE0.1 in new"), ("DIAL0", "`SPOUT0`, at SPOUT0 in old")] {
            let line =
                text.lines().find(|l| l.contains(&format!("put {own}:"))).unwrap_or_else(|| panic!("{own}: {text}"));
            assert!(line.ends_with(&format!("by its place {other} may be meant")), "{line}");
        }
    }
    for pair in [["INLET0", "SENSE0.0"], ["INLET1", "SENSE0.1"], ["OUTLET0", "ACT0.0"], ["SPOUT0", "DIAL0"]] {
        twin.pairing.pair([&old, &new], pair, Mapping::Same).unwrap();
    }
    assert!(matches!(prove(&twin, &Means::default(), |_| true), Verdict::Proved(_)));
}

/// A sheet says of ranges of its memory what the outside does with them; mistakes stand at their place in the sheet.
#[test]
fn sheets_say_what_the_outside_does() {
    let shipped = include_str!("../../src/dialect/sheets/octal-coil.toml");
    let sheet = |ranges: &str| {
        let text = shipped.replacen("name = \"octal-coil\"", "name = \"bench\"", 1);
        let at = text.find("pattern = \"SLOT").unwrap();
        format!("{}{ranges}\n{}", &text[..at], &text[at..])
    };
    let blocks: String = include_str!("../../src/dialect/blocks/octal-coil.st").to_string();
    let read = |ranges: &str| {
        let text = sheet(ranges);
        read_library(&Source::new("bench.toml", text), &Source::new("bench.st", blocks.clone()))
    };
    let bench = read("given = [[7, 9]]\nshown = [[20, 20]]").unwrap_or_else(|found| panic!("{found:?}"));
    let text = "LD SLOT7\nGT 30\nST OUTLET0\nLD SLOT8\nST SLOT20\nLD SLOT3\nST SLOT21\nLASTLINE\n";
    let (project, problems) =
        read_project_in(vec![(Source::new("main.il", text), Language::Il)], &std::sync::Arc::new(bench));
    assert!(!problems.has_errors(), "{problems:?}");
    let source = honest_twin::check::check(project).unwrap();
    let hints: Vec<&str> = source.warnings().0.iter().map(|hint| hint.message.as_str()).collect();
    assert_eq!(hints.iter().filter(|hint| hint.contains("never written")).count(), 1, "{hints:?}");
    let machine = Machine::new(&source).unwrap();
    assert_eq!(names(&machine, Direction::Input), ["SLOT7", "SLOT8"]);
    assert_eq!(names(&machine, Direction::Output), ["OUTLET0", "SLOT20"]);
    for (ranges, words) in [
        ("given = [[9, 7]]", "a range goes from its low to its high number"),
        ("shown = [[0, 99999]]", "a range goes from its low to its high number"),
        ("given = [[1, 5]]\nshown = [[5, 8]]", "1 to 5 is given already"),
    ] {
        let found = read(ranges).err().unwrap();
        assert!(found.0.iter().any(|problem| problem.message.contains(words)), "{ranges}: {found:?}");
    }
}
