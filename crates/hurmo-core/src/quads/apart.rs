//! Vertices moved so that faces do not run through each other where the model's do not.
//!
//! Faces are chords of a surface that bends. Where another sheet lies within their sagitta they cross it; vertices that
//! move off by the sagitta bring the chord back. Half of the way from the middle of the neighbours to a vertex is that
//! sagitta, and along a line of two neighbours a quarter of it is. What moves is kept where fewer faces cross by it.

use super::assembled::Assembled;
use super::crossings::{Crossings, NewCrossings};
use super::placement::{BAD, Beside, convexity};
use crate::attribute_transfer::Carried;
use crate::measure::vector_area;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::topology::{FacesAt, UnionFind};
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

/// How often all ways to move are tried.
const PASSES: usize = 3;
/// How often vertices are taken back where a way to move does not help.
const TAKEN_BACK: usize = 4;
/// No vertex moves further at once than this share of its shortest edge.
const FAR: f64 = 0.3;

/// A way to move vertices.
#[derive(Clone, Copy)]
enum Way {
    /// By this many sagittas, off the surface; only those that this moves out of the solid, or into it.
    Off(f64, Side),
    /// To the middle of its neighbours, along the surface or its line.
    Middle,
}

#[derive(Clone, Copy, PartialEq)]
enum Side {
    Both,
    Out,
    In,
}

/// In the order in which they are tried.
const WAYS: [Way; 7] = [
    Way::Off(1.0, Side::Out),
    Way::Off(1.0, Side::In),
    Way::Off(1.0, Side::Both),
    Way::Middle,
    Way::Off(0.5, Side::Both),
    Way::Off(2.0, Side::Out),
    Way::Off(2.0, Side::In),
];

/// Moves vertices of faces that cross; and those that still do.
pub(super) fn move_apart(
    made: &mut Assembled,
    mut faulty: NewCrossings,
    crossings: &Crossings<'_>,
    carried: &Carried<'_>,
) -> Vec<FaceId> {
    if faulty.faces.is_empty() {
        return Vec::new();
    }
    let before = made.mesh.positions().to_vec();
    move_in_passes(made, &mut faulty, crossings, carried);
    let places = made.mesh.positions().iter().zip(&before);
    made.moved_apart += places.filter(|(now, before)| now != before).count();
    faulty.faces
}

/// Moves vertices as long as fewer faces cross by it.
fn move_in_passes(
    made: &mut Assembled,
    faulty: &mut NewCrossings,
    crossings: &Crossings<'_>,
    carried: &Carried<'_>,
) {
    let around = Around::of(made);
    for _ in 0..PASSES {
        let before = faulty.faces.len();
        for way in WAYS {
            let wanted = around.moved(&made.mesh, &faulty.faces, way, carried);
            if let Some(now) = around.kept_if_better(&mut made.mesh, wanted, faulty, crossings) {
                *faulty = now;
            }
            if faulty.faces.is_empty() {
                return;
            }
        }
        if faulty.faces.len() == before {
            return;
        }
    }
}

/// Takes vertices back to where they were before, as long as faces cross or become bad by their new places; and what
/// crosses then.
pub(super) fn take_back(
    made: &mut Assembled,
    before: &[DVec3],
    crossings: &Crossings<'_>,
) -> NewCrossings {
    for _ in 0..TAKEN_BACK {
        let mesh = &made.mesh;
        let is_moved = |v: &VertexId| mesh.position(*v) != before[v.index()];
        let mut faces: Vec<FaceId> = mesh.face_ids().collect();
        faces.retain(|&face| mesh.face(face).iter().any(&is_moved));
        retain_worse(&mut faces, mesh, before);
        let now = crossings.new_in(mesh);
        faces.extend(&now.faces);
        let ends = faces.iter().flat_map(|&face| mesh.face(face)).copied();
        let moved: Vec<VertexId> = ends.filter(&is_moved).collect();
        if moved.is_empty() {
            return now;
        }
        restore(&mut made.mesh, &moved, before);
    }
    crossings.new_in(&made.mesh)
}

/// Puts vertices back to where they were.
fn restore(mesh: &mut Mesh, vertices: &[VertexId], before: &[DVec3]) {
    for v in vertices {
        mesh.positions_mut()[v.index()] = before[v.index()];
    }
}

