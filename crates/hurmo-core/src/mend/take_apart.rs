//! Non-manifold edges and pinched vertices: sheets that hang together are taken apart by
//! giving each its own vertices (Guéziec, Taubin, Lazarus & Horn 2001).
//!
//! Round an edge with many sides, faces that belong together are found by what they are joined
//! to elsewhere and by geometry: first sides of one sheet are paired, then those of sheets
//! without open edges, then the rest. Sorted by angle, a side after which solid begins is
//! paired with the next after which it ends, like brackets. So closed solids that touch along
//! an edge come apart into closed solids, and a fin comes off whole. Corners are joined across pairs and across ordinary edges; round every
//! vertex each set of joined corners but the first gets a vertex of its own.
//! Cost: near-linear in corners.

use super::{Cure, Options, Step};
use crate::mesh::{EdgeId, Mesh, Model, Rebuild, VertexId};
use crate::topology::{Edges, Fans, Side, UnionFind, counted, join_across};
use glam::DVec3;
use rustc_hash::FxHashMap;

pub(super) const EDGES: Cure = Cure {
    clears: &["nonmanifold-edges"],
    safe: false,
    drops: false,
    apply: |model, options| Ok(take_apart(model, options, Where::NonmanifoldEdges)),
};

pub(super) const VERTICES: Cure = Cure {
    clears: &["pinched-vertices"],
    safe: false,
    drops: false,
    apply: |model, options| Ok(take_apart(model, options, Where::PinchedVertices)),
};

#[derive(Clone, Copy, PartialEq)]
enum Where {
    NonmanifoldEdges,
    PinchedVertices,
}

fn take_apart(model: &mut Model, options: &Options, at: Where) -> Step {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let mut sets = UnionFind::new(mesh.corners().len());
    let mut cut_here = vec![at == Where::PinchedVertices; mesh.vertex_count()];
    let mut bad_edges = 0;
    let mut sheets = Sheets::of(mesh, &edges);
    for edge in edges.ids() {
        match edges.sides(edge) {
            [_] => {}
            &[a, b] => join_across(mesh, &mut sets, a, b),
            sides if at == Where::PinchedVertices => {
                for pair in sides.windows(2) {
                    join_across(mesh, &mut sets, pair[0], pair[1]);
                }
            }
            _ => {
                bad_edges += 1;
                for (a, b) in paired(mesh, &edges, edge, &mut sheets) {
                    join_across(mesh, &mut sets, a, b);
                }
                for vertex in edges.ends(edge) {
                    cut_here[vertex.index()] = true;
                }
            }
        }
    }
    let mut fans = counted(mesh, &edges, sets);
    let wanted = |fans: &Fans, v: VertexId| cut_here[v.index()] && fans.is_pinched(v);
    let pinched = mesh.vertex_ids().filter(|&v| wanted(&fans, v)).count();
    if pinched == 0 {
        return match bad_edges {
            0 => Step::default(),
            left => Step {
                done: Vec::new(),
                left: Some((
                    left,
                    "non-manifold {edge|edges} left: {its|their} ends hold the sheets together",
                )),
                ..Step::default()
            },
        };
    }
    let result = with_own_vertices(model, &edges, &mut fans, &cut_here, options.gap);
    let mut step = Step::default();
    if at == Where::PinchedVertices {
        step.done
            .push(("pinched {vertex|vertices} taken apart", pinched));
    } else {
        let after = Edges::of(&result.mesh);
        let left = after.ids().filter(|&e| after.sides(e).len() > 2).count();
        step.done.push((
            "non-manifold {edge|edges} taken apart",
            bad_edges.max(left) - left,
        ));
        if left > 0 {
            step.left = Some((
                left,
                "non-manifold {edge|edges} left: {its|their} ends hold the sheets together",
            ));
        }
    }
    *model = result;
    step
}

