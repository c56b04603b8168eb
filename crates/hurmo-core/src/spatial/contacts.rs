//! Which faces meet another away from a vertex or edge that they share.
//!
//! ```text
//! TriangleHierarchy ─▶ pairs of triangles whose boxes overlap ─▶ exact test ─▶ faces, pairs of parts
//! ```
//!
//! Vertices at one place are one vertex here, so that an unwelded seam is no contact. Triangles
//! of one face are not held against each other. A pair is not tested when a chain of contacts
//! joins its faces already, and its two parts are known to meet, so a model in which everything
//! lies on everything costs little more than a clean one, and the chains are the same in
//! whichever order pairs come. Thousands of triangles round one vertex or edge, or in one
//! place, are looked at first (`crowds`). Cost: near-linear in pairs of overlapping boxes; about
//! 30 bytes a triangle beside the hierarchy.

use super::crowds::Crowds;
use super::overlaps::overlapping_pairs_but;
use super::{NOWHERE, TriangleHierarchy, exact_weld, overlap};
use crate::mesh::{FaceId, Mesh, PartId, VertexId};
use crate::parallel::{chosen, for_each, mapped};
use crate::predicates::{meet_beyond_corner, meet_beyond_edge, on_one_line, triangles_meet};
use crate::topology::SharedSets;
use rustc_hash::FxHashSet;
use std::collections::BTreeSet;
use std::sync::RwLock;

/// This many pairs of parts that meet are counted, and no more: there are as many as parts squared
/// where all run through one place.
pub const MOST_PAIRS_OF_PARTS: usize = 1_000_000;

/// Where one face in this many is new, to look at all pairs costs less than to look for those of each new one.
const FEW: usize = 8;

/// The faces that meet others, and the parts that do.
#[derive(Clone, Debug, Default)]
pub struct Contacts {
    /// For every face, the lowest of those that a chain of contacts joins it to; itself if it
    /// is that, or meets none.
    chain: Vec<u32>,
    touches: Vec<bool>,
    /// Pairs of parts whose faces meet, the lower first.
    pub parts: BTreeSet<(PartId, PartId)>,
}

impl Contacts {
    /// Finds all contacts. The hierarchy is welded; triangles that share a vertex that is `settled`
    /// are known not to meet elsewhere; `part(f)` is a face's part.
    pub fn of(
        hierarchy: &TriangleHierarchy<'_>,
        face_count: usize,
        settled: &[bool],
        part: impl Fn(FaceId) -> Option<PartId> + Sync,
    ) -> Self {
        let apart = |a: usize, b: usize| share_settled(hierarchy, settled, a, b);
        Self::found(hierarchy, (face_count, settled), (apart, |_, _| true), part)
    }

    /// Finds all contacts but those of triangles that are known to be `apart`. Of two on the same vertices
    /// one stands for both where they are `alike`.
    fn found(
        hierarchy: &TriangleHierarchy<'_>,
        (face_count, settled): (usize, &[bool]),
        (apart, alike): (
            impl Fn(usize, usize) -> bool + Sync,
            impl Fn(usize, usize) -> bool,
        ),
        part: impl Fn(FaceId) -> Option<PartId> + Sync,
    ) -> Self {
        let search = Search::of(hierarchy, face_count, apart, &part);
        let mut crowds = Crowds::of(hierarchy, face_count, &search.flat, settled, &part);
        crowds
            .doubles
            .retain(|&[first, double]| alike(first, double));
        let mut left_out = search.flat.clone();
        for &[first, double] in &crowds.doubles {
            search.look_at(first, double);
            left_out[double] = true;
        }
        for &[a, b] in &crowds.meeting {
            search.look_at(a, b);
        }
        let bounds = |triangle: usize| match left_out[triangle] {
            true => NOWHERE,
            false => hierarchy.bounds(triangle),
        };
        overlapping_pairs_but(hierarchy.len(), bounds, &crowds, |a, b| {
            search.look_at(a, b)
        });
        search.found()
    }

