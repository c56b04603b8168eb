//! Duplicate vertices: several at one place, or nearly.

use crate::audit::Level::{Block, Warn};
use crate::audit::place::grouped;
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::mesh::VertexId;
use crate::spatial::near_weld;

pub(super) const CHECK: Check = Check {
    name: "duplicate-vertices",
    counts: "vertices that a weld would remove: of equal positions, or within a distance that is given",
    harm: "the surface only looks joined: it splits when smoothed, sculpted or reduced",
    remedy: Remedy::Mend,
    drawing: r"
    *-----o o-----*
    |     | |     |    two vertices where
    |     | |     |    one would do: a seam
    *-----o o-----*",
    levels: Levels::new(Warn, Warn, Block, Warn),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let near = match search.brief.thresholds.near {
        Some(near) => search.length(analysis, near)?,
        None => 0.0,
    };
    let joins = match near > 0.0 {
        true => &near_weld(analysis.mesh.positions(), near),
        false => &analysis.first_at_place,
    };
    let unusable = &analysis.model.unusable;
    let has_place = |v: VertexId| !unusable.has(v);
    let joined = |v: &VertexId| {
        let with = joins[v.index()];
        with != *v && has_place(*v) && has_place(with)
    };
    let bad: Vec<VertexId> = analysis.mesh.vertex_ids().filter(joined).collect();
    // A seam is one place: its vertices are put together along the edges between them.
    let ends = |v: VertexId, see: &mut dyn FnMut(VertexId)| see(v);
    let mut number = vec![u32::MAX; analysis.mesh.vertex_count()];
    for (i, v) in bad.iter().enumerate() {
        number[v.index()] = i as u32;
    }
    let listed = |v: VertexId| Some(number[v.index()] as usize).filter(|&i| i < bad.len());
    let links: Vec<(usize, usize)> = match bad.is_empty() {
        true => Vec::new(),
        false => analysis
            .edges
            .ids()
            .filter_map(|e| {
                let [a, b] = analysis.edges.ends(e);
                Some((listed(a)?, listed(b)?))
            })
            .collect(),
    };
    let groups = grouped(analysis, &bad, ends, links.into_iter());
    Ok(Found::vertex_groups(analysis, search.limit, groups))
}
