//! What a run that fails, or is interrupted, takes back: files and folders that it made.

use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Mutex, MutexGuard};

/// What was made, or will be; none of it was there before.
static MADE: Mutex<Vec<(Run, Made)>> = Mutex::new(Vec::new());
/// How many runs there have been.
static RUNS: AtomicU64 = AtomicU64::new(0);

/// A run, distinct from others of the same process.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Run(u64);

impl Run {
    /// Another one.
    pub fn another() -> Self {
        Self(RUNS.fetch_add(1, Ordering::Relaxed))
    }
}

enum Made {
    File(PathBuf),
    Folder(PathBuf),
}

fn made() -> MutexGuard<'static, Vec<(Run, Made)>> {
    MADE.lock().unwrap_or_else(|broken| broken.into_inner())
}

/// Remembers a file that is not there yet and will be written.
pub fn file(run: Run, path: &Path) {
    made().push((run, Made::File(path.to_path_buf())));
}

/// Remembers a folder that was made.
pub fn folder(run: Run, path: &Path) {
    made().push((run, Made::Folder(path.to_path_buf())));
}

/// Takes back what all runs of this process have made.
pub fn all() {
    take_back(|_| true);
}

/// Takes back what one run has made.
pub fn of(run: Run) {
    take_back(|other| other == run);
}

/// The latest first. Folders go with all that is in them: it came from the run.
fn take_back(is_meant: impl Fn(Run) -> bool) {
    let mut made = made();
    let (gone, stays): (Vec<_>, Vec<_>) = made.drain(..).partition(|(run, _)| is_meant(*run));
    *made = stays;
    drop(made);
    for (_, made) in gone.into_iter().rev() {
        // What can't be removed stays; there is no one left to report it to.
        let _ = match made {
            Made::File(path) => std::fs::remove_file(path),
            Made::Folder(path) => std::fs::remove_dir_all(path),
        };
    }
}