    /// Finds the contacts of faces that are new, where the others are known not to meet each
    /// other. The hierarchy is welded. Cost: near-linear in what overlaps new faces.
    pub fn of_new(
        hierarchy: &TriangleHierarchy<'_>,
        is_new: &[bool],
        part: impl Fn(FaceId) -> Option<PartId> + Sync,
    ) -> Self {
        let count = is_new.iter().filter(|&&new| new).count();
        let face_count = is_new.len();
        let is_new = |triangle: usize| is_new[hierarchy.face(triangle).index()];
        if count * FEW > face_count {
            let apart = |a: usize, b: usize| !is_new(a) && !is_new(b);
            let alike = |a: usize, b: usize| is_new(a) == is_new(b);
            return Self::found(hierarchy, (face_count, &[]), (apart, alike), part);
        }
        let search = Search::of(hierarchy, face_count, |_, _| false, part);
        let new = chosen(hierarchy.len(), 4096, |t| is_new(t).then_some(t));
        for_each(new.len(), 1, |a| {
            let a = new[a];
            let bounds = hierarchy.bounds(a);
            hierarchy.tree().visit(
                |node| overlap(node, bounds),
                |b| {
                    let is_second_look = is_new(b) && b < a;
                    if b != a && !is_second_look && overlap(hierarchy.bounds(b), bounds) {
                        search.look_at(a.min(b), a.max(b));
                    }
                },
            );
        });
        search.found()
    }

    /// Those among some faces only, but of no two that are known to be `apart`; parts are not
    /// distinguished.
    pub fn among(
        mesh: &Mesh,
        faces: &[FaceId],
        apart: impl Fn(FaceId, FaceId) -> bool + Sync,
    ) -> Self {
        let place = exact_weld(mesh.positions());
        let hierarchy = TriangleHierarchy::welded(mesh, faces, |_| false, |v| place[v.index()]);
        let apart = |a: usize, b: usize| apart(hierarchy.face(a), hierarchy.face(b));
        let known = (apart, |_, _| true);
        Self::found(&hierarchy, (mesh.face_count(), &[]), known, |_| None)
    }

    /// The faces, of some, that meet others of these.
    pub fn meeting(mesh: &Mesh, faces: &[FaceId]) -> Vec<FaceId> {
        let contacts = Self::among(mesh, faces, |_, _| false);
        let all = faces.iter().copied();
        all.filter(|&face| contacts.touches(face)).collect()
    }

    /// Whether a face meets another.
    pub fn touches(&self, face: FaceId) -> bool {
        self.touches[face.index()]
    }

    /// For every face, whether it meets another.
    pub fn into_touching(self) -> Vec<bool> {
        self.touches
    }

    /// The lowest face that a chain of contacts joins a face to.
    pub fn first_in_chain(&self, face: FaceId) -> FaceId {
        FaceId(self.chain[face.index()])
    }
}

/// For every triangle, whether its corners lie on one line.
fn on_lines(hierarchy: &TriangleHierarchy<'_>) -> Vec<bool> {
    mapped(hierarchy.len(), 1, |i| on_one_line(hierarchy.corners(i)))
}

/// What is being found out, on several threads.
struct Search<'s, 'm, A, P> {
    hierarchy: &'s TriangleHierarchy<'m>,
    apart: A,
    part: P,
    chains: SharedSets,
    parts: RwLock<FxHashSet<(PartId, PartId)>>,
    /// Triangles whose corners lie on one line.
    flat: Vec<bool>,
}

impl<'s, 'm, A, P> Search<'s, 'm, A, P>
where
    A: Fn(usize, usize) -> bool + Sync,
    P: Fn(FaceId) -> Option<PartId> + Sync,
{
    fn of(hierarchy: &'s TriangleHierarchy<'m>, face_count: usize, apart: A, part: P) -> Self {
        Self {
            apart,
            part,
            chains: SharedSets::new(face_count),
            parts: RwLock::default(),
            flat: on_lines(hierarchy),
            hierarchy,
        }
    }

    /// Holds two triangles against each other whose boxes overlap.
    fn look_at(&self, a: usize, b: usize) {
        // Of most pairs nothing else is looked at.
        if (self.apart)(a, b) {
            return;
        }
        let (f, g) = (self.hierarchy.face(a), self.hierarchy.face(b));
        if f == g {
            return;
        }
        let pair = || match ((self.part)(f), (self.part)(g)) {
            (Some(p), Some(q)) if p != q => Some((p.min(q), p.max(q))),
            _ => None,
        };
        let is_new = |pair: &(PartId, PartId)| {
            let is_new =
                |parts: &FxHashSet<_>| parts.len() < MOST_PAIRS_OF_PARTS && !parts.contains(pair);
            self.parts.read().is_ok_and(|parts| is_new(&parts))
        };
        if self.chains.together(f.0, g.0) && !pair().is_some_and(|pair| is_new(&pair)) {
            return;
        }
        if self.flat[a] || self.flat[b] || !meet(self.hierarchy, a, b) {
            return;
        }
        self.chains.join(f.0, g.0);
        if let Some(pair) = pair().filter(is_new)
            && let Ok(mut parts) = self.parts.write()
        {
            parts.insert(pair);
        }
    }

    fn found(self) -> Contacts {
        let chain = self.chains.roots();
        let mut touches = vec![false; chain.len()];
        for (face, &first) in chain.iter().enumerate() {
            if first as usize != face {
                touches[face] = true;
                touches[first as usize] = true;
            }
        }
        let parts = self.parts.into_inner().unwrap_or_default();
        Contacts {
            chain,
            touches,
            parts: parts.into_iter().collect(),
        }
    }
}

