//! Dialects: sheets are sound and true, addresses read as they are written, a program stays the same in its own dialect,
//! and what is wrong is said at its place.

use crate::common::dialects::{families, programs, read_in};
use honest_twin::check::verify;
use honest_twin::dialect::{LIBRARIES, Tags, library, read_library, read_project_in};
use honest_twin::lang::{LANGUAGES, Language};
use honest_twin::source::{Diagnostic, Source};
use honest_twin::translate::{AddressMap, Mode, migrate, translate};
use honest_twin::twin::{Effort, Verdict, Version, compare};

#[test]
fn shipped_sheets_are_sound() {
    for shipped in LIBRARIES {
        let sheet = Source::new(shipped.name, shipped.sheet);
        let blocks = Source::new(shipped.name, shipped.blocks);
        if let Err(problems) = read_library(&sheet, &blocks) {
            panic!("{}: {:#?}", shipped.name, problems.0);
        }
    }
}

/// Families are of our own: areas are called by words, no two of them by letters that are in use together elsewhere, and
/// `%` is the standard's alone.
#[test]
fn families_are_spelled_in_a_way_of_their_own() {
    const TOGETHER: &[[&str; 2]] = &[
        ["X", "Y"],
        ["I", "Q"],
        ["I", "M"],
        ["Q", "M"],
        ["MW", "QW"],
        ["H", "D"],
        ["H", "E"],
        ["D", "E"],
        ["DB", "DW"],
        ["PB", "PW"],
    ];
    for family in families() {
        let sheet = library(family).unwrap().sheet.clone();
        let letters: Vec<&str> =
            sheet.areas.iter().map(|area| area.pattern.split('{').next().unwrap_or_default()).collect();
        let of_the_standard = letters.iter().filter(|l| l.starts_with('%')).count();
        if family == "iec" {
            assert_eq!(of_the_standard, letters.len(), "{family}: {letters:?}");
            continue;
        }
        assert!(letters.iter().all(|l| l.len() >= 3 && !l.contains('%')), "{family}: {letters:?}");
        for pair in TOGETHER {
            assert!(!pair.iter().all(|l| letters.contains(l)), "{family}: {pair:?}");
        }
    }
}

#[test]
fn addresses_read_as_they_are_written() {
    for name in families() {
        let library = library(name).unwrap();
        for (number, area) in library.sheet.areas.iter().enumerate() {
            for index in 0..area.parsed.count() {
                let text = area.parsed.write(index).unwrap();
                assert_eq!(library.sheet.locate(&text), Ok((number, index)), "{name}: {text}");
                assert_eq!(library.sheet.address_length(&format!("{text} ")), Some(text.len()), "{name}: {text}");
            }
            assert_eq!(area.parsed.write(area.parsed.count()), None);
        }
    }
}

/// The programs of `tests/dialects` use every area and every device of their family.
#[test]
fn programs_cover_every_area_and_device() {
    use honest_twin::model::{Item, TypeSpec};
    for family in families() {
        let sheet = &library(family).unwrap().sheet;
        let mut areas = vec![false; sheet.areas.len()];
        let mut devices = vec![false; sheet.devices.len()];
        for (name, text, language) in programs(family) {
            let checked = read_in(family, &name, &text, language);
            let units =
                checked.project().items.iter().filter_map(|i| if let Item::Unit(u) = i { Some(u) } else { None });
            for decl in units.flat_map(|u| &u.sections).flat_map(|s| &s.vars) {
                let at = decl.address.as_ref().and_then(|a| {
                    if family == "iec" { sheet.locate(&a.text).ok() } else { sheet.parse_known(&a.text) }
                });
                if let Some((area, _)) = at {
                    areas[area] = true;
                }
                let TypeSpec::Named(block) = &decl.spec else { continue };
                for (device, used) in sheet.devices.iter().zip(&mut devices).filter(|(d, _)| block.is(&d.block)) {
                    let numbered = device.numbers.as_ref().zip(at);
                    *used |= numbered.is_none_or(|(n, (area, index))| {
                        sheet.areas[area].name == n.area && (n.first..=n.last).contains(&index)
                    });
                }
            }
        }
        for (area, used) in sheet.areas.iter().zip(areas) {
            assert!(used, "{family}: no program uses {}", area.name);
        }
        for (device, used) in sheet.devices.iter().zip(devices) {
            assert!(used, "{family}: no program uses {}", device.name);
        }
    }
}

