//! Pages that are made by running what they are about: `docs/traps.md` and `docs/dialects`. This holds what stands
//! there; `HONEST_TWIN_WRITE=1 cargo test --test twins pages::` writes it anew.

use crate::common::pages::{dialects, found, hold, idioms, traps};

#[test]
fn the_thirty_traps() {
    hold(traps::page());
}

#[test]
fn a_page_for_each_dialect() {
    hold(dialects::pages());
}

#[test]
fn small_programs_in_four_languages() {
    hold(vec![("idioms.md".to_string(), idioms::page())]);
}

#[test]
fn how_soon_differences_are_found() {
    found::holds();
}

#[test]
fn the_schema_of_a_verdict() {
    hold(vec![("verdict.schema.json".to_string(), honest_twin::show::verdict_schema())]);
    hold(vec![("changes.schema.json".to_string(), honest_twin::changes::schema())]);
}
