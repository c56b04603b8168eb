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
//! Triangles and quads become triangles, n-gons take the vertices in. Cost: near-linear in
//! faces.

use super::{Cure, Options, Step};
use crate::mesh::{EdgeId, FaceId, Model, Rebuild, VertexId};
use crate::spatial::TJunctions;
use crate::topology::Edges;
use crate::triangulate::polygon;
use glam::DVec3;
use rustc_hash::FxHashMap;

pub(super) const CURE: Cure = Cure {
    clears: &["open-edges"],
    safe: true,
    drops: false,
    apply: |model, options| Ok(apply(model, options)),
};

fn apply(model: &mut Model, options: &Options) -> Step {
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
    keep_those_that_close(&edges, &open, &mut splits);
    if splits.on.is_empty() {
        return Step::default();
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

/// Splits edges; returns how many faces that cut, too.
fn split(model: &Model, edges: &Edges, splits: &TJunctions) -> (Model, usize) {
    let mesh = &model.mesh;
    let mut touched: FxHashMap<FaceId, usize> = FxHashMap::default();
    for edge in splits.on.keys() {
        *touched.entry(edges.sides(*edge)[0].face).or_default() += 1;
    }
    let mut rebuild = Rebuild::new(model);
    for face in mesh.face_ids() {
        if !touched.contains_key(&face) {
            rebuild.keep(face);
            continue;
        }
        let range = mesh.face_range(face);
        let mut corners: Vec<(usize, VertexId)> = Vec::new();
        for corner in range.clone() {
            corners.push((corner, mesh.corners()[corner]));
            let next = mesh.next_corner(face, corner);
            let edge = edges.at_corner(corner).expect("a face with open edges");
            let Some(list) = splits.on.get(&edge) else {
                continue;
            };
            let up = edges.sides(edge)[0].runs_up();
            let mut on_side: Vec<(f64, VertexId)> = list.clone();
            if !up {
                on_side.reverse();
                on_side
                    .iter_mut()
                    .for_each(|(along, _)| *along = 1.0 - *along);
            }
            for (along, vertex) in on_side {
                let blend = [(corner, 1.0 - along), (next, along)];
                corners.push((rebuild.blended(blend.into_iter()), vertex));
            }
        }
        if range.len() > 4 {
            rebuild.moved_piece(face, corners.into_iter());
            continue;
        }
        let points: Vec<DVec3> = corners.iter().map(|&(_, v)| mesh.position(v)).collect();
        for triangle in polygon(&points) {
            rebuild.moved_piece(face, triangle.into_iter().map(|i| corners[i as usize]));
        }
    }
    (rebuild.finish(), touched.len())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::mend::{Options, mend};
    use crate::mesh::Mesh;
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
        #![proptest_config(ProptestConfig::with_cases(24))]
        #[test]
        fn grids_that_meet_are_stitched_whole(coarse in 1usize..7, fine in 1usize..7) {
            let model = box_of_two_grids(coarse, fine);
            let outcome = mend(&model, &Options::default(), &()).unwrap();
            let after = audit(&outcome.model, &audit::Options::default(), &());
            prop_assert!(after.mesh.watertight, "{:?}", outcome.changes);
            prop_assert!((after.mesh.volume - 27.0).abs() < 1e-9);
            prop_assert_eq!(after.count("zero-area-faces"), 0);
            prop_assert_eq!(after.count("intersecting-faces"), 0);
            let again = mend(&outcome.model, &Options::default(), &()).unwrap();
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
        let outcome = mend(&Model::from(mesh.clone()), &Options::default(), &()).unwrap();
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
        let after = mend(&model, &Options::default(), &()).unwrap().model;
        let uvs = after.attributes.uvs.as_ref().unwrap();
        for (corner, &vertex) in after.mesh.corners().iter().enumerate() {
            let wanted = after.mesh.position(vertex).truncate();
            assert!(uvs.at(corner).unwrap().distance(wanted) < 1e-12);
        }
    }
}
