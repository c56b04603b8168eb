//! How samples of the first surface lie to the faces of a reduced one.

use super::vertex_refit::Sums;
use crate::spatial::{TriangleTree, closest_on_triangle};
use glam::DVec3;
use rayon::prelude::*;

/// A point of the first surface, and its face's normal.
pub(super) struct Sample {
    pub at: DVec3,
    pub normal: DVec3,
    /// The face that it was nearest to last.
    pub near: u32,
}

/// How samples lie to faces.
pub(super) struct Seen {
    /// What they say, by face.
    pub sums: Vec<Sums>,
    /// Which lie nearest to each face.
    pub of_face: Vec<Vec<u32>>,
    squares: f64,
    /// By face, the sum of what they lie off, to the fourth power.
    pub fourths: Vec<f64>,
    /// The root of the mean square.
    pub usual: f64,
}

impl Seen {
    pub fn of(
        samples: &mut [Sample],
        faces: &[(u32, [u32; 3])],
        positions: &[DVec3],
        usual: f64,
    ) -> Self {
        let corners = |face: [u32; 3]| face.map(|v| positions[v as usize]);
        let tree = TriangleTree::new(faces.len(), |i| corners(faces[i].1));
        let found: Vec<Option<(u32, [f64; 3], f64)>> = samples
            .par_chunks_mut(256)
            .flat_map_iter(|few| {
                // Samples that follow each other lie near each other.
                let mut near = u32::MAX;
                let tree = &tree;
                few.iter_mut().map(move |sample| {
                    // What lies over the same face as last is not looked up anew.
                    let last = faces.get(sample.near as usize);
                    let last =
                        last.and_then(|&(_, face)| local_coordinates(sample, corners(face), true));
                    if let Some((shares, off)) = last {
                        return Some((sample.near, shares, off));
                    }
                    near = tree.closest_from(sample.at, near)?.triangle;
                    sample.near = near;
                    let (shares, off) =
                        local_coordinates(sample, corners(faces[near as usize].1), false)?;
                    Some((near, shares, off))
                })
            })
            .collect();
        let mut count = 0;
        let mut seen = Self {
            sums: vec![Sums::default(); faces.len()],
            of_face: vec![Vec::new(); faces.len()],
            squares: 0.0,
            fourths: vec![0.0; faces.len()],
            usual: 0.0,
        };
        for (sample, found) in found.into_iter().enumerate() {
            let Some((face, shares, off)) = found else {
                continue;
            };
            seen.of_face[face as usize].push(sample as u32);
            seen.sums[face as usize].add(shares, off, usual, 1.0);
            count += 1;
            seen.squares += off * off;
            seen.fourths[face as usize] += off.powi(4);
        }
        seen.usual = (seen.squares / f64::from(count.max(1))).sqrt();
        seen
    }
}

/// What a sample says of the face that it lies nearest to: how its place there is made up of the
/// corners, and how far off it is along the normal. None where it lies beside the face, by far or,
/// if `strictly`, at all, or on the other side of a thin wall.
fn local_coordinates(
    sample: &Sample,
    corners: [DVec3; 3],
    strictly: bool,
) -> Option<([f64; 3], f64)> {
    let [a, b, c] = corners;
    let area = (b - a).cross(c - a);
    let twice = area.length();
    if twice <= 0.0 || sample.normal.dot(area) <= 0.2 * sample.normal.length() * twice {
        return None;
    }
    let own = area / twice;
    let nearest = closest_on_triangle(sample.at, corners);
    let way = sample.at - nearest;
    let off = way.dot(own);
    if off.abs() < way.length() * if strictly { 1.0 - 1e-9 } else { 0.5 } {
        return None;
    }
    let share = |p: DVec3, q: DVec3| (p - nearest).cross(q - nearest).dot(own) / twice;
    Some(([share(b, c), share(c, a), share(a, b)], off))
}
