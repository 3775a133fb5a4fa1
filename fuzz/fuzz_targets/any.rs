//! Any reader of what comes from outside, the one that `HONEST_TWIN_READER` names: all those of the tests. Half of the changes are those
//! that the tests make (words, trees of data), the other half those of the fuzzer, and coverage says which are kept.
#![no_main]
#![allow(clippy::unwrap_used, clippy::panic, reason = "what is wrong here is a mistake of the target")]

#[path = "../../tests/twins/readers/list.rs"]
mod list;
#[path = "../../tests/twins/readers/nearly.rs"]
mod nearly;

/// What the list of readers asks of the tests.
mod common {
    use honest_twin::lang::{Language, read_project};
    use honest_twin::source::Source;
    use honest_twin::twin::Version;

    pub(crate) fn version(name: &str, text: &str, language: Language) -> Version {
        let (project, _) = read_project(vec![(Source::new(name, text), language)]);
        Version::new(name, honest_twin::check(project).unwrap()).unwrap()
    }
}

thread_local! {
    static READER: list::Reader = {
        std::env::set_current_dir(concat!(env!("CARGO_MANIFEST_DIR"), "/..")).unwrap();
        let name = std::env::var("HONEST_TWIN_READER").expect("HONEST_TWIN_READER names a reader");
        list::readers().find(|reader| reader.name == name).expect("there is no such reader")
    };
}

/// Puts what the reader is glad of into the first folder that is named, from which the search begins.
fn sow() {
    let folder = std::env::args().skip(1).find(|argument| !argument.starts_with('-'));
    let Some(folder) = folder.and_then(|folder| std::fs::canonicalize(folder).ok()) else { return };
    READER.with(|reader| {
        for (number, seed) in reader.seeds.iter().enumerate() {
            std::fs::write(folder.join(format!("seed{number}")), seed).unwrap();
        }
    });
}

/// Changes the first `size` bytes as the tests do, into `most` bytes at most, and says how many there are now.
fn regrow(data: &mut [u8], size: usize, most: usize, seed: u32) -> usize {
    let mut rng = fastrand::Rng::with_seed(seed.into());
    let changed = READER.with(|reader| {
        let other = &reader.seeds[rng.usize(..reader.seeds.len())];
        nearly::changed(&mut rng, reader.kind, &data[..size], other)
    });
    let size = changed.len().min(most);
    data[..size].copy_from_slice(&changed[..size]);
    size
}

libfuzzer_sys::fuzz_target!(init: sow(), |data: &[u8]| READER.with(|reader| (reader.meet)(data)));

libfuzzer_sys::fuzz_mutator!(|data: &mut [u8], size: usize, max_size: usize, seed: u32| {
    if seed % 2 == 0 { regrow(data, size, max_size, seed) } else { libfuzzer_sys::fuzzer_mutate(data, size, max_size) }
});
