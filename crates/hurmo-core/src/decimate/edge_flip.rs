//! Turning edges: of the two ways to part four corners into two triangles, the one that lies nearer
//! to the first surface.
//!
//! In: which samples of the first surface lie nearest to each face. An edge inside a smooth sheet
//! is turned when that makes the sum of the fourth powers of their distances less (so that the
//! largest count most), folds nothing and makes no sliver. Cost: a distance to four triangles for
//! each sample and edge.

use super::reduce::Reduction;
use super::samples::Sample;
use crate::parallel::chosen;
use crate::spatial::closest_on_triangle;
use crate::triangulate::quality;
use glam::DVec3;
use rayon::prelude::*;

/// By how much the sum must become less.
const BETTER: f64 = 0.95;
/// How far the new faces may lean from the old (cosine).
const LEAN: f64 = 0.5;
/// The worse of the new faces may have so much of the quality of the worse of the old.
const SHAPE: f64 = 0.5;

/// An edge from `a` to `b` with the face `(a, b, c)` on its left and `(b, a, d)` on its right.
#[derive(Clone, Copy)]
struct Quad {
    /// Its faces, as they stand in the list.
    faces: [usize; 2],
    /// a, b, c, d
    corners: [u32; 4],
}

/// Turns edges; `of_face` says which samples lie nearest to each of the faces.
pub(super) fn turn_edges(
    reduction: &mut Reduction,
    faces: &[(u32, [u32; 3])],
    samples: &[Sample],
    of_face: &[Vec<u32>],
) {
    let quads = quads(faces);
    let better: Vec<(Quad, [u32; 4])> = chosen(quads.len(), 256, |i| {
        let quad = quads[i];
        let wedges = smooth(reduction, faces, &quad)?;
        is_better(reduction, &quad, samples, of_face).then_some((quad, wedges))
    });
    let mut touched = vec![false; faces.len()];
    for (quad, [wa, wb, wc, wd]) in better {
        let [a, b, c, d] = quad.corners;
        let joins_mirror = reduction.on_mirror(c) && reduction.on_mirror(d);
        let is_there = reduction.linked.on_edge(c, d).next().is_some();
        let is_crowded = [a, b].iter().any(|&v| reduction.linked.is_crowded(v));
        let is_done = quad.faces.iter().any(|&f| touched[f]);
        if is_done || is_there || joins_mirror || is_crowded {
            continue;
        }
        quad.faces.iter().for_each(|&f| touched[f] = true);
        let [one, two] = quad.faces.map(|f| faces[f].0);
        reduction.linked.replace(one, [a, d, c]);
        reduction.linked.replace(two, [d, b, c]);
        if let Some(wedges) = &mut reduction.wedges {
            wedges.set_triangle(one, [wa, wd, wc]);
            wedges.set_triangle(two, [wd, wb, wc]);
        }
    }
}

/// The edges with a face on either side, facing the same way.
fn quads(faces: &[(u32, [u32; 3])]) -> Vec<Quad> {
    let mut sides: Vec<(u32, u32, usize, usize)> = faces
        .iter()
        .enumerate()
        .flat_map(|(f, (_, corners))| {
            (0..3).map(move |i| {
                let (from, to) = (corners[i], corners[(i + 1) % 3]);
                (from.min(to), from.max(to), f, i)
            })
        })
        .collect();
    sides.par_sort_unstable();
    let edges = sides.chunk_by(|one, two| (one.0, one.1) == (two.0, two.1));
    edges
        .filter_map(|edge| {
            let &[(_, _, one, i), (_, _, two, j)] = edge else {
                return None;
            };
            let at = |f: usize, i: usize| faces[f].1[i % 3];
            let (a, b, c) = (at(one, i), at(one, i + 1), at(one, i + 2));
            let (from, to, d) = (at(two, j), at(two, j + 1), at(two, j + 2));
            ((from, to) == (b, a) && c != d).then_some(Quad {
                faces: [one, two],
                corners: [a, b, c, d],
            })
        })
        .collect()
}

/// The wedges at the four corners, unless they part along the edge.
fn smooth(reduction: &Reduction, faces: &[(u32, [u32; 3])], quad: &Quad) -> Option<[u32; 4]> {
    let Some(wedges) = &reduction.wedges else {
        return Some([0; 4]);
    };
    let at = |side: usize, vertex: u32| {
        let (t, corners) = faces[quad.faces[side]];
        let i = corners.iter().position(|&v| v == vertex)?;
        Some(wedges.at(3 * t + i as u32))
    };
    let [a, b, c, d] = quad.corners;
    let found = [at(0, a)?, at(0, b)?, at(0, c)?, at(1, d)?];
    let parts = at(1, a)? != found[0] || at(1, b)? != found[1];
    (!parts && !wedges.turns_over(found)).then_some(found)
}

fn is_better(reduction: &Reduction, quad: &Quad, samples: &[Sample], of_face: &[Vec<u32>]) -> bool {
    let [a, b, c, d] = quad.corners.map(|v| reduction.linked.positions[v as usize]);
    let (old, new) = ([[a, b, c], [b, a, d]], [[a, d, c], [d, b, c]]);
    let area = |[a, b, c]: [DVec3; 3]| (b - a).cross(c - a).normalize_or_zero();
    let worst = |faces: [[DVec3; 3]; 2]| quality(faces[0]).min(quality(faces[1]));
    let leans = new
        .iter()
        .any(|&face| old.iter().any(|&was| area(face).dot(area(was)) < LEAN));
    if leans || worst(new) < SHAPE * worst(old) {
        return false;
    }
    let off = |faces: [[DVec3; 3]; 2]| -> f64 {
        let seen = quad.faces.iter().flat_map(|&f| &of_face[f]);
        seen.map(|&s| {
            let at = samples[s as usize].at;
            let squares = faces.map(|face| closest_on_triangle(at, face).distance_squared(at));
            squares[0].min(squares[1]).powi(2)
        })
        .sum()
    };
    off(new) < BETTER * off(old)
}
