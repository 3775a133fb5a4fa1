#!/usr/bin/env bash
# Certificates of the whole corpus before a checker that is not ours: a general-purpose model checker of Debian's
# (package berkeley-abc). It is installed where that is allowed; where it cannot be had, this says so and ends well.
#
# For each translation: no output of certificate.aig can be TRUE; and the sequential circuit of miter.aig, with our facts
# as further outputs, is proved by the checker's own method.
set -euo pipefail
cd "$(dirname "$0")/.."
if ! command -v berkeley-abc >/dev/null; then
    (apt-get update && apt-get install -y --no-install-recommends berkeley-abc) >/dev/null 2>&1 || true
fi
if ! command -v berkeley-abc >/dev/null; then
    echo "NOT CHECKED: berkeley-abc is not there and cannot be installed here"
    exit 0
fi
# As the tests have built it; by itself it takes what `cargo test` builds first.
twin=${CARGO_TARGET_DIR:-target}/debug/honest-twin
if [ ! -x "$twin" ]; then cargo test --quiet --locked --no-run; fi
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT

# One translation: its certificate is written and put before the checker.
one() {
    local out=$folder/$(basename "$1").$2
    "$twin" prove "$1/prog.st" "$1/prog.$2" --scan 1ms..50ms --certificate "$out" >/dev/null 2>&1
    local combinational sequential
    combinational=$(berkeley-abc -c "read_aiger $out/certificate.aig; orpos; strash; iprove" 2>&1)
    sequential=$(berkeley-abc -c "read_aiger $out/miter.aig; orpos; strash; pdr -T 60" 2>&1)
    if [[ $combinational == *UNSATISFIABLE* && $sequential == *"Property proved"* ]]; then
        echo "confirmed" >>"$folder/confirmed"
    else
        echo "NOT CONFIRMED: $1/prog.$2"
        echo "$combinational" | tail -n 1
        echo "$sequential" | tail -n 1
    fi
}
export -f one
export twin folder
total=0
for program in tests/corpus/*/; do
    for form in il ld fbd; do
        printf '%s %s\n' "${program%/}" "$form"
        total=$((total + 1))
    done
done >"$folder/all"
xargs -P "$(nproc)" -L 1 bash -c 'one "$0" "$1"' <"$folder/all"
passed=$(wc -l <"$folder/confirmed")
echo "$passed certificates of $total confirmed by an independent checker"

# Graphs with a bit changed that our own check confirms all the same: the change must not matter to the checker either.
mkdir "$folder/accepted"
HONEST_TWIN_ACCEPTED=$folder/accepted cargo test --quiet --locked --test proofs proof::a_certificate_that_was_changed >/dev/null
accepted=0
for graph in "$folder"/accepted/*.aig; do
    sequential=$(berkeley-abc -c "read_aiger $graph; orpos; strash; pdr -T 60" 2>&1)
    if [[ $sequential != *"Property proved"* ]]; then
        echo "CONFIRMED BY US ALONE: a changed graph, $(basename "$graph")"
        exit 1
    fi
    accepted=$((accepted + 1))
done
echo "$accepted changed graphs that we confirm are proved by it as well"
[ "$accepted" -ge 100 ]

# Certificates under assumptions, which are constraints there: theirs, and those with a bit changed that we confirm. The
# checker is asked about a goal first that the constraints do not rule out, so that it is known to look.
mkdir "$folder/assumed"
HONEST_TWIN_ASSUMED=$folder/assumed cargo test --quiet --locked --test twins assumptions:: >/dev/null
assumed=0
for graph in "$folder"/assumed/*.aig; do
    sequential=$(berkeley-abc -c "read_aiger $graph; strash; fold; orpos; strash; pdr -T 60" 2>&1)
    if [[ $sequential != *"Property proved"* ]]; then
        echo "CONFIRMED BY US ALONE: a graph with assumptions, $(basename "$graph")"
        exit 1
    fi
    assumed=$((assumed + 1))
done
sed '2s/.*/2/' "$folder/assumed/0.aig" >"$folder/control.aig"
control=$(berkeley-abc -c "read_aiger $folder/control.aig; strash; fold; orpos; strash; pdr -T 60" 2>&1)
[[ $control == *"was asserted"* ]] || { echo "the checker takes constraints otherwise"; exit 1; }
echo "$assumed graphs with assumptions are proved by it as well"
[ "$assumed" -ge 6 ]
[ "$passed" -eq "$total" ] && [ "$passed" -ge 90 ]
