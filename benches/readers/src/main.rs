//! Reading, checking and writing text, in megabytes a second: structured text here, beside shaders of like size in `naga`, a
//! compiler between shading languages. Both in one run, on one core. To write is to lay out what was read and checked;
//! a translation plans what it writes besides.
//!
//! `cargo run --release --manifest-path benches/readers/Cargo.toml`
#![allow(clippy::print_stdout, clippy::unwrap_used, clippy::panic, reason = "a benchmark prints")]

#[path = "../../common/program.rs"]
mod program;

use honest_twin::check::{Checked, verify};
use honest_twin::lang::{Language, read_project, write_file};
use honest_twin::source::Source;
use honest_twin::translate::translate_as;
use naga::back::wgsl::{WriterFlags, write_string};
use naga::valid::{Capabilities, ModuleInfo, ValidationFlags, Validator};
use std::hint::black_box;
use std::time::Instant;

/// Functions with decisions, sums and products, as many bytes as wanted or a little more.
fn shader(bytes: usize) -> String {
    let mut rng = fastrand::Rng::with_seed(7);
    let mut out = String::new();
    let mut number = 0;
    while out.len() < bytes {
        out.push_str(&format!("fn step{number}(a: f32, b: f32, on: bool) -> f32 {{\n    var x: f32 = a;\n"));
        for _ in 0..rng.u8(3..9) {
            let (k, m) = (rng.u8(1..99), rng.u8(1..9));
            out.push_str(&match rng.u8(0..4) {
                0 => format!("    x = x * {m}.0 + b - {k}.5;\n"),
                1 => format!("    if (on && x > {k}.0) {{\n        x = x - {m}.0;\n    }}\n"),
                2 => format!("    x = clamp(x + {m}.0, 0.0, {k}.0);\n"),
                _ => format!("    if (x < b || !on) {{\n        x = max(x, {k}.25);\n    }} else {{\n        x = x / {m}.0;\n    }}\n"),
            });
        }
        out.push_str("    return x;\n}\n\n");
        number += 1;
    }
    out
}

/// Megabytes a second of what is done with so many bytes, the best of several times.
fn speed(bytes: usize, mut work: impl FnMut()) -> f64 {
    let best = (0..9).map(|_| {
        let begun = Instant::now();
        work();
        begun.elapsed().as_secs_f64()
    });
    bytes as f64 / 1e6 / best.fold(f64::INFINITY, f64::min)
}

fn checked(text: &str) -> Checked {
    let (project, problems) = read_project(vec![(Source::new("hatchery.st", text), Language::St)]);
    verify(project, problems).0.unwrap()
}

fn validated(module: &naga::Module) -> ModuleInfo {
    Validator::new(ValidationFlags::all(), Capabilities::empty()).validate(module).unwrap()
}

fn main() {
    println!("{:<10}{:>22}{:>22}{:>22}{:>22}", "MB/s", "read", "read and check", "written", "translated");
    for rungs in [100, 1_000, 10_000] {
        let text = program::program(rungs);
        let bytes = text.len();
        let ours = checked(&text);
        let out = translate_as(&ours, Language::St, Language::St.into()).unwrap().files[0].text.len();
        let items = &ours.project().items;
        let laid_out = write_file(items.iter(), Language::St).unwrap().len();
        let st = [
            speed(bytes, || drop(black_box(read_project(vec![(Source::new("h.st", text.as_str()), Language::St)])))),
            speed(bytes, || drop(black_box(checked(&text)))),
            speed(laid_out, || drop(black_box(write_file(items.iter(), Language::St).unwrap()))),
            speed(out, || drop(black_box(translate_as(&ours, Language::St, Language::St.into()).unwrap()))),
        ];
        let wgsl = shader(bytes);
        let module = naga::front::wgsl::parse_str(&wgsl).unwrap();
        let info = validated(&module);
        let written = write_string(&module, &info, WriterFlags::empty()).unwrap().len();
        let naga = [
            speed(wgsl.len(), || drop(black_box(naga::front::wgsl::parse_str(&wgsl).unwrap()))),
            speed(wgsl.len(), || {
                let module = naga::front::wgsl::parse_str(&wgsl).unwrap();
                black_box(validated(&module));
            }),
            speed(written, || drop(black_box(write_string(&module, &info, WriterFlags::empty()).unwrap()))),
        ];
        println!("{rungs} rungs, {:.1} MB", bytes as f64 / 1e6);
        for (name, row) in [("  here", &st[..]), ("  naga", &naga)] {
            let cells: String = row.iter().map(|cell| format!("{cell:>22.1}")).collect();
            println!("{name:<10}{cells}");
        }
    }
}
