//! Thin triangles: taken out without leaving a hole.
//!
//! ```text
//! needle (a ≈ b)       ─▶ a and b become one vertex
//! cap (c on side a-b)  ─▶ the neighbour across a-b takes c into its own side
//! no neighbour         ─▶ dropped, if it has no area
//! a side that is nothing beside the model ─▶ its ends become one vertex
//! ```
//!
//! Each round treats faces that don't touch one another. A face whose treatment would put two
//! faces on one edge side (link condition, Dey et al. 1999) is left. Where faces have area, so
//! is one whose treatment would turn a face over, move a border or make a thinner triangle.
//! Cost: linear in faces for each round.

mod treatment;

use crate::mesh::{FaceId, Mesh, Model, Rebuild, VertexId};
use crate::parallel::chosen;
use rustc_hash::{FxHashMap, FxHashSet};
use treatment::{Surroundings, Treatment};

/// What is thin, and what may be done about it.
pub(super) struct Thin<'a> {
    /// Which faces are to be taken out.
    pub is_bad: &'a (dyn Fn(&Mesh, FaceId) -> bool + Sync),
    /// A needle's short side is at most this share of its long one.
    pub needle: f64,
    /// Whether the faces have area, so that what their neighbours become must be looked at.
    pub careful: bool,
    /// What has at most the square of this length as area is bad, and the ends of a side of up to twice this
    /// length become one: no side of a triangle of this area is longer, unless it is thin.
    pub tiny: f64,
    /// What to call faces dropped, collapsed, and flipped.
    pub names: [&'static str; 3],
}

/// How many were dealt with, by what was done.
pub(super) type Done = FxHashMap<&'static str, usize>;

/// What is to be done in one round.
#[derive(Default)]
struct Plan {
    dropped: FxHashSet<FaceId>,
    /// Faces that take a corner (of another face) in after one of their own corners.
    takes: FxHashMap<FaceId, (usize, usize)>,
    joins: Vec<(VertexId, VertexId)>,
    touched: FxHashSet<VertexId>,
}

impl Thin<'_> {
    /// The triangles that are to be taken out.
    pub fn bad(&self, mesh: &Mesh) -> Vec<FaceId> {
        let is_triangle = |f: FaceId| mesh.face(f).len() == 3 && !mesh.is_collapsed(f);
        chosen(mesh.face_count(), 4096, |face| {
            let face = FaceId::new(face);
            (is_triangle(face) && (self.is_bad)(mesh, face)).then_some(face)
        })
    }
}

/// Treats those of some bad triangles that don't touch each other; returns whether anything changed,
/// and how many could not be treated.
pub(super) fn one_round(
    model: &mut Model,
    thin: &Thin<'_>,
    bad: &[FaceId],
    done: &mut Done,
) -> (bool, usize) {
    let mesh = &model.mesh;
    if bad.is_empty() {
        return (false, 0);
    }
    let surroundings = Surroundings::of(mesh, bad);
    let mut plan = Plan::default();
    let mut counts = [0usize; 3];
    let mut left = 0;
    for &face in bad {
        if !thin.careful && surroundings.is_alone(face) {
            plan.dropped.insert(face);
            counts[0] += 1;
            continue;
        }
        let ring = surroundings.ring(face);
        if ring.iter().any(|v| plan.touched.contains(v)) {
            continue;
        }
        match surroundings.treatment(face, thin) {
            Some(Treatment::Drop) => {
                plan.dropped.insert(face);
                counts[0] += 1;
            }
            Some(Treatment::Join { stays, goes }) => {
                plan.joins.push((stays, goes));
                counts[1] += 1;
            }
            Some(Treatment::Give { to, after, corner }) => {
                plan.dropped.insert(face);
                plan.takes.insert(to, (after, corner));
                counts[2] += 1;
            }
            None => {
                left += 1;
                continue;
            }
        }
        plan.touched.extend(ring);
    }
    if counts == [0; 3] {
        return (false, left);
    }
    for (name, count) in thin.names.into_iter().zip(counts) {
        *done.entry(name).or_default() += count;
    }
    *model = carried_out(model, &plan);
    (true, left)
}

fn carried_out(model: &Model, plan: &Plan) -> Model {
    let mut rebuild = Rebuild::new(model);
    for face in model.mesh.face_ids() {
        if plan.dropped.contains(&face) {
            continue;
        }
        let Some(&(after, taken)) = plan.takes.get(&face) else {
            rebuild.keep(face);
            continue;
        };
        let range = model.mesh.face_range(face);
        let count = range.len();
        let next = model.mesh.next_corner(face, after);
        if count == 3 {
            let far = range
                .clone()
                .find(|&corner| corner != after && corner != next)
                .expect("a triangle has a third corner");
            rebuild.piece(face, [after, taken, far].into_iter());
            rebuild.piece(face, [taken, next, far].into_iter());
        } else {
            let split = after + 1 - range.start;
            let before = range.clone().take(split);
            let behind = range.skip(split);
            rebuild.piece(face, before.chain([taken]).chain(behind));
        }
    }
    let mut result = rebuild.finish();
    if !plan.joins.is_empty() {
        let mut first: Vec<VertexId> = result.mesh.vertex_ids().collect();
        for &(stays, goes) in &plan.joins {
            // The lower name is kept, at the place of the one that stays.
            let (low, high) = (stays.min(goes), stays.max(goes));
            first[high.index()] = low;
            result.mesh.positions_mut()[low.index()] = model.mesh.position(stays);
            if let Some(colors) = &mut result.attributes.colors {
                colors[low.index()] = colors[stays.index()];
            }
        }
        let count = crate::spatial::numbered_by_first(&mut first);
        result.rename_vertices(&first, count);
    }
    result
}
