//! Uneven density: large faces beside small ones.

use crate::audit::Level::{Note, Off, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::parallel::chosen;

pub(super) const CHECK: Check = Check {
    name: "uneven-density",
    counts: "edges between faces of which one has over 20 times the area of the other",
    harm: "smoothing pulls them crooked, booleans leave needles, details end where large faces begin",
    remedy: Remedy::Remesh,
    drawing: r"
    *---------------*-*-*
    |               *-*-*
    |               *-*-*    one face beside sixteen
    |               *-*-*
    *---------------*-*-*",
    levels: Levels::new(Note, Warn, Off, Note),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let step = search.brief.thresholds.area_step;
    let (mesh, edges) = (analysis.mesh, &analysis.edges);
    let uneven = |&edge: &crate::mesh::EdgeId| {
        let &[a, b] = edges.sides(edge) else {
            return false;
        };
        if analysis.has_no_area(a.face) || analysis.has_no_area(b.face) {
            return false;
        }
        let [a, b] = [a, b].map(|side| analysis.areas[side.face.index()]);
        a.max(b) > step * a.min(b)
    };
    let bad = edges.ids().filter(uneven).map(|e| edges.ends(e));
    let found = Found::edges(analysis, search.limit, bad);
    let mut lengths: Vec<f64> = chosen(edges.len(), 4096, |edge| {
        let [a, b] = edges.ends(crate::mesh::EdgeId::new(edge));
        Some(mesh.position(a).distance(mesh.position(b))).filter(|&length| length > 0.0)
    });
    Ok(match spread(&mut lengths) {
        Some(spread) => found.measured(
            "times from the shortest 5% of edges to the longest 5%",
            spread,
        ),
        None => found,
    })
}

/// The length that 95 in 100 don't exceed over that which 5 in 100 don't.
fn spread(lengths: &mut [f64]) -> Option<f64> {
    let last = lengths.len().checked_sub(1)?;
    let mut at = |share: usize| {
        let (_, value, _) = lengths.select_nth_unstable_by(last * share / 100, f64::total_cmp);
        *value
    };
    Some(at(95) / at(5))
}
