//! In version control: a repository's own difference shows rungs, and its tool tells what changed. With the real thing.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stderr, reason = "a test may fail loudly")]

use std::fs;
use std::path::Path;
use std::process::Command;

fn git(folder: &Path, args: &[&str]) -> String {
    let output = Command::new("git")
        .current_dir(folder)
        .args(args)
        .envs([("GIT_CONFIG_GLOBAL", "/dev/null"), ("GIT_CONFIG_SYSTEM", "/dev/null"), ("GIT_PAGER", "cat")])
        .envs([("GIT_AUTHOR_NAME", "keeper"), ("GIT_AUTHOR_EMAIL", "keeper@hatchery.invalid")])
        .envs([("GIT_COMMITTER_NAME", "keeper"), ("GIT_COMMITTER_EMAIL", "keeper@hatchery.invalid")])
        .output()
        .unwrap();
    let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).to_string();
    text(&output.stdout) + &text(&output.stderr)
}

#[test]
fn a_repository_shows_rungs_and_what_changed() {
    if Command::new("git").arg("--version").output().is_err() {
        eprintln!("there is no git here; nothing was tried");
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../demo");
    let twin = env!("CARGO_BIN_EXE_honest-twin");
    git(root, &["init", "-q"]);
    git(root, &["config", "diff.rungs.textconv", &format!("{twin} draw")]);
    let tool = format!("{twin} changes \"$LOCAL\" \"$REMOTE\" --unverified --lines");
    git(root, &["config", "difftool.twin.cmd", &tool]);
    fs::write(root.join(".gitattributes"), "*.ld diff=rungs\n*.fbd diff=rungs\n*.xml diff=rungs\n").unwrap();
    let put = |name: &str| fs::copy(demo.join(name).join("rinse.ld"), root.join("rinse.ld")).unwrap();
    put("hatchery");
    let exchange = |out: &str| {
        let args = ["translate", "rinse.ld", "--to", "ld", "--unverified", "--out", out];
        assert!(Command::new(twin).current_dir(root).args(args).status().unwrap().success());
    };
    exchange("rinse.xml");
    git(root, &["add", "."]);
    git(root, &["commit", "-q", "-m", "as it ran"]);
    put("hatchery_new");
    exchange("rinse.xml");
    let shown = git(root, &["diff", "--no-color", "rinse.ld"]);
    assert!(shown.contains("-    │              T#8s ──┤PT   ET│  │"), "{shown}");
    assert!(shown.contains("+    │              T#12s ──┤PT   ET│  │"), "{shown}");
    // The document's own text says nothing to a reader of rungs; the drawing does.
    let document = git(root, &["diff", "--no-color", "rinse.xml"]);
    assert!(document.contains("┤IN TP Q│") && !document.contains("<position"), "{document}");
    let told = git(root, &["difftool", "-y", "-t", "twin", "rinse.ld"]);
    assert!(told.contains("logic value: network 1") && told.contains("T#8s became T#12s"), "{told}");
    assert!(told.contains("logic branch: network 2") && told.contains("+ |/| ScreenBlocked"), "{told}");
    git(root, &["commit", "-q", "-a", "-m", "twelve seconds"]);
    let log = git(root, &["log", "-p", "--no-color", "-1", "rinse.ld"]);
    assert!(log.contains("T#12s ──┤PT"), "{log}");
}
