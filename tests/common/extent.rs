//! How much of a long table is run: in a usual test a sample, another one each time; all of it where that is asked.

/// How much is run.
#[derive(Clone, Copy)]
pub enum Extent {
    All,
    /// Some of the cases, drawn from a seed.
    Sample(u64),
}

impl Extent {
    /// All with `HONEST_TWIN_ALL=1` or where a page is written; else a sample, which `HONEST_TWIN_SEED` draws again.
    pub fn asked() -> Extent {
        let is_set = |name: &str| std::env::var_os(name).is_some();
        if is_set("HONEST_TWIN_ALL") || is_set("HONEST_TWIN_WRITE") {
            return Extent::All;
        }
        let given = std::env::var("HONEST_TWIN_SEED").ok().and_then(|seed| seed.parse().ok());
        let seed = given.unwrap_or_else(|| fastrand::u64(..1_000_000));
        println!("a sample of the cases: HONEST_TWIN_SEED={seed}; HONEST_TWIN_ALL=1 runs all");
        Extent::Sample(seed)
    }

    pub fn is_all(self) -> bool {
        matches!(self, Extent::All)
    }

    /// The cases that are run: of a sample one in so many.
    pub fn one_in<T>(self, every: u32, all: impl IntoIterator<Item = T>) -> Vec<T> {
        match self {
            Extent::All => all.into_iter().collect(),
            Extent::Sample(seed) => {
                let mut rng = fastrand::Rng::with_seed(seed);
                all.into_iter().filter(|_| rng.u32(..every) == 0).collect()
            }
        }
    }
}
