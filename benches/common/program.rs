//! Programs of any size, as a machine has them.

use fastrand::Rng;

/// Latches, timers, counters and sums of a hatchery; 40 inputs, an output for each rung.
pub(crate) fn program(rungs: usize) -> String {
    let mut rng = Rng::with_seed(7);
    let kinds: Vec<u8> = (0..rungs).map(|_| rng.u8(..4)).collect();
    let mut out = String::from("PROGRAM Hatchery\nVAR_INPUT\n");
    (0..40).for_each(|n| out.push_str(&format!("    Probe{n} : BOOL;\n")));
    out.push_str("END_VAR\nVAR_OUTPUT\n");
    for (n, kind) in kinds.iter().enumerate() {
        out.push_str(&format!("    Out{n} : {};\n", if *kind == 3 { "INT" } else { "BOOL" }));
    }
    out.push_str("END_VAR\nVAR\n");
    for (n, kind) in kinds.iter().enumerate() {
        match kind {
            1 => out.push_str(&format!("    Late{n} : TON;\n")),
            2 => out.push_str(&format!("    Count{n} : CTU;\n")),
            _ => {}
        }
    }
    out.push_str("END_VAR\n");
    let mut probe = || format!("Probe{}", rng.u8(..40));
    for (n, kind) in kinds.iter().enumerate() {
        let (a, b) = (probe(), probe());
        out.push_str(&match kind {
            0 => format!("    Out{n} := ({a} OR Out{n}) AND NOT {b};\n"),
            1 => format!(
                "    Late{n}(IN := {a} AND NOT {b}, PT := T#{}ms);\n    Out{n} := Late{n}.Q;\n",
                50 + n % 400 * 10
            ),
            2 => format!("    Count{n}(CU := {a}, R := {b}, PV := {});\n    Out{n} := Count{n}.Q;\n", 2 + n % 48),
            _ => format!("    IF {a} THEN\n        Out{n} := LIMIT(0, Out{n} + {}, 1000);\n    END_IF;\n", 1 + n % 8),
        });
    }
    out + "END_PROGRAM\n"
}
