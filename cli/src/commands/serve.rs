//! `serve`: sockets and the clock around a machine that the library serves.

use crate::args::{Area, Serve, lasting};
use crate::{Outcome, files, problems};
use honest_twin::model::ScanNumber;
use honest_twin::protocol::{Arrived, Cut, MOST_OF_A_FRAME, Numbers, Served, Writable, frame};
use honest_twin::scan::{Direction, Recorder, ScanTime};
use honest_twin::show;
use honest_twin::twin::Version;
use serde::Serialize;
use std::cell::RefCell;
use std::rc::Rc;
use std::time::Duration;
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::Notify;
use tokio::time::{Instant, MissedTickBehavior, interval, sleep_until, timeout};

/// What happened, for the words at the end.
#[derive(Clone, Copy, Debug, Default, Serialize)]
struct Counts {
    scans: u64,
    /// How late scans began, in microseconds: all together, and the latest.
    late: u64,
    latest: u64,
    connections: u64,
    /// Connections beyond the most there may be.
    turned_away: u64,
    requests: u64,
    /// Requests that an exception answered.
    refused: u64,
    /// Connections that ended because what came was no frame.
    malformed: u64,
    /// Connections that said nothing for too long.
    idle: u64,
}

struct State {
    served: Served,
    recorder: Option<Recorder>,
    counts: Counts,
    open: usize,
    /// How much of what arrived the trace has.
    told: usize,
}

impl State {
    fn scan(&mut self) {
        let number = ScanNumber(self.served.controller().scans());
        // What was full before a scan takes nothing of it.
        let mut recorder = self.recorder.as_mut().filter(|recorder| !recorder.is_full());
        if let Some(recorder) = &mut recorder {
            let machine = self.served.controller().machine();
            let is_input = |arrived: &&Arrived| machine.point(arrived.point).direction == Direction::Input;
            let written = self.served.arrived()[self.told..].iter().filter(|arrived| !is_input(arrived));
            written.for_each(|arrived| recorder.write(machine, &(arrived.point, arrived.value.clone())));
        }
        self.told = self.served.arrived().len();
        let at = self.served.scan();
        self.counts.scans += 1;
        if let Some(recorder) = recorder {
            recorder.row(self.served.controller(), number, at);
        }
    }
}

type Shared = Rc<RefCell<State>>;

pub(crate) fn run(args: &Serve, json: bool) -> Result<Outcome, String> {
    let ScanTime::Fixed(scan) = args.scan else {
        return Err("a machine that is served scans at one time, as --scan 10ms".to_string());
    };
    let Some(checked) = files::checked(&args.files, &args.written, &args.plants.plant, json)? else {
        return Ok(Outcome::Found);
    };
    let version = Version::new("the program", checked).map_err(|e| e.to_string())?;
    let numbers = Numbers::of(version.checked(), version.machine(), &args.also).map_err(|e| e.to_string())?;
    let writable = Writable {
        coils: args.writable.contains(&Area::Coils),
        registers: args.writable.contains(&Area::Registers),
        inputs: args.writable.contains(&Area::Inputs),
    };
    let table = show::numbers(&numbers, writable);
    let mut served = Served::new(&version, numbers, writable, scan);
    if args.stepped {
        served = served.stepped();
    }
    let recorder = args.trace.is_some().then(|| Recorder::new(version.machine(), &[]));
    let state = Rc::new(RefCell::new(State { served, recorder, counts: Counts::default(), open: 0, told: 0 }));
    let runtime = tokio::runtime::Builder::new_current_thread()
        .enable_all()
        .build()
        .map_err(|e| format!("cannot wait for clients: {e}"))?;
    let local = tokio::task::LocalSet::new();
    local.block_on(&runtime, session(args, scan, &state, &(table, json)))?;
    drop(local);
    finish(args, &state, json)
}

/// What is left when nobody is served any more.
fn finish(args: &Serve, state: &Shared, json: bool) -> Result<Outcome, String> {
    let state = &mut *state.borrow_mut();
    if let (Some(path), Some(recorder)) = (&args.trace, state.recorder.take()) {
        let is_full = recorder.is_full();
        let trace = recorder.finish();
        if is_full {
            problems::warn(&format!("the trace ends after {} scans: of more it is too long\n", trace.scans().len()));
        }
        files::write_by(path, |out| trace.write_to(out))?;
    }
    let arrived = state.served.arrived().len();
    if let Some(path) = &args.record {
        let scenario = state.served.scenario();
        let scenario = scenario.ok_or("more was written than is kept; the session cannot be replayed")?;
        files::write(path, scenario)?;
    }
    let fault = state.served.fault();
    if json {
        problems::say_json(&serde_json::json!({ "counts": state.counts, "written": arrived, "fault": fault }))?;
    } else {
        let Counts { scans, late, latest, connections, turned_away, requests, refused, malformed, idle } = state.counts;
        problems::say(&format!(
            "served: {scans} scans, begun {:.1} ms late in the mean, {:.1} ms at most\n        \
             {connections} connections ({turned_away} turned away, {idle} idle for too long, {malformed} that spoke something else)\n        \
             {requests} requests ({refused} refused), {arrived} values written\n",
            late as f64 / 1000.0 / scans.max(1) as f64,
            latest as f64 / 1000.0
        ));
        if let Some(fault) = fault {
            problems::say(&format!("  it stopped with a fault in scan {}: {}\n", fault.scan.0, fault.kind));
        }
    }
    Ok(if fault.is_some() { Outcome::Found } else { Outcome::Done })
}

