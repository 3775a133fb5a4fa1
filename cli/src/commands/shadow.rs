//! `shadow`: polls a device over the protocol; what it means is in the library.

use crate::args::{Shadow as Args, lasting};
use crate::{Outcome, files, problems};
use honest_twin::protocol::{Begin, Numbers, Poll, Sample, Shadow, Shadowed, Table};
use honest_twin::scan::ScanTime;
use honest_twin::show;
use honest_twin::twin::Version;
use owo_colors::OwoColorize;
use std::time::{Duration, Instant};
use tokio::time::{MissedTickBehavior, interval, timeout};
use tokio_modbus::client::{Context, Reader, tcp};
use tokio_modbus::prelude::{Slave, SlaveContext};

pub(crate) fn run(args: &Args, json: bool) -> Result<Outcome, String> {
    let ScanTime::Fixed(scan) = args.scan else {
        return Err(
            "say the time of the device's scans as one time, as --scan 10ms; how far they vary goes to --within".into(),
        );
    };
    if args.period.nanos() <= 0 {
        return Err("--period is the time between two polls, as 100ms".to_string());
    }
    let Some(checked) = files::checked(&args.files, &args.written, &[], json)? else { return Ok(Outcome::Found) };
    let version = Version::new("the program", checked).map_err(|e| e.to_string())?;
    let numbers = Numbers::of(version.checked(), version.machine(), &[]).map_err(|e| e.to_string())?;
    let begin = if args.from_power_up { Begin::PowerUp } else { Begin::Running };
    let mut shadow = Shadow::new(&version, &numbers, begin, [scan, args.within]).map_err(|e| e.to_string())?;
    let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build();
    let runtime = runtime.map_err(|e| format!("cannot wait for the device: {e}"))?;
    runtime.block_on(follow(args, &mut shadow))?;
    if let Some(path) = &args.record {
        let is_scenario = path.extension().is_some_and(|e| e.eq_ignore_ascii_case("scenario"));
        let text = match is_scenario {
            true => shadow
                .scenario()
                .ok_or("nothing was read, or more polls than are kept; record them as a trace (.csv)")?,
            false => shadow.trace().write(),
        };
        files::write(path, text)?;
    }
    if args.only_record {
        problems::warn("recorded; nothing was held against the twin\n");
        return Ok(Outcome::Done);
    }
    let found = shadow.finish();
    if json {
        problems::say_json(&found)?;
    } else {
        let text = show::shadowed(&found);
        let (first, rest) = text.split_once('\n').unwrap_or((&text, ""));
        let first = match (&found.apart, found.is_same()) {
            (Some(_), _) => first.bold().yellow().to_string(),
            (None, true) => first.bold().to_string(),
            (None, false) => first.bold().magenta().to_string(),
        };
        problems::say(&format!("{first}\n{rest}"));
    }
    Ok(outcome(&found))
}

fn outcome(found: &Shadowed) -> Outcome {
    match (&found.apart, found.is_same()) {
        (Some(_), _) => Outcome::Found,
        (None, true) => Outcome::Done,
        (None, false) => Outcome::Undecided,
    }
}

/// Polls until the time is up, something differs, or somebody ends it. A connection that is lost is made again.
async fn follow(args: &Args, shadow: &mut Shadow<'_>) -> Result<(), String> {
    let polls = shadow.polls().to_vec();
    let period = lasting(args.period);
    let patience = period.max(Duration::from_secs(2));
    let begun = Instant::now();
    let is_over = || args.span.is_some_and(|span| begun.elapsed() >= lasting(span));
    let mut ticks = interval(period);
    ticks.set_missed_tick_behavior(MissedTickBehavior::Delay);
    let mut device: Option<Context> = None;
    let mut lost: Option<(Instant, String)> = None;
    let mut interrupt = std::pin::pin!(tokio::signal::ctrl_c());
    loop {
        let is_ended = timeout(Duration::ZERO, interrupt.as_mut()).await.is_ok();
        if is_over() || is_ended || (shadow.apart().is_some() && !args.only_record) {
            return Ok(());
        }
        ticks.tick().await;
        let connected = match device.take() {
            Some(device) => Ok(device),
            None => connect(&args.device, args.unit, patience).await,
        };
        let read = match connected {
            Ok(mut context) => match read(&mut context, &polls, patience).await {
                Ok(read) => {
                    device = Some(context);
                    Ok(read)
                }
                Err(why) => Err(why),
            },
            Err(why) => Err(why),
        };
        match read {
            Ok((words, asked)) => {
                if let Some((since, why)) = lost.take() {
                    shadow.gap(&why, told(since.elapsed()));
                }
                let sample = Sample { at: told(asked.duration_since(begun)), took: told(asked.elapsed()), words };
                shadow.poll(&sample);
            }
            // What the device does not have will not be there later either.
            Err(Lost::Refused(why)) => return Err(format!("{}: {why}", args.device)),
            Err(Lost::Connection(why)) => {
                if shadow.judged() == 0 && begun.elapsed() > patience.saturating_mul(5) {
                    return Err(format!("{}: {why}", args.device));
                }
                lost.get_or_insert((Instant::now(), why));
            }
        }
    }
}

fn told(time: Duration) -> honest_twin::model::Duration {
    honest_twin::model::Duration::from_nanos(i64::try_from(time.as_nanos()).unwrap_or(i64::MAX))
}

/// Why nothing was read.
enum Lost {
    Connection(String),
    Refused(String),
}

async fn connect(device: &str, unit: u8, patience: Duration) -> Result<Context, Lost> {
    let lost = |why: String| Lost::Connection(why);
    let found = tokio::net::lookup_host(device).await.map_err(|e| Lost::Refused(e.to_string()))?.next();
    let address = found.ok_or_else(|| Lost::Refused("there is no such host".to_string()))?;
    let mut context = timeout(patience, tcp::connect(address))
        .await
        .map_err(|_| lost("no connection within its time".to_string()))?
        .map_err(|e| lost(e.to_string()))?;
    context.set_slave(Slave(unit));
    Ok(context)
}

/// One poll, and when it was half done.
async fn read(context: &mut Context, polls: &[Poll], patience: Duration) -> Result<(Vec<Vec<u16>>, Instant), Lost> {
    let begun = Instant::now();
    let mut out = Vec::new();
    for poll in polls {
        let (first, count) = (poll.first, poll.count);
        let bits = |bits: Vec<bool>| bits.into_iter().map(u16::from).collect::<Vec<u16>>();
        let asked = async {
            Ok(match poll.table {
                Table::Coils => context.read_coils(first, count).await?.map(bits),
                Table::DiscreteInputs => context.read_discrete_inputs(first, count).await?.map(bits),
                Table::HoldingRegisters => context.read_holding_registers(first, count).await?,
                Table::InputRegisters => context.read_input_registers(first, count).await?,
            })
        };
        let answer: Result<_, tokio_modbus::Error> =
            timeout(patience, asked).await.map_err(|_| Lost::Connection("no answer within its time".to_string()))?;
        let words = answer.map_err(|e| Lost::Connection(e.to_string()))?.map_err(|exception| {
            Lost::Refused(format!("the device has not {count} {} from {first} on ({exception})", poll.table))
        })?;
        if words.len() != usize::from(count) {
            return Err(Lost::Connection("an answer of another length".to_string()));
        }
        out.push(words);
    }
    Ok((out, begun))
}
