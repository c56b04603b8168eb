//! What a run that fails, or is interrupted, takes back: files and folders that it made.

use std::path::{Path, PathBuf};
use std::sync::{Mutex, MutexGuard};

/// What was made, or will be; none of it was there before.
static MADE: Mutex<Vec<Made>> = Mutex::new(Vec::new());

enum Made {
    File(PathBuf),
    Folder(PathBuf),
}

fn made() -> MutexGuard<'static, Vec<Made>> {
    MADE.lock().unwrap_or_else(|broken| broken.into_inner())
}

/// Remembers a file that is not there yet and will be written.
pub fn file(path: &Path) {
    made().push(Made::File(path.to_path_buf()));
}

/// Remembers a folder that was made.
pub fn folder(path: &Path) {
    made().push(Made::Folder(path.to_path_buf()));
}

/// Takes all back, the latest first. Folders go with all that is in them: it came from this run.
pub fn all() {
    for made in made().drain(..).rev() {
        // What can't be removed stays; there is nobody to tell.
        let _ = match made {
            Made::File(path) => std::fs::remove_file(path),
            Made::Folder(path) => std::fs::remove_dir_all(path),
        };
    }
}
