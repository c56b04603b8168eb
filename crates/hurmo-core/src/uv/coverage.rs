//! How much of the tile a layout uses.

use super::Layout;
use glam::DVec2;

/// The tile is looked at in this many places along each side.
const FINE: usize = 512;

/// The share of the tile that some triangles lie on, by this many samples in a grid; what lies beyond the
/// tile counts where the texture repeats.
///
/// Samples that are used are leapt over, so that many triangles in one place take no longer.
pub fn tile_used(layout: &Layout<'_>, triangles: impl Iterator<Item = usize>) -> f64 {
    let mut rows: Vec<Row> = (0..FINE).map(|_| Row::default()).collect();
    for t in triangles {
        let corners = layout.triangle(t).map(|at| at * FINE as f64);
        let Some([low, high]) = rows_of(corners.map(|at| at.y)) else {
            continue;
        };
        // This many tiles tall, it has been everywhere.
        for row in low..low + (high - low).min(FINE as i64) {
            let Some([from, to]) = span(corners, row as f64 + 0.5) else {
                continue;
            };
            let Some([first, last]) = rows_of([from, to, to]) else {
                continue;
            };
            let row = &mut rows[row.rem_euclid(FINE as i64) as usize];
            let count = (last - first).clamp(0, FINE as i64) as usize;
            let first = first.rem_euclid(FINE as i64) as usize;
            row.use_all(first, (first + count).min(FINE));
            row.use_all(0, (first + count).saturating_sub(FINE));
        }
    }
    let count: usize = rows.iter().map(|row| row.used).sum();
    count as f64 / (FINE * FINE) as f64
}

/// A row of samples.
struct Row {
    /// From each sample the next that may be free, itself if it is.
    next: Vec<u16>,
    used: usize,
}

impl Default for Row {
    fn default() -> Self {
        Self {
            next: (0..=FINE as u16).collect(),
            used: 0,
        }
    }
}

impl Row {
    fn free_from(&mut self, start: usize) -> usize {
        let mut at = start;
        while self.next[at] as usize != at {
            let leap = self.next[self.next[at] as usize];
            self.next[at] = leap;
            at = leap as usize;
        }
        at
    }

    fn use_all(&mut self, from: usize, to: usize) {
        let mut at = self.free_from(from);
        while at < to {
            self.next[at] = at as u16 + 1;
            self.used += 1;
            at = self.free_from(at);
        }
    }
}

/// The samples at halves between the least and the greatest of some numbers: the first, and one beyond
/// the last. None where numbers are beyond all reason.
fn rows_of(at: [f64; 3]) -> Option<[i64; 2]> {
    let low = at.into_iter().fold(f64::INFINITY, f64::min);
    let high = at.into_iter().fold(f64::NEG_INFINITY, f64::max);
    let ends = [low, high].map(|end| (end - 0.5).ceil());
    let is_fair = ends.iter().all(|end| end.abs() < 1e15);
    is_fair.then(|| ends.map(|end| end as i64))
}

/// Where a line across a triangle enters and leaves it.
fn span(corners: [DVec2; 3], y: f64) -> Option<[f64; 2]> {
    let mut ends: Option<[f64; 2]> = None;
    for i in 0..3 {
        let (a, b) = (corners[i], corners[(i + 1) % 3]);
        if (a.y <= y) != (b.y <= y) {
            let x = a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y);
            let [low, high] = ends.unwrap_or([x, x]);
            ends = Some([low.min(x), high.max(x)]);
        }
    }
    ends
}
