//! Triangles in crowds: thousands round one vertex or edge, of one face, or on the same three
//! vertices. To hold each against each would take quadratic time.
//!
//! ```text
//! of one face              ─▶ never held against each other
//! round a settled vertex   ─▶ known not to meet
//! round an edge            ─▶ sorted by angle, exactly: those at one angle meet
//! on the same vertices     ─▶ one stands for all of a part
//! ```
//!
//! Cost: near-linear; two counts where there are no crowds.

use super::TriangleHierarchy;
use super::overlaps::{Known, UNGROUPED};
use super::separated::{are_separated, are_separated_round};
use crate::mesh::{FaceId, PartId, VertexId};
use crate::predicates::{meet_beyond_edge, side_of_plane};
use rustc_hash::FxHashMap;
use std::cmp::Ordering;
use std::ops::Range;

/// More triangles than this are a crowd.
const CROWD: u32 = 32;

/// What is known of a hierarchy's triangles.
pub(super) struct Crowds<'s, 'm> {
    hierarchy: &'s TriangleHierarchy<'m>,
    /// The group of each triangle; empty if there are no crowds.
    groups: Vec<u32>,
    /// Triangles that another of their part stands for, as it lies on the same vertices.
    pub doubles: Vec<[usize; 2]>,
    /// Triangles of one group that meet.
    pub meeting: Vec<[usize; 2]>,
}

impl<'s, 'm> Crowds<'s, 'm> {
    /// Those among triangles; ones that are `flat` are left out. Of vertices that are `settled`
    /// the triangles are known not to meet elsewhere.
    pub fn of(
        hierarchy: &'s TriangleHierarchy<'m>,
        face_count: usize,
        flat: &[bool],
        settled: &[bool],
        part: impl Fn(FaceId) -> Option<PartId>,
    ) -> Self {
        let mut crowds = Self {
            hierarchy,
            groups: Vec::new(),
            doubles: doubles(hierarchy, part),
            meeting: Vec::new(),
        };
        let mut at_vertex = vec![0u32; hierarchy.vertex_count()];
        let mut of_face = vec![0u32; face_count];
        for triangle in 0..hierarchy.len() {
            for vertex in hierarchy.vertices(triangle) {
                at_vertex[vertex.index()] += 1;
            }
            of_face[hierarchy.face(triangle).index()] += 1;
        }
        let are_many = |count: &u32| *count > CROWD;
        if !at_vertex.iter().chain(&of_face).any(are_many) {
            return crowds;
        }
        let is_crowded = |v: &VertexId| are_many(&at_vertex[v.index()]);
        let is_of_crowd = |triangle: usize| are_many(&of_face[hierarchy.face(triangle).index()]);
        let mut round_edge: FxHashMap<[VertexId; 2], Vec<usize>> = FxHashMap::default();
        let looked_at = |triangle: &usize| !is_of_crowd(*triangle) && !flat[*triangle];
        for triangle in (0..hierarchy.len()).filter(looked_at) {
            let [a, b, c] = hierarchy.vertices(triangle);
            for ends in [[a, b], [b, c], [c, a]] {
                if ends.iter().all(is_crowded) {
                    let [a, b] = ends;
                    round_edge
                        .entry([a.min(b), a.max(b)])
                        .or_default()
                        .push(triangle);
                }
            }
        }
        crowds.groups = vec![UNGROUPED; hierarchy.len()];
        // Groups are numbered from those of faces, by face, to those of edges and of vertices.
        let mut numbers = face_count as u32..UNGROUPED;
        let mut new = || numbers.next().unwrap_or(UNGROUPED);
        let mut of_vertex: FxHashMap<VertexId, u32> = FxHashMap::default();
        let mut edges: Vec<_> = round_edge
            .into_iter()
            .filter(|(_, all)| all.len() > CROWD as usize)
            .collect();
        edges.sort_unstable();
        for (ends, mut all) in edges {
            all.retain(|&triangle| crowds.groups[triangle] == UNGROUPED);
            let group = new();
            all.iter()
                .for_each(|&triangle| crowds.groups[triangle] = group);
            crowds.meeting.extend(of_one_angle(hierarchy, ends, all));
        }
        for triangle in 0..hierarchy.len() {
            let settled = |v: &VertexId| settled.get(v.index()) == Some(&true) && is_crowded(v);
            let group = &mut crowds.groups[triangle];
            if is_of_crowd(triangle) {
                *group = hierarchy.face(triangle).0;
            } else if *group == UNGROUPED
                && let Some(vertex) = hierarchy.vertices(triangle).into_iter().find(settled)
            {
                *group = *of_vertex.entry(vertex).or_insert_with(&mut new);
            }
        }
        crowds
    }

    /// The vertex that all triangles of two runs have in common.
    fn common(&self, [one, other]: [&Range<usize>; 2]) -> Option<VertexId> {
        let mut common = self.hierarchy.vertices(one.start).map(Some);
        for triangle in one.clone().chain(other.clone()) {
            let vertices = self.hierarchy.vertices(triangle);
            for vertex in &mut common {
                *vertex = vertex.filter(|v| vertices.contains(v));
            }
            if common == [None; 3] {
                break;
            }
        }
        common.into_iter().flatten().next()
    }
}

