//! Non-manifold edges and pinched vertices: sheets that hang together are taken apart by
//! giving each its own vertices (Guéziec, Taubin, Lazarus & Horn 2001).
//!
//! [`side_pairs`](super::side_pairs) says which sides of an edge with many belong together: closed solids
//! that touch along an edge come apart into closed solids, and a fin comes off whole. Corners are
//! joined across pairs and across ordinary edges; round every vertex each set of joined corners but
//! the first gets a vertex of its own ([`vertex_splits`](super::vertex_splits)).
//!
//! An edge is left where that would open a sheet that is closed, unless opening edges is allowed.
//! Cost: near-linear in corners.

use super::side_pairs::{Kept, Sheets, pairing as pairing_of};
use super::vertex_splits::{Cuts, held_together, with_own_vertices};
use super::{Cure, Step};
use crate::mesh::{EdgeId, Mesh, Model};
use crate::topology::{Edges, Side, UnionFind, counted, join_across};
use rustc_hash::{FxHashMap, FxHashSet};

/// Said of non-manifold edges that stay, since their sides do not pair off.
pub const ODD_SIDES: &str = "non-manifold {edge|edges} left: {it has|they have} an odd number of sides, \
     and to take {it|them} apart would open edges";

pub(super) const EDGES: Cure = Cure {
    clears: &["nonmanifold-edges"],
    safe: true,
    drops: false,
    apply: |model, options| {
        let how = match options.may_open {
            true => Apart::Whole,
            false => Apart::Pairs,
        };
        Ok(take_apart(model, options.gap, |_| how))
    },
};

pub(super) const VERTICES: Cure = Cure {
    clears: &["pinched-vertices"],
    safe: false,
    drops: false,
    apply: |model, options| Ok(take_pinched_apart(model, options.gap)),
};

/// How sheets are taken apart along an edge with three sides or more.
#[derive(Clone, Copy, PartialEq)]
pub(super) enum Apart {
    /// Not at all.
    Not,
    /// Where that opens no sheet that is closed.
    Pairs,
    /// Also where that opens one.
    Whole,
}

/// Takes sheets apart along edges, as far as asked for each.
pub(super) fn take_apart(model: &mut Model, gap: f64, how: impl Fn(EdgeId) -> Apart) -> Step {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    if edges.ids().all(|edge| edges.sides(edge).len() < 3) {
        return Step::default();
    }
    let mut sets = UnionFind::new(mesh.corners().len());
    let mut cut_here = vec![false; mesh.vertex_count()];
    let mut odd_edges = 0;
    let mut apart: Vec<Vec<Kept>> = Vec::new();
    let mut sheets = None;
    for edge in edges.ids() {
        let sides = edges.sides(edge);
        if let &[a, b] = sides {
            join_across(mesh, &mut sets, a, b);
        }
        if sides.len() < 3 {
            continue;
        }
        let mut pairing = None;
        if how(edge) != Apart::Not {
            let sheets = sheets.get_or_insert_with(|| Sheets::of(mesh, &edges));
            let found = pairing_of(mesh, &edges, edge, sheets);
            let may_go = found.keeps_closed || how(edge) == Apart::Whole;
            odd_edges += usize::from(!may_go);
            pairing = may_go.then_some(found.together);
        }
        match pairing {
            Some(together) => {
                for (one, other) in &together {
                    if let Some(other) = other {
                        join_across(mesh, &mut sets, *one, *other);
                    }
                }
                for vertex in edges.ends(edge) {
                    cut_here[vertex.index()] = true;
                }
                apart.push(together);
            }
            None => join_all(mesh, &mut sets, sides),
        }
    }
    let mut step = Step {
        left: (odd_edges > 0).then_some((odd_edges, ODD_SIDES)),
        ..Step::default()
    };
    if apart.is_empty() {
        return step;
    }
    let mut fans = counted(mesh, &edges, sets);
    let middles = held_together(mesh, &mut fans, &apart);
    let points: FxHashSet<usize> = middles.values().copied().collect();
    let alone = apart.iter().flatten().filter(|(_, other)| other.is_none());
    let alone: FxHashSet<usize> = alone.map(|(side, _)| side.corner()).collect();
    let cuts = Cuts {
        at: &cut_here,
        middles: &middles,
        alone: &alone,
    };
    *model = with_own_vertices(model, &edges, &mut fans, &cuts, gap);
    step.done = vec![
        ("non-manifold {edge|edges} taken apart", apart.len()),
        ("{point|points} put into edges for that", points.len()),
    ];
    step
}

