//! Reading a graph: the binary form of the AIGER format, version 1.9.
//!
//! Written here because the library that writes them takes files with more properties than variables for faulty.

/// A graph. A literal is twice the number of a variable, plus 1 if it is inverted; variable 0 is FALSE. Inputs come
/// first, then latches, then gates.
pub(super) struct Aig {
    pub(super) inputs: usize,
    /// Of each latch what it holds next; it begins with 0.
    pub(super) latches: Vec<u32>,
    pub(super) outputs: Vec<u32>,
    pub(super) bad: Vec<u32>,
    pub(super) constraints: Vec<u32>,
    pub(super) gates: Vec<[u32; 2]>,
    symbols: Vec<(char, usize, String)>,
}

impl Aig {
    /// The number of the first variable that is a gate.
    pub(super) fn first_gate(&self) -> usize {
        1 + self.inputs + self.latches.len()
    }

    /// What a symbol says: of an output `o`, of a bad state `b`.
    pub(super) fn symbol(&self, kind: char, number: usize) -> String {
        let found = self.symbols.iter().find(|(k, n, _)| (*k, *n) == (kind, number));
        found.map_or_else(|| format!("{kind}{number}"), |(_, _, name)| name.clone())
    }
}

/// Bytes that are still to be read.
struct Bytes<'b>(&'b [u8]);

impl Bytes<'_> {
    fn line(&mut self) -> Result<String, String> {
        let end = self.0.iter().position(|b| *b == b'\n').ok_or("it ends in the middle of a line")?;
        let line = String::from_utf8_lossy(&self.0[..end]).trim_end_matches('\r').to_string();
        self.0 = &self.0[end + 1..];
        Ok(line)
    }

    /// A literal on a line of its own.
    fn literal(&mut self) -> Result<u32, String> {
        let line = self.line()?;
        line.parse().map_err(|_| format!("`{line}` is no literal"))
    }

    fn literals(&mut self, count: usize) -> Result<Vec<u32>, String> {
        (0..count).map(|_| self.literal()).collect()
    }

    /// A number of seven bits a byte, the lowest first.
    fn delta(&mut self) -> Result<u32, String> {
        let mut out = 0u32;
        for at in 0..5 {
            let (first, rest) = self.0.split_first().ok_or("it ends among its gates")?;
            self.0 = rest;
            out |= u32::from(first & 0x7F).checked_shl(7 * at).unwrap_or(0);
            if first & 0x80 == 0 {
                return Ok(out);
            }
        }
        Err("a gate reads a number that is too large".to_string())
    }
}

/// Reads a graph.
///
/// # Errors
/// What is wrong with it, in one sentence.
pub(super) fn read(bytes: &[u8]) -> Result<Aig, String> {
    let mut rest = Bytes(bytes);
    let head = rest.line()?;
    let mut words = head.split(' ');
    if words.next() != Some("aig") {
        return Err("it does not begin with `aig`".to_string());
    }
    let counts: Result<Vec<usize>, _> = words.map(str::parse).collect();
    let counts = counts.map_err(|_| format!("`{head}` does not say how much there is of what"))?;
    if !(5..=9).contains(&counts.len()) {
        return Err(format!("`{head}` does not say how much there is of what"));
    }
    let count = |at: usize| counts.get(at).copied().unwrap_or(0);
    let [most, inputs, latches, outputs, gates, bad, constraints] = [0, 1, 2, 3, 4, 5, 6].map(count);
    if count(7) > 0 || count(8) > 0 {
        return Err("it has properties about what happens in the end".to_string());
    }
    // Variables are numbered without a gap, and all but inputs take a byte of the file.
    let all = [inputs, latches, gates].iter().try_fold(0usize, |sum, n| sum.checked_add(*n));
    if all != Some(most) || most > 20_000_000 || latches.saturating_add(gates) > bytes.len() {
        return Err(format!("`{head}` promises what the file has not"));
    }
    let mut next = Vec::new();
    for _ in 0..latches {
        let line = rest.line()?;
        // What it begins with may stand behind it.
        let literal = line.strip_suffix(" 0").unwrap_or(&line);
        next.push(literal.parse().map_err(|_| format!("`{line}` is no latch that begins with 0"))?);
    }
    let [outputs, bad, constraints] = [rest.literals(outputs)?, rest.literals(bad)?, rest.literals(constraints)?];
    let mut aig = Aig { inputs, latches: next, outputs, bad, constraints, gates: Vec::new(), symbols: Vec::new() };
    for number in 0..gates {
        let own = ((aig.first_gate() + number) * 2) as u32;
        let first = own.checked_sub(rest.delta()?).filter(|f| *f < own).ok_or("a gate reads what is not there")?;
        let second = first.checked_sub(rest.delta()?).ok_or("a gate reads what is not there")?;
        aig.gates.push([first, second]);
    }
    let read = [&aig.latches, &aig.outputs, &aig.bad, &aig.constraints];
    if read.into_iter().flatten().any(|literal| (*literal >> 1) as usize > most) {
        return Err("something reads what is not there".to_string());
    }
    while !rest.0.is_empty() {
        let line = rest.line()?;
        let Some((target, name)) = line.split_once(' ') else { break };
        let mut target = target.chars();
        if let (Some(kind), Ok(number)) = (target.next(), target.as_str().parse()) {
            aig.symbols.push((kind, number, name.to_string()));
        }
    }
    Ok(aig)
}