impl Known for Crowds<'_, '_> {
    fn groups(&self) -> &[u32] {
        &self.groups
    }

    fn are_apart(&self, one: Range<usize>, other: Range<usize>) -> bool {
        let Some(vertex) = self.common([&one, &other]) else {
            let corners =
                |run: Range<usize>| run.map(|i| self.hierarchy.corners(i)).collect::<Vec<_>>();
            return are_separated([&corners(one), &corners(other)]);
        };
        let beside = |triangle: usize| {
            let place = self
                .hierarchy
                .vertices(triangle)
                .iter()
                .position(|&v| v == vertex);
            let (i, corners) = (place.unwrap_or(0), self.hierarchy.corners(triangle));
            [corners[(i + 1) % 3], corners[(i + 2) % 3]]
        };
        let others = |run: Range<usize>| run.map(beside).collect::<Vec<_>>();
        are_separated_round(
            self.hierarchy.position(vertex),
            [&others(one), &others(other)],
        )
    }
}

/// Triangles of a part on the same vertices as one before them along the curve, each with that one.
/// Equal triangles have one middle, so they follow each other.
fn doubles(
    hierarchy: &TriangleHierarchy<'_>,
    part: impl Fn(FaceId) -> Option<PartId>,
) -> Vec<[usize; 2]> {
    let key = |triangle: usize| {
        let mut vertices = hierarchy.vertices(triangle);
        vertices.sort_unstable();
        vertices
    };
    let mut doubles = Vec::new();
    let mut first = 0;
    for triangle in 1..hierarchy.len() {
        let is_double = key(triangle) == key(first)
            && part(hierarchy.face(triangle)) == part(hierarchy.face(first));
        match is_double {
            true => doubles.push([first, triangle]),
            false => first = triangle,
        }
    }
    doubles
}

/// Of triangles round an edge those that lie at the same angle, each with the one before it.
fn of_one_angle(
    hierarchy: &TriangleHierarchy<'_>,
    ends: [VertexId; 2],
    mut all: Vec<usize>,
) -> Vec<[usize; 2]> {
    let Some(&zero) = all.first() else {
        return Vec::new();
    };
    let [u, v] = ends.map(|v| hierarchy.position(v));
    let tip = |triangle: usize| {
        let tip = hierarchy
            .vertices(triangle)
            .into_iter()
            .find(|w| !ends.contains(w));
        hierarchy.position(tip.unwrap_or(ends[0]))
    };
    // Round the edge from the first: at its angle, before the half turn, at it, beyond it.
    let quarter = |triangle: usize| match side_of_plane(u, v, tip(zero), tip(triangle)) {
        Ordering::Equal if meet_beyond_edge(u, v, tip(zero), tip(triangle)) => 0,
        Ordering::Greater => 1,
        Ordering::Equal => 2,
        Ordering::Less => 3,
    };
    let round = |a: usize, b: usize| side_of_plane(u, v, tip(b), tip(a));
    all.sort_by_cached_key(|&triangle| quarter(triangle));
    for half in all.chunk_by_mut(|&a, &b| quarter(a) == quarter(b)) {
        if quarter(half[0]) % 2 == 1 {
            half.sort_by(|&a, &b| round(a, b));
        }
    }
    let meet = |pair: &&[usize]| meet_beyond_edge(u, v, tip(pair[0]), tip(pair[1]));
    all.windows(2)
        .filter(meet)
        .map(|pair| [pair[0], pair[1]])
        .collect()
}

#[cfg(test)]
mod tests {
    use super::super::{Contacts, exact_weld, height_fields};
    use super::*;
    use crate::mesh::Mesh;
    use crate::spatial::faces_meet;
    use crate::topology::Edges;
    use glam::DVec3;
    use proptest::prelude::*;
    use std::sync::atomic::{AtomicUsize, Ordering::Relaxed};

    fn mesh(positions: Vec<DVec3>, faces: impl Iterator<Item = Vec<usize>>) -> Mesh {
        let mut mesh = Mesh::from_parts(positions, vec![], vec![0]).unwrap();
        for face in faces {
            mesh.push_face(face.into_iter().map(VertexId::new));
        }
        mesh
    }

    fn at_angle(share: f64, height: f64) -> DVec3 {
        let (sin, cos) = (share * std::f64::consts::TAU).sin_cos();
        DVec3::new(cos, sin, height)
    }

    /// A ring of corners, every second so much higher, with faces to a point above and one below.
    fn cone(count: usize, step: f64) -> Mesh {
        let height = |i: usize| step * (i % 2) as f64;
        let ring = (0..count).map(|i| at_angle(i as f64 / count as f64, height(i)));
        let tips = [DVec3::Z, -DVec3::Z];
        let side = |i: usize| {
            [
                vec![i, (i + 1) % count, count],
                vec![(i + 1) % count, i, count + 1],
            ]
        };
        mesh(ring.chain(tips).collect(), (0..count).flat_map(side))
    }

