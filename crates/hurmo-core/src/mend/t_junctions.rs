//! Stitching: open edges on which an open vertex of the other side lies (T-junctions) are split
//! there, so that both sides have the same edges.
//!
//! ```text
//!   *-------*             *-------*
//!   |       |             |  . `  |
//!   *-------*   becomes   *---*---*
//!   *---*---*             *---*---*      (the lower row and the upper share their vertices)
//!   |   |   |             |   |   |
//! ```
//!
//! An edge is split only if that closes one, and gives none a third side; how far a vertex may
//! lie off the edge is what single precision rounds, or what the weld was asked to reach.
//! Triangles and quads become triangles, n-gons take the vertices in. What would be cut into a
//! triangle without area, or along an edge that is there already, is left. Cost: near-linear in
//! faces.

use super::{Cure, MendOptions, Step};
use crate::geometry::vector_area_of;
use crate::mesh::{EdgeId, FaceId, Mesh, Model, Rebuild, VertexId, repeats_a_vertex};
use crate::spatial::TJunctions;
use crate::topology::Edges;
use crate::triangulate::polygon;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};
use std::collections::BTreeSet;

/// Triangles with less area, as a share of the square of the diagonal, are not made.
const NO_AREA: f64 = 1e-12;

pub(super) const CURE: Cure = Cure {
    clears: &["open-edges"],
    safe: true,
    drops: false,
    apply: |model, options| Ok(apply(model, options)),
};

fn apply(model: &mut Model, options: &MendOptions) -> Step {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let open: Vec<EdgeId> = edges
        .ids()
        .filter(|&edge| edges.sides(edge).len() == 1)
        .collect();
    if open.is_empty() {
        return Step::default();
    }
    let reach = TJunctions::rounding(mesh).max(options.near.unwrap_or(0.0));
    let mut splits = TJunctions::of(mesh, &edges, |vertex| vertex, reach);
    loop {
        keep_those_that_close(&edges, &open, &mut splits);
        if splits.on.is_empty() {
            return Step::default();
        }
        let unsound = cut_unsoundly(mesh, &edges, &splits);
        if unsound.is_empty() {
            break;
        }
        let stays = |edge: &EdgeId| !unsound.contains(&edges.sides(*edge)[0].face);
        splits.on.retain(|edge, _| stays(edge));
    }
    let stitched = splits.on.values().map(Vec::len).sum();
    let (result, cut) = split(model, &edges, &splits);
    *model = result;
    let mut step = Step::did("{T-junction|T-junctions} stitched", stitched);
    step.done.push(("{face|faces} cut for that", cut));
    step
}

/// Drops splits that close nothing, or would give an edge a third side.
fn keep_those_that_close(edges: &Edges, open: &[EdgeId], splits: &mut TJunctions) {
    loop {
        let sides = splits.sides_of_pieces(open);
        let kept = |edge: &EdgeId| {
            let mut closes = false;
            let sound = splits.pieces(*edge).all(|piece| {
                let taken = edges
                    .between(piece[0], piece[1])
                    .is_some_and(|e| edges.sides(e).len() > 1);
                closes |= sides[&piece] == 2;
                !taken && sides[&piece] <= 2
            });
            closes && sound
        };
        let kept: Vec<bool> = splits.on.keys().map(kept).collect();
        let mut of_edge = kept.iter();
        splits
            .on
            .retain(|_, _| *of_edge.next().expect("one for each"));
        if kept.iter().all(|&kept| kept) {
            return;
        }
    }
}

/// A corner of a face whose edges are split: one of its own, or a vertex on the side behind it.
#[derive(Clone, Copy)]
struct Corner {
    own: usize,
    vertex: VertexId,
    /// How far along towards the next of its own.
    along: f64,
}

/// The corners of a face with what its edges take in.
fn outline(mesh: &Mesh, edges: &Edges, splits: &TJunctions, face: FaceId) -> Vec<Corner> {
    let mut corners = Vec::new();
    for own in mesh.face_range(face) {
        corners.push(Corner {
            own,
            vertex: mesh.corners()[own],
            along: 0.0,
        });
        let on_edge = edges.at_corner(own).and_then(|edge| {
            let up = edges.sides(edge)[0].runs_up();
            splits.on.get(&edge).map(|list| (up, list))
        });
        let Some((up, list)) = on_edge else { continue };
        let mut on_side: Vec<Corner> = list
            .iter()
            .map(|&(along, vertex)| Corner {
                own,
                vertex,
                along: if up { along } else { 1.0 - along },
            })
            .collect();
        if !up {
            on_side.reverse();
        }
        corners.extend(on_side);
    }
    corners
}

/// The triangles of a face whose edges are split; none where it takes the vertices in as it is.
fn pieces(mesh: &Mesh, face: FaceId, outline: &[Corner]) -> Vec<[u32; 3]> {
    if mesh.face(face).len() > 4 {
        return Vec::new();
    }
    let points: Vec<DVec3> = outline.iter().map(|c| mesh.position(c.vertex)).collect();
    polygon(&points)
}

/// The faces whose edges are split.
fn touched(edges: &Edges, splits: &TJunctions) -> BTreeSet<FaceId> {
    let faces = splits.on.keys().map(|edge| edges.sides(*edge)[0].face);
    faces.collect()
}