/// In its own dialect a program goes through all four languages, says the same, and is written the same again.
#[test]
fn the_same_in_every_language() {
    let mut done = 0;
    for family in families() {
        for (name, text, language) in programs(family) {
            let source = read_in(family, &name, &text, language);
            let left = Version::new("source", source.clone()).unwrap();
            for to in LANGUAGES {
                let written = translate(&source, *to).unwrap().files[0].text.clone();
                let back = read_in(family, &name, &written, *to);
                let again = translate(&back, *to).unwrap().files[0].text.clone();
                assert_eq!(again, written, "{family}/{name} in {}", to.ending());
                let right = Version::new("written", back).unwrap();
                let effort = Effort { scenarios: 40, scans: 20_000, ..Effort::default() };
                let verdict = compare(&left, &right, &effort, |_| {});
                let Verdict::Tested(tested) = &verdict else {
                    panic!("{family}/{name} in {}\n{written}\n{}", to.ending(), honest_twin::show::verdict(&verdict));
                };
                assert!(tested.pairing.alone().is_empty(), "{family}/{name}: {:?}", tested.pairing.alone());
                done += 1;
            }
        }
    }
    println!("{done} programs written in their own dialects");
}

fn at(problems: &[Diagnostic], sources: &[Source]) -> String {
    let line = |p: &Diagnostic| {
        let source = &sources[p.span.file.0 as usize];
        let place = source.line_column(p.span.start);
        let help = p.help.as_ref().map_or(String::new(), |h| format!(" ({h})"));
        format!("  {}:{} {} [{}] {}{help}\n", place.line, place.column, p.code.0, source.excerpt(p.span), p.message)
    };
    problems.iter().map(line).collect()
}

/// Each row changes one thing in the sheet of `octal-coil`.
const BAD_SHEETS: &[(&str, &str)] = &[
    ("name = \"octal-coil\"", "name = \"Octal Coil\""),
    ("role = \"input\"", "role = \"entry\""),
    ("radix = 8, last = 0o577", "radix = 7, last = 0o577"),
    ("pattern = \"INLET{point}\"", "pattern = \"INLET{pont}\""),
    ("pattern = \"INLET{point}\"", "pattern = \"INLET{point\""),
    ("pattern = \"INLET{point}\"", "pattern = \"{point}\""),
    ("pattern = \"INLET{point}\"", "pattern = \"INLET/{point}\""),
    ("pattern = \"OUTLET{point}\"", "pattern = \"INLET{point}\""),
    ("pattern = \"SLOT{number}\"", "pattern = \"SLOT1{number}\""),
    ("retained = [[400, 599]]", "retained = [[599, 999]]"),
    ("protocol = { table = \"coils\", start = 2048 }", "protocol = { table = \"coils\", start = 65500 }"),
    ("name = \"words\"", "name = \"bits\""),
    ("holds = \"word\"", "holds = \"device\""),
    ("block = \"COIL_TIMER\"", "block = \"COIL_TIMR\""),
    ("run = \"COIL\"", "run = \"COLI\""),
    ("bit = \"DONE\"", "bit = \"DUN\""),
    ("tick = \"T#100ms\"", "tick = \"soon\""),
    ("first = 160, last = 239", "first = 100, last = 239"),
    ("first = 0, last = 159", "first = 0, last = 400"),
    ("area = \"timers\"", "area = \"tmers\""),
    ("kind = \"on-delay\"", "kind = \"latch\""),
    ("end = \"LASTLINE\"", "end = \"LASTLINE\"\nspeed = 3"),
    ("first-scan = \"FLAG799\"", "first-scan = \"FLAG800\""),
    ("first-scan = \"FLAG799\"", "first-scan = \"SLOT3\""),
    ("length = 24", "length = \"long\""),
    ("[names]", "[words]\nLOOK = \"PEEK\"\n\n[names]"),
    ("[names]", "[[card]]\nname = \"a\"\narea = \"inputs\"\npoints = 16\nstart = \"INLET18\"\n\n[names]"),
    ("[names]", "[[card]]\nname = \"a\"\narea = \"inputs\"\npoints = 500\n\n[names]"),
];