    /// How many pairs of triangles are looked at, once crowds have been seen to.
    fn pairs(mesh: &Mesh) -> usize {
        let faces: Vec<FaceId> = mesh.face_ids().collect();
        let place = exact_weld(mesh.positions());
        let hierarchy = TriangleHierarchy::welded(mesh, &faces, |_| false, |v| place[v.index()]);
        let settled = height_fields(&hierarchy, mesh, &Edges::of(mesh), &place, |_| false);
        let flat = vec![false; hierarchy.len()];
        let crowds = Crowds::of(&hierarchy, mesh.face_count(), &flat, &settled, |_| None);
        let mut bounds: Vec<_> = (0..hierarchy.len()).map(|i| hierarchy.bounds(i)).collect();
        for &[_, double] in &crowds.doubles {
            bounds[double] = super::super::NOWHERE;
        }
        let count = AtomicUsize::new(0);
        super::super::overlaps::overlapping_pairs_but(
            hierarchy.len(),
            |i| bounds[i],
            &crowds,
            |_, _| {
                count.fetch_add(1, Relaxed);
            },
        );
        count.into_inner() + crowds.doubles.len() + crowds.meeting.len()
    }

    #[test]
    fn crowds_take_near_linear_work() {
        let leaf = |i: usize| at_angle(i as f64 / 4000.0, 0.5);
        let book = mesh(
            [DVec3::ZERO, DVec3::Z]
                .into_iter()
                .chain((0..4000).map(leaf))
                .collect(),
            (0..4000).map(|i| vec![0, 1, i + 2]),
        );
        let equal = mesh(
            vec![DVec3::ZERO, DVec3::X, DVec3::Y],
            (0..4000).map(|i| {
                if i % 2 == 0 {
                    vec![0, 1, 2]
                } else {
                    vec![1, 0, 2]
                }
            }),
        );
        let polygon = mesh(
            (0..4000)
                .map(|i| at_angle(i as f64 / 4000.0, 0.0))
                .collect(),
            std::iter::once((0..4000).collect()),
        );
        let corners = [
            [1.0, 1.0, 1.0],
            [1.0, -1.0, -1.0],
            [-1.0, 1.0, -1.0],
            [-1.0, -1.0, 1.0],
        ];
        let shells = mesh(
            (1..1000)
                .flat_map(|i| corners.map(|c| DVec3::from(c) * f64::from(i)))
                .collect(),
            (0..999).flat_map(|i| {
                [[0, 1, 2], [0, 3, 1], [0, 2, 3], [1, 3, 2]].map(|f| f.map(|c| 4 * i + c).to_vec())
            }),
        );
        for (name, mesh, most) in [
            ("cone", cone(4000, 0.0), 400),
            ("zigzag", cone(4000, 0.01), 400),
            ("book", book, 4),
            ("equal", equal, 4),
            ("polygon", polygon, 4),
            ("shells", shells, 400),
        ] {
            let (pairs, faces) = (pairs(&mesh), mesh.face_count().max(4000));
            assert!(
                pairs <= most * faces,
                "{name}: {pairs} pairs of {faces} triangles"
            );
        }
    }

    proptest! {
        /// Leaves round edges, cones, doubles and strays, on so few corners that many meet.
        #[test]
        fn contacts_in_crowds_are_those_of_every_pair(
            points in prop::collection::vec(prop::array::uniform3(-3i8..=3), 30..90),
            round in prop::collection::vec((0usize..4, 0usize..90, 0usize..90), 60..200),
        ) {
            let mut at: Vec<DVec3> = [DVec3::ZERO, DVec3::Z, DVec3::X, -DVec3::Y].to_vec();
            at.extend(points.iter().map(|p| DVec3::from_array(p.map(f64::from)) * 0.5));
            let count = at.len();
            let face = |&(kind, i, j): &(usize, usize, usize)| match kind {
                0 => vec![0, 1, i % count],
                1 => vec![0, i % count, j % count],
                2 => vec![i % count, j % count, (i + j) % count],
                _ => vec![2, 3, 4 + i % 3],
            };
            let mesh = mesh(at, round.iter().map(face));
            let place = exact_weld(mesh.positions());
            let faces: Vec<FaceId> = mesh.face_ids().collect();
            let hierarchy = TriangleHierarchy::welded(&mesh, &faces, |_| false, |v| place[v.index()]);
            let contacts = Contacts::of(&hierarchy, mesh.face_count(), &vec![false; count], |_| None);
            let mut expected = vec![false; mesh.face_count()];
            for a in 0..hierarchy.len() {
                for b in a + 1..hierarchy.len() {
                    let flat = [a, b].iter().any(|&t| crate::predicates::on_one_line(hierarchy.corners(t)));
                    let vertices = [hierarchy.vertices(a), hierarchy.vertices(b)];
                    if !flat && faces_meet(vertices, [hierarchy.corners(a), hierarchy.corners(b)]) {
                        expected[hierarchy.face(a).index()] = true;
                        expected[hierarchy.face(b).index()] = true;
                    }
                }
            }
            let found: Vec<bool> = faces.iter().map(|&face| contacts.touches(face)).collect();
            prop_assert_eq!(found, expected);
        }
    }
}
