//! The built program as a whole process.

use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

/// Whether a row is asked for: all are, unless words of some names follow the command.
pub fn is_wanted(name: &str) -> bool {
    let words = || {
        std::env::args()
            .skip(1)
            .filter(|word| !word.starts_with('-'))
    };
    words().next().is_none() || words().any(|word| name.contains(&word))
}

/// The middle one of some figures.
pub fn median(mut figures: Vec<f64>) -> f64 {
    figures.sort_by(f64::total_cmp);
    figures[figures.len() / 2]
}

// The child is waited for, by `wait4`, which also gives its peak memory.
#[allow(clippy::zombie_processes)]
/// Runs the program; returns wall time and peak memory in bytes.
pub fn run(arguments: &[&str], folder: &Path) -> (Duration, u64) {
    let began = Instant::now();
    let child = Command::new(env!("CARGO_BIN_EXE_hurmo"))
        .args(arguments)
        .arg("--quiet")
        .current_dir(folder)
        .stdout(Stdio::null())
        .spawn()
        .expect("the program starts");
    let mut status = 0;
    // SAFETY: `usage` is a plain struct that the call fills in; the child is ours.
    let usage = unsafe {
        let mut usage: libc::rusage = std::mem::zeroed();
        libc::wait4(child.id() as libc::pid_t, &mut status, 0, &mut usage);
        usage
    };
    let took = began.elapsed();
    assert!(
        libc::WEXITSTATUS(status) < 2,
        "the program failed: {arguments:?}"
    );
    (took, usage.ru_maxrss as u64 * 1024)
}
