//! Polygons into triangles.
//!
//! ```text
//! quad   ─▶ the diagonal that lies inside and gives the better worst triangle
//! n-gon  ─▶ flattened along its vector area ─▶ ears cut off (Meisters 1975), best first
//!        ─▶ diagonals flipped while the worse triangle of a pair gets better (Lawson 1977)
//! ```
//!
//! Whether a corner is convex and whether a point lies in an ear is decided exactly, so that a
//! simple flat polygon, however concave, is covered once and nothing outside it. A polygon
//! that crosses itself has no right answer; it still gets `n - 2` triangles over its corners.
//! Where there is a choice, no diagonal is taken that is an edge elsewhere in the mesh, which
//! would get too many sides.
//! Cost: near-linear in corners for convex polygons and for most others; O(n²) for the worst.

mod diagonals;
mod ears;
mod quads;

pub(crate) use ears::flip_to_better;
pub use quads::quads_and_triangles;

use crate::mesh::{FaceId, Mesh, Model, Rebuild, VertexId};
use crate::predicates::{flatten, side_of_line};
use diagonals::Diagonals;
use glam::{DVec2, DVec3};
use std::borrow::Cow;
use std::cmp::Ordering;

/// Which polygons to cut up.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Which {
    /// Faces of five or more sides.
    Ngons,
    /// Every face of more than three.
    All,
}

impl Which {
    fn includes(self, sides: usize) -> bool {
        match self {
            Which::Ngons => sides >= 5,
            Which::All => sides >= 4,
        }
    }
}

/// What polygons are cut into.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Pieces {
    /// Triangles.
    Triangles,
    /// Quads where these come out well, and triangles.
    Quads,
}

/// Cuts up the polygons of a model; returns how many there were. UVs, groups and materials
/// come along.
pub fn model(model: &Model, which: Which) -> (Model, usize) {
    let affected = |face: FaceId| which.includes(model.mesh.face(face).len());
    some(model, Pieces::Triangles, affected)
}

/// The same of the faces that `affected` says so of.
pub fn some(model: &Model, pieces: Pieces, affected: impl Fn(FaceId) -> bool) -> (Model, usize) {
    let count = model.mesh.face_ids().filter(|&f| affected(f)).count();
    if count == 0 {
        return (model.clone(), 0);
    }
    let mut rebuild = Rebuild::new(model);
    let mut diagonals = Diagonals::of(&model.mesh);
    let mut points = Vec::new();
    for face in model.mesh.face_ids() {
        if !affected(face) {
            rebuild.keep(face);
            continue;
        }
        points.clear();
        points.extend(model.mesh.face_points(face));
        let corners = model.mesh.face(face);
        let first = model.mesh.face_range(face).start;
        let ends = |i: u32, j: u32| [i, j].map(|i| corners[i as usize]);
        let taken = |i: u32, j: u32| diagonals.is_taken(face, ends(i, j));
        let mut place = |diagonals: &mut Diagonals<'_>, piece: &[u32]| {
            rebuild.piece(face, piece.iter().map(|&i| first + i as usize));
            take_diagonals(diagonals, face, corners, piece);
        };
        match pieces {
            Pieces::Triangles => {
                let cut = polygon_beside(&points, taken);
                cut.iter().for_each(|piece| place(&mut diagonals, piece));
            }
            Pieces::Quads => {
                let cut = quads::quads_beside(&points, taken);
                cut.iter().for_each(|piece| place(&mut diagonals, piece));
            }
        }
    }
    (rebuild.finish(), count)
}

/// Marks the diagonals along which a piece of a face was cut off.
fn take_diagonals(
    diagonals: &mut Diagonals<'_>,
    face: FaceId,
    corners: &[VertexId],
    piece: &[u32],
) {
    let next = piece.iter().cycle().skip(1);
    for (&i, &j) in piece.iter().zip(next) {
        let apart = i.abs_diff(j) as usize;
        if i < j && apart != 1 && apart != corners.len() - 1 {
            diagonals.take(face, [i, j].map(|i| corners[i as usize]));
        }
    }
}

/// The triangles of a mesh: its own corners where it has no others, else its polygons cut up.
pub fn triangles(mesh: &Mesh) -> Cow<'_, [[VertexId; 3]]> {
    match mesh.is_all_triangles() {
        true => Cow::Borrowed(mesh.corners().as_chunks().0),
        false => Cow::Owned(all_triangles(mesh).0),
    }
}

