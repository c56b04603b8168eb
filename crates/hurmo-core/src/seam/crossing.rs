//! Whether faces that were moved meet others.

use crate::mesh::{FaceId, Mesh};
use crate::spatial::{Contacts, TriangleHierarchy, exact_weld};

/// Those of some faces that meet others, where the others are known not to meet each other.
pub(super) fn faces_that_meet(mesh: &Mesh, is_new: &[bool]) -> Vec<FaceId> {
    let place = exact_weld(mesh.positions());
    let faces: Vec<FaceId> = mesh.face_ids().collect();
    let hierarchy = TriangleHierarchy::welded(mesh, &faces, |_| false, |v| place[v.index()]);
    let contacts = Contacts::of_new(&hierarchy, is_new, |_| None);
    let meets = |face: &FaceId| is_new[face.index()] && contacts.touches(*face);
    faces.into_iter().filter(meets).collect()
}
