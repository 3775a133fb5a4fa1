//! A strip of time: what BOOLs did lately, a character for some scans.

use honest_twin::model::Value;

/// On, off, and both within the scans of one character.
pub(crate) const ON: char = '█';
pub(crate) const OFF: char = '▁';
pub(crate) const BOTH: char = '▒';

/// The strip of a signal over scans `from` to `until` (not included), in so many characters; blanks before it began. `turns` has
/// the value at `from` first, then each change with its scan.
pub(crate) fn strip(turns: &[(u64, Value)], from: u64, until: u64, width: usize) -> String {
    let span = until.saturating_sub(from).max(1);
    let at = |column: usize| from + span * column as u64 / width.max(1) as u64;
    let mut next = 0;
    let mut now: Option<bool> = None;
    let mut out = String::new();
    for column in 0..width {
        let (begin, end) = (at(column), at(column + 1).max(at(column) + 1));
        let (mut on, mut off) = (now == Some(true), now == Some(false));
        let mut first = true;
        while let Some((scan, value)) = turns.get(next).filter(|(scan, _)| *scan < end) {
            let is_on = *value == Value::Bool(true);
            if *scan <= begin && first {
                (on, off) = (false, false);
            }
            first = false;
            (on, off) = (on | is_on, off | !is_on);
            now = Some(is_on);
            next += 1;
        }
        out.push(match (on, off) {
            (true, true) => BOTH,
            (true, false) => ON,
            (false, true) => OFF,
            (false, false) => ' ',
        });
    }
    out
}

#[cfg(test)]
mod tests {
    use super::strip;
    use honest_twin::model::Value;

    #[test]
    fn a_signal_is_drawn_over_time() {
        let turns = |list: &[(u64, bool)]| list.iter().map(|(scan, on)| (*scan, Value::Bool(*on))).collect::<Vec<_>>();
        assert_eq!(strip(&turns(&[(0, false), (2, true), (4, false)]), 0, 6, 6), "▁▁██▁▁");
        // Two scans a character.
        assert_eq!(strip(&turns(&[(0, false), (3, true), (4, false)]), 0, 8, 4), "▁▒▁▁");
        // Fewer scans than characters.
        assert_eq!(strip(&turns(&[(0, true), (1, false)]), 0, 2, 4), "██▁▁");
        assert_eq!(strip(&[], 0, 4, 4), "    ");
    }
}