/// Takes fans apart that share nothing but a vertex.
fn take_pinched_apart(model: &mut Model, gap: f64) -> Step {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let mut sets = UnionFind::new(mesh.corners().len());
    for edge in edges.ids() {
        join_all(mesh, &mut sets, edges.sides(edge));
    }
    let mut fans = counted(mesh, &edges, sets);
    let pinched = mesh.vertex_ids().filter(|&v| fans.is_pinched(v)).count();
    if pinched == 0 {
        return Step::default();
    }
    let cut_here = vec![true; mesh.vertex_count()];
    let cuts = Cuts {
        at: &cut_here,
        middles: &FxHashMap::default(),
        alone: &FxHashSet::default(),
    };
    *model = with_own_vertices(model, &edges, &mut fans, &cuts, gap);
    Step::did("pinched {vertex|vertices} taken apart", pinched)
}

fn join_all(mesh: &Mesh, sets: &mut UnionFind, sides: &[Side]) {
    for pair in sides.windows(2) {
        join_across(mesh, sets, pair[0], pair[1]);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::mend::{MendOptions, gap_for, mend};
    use crate::mesh::VertexId;
    use crate::shapes;
    use crate::spatial::exact_weld;
    use glam::DVec3;

    fn joined(shapes: &[Mesh]) -> Model {
        let mut mesh = Mesh::default();
        for shape in shapes {
            let base = mesh.vertex_count() as u32;
            for &position in shape.positions() {
                mesh.push_vertex(position);
            }
            for (_, face) in shape.faces() {
                mesh.push_face(face.iter().map(|v| VertexId(v.0 + base)));
            }
        }
        // Closed surfaces that touch are tied together only by a weld that is asked for.
        let weld = MendOptions {
            clear: vec!["duplicate-vertices".into()],
            near: Some(0.0),
            ..MendOptions::default()
        };
        mend(&Model::from(mesh), &weld, &()).unwrap().model
    }

    fn apart(model: &Model, check: &str) -> Model {
        let options = MendOptions {
            clear: vec![check.into()],
            may_open: true,
            ..MendOptions::default()
        };
        mend(model, &options, &()).unwrap().model
    }

    #[test]
    fn boxes_that_touch_along_an_edge_become_two_closed_boxes() {
        let model = joined(&[
            shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2),
            shapes::cuboid(DVec3::new(1.0, 1.0, 0.0), DVec3::new(2.0, 2.0, 1.0), 2),
        ]);
        let before = audit(&model, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!(before.count("nonmanifold-edges"), 2);
        assert_eq!(before.mesh.parts, 1);
        let after = audit(
            &apart(&model, "nonmanifold-edges"),
            &audit::AuditOptions::default(),
            &(),
        )
        .unwrap();
        assert!(after.mesh.watertight);
        assert_eq!(after.mesh.parts, 2);
        assert!((after.mesh.volume - 2.0).abs() < 1e-12);
    }

    /// Two blocks that touch along a ridge, with narrow slits beside it: each moves into itself. Along their
    /// flat faces they would go on touching, or cross.
    #[test]
    fn blocks_with_slits_beside_their_common_edge_do_not_cross() {
        let block = |up: f64| {
            let outline = [
                (-1.0, 1.0),
                (-1.0, 2e-4),
                (0.0, 0.0),
                (1.3, 3e-4),
                (1.3, 1.0),
            ];
            let points = [0.0, 2.0].into_iter().flat_map(|y| {
                let along = outline.into_iter();
                along.map(move |(x, z)| DVec3::new(x, y, z * up))
            });
            let mut mesh = Mesh::from_parts(points.collect(), vec![], vec![0]).unwrap();
            let mut face = |corners: &[usize]| {
                let corners = corners.iter().map(|&v| VertexId::new(v));
                match up > 0.0 {
                    true => mesh.push_face(corners.rev()),
                    false => mesh.push_face(corners),
                };
            };
            face(&[4, 3, 2, 1, 0]);
            face(&[5, 6, 7, 8, 9]);
            for i in 0..5 {
                let next = (i + 1) % 5;
                face(&[i, next, next + 5, i + 5]);
            }
            mesh
        };
        let model = joined(&[block(1.0), block(-1.0)]);
        let before = audit(&model, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!(before.count("nonmanifold-edges"), 1);
        assert_eq!(before.count("reversed-faces"), 0);
        let options = MendOptions {
            clear: vec!["nonmanifold-edges".into()],
            gap: 1e-5 * 3.6,
            ..MendOptions::default()
        };
        let apart = mend(&model, &options, &()).unwrap().model;
        let after = audit(&apart, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!((after.mesh.parts, after.count("nonmanifold-edges")), (2, 0));
        assert_eq!(after.count("intersecting-faces"), 0);
        assert!(after.mesh.volume > 0.0);
    }

    /// Far from the origin single precision is coarse: what comes apart must not fall together in a file.
    #[test]
    fn what_comes_apart_stays_apart_in_single_precision() {
        let far = DVec3::new(8000.0, 5600.0, -30_000.0);
        let model = joined(&[
            shapes::cuboid(far, far + DVec3::ONE, 2),
            shapes::cuboid(
                far + DVec3::new(1.0, 1.0, 0.0),
                far + DVec3::new(2.0, 2.0, 1.0),
                2,
            ),
        ]);
        let options = MendOptions {
            clear: vec!["nonmanifold-edges".into()],
            gap: gap_for(&model.mesh, true),
            ..MendOptions::default()
        };
        let mut apart = mend(&model, &options, &()).unwrap().model;
        apart.mesh.round_to_single();
        let first = exact_weld(apart.mesh.positions());
        let alone = first
            .iter()
            .enumerate()
            .filter(|(v, first)| first.index() == *v);
        assert_eq!(alone.count(), apart.mesh.vertex_count());
        assert!(gap_for(&model.mesh, false) < 1e-2 * gap_for(&model.mesh, true));
    }

    #[test]
    fn boxes_that_touch_at_a_corner_come_apart_there() {
        let model = joined(&[
            shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1),
            shapes::cuboid(DVec3::ONE, DVec3::splat(2.0), 1),
        ]);
        let before = audit(&model, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!(before.count("pinched-vertices"), 1);
        let after = audit(
            &apart(&model, "pinched-vertices"),
            &audit::AuditOptions::default(),
            &(),
        )
        .unwrap();
        assert_eq!(after.count("pinched-vertices"), 0);
        assert_eq!(after.mesh.vertices, 16);
    }

    #[test]
    fn a_fin_comes_off_and_a_wall_inside_stays() {
        let mut with_fin = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
        let [a, b] = [0, 1].map(|i| with_fin.face(crate::mesh::FaceId::new(0))[i]);
        let tip = with_fin.push_vertex(DVec3::splat(0.5));
        with_fin.push_face([a, b, tip]);
        let safe = mend(&Model::from(with_fin), &MendOptions::default(), &()).unwrap();
        let after = audit(&safe.model, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!(after.count("nonmanifold-edges"), 0);
        assert_eq!((after.count("open-edges"), after.mesh.parts), (3, 2));
        assert_eq!(safe.left, []);

        // The six faces of a box and one in between, on four of its edges.
        let mut with_wall = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
        let middle: Vec<VertexId> = with_wall
            .vertex_ids()
            .filter(|&v| with_wall.position(v).x == 0.5)
            .collect();
        let at = DVec3::splat(0.5);
        let centre = with_wall.push_vertex(at);
        let along = |v: VertexId| with_wall.position(v) - at;
        let mut round = middle.clone();
        round.sort_by(|&a, &b| {
            let angle = |v| along(v).z.atan2(along(v).y);
            angle(a).total_cmp(&angle(b))
        });
        for i in 0..round.len() {
            with_wall.push_face([round[i], round[(i + 1) % round.len()], centre]);
        }
        let safe = mend(&Model::from(with_wall), &MendOptions::default(), &()).unwrap();
        let after = audit(&safe.model, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!(
            (after.count("nonmanifold-edges"), after.count("open-edges")),
            (8, 0)
        );
        assert_eq!(safe.left.len(), 1);
    }
}