/// The triangles of a mesh: its own, and its polygons cut up; with the face each came from.
pub fn all_triangles(mesh: &Mesh) -> (Vec<[VertexId; 3]>, Vec<FaceId>) {
    if mesh.is_all_triangles() {
        return (triangles(mesh).into_owned(), mesh.face_ids().collect());
    }
    let mut triangles = Vec::with_capacity(mesh.face_count());
    let mut from = Vec::with_capacity(mesh.face_count());
    let mut points = Vec::new();
    let has_polygons = mesh.faces().any(|(_, corners)| corners.len() > 3);
    let mut diagonals = has_polygons.then(|| Diagonals::of(mesh));
    for (face, corners) in mesh.faces() {
        match (corners, &mut diagonals) {
            (&[a, b, c], _) => triangles.push([a, b, c]),
            (&[_, _, _, ..], Some(diagonals)) => {
                points.clear();
                points.extend(mesh.face_points(face));
                let end = |i: u32| corners[i as usize];
                let taken = |i, j| diagonals.is_taken(face, [end(i), end(j)]);
                let cut = polygon_beside(&points, taken);
                for piece in &cut {
                    take_diagonals(diagonals, face, corners, piece);
                }
                triangles.extend(cut.iter().map(|t| t.map(end)));
            }
            _ => continue,
        }
        from.resize(triangles.len(), face);
    }
    (triangles, from)
}

/// Cuts a polygon into `n - 2` triangles over its corners, wound like it.
pub fn polygon(points: &[DVec3]) -> Vec<[u32; 3]> {
    polygon_beside(points, |_, _| false)
}

/// The same, where there is a choice not along diagonals that are taken.
fn polygon_beside(points: &[DVec3], taken: impl Fn(u32, u32) -> bool) -> Vec<[u32; 3]> {
    match points.len() {
        0..3 => Vec::new(),
        3 => vec![[0, 1, 2]],
        4 => quad([points[0], points[1], points[2], points[3]], taken).to_vec(),
        _ => {
            let flat: Vec<DVec2> = flattened(points);
            let mut triangles = ears::cut_off_ears(points, &flat, &taken);
            ears::flip_inside(points, &flat, &mut triangles, &taken);
            triangles
        }
    }
}

fn flattened(points: &[DVec3]) -> Vec<DVec2> {
    let normal = crate::geometry::vector_area_of(points.iter().copied());
    let flat = flatten(normal);
    points.iter().map(|&p| flat(p - points[0])).collect()
}

fn quad(points: [DVec3; 4], taken: impl Fn(u32, u32) -> bool) -> [[u32; 3]; 2] {
    let flat = flattened(&points);
    let fit = |cut: [[u32; 3]; 2], [i, j]: [u32; 2]| {
        let sound = cut.iter().all(|t| {
            let [a, b, c] = t.map(|i| flat[i as usize]);
            side_of_line(a, b, c) == Ordering::Greater
        });
        let worst = cut
            .iter()
            .map(|t| quality(t.map(|i| points[i as usize])))
            .fold(f64::INFINITY, f64::min);
        (!taken(i, j), sound, worst)
    };
    let (even, odd) = ([[0, 1, 2], [0, 2, 3]], [[1, 2, 3], [1, 3, 0]]);
    // A quad whose opposite corners meet covers nothing: cut there, nor do its pieces.
    if points[0] == points[2] {
        return even;
    }
    if points[1] == points[3] {
        return odd;
    }
    let (odd_fits, even_fits) = (fit(odd, [1, 3]), fit(even, [0, 2]));
    let free_and_sound = |fits: (bool, bool, f64)| (fits.0, fits.1);
    let first = match free_and_sound(odd_fits).cmp(&free_and_sound(even_fits)) {
        Ordering::Equal if (odd_fits.2 - even_fits.2).abs() <= EQUAL => first_corner(points) % 2,
        Ordering::Equal => usize::from(odd_fits.2 > even_fits.2),
        Ordering::Greater => 1,
        Ordering::Less => 0,
    };
    [even, odd][first]
}

/// Qualities that differ by no more are equal: those of a square, say.
const EQUAL: f64 = 1e-9;

/// The corner that comes first by its coordinates: the same wherever a polygon's corners begin, so
/// that doubled ones are cut alike.
fn first_corner(points: [DVec3; 4]) -> usize {
    let key = |p: DVec3| p.to_array();
    let before = |a: &usize, b: &usize| {
        let order = key(points[*a]).partial_cmp(&key(points[*b]));
        order.unwrap_or(Ordering::Equal)
    };
    (0..4).min_by(before).unwrap_or(0)
}

/// How near a triangle is to an even one: 1 for an even one, 0 for one without area.
#[inline]
pub fn quality([a, b, c]: [DVec3; 3]) -> f64 {
    let twice_area = (b - a).cross(c - a).length();
    let sides = a.distance_squared(b) + b.distance_squared(c) + c.distance_squared(a);
    if sides > 0.0 {
        twice_area * (2.0 * 3f64.sqrt()) / sides
    } else {
        0.0
    }
}

#[cfg(test)]
mod tests;
