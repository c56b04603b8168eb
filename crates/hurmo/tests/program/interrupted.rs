//! Runs that can't end as they should: interrupted, on a full disk, with a standard output that takes nothing.
//! Nothing half done is left.

#![cfg(unix)]

use crate::common::{Bench, CUBE, error_of};
use hurmo_core::{Model, shapes};
use std::fs::OpenOptions;
use std::os::unix::fs::symlink;
use std::os::unix::process::CommandExt;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

fn begun(bench: &Bench, line: &str) -> Child {
    let mut command = Command::new(assert_cmd::cargo::cargo_bin("hurmo"));
    command
        .current_dir(bench.folder.path())
        .args(line.split_whitespace())
        .stdout(Stdio::null())
        .stderr(Stdio::null());
    // SAFETY: the call is allowed between fork and exec.
    let heeding = unsafe {
        command.pre_exec(|| {
            // Whoever runs the tests in the background may have them ignored.
            for signal in [libc::SIGINT, libc::SIGTERM, libc::SIGHUP] {
                libc::signal(signal, libc::SIG_DFL);
            }
            Ok(())
        })
    };
    heeding.spawn().unwrap()
}

/// Waits until something is so; at most a minute.
fn until(is_so: impl Fn() -> bool) {
    let begin = Instant::now();
    while !is_so() && begin.elapsed() < Duration::from_secs(60) {
        std::thread::sleep(Duration::from_millis(5));
    }
    assert!(is_so());
}

fn ball(bench: &Bench) {
    let ball = Model::from(shapes::sphere(1.0, 6));
    hurmo_formats::write(&bench.path("ball.stl"), &ball, Default::default()).unwrap();
}

#[test]
fn an_interrupt_takes_everything_back() {
    let bench = Bench::new();
    ball(&bench);
    let mut run = begun(&bench, "ladder ball.stl -o rungs --to 50%,25%,10%,5%");
    // The folder is made when the work begins.
    until(|| bench.path("rungs").is_dir());
    // SAFETY: it only sends a signal to a child that has not been waited for.
    unsafe { libc::kill(run.id() as i32, libc::SIGINT) };
    assert_eq!(run.wait().unwrap().code(), Some(130));
    assert_eq!(bench.names(), ["ball.stl"]);
}

#[test]
fn an_interrupted_batch_keeps_its_ledger() {
    let bench = Bench::new();
    std::fs::create_dir(bench.path("in")).unwrap();
    let ball = Model::from(shapes::sphere(1.0, 6));
    for name in ["a", "b", "c"] {
        let path = bench.path(&format!("in/{name}.stl"));
        hurmo_formats::write(&path, &ball, Default::default()).unwrap();
    }
    let line = "prep in -o out --for engine --to 10%";
    let mut run = begun(&bench, line);
    until(|| bench.path("out/ledger.jsonl").is_file());
    // SAFETY: as above.
    unsafe { libc::kill(run.id() as i32, libc::SIGINT) };
    assert_eq!(run.wait().unwrap().code(), Some(130));
    let parts = std::fs::read_dir(bench.path("out")).unwrap().flatten();
    let mut names = parts.map(|entry| entry.file_name().into_string().unwrap());
    assert!(names.all(|name| !name.contains(".part")));
    bench.hurmo(&format!("{line} --resume")).code(0);
    for name in ["a", "b", "c"] {
        assert!(bench.path(&format!("out/{name}.stl")).is_file());
    }
}

/// Runs the program where no file may grow beyond this many bytes.
fn on_a_small_disk(bench: &Bench, bytes: u64, line: &str) -> (Option<i32>, String) {
    let mut command = Command::new(assert_cmd::cargo::cargo_bin("hurmo"));
    command
        .current_dir(bench.folder.path())
        .args(line.split_whitespace());
    // SAFETY: both calls are allowed between fork and exec.
    let limited = unsafe {
        command.pre_exec(move || {
            let most = libc::rlimit {
                rlim_cur: bytes,
                rlim_max: bytes,
            };
            libc::signal(libc::SIGXFSZ, libc::SIG_IGN);
            match libc::setrlimit(libc::RLIMIT_FSIZE, &raw const most) {
                0 => Ok(()),
                _ => Err(std::io::Error::last_os_error()),
            }
        })
    };
    let output = limited.output().unwrap();
    (
        output.status.code(),
        String::from_utf8(output.stderr).unwrap(),
    )
}

