//! Zero-area faces: taken out without leaving a hole.
//!
//! ```text
//! repeats a vertex     ─▶ the repetition goes; what has three corners left stays a face
//! polygon              ─▶ cut into triangles
//! needle (a ≈ b)       ─▶ a and b become one vertex
//! cap (c on side a-b)  ─▶ the neighbour across a-b takes c into its own side
//! no neighbour         ─▶ dropped
//! ```
//!
//! Each round treats faces that don't touch one another, until nothing changes. A face whose
//! treatment would put two faces on one edge side (link condition, Dey et al. 1999) is left.
//! Cost: linear in faces for each round, of which there are at most ten.

use super::{Cure, MendError, Options, Step};
use crate::audit::is_zero_area;
use crate::mesh::{FaceId, Mesh, Model, Rebuild, VertexId, repeats_a_vertex};
use crate::topology::{Edges, Side};
use rustc_hash::{FxHashMap, FxHashSet};

pub(super) const CURE: Cure = Cure {
    clears: &["zero-area-faces"],
    safe: true,
    drops: false,
    apply,
};

/// A needle's short side is at most this share of its long one.
const NEEDLE: f64 = 1e-6;

fn apply(model: &mut Model, _options: &Options) -> Result<Step, MendError> {
    let mut done: FxHashMap<&'static str, usize> = FxHashMap::default();
    let mut left = 0;
    for _ in 0..10 {
        unrepeat(model, &mut done);
        cut_polygons(model, &mut done);
        let changed;
        (changed, left) = one_round(model, &mut done);
        if !changed {
            break;
        }
    }
    let mut done: Vec<_> = done.into_iter().collect();
    done.sort_unstable();
    Ok(Step {
        done,
        left: (left > 0).then_some((
            left,
            "zero-area faces left: taking them out would join surfaces that are apart",
        )),
        ..Step::default()
    })
}

fn diagonal(mesh: &Mesh) -> f64 {
    crate::measure::bounds(mesh).map_or(0.0, |bounds| bounds.diagonal())
}

/// Takes repeated corners out of faces, and faces without three corners out of the model.
fn unrepeat(model: &mut Model, done: &mut FxHashMap<&'static str, usize>) {
    if !model.mesh.face_ids().any(|f| model.mesh.is_collapsed(f)) {
        return;
    }
    let (mut dropped, mut mended) = (0, 0);
    let mut rebuild = Rebuild::new(model);
    for face in model.mesh.face_ids() {
        if !model.mesh.is_collapsed(face) {
            rebuild.keep(face);
            continue;
        }
        let mut corners: Vec<usize> = model.mesh.face_range(face).collect();
        let vertex = |corner: usize| model.mesh.corners()[corner];
        corners.dedup_by_key(|corner| vertex(*corner));
        if corners.len() > 1 && vertex(corners[0]) == vertex(corners[corners.len() - 1]) {
            corners.pop();
        }
        let vertices: Vec<VertexId> = corners.iter().map(|&c| vertex(c)).collect();
        if repeats_a_vertex(&vertices) {
            dropped += 1;
        } else {
            mended += 1;
            rebuild.piece(face, corners.into_iter());
        }
    }
    *model = rebuild.finish();
    *done.entry("faces without area dropped").or_default() += dropped;
    *done
        .entry("repeated corners taken out of faces")
        .or_default() += mended;
}

/// Cuts zero-area polygons into triangles, to be treated as such.
fn cut_polygons(model: &mut Model, done: &mut FxHashMap<&'static str, usize>) {
    let diagonal = diagonal(&model.mesh);
    let affected =
        |face: FaceId| model.mesh.face(face).len() > 3 && is_zero_area(&model.mesh, face, diagonal);
    let count = model.mesh.face_ids().filter(|&f| affected(f)).count();
    if count == 0 {
        return;
    }
    let mut rebuild = Rebuild::new(model);
    for face in model.mesh.face_ids() {
        if !affected(face) {
            rebuild.keep(face);
            continue;
        }
        let points: Vec<_> = model.mesh.face_points(face).collect();
        let first = model.mesh.face_range(face).start;
        for triangle in crate::triangulate::polygon(&points) {
            rebuild.piece(face, triangle.into_iter().map(|i| first + i as usize));
        }
    }
    *model = rebuild.finish();
    *done.entry("polygons without area cut up").or_default() += count;
}

/// What is to be done in one round.
#[derive(Default)]
struct Plan {
    dropped: FxHashSet<FaceId>,
    /// Faces that take a corner (of another face) in after one of their own corners.
    takes: FxHashMap<FaceId, (usize, usize)>,
    joins: Vec<(VertexId, VertexId)>,
    touched: FxHashSet<VertexId>,
}

