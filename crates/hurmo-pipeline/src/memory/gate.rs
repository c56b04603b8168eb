//! How many models are worked on at once: as many as there are processors, while memory allows.

use crate::text;
use anyhow::{Result, bail};
use hurmo_formats::Format;
use std::path::Path;
use std::sync::{Condvar, Mutex};

/// Bytes of memory that preparing a model takes, and each of its triangles: 266 MB were measured on
/// 200,000 triangles, 326 MB on 500,000, 871 MB on 2 million, and this is more.
const BYTES_A_MODEL: u64 = 150_000_000;
const BYTES_A_TRIANGLE: u64 = 600;

/// Of the memory that is free, what is used.
const SHARE: f64 = 0.8;

/// Bytes of memory that a triangle takes at the least, however little is done with it.
const LEAST_A_TRIANGLE: u64 = 200;

/// The fewest and the most triangles that a file may hold, judged by its size.
fn triangles(path: &Path) -> [u64; 2] {
    let bytes = std::fs::metadata(path).map_or(0, |file| file.len());
    let format = Format::of_name(path).unwrap_or(Format::Obj);
    let [fewest, most] = format.entry().bytes_a_triangle;
    [bytes / most, bytes / fewest]
}

/// Refuses a model that can't be prepared in the memory that is free.
pub fn refuse_what_cannot_fit(path: &Path, free: Option<u64>) -> Result<()> {
    let Some(free) = free else {
        return Ok(());
    };
    let least = triangles(path)[0] * LEAST_A_TRIANGLE;
    if least > free {
        bail!(
            "{}: needs at least {} of memory, and {} are free; about {} triangles would fit",
            path.display(),
            text::bytes(least),
            text::bytes(free),
            text::count((free.saturating_sub(BYTES_A_MODEL) / BYTES_A_TRIANGLE) as usize)
        );
    }
    Ok(())
}

/// About how much memory preparing a model takes, judged by its file's size.
pub fn estimate(path: &Path) -> u64 {
    BYTES_A_MODEL + triangles(path)[1] * BYTES_A_TRIANGLE
}

/// Lets work begin while there is memory for it.
pub struct Gate {
    state: Mutex<State>,
    changed: Condvar,
    room: u64,
}

struct State {
    taken: u64,
    running: usize,
}

impl Gate {
    /// A gate to a share of the memory that is free.
    pub fn new(free: Option<u64>) -> Self {
        let room = free.map_or(u64::MAX, |free| (free as f64 * SHARE) as u64);
        Self {
            state: Mutex::new(State {
                taken: 0,
                running: 0,
            }),
            changed: Condvar::new(),
            room,
        }
    }

    /// Waits until there is room for this many bytes, or nothing else is running, does the work, and
    /// gives the room back.
    pub fn through<T>(&self, bytes: u64, work: impl FnOnce() -> T) -> T {
        let broken = |state: std::sync::PoisonError<_>| state.into_inner();
        let full =
            |state: &mut State| state.running > 0 && state.taken.saturating_add(bytes) > self.room;
        let state = self.state.lock().unwrap_or_else(broken);
        let waited = self.changed.wait_while(state, full);
        let mut state = waited.unwrap_or_else(|broken| broken.into_inner());
        state.taken = state.taken.saturating_add(bytes);
        state.running += 1;
        drop(state);
        let made = work();
        let mut state = self
            .state
            .lock()
            .unwrap_or_else(|broken| broken.into_inner());
        state.taken -= bytes;
        state.running -= 1;
        drop(state);
        self.changed.notify_all();
        made
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::atomic::{AtomicU64, Ordering};

    #[test]
    fn no_more_runs_at_once_than_there_is_room_for() {
        let gate = Gate::new(Some(100));
        let (now, most) = (AtomicU64::new(0), AtomicU64::new(0));
        std::thread::scope(|scope| {
            for i in 0..24 {
                let (gate, now, most) = (&gate, &now, &most);
                scope.spawn(move || {
                    let bytes = 10 + i % 3 * 25;
                    gate.through(bytes, || {
                        let taken = now.fetch_add(bytes, Ordering::SeqCst) + bytes;
                        most.fetch_max(taken, Ordering::SeqCst);
                        std::thread::sleep(std::time::Duration::from_millis(2));
                        now.fetch_sub(bytes, Ordering::SeqCst);
                    });
                });
            }
        });
        let most = most.into_inner();
        assert!(most <= 80 && most > 10, "{most}");
    }

    #[test]
    fn what_cannot_fit_is_refused_with_what_would() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("huge.stl");
        // A hundred million triangles, by the size of the file.
        let file = std::fs::File::create(&path).unwrap();
        file.set_len(5_000_000_000).unwrap();
        let refused = refuse_what_cannot_fit(&path, Some(6_150_000_000));
        let said = refused.unwrap_err().to_string();
        let expected = "needs at least 20.0 GB of memory, and 6.2 GB are free; about 10,000,000";
        assert!(said.contains(expected), "{said}");
        assert!(refuse_what_cannot_fit(&path, Some(20_000_000_001)).is_ok());
        assert!(refuse_what_cannot_fit(&path, None).is_ok());
    }

    #[test]
    fn what_has_no_room_at_all_runs_alone() {
        assert_eq!(Gate::new(Some(100)).through(1000, || 7), 7);
    }
}
