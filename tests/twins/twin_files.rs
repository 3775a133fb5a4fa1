//! Twin files: a row for each thing that can be wrong with one, and what is said of it; and what a file says is what is
//! compared, written out and read again.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::show;
use honest_twin::twin::file::{FileVersion, TwinFile, read_scan_time, write};
use honest_twin::twin::{Effort, Mapping, Tolerance, Twin, Verdict, Version, compare_twin};

/// The heater of the hatchery: too cold is told late, the power is a share of the way to the setpoint.
fn heater(name: &str, points: &str, body: &str) -> Version {
    version(name, &format!("PROGRAM Heater {points} {body} END_PROGRAM"), Language::St)
}

fn pair() -> [Version; 2] {
    let left = "VAR_INPUT Door : BOOL; Degrees : INT; Aim : INT := 12; Mode : WORD; END_VAR
        VAR_OUTPUT Heat : BOOL; Power : INT; Sum : INT; END_VAR";
    let right = "VAR_INPUT Door : BOOL; Degrees : INT; Aim : INT := 12; Mode : WORD; END_VAR
        VAR_OUTPUT Heat : BOOL; Power : INT; Sum : INT; END_VAR";
    let body = "Heat := Degrees < Aim AND NOT Door; Power := LIMIT(0, (Aim - Degrees) * 5, 100); Sum := Degrees + Aim;";
    [heater("old", left, body), heater("new", right, body)]
}

fn two(more: &str) -> String {
    format!("{more}\n[[version]]\nfiles = [\"old.st\"]\n[[version]]\nfiles = [\"new.st\"]\n")
}

/// What is said of a file that cannot be read, or that does not fit the versions.
fn said(text: &str) -> String {
    let [left, right] = pair();
    match TwinFile::read(text) {
        Err(error) => error.to_string(),
        Ok(file) => {
            let which = [0, file.version.len() - 1];
            match file.twin([&left, &right], which, [None, None], None) {
                Err(error) => error.to_string(),
                Ok(_) => String::new(),
            }
        }
    }
}

