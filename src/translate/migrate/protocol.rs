//! The open protocol's view of a map: tables and numbers, old and new.

use super::AddressMap;
use crate::dialect::rack::protocol_place;
use crate::model::sheet::{ProtocolTable, Sheet};

/// Every paired point in the Modbus data model, as CSV: its name, and on each side its address, the table, the protocol
/// address (counted from 0, as messages carry it) and the number (counted from 1, as people say it). What a sheet
/// does not map has empty cells.
#[must_use]
pub fn protocol_map(map: &AddressMap, from: &Sheet, to: &Sheet) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let header =
        ["symbol", "old", "old_table", "old_from_0", "old_from_1", "new", "new_table", "new_from_0", "new_from_1"];
    let mut good = writer.write_record(header).is_ok();
    for row in &map.rows {
        let mut cells = vec![row.symbol.clone()];
        for (sheet, address) in [(from, &row.old), (to, &row.new)] {
            cells.push(address.clone());
            let place = sheet.locate(address).ok();
            match place.and_then(|(area, index)| protocol_place(sheet, area, index)) {
                Some((of, number)) => {
                    cells.extend([table(of).to_string(), number.to_string(), (number + 1).to_string()]);
                }
                None => cells.extend(std::iter::repeat_n(String::new(), 3)),
            }
        }
        good &= writer.write_record(&cells).is_ok();
    }
    let bytes = writer.into_inner().ok().filter(|_| good);
    bytes.and_then(|b| String::from_utf8(b).ok()).unwrap_or_default()
}

const fn table(table: ProtocolTable) -> &'static str {
    match table {
        ProtocolTable::Coils => "coils",
        ProtocolTable::DiscreteInputs => "discrete inputs",
        ProtocolTable::InputRegisters => "input registers",
        ProtocolTable::HoldingRegisters => "holding registers",
    }
}