#[test]
fn on_a_full_disk_nothing_is_left() {
    let bench = Bench::new();
    ball(&bench);
    for line in [
        "mend ball.stl -o mended.obj",
        "cut ball.stl --plane x=0 -o halves",
        "cut ball.stl --plane x=0.9 -o halves",
        "ladder ball.stl -o rungs --to 50%,1%",
        "prep ball.stl -o out.stl --for print --ledger ledger.json",
    ] {
        let (code, error) = on_a_small_disk(&bench, 100_000, line);
        assert_eq!(code, Some(2), "{line}: {error}");
        assert!(error.contains("hurmo: error: "), "{line}: {error}");
        assert_eq!(bench.names(), ["ball.stl"], "{line}");
    }
}

#[cfg(target_os = "linux")]
#[test]
fn results_that_nobody_takes_are_an_error() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    for line in [
        "audit cube.obj",
        "audit cube.obj --json",
        "checks",
        "schema audit",
        "--help",
        "audit --help",
        "--version",
    ] {
        let full = OpenOptions::new().write(true).open("/dev/full").unwrap();
        let mut command = Command::new(assert_cmd::cargo::cargo_bin("hurmo"));
        command.current_dir(bench.folder.path());
        command.args(line.split_whitespace()).stdout(full);
        let output = command.output().unwrap();
        assert_eq!(output.status.code(), Some(2), "{line}");
        let error = String::from_utf8(output.stderr).unwrap();
        assert!(error.contains("standard output"), "{line}: {error}");
    }
}

#[test]
fn pipes_and_devices_are_not_read() {
    let bench = Bench::new();
    symlink("/dev/zero", bench.path("endless.obj")).unwrap();
    symlink("/dev/zero", bench.path("endless.toml")).unwrap();
    let fifo = std::ffi::CString::new(bench.path("pipe.bin").to_str().unwrap()).unwrap();
    // SAFETY: the name ends in a zero byte.
    assert_eq!(unsafe { libc::mkfifo(fifo.as_ptr(), 0o600) }, 0);
    let refused = |line: &str| {
        let error = error_of(&bench, line);
        assert!(error.contains("a pipe or a device"), "{line}: {error}");
    };
    refused("audit endless.obj");
    refused("audit pipe.bin");
    bench.file("cube.obj", CUBE);
    let error = error_of(&bench, "audit cube.obj --for endless.toml");
    assert!(error.contains("not readable"), "{error}");
    bench.file(
        "buffer.gltf",
        r#"{"asset":{"version":"2.0"},"buffers":[{"byteLength":36,"uri":"pipe.bin"}],
        "bufferViews":[{"buffer":0,"byteLength":36}],
        "accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3"}],
        "meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],
        "nodes":[{"mesh":0}],"scenes":[{"nodes":[0]}],"scene":0}"#,
    );
    refused("audit buffer.gltf");
}

#[test]
fn no_two_results_go_to_one_file_and_none_to_an_input() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    let before = std::fs::read(bench.path("cube.obj")).unwrap();
    for line in [
        "prep cube.obj -o out.obj --for engine --ledger out.obj",
        "prep cube.obj -o out.obj --for engine --ledger ./out.obj",
        "prep cube.obj -o out.obj --for engine --ledger cube.obj --force",
        "audit cube.obj --csv x --junit x",
        "audit cube.obj --csv cube.obj --force",
        "mend cube.obj -o cube.obj --force",
        "cut cube.obj --plane x=0.5 -o out.obj --picture out.obj --force",
    ] {
        let error = error_of(&bench, line);
        assert!(error.starts_with("hurmo: error: "), "{line}: {error}");
        assert_eq!(bench.names(), ["cube.obj"], "{line}");
        assert_eq!(
            std::fs::read(bench.path("cube.obj")).unwrap(),
            before,
            "{line}"
        );
    }
}
