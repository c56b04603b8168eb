//! Non-manifold edges and pinched vertices: sheets that hang together are taken apart by
//! giving each its own vertices (Guéziec, Taubin, Lazarus & Horn 2001).
//!
//! Round an edge with many sides, faces that belong together are found by what they are joined
//! to elsewhere and by geometry: first sides of one sheet are paired, then those of sheets
//! without open edges, then the rest. Sorted by angle, a side after which solid begins is
//! paired with the next after which it ends, like brackets. So closed solids that touch along
//! an edge come apart into closed solids, and a fin comes off whole. Corners are joined across pairs and across ordinary edges; round every
//! vertex each set of joined corners but the first gets a vertex of its own. Where both ends of an
//! edge hold the pairs together by other faces, each pair gets a point of its own in the middle.
//!
//! An edge with a side that finds no partner is left, unless opening edges is allowed.
//! Cost: near-linear in corners.

use super::{Cure, Step};
use crate::mesh::{EdgeId, FaceId, Mesh, Model, Rebuild, VertexId};
use crate::topology::{Edges, Fans, Side, UnionFind, counted, join_across};
use crate::triangulate::polygon;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

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
    /// Where every side finds a partner.
    Pairs,
    /// Also where that leaves sides open.
    Whole,
}

/// Takes sheets apart along edges, as far as asked for each.
pub(super) fn take_apart(model: &mut Model, gap: f64, how: impl Fn(EdgeId) -> Apart) -> Step {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
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
        let mut pairs = None;
        if how(edge) != Apart::Not {
            let sheets = sheets.get_or_insert_with(|| Sheets::of(mesh, &edges));
            let found = paired(mesh, &edges, edge, sheets);
            let is_whole = 2 * found.len() == sides.len();
            odd_edges += usize::from(!is_whole && how(edge) == Apart::Pairs);
            pairs = (is_whole || how(edge) == Apart::Whole).then_some(found);
        }
        match pairs {
            Some(pairs) => {
                for &(a, b) in &pairs {
                    join_across(mesh, &mut sets, a, b);
                }
                for vertex in edges.ends(edge) {
                    cut_here[vertex.index()] = true;
                }
                apart.push(kept_together(sides, pairs));
            }
            None => join_all(mesh, &mut sets, sides),
        }
    }
    let mut step = Step {
        left: (odd_edges > 0).then_some((
            odd_edges,
            "non-manifold {edge|edges} left: {it has|they have} an odd number of sides, and to take \
             {it|them} apart would open edges; --also nonmanifold-edges does",
        )),
        ..Step::default()
    };
    if apart.is_empty() {
        return step;
    }
    let mut fans = counted(mesh, &edges, sets);
    let middles = held_together(mesh, &mut fans, &apart);
    let points: FxHashSet<usize> = middles.values().copied().collect();
    let cut = (&cut_here[..], &middles);
    *model = with_own_vertices(model, &edges, &mut fans, cut, gap);
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
    let cut = (&cut_here[..], &FxHashMap::default());
    *model = with_own_vertices(model, &edges, &mut fans, cut, gap);
    Step::did("pinched {vertex|vertices} taken apart", pinched)
}

fn join_all(mesh: &Mesh, sets: &mut UnionFind, sides: &[Side]) {
    for pair in sides.windows(2) {
        join_across(mesh, sets, pair[0], pair[1]);
    }
}

/// Two sides that stay together, or one by itself.
type Kept = (Side, Option<Side>);

/// The pairs among the sides of an edge, and those that have no partner.
fn kept_together(sides: &[Side], pairs: Vec<(Side, Side)>) -> Vec<Kept> {
    let is_paired = |side: &Side| {
        let mut ends = pairs.iter().flat_map(|(one, two)| [one, two]);
        ends.any(|paired| paired.corner() == side.corner())
    };
    let alone: Vec<Side> = sides
        .iter()
        .copied()
        .filter(|side| !is_paired(side))
        .collect();
    let pairs = pairs.into_iter().map(|(one, two)| (one, Some(two)));
    pairs
        .chain(alone.into_iter().map(|side| (side, None)))
        .collect()
}