/// Whether two triangles share a vertex that is settled.
fn share_settled(hierarchy: &TriangleHierarchy<'_>, settled: &[bool], a: usize, b: usize) -> bool {
    let others = hierarchy.vertices(b);
    let mut own = hierarchy.vertices(a).into_iter();
    own.any(|v| others.contains(&v) && settled[v.index()])
}

fn meet(hierarchy: &TriangleHierarchy<'_>, a: usize, b: usize) -> bool {
    faces_meet(
        [hierarchy.vertices(a), hierarchy.vertices(b)],
        [hierarchy.corners(a), hierarchy.corners(b)],
    )
}

/// Whether two triangles, given by their vertices (equal where they are shared) and corners,
/// meet away from what they share. The corners of neither may lie on one line.
pub fn faces_meet([s, t]: [[VertexId; 3]; 2], [p, q]: [[glam::DVec3; 3]; 2]) -> bool {
    let mut shared = [(0, 0); 3];
    let mut count = 0;
    for (i, v) in s.iter().enumerate() {
        if let Some(j) = t.iter().position(|w| w == v) {
            shared[count] = (i, j);
            count += 1;
        }
    }
    match count {
        0 => triangles_meet(p, q),
        1 => {
            let (i, j) = shared[0];
            meet_beyond_corner(
                p[i],
                [p[(i + 1) % 3], p[(i + 2) % 3]],
                [q[(j + 1) % 3], q[(j + 2) % 3]],
            )
        }
        2 => {
            let [(i, j), (k, l), _] = shared;
            meet_beyond_edge(p[i], p[k], p[3 - i - k], q[3 - j - l])
        }
        _ => true,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::DVec3;
    use proptest::prelude::*;

    proptest! {
        /// Few or many new faces among others that don't meet, against every pair.
        #[test]
        fn what_new_faces_meet_is_found(
            corners in prop::collection::vec(prop::array::uniform3(prop::array::uniform3(-2..3i8)), 1..14),
            apart in 0usize..200,
        ) {
            let mut mesh = Mesh::default();
            let mut push = |corners: [DVec3; 3]| {
                if !on_one_line(corners) {
                    let corners = corners.map(|p| mesh.push_vertex(p));
                    mesh.push_face(corners);
                }
            };
            for triangle in corners {
                push(triangle.map(|p| DVec3::from_array(p.map(f64::from))));
            }
            for i in 0..apart {
                let at = DVec3::X * (10.0 + 2.0 * i as f64);
                push([at, at + DVec3::X, at + DVec3::Y]);
            }
            let place = exact_weld(mesh.positions());
            let hierarchy = TriangleHierarchy::welded(&mesh, &mesh.face_ids().collect::<Vec<_>>(), |_| false, |v| place[v.index()]);
            let meet = |a: usize, b: usize| meet(&hierarchy, a, b);
            let count = hierarchy.len();
            // Those that meet one before them are new.
            let mut is_new = vec![false; count];
            for b in 0..count {
                is_new[hierarchy.face(b).index()] = (0..b).any(|a| !is_new[hierarchy.face(a).index()] && meet(a, b));
            }
            let new = |triangle: usize| is_new[hierarchy.face(triangle).index()];
            let found = Contacts::of_new(&hierarchy, &is_new, |_| None);
            for a in 0..count {
                let expected = (0..count).any(|b| b != a && (new(a) || new(b)) && meet(a, b));
                prop_assert_eq!(found.touches(hierarchy.face(a)), expected);
            }
        }
    }
}
