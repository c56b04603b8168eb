//! Triangles and pieces of them: what an arrangement leaves, all in one row.

use super::windings::Windings;
use super::{MayMeet, Solids};
use crate::arrange::Arrangement;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::parallel::{mapped, mapped_of};
use crate::predicates::on_one_line;
use crate::spatial::{Bounds32, Contacts, TriangleHierarchy, first_of_equal, overlap};
use glam::DVec3;
use rustc_hash::FxHashMap;
use smallvec::SmallVec;
use std::borrow::Cow;

/// The triangles of the solids' faces, by vertices of which there is one at each place.
pub(super) struct Fragments<'m> {
    pub hierarchy: TriangleHierarchy<'m>,
    /// Triangles of the hierarchy that stand for all on their vertices; none whose corners lie on one line.
    kept: Vec<u32>,
    /// The others on the same vertices, by place among `kept`, and whether they run the other way round.
    doubles: FxHashMap<u32, Vec<(u32, bool)>>,
    /// Places among `kept` of triangles whose faces meet others, or may.
    open: Vec<u32>,
    /// Triangles of the hierarchy whose corners lie on one line.
    flat: Vec<u32>,
    /// Of each face, the solid and its group.
    solid: Vec<u32>,
    group: Vec<u32>,
    sheet: Option<usize>,
    pub place: Vec<VertexId>,
}

const NONE: u32 = u32::MAX;