/// Gives each set of corners but the first, at the vertices of `cut_here`, a vertex of its own,
/// moved `gap` into its own faces.
pub(super) fn with_own_vertices(
    model: &Model,
    edges: &Edges,
    fans: &mut Fans,
    cut_here: &[bool],
    gap: f64,
) -> Model {
    let mesh = &model.mesh;
    let inward = sheet_middles(mesh, edges, fans, cut_here);
    let mut rebuild = Rebuild::new(model);
    let mut own: FxHashMap<usize, VertexId> = FxHashMap::default();
    let mut first_taken = vec![false; mesh.vertex_count()];
    for face in mesh.face_ids() {
        let mut corners = Vec::with_capacity(mesh.face(face).len());
        for corner in mesh.face_range(face) {
            let vertex = mesh.corners()[corner];
            let apart = cut_here[vertex.index()]
                && fans.is_pinched(vertex)
                && edges.at_corner(corner).is_some();
            let new = if apart {
                let root = fans.root(corner);
                *own.entry(root).or_insert_with(|| {
                    if !std::mem::replace(&mut first_taken[vertex.index()], true) {
                        return vertex;
                    }
                    let at = mesh.position(vertex);
                    let step = (inward[&root] - at).normalize_or_zero() * gap;
                    rebuild.new_vertex(at + step, vertex)
                })
            } else {
                vertex
            };
            corners.push((corner, new));
        }
        rebuild.moved_piece(face, corners.into_iter());
    }
    rebuild.finish()
}

/// The middle of the faces of each sheet round the vertices that are cut.
fn sheet_middles(
    mesh: &Mesh,
    edges: &Edges,
    fans: &mut Fans,
    cut_here: &[bool],
) -> FxHashMap<usize, DVec3> {
    let mut sums: FxHashMap<usize, (DVec3, f64)> = FxHashMap::default();
    for face in mesh.face_ids() {
        for corner in mesh.face_range(face) {
            let vertex = mesh.corners()[corner];
            if cut_here[vertex.index()]
                && fans.is_pinched(vertex)
                && edges.at_corner(corner).is_some()
            {
                let sum = sums.entry(fans.root(corner)).or_default();
                sum.0 += mesh.face_middle(face);
                sum.1 += 1.0;
            }
        }
    }
    sums.into_iter()
        .map(|(root, (sum, count))| (root, sum / count))
        .collect()
}

/// Faces joined through edges with two sides.
struct Sheets {
    sets: UnionFind,
    /// For the lowest face of each, whether it has an open edge.
    is_open: Vec<bool>,
}

impl Sheets {
    fn of(mesh: &Mesh, edges: &Edges) -> Self {
        let mut sets = UnionFind::new(mesh.face_count());
        for edge in edges.ids() {
            if let [a, b] = edges.sides(edge) {
                sets.join(a.face.0, b.face.0);
            }
        }
        let mut is_open = vec![false; mesh.face_count()];
        for edge in edges.ids() {
            if let [side] = edges.sides(edge) {
                is_open[sets.find(side.face.0) as usize] = true;
            }
        }
        Self { sets, is_open }
    }
}

/// Pairs the sides of an edge with many: those of one sheet, then those of closed ones, then
/// the rest.
fn paired(mesh: &Mesh, edges: &Edges, edge: EdgeId, sheets: &mut Sheets) -> Vec<(Side, Side)> {
    let mut rest: Vec<(u32, Side)> = edges
        .sides(edge)
        .iter()
        .map(|&side| (sheets.sets.find(side.face.0), side))
        .collect();
    rest.sort_by_key(|(sheet, side)| (*sheet, side.corner()));
    let mut pairs = Vec::new();
    let mut pair_off = |sides: &[Side]| {
        let up = sides.iter().filter(|side| side.runs_up()).count();
        let even = 2 * up == sides.len();
        if even {
            pairs.extend(paired_by_angle(mesh, edges, edge, sides));
        }
        even
    };
    let mut alone: Vec<(u32, Side)> = Vec::new();
    for sheet in rest.chunk_by(|a, b| a.0 == b.0) {
        let sides: Vec<Side> = sheet.iter().map(|(_, side)| *side).collect();
        if !pair_off(&sides) {
            alone.extend(sheet);
        }
    }
    let is_closed = |(sheet, _): &&(u32, Side)| !sheets.is_open[*sheet as usize];
    let closed: Vec<Side> = alone.iter().filter(is_closed).map(|(_, s)| *s).collect();
    if !closed.is_empty() && pair_off(&closed) {
        alone.retain(|(sheet, _)| sheets.is_open[*sheet as usize]);
    }
    let last: Vec<Side> = alone.into_iter().map(|(_, side)| side).collect();
    pairs.extend(paired_by_angle(mesh, edges, edge, &last));
    pairs
}

