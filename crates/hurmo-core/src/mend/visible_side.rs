//! Which side of an open surface is its outside: the one that is seen.
//!
//! From some faces of a patch, spread evenly over its area, rays go out on both sides in fixed
//! directions. The side from which clearly more of them get away is the outside: that of a vase
//! or a half-pipe. A flat sheet has none. Cost: a few thousand rays for each patch.

use crate::measure::vector_area;
use crate::mesh::{FaceId, Mesh};
use crate::orientation::Patches;
use crate::parallel::mapped_of;
use crate::spatial::{TriangleHierarchy, crossings};
use glam::DVec3;

/// Faces that are looked from, at most, for each patch.
const SAMPLES: usize = 200;
/// How many times more rays must get away on one side.
const CLEARLY: f64 = 1.1;

/// Which side is the outside.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Outside {
    Front,
    Back,
    /// Both sides are seen about as much.
    Neither,
}

/// The outside of every patch that is `wanted`, its faces turned as `patches` asks for.
pub(super) fn outsides(mesh: &Mesh, patches: &Patches, wanted: &[bool]) -> Vec<Outside> {
    if !wanted.contains(&true) {
        return vec![Outside::Neither; wanted.len()];
    }
    let mut faces: Vec<Vec<FaceId>> = vec![Vec::new(); wanted.len()];
    for face in mesh.face_ids() {
        let patch = patches.of_face[face.index()] as usize;
        if wanted[patch] {
            faces[patch].push(face);
        }
    }
    let hierarchy = TriangleHierarchy::whole(mesh);
    let diagonal = crate::measure::bounds(mesh).map_or(0.0, |b| b.diagonal());
    let outside = |faces: &Vec<FaceId>| {
        let (mut front, mut back) = (0, 0);
        for face in spread_out(mesh, faces) {
            let up = vector_area(mesh, face).normalize_or_zero();
            let up = match patches.reversed[face.index()] {
                true => -up,
                false => up,
            };
            front += got_away(&hierarchy, mesh.face_middle(face), up, diagonal);
            back += got_away(&hierarchy, mesh.face_middle(face), -up, diagonal);
        }
        let clearly = |more: usize, less: usize| more as f64 > CLEARLY * less as f64;
        match () {
            () if clearly(front, back) => Outside::Front,
            () if clearly(back, front) => Outside::Back,
            () => Outside::Neither,
        }
    };
    mapped_of(&faces, 1, outside)
}

/// Some of these faces, so that about equal areas lie between them.
fn spread_out(mesh: &Mesh, faces: &[FaceId]) -> Vec<FaceId> {
    let areas: Vec<f64> = faces
        .iter()
        .map(|&face| vector_area(mesh, face).length())
        .collect();
    let step = areas.iter().sum::<f64>() / SAMPLES as f64;
    let mut found = Vec::with_capacity(SAMPLES);
    let (mut walked, mut next) = (0.0, step / 2.0);
    for (&face, area) in faces.iter().zip(areas) {
        walked += area;
        if walked > next && area > 0.0 {
            found.push(face);
            next = ((walked / step).floor() + 0.5) * step;
            next += if next <= walked { step } else { 0.0 };
        }
    }
    found
}

/// How many rays from a point on the side of `up` meet nothing.
fn got_away(hierarchy: &TriangleHierarchy<'_>, point: DVec3, up: DVec3, diagonal: f64) -> usize {
    let from = point + up * (1e-6 * diagonal);
    let mut found = Vec::new();
    let rays = DIRECTIONS.iter().flat_map(|&d| [d, -d]);
    rays.filter(|ray| ray.dot(up) > 0.2)
        .filter(|&ray| {
            crossings(hierarchy, from, ray, 2.0 * diagonal, &mut found);
            found.is_empty()
        })
        .count()
}

/// Half of the directions, spread about evenly; none lies along an axis.
const DIRECTIONS: [DVec3; 13] = [
    DVec3::new(0.998, 0.041, 0.053),
    DVec3::new(-0.047, 0.997, 0.061),
    DVec3::new(0.037, -0.059, 0.998),
    DVec3::new(0.703, 0.711, 0.029),
    DVec3::new(0.709, -0.704, 0.043),
    DVec3::new(0.701, 0.031, 0.712),
    DVec3::new(0.713, 0.047, -0.7),
    DVec3::new(0.033, 0.706, 0.707),
    DVec3::new(0.051, 0.711, -0.702),
    DVec3::new(0.579, 0.583, 0.57),
    DVec3::new(0.571, 0.587, -0.574),
    DVec3::new(0.583, -0.569, 0.58),
    DVec3::new(-0.575, 0.581, 0.576),
];
