#!/usr/bin/env bash
# What the tests do with a few cases, done with as many as hours allow. Whoever changes the engine, the search, the prover or a
# translator runs it; the figures are printed. `tests/at_length.sh 2000` takes so many pairs in place of ten thousand.
set -euo pipefail
cd "$(dirname "$0")/.."
pairs=${1:-10000}
step() { printf '\n== %s (after %d s)\n' "$*" "$SECONDS"; }

step "$pairs random programs beside the same with a change: what is proved is run on the engine, what differs is found there too"
HONEST_TWIN_PAIRS=$pairs cargo test --locked --test twins mutated:: -- --nocapture | grep -v '^test '
step "$((pairs / 2)) random programs along all twelve ways between the languages, there and back, and through the exchange format"
HONEST_TWIN_PROGRAMS=$((pairs / 2)) cargo test --locked --test languages forms:: -- --nocapture | grep -v '^test '
step "random lists and programs there and back, $pairs of each"
HONEST_TWIN_PROGRAMS=$pairs cargo test --locked --test languages random_ -- --nocapture | grep -v '^test '
step "tape and circuit beside each other, $pairs random programs"
HONEST_TWIN_PROGRAMS=$pairs cargo test --locked --test engine circuit:: -- --nocapture | grep -v '^test '
step "every reader, $((pairs / 17)) s of texts that are nearly right"
HONEST_TWIN_SECONDS=$((pairs / 17)) cargo test --locked --test twins readers:: -- --nocapture | grep -v '^test '
step "all of the longest tables"
HONEST_TWIN_ALL=1 cargo test --locked --test proofs
printf '\nall of it in %d s\n' "$SECONDS"
