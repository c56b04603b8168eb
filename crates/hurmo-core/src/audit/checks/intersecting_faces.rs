//! Intersecting faces: faces that cross or overlap.
//!
//! Decided exactly; see `spatial::contacts`. Faces without area take no part.

use crate::audit::Level::{Block, Off, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::mesh::FaceId;

pub(super) const CHECK: Check = Check {
    name: "intersecting-faces",
    counts: "faces that meet another away from a vertex or edge that they share",
    harm: "booleans and slicers go wrong where skins cross; baked light and cloth show it as spots",
    remedy: Remedy::MendByName,
    drawing: r"
          *
          |\
    *-----+-\-----*
     \    |  \   /     one face passes
      \   *   * /      through another
       \       /
        *-----*",
    levels: Levels::new(Warn, Warn, Off, Block),
    needs: Needs::Contacts,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let contacts = analysis.contacts().expect("prepared, as asked for");
    let bad = analysis.mesh.face_ids().filter(|&f| contacts.touches(f));
    let first = |face: FaceId| Some(contacts.first_in_chain(face));
    Ok(Found::linked_faces(analysis, search.limit, bad, first))
}
