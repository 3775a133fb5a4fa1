//! What is served, and what came of shadowing, in words.

use crate::protocol::{Begin, MIRROR, Numbers, Shadowed, Table, Writable};
use comfy_table::Table as Words;
use comfy_table::presets::NOTHING;

/// The numbers of a project, a line each.
#[must_use]
pub fn numbers(numbers: &Numbers, writable: Writable) -> String {
    let mut table = Words::new();
    table.load_preset(NOTHING).set_header(["  table", "number", "point", "type", ""]);
    for number in numbers.list() {
        let run = match number.count {
            1 => number.number.to_string(),
            _ => format!("{} to {}", number.number, number.number + (number.count - 1)),
        };
        let mirrored = |number: u16| number.checked_add(MIRROR).map_or(String::new(), |n| format!("written at {n}"));
        let may = match (&number.plant, number.table) {
            (Some(plant), _) => format!("given by {plant}"),
            (None, Table::Coils) if writable.coils => "written".to_string(),
            (None, Table::HoldingRegisters) if writable.registers => "written".to_string(),
            (None, Table::DiscreteInputs | Table::InputRegisters) if writable.inputs => mirrored(number.number),
            (None, Table::Coils | Table::HoldingRegisters | Table::DiscreteInputs | Table::InputRegisters) => {
                String::new()
            }
        };
        table.add_row([format!("  {}", number.table), run, number.name.clone(), number.of.clone(), may]);
    }
    let lines: Vec<String> = table.lines().map(|line| line.trim_end().to_string()).collect();
    lines.join("\n") + "\n"
}

fn indented(column: usize, cell: &str) -> String {
    if column == 0 { format!("  {cell}") } else { cell.to_string() }
}

/// What came of shadowing a device.
#[must_use]
pub fn shadowed(found: &Shadowed) -> String {
    let mut out = match (&found.apart, found.is_same()) {
        (Some(apart), _) => {
            format!("DIFFERENT: {} was {} after {}\n", apart.output, apart.device, apart.at)
        }
        (None, true) => "THE SAME IN WHAT WAS SEEN (nothing more is claimed)\n".to_string(),
        (None, false) => "UNDECIDED\n".to_string(),
    };
    if let Some(apart) = &found.apart {
        out.push_str(&format!("  the twin had {} around then\n", apart.twin.join(" or ")));
        if let Some([place, text]) = &apart.statement {
            out.push_str(&format!("  written by {place}: {text}\n"));
        }
        out.push_str(&format!(
            "  tried:    {} ways in which its inputs could have moved between polls; none gives that\n",
            apart.ways
        ));
    }
    if let Some((head, rows)) = found.around.split_first() {
        let mut table = Words::new();
        table.load_preset(NOTHING).set_header(head.iter().enumerate().map(|(n, name)| indented(n, name)));
        for row in rows {
            table.add_row(row.iter().enumerate().map(|(n, cell)| indented(n, cell)));
        }
        table.lines().for_each(|line| out.push_str(&format!("{}\n", line.trim_end())));
    }
    found.unsure.iter().for_each(|why| out.push_str(&format!("  {why}\n")));
    out.push_str(&format!(
        "  seen:     {} polls in {}; changes may be {} apart\n",
        found.polls, found.span, found.window
    ));
    for gap in &found.gaps {
        out.push_str(&format!("  lost:     {gap}\n"));
    }
    if !found.still.is_empty() {
        out.push_str(&format!("  never changed: {}\n", found.still.join(", ")));
    }
    let seen = &found.coverage;
    let shares = [
        ("statements run", seen.statements()),
        ("conditions decided", seen.conditions()),
        ("branches both ways", seen.branches()),
        ("inside blocks", seen.blocks()),
    ];
    for (what, share) in shares {
        if share.of > 0 {
            out.push_str(&format!("  {what}: {} of {}\n", share.met, share.of));
        }
    }
    let begin = match found.begin {
        Begin::PowerUp => "the device began at power-up, with the inputs of the first poll",
        Begin::Running => "outputs are judged from when they first agreed",
    };
    if !found.chosen.is_empty() {
        let names = found.chosen.join(", ");
        out.push_str(&format!("  assumed: the device has {names} where `serve` puts them: they have no address that the sheet gives a number\n"));
    }
    out.push_str(&format!("  assumed: {begin}; no input changed and changed back between two polls\n"));
    out
}
