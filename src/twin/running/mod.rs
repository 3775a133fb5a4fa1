//! Running both versions: one scenario on two controllers, many at a time as a circuit, rules, what was covered.

pub(in crate::twin) mod both;
pub(in crate::twin) mod coverage;
pub(in crate::twin) mod laid;
pub(in crate::twin) mod leap;
#[cfg(test)]
mod leapt;
pub(in crate::twin) mod matching;
pub(in crate::twin) mod monitor;
#[cfg(test)]
pub(in crate::twin) mod monitored;
pub(in crate::twin) mod rules;
pub(in crate::twin) mod run;
pub(in crate::twin) mod wide;
