//! The yardstick that benches take their ratios to.

use std::time::{Duration, Instant};

/// How long it takes to sort three random keys a triangle, on one thread.
pub fn yardstick(triangles: usize) -> Duration {
    let mut state = 0x9e37_79b9_7f4a_7c15_u64;
    let mut keys: Vec<u64> = (0..triangles * 3)
        .map(|_| {
            state ^= state << 13;
            state ^= state >> 7;
            state ^= state << 17;
            state
        })
        .collect();
    let began = Instant::now();
    keys.sort_unstable();
    let took = began.elapsed();
    std::hint::black_box(keys);
    took
}