impl<'m> Fragments<'m> {
    /// `place` is the first vertex at each vertex's place.
    pub fn of(mesh: &'m Mesh, solids: &Solids<'_>, place: Vec<VertexId>) -> Self {
        let number = |face: FaceId| (solids.of)(face).map_or(NONE, |solid| solid as u32);
        let solid: Vec<u32> = mesh.face_ids().map(number).collect();
        let group = mesh.face_ids().map(|face| (solids.group)(face)).collect();
        let faces: Vec<FaceId> = mesh
            .face_ids()
            .filter(|&face| solid[face.index()] != NONE)
            .collect();
        let hierarchy = TriangleHierarchy::welded(mesh, &faces, |_| false, |v| place[v.index()]);
        let meets: Cow<'_, [bool]> = match solids.may_meet {
            MayMeet::Marked(marked) => marked.into(),
            MayMeet::WithMarked(marked) => {
                let contacts = Contacts::of_new(&hierarchy, marked, |_| None);
                contacts.into_touching().into()
            }
            MayMeet::Any => {
                let settled = vec![false; mesh.vertex_count()];
                let contacts = Contacts::of(&hierarchy, mesh.face_count(), &settled, |_| None);
                contacts.into_touching().into()
            }
        };
        let is_flat: Vec<bool> = mapped(hierarchy.len(), 1, |i| on_one_line(hierarchy.corners(i)));
        // Triangles on the same vertices have the same key; none has one with two vertices that are none.
        let first_alike = first_of_equal(hierarchy.len(), |i| match is_flat[i] {
            true => [i as u32, NONE, NONE],
            false => {
                let mut ids = hierarchy.vertices(i).map(|v| v.0);
                ids.sort_unstable();
                ids
            }
        });
        let mut firsts: Vec<u32> = Vec::with_capacity(hierarchy.len());
        let mut others: Vec<(u32, u32)> = Vec::new();
        for (i, &first) in first_alike.iter().enumerate().filter(|(i, _)| !is_flat[*i]) {
            match first as usize == i {
                true => firsts.push(first),
                false => others.push((first, i as u32)),
            }
        }
        let mut doubles: FxHashMap<u32, Vec<(u32, bool)>> = FxHashMap::default();
        for (first, other) in others {
            let at = firsts.partition_point(|&i| i < first) as u32;
            let turned = !same_way(&hierarchy, first as usize, other as usize);
            doubles.entry(at).or_default().push((other, turned));
        }
        let flat = (0..hierarchy.len() as u32)
            .filter(|&i| is_flat[i as usize])
            .collect();
        let touches = |at: &u32| {
            let face = hierarchy.face(firsts[*at as usize] as usize);
            meets[face.index()]
        };
        let open = (0..firsts.len() as u32).filter(touches).collect();
        Self {
            kept: firsts,
            doubles,
            open,
            flat,
            solid,
            group,
            sheet: solids.sheet,
            place,
            hierarchy,
        }
    }

    /// How many triangles are of faces that meet others.
    pub fn meeting(&self) -> usize {
        self.open.len()
    }

    /// Whether nothing is to be cut or left out: no triangle meets another, or has no area.
    pub fn is_settled(&self) -> bool {
        self.open.is_empty() && self.doubles.is_empty() && self.flat.is_empty()
    }

    /// Marks the faces, of this many, for which it is not settled.
    pub fn unsettled(&self, faces: usize) -> Vec<bool> {
        let open = self.open.iter().map(|&at| self.kept[at as usize]);
        let doubles = self.doubles.keys().flat_map(|&at| self.all_of(at));
        let doubles = doubles.map(|(triangle, _)| triangle);
        let mut unsettled = vec![false; faces];
        for triangle in open.chain(doubles).chain(self.flat.iter().copied()) {
            unsettled[self.hierarchy.face(triangle as usize).index()] = true;
        }
        unsettled
    }

    /// The corners of those triangles that stand for all.
    pub fn triangles(&self) -> Vec<[u32; 3]> {
        let corners = |&i: &u32| self.hierarchy.vertices(i as usize).map(|v| v.0);
        mapped_of(&self.kept, 1, corners)
    }

    pub fn arrange<'a>(&self, mesh: &'a Mesh, triangles: &'a [[u32; 3]]) -> Arrangement<'a> {
        Arrangement::of(mesh.positions(), triangles, &self.open)
    }

    /// All triangles of the hierarchy that one stands for, itself first, and whether they run the other
    /// way round.
    pub fn all_of(&self, kept: u32) -> impl Iterator<Item = (u32, bool)> {
        let others = self.doubles.get(&kept).into_iter().flatten().copied();
        std::iter::once((self.kept[kept as usize], false)).chain(others)
    }

    /// Those that stand for all on their vertices and may meet a box.
    pub fn kept_within(&self, bounds: Bounds32) -> Vec<u32> {
        let mut within = Vec::new();
        let kept_at = |triangle: usize| self.kept.binary_search(&(triangle as u32)).ok();
        self.hierarchy.tree().visit(
            |node| overlap(node, bounds),
            |triangle| within.extend(kept_at(triangle).map(|at| at as u32)),
        );
        within
    }

    /// The solid that a triangle of the hierarchy bounds.
    pub fn solid(&self, triangle: u32) -> usize {
        self.solid[self.hierarchy.face(triangle as usize).index()] as usize
    }

    /// Whether there is a sheet, of which alone pieces stay.
    pub fn has_sheet(&self) -> bool {
        self.sheet.is_some()
    }

    /// Whether a triangle of the hierarchy is of the sheet.
    pub fn is_sheet(&self, triangle: u32) -> bool {
        self.sheet == Some(self.solid(triangle))
    }

    /// The group of a triangle that stands for all on its vertices.
    pub fn group(&self, kept: u32) -> u32 {
        let triangle = self.kept[kept as usize] as usize;
        self.group[self.hierarchy.face(triangle).index()]
    }

    /// Whether a face bounds a solid.
    pub fn bounds_one(&self, face: FaceId) -> bool {
        self.solid[face.index()] != NONE
    }
}

fn same_way(hierarchy: &TriangleHierarchy<'_>, one: usize, other: usize) -> bool {
    let ([a, b, _], other) = (hierarchy.vertices(one), hierarchy.vertices(other));
    (0..3).any(|i| other[i] == a && other[(i + 1) % 3] == b)
}

/// Whole triangles and pieces in one row: first those that stand for all, then the pieces.
pub(super) struct All<'s, 'm> {
    pub fragments: &'s Fragments<'m>,
    whole: &'s [[u32; 3]],
    arrangement: &'s Arrangement<'s>,
}

/// Of which triangles of the hierarchy a fragment is, and whether they run the other way round.
pub(super) type Sources = SmallVec<[(u32, bool); 2]>;

impl<'s, 'm> All<'s, 'm> {
    pub fn of(
        fragments: &'s Fragments<'m>,
        whole: &'s [[u32; 3]],
        arrangement: &'s Arrangement<'s>,
    ) -> Self {
        Self {
            fragments,
            whole,
            arrangement,
        }
    }

    pub fn len(&self) -> usize {
        self.whole.len() + self.arrangement.pieces.len()
    }

