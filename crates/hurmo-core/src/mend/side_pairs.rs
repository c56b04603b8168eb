//! Which sides of an edge with many belong together.
//!
//! Faces that belong together are found by what they are joined to elsewhere and by geometry: first
//! sides of one sheet are paired, then those of sheets without open edges, then the rest. Sorted by
//! angle, a side after which solid begins is paired with the next after which it ends, like
//! brackets (Guéziec, Taubin, Lazarus & Horn 2001).

use crate::mesh::{EdgeId, Mesh};
use crate::topology::{Edges, Side, UnionFind};
use glam::DVec3;

/// Two sides that stay together, or one by itself.
pub(super) type Kept = (Side, Option<Side>);

/// The sides of an edge with many, as they stay together.
pub(super) struct Pairing {
    pub together: Vec<Kept>,
    /// Whether taking them apart opens nothing but fins: every side finds a partner, but for one
    /// at most, whose sheet is open elsewhere.
    pub keeps_closed: bool,
}

/// Faces joined through edges with two sides.
pub(super) struct Sheets {
    sets: UnionFind,
    /// For the lowest face of each, whether it has an open edge.
    is_open: Vec<bool>,
}

impl Sheets {
    pub fn of(mesh: &Mesh, edges: &Edges) -> Self {
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
pub(super) fn pairing(mesh: &Mesh, edges: &Edges, edge: EdgeId, sheets: &mut Sheets) -> Pairing {
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
    let mut is_fin = |sides: &[Side]| matches!(sides, [side] if sheets.is_open[sheets.sets.find(side.face.0) as usize]);
    let keeps_closed = is_fin(&last) || {
        pairs.extend(paired_by_angle(mesh, edges, edge, &last));
        2 * pairs.len() == edges.sides(edge).len()
    };
    Pairing {
        together: together(edges.sides(edge), &pairs),
        keeps_closed,
    }
}

/// The pairs among the sides of an edge, and those that have no partner.
fn together(sides: &[Side], pairs: &[(Side, Side)]) -> Vec<Kept> {
    let is_paired = |side: &&Side| {
        let mut ends = pairs.iter().flat_map(|(one, two)| [one, two]);
        ends.any(|paired| paired.corner() == side.corner())
    };
    let pairs_first = pairs.iter().map(|&(one, two)| (one, Some(two)));
    let alone = sides.iter().filter(|side| !is_paired(side));
    pairs_first.chain(alone.map(|&side| (side, None))).collect()
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
