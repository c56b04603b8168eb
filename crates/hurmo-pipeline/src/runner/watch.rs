//! How long something takes, and how much memory the program has meanwhile.

use crate::memory::own_memory;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

/// How often the memory is looked at.
const EVERY: Duration = Duration::from_millis(20);

/// A watch that runs.
pub struct Watch {
    began: Instant,
    peak: Arc<AtomicU64>,
    done: Arc<AtomicBool>,
    looker: Option<JoinHandle<()>>,
}

/// What a watch showed.
#[derive(Clone, Copy, Debug)]
pub struct Watched {
    /// How long it took, in seconds.
    pub seconds: f64,
    /// The most memory that the whole program was seen to have, in bytes; nothing where that
    /// is not known.
    pub peak_bytes: Option<u64>,
}

impl Watch {
    /// Begins to watch.
    pub fn begin() -> Self {
        let (peak, done) = (
            Arc::new(AtomicU64::new(0)),
            Arc::new(AtomicBool::new(false)),
        );
        look(&peak);
        let (its_peak, its_done) = (Arc::clone(&peak), Arc::clone(&done));
        let looker = std::thread::Builder::new().spawn(move || {
            while !its_done.load(Ordering::Acquire) {
                std::thread::park_timeout(EVERY);
                look(&its_peak);
            }
        });
        Self {
            began: Instant::now(),
            peak,
            done,
            looker: looker.ok(),
        }
    }

    /// Ends it.
    pub fn end(mut self) -> Watched {
        let seconds = self.began.elapsed().as_secs_f64();
        self.stop();
        let peak = self.peak.load(Ordering::Acquire);
        Watched {
            seconds,
            peak_bytes: (peak > 0).then_some(peak),
        }
    }

    fn stop(&mut self) {
        self.done.store(true, Ordering::Release);
        if let Some(looker) = self.looker.take() {
            looker.thread().unpark();
            let _ = looker.join();
        }
    }
}

impl Drop for Watch {
    fn drop(&mut self) {
        self.stop();
    }
}

fn look(peak: &AtomicU64) {
    if let Some(now) = own_memory() {
        peak.fetch_max(now, Ordering::AcqRel);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn memory_that_is_there_only_for_a_while_is_seen() {
        let size = 300 << 20;
        let before = own_memory().unwrap();
        let watch = Watch::begin();
        let held = std::hint::black_box(vec![1u8; size]);
        std::thread::sleep(Duration::from_millis(100));
        drop(held);
        let watched = watch.end();
        assert!(watched.seconds >= 0.1);
        let peak = watched.peak_bytes.unwrap();
        assert!(
            peak >= before.max(size as u64),
            "{peak} of {size} over {before}"
        );
    }
}
