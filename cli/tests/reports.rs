//! Pages to hand over: what is on them, and that they need nothing else.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use assert_cmd::Command;
use std::fs;
use std::path::Path;
use tempfile::TempDir;

/// Calls the program in the root of the repository and reads the page that it writes.
fn page(args: &str) -> String {
    let folder = TempDir::new().unwrap();
    let out = folder.path().join("page.html");
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap();
    let args = args.split(' ').chain(["--report", out.to_str().unwrap()]);
    let output = Command::cargo_bin("honest-twin").unwrap().current_dir(root).args(args).output().unwrap();
    fs::read_to_string(&out).unwrap_or_else(|_| panic!("{}", String::from_utf8_lossy(&output.stderr)))
}

/// No script, nothing from elsewhere, every link inside goes somewhere, and no name stands twice.
fn is_whole(page: &str) {
    // The name of the language of drawings is no link.
    let page = &page.replace("http://www.w3.org/2000/svg", "");
    assert!(
        !page.contains("<script") && !page.contains("http:") && !page.contains("https:") && !page.contains("src="),
        "{page}"
    );
    let ids: Vec<&str> = page.split(" id=\"").skip(1).map(|rest| rest.split('"').next().unwrap()).collect();
    let unique: std::collections::BTreeSet<&str> = ids.iter().copied().collect();
    assert_eq!(ids.len(), unique.len(), "{ids:?}");
    for link in page.split("href=\"").skip(1).map(|rest| rest.split('"').next().unwrap()) {
        let target = link.strip_prefix('#').unwrap_or_else(|| panic!("{link} leads elsewhere"));
        assert!(unique.contains(target), "{link} leads nowhere: {ids:?}");
    }
}

#[test]
fn changes_side_by_side() {
    let page = page("changes demo/hatchery demo/hatchery_new --unverified");
    is_whole(&page);
    for part in [
        "CHANGED; whether it matters was not asked",
        "id=\"c5\"",
        "T#8s became T#12s",
        "untouched by all that changed",
        // The drawings, with the ground of what changed and its sign.
        "<svg",
        "stroke-width=\"2.6\"",
        // Lines of a list, moved.
        "class=\"moved\"",
        // A filter for each group, without a script.
        "id=\"f-timing\"",
        "default-src 'none'",
    ] {
        assert!(page.contains(part), "no {part}");
    }
    // Each network that changed on both sides, none that did not.
    assert_eq!(page.matches("<svg").count(), 6, "two networks of the ladder and one of the blocks, twice");
}

#[test]
fn what_two_languages_have_stands_side_by_side_with_the_ledger() {
    let page = page("changes demo/filter.toml --unverified");
    is_whole(&page);
    for part in ["L10", "became a `TON`", "instruction list, now structured text", "octal-coil became iec"] {
        assert!(page.contains(part), "no {part}");
    }
    assert!(page.matches("<svg").count() >= 8, "networks of both languages");
}

/// The report of a comparison lists what changed in the text, and the ledger of a migration.
#[test]
fn a_comparison_lists_what_changed() {
    let page = page("compare demo/filter.toml --scenarios 40 --faults 0");
    assert!(page.contains("What changed in the text") && page.contains("Ledger"), "{page}");
    assert!(page.contains("filter_old, network 1: `RinseTime` became a `TON`"), "{page}");
    let same = self::page("compare demo/rinse.il demo/rinse.il --scenarios 10 --faults 0");
    assert!(!same.contains("What changed in the text"), "nothing changed");
}
