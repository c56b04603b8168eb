//! No thickness: parts that are open sheets.

use crate::audit::Level::{Block, Note, Off};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::geometry::vector_area_of;
use crate::mesh::{Mesh, PartId, VertexId};
use crate::topology::{Edges, Rim, Rims};

/// How much of a part's area its rims span together, if it is a sheet: a flat one all of it, a
/// bowl half of it, a bust with an open base a tenth.
const SHEET: f64 = 0.2;

pub(super) const CHECK: Check = Check {
    name: "no-thickness",
    counts: "parts that are open sheets: their rims span over a fifth of their own area",
    harm: "a sheet has no volume: it can't be printed, and shows nothing from behind",
    remedy: Remedy::ByHand,
    drawing: r"
      _.-----._
    o'         'o    nothing below it:
                     the rim o spans the whole sheet",
    levels: Levels::new(Note, Note, Off, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let mut opening = vec![0.0; analysis.parts.len()];
    for (part, area) in openings(analysis) {
        opening[part.index()] += area;
    }
    let sheets = analysis
        .part_measures
        .iter()
        .filter(|m| m.area > 0.0 && opening[m.part.index()] > SHEET * m.area);
    let sheets: Vec<PartId> = sheets.map(|m| m.part).collect();
    Ok(Found::parts(analysis, search.limit, sheets.into_iter()))
}

/// The area that each rim spans, with the part it is in. Where vertices lie at one place they
/// are joined first, so that a seam is no rim.
fn openings(analysis: &MeshAnalysis<'_>) -> Vec<(PartId, f64)> {
    if analysis.rims.closed.is_empty() {
        return Vec::new();
    }
    let spans = |mesh: &Mesh, rims: &Rims, name: &dyn Fn(VertexId) -> VertexId| {
        let area =
            |rim: &Rim| vector_area_of(rim.vertices.iter().map(|&v| mesh.position(v))).length();
        let part = |rim: &Rim| analysis.parts.of_vertex(name(rim.vertices[0]));
        rims.closed
            .iter()
            .filter_map(|rim| Some((part(rim)?, area(rim))))
            .collect()
    };
    let joined = analysis
        .first_at_place
        .iter()
        .enumerate()
        .any(|(v, first)| first.index() != v);
    if !joined {
        return spans(analysis.mesh, &analysis.rims, &|v| v);
    }
    let corners = analysis
        .mesh
        .corners()
        .iter()
        .map(|v| analysis.first_at_place[v.index()]);
    let welded = Mesh::from_parts(
        analysis.mesh.positions().to_vec(),
        corners.collect(),
        analysis.mesh.starts().to_vec(),
    )
    .expect("a weld keeps faces and positions");
    let rims = Rims::of(&welded, &Edges::of(&welded));
    spans(&welded, &rims, &|v| v)
}
