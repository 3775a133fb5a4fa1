//! Addresses, maps and lists of every family: the first byte chooses, the rest is the text.
#![no_main]

use honest_twin::dialect::{LIBRARIES, Tags, library, read_project_in};
use honest_twin::lang::Language;
use honest_twin::source::Source;
use honest_twin::translate::AddressMap;

libfuzzer_sys::fuzz_target!(|data: &[u8]| {
    let Some((first, rest)) = data.split_first() else { return };
    let text = String::from_utf8_lossy(rest).to_string();
    let Some(library) = library(LIBRARIES[usize::from(*first) % LIBRARIES.len()].name) else { return };
    if let Ok((area, index)) = library.sheet.locate(&text) {
        assert_eq!(library.sheet.areas[area].parsed.write(index).map(|t| library.sheet.locate(&t)), Some(Ok((area, index))));
    }
    let _ = AddressMap::read(&text);
    let _ = Tags::read(&text, &library.sheet);
    let (project, problems) = read_project_in(vec![(Source::new("fuzz.il", text), Language::Il)], &library);
    if let (Some(checked), _) = honest_twin::check::verify(project, problems) {
        let _ = honest_twin::translate(&checked, Language::Ld);
    }
});
