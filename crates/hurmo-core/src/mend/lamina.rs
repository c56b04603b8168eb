//! Lamina faces: of the faces on the same vertices, one stays, or none.
//!
//! ```text
//! sets of faces on the same vertices ─▶ clusters: sets of even number that share edges
//!      ─▶ of each cluster: all stay once, or none does: whichever leaves fewer odd edges
//!      ─▶ single sets change sides as long as that leaves fewer odd edges
//! ```
//!
//! On a closed surface every edge has an even number of sides. Of three faces on the same vertices
//! one stays, then, and of two none, where they close a pocket without room; but two where one is
//! the double of what the surface needs there leave one. A shell that is doubled as a whole, and
//! hangs on nothing else, keeps one copy, unless that is a scrap which would be left open. Of the faces of a set the one stays that runs against its
//! neighbours, and of several such the first in the file. Cost: near-linear in faces.

use super::removed::by_group;
use super::{Cure, MendError, MendOptions, Step};
use crate::audit::doubles;
use crate::measure::vector_area;
use crate::mesh::{EdgeId, FaceId, Mesh, Model, Rebuild};
use crate::topology::{Edges, UnionFind};
use rustc_hash::{FxHashMap, FxHashSet};

/// What hangs on nothing and has a smaller share of the area is a scrap: two faces of it that close
/// nothing in go, both.
const SCRAP: f64 = 0.01;

pub(super) const CURE: Cure = Cure {
    clears: &["lamina-faces"],
    safe: true,
    drops: false,
    apply,
};

fn apply(model: &mut Model, _options: &MendOptions) -> Result<Step, MendError> {
    let doubled = doubles(&model.mesh);
    if doubled.is_empty() {
        return Ok(Step::default());
    }
    let stays = Sets::of(&model.mesh, &doubled).chosen(&model.mesh);
    let tags = &model.attributes.tags;
    let of_other_tag = |set: &Chosen| {
        let kept = set.stays.unwrap_or(set.faces[0]);
        let others = set.faces.iter().filter(|&&face| face != kept);
        others
            .filter(|&&face| tags.of(face) != tags.of(kept))
            .count()
    };
    let differ = stays.iter().map(of_other_tag).sum();
    let cancelled = stays.iter().filter(|set| set.stays.is_none());
    let cancelled = cancelled.map(|set| set.faces.len()).sum();
    let gone: FxHashSet<FaceId> = stays
        .iter()
        .flat_map(|set| set.faces.iter().filter(|face| Some(**face) != set.stays))
        .copied()
        .collect();
    let removed = by_group(model, |face| gone.contains(&face));
    let mut rebuild = Rebuild::new(model);
    for face in model.mesh.face_ids().filter(|face| !gone.contains(face)) {
        rebuild.keep(face);
    }
    *model = rebuild.finish();
    let mut step = Step::did("lamina {face|faces} dropped", gone.len());
    step.done.push((
        "of those in pairs that lie back to back and close nothing in",
        cancelled,
    ));
    step.done.push((
        "of those of another group or material than the face that stays",
        differ,
    ));
    step.removed = removed;
    Ok(step)
}

/// Faces on the same vertices, by rising index, and the one of them that stays.
struct Chosen {
    faces: Vec<FaceId>,
    stays: Option<FaceId>,
}

/// The sets of faces on the same vertices.
struct Sets {
    edges: Edges,
    faces: Vec<Vec<FaceId>>,
    /// By edge of theirs, the sets there.
    at: FxHashMap<EdgeId, Vec<u32>>,
    /// By set, whether it keeps one of its faces.
    keeps: Vec<bool>,
}

impl Sets {
    fn of(mesh: &Mesh, doubled: &[[FaceId; 2]]) -> Self {
        let mut by_first: FxHashMap<FaceId, Vec<FaceId>> = FxHashMap::default();
        for &[double, first] in doubled {
            let set = by_first.entry(first).or_insert_with(|| vec![first]);
            set.push(double);
        }
        let mut faces: Vec<Vec<FaceId>> = by_first.into_values().collect();
        faces.sort_unstable();
        let edges = Edges::of(mesh);
        let mut at: FxHashMap<EdgeId, Vec<u32>> = FxHashMap::default();
        for (set, faces) in faces.iter().enumerate() {
            for edge in edges_of(mesh, &edges, faces[0]) {
                at.entry(edge).or_default().push(set as u32);
            }
        }
        Self {
            keeps: vec![true; faces.len()],
            edges,
            faces,
            at,
        }
    }

