//! Plants: programs that stand in for the machine itself. What a plant puts out is what a controller's inputs show, and what
//! the controller puts out is what the plant reads.

use super::{Duration, Item, Name};
use indexmap::IndexMap;

/// A plant as it is joined to a project.
#[derive(Clone, Debug)]
pub struct Plant {
    /// What its variables go by: `Raceway` in `Raceway.Level`.
    pub name: Name,
    /// What its files declare. Its program is a function block here, of which there is one instance.
    pub items: Vec<Item>,
    /// The name of that block.
    pub block: Name,
    /// How it runs and what it is wired to.
    pub settings: PlantSettings,
}

/// How a plant runs and what it is wired to.
#[derive(Clone, Debug, Default)]
pub struct PlantSettings {
    /// Time between two runs; zero: it runs in each scan of the controller, after the controller's programs.
    pub every: Duration,
    /// How many runs later what it puts out is seen.
    pub delay: u32,
    /// Of a variable of the plant the points that it may be wired to, the first that a version has. What is not named here is
    /// wired to the input or output of its own name, if there is one.
    pub wires: IndexMap<String, Vec<String>>,
    /// What may go wrong between the plant and an input, by the plant's variable.
    pub sensors: IndexMap<String, Sensor>,
}

/// What may go wrong with what measures a value of a plant. Each fault is an input of the twin, and happens while that is
/// TRUE, or not 0.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Sensor {
    /// `INPUT.stuck`: the input keeps the value it has.
    pub stuck: bool,
    /// `INPUT.bounce`, of a BOOL: the input shows the opposite.
    pub bounce: bool,
    /// `INPUT.noise`, of a whole number: so much is added, from minus this to plus this; 0: no noise.
    pub noise: i64,
    /// `INPUT.late`: the input shows what was so many runs ago; 0: never late.
    pub late: u32,
}

impl Plant {
    /// Most runs that a value may be late.
    pub const MOST_RUNS: u32 = 1000;
}
