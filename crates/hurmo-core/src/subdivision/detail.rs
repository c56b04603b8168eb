//! Vertices of a level brought onto the surface that it stands for.
//!
//! A vertex goes to the closest point that faces the way it does; one on a line to the closest place on the lines
//! that runs the way its own does. None goes farther than a limit, and where a quad would fold, its vertices go
//! half as far, again and again.

use super::catmull_clark::On;
use crate::attribute_transfer::Carried;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::parallel::mapped;
use crate::spatial::LineTree;
use glam::DVec3;

/// Cosine of what the surface and the level may differ by in direction.
const ALONG: f64 = 0.3;
/// Cosine of what the corners of a quad may turn by against what the quad was.
const LEAN: f64 = 0.2;
/// How often vertices of folded quads go half as far; then they stay.
const TRIES: usize = 6;

/// The surface that levels stand for, and its lines.
pub(super) struct Detail<'a> {
    surface: &'a Carried<'a>,
    lines: LineTree,
    travel: f64,
}

/// A level on the surface.
pub(super) struct Brought {
    /// By vertex, the triangle that it is on, or the closest that is known.
    pub near: Vec<u32>,
    /// Vertices for which there was no place within the limit.
    pub too_far: usize,
    /// Vertices that stayed short of their place, lest quads fold.
    pub held: usize,
}

impl<'a> Detail<'a> {
    /// Of a surface with lines, as pieces; vertices go no farther than `travel`.
    pub fn of(surface: &'a Carried<'a>, lines: &[[DVec3; 2]], travel: f64) -> Self {
        Self {
            surface,
            lines: LineTree::of(lines.to_vec()),
            travel,
        }
    }

    /// Brings the vertices of a level onto the surface. `near`: by vertex, a triangle that may be near.
    pub fn bring(&self, mesh: &mut Mesh, on: &[On], near: &[u32]) -> Brought {
        let normals = normals(mesh);
        let places: Vec<Place> = mapped(mesh.vertex_count(), 256, |v| {
            let vertex = VertexId::new(v);
            match on[v] {
                On::Surface => self.on_surface(mesh.position(vertex), normals[v], near[v]),
                On::Line(beside) => {
                    let along = mesh.position(beside[1]) - mesh.position(beside[0]);
                    self.on_line(mesh.position(vertex), along, near[v])
                }
                On::Corner => Place::of(mesh.position(vertex), near[v]),
            }
        });
        let held = move_unfolded(mesh, &places);
        Brought {
            too_far: places.iter().filter(|place| place.is_too_far).count(),
            held,
            near: places.iter().map(|place| place.near).collect(),
        }
    }

    fn on_surface(&self, here: DVec3, normal: DVec3, near: u32) -> Place {
        let found = self.surface.closest_from(here, near);
        let fits = found.filter(|found| {
            let there = self.surface.normal(found.triangle);
            let agrees = there.dot(normal) >= ALONG * there.length() * normal.length();
            agrees && found.distance_squared <= self.travel.powi(2)
        });
        match fits {
            Some(found) => Place::of(found.point, found.triangle),
            None => Place::too_far(here, near),
        }
    }

    fn on_line(&self, here: DVec3, along: DVec3, near: u32) -> Place {
        match self.lines.closest_along(here, self.travel, along) {
            Some(at) => Place::of(at, near),
            None => Place::too_far(here, near),
        }
    }
}

/// Where a vertex belongs.
struct Place {
    at: DVec3,
    near: u32,
    is_too_far: bool,
}

impl Place {
    fn of(at: DVec3, near: u32) -> Self {
        Self {
            at,
            near,
            is_too_far: false,
        }
    }

    fn too_far(at: DVec3, near: u32) -> Self {
        Self {
            is_too_far: true,
            ..Self::of(at, near)
        }
    }
}

/// Moves vertices to their places, or as far as no quad folds; and how many stay short.
fn move_unfolded(mesh: &mut Mesh, places: &[Place]) -> usize {
    let begin = mesh.positions().to_vec();
    let facing: Vec<DVec3> = mapped(mesh.face_count(), 1024, |face| {
        facing(mesh, FaceId::new(face))
    });
    let mut shares = vec![1.0f64; begin.len()];
    for time in 0..=TRIES {
        for (v, at) in mesh.positions_mut().iter_mut().enumerate() {
            *at = match shares[v] {
                1.0 => places[v].at,
                share => begin[v].lerp(places[v].at, share),
            };
        }
        let folded: Vec<bool> = mapped(mesh.face_count(), 1024, |face| {
            is_folded(mesh, FaceId::new(face), facing[face])
        });
        let folded = mesh.faces().filter(|(face, _)| folded[face.index()]);
        let mut goes_back = vec![false; begin.len()];
        for v in folded.flat_map(|(_, corners)| corners) {
            goes_back[v.index()] = true;
        }
        if !goes_back.contains(&true) || time == TRIES {
            break;
        }
        let share = if time + 1 == TRIES { 0.0 } else { 0.5 };
        let back = shares.iter_mut().zip(goes_back).filter(|(_, back)| *back);
        back.for_each(|(own, _)| *own *= share);
    }
    let places = places.iter().zip(&begin);
    let moves = shares
        .iter()
        .zip(places)
        .filter(|(_, (place, begin))| place.at != **begin);
    moves.filter(|(share, _)| **share < 1.0).count()
}

/// The vector area of a quad, doubled.
fn facing(mesh: &Mesh, face: FaceId) -> DVec3 {
    let &[a, b, c, d] = mesh.face(face) else {
        return DVec3::ZERO;
    };
    let [a, b, c, d] = [a, b, c, d].map(|v| mesh.position(v));
    (c - a).cross(d - b)
}

/// Whether a corner of a quad looks another way than the quad did.
fn is_folded(mesh: &Mesh, face: FaceId, was: DVec3) -> bool {
    let corners = mesh.face(face);
    let at = |i: usize| mesh.position(corners[i % corners.len()]);
    (0..corners.len()).any(|i| {
        let [before, here, after] = [at(i + corners.len() - 1), at(i), at(i + 1)];
        let now = (after - here).cross(before - here);
        now.dot(was) <= LEAN * now.length() * was.length()
    })
}

/// By vertex, the sum of the vector areas round it.
fn normals(mesh: &Mesh) -> Vec<DVec3> {
    let mut normals = vec![DVec3::ZERO; mesh.vertex_count()];
    for (face, corners) in mesh.faces() {
        let facing = facing(mesh, face);
        corners.iter().for_each(|v| normals[v.index()] += facing);
    }
    normals
}