/// The sides, by their corner, of pairs that get a point of their own in the middle of their edge,
/// since both ends are shared with another pair's; with the number of the pair.
fn held_together(mesh: &Mesh, fans: &mut Fans, apart: &[Vec<Kept>]) -> FxHashMap<usize, usize> {
    let mut middles = FxHashMap::default();
    let mut count = 0;
    for pairs in apart {
        let mut ends = |side: &Side| {
            let corner = side.corner();
            let next = mesh.next_corner(side.face, corner);
            let mut roots = [corner, next].map(|corner| fans.root(corner));
            if !side.runs_up() {
                roots.swap(0, 1);
            }
            roots
        };
        let all: Vec<[usize; 2]> = pairs.iter().map(|(side, _)| ends(side)).collect();
        for (i, (one, other)) in pairs.iter().enumerate() {
            let mut others = all.iter().enumerate().filter(|(k, _)| *k != i);
            if others.any(|(_, roots)| *roots == all[i]) {
                middles.insert(one.corner(), count);
                if let Some(other) = other {
                    middles.insert(other.corner(), count);
                }
                count += 1;
            }
        }
    }
    middles
}

/// Gives each set of corners but the first, at the vertices of `cut_here`, a vertex of its own,
/// moved `gap` into its own faces; and sides that are named by their corner a point in the middle,
/// one for those of the same number.
pub(super) fn with_own_vertices(
    model: &Model,
    edges: &Edges,
    fans: &mut Fans,
    (cut_here, middles): (&[bool], &FxHashMap<usize, usize>),
    gap: f64,
) -> Model {
    let mesh = &model.mesh;
    let inward = sheet_middles(mesh, edges, fans, cut_here);
    let between = middle_points(mesh, middles, gap);
    let mut rebuild = Rebuild::new(model);
    let mut own: FxHashMap<usize, VertexId> = FxHashMap::default();
    let mut own_middle: FxHashMap<usize, VertexId> = FxHashMap::default();
    let mut first_taken = vec![false; mesh.vertex_count()];
    for face in mesh.face_ids() {
        let range = mesh.face_range(face);
        let mut corners = Vec::with_capacity(range.len());
        for corner in range.clone() {
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
            if let Some(&pair) = middles.get(&corner) {
                let next = mesh.next_corner(face, corner);
                let point = *own_middle
                    .entry(pair)
                    .or_insert_with(|| rebuild.new_vertex(between[pair], vertex));
                let blend = [(corner, 0.5), (next, 0.5)];
                corners.push((rebuild.blended(blend.into_iter()), point));
            }
        }
        if corners.len() == range.len() || range.len() > 4 {
            rebuild.moved_piece(face, corners.into_iter());
            continue;
        }
        let points: Vec<DVec3> = corners.iter().map(|c| rebuild.position(c.1)).collect();
        for triangle in polygon(&points) {
            rebuild.moved_piece(face, triangle.into_iter().map(|i| corners[i as usize]));
        }
    }
    rebuild.finish()
}

/// Where the points in the middle of edges go: `gap` into the faces of their own pair.
fn middle_points(mesh: &Mesh, middles: &FxHashMap<usize, usize>, gap: f64) -> Vec<DVec3> {
    let count = middles.values().max().map_or(0, |most| most + 1);
    let mut sums = vec![(DVec3::ZERO, DVec3::ZERO, 0.0); count];
    let owners = owners_of(mesh, middles.keys().copied());
    for (&corner, &pair) in middles {
        let face = owners[&corner];
        let next = mesh.next_corner(face, corner);
        let ends = [corner, next].map(|corner| mesh.position(mesh.corners()[corner]));
        sums[pair].0 += (ends[0] + ends[1]) / 2.0;
        sums[pair].1 += mesh.face_middle(face);
        sums[pair].2 += 1.0;
    }
    let point = |(at, into, count): (DVec3, DVec3, f64)| {
        let (at, into) = (at / count, into / count);
        at + (into - at).normalize_or_zero() * gap
    };
    sums.into_iter().map(point).collect()
}

/// Of which face each of some corners is.
fn owners_of(mesh: &Mesh, corners: impl Iterator<Item = usize>) -> FxHashMap<usize, FaceId> {
    let starts = mesh.starts();
    corners
        .map(|corner| {
            let face = starts.partition_point(|&start| start as usize <= corner) - 1;
            (corner, FaceId::new(face))
        })
        .collect()
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
            clear: vec!["duplicate-vertices".into()],
            near: Some(0.0),
            ..Options::default()
        };
        mend(&Model::from(mesh), &weld, &()).unwrap().model
    }

    fn apart(model: &Model, check: &str) -> Model {
        let options = Options {
            clear: vec![check.into()],
            may_open: true,
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