/// What is added to a file about two versions, and how what is said of it begins.
const WRONG: &[(&str, &str)] = &[
    ("mode = \"loose\"", "mode is `lockstep` or `free`, not `loose`"),
    ("scan = \"fast\"", "`fast` is not a unit of time; d, h, m, s, ms, us and ns are"),
    ("scan = \"0ms\"", "a scan takes some time"),
    ("scan = \"12ms..8ms\"", "a range of scan times goes from the shorter to the longer"),
    ("[[rule]]\nnever = \"Heat\"\nalways = \"Heat\"", "rule 1 says one of never, always, after, lasts"),
    ("[[rule]]\nname = \"nothing\"", "rule 1 says one of never, always, after, lasts"),
    ("[[rule]]\nnever = \"Heat\"\n[[rule]]\nafter = \"Door\"", "rule 2 says no `then`"),
    ("[[rule]]\nafter = \"Door\"\nthen = \"NOT Heat\"", "rule 1 says no `within`"),
    ("[[rule]]\nlasts = \"Heat\"", "rule 1 says no `at_least`"),
    ("[[rule]]\nlasts = \"Heat\"\nat_least = \"long\"", "`long` is not a unit of time"),
    ("[[pair]]\nleft = \"Heat\"\nright = \"Depth\"", "new has no `Depth`"),
    ("[[pair]]\nleft = \"Depth\"\nright = \"Heat\"", "old has no `Depth`"),
    ("[[pair]]\nleft = \"Heat\"\nright = \"Door\"", "`Heat` and `Door` are not both inputs or both outputs"),
    (
        "[[pair]]\nleft = \"Heat\"\nright = \"Heat\"\ninverted = true\nscale = \"10\"",
        "`Heat`: a pair is inverted or scaled, not both",
    ),
    (
        "[[pair]]\nleft = \"Power\"\nright = \"Power\"\nreading = \"bits\"\nscale = \"10\"",
        "`Power`: a reading goes without `scale` and `inverted`",
    ),
    (
        "[[pair]]\nleft = \"Power\"\nright = \"Power\"\nreading = \"colour\"",
        "`Power`: reading is `number`, `bits` or `name`, not `colour`",
    ),
    (
        "[[pair]]\nleft = \"Power\"\nright = \"Power\"\nscale = \"much\"",
        "`Power`: `much` is no scale: a number, a fraction, or the time of a tick",
    ),
    (
        "[[pair]]\nleft = \"Power\"\nright = \"Power\"\nscale = \"0\"",
        "`Power`: `0` is no scale: a number, a fraction, or the time of a tick",
    ),
    (
        "[[pair]]\nleft = \"Power\"\nright = \"Power\"\nscale = \"1/0\"",
        "`Power`: `1/0` is no scale: a number, a fraction, or the time of a tick",
    ),
    (
        "[[pair]]\nleft = \"Power\"\nright = \"Power\"\nscale = \"0ms\"",
        "`Power`: `0ms` is no scale: a number, a fraction, or the time of a tick",
    ),
    (
        "[[pair]]\nleft = \"Power\"\nright = \"Power\"\ninverted = true",
        "the types of `Power` and `Power` do not go together so: INT and INT",
    ),
    ("leave = [\"Depth\"]", "`Depth` is to be left out, but it is not paired"),
    ("agree = [\"Heat\"]", "`Heat` is not without a partner; without one: none is"),
    ("[tolerance]\nDepth = \"50ms\"", "tolerance: there is no paired output `Depth`"),
    ("[tolerance]\nHeat = \"roughly\"", "`roughly` is not a unit of time"),
    ("[tolerance]\ndefault = \"-5ms\"", "a time that outputs may be apart is not below zero"),
    ("[wiring]\nDepth = \"closed\"", "there is no paired input `Depth`"),
    ("[wiring]\nDoor = \"shut\"", "Door: wiring is `open` or `closed`, not `shut`"),
    ("[wiring]\nDegrees = \"closed\"", "Degrees: only a BOOL is wired"),
    ("[rest]\nDegrees = \"warm\"", "Degrees: `warm` is not a value of it"),
    ("[range]\nDegrees = \"5\"", "Degrees: a range is written 0..500"),
    ("[range]\nDegrees = \"0..99999\"", "Degrees: `99999` is not a value of it"),
    ("[range]\nDegrees = \"20..5\"", "Degrees: a range goes from the lower to the higher"),
    ("assume = [\"calm\"]", "assume calm: `calm` is nothing that can be assumed"),
    ("assume = [\"never-both=Door\"]", "assume never-both=Door: `never-both=Door`: two inputs are named"),
    ("assume = [\"never-both=Door+Depth\"]", "assume never-both=Door+Depth: `Depth` is no input that is driven"),
    ("assume = [\"never-both=Door+Degrees\"]", "assume never-both=Door+Degrees: `Degrees` is not BOOL"),
    ("assume = [\"never-both=Door+door\"]", "assume never-both=Door+door: `Door` and `door` are one input"),
    ("assume = [\"scan-multiple=3ms\"]", "assume scan-multiple=3ms: no scan time is a multiple of 3ms"),
    ("assume = [\"scan-multiple=0ms\"]", "assume scan-multiple=0ms: a scan takes some time"),
    ("[[known]]\nwhen = \"Depth\"", "known: `Depth` can be asked of neither version"),
    ("[[known]]\nwhen = \"Power\"", "known: "),
    ("[[known]]\noutputs = [\"Depth\"]", "known: "),
    ("[effort]\nscenarios = -1", "TOML parse error"),
    ("colour = \"red\"", "TOML parse error"),
];

