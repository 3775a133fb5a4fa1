//! Requests and what they are answered (MODBUS Application Protocol Specification V1.1b3): reading and writing of bits and words,
//! masks, and the exceptions.

use super::numbers::Table;

/// Why a request is not done. The numbers are those of the protocol.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[repr(u8)]
pub enum Exception {
    /// The function is not there, or not allowed.
    #[error("illegal function (1)")]
    Function = 1,
    /// A number that is not there.
    #[error("illegal data address (2)")]
    Address = 2,
    /// A count or a value that cannot be.
    #[error("illegal data value (3)")]
    Value = 3,
}

/// Bits and words as requests see them. Numbers are counted from 0.
pub trait Tables {
    /// A bit of the coils or the discrete inputs.
    ///
    /// # Errors
    /// [`Exception::Address`] if it is not there.
    fn bit(&self, table: Table, number: u16) -> Result<bool, Exception>;

    /// A word of the registers.
    ///
    /// # Errors
    /// [`Exception::Address`] if it is not there.
    fn word(&self, table: Table, number: u16) -> Result<u16, Exception>;

    /// Writes coils from a number on, all or none.
    ///
    /// # Errors
    /// [`Exception`] if one cannot be written.
    fn write_bits(&mut self, first: u16, values: &[bool]) -> Result<(), Exception>;

    /// Writes holding registers from a number on, all or none.
    ///
    /// # Errors
    /// [`Exception`] if one cannot be written.
    fn write_words(&mut self, first: u16, values: &[u16]) -> Result<(), Exception>;
}

/// What a request is answered: a protocol data unit for a protocol data unit. There is an answer to any bytes.
pub fn answer(request: &[u8], tables: &mut impl Tables) -> Vec<u8> {
    let code = request.first().copied().unwrap_or(0);
    match done(code, request.get(1..).unwrap_or_default(), tables) {
        Ok(data) => [vec![code], data].concat(),
        Err(exception) => vec![code | 0x80, exception as u8],
    }
}

fn done(code: u8, data: &[u8], tables: &mut impl Tables) -> Result<Vec<u8>, Exception> {
    match code {
        1 => bits(data, Table::Coils, tables),
        2 => bits(data, Table::DiscreteInputs, tables),
        3 => {
            let [first, count] = words_of(data)?;
            words(Table::HoldingRegisters, first, count, tables)
        }
        4 => {
            let [first, count] = words_of(data)?;
            words(Table::InputRegisters, first, count, tables)
        }
        5 => {
            let [number, value] = words_of(data)?;
            let on = match value {
                0xff00 => true,
                0 => false,
                _ => return Err(Exception::Value),
            };
            tables.write_bits(number, &[on])?;
            Ok(data.to_vec())
        }
        6 => {
            let [number, value] = words_of(data)?;
            tables.write_words(number, &[value])?;
            Ok(data.to_vec())
        }
        15 => {
            let (first, count, bytes) = several(data, 1968, |count| count.div_ceil(8))?;
            let bit = |at: usize| bytes.get(at / 8).is_some_and(|byte| byte >> (at % 8) & 1 == 1);
            let values: Vec<bool> = (0..usize::from(count)).map(bit).collect();
            tables.write_bits(first, &values)?;
            Ok([first.to_be_bytes(), count.to_be_bytes()].concat())
        }
        16 => {
            let (first, count, bytes) = several(data, 123, |count| count * 2)?;
            tables.write_words(first, &pairs(bytes))?;
            Ok([first.to_be_bytes(), count.to_be_bytes()].concat())
        }
        22 => {
            let [number, and, or] = words_of(data)?;
            let now = tables.word(Table::HoldingRegisters, number)?;
            tables.write_words(number, &[(now & and) | (or & !and)])?;
            Ok(data.to_vec())
        }
        23 => {
            let (read, write) = data.split_at_checked(4).ok_or(Exception::Value)?;
            let [first, count] = words_of(read)?;
            let (at, _, bytes) = several(write, 121, |count| count * 2)?;
            // What is to be read is looked at before anything is written, so that a refused request has done nothing.
            words(Table::HoldingRegisters, first, count, tables)?;
            tables.write_words(at, &pairs(bytes))?;
            words(Table::HoldingRegisters, first, count, tables)
        }
        _ => Err(Exception::Function),
    }
}

/// Data that is so many words and nothing else.
fn words_of<const N: usize>(data: &[u8]) -> Result<[u16; N], Exception> {
    pairs(data).try_into().ok().filter(|_| data.len() == 2 * N).ok_or(Exception::Value)
}

fn pairs(bytes: &[u8]) -> Vec<u16> {
    bytes.chunks_exact(2).map(|pair| u16::from_be_bytes([pair[0], pair[1]])).collect()
}

/// Where a write of several begins, how many there are, and their bytes, of which there must be so many.
fn several(data: &[u8], most: u16, bytes: impl Fn(u16) -> u16) -> Result<(u16, u16, &[u8]), Exception> {
    let (head, rest) = data.split_at_checked(4).ok_or(Exception::Value)?;
    let [first, count] = words_of(head)?;
    let (length, values) = rest.split_first().ok_or(Exception::Value)?;
    let is_right =
        (1..=most).contains(&count) && u16::from(*length) == bytes(count) && values.len() == usize::from(*length);
    if is_right { Ok((first, count, values)) } else { Err(Exception::Value) }
}

/// The numbers of a request, if the table could have them.
fn run(first: u16, count: u16, most: u16) -> Result<impl Iterator<Item = u16>, Exception> {
    if !(1..=most).contains(&count) {
        return Err(Exception::Value);
    }
    let last = first.checked_add(count - 1).ok_or(Exception::Address)?;
    Ok(first..=last)
}

fn bits(data: &[u8], table: Table, tables: &impl Tables) -> Result<Vec<u8>, Exception> {
    let [first, count] = words_of(data)?;
    let mut out = vec![0; usize::from(count).div_ceil(8)];
    for (at, number) in run(first, count, 2000)?.enumerate() {
        out[at / 8] |= u8::from(tables.bit(table, number)?) << (at % 8);
    }
    out.insert(0, out.len() as u8);
    Ok(out)
}

fn words(table: Table, first: u16, count: u16, tables: &impl Tables) -> Result<Vec<u8>, Exception> {
    let mut out = Vec::new();
    for number in run(first, count, 125)? {
        out.extend(tables.word(table, number)?.to_be_bytes());
    }
    out.insert(0, out.len() as u8);
    Ok(out)
}
