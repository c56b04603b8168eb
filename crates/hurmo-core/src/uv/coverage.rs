//! How much of the tile a layout uses.

use super::Layout;
use glam::DVec2;

/// The tile is looked at in so many places along each side.
const FINE: usize = 512;

/// The share of the tile that triangles lie on, by so many samples in a grid; what lies beyond the tile
/// counts where the texture repeats. Only triangles count that `counts` says so of.
pub fn tile_used(layout: &Layout<'_>, counts: impl Fn(usize) -> bool) -> f64 {
    let mut used = vec![false; FINE * FINE];
    for t in (0..layout.len()).filter(|&t| counts(layout.face(t).index())) {
        let corners = layout.triangle(t).map(|at| at * FINE as f64);
        let Some([low, high]) = rows_of(corners.map(|at| at.y)) else {
            continue;
        };
        // So many tiles tall, it has been everywhere.
        let rows = (high - low).min(FINE as i64);
        for row in low..low + rows {
            let Some([from, to]) = span(corners, row as f64 + 0.5) else {
                continue;
            };
            let Some([first, last]) = rows_of([from, to, to]) else {
                continue;
            };
            let start = row.rem_euclid(FINE as i64) as usize * FINE;
            for column in first..last.min(first + FINE as i64) {
                used[start + column.rem_euclid(FINE as i64) as usize] = true;
            }
        }
    }
    let count = used.iter().filter(|&&used| used).count();
    count as f64 / used.len() as f64
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
