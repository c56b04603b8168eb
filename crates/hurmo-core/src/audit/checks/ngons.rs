//! N-gons: faces of five or more sides.

use crate::audit::Level::{Block, Note, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};

pub(super) const CHECK: Check = Check {
    name: "ngons",
    counts: "faces of five or more sides",
    harm: "each program cuts them its own way; they shade and subdivide unevenly",
    remedy: Remedy::MendByName,
    drawing: r"
      *-----*
     /       \
    *         *    six sides
     \       /
      *-----*",
    levels: Levels::new(Note, Block, Warn, Note),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let bad = analysis.mesh.faces().filter(|(_, face)| face.len() >= 5);
    Ok(Found::faces(analysis, search.limit, bad.map(|(f, _)| f)))
}