    /// Whether a fragment is there: whole triangles that were cut are not.
    pub fn is_there(&self, fragment: u32) -> bool {
        let is_cut = self.arrangement.is_cut.get(fragment as usize);
        !is_cut.copied().unwrap_or(false)
    }

    /// Where a point is: a vertex, or one of those that the arrangement made.
    pub fn position(&self, point: u32, new_points: &[DVec3]) -> DVec3 {
        match (point as usize).checked_sub(self.fragments.hierarchy.vertex_count()) {
            None => self.fragments.hierarchy.position(VertexId(point)),
            Some(new) => new_points[new],
        }
    }

    /// No point has this number, or a higher one.
    pub fn point_count(&self) -> usize {
        self.fragments.hierarchy.vertex_count() + self.arrangement.new_point_count()
    }

    /// How many whole triangles there are, or were.
    pub fn whole(&self) -> usize {
        self.whole.len()
    }

    pub fn corners(&self, fragment: u32) -> [u32; 3] {
        match (fragment as usize).checked_sub(self.whole.len()) {
            None => self.whole[fragment as usize],
            Some(piece) => self.arrangement.pieces[piece].corners,
        }
    }

    /// The triangles that stand for all, of which a fragment is.
    pub fn kept(&self, fragment: u32) -> SmallVec<[(u32, bool); 2]> {
        match (fragment as usize).checked_sub(self.whole.len()) {
            None => SmallVec::from_slice(&[(fragment, false)]),
            Some(piece) => self.arrangement.pieces[piece].of.iter().copied().collect(),
        }
    }

    pub fn sources(&self, fragment: u32) -> Sources {
        let kept = self.kept(fragment).into_iter();
        kept.flat_map(|(kept, turned)| {
            let all = self.fragments.all_of(kept);
            all.map(move |(triangle, other)| (triangle, turned ^ other))
        })
        .collect()
    }

    /// The faces that a fragment is of, if it is whole.
    pub fn whole_faces(&self, fragment: u32) -> impl Iterator<Item = FaceId> {
        let is_whole = (fragment as usize) < self.whole.len();
        let kept = is_whole.then(|| self.fragments.all_of(fragment));
        let triangles = kept.into_iter().flatten();
        triangles.map(|(triangle, _)| self.fragments.hierarchy.face(triangle as usize))
    }

    /// Whether a fragment is of the sheet.
    pub fn is_sheet(&self, fragment: u32) -> bool {
        let mut sources = self.sources(fragment).into_iter();
        sources.any(|(triangle, _)| self.fragments.is_sheet(triangle))
    }

    /// Whether an edge in which two triangles cross runs along the cross product of their normals, from
    /// its first point to the second; `None` where double precision does not decide it.
    pub fn runs_along(&self, triangles: [u32; 2], edge: [u32; 2]) -> Option<bool> {
        self.arrangement.runs_along(triangles, edge)
    }

    /// Whether solids' winding numbers differ alike on both sides of two fragments.
    pub fn have_same_steps(&self, one: u32, other: u32) -> bool {
        match (self.only_solid(one), self.only_solid(other)) {
            (Some(one), Some(other)) => one == other,
            _ => self.steps(one) == self.steps(other),
        }
    }

    /// The solid of a fragment that is of one triangle and runs as that does.
    fn only_solid(&self, fragment: u32) -> Option<usize> {
        let kept = match (fragment as usize).checked_sub(self.whole.len()) {
            None => fragment,
            Some(piece) => match self.arrangement.pieces[piece].of[..] {
                [(kept, false)] => kept,
                _ => return None,
            },
        };
        let doubles = &self.fragments.doubles;
        let is_alone = doubles.is_empty() || !doubles.contains_key(&kept);
        let triangle = self.fragments.kept[kept as usize];
        (is_alone && !self.fragments.is_sheet(triangle)).then(|| self.fragments.solid(triangle))
    }

    /// By how much solids' winding numbers are higher behind a fragment than before it.
    pub fn steps(&self, fragment: u32) -> Windings {
        let mut steps = Windings::default();
        let sources = self.sources(fragment).into_iter();
        for (triangle, turned) in
            sources.filter(|(triangle, _)| !self.fragments.is_sheet(*triangle))
        {
            steps.add(self.fragments.solid(triangle), if turned { -1 } else { 1 });
        }
        steps
    }
}