    fn is_even(&self, set: u32) -> bool {
        self.faces[set as usize].len().is_multiple_of(2)
    }

    /// How many sides an edge keeps besides those of sets of an even number.
    fn fixed_sides(&self, edge: EdgeId) -> usize {
        let sets = self.at.get(&edge).map_or(&[][..], |sets| sets);
        let in_sets: usize = sets.iter().map(|&set| self.faces[set as usize].len()).sum();
        let odd = sets.iter().filter(|&&set| !self.is_even(set)).count();
        self.edges.sides(edge).len().saturating_sub(in_sets) + odd
    }

    /// How many sides an edge keeps.
    fn sides(&self, edge: EdgeId) -> usize {
        let sets = self.at[&edge].iter();
        let even = sets.filter(|&&set| self.is_even(set) && self.keeps[set as usize]);
        self.fixed_sides(edge) + even.count()
    }

    /// How many more edges have an even number of sides where a set keeps a face than where it
    /// does not, all others as they are.
    fn gain_of_keeping(&self, mesh: &Mesh, set: u32) -> i64 {
        let kept = usize::from(self.keeps[set as usize]);
        let edges = edges_of(mesh, &self.edges, self.faces[set as usize][0]);
        edges
            .map(|edge| match (self.sides(edge) - kept).is_multiple_of(2) {
                true => -1,
                false => 1,
            })
            .sum()
    }

    fn chosen(mut self, mesh: &Mesh) -> Vec<Chosen> {
        self.choose_by_cluster(mesh);
        let mut waiting: Vec<u32> = (0..self.faces.len() as u32)
            .filter(|&set| self.is_even(set))
            .collect();
        // Every change leaves fewer odd edges, so that this ends.
        while let Some(set) = waiting.pop() {
            let gain = self.gain_of_keeping(mesh, set);
            let keeps = self.keeps[set as usize];
            if gain == 0 || (gain > 0) == keeps || self.hangs_on_nothing(mesh, set) {
                continue;
            }
            self.keeps[set as usize] = !keeps;
            for edge in edges_of(mesh, &self.edges, self.faces[set as usize][0]) {
                let beside = self.at[&edge].iter().copied();
                waiting.extend(beside.filter(|&other| other != set && self.is_even(other)));
            }
        }
        let sets = 0..self.faces.len();
        sets.map(|set| Chosen {
            stays: self.keeps[set].then(|| self.best_of(mesh, set)),
            faces: self.faces[set].clone(),
        })
        .collect()
    }

    /// Lets clusters of sets keep all of theirs, or none.
    fn choose_by_cluster(&mut self, mesh: &Mesh) {
        let mut clusters = UnionFind::new(self.faces.len());
        for sets in self.at.values() {
            let mut even = sets.iter().copied().filter(|&set| self.is_even(set));
            if let Some(first) = even.next() {
                even.for_each(|set| {
                    clusters.join(first, set);
                });
            }
        }
        // By cluster, how many edges are even where all stay and where none does, and whether it
        // hangs on anything.
        let mut counts: FxHashMap<u32, ([usize; 2], bool)> = FxHashMap::default();
        let mut areas: FxHashMap<u32, f64> = FxHashMap::default();
        for set in 0..self.faces.len() {
            let area = vector_area(mesh, self.faces[set][0]).length();
            *areas.entry(clusters.find(set as u32)).or_default() += area;
        }
        let scrap = SCRAP
            * mesh
                .face_ids()
                .map(|face| vector_area(mesh, face).length())
                .sum::<f64>();
        for (&edge, sets) in &self.at {
            let even = sets.iter().filter(|&&set| self.is_even(set));
            let (mut number, mut cluster) = (0, None);
            for &set in even {
                number += 1;
                cluster = Some(clusters.find(set));
            }
            let Some(cluster) = cluster else { continue };
            let fixed = self.fixed_sides(edge);
            let (even, hangs) = counts.entry(cluster).or_default();
            even[0] += usize::from((fixed + number).is_multiple_of(2));
            even[1] += usize::from(fixed.is_multiple_of(2));
            *hangs |= fixed > 0;
        }
        for set in 0..self.faces.len() as u32 {
            if self.is_even(set) {
                let cluster = clusters.find(set);
                let (even, hangs) = counts[&cluster];
                let is_pane = !hangs && areas[&cluster] > scrap;
                self.keeps[set as usize] = is_pane || even[0] >= even[1];
            }
        }
    }