/// Leaves the faces that are bad, and worse than they were.
fn retain_worse(faces: &mut Vec<FaceId>, mesh: &Mesh, before: &[DVec3]) {
    faces.retain(|&face| {
        let corners: Vec<u32> = mesh.face(face).iter().map(|v| v.0).collect();
        let now = convexity(mesh.positions(), &corners);
        now < BAD && now < convexity(before, &corners)
    });
}

/// What is round vertices.
struct Around {
    faces: FacesAt,
    beside: Beside,
    /// By vertex on feature lines: those that follow.
    on_lines: FxHashMap<VertexId, Vec<VertexId>>,
    corners: FxHashSet<VertexId>,
}

impl Around {
    fn of(made: &Assembled) -> Self {
        let mut on_lines: FxHashMap<VertexId, Vec<VertexId>> = FxHashMap::default();
        for &[a, b] in &made.feature_edges {
            on_lines.entry(a).or_default().push(b);
            on_lines.entry(b).or_default().push(a);
        }
        let sides = made.mesh.faces().flat_map(|(_, face)| {
            (0..face.len()).map(|i| [face[i].0, face[(i + 1) % face.len()].0])
        });
        Self {
            beside: Beside::of(made.mesh.vertex_count(), sides),
            faces: FacesAt::of(&made.mesh),
            on_lines,
            corners: made.corners.iter().copied().collect(),
        }
    }

    /// The vertices of some faces with the places to which a way moves them.
    fn moved(
        &self,
        mesh: &Mesh,
        faces: &[FaceId],
        way: Way,
        carried: &Carried<'_>,
    ) -> Vec<(VertexId, DVec3)> {
        let mut vertices: Vec<VertexId> =
            faces.iter().flat_map(|&f| mesh.face(f)).copied().collect();
        vertices.sort_unstable();
        vertices.dedup();
        vertices.retain(|v| !self.corners.contains(v));
        let moved = |v: VertexId| {
            let by = self.step(mesh, v, way, carried)?;
            Some((v, mesh.position(v) + by))
        };
        vertices.into_iter().filter_map(moved).collect()
    }

    /// By how much a way moves a vertex.
    fn step(&self, mesh: &Mesh, v: VertexId, way: Way, carried: &Carried<'_>) -> Option<DVec3> {
        let here = mesh.position(v);
        let neighbours = self.beside.of_vertex(v.index());
        let neighbours: Vec<VertexId> = neighbours.iter().map(|&w| VertexId(w)).collect();
        let shortest = neighbours.iter().map(|&w| mesh.position(w).distance(here));
        let most = FAR * shortest.fold(f64::INFINITY, f64::min);
        let normal = self.normal(mesh, v);
        let middle = |some: &[VertexId]| {
            some.iter().map(|&w| mesh.position(w)).sum::<DVec3>() / some.len() as f64
        };
        let line = self.on_lines.get(&v);
        match way {
            Way::Middle => {
                match line.map(Vec::as_slice) {
                    Some(&[a, b]) => return along_line(here, [a, b].map(|w| mesh.position(w))),
                    Some(_) => return None,
                    None => {}
                }
                let to = here + (middle(&neighbours) - here).clamp_length_max(most);
                let closest = carried.tree().closest(to)?;
                let is_same_side = carried.normal(closest.triangle).dot(normal) > 0.0;
                is_same_side.then(|| closest.point - here)
            }
            Way::Off(times, side) => {
                let off = match line.map(Vec::as_slice) {
                    Some(&[a, b]) => {
                        let along = (mesh.position(b) - mesh.position(a)).normalize_or_zero();
                        let off = (here - middle(&[a, b])) * 0.25;
                        off - off.dot(along) * along
                    }
                    Some(_) => return None,
                    None => normal * normal.dot(here - middle(&neighbours)) * 0.5,
                };
                let out = match line {
                    // On a rim of a sheet, out is away from the faces.
                    Some(_) if off.dot(normal).abs() < 0.5 * off.length() => {
                        here - self.middle_of_faces(mesh, v)
                    }
                    _ => normal,
                };
                let is_out = off.dot(out) > 0.0;
                let fits = side == Side::Both || (side == Side::Out) == is_out;
                (fits && off != DVec3::ZERO).then(|| (off * times).clamp_length_max(most))
            }
        }
    }

    fn normal(&self, mesh: &Mesh, v: VertexId) -> DVec3 {
        let faces = self.faces.of_vertex(v).iter();
        let sum: DVec3 = faces.map(|&face| vector_area(mesh, face)).sum();
        sum.normalize_or_zero()
    }

