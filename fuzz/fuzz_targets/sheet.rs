//! The reader of sheets, with the blocks of a shipped family.
#![no_main]

use honest_twin::dialect::{LIBRARIES, read_library};
use honest_twin::source::Source;

libfuzzer_sys::fuzz_target!(|data: &[u8]| {
    let text = String::from_utf8_lossy(data).to_string();
    let blocks = LIBRARIES.iter().find(|l| l.name == "octal-coil").map_or("", |l| l.blocks);
    if let Ok(library) = read_library(&Source::new("fuzz", text), &Source::new("blocks", blocks)) {
        let _ = honest_twin::show::dialect(&library);
    }
});