    /// Whether nothing but its own faces is on any of a set's edges.
    fn hangs_on_nothing(&self, mesh: &Mesh, set: u32) -> bool {
        let faces = &self.faces[set as usize];
        let mut edges = edges_of(mesh, &self.edges, faces[0]);
        edges.all(|edge| self.edges.sides(edge).len() == faces.len())
    }

    /// Which face of a set runs against most of its neighbours.
    fn best_of(&self, mesh: &Mesh, set: usize) -> FaceId {
        let faces = &self.faces[set];
        let against = |face: FaceId| -> i64 {
            let corners = mesh.face_range(face);
            let fits = corners.filter_map(|corner| {
                let edge = self.edges.at_corner(corner)?;
                let sides = self.edges.sides(edge);
                let own = sides.iter().find(|side| side.corner() == corner)?;
                let others = sides.iter().filter(|side| !faces.contains(&side.face));
                let fits = others.map(|side| match side.runs_up() == own.runs_up() {
                    true => -1,
                    false => 1,
                });
                Some(fits.sum::<i64>())
            });
            fits.sum()
        };
        let first = faces[0];
        let better = faces.iter().map(|&face| (against(face), face));
        better
            .fold((against(first), first), |best, next| {
                if next.0 > best.0 { next } else { best }
            })
            .1
    }
}

fn edges_of<'e>(
    mesh: &Mesh,
    edges: &'e Edges,
    face: FaceId,
) -> impl Iterator<Item = EdgeId> + use<'e> {
    mesh.face_range(face)
        .filter_map(|corner| edges.at_corner(corner))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::mend::mend;
    use crate::mesh::VertexId;
    use crate::shapes;

    fn with(mesh: &Mesh, more: impl Iterator<Item = Vec<VertexId>>) -> audit::Audit {
        let mut mesh = mesh.clone();
        more.for_each(|face| {
            mesh.push_face(face);
        });
        let mended = mend(&Model::from(mesh), &MendOptions::default(), &()).unwrap();
        audit(&mended.model, &audit::AuditOptions::default(), &()).unwrap()
    }

    fn turned(face: &[VertexId]) -> Vec<VertexId> {
        face.iter().rev().copied().collect()
    }

    #[test]
    fn doubles_of_a_closed_surface_leave_it_closed() {
        let ball = shapes::sphere(1.0, 2);
        let few: Vec<Vec<VertexId>> = ball.faces().take(9).map(|(_, f)| f.to_vec()).collect();
        let pairs = few.iter().flat_map(|face| [face.clone(), turned(face)]);
        let cases = [
            // Some once more, either way; a pair of them; all of them, either way.
            few.clone(),
            few.iter().map(|face| turned(face)).collect(),
            pairs.collect(),
            ball.faces().map(|(_, f)| f.to_vec()).collect(),
            ball.faces().map(|(_, f)| turned(f)).collect(),
        ];
        for more in cases {
            let after = with(&ball, more.into_iter());
            assert!(after.mesh.watertight);
            assert_eq!(after.mesh.faces, ball.face_count());
            assert_eq!(after.count("reversed-faces"), 0);
        }
    }

    #[test]
    fn a_pocket_without_room_that_hangs_on_a_surface_goes_and_a_pane_by_itself_keeps_a_face() {
        let mut ball = shapes::sphere(1.0, 2);
        let [a, b] = [0, 1].map(|i| ball.face(FaceId(0))[i]);
        let tip = ball.push_vertex(glam::DVec3::splat(2.0));
        let pocket = [vec![a, b, tip], vec![b, a, tip]];
        let after = with(&ball, pocket.into_iter());
        assert!(after.mesh.watertight);
        assert_eq!(after.mesh.faces, ball.face_count());
        let pane = shapes::grid(3, 3, 1.0, 1.0);
        let back: Vec<_> = pane.faces().map(|(_, face)| turned(face)).collect();
        let after = with(&pane, back.into_iter());
        assert_eq!(after.mesh.faces, pane.face_count());
    }
}
