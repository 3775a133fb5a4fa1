//! Random programs go from ST to IL and back; all three give the same outputs and the same fault.
//!
//! `HONEST_TWIN_PROGRAMS` says how many (300 if absent), `HONEST_TWIN_SEED` with which to begin.

use crate::common::programs::random;
use crate::common::{asked, machine, trace, translated};
use honest_twin::lang::Language;

#[test]
fn there_and_back_gives_the_same_traces() {
    let (count, first) = (asked("HONEST_TWIN_PROGRAMS").unwrap_or(300), asked("HONEST_TWIN_SEED").unwrap_or(1));
    let mut faults = 0;
    for seed in first..first + count {
        let program = random(seed);
        let name = format!("seed {seed}");
        let original = trace(&machine(&name, &program.text, Language::St), &program.stimulus, 80);
        let list = translated(&name, &program.text, Language::St, Language::Il);
        let as_list = trace(&machine(&name, &list, Language::Il), &program.stimulus, 80);
        assert_eq!(original, as_list, "{name}: ST and IL\n{}\n{list}", program.text);
        let back = translated(&name, &list, Language::Il, Language::St);
        let as_text = trace(&machine(&name, &back, Language::St), &program.stimulus, 80);
        assert_eq!(original, as_text, "{name}: ST and back\n{}\n{list}\n{back}", program.text);
        faults += u32::from(original.1.is_some());
    }
    println!("{count} programs, {faults} of them ended with the same fault");
    assert!(u64::from(faults) * 4 < count, "most programs must run to the end for the test to mean something");
}