#[test]
fn bad_sheets() {
    let shipped = LIBRARIES.iter().find(|l| l.name == "octal-coil").unwrap();
    let mut out = String::new();
    for (from, to) in BAD_SHEETS {
        assert!(shipped.sheet.contains(from), "{from}");
        let sheet = Source::new("mine.toml", shipped.sheet.replacen(from, to, 1));
        let blocks = Source::new("mine.st", shipped.blocks);
        let problems = read_library(&sheet, &blocks).expect_err(to);
        out.push_str(&format!("{}\n{}", to.replace('\n', " "), at(&problems.0, &[sheet, blocks])));
    }
    insta::assert_snapshot!(out);
}

const BAD_PROGRAMS: &[(&str, &str)] = &[
    ("octal-coil", "LD INLET8\nST OUTLET0\nLASTLINE"),
    ("octal-coil", "LD INLET600\nST OUTLET0\nLASTLINE"),
    ("octal-coil", "LD INLET0\nST OUTLET0"),
    ("octal-coil", "LD INLET0\nST DELAY5\nLASTLINE"),
    ("octal-coil", "LD INLET0\nST DELAY5, 8, 9\nLASTLINE"),
    ("octal-coil", "LD INLET0\nS DELAY5\nLASTLINE"),
    ("octal-coil", "LD INLET0\nUPWARD TALLY0\nLASTLINE"),
    (
        "octal-coil",
        "PROGRAM P\nVAR\n    A AT FLAG3 : BOOL;\n    C AT FLAG3 : BOOL;\nEND_VAR\nLD A\nST C\nLASTLINE\nEND_PROGRAM",
    ),
    ("octal-coil", "PROGRAM P\nVAR RETAIN\n    A AT FLAG3 : BOOL;\nEND_VAR\nLD INLET0\nST A\nLASTLINE\nEND_PROGRAM"),
    (
        "octal-coil",
        "PROGRAM P\nVAR\n    RinseTimeOfTheSecondRaceway AT DELAY3 : COIL_COUNTER;\nEND_VAR\nLD INLET0\nST OUTLET0\nLASTLINE\nEND_PROGRAM",
    ),
    ("octal-coil", "PROGRAM P\nVAR\n    SLOT5 : INT;\nEND_VAR\nLD INLET0\nST OUTLET0\nLASTLINE\nEND_PROGRAM"),
    ("octal-coil", "LD INLET0\nST FLAG799\nLASTLINE"),
    ("word-bit", "READ SIG12.5\nWRITE CMD000.00\nFINISH"),
    ("word-bit", "READ SIG012.16\nWRITE CMD000.00\nFINISH"),
    ("word-bit", "LD SIG012.05\nWRITE CMD000.00\nFINISH"),
    ("word-bit", "READ SIG000.00\nUSEUP DUE320, 3\nFINISH"),
    ("word-bit", "READ SIG000.00\nRUNOUT DUE364, 3\nFINISH"),
    ("flat-register", "LD INP0\nST OUTP1\nFINIS"),
    ("flat-register", "LD INP1\nWAIT REG10, 5\nLD INP2\nWAIT REG12, 5\nFINIS"),
    ("flat-register", "LD INP1\nWAIT REG10, 5\nLD INP1\nLD INP2\nTALLY REG10, 5\nFINIS"),
    ("flat-register", "LD INP1\nWAIT REG10, 5\nLD 7\nST REG11\nFINIS"),
    ("status-word", "SEE DIN0.16\nSHOW DOUT0.0"),
    ("status-word", "SEE TREC0.REDY\nSHOW DOUT0.0"),
    ("point-block", "FROM PTIN0\nINTO PTOUT1\nSTOPHERE"),
];

