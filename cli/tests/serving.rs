//! `serve` asked by an independent client, by many, and by what is no client; what it records replays; `shadow` of what is
//! served, and of a device that is cut off.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use assert_cmd::cargo::cargo_bin;
use std::fs;
use std::io::{BufRead, BufReader, Read, Write};
use std::net::{TcpListener, TcpStream};
use std::path::Path;
use std::process::{Child, Command, Output, Stdio};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;
use tempfile::TempDir;
use tokio_modbus::ExceptionCode;
use tokio_modbus::client::{Context, Reader, Writer, tcp};

/// The heater of the trays: a key, a temperature that a panel writes, a setpoint, and a count.
const HEATER: &str = "PROGRAM Heater
VAR_INPUT Key : BOOL; Degrees : INT; END_VAR
VAR_OUTPUT Heat : BOOL; Starts : INT; END_VAR
VAR Setpoint AT %MW20 : INT := 12; Hold AT %MX0.1 : BOOL; Delay : TON; Count : CTU; END_VAR
Delay(IN := Key AND Degrees < Setpoint, PT := T#300ms);
Heat := Delay.Q AND NOT Hold;
Count(CU := Heat, PV := 100);
Starts := Count.CV;
END_PROGRAM";

/// A machine that is served, with what it says when it is over.
struct Serving {
    child: Child,
    address: String,
    said: BufReader<std::process::ChildStdout>,
}

impl Serving {
    fn of(folder: &Path, args: &[&str]) -> Serving {
        let mut child = Command::new(cargo_bin("honest-twin"))
            .current_dir(folder)
            .args(["--json", "serve", "heater.st", "--listen", "127.0.0.1:0"])
            .args(args)
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let mut said = BufReader::new(child.stdout.take().unwrap());
        let mut text = String::new();
        while !text.contains('}') {
            assert!(said.read_line(&mut text).unwrap() > 0, "{text}");
        }
        let address = text.split('"').nth(3).unwrap().to_string();
        Serving { child, address, said }
    }

    fn finish(mut self) -> String {
        let mut text = String::new();
        self.said.read_to_string(&mut text).unwrap();
        assert!(self.child.wait().unwrap().success(), "{text}");
        text
    }

    fn ended(mut self) {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
    }
}

fn folder() -> TempDir {
    let folder = TempDir::new().unwrap();
    fs::write(folder.path().join("heater.st"), HEATER).unwrap();
    folder
}

fn with_client<T>(address: &str, talk: impl AsyncFnOnce(&mut Context) -> T) -> T {
    let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build().unwrap();
    runtime.block_on(async {
        let mut context = tcp::connect(address.parse().unwrap()).await.unwrap();
        talk(&mut context).await
    })
}

fn number(text: &str, name: &str) -> u64 {
    let rest = &text[text.find(&format!("\"{name}\"")).unwrap()..];
    rest.chars()
        .skip_while(|c| !c.is_ascii_digit())
        .take_while(char::is_ascii_digit)
        .collect::<String>()
        .parse()
        .unwrap()
}

#[test]
fn every_function_of_an_independent_client_is_answered() {
    let folder = folder();
    let serving = Serving::of(folder.path(), &["--writable", "coils,registers,inputs", "--for", "20s"]);
    with_client(&serving.address, async |client| {
        assert_eq!(client.read_coils(0, 1).await.unwrap().unwrap(), [false]);
        assert_eq!(client.read_discrete_inputs(0, 1).await.unwrap().unwrap(), [false]);
        assert_eq!(client.read_holding_registers(20, 1).await.unwrap().unwrap(), [12]);
        assert_eq!(client.read_input_registers(0, 1).await.unwrap().unwrap(), [0]);
        client.write_single_coil(57_344, true).await.unwrap().unwrap();
        client.write_single_register(57_344, 5).await.unwrap().unwrap();
        assert_eq!(client.read_discrete_inputs(0, 1).await.unwrap().unwrap(), [true]);
        assert_eq!(client.read_input_registers(0, 1).await.unwrap().unwrap(), [5]);
        tokio::time::sleep(Duration::from_millis(800)).await;
        assert_eq!(client.read_coils(0, 1).await.unwrap().unwrap(), [true]);
        client.write_multiple_coils(32_768, &[false, true]).await.unwrap().unwrap();
        client.write_multiple_registers(20, &[7, 8]).await.unwrap().unwrap();
        assert_eq!(client.read_holding_registers(20, 2).await.unwrap().unwrap(), [7, 8]);
        client.masked_write_register(20, 0x00f0, 0x0009).await.unwrap().unwrap();
        assert_eq!(client.read_holding_registers(20, 1).await.unwrap().unwrap(), [9]);
        let read = client.read_write_multiple_registers(20, 1, 20, &[6]).await.unwrap().unwrap();
        assert_eq!(read, [6]);
        tokio::time::sleep(Duration::from_millis(100)).await;
        assert_eq!(client.read_coils(0, 1).await.unwrap().unwrap(), [false], "it is held");
    });
    serving.ended();
    // Who may not write is told so.
    let serving = Serving::of(folder.path(), &["--for", "20s"]);
    with_client(&serving.address, async |client| {
        assert_eq!(client.write_single_coil(32_769, true).await.unwrap(), Err(ExceptionCode::IllegalFunction));
        assert_eq!(client.write_single_register(20, 1).await.unwrap(), Err(ExceptionCode::IllegalFunction));
        assert_eq!(client.read_coils(65_000, 2).await.unwrap(), Err(ExceptionCode::IllegalDataAddress));
        assert_eq!(client.read_input_registers(4_095, 2).await.unwrap(), Err(ExceptionCode::IllegalDataAddress));
    });
    serving.ended();
}

/// Fifty clients at once, slow ones, ones that say nothing, and what is no client at all.
#[test]
fn many_and_odd_clients_are_served_or_turned_away() {
    let folder = folder();
    let serving =
        Serving::of(folder.path(), &["--writable", "inputs", "--clients", "60", "--idle", "1s", "--for", "6s"]);
    let mut silent = TcpStream::connect(&serving.address).unwrap();
    silent.write_all(&[0, 1, 0]).unwrap();
    let mut other = TcpStream::connect(&serving.address).unwrap();
    other.write_all(b"GET / HTTP/1.1\r\n\r\n").unwrap();
    let mut rest = Vec::new();
    other.read_to_end(&mut rest).unwrap_or_default();
    assert!(rest.is_empty(), "what is no request has no answer");
    // A request byte by byte.
    let mut slow = TcpStream::connect(&serving.address).unwrap();
    for byte in [0, 7, 0, 0, 0, 6, 1, 1, 0, 0, 0, 1] {
        slow.write_all(&[byte]).unwrap();
        std::thread::sleep(Duration::from_millis(15));
    }
    let mut answer = [0; 10];
    slow.read_exact(&mut answer).unwrap();
    assert_eq!(answer, [0, 7, 0, 0, 0, 4, 1, 1, 1, 0]);
    let threads: Vec<_> = (0..50)
        .map(|client| {
            let address = serving.address.clone();
            std::thread::spawn(move || {
                with_client(&address, async |context| {
                    for round in 0..40_u16 {
                        let value = client * 40 + round;
                        context.write_single_register(57_344, value).await.unwrap().unwrap();
                        assert_eq!(context.read_coils(0, 1).await.unwrap().unwrap().len(), 1);
                        assert_eq!(context.read_holding_registers(20, 1).await.unwrap().unwrap(), [12]);
                    }
                });
            })
        })
        .collect();
    threads.into_iter().for_each(|thread| thread.join().unwrap());
    let text = serving.finish();
    assert_eq!(number(&text, "written"), 2_000, "{text}");
    assert_eq!(number(&text, "requests"), 6_001, "{text}");
    assert_eq!(number(&text, "malformed"), 1, "{text}");
    assert!(number(&text, "idle") >= 1, "{text}");
    // More than there may be are turned away, and the others go on.
    let serving = Serving::of(folder.path(), &["--clients", "2", "--for", "3s"]);
    let mut open: Vec<TcpStream> = (0..2).map(|_| TcpStream::connect(&serving.address).unwrap()).collect();
    std::thread::sleep(Duration::from_millis(200));
    let mut third = TcpStream::connect(&serving.address).unwrap();
    assert_eq!(third.read(&mut [0; 1]).unwrap_or(0), 0);
    open[1].write_all(&[0, 7, 0, 0, 0, 6, 1, 1, 0, 0, 0, 1]).unwrap();
    open[1].read_exact(&mut answer).unwrap();
    let text = serving.finish();
    assert_eq!(number(&text, "turned_away"), 1, "{text}");
}

fn run(folder: &Path, args: &[&str]) -> Output {
    Command::new(cargo_bin("honest-twin")).current_dir(folder).args(args).output().unwrap()
}

/// What a session was told is a scenario that gives the same trace; by the clock, and stepped by a client.
#[test]
fn a_session_replays_bit_for_bit() {
    let folder = folder();
    let files = ["--record", "session.scenario", "--trace", "served.csv"];
    let served = |args: &[&str], talk: &dyn Fn(&str)| {
        let serving =
            Serving::of(folder.path(), &[&["--writable", "coils,registers,inputs"], &files[..], args].concat());
        talk(&serving.address);
        let text = serving.finish();
        let replayed =
            run(folder.path(), &["run", "heater.st", "--scenario", "session.scenario", "--trace", "replayed.csv"]);
        assert!(replayed.status.success(), "{}", String::from_utf8_lossy(&replayed.stderr));
        let read = |name: &str| fs::read_to_string(folder.path().join(name)).unwrap();
        assert!(read("served.csv") == read("replayed.csv"), "{}", read("session.scenario"));
        text
    };
    let text = served(&["--for", "4s"], &|address| {
        with_client(address, async |client| {
            for round in 0..12_u16 {
                client.write_single_coil(57_344, round % 3 > 0).await.unwrap().unwrap();
                client.write_single_register(57_344, round * 2).await.unwrap().unwrap();
                client.write_single_register(20, 9 + round).await.unwrap().unwrap();
                tokio::time::sleep(Duration::from_millis(u64::from(40 + 37 * round))).await;
            }
        });
    });
    assert!(number(&text, "scans") > 300, "{text}");
    let text = served(&["--stepped", "--for", "3s"], &|address| {
        with_client(address, async |client| {
            client.write_single_coil(57_344, true).await.unwrap().unwrap();
            client.write_single_register(65_535, 500).await.unwrap().unwrap();
            while client.read_holding_registers(65_535, 1).await.unwrap().unwrap() != [0] {}
            assert_eq!(client.read_coils(0, 1).await.unwrap().unwrap(), [true]);
            assert_eq!(client.read_holding_registers(16_384, 1).await.unwrap(), Ok(vec![0]));
        });
    });
    assert_eq!(number(&text, "scans"), 500, "{text}");
}

/// Passes everything on to a device, until it is cut.
fn relay(device: String, cut: Arc<AtomicBool>) -> String {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let address = listener.local_addr().unwrap().to_string();
    std::thread::spawn(move || {
        for client in listener.incoming() {
            let client = client.unwrap();
            let Ok(server) = TcpStream::connect(&device) else { return };
            let pass = |mut from: TcpStream, mut to: TcpStream, cut: Arc<AtomicBool>| {
                from.set_read_timeout(Some(Duration::from_millis(10))).unwrap();
                std::thread::spawn(move || {
                    let mut bytes = [0; 512];
                    while !cut.load(Ordering::Relaxed) {
                        match from.read(&mut bytes) {
                            Ok(0) => break,
                            Ok(read) if to.write_all(&bytes[..read]).is_err() => break,
                            Ok(_) | Err(_) => {}
                        }
                    }
                    let _ = from.shutdown(std::net::Shutdown::Both);
                    let _ = to.shutdown(std::net::Shutdown::Both);
                });
            };
            pass(client.try_clone().unwrap(), server.try_clone().unwrap(), Arc::clone(&cut));
            pass(server, client, Arc::clone(&cut));
        }
    });
    address
}

/// The same source is the same, a changed one differs with its statement, and a device that is cut off three times is told.
#[test]
fn a_served_program_is_shadowed() {
    let folder = folder();
    fs::write(folder.path().join("changed.st"), HEATER.replace("T#300ms", "T#1300ms")).unwrap();
    let shadowed = |file: &str, cuts: usize| {
        let serving = Serving::of(folder.path(), &["--writable", "inputs", "--for", "12s"]);
        let cut = Arc::new(AtomicBool::new(false));
        let device = relay(serving.address.clone(), Arc::clone(&cut));
        let direct = serving.address.clone();
        let keys = std::thread::spawn(move || {
            with_client(&direct, async |client| {
                for round in 0..5 {
                    tokio::time::sleep(Duration::from_millis(900)).await;
                    client.write_single_coil(57_344, round % 2 == 0).await.unwrap().unwrap();
                }
            });
        });
        let cutting = std::thread::spawn(move || {
            for _ in 0..cuts {
                std::thread::sleep(Duration::from_millis(1_400));
                cut.store(true, Ordering::Relaxed);
                std::thread::sleep(Duration::from_millis(60));
                cut.store(false, Ordering::Relaxed);
            }
        });
        let args = ["shadow", file, "--device", &device, "--period", "40ms", "--from-power-up", "--for", "5500ms"];
        let output = run(folder.path(), &args);
        keys.join().unwrap();
        cutting.join().unwrap();
        serving.ended();
        (output.status.code().unwrap(), String::from_utf8(output.stdout).unwrap())
    };
    // A machine that is busy polls too slowly to tell, and says so; it never says the opposite.
    let decided = |file: &str, wrong: i32| {
        let mut tries = (0..3).map(|_| shadowed(file, 0));
        tries.find(|(status, text)| {
            assert!(*status != wrong, "{text}");
            *status != 3
        })
    };
    // tests/engine/shadow has the verdicts without a clock; here nothing can be said where nothing could be seen.
    let Some((status, text)) = decided("heater.st", 1) else { return };
    assert!(status == 0 && text.starts_with("THE SAME IN WHAT WAS SEEN"), "{status}\n{text}");
    let Some((status, text)) = decided("changed.st", 0) else { return };
    assert!(status == 1 && text.starts_with("DIFFERENT: "), "{status}\n{text}");
    // A poll asks for one output after the other: the first to differ is that which the machine wrote between two of its questions.
    let heat = text.contains("written by changed.st:6: Heat := Delay.Q AND NOT Hold");
    assert!(heat || text.contains("written by changed.st:8: Starts := Count.CV"), "{text}");
    let (status, text) = shadowed("heater.st", 3);
    assert!(status != 1 && text.matches("lost:").count() >= 3, "{status}\n{text}");
    // Nobody there.
    let output =
        run(folder.path(), &["shadow", "heater.st", "--device", "127.0.0.1:1", "--period", "40ms", "--for", "15s"]);
    assert_eq!(output.status.code(), Some(2));
}