/// Pairs the sides of an edge that enclose solid between them.
fn paired_by_angle(mesh: &Mesh, edges: &Edges, edge: EdgeId, sides: &[Side]) -> Vec<(Side, Side)> {
    let [low, high] = edges.ends(edge);
    let from = mesh.position(low);
    let axis = (mesh.position(high) - from).normalize_or_zero();
    let (u, v) = if axis == DVec3::ZERO {
        (DVec3::X, DVec3::Y)
    } else {
        let u = axis.any_orthonormal_vector();
        (u, axis.cross(u))
    };
    // Walking round the edge anticlockwise, solid ends behind a face whose side runs up.
    let mut sides: Vec<(f64, bool, Side)> = sides
        .iter()
        .map(|&side| {
            let up = side.runs_up();
            let area = crate::measure::vector_area(mesh, side.face);
            // Into the face, square to the edge.
            let across = area.cross(if up { axis } else { -axis });
            (across.dot(v).atan2(across.dot(u)), up, side)
        })
        .collect();
    sides.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
    let mut pairs = Vec::new();
    let mut waiting: Vec<Side> = Vec::new();
    let mut alone: Vec<Side> = Vec::new();
    for &(_, up, side) in &sides {
        match (up, waiting.pop()) {
            (true, Some(begin)) => pairs.push((begin, side)),
            (true, None) => alone.push(side),
            (false, last) => {
                waiting.extend(last);
                waiting.push(side);
            }
        }
    }
    // Solid that began last before the cut of the circle ends at the first side behind it.
    for side in alone {
        match waiting.pop() {
            Some(begin) => pairs.push((begin, side)),
            None => break,
        }
    }
    pairs
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::mend::{Options, mend};
    use crate::shapes;

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
        let weld = Options {
            near: Some(0.0),
            ..Options::default()
        };
        mend(&Model::from(mesh), &weld, &()).unwrap().model
    }

    fn apart(model: &Model, check: &str) -> Model {
        let options = Options {
            clear: vec![check.into()],
            ..Options::default()
        };
        mend(model, &options, &()).unwrap().model
    }

    #[test]
    fn boxes_that_touch_along_an_edge_become_two_closed_boxes() {
        let model = joined(&[
            shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2),
            shapes::cuboid(DVec3::new(1.0, 1.0, 0.0), DVec3::new(2.0, 2.0, 1.0), 2),
        ]);
        let before = audit(&model, &audit::Options::default(), &());
        assert_eq!(before.count("nonmanifold-edges"), 2);
        assert_eq!(before.mesh.parts, 1);
        let after = audit(
            &apart(&model, "nonmanifold-edges"),
            &audit::Options::default(),
            &(),
        );
        assert!(after.mesh.watertight);
        assert_eq!(after.mesh.parts, 2);
        assert!((after.mesh.volume - 2.0).abs() < 1e-12);
    }

    #[test]
    fn boxes_that_touch_at_a_corner_come_apart_there() {
        let model = joined(&[
            shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1),
            shapes::cuboid(DVec3::ONE, DVec3::splat(2.0), 1),
        ]);
        let before = audit(&model, &audit::Options::default(), &());
        assert_eq!(before.count("pinched-vertices"), 1);
        let after = audit(
            &apart(&model, "pinched-vertices"),
            &audit::Options::default(),
            &(),
        );
        assert_eq!(after.count("pinched-vertices"), 0);
        assert_eq!(after.mesh.vertices, 16);
    }
}