/// The faces that would be cut wrongly: into a triangle that has no area or repeats a vertex, or
/// along an edge that is there already, or that another face would be cut along.
fn cut_unsoundly(mesh: &Mesh, edges: &Edges, splits: &TJunctions) -> FxHashSet<FaceId> {
    let diagonal = crate::measure::bounds(mesh).map_or(0.0, |bounds| bounds.diagonal());
    let mut unsound = FxHashSet::default();
    let mut cuts: FxHashMap<[VertexId; 2], FaceId> = FxHashMap::default();
    for face in touched(edges, splits) {
        let outline = outline(mesh, edges, splits, face);
        let count = outline.len();
        let vertices: Vec<VertexId> = outline.iter().map(|corner| corner.vertex).collect();
        if repeats_a_vertex(&vertices) {
            unsound.insert(face);
            continue;
        }
        for triangle in pieces(mesh, face, &outline) {
            let places = triangle.map(|i| mesh.position(vertices[i as usize]));
            if vector_area_of(places.into_iter()).length() <= NO_AREA * diagonal * diagonal {
                unsound.insert(face);
            }
            for (from, to) in [(0, 1), (1, 2), (2, 0)] {
                let [from, to] = [from, to].map(|i: usize| triangle[i] as usize);
                // Diagonals once: the triangle on their other side has them, too.
                if (from + 1) % count == to || (to + 1) % count == from || from > to {
                    continue;
                }
                let [a, b] = [from, to].map(|i| vertices[i]);
                let other = cuts.insert([a.min(b), a.max(b)], face);
                if edges.between(a, b).is_some() || other.is_some() {
                    unsound.insert(face);
                }
            }
        }
    }
    unsound
}

/// Splits edges; returns how many faces that cut, too.
fn split(model: &Model, edges: &Edges, splits: &TJunctions) -> (Model, usize) {
    let mesh = &model.mesh;
    let touched = touched(edges, splits);
    let mut rebuild = Rebuild::new(model);
    for face in mesh.face_ids() {
        if !touched.contains(&face) {
            rebuild.keep(face);
            continue;
        }
        let outline = outline(mesh, edges, splits, face);
        let made = |corner: &Corner| {
            let from = match corner.along > 0.0 {
                true => {
                    let next = mesh.next_corner(face, corner.own);
                    let blend = [(corner.own, 1.0 - corner.along), (next, corner.along)];
                    rebuild.blended(blend.into_iter())
                }
                false => corner.own,
            };
            (from, corner.vertex)
        };
        let corners: Vec<(usize, VertexId)> = outline.iter().map(made).collect();
        let pieces = pieces(mesh, face, &outline);
        if pieces.is_empty() {
            rebuild.moved_piece(face, corners.into_iter());
            continue;
        }
        for triangle in pieces {
            rebuild.moved_piece(face, triangle.into_iter().map(|i| corners[i as usize]));
        }
    }
    (rebuild.finish(), touched.len())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::mend::{MendOptions, mend};
    use crate::random_cases::cases;
    use crate::shapes;
    use proptest::prelude::*;

    /// A box whose front and back have other grids than the rest.
    fn box_of_two_grids(coarse: usize, fine: usize) -> Model {
        let mut mesh = Mesh::default();
        for (divisions, wanted) in [(coarse, false), (fine, true)] {
            let shape = shapes::cuboid(DVec3::ZERO, DVec3::splat(3.0), divisions);
            let base = mesh.vertex_count() as u32;
            shape.positions().iter().for_each(|&p| {
                mesh.push_vertex(p);
            });
            for (face, corners) in shape.faces() {
                let z = shape.face_middle(face).z;
                if ((z - 1.5).abs() > 1.5 - 1e-9) == wanted {
                    mesh.push_face(corners.iter().map(|v| VertexId(v.0 + base)));
                }
            }
        }
        Model::from(mesh)
    }

    proptest! {
        #![proptest_config(cases(24))]
        #[test]
        fn grids_that_meet_are_stitched_whole(coarse in 1usize..7, fine in 1usize..7) {
            let model = box_of_two_grids(coarse, fine);
            let outcome = mend(&model, &MendOptions::default(), &()).unwrap();
            let after = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
            prop_assert!(after.mesh.watertight, "{:?}", outcome.changes);
            prop_assert!((after.mesh.volume - 27.0).abs() < 1e-9);
            prop_assert_eq!(after.count("zero-area-faces"), 0);
            prop_assert_eq!(after.count("intersecting-faces"), 0);
            let again = mend(&outcome.model, &MendOptions::default(), &()).unwrap();
            prop_assert!(again.changes.is_empty(), "{:?}", again.changes);
        }
    }

    #[test]
    fn a_vertex_near_an_open_edge_that_would_close_nothing_splits_nothing() {
        let mut mesh = Mesh::default();
        let at = [
            (0., 0.),
            (4., 0.),
            (4., 1.),
            (0., 1.), // a long quad
            (2., 0.),
            (3., -2.),
            (1., -2.), // a triangle that touches its side with a corner
        ];
        for (x, y) in at {
            mesh.push_vertex(DVec3::new(x, y, 0.0));
        }
        mesh.push_face([0, 1, 2, 3].map(VertexId));
        mesh.push_face([4, 6, 5].map(VertexId));
        let outcome = mend(&Model::from(mesh.clone()), &MendOptions::default(), &()).unwrap();
        assert_eq!(outcome.model.mesh, mesh);
    }

    #[test]
    fn uvs_are_taken_in_between() {
        let mut model = box_of_two_grids(1, 2);
        let mesh = &model.mesh;
        let place = |v: VertexId| mesh.position(v).truncate();
        model.attributes.uvs = Some(crate::mesh::CornerLayer {
            values: mesh.vertex_ids().map(place).collect(),
            index: mesh.corners().iter().map(|v| v.0).collect(),
        });
        let after = mend(&model, &MendOptions::default(), &()).unwrap().model;
        let uvs = after.attributes.uvs.as_ref().unwrap();
        for (corner, &vertex) in after.mesh.corners().iter().enumerate() {
            let wanted = after.mesh.position(vertex).truncate();
            assert!(uvs.at(corner).unwrap().distance(wanted) < 1e-12);
        }
    }
}