#[test]
fn what_is_wrong_with_a_twin_file() {
    let mut wrong = Vec::new();
    for (more, why) in WRONG {
        let said = said(&two(more));
        if !said.starts_with(why) {
            wrong.push(format!("{more}\n  should be: {why}\n  is:        {said}"));
        }
    }
    for (text, why) in [
        ("", "TOML parse error"),
        ("version = []", "a twin file names one version or more"),
        ("[[version]]\nname = \"old\"\n", "TOML parse error"),
        (
            "[[version]]\nfiles = [\"a.st\"]\n[[pair]]\nleft = \"A\"\nright = \"B\"\n",
            "one version by itself has nothing to pair",
        ),
        (
            "mode = \"lockstep\"\n[[version]]\nfiles = [\"a.st\"]\nscan = \"10ms\"\n[[version]]\nfiles = [\"b.st\"]\nscan = \"12ms\"\n",
            "in lockstep both versions have the same scan time; mode = \"free\" lets them differ",
        ),
    ] {
        let said = said(text);
        if !said.starts_with(why) {
            wrong.push(format!("{text}\n  should be: {why}\n  is:        {said}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// Whatever is changed in a file, it is read or refused in a sentence; nothing panics.
#[test]
fn changed_twin_files_are_read_or_refused() {
    let text = std::fs::read_to_string("demo/filter.toml").unwrap();
    let mut rng = fastrand::Rng::with_seed(5);
    let (mut read, mut refused) = (0, 0);
    for _ in 0..3_000 {
        let mut bytes = text.clone().into_bytes();
        for _ in 0..rng.usize(1..4) {
            let at = rng.usize(..bytes.len());
            match rng.u8(..3) {
                0 => bytes[at] = rng.u8(32..127),
                1 => drop(bytes.remove(at)),
                _ => bytes.insert(at, b"\"[]=\n.#-"[rng.usize(..8)]),
            }
        }
        match TwinFile::read(&String::from_utf8_lossy(&bytes)) {
            Ok(_) => read += 1,
            Err(error) => {
                assert!(!error.to_string().is_empty());
                refused += 1;
            }
        }
    }
    assert!(read > 300 && refused > 300, "{read} read, {refused} refused");
}

fn tried(twin: &Twin<'_>) -> Verdict {
    compare_twin(twin, &Effort { scenarios: 150, faults: 0, ..Effort::default() }, |_| {})
}

/// What a file says of inputs is what they do: at rest, in their range, as they are wired.
#[test]
fn inputs_keep_to_what_the_file_says() {
    let [left, right] = pair();
    let text = two(
        "[rest]\nAim = \"15\"\n[range]\nDegrees = \"5..20\"\n[wiring]\nDoor = \"closed\"\n[[rule]]\nalways = \"Degrees <= 20\"
         [[rule]]\nnever = \"Degrees < 0\"",
    );
    let file = TwinFile::read(&text).unwrap();
    let twin =
        file.twin([&left, &right], [0, 1], [None, None], None).unwrap().with_rules(file.rules().unwrap()).unwrap();
    let verdict = tried(&twin);
    let Verdict::Tested(tested) = &verdict else { panic!("{}", show::verdict(&verdict)) };
    assert!(tested.rules.iter().all(|rule| rule.holds()), "{}", show::verdict(&verdict));
    // Without the range both rules are broken.
    let open = Twin::new(&left, &right).with_rules(file.rules().unwrap()).unwrap();
    let verdict = tried(&open);
    assert!(verdict.rules().iter().all(|rule| !rule.holds()), "{}", show::verdict(&verdict));
}

/// Values that are scaled, inverted, or of ticks agree as they are said to, and not otherwise.
#[test]
fn pairs_are_read_as_the_file_says() {
    let points = |unit: &str| {
        format!("VAR_INPUT Door : BOOL; Degrees : INT; END_VAR VAR_OUTPUT {unit} END_VAR VAR T : TON; END_VAR")
    };
    let run = "T(IN := Door, PT := T#5s);";
    let rows = [
        (
            "Power : INT;",
            "Power := LIMIT(0, Degrees, 50);",
            "Power := LIMIT(0, Degrees, 50) * 10;",
            "scale = \"10\"",
            true,
        ),
        (
            "Power : INT;",
            "Power := LIMIT(0, Degrees, 50);",
            "Power := LIMIT(0, Degrees, 50) * 11;",
            "scale = \"10\"",
            false,
        ),
        (
            "Power : INT;",
            "Power := LIMIT(0, Degrees, 50) * 10;",
            "Power := LIMIT(0, Degrees, 50);",
            "scale = \"1/10\"",
            true,
        ),
        ("Power : BOOL;", "Power := Door;", "Power := NOT Door;", "inverted = true", true),
        ("Power : BOOL;", "Power := Door;", "Power := Door;", "inverted = true", false),
        ("Power : INT;", "Power := Degrees;", "Power := Degrees;", "reading = \"number\"", true),
    ];
    for (unit, left, right, how, same) in rows {
        let old = heater("old", &points(unit), &format!("{run} {left}"));
        let new = heater("new", &points(unit), &format!("{run} {right}"));
        let file = TwinFile::read(&two(&format!("[[pair]]\nleft = \"Power\"\nright = \"Power\"\n{how}"))).unwrap();
        let twin = file.twin([&old, &new], [0, 1], [None, None], None).unwrap();
        let verdict = tried(&twin);
        assert_eq!(matches!(verdict, Verdict::Tested(_)), same, "{left} {right} {how}: {}", show::verdict(&verdict));
        if same {
            assert!(
                show::verdict(&verdict).contains("assumed: ") || how.contains("number"),
                "{}",
                show::verdict(&verdict)
            );
        }
    }
    // Ticks of 100 ms beside a TIME.
    let old = heater(
        "old",
        &points("Left : INT;"),
        &format!("{run} Left := DINT_TO_INT(LINT_TO_DINT(TIME_TO_LINT(T.ET) / 100));"),
    );
    let new = heater("new", &points("Left : TIME;"), &format!("{run} Left := T.ET / 100 * 100;"));
    let file = TwinFile::read(&two("[[pair]]\nleft = \"Left\"\nright = \"Left\"\nscale = \"100ms\"")).unwrap();
    let Ok(twin) = file.twin([&old, &new], [0, 1], [None, None], None) else { return };
    assert_eq!(twin.pairing.outputs()[0].mapping, Mapping::Scaled(100_000_000, 1));
}

/// The file that is written of a comparison means the same comparison.
#[test]
fn what_is_written_is_read_again() {
    let [left, right] = pair();
    let text = two(
        "title = \"Heater\"\nscan = \"8ms..12ms\"\nagree = []\nassume = [\"one-change\", \"power-stays\"]\n[tolerance]\nHeat = \"40ms\"\n[rest]\nAim = \"15\"
         [range]\nDegrees = \"5..20\"\n[wiring]\nDoor = \"closed\"\n[[rule]]\nname = \"cold\"\nafter = \"Degrees < 5\"\nthen = \"Heat\"\nwithin = \"50ms\"
         [[known]]\nwhy = \"seen\"\nwhen = \"Door\"\noutputs = [\"Sum\"]\n[effort]\nscenarios = 150\nscans = 20000\nseed = 3\nfaults = 0",
    );
    let file = TwinFile::read(&text).unwrap();
    let effort = file.effort(&Effort::default()).unwrap();
    let twin =
        file.twin([&left, &right], [0, 1], [None, None], None).unwrap().with_rules(file.rules().unwrap()).unwrap();
    let sources =
        ["old.st", "new.st"].map(|name| FileVersion { files: vec![name.to_string()], ..FileVersion::default() });
    let written = write(&twin, &[&sources[0], &sources[1]], [&[], &[]], &effort);
    let again = TwinFile::read(&written).unwrap_or_else(|e| panic!("{e}\n{written}"));
    let back =
        again.twin([&left, &right], [0, 1], [None, None], None).unwrap().with_rules(again.rules().unwrap()).unwrap();
    assert_eq!(
        write(&back, &[&sources[0], &sources[1]], [&[], &[]], &again.effort(&Effort::default()).unwrap()),
        written
    );
    assert_eq!(again.effort(&Effort::default()).unwrap().seed, 3);
    assert_eq!(back.pairing.outputs()[0].tolerance, Tolerance::Within(honest_twin::model::Duration::from_millis(40)));
    let verdicts = [&twin, &back].map(|twin| show::verdict(&compare_twin(twin, &effort, |_| {})));
    assert_eq!(verdicts[0], verdicts[1]);
}

#[test]
fn scan_times_are_read() {
    for (text, why) in [
        ("10ms", ""),
        ("8ms..12ms", ""),
        (" 8ms .. 12ms ", ""),
        ("10ms..10ms", ""),
        ("500us", ""),
        ("", "a duration is a number with a unit, such as 10ms"),
        ("..", "a duration is a number with a unit, such as 10ms"),
        ("10", "a duration"),
        ("-10ms", "a scan takes some time"),
        ("10ms..", "a duration is a number with a unit, such as 10ms"),
        ("1ms..2ms..3ms", "the units of a duration go from large to small, each once"),
        ("999999999999999d", "this duration is longer than TIME holds"),
    ] {
        let said = read_scan_time(text).map_or_else(|e| e.to_string(), |_| String::new());
        assert!(said.starts_with(why) && said.is_empty() == why.is_empty(), "`{text}`: {said}");
    }
}
