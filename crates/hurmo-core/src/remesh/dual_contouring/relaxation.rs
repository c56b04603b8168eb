//! Vertices of cells between those of the cells beside them, as far as they may go without leaving
//! their own (surface nets, Gibson 1998), so that triangles are even.
//!
//! Where sharp edges are kept, only vertices in smooth places move, and those where planes differ by
//! noise alone; they stay on the planes of their cell, or between them. To round off, all do, back
//! and forth so that nothing shrinks (Taubin 1995), and points on edges come between the vertices of
//! the cells round them.
//!
//! A vertex anywhere in its cell, and a point anywhere on its edge, leave the skin free of
//! crossings, for the same reasons as before.

use super::sharp::are_sharp;
use super::surface_extraction::{Loops, Segment};
use super::vertex_placement::Fit;
use crate::parallel::mapped;
use glam::DVec3;

/// How much of the way a vertex goes, round by round.
const ALONG_PLANES: [f64; 4] = [0.5; 4];
const BACK_AND_FORTH: [f64; 8] = [0.5, -0.52, 0.5, -0.52, 0.5, -0.52, 0.5, -0.52];
/// Nothing lies nearer to a side of its cell or an end of its edge, as a share of the cell.
const RIM: f64 = 0.01;

/// How often a place is put on its planes and back in its cell.
const TRIES: usize = 6;

/// A vertex that may move.
struct Free {
    /// The loops beside its own.
    beside: Vec<u32>,
    /// Its cell's low corner.
    low: DVec3,
    /// The planes that it stays on.
    fit: Option<Fit>,
}

/// Evens vertices out; where the skin is rounded off, all of them, and points too.
pub fn even_out(cell_loops: &mut Loops<'_>) {
    let is_rounded = cell_loops.crossed.is_rounded;
    let cell = cell_loops.crossed.grid.cell;
    let free = free(cell_loops);
    let mut places = cell_loops.apexes.clone();
    let rounds = match is_rounded {
        true => &BACK_AND_FORTH[..],
        false => &ALONG_PLANES[..],
    };
    for step in rounds {
        let next = |(own, free): (usize, &Option<Free>)| {
            let Some(free) = free else { return places[own] };
            let around = mean(free.beside.iter().map(|&other| places[other as usize]));
            let to = places[own] + (around - places[own]) * *step;
            let (low, high) = (free.low + RIM * cell, free.low + (1.0 - RIM) * cell);
            match &free.fit {
                None => to.clamp(low, high),
                Some(fit) => on_planes(fit, to, [low, high]).unwrap_or(places[own]),
            }
        };
        places = mapped(free.len(), 256, |own| next((own, &free[own])));
    }
    cell_loops.apexes = places;
    cell_loops.is_smooth = free.iter().map(Option::is_some).collect();
    if is_rounded {
        set_points_between(cell_loops);
    }
}

/// The place on the planes of a cell and in it, about as near as can be; of some there is none.
fn on_planes(fit: &Fit, mut to: DVec3, [low, high]: [DVec3; 2]) -> Option<DVec3> {
    for _ in 0..TRIES {
        to = fit.lifted(to);
        if to.cmpge(low).all() && to.cmple(high).all() {
            return Some(to);
        }
        to = to.clamp(low, high);
    }
    None
}

/// What moves, by loop.
fn free(cell_loops: &Loops<'_>) -> Vec<Option<Free>> {
    let crossed = cell_loops.crossed;
    let cells = cell_loops.cells_of_fans();
    let of_fan = |fan: u32| {
        let segments = cell_loops.segments_of(fan).iter();
        let segments = segments.map(|&segment| &cell_loops.segments[segment as usize]);
        let fit = match crossed.is_rounded {
            true => None,
            false => {
                let crossings = cell_loops.crossings_of(fan);
                let fit = Fit::of(&crossings);
                // On a sharp edge that runs through the middle all planes meet there, too.
                let is_smooth =
                    || !are_sharp(&crossings) && fit.meets_all(&crossings, crossed.grid.cell);
                if !cell_loops.is_noise[fan as usize] && !is_smooth() {
                    return None;
                }
                Some(fit)
            }
        };
        let sides = segments.flat_map(|segment| segment.sides);
        Some(Free {
            beside: sides
                .map(|side| side.fan)
                .filter(|&other| other != fan)
                .collect(),
            // Where several loops share a cell, their vertices stay put.
            low: match cells[fan as usize] {
                (cell, true) => crossed.grid.corner(cell),
                (_, false) => return None,
            },
            fit,
        })
    };
    mapped(cell_loops.apexes.len(), 256, |fan| of_fan(fan as u32))
}

fn set_points_between(cell_loops: &mut Loops<'_>) {
    let cell = cell_loops.crossed.grid.cell;
    let mut sums = vec![(DVec3::ZERO, 0.0); cell_loops.points.len()];
    for Segment { sides, .. } in &cell_loops.segments {
        for end in sides[0].ends {
            let sum = &mut sums[end as usize];
            for side in sides {
                sum.0 += cell_loops.apexes[side.fan as usize];
                sum.1 += 1.0;
            }
        }
    }
    for (point, (sum, count)) in sums.into_iter().enumerate() {
        let (low, axis) = cell_loops.crossed.edge(point);
        let along = (sum / count)[axis];
        let rim = RIM * cell;
        cell_loops.points[point][axis] = along.clamp(low[axis] + rim, low[axis] + cell - rim);
    }
}

fn mean(places: impl ExactSizeIterator<Item = DVec3>) -> DVec3 {
    let count = places.len() as f64;
    places.sum::<DVec3>() / count
}
