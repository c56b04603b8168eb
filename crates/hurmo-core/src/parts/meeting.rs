//! Where two parts meet.

use super::only;
use crate::audit::{MeshAnalysis, Needs};
use crate::mesh::{FaceId, Model};
use crate::progress::Observer;
use crate::topology::Parts;

/// Why there is no place where two parts meet.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum MeetingError {
    /// A part is not there.
    #[error("there is no part P{0}; the model has {1}")]
    NoPart(usize, usize),
    /// They don't meet.
    #[error("P{0} and P{1} do not cross; nothing was written")]
    Apart(usize, usize),
}

/// The faces of two parts that meet others of the two, parts by number from 0.
///
/// # Errors
/// When a part is not there, or they do not meet.
pub fn where_meeting(
    model: &Model,
    [one, two]: [usize; 2],
    observer: &dyn Observer,
) -> Result<Vec<FaceId>, MeetingError> {
    let parts = Parts::of(&model.mesh);
    for part in [one, two] {
        if part >= parts.len() {
            return Err(MeetingError::NoPart(part + 1, parts.len()));
        }
    }
    let of_part = |face: FaceId| parts.of_face(&model.mesh, face).map(|part| part.index());
    let faces: Vec<FaceId> = model
        .mesh
        .face_ids()
        .filter(|&face| of_part(face).is_some_and(|part| part == one || part == two))
        .collect();
    let both = only(model, &faces);
    let mut analysis = MeshAnalysis::of(&both);
    analysis.prepare(Needs::Contacts, observer);
    let apart = MeetingError::Apart(one + 1, two + 1);
    let Some(contacts) = analysis
        .contacts()
        .filter(|contacts| !contacts.parts.is_empty())
    else {
        return Err(apart);
    };
    let meet = |i: &usize| contacts.touches(FaceId::new(*i));
    Ok((0..faces.len()).filter(meet).map(|i| faces[i]).collect())
}