/// Treats faces that don't touch each other; returns whether anything changed, and how many
/// faces were left.
fn one_round(model: &mut Model, done: &mut FxHashMap<&'static str, usize>) -> (bool, usize) {
    let mesh = &model.mesh;
    let diagonal = diagonal(mesh);
    let bad: Vec<FaceId> = mesh
        .face_ids()
        .filter(|&f| is_zero_area(mesh, f, diagonal) && !mesh.is_collapsed(f))
        .collect();
    if bad.is_empty() {
        return (false, 0);
    }
    let edges = Edges::of(mesh);
    let around = neighbours_of(mesh, &bad);
    let mut plan = Plan::default();
    let mut counts = [0usize; 3];
    let mut left = 0;
    for &face in &bad {
        let ring = mesh.face(face).iter().flat_map(|v| &around[v]);
        if ring.clone().any(|v| plan.touched.contains(v)) {
            continue;
        }
        match treatment(mesh, &edges, face, &around) {
            Some(Treatment::Drop) => {
                plan.dropped.insert(face);
                counts[0] += 1;
            }
            Some(Treatment::Join(stays, goes)) => {
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
    let names = [
        "faces without area dropped",
        "needle faces collapsed",
        "faces without area flipped into their neighbours",
    ];
    for (name, count) in names.into_iter().zip(counts) {
        *done.entry(name).or_default() += count;
    }
    *model = carried_out(model, &plan);
    (true, left)
}

enum Treatment {
    Drop,
    /// The second vertex becomes the first.
    Join(VertexId, VertexId),
    /// Face `to` takes `corner` in behind its corner `after`.
    Give {
        to: FaceId,
        after: usize,
        corner: usize,
    },
}

/// The vertices round each vertex of some faces, itself included.
fn neighbours_of(mesh: &Mesh, faces: &[FaceId]) -> FxHashMap<VertexId, FxHashSet<VertexId>> {
    let mut around: FxHashMap<VertexId, FxHashSet<VertexId>> = faces
        .iter()
        .flat_map(|&face| mesh.face(face))
        .map(|&v| (v, FxHashSet::from_iter([v])))
        .collect();
    for (_, corners) in mesh.faces() {
        for (i, vertex) in corners.iter().enumerate() {
            if let Some(set) = around.get_mut(vertex) {
                set.insert(corners[(i + 1) % corners.len()]);
                set.insert(corners[(i + corners.len() - 1) % corners.len()]);
            }
        }
    }
    around
}

fn treatment(
    mesh: &Mesh,
    edges: &Edges,
    face: FaceId,
    around: &FxHashMap<VertexId, FxHashSet<VertexId>>,
) -> Option<Treatment> {
    let first = mesh.face_range(face).start;
    let vertices = mesh.face(face);
    let edge_at = |i: usize| {
        edges
            .at_corner(first + i)
            .expect("the face repeats no vertex")
    };
    let length = |i: usize| {
        mesh.position(vertices[i])
            .distance(mesh.position(vertices[(i + 1) % 3]))
    };
    if (0..3).all(|i| edges.sides(edge_at(i)).len() != 2) {
        return Some(Treatment::Drop);
    }
    let longest = (0..3).max_by(|&i, &j| length(i).total_cmp(&length(j)))?;
    let shortest = (0..3).min_by(|&i, &j| length(i).total_cmp(&length(j)))?;
    if length(shortest) <= length(longest) * NEEDLE {
        let (a, b) = (vertices[shortest], vertices[(shortest + 1) % 3]);
        let shared = around[&a]
            .intersection(&around[&b])
            .filter(|&&v| v != a && v != b)
            .count();
        let sides = edges.sides(edge_at(shortest));
        let triangles = sides
            .iter()
            .filter(|s| mesh.face(s.face).len() == 3)
            .count();
        return (shared <= triangles).then_some(Treatment::Join(a.min(b), a.max(b)));
    }
    match edges.sides(edge_at(longest)) {
        [_] => Some(Treatment::Drop),
        &[one, two] => {
            let across: Side = if one.face == face { two } else { one };
            let apex_corner = first + (longest + 2) % 3;
            let apex = mesh.corners()[apex_corner];
            let others = mesh.face(across.face);
            // A triangle that takes the apex in becomes two, with a new edge to its far corner.
            let crossing = others.len() == 3
                && others
                    .iter()
                    .any(|&v| !vertices.contains(&v) && edges.between(v, apex).is_some());
            let same_way = edges.is_misoriented(edge_at(longest));
            (!crossing && !same_way && !others.contains(&apex)).then_some(Treatment::Give {
                to: across.face,
                after: across.corner(),
                corner: apex_corner,
            })
        }
        _ => None,
    }
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
        let next = if after + 1 == range.end {
            range.start
        } else {
            after + 1
        };
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
            first[goes.index()] = stays;
        }
        let count = crate::spatial::numbered_by_first(&mut first);
        result.rename_vertices(&first, count);
    }
    result
}