    fn middle_of_faces(&self, mesh: &Mesh, v: VertexId) -> DVec3 {
        let faces = self.faces.of_vertex(v);
        let sum: DVec3 = faces.iter().map(|&face| mesh.face_middle(face)).sum();
        sum / faces.len().max(1) as f64
    }

    /// Moves vertices, and takes those back by which no fewer faces cross, or some become bad; what crosses then, if any
    /// stay.
    fn kept_if_better(
        &self,
        mesh: &mut Mesh,
        wanted: Vec<(VertexId, DVec3)>,
        faulty: &NewCrossings,
        crossings: &Crossings<'_>,
    ) -> Option<NewCrossings> {
        let old = mesh.positions().to_vec();
        let mut moved: Vec<VertexId> = wanted.iter().map(|(v, _)| *v).collect();
        for (v, at) in wanted {
            mesh.positions_mut()[v.index()] = at;
        }
        for _ in 0..TAKEN_BACK {
            if moved.is_empty() {
                return None;
            }
            let now = crossings.new_in(mesh);
            let bad = self.made_bad(mesh, &old, &moved);
            let mut groups = Groups::of(mesh, faulty, &now, &bad);
            let better = groups.better(&faulty.faces, now.faces.iter().chain(&bad));
            let (stay, back): (Vec<VertexId>, Vec<VertexId>) = (moved.iter()).partition(|&&v| {
                groups
                    .of_vertex(v)
                    .is_some_and(|group| better.contains(&group))
            });
            if back.is_empty() {
                return Some(now);
            }
            restore(mesh, &back, &old);
            moved = stay;
        }
        restore(mesh, &moved, &old);
        None
    }

    /// Faces at moved vertices that have become bad.
    fn made_bad(&self, mesh: &Mesh, old: &[DVec3], moved: &[VertexId]) -> Vec<FaceId> {
        let mut faces: Vec<FaceId> = moved
            .iter()
            .flat_map(|&v| self.faces.of_vertex(v))
            .copied()
            .collect();
        faces.sort_unstable();
        faces.dedup();
        retain_worse(&mut faces, mesh, old);
        faces
    }
}

/// The step from a vertex of a line, on its longer edge, after which both are as long.
fn along_line(here: DVec3, ends: [DVec3; 2]) -> Option<DVec3> {
    let [one, other] = ends.map(|end| end.distance(here));
    let (longer, shorter, to) = match one > other {
        true => (one, other, ends[0]),
        false => (other, one, ends[1]),
    };
    (longer > 0.0).then(|| (to - here) * ((longer - shorter) / (2.0 * longer)))
}

/// Faces that hang together by crossings or vertices.
struct Groups {
    sets: UnionFind,
    face_at: FxHashMap<VertexId, FaceId>,
}

impl Groups {
    fn of(mesh: &Mesh, before: &NewCrossings, now: &NewCrossings, bad: &[FaceId]) -> Self {
        let mut sets = UnionFind::new(mesh.face_count());
        let mut face_at: FxHashMap<VertexId, FaceId> = FxHashMap::default();
        let both = before.faces.iter().chain(&now.faces);
        for &face in both.chain(bad) {
            for &v in mesh.face(face) {
                let first = *face_at.entry(v).or_insert(face);
                sets.join(first.0, face.0);
            }
        }
        for found in [before, now] {
            for &face in &found.faces {
                sets.join(face.0, found.first_in_chain(face).0);
            }
        }
        Self { sets, face_at }
    }

    fn of_vertex(&mut self, v: VertexId) -> Option<u32> {
        self.face_at.get(&v).map(|face| self.sets.find(face.0))
    }

    /// The groups that have fewer faces now than before.
    fn better<'f>(
        &mut self,
        before: &[FaceId],
        now: impl Iterator<Item = &'f FaceId>,
    ) -> FxHashSet<u32> {
        let mut balance: FxHashMap<u32, i64> = FxHashMap::default();
        for face in before {
            *balance.entry(self.sets.find(face.0)).or_default() -= 1;
        }
        for face in now {
            *balance.entry(self.sets.find(face.0)).or_default() += 1;
        }
        let better = balance.into_iter().filter(|(_, balance)| *balance < 0);
        better.map(|(group, _)| group).collect()
    }
}