#[test]
fn bad_programs() {
    let mut out = String::new();
    for (family, text) in BAD_PROGRAMS {
        let source = Source::new("old.il", *text);
        let (project, problems) = read_project_in(vec![(source.clone(), Language::Il)], &library(family).unwrap());
        let (_, all) = verify(project, problems);
        out.push_str(&format!("{family}: {}\n{}", text.replace('\n', " | "), at(&all.0, &[source])));
    }
    insta::assert_snapshot!(out);
}

#[test]
fn bad_maps_and_tags() {
    let mut out = String::new();
    let mut say = |what: &str, problems: &[String]| {
        out.push_str(&format!("{}\n", what.replace('\n', " | ")));
        problems.iter().for_each(|p| out.push_str(&format!("  {p}\n")));
    };
    let source = read_in("octal-coil", "p", "LD INLET0\nST OUTLET0\nLD INLET1\nST DELAY0, 5\nLASTLINE", Language::Il);
    let st = (Language::St, Language::St.into());
    for map in [
        "old,new\nINLET0,SENSE0.0",
        "old,symbol,new,colour\nINLET0,INLET0,SENSE0.0,red",
        "old,symbol,new\n,,SENSE0.0",
        "old,symbol,new\nINLET0,,SENSE0.0\nINLET1,,SENSE0.0",
        "old,symbol,new\nINLET0,,SENSE0.0\nINLET0,,SENSE0.1",
        "old,symbol,new\nINLET0,,SENSE0.8",
        "old,symbol,new\nINLET0,,ACT0.0",
        "old,symbol,new\nINLET0,,INLET0",
    ] {
        let problems = match AddressMap::read(map) {
            Err(problems) => problems.iter().map(ToString::to_string).collect(),
            Ok(read) => vec![
                migrate(&source, &library("byte-bit").unwrap(), st, Mode::Native, Some(&read))
                    .expect_err(map)
                    .to_string(),
            ],
        };
        say(map, &problems);
    }
    let sheet = &library("octal-coil").unwrap().sheet;
    for tags in [
        "symbol,comment\nKey,none",
        "address,symbol\nINLET9,Key",
        "address,symbol\nINLET0,Key\nINLET0,Other",
        "address,symbol\nINLET0,Key\nINLET1,key",
        "address,symbol\nINLET0,2nd\nINLET1,DELAY3\nINLET2,END_IF",
        "address,symbol,wiring\nINLET0,Key,open\nOUTLET0,Pump,NC",
    ] {
        let problems = Tags::read(tags, sheet).expect_err(tags);
        say(tags, &problems.iter().map(ToString::to_string).collect::<Vec<_>>());
    }
    insta::assert_snapshot!(out);
}

/// The rack: cards take runs of points, with a start address or the next that is free; a point without a card is told.
#[test]
fn racks() {
    let shipped = LIBRARIES.iter().find(|l| l.name == "octal-coil").unwrap();
    let rack = "[[card]]\nname = \"slot 1\"\narea = \"inputs\"\npoints = 8\n\n\
                [[card]]\nname = \"slot 2\"\narea = \"inputs\"\npoints = 16\nstart = \"INLET20\"\n\n\
                [[card]]\nname = \"slot 3\"\narea = \"inputs\"\npoints = 8\n\n[names]";
    let sheet = Source::new("mine.toml", shipped.sheet.replacen("[names]", rack, 1));
    let library = std::sync::Arc::new(read_library(&sheet, &Source::new("mine.st", shipped.blocks)).unwrap());
    let placed = honest_twin::dialect::rack::places(&library.sheet).unwrap();
    let runs: Vec<_> = placed.iter().map(|p| (p.name.as_str(), p.points.clone())).collect();
    assert_eq!(runs, [("slot 1", 0..8), ("slot 2", 16..32), ("slot 3", 8..16)]);
    let source = Source::new("old.il", "LD INLET37\nOR INLET40\nST OUTLET0\nLASTLINE");
    let (project, problems) = read_project_in(vec![(source.clone(), Language::Il)], &library);
    let (_, all) = verify(project, problems);
    let said = at(&all.0, &[source]);
    assert!(
        said.contains("2:4 C12 [INLET40] `INLET40`: no card has this point: slot 1 has INLET0 to INLET7"),
        "{said}"
    );
}