/// Serves until the time is up or somebody ends it.
async fn session(
    args: &Serve,
    scan: honest_twin::model::Duration,
    state: &Shared,
    (table, json): &(String, bool),
) -> Result<(), String> {
    let listener =
        TcpListener::bind(&args.listen).await.map_err(|e| format!("cannot listen at {}: {e}", args.listen))?;
    let at = listener.local_addr().map_err(|e| e.to_string())?;
    let pace = match args.stepped {
        true => "a scan whenever a client asks for it".to_string(),
        false => format!("a scan every {}", honest_twin::model::format_duration(scan)),
    };
    if *json {
        problems::say_json(&serde_json::json!({ "listening": at.to_string() }))?;
    } else {
        problems::say(&format!("serving at {at}, {pace}; Ctrl-C ends it\n{table}"));
    }
    let step = Rc::new(Notify::new());
    let end = args.span.map(|span| Instant::now() + lasting(span));
    let ended = async {
        match end {
            Some(end) => sleep_until(end).await,
            None => std::future::pending().await,
        }
    };
    tokio::task::spawn_local(accept(listener, Rc::clone(state), Rc::clone(&step), (args.clients, lasting(args.idle))));
    let running = async {
        match args.stepped {
            true => by_steps(state, &step).await,
            false => by_clock(state, lasting(scan)).await,
        }
    };
    // Whichever is over first.
    let mut ended = std::pin::pin!(ended);
    let mut running = std::pin::pin!(running);
    let mut interrupt = std::pin::pin!(tokio::signal::ctrl_c());
    std::future::poll_fn(|context| {
        use std::future::Future;
        let over = ended.as_mut().poll(context).is_ready()
            || interrupt.as_mut().poll(context).is_ready()
            || running.as_mut().poll(context).is_ready();
        if over { std::task::Poll::Ready(()) } else { std::task::Poll::Pending }
    })
    .await;
    Ok(())
}

/// A scan whenever the clock says so. A scan that begins late does not move those behind it.
async fn by_clock(state: &Shared, time: Duration) {
    let mut ticks = interval(time.max(Duration::from_micros(100)));
    ticks.set_missed_tick_behavior(MissedTickBehavior::Burst);
    loop {
        let due = ticks.tick().await;
        let late = Instant::now().saturating_duration_since(due);
        let mut state = state.borrow_mut();
        let counts = &mut state.counts;
        let late = u64::try_from(late.as_micros()).unwrap_or(u64::MAX);
        counts.late = counts.late.saturating_add(late);
        counts.latest = counts.latest.max(late);
        state.scan();
    }
}

/// Scans that clients ask for.
async fn by_steps(state: &Shared, step: &Notify) {
    loop {
        step.notified().await;
        while state.borrow().served.due() > 0 {
            state.borrow_mut().scan();
            // Other clients are answered in between.
            tokio::task::yield_now().await;
        }
    }
}

async fn accept(listener: TcpListener, state: Shared, step: Rc<Notify>, (clients, idle): (usize, Duration)) {
    loop {
        let Ok((stream, _)) = listener.accept().await else {
            // Without a free descriptor there is nothing to do but to wait for one.
            tokio::time::sleep(Duration::from_millis(50)).await;
            continue;
        };
        {
            let mut state = state.borrow_mut();
            if state.open >= clients {
                state.counts.turned_away += 1;
                continue;
            }
            state.open += 1;
            state.counts.connections += 1;
        }
        let (state, step) = (Rc::clone(&state), Rc::clone(&step));
        tokio::task::spawn_local(async move {
            converse(stream, &state, &step, idle).await;
            state.borrow_mut().open -= 1;
        });
    }
}

/// Answers one client, request by request, until it ends, says nothing for too long, or speaks something else.
async fn converse(mut stream: TcpStream, state: &Shared, step: &Notify, idle: Duration) {
    let _ = stream.set_nodelay(true);
    let mut buffer = Vec::with_capacity(MOST_OF_A_FRAME);
    let mut part = [0; MOST_OF_A_FRAME];
    loop {
        match frame(&buffer) {
            Cut::More => {}
            Cut::Malformed(_) => {
                state.borrow_mut().counts.malformed += 1;
                return;
            }
            Cut::Frame(mut request, length) => {
                buffer.drain(..length);
                {
                    let mut state = state.borrow_mut();
                    request.pdu = state.served.answer(&request.pdu);
                    state.counts.requests += 1;
                    state.counts.refused += u64::from(request.pdu.first().is_some_and(|code| code & 0x80 != 0));
                    if state.served.due() > 0 {
                        step.notify_one();
                    }
                }
                match timeout(idle, stream.write_all(&request.bytes())).await {
                    Ok(Ok(())) => continue,
                    Ok(Err(_)) | Err(_) => return,
                }
            }
        }
        match timeout(idle, stream.read(&mut part)).await {
            Ok(Ok(read)) if read > 0 => buffer.extend(&part[..read]),
            Ok(_) => return,
            Err(_) => {
                state.borrow_mut().counts.idle += 1;
                return;
            }
        }
    }
}
