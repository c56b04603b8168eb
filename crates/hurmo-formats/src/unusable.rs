//! What readers do about coordinates that are no numbers.

use glam::DVec3;
use hurmo_core::VertexId;
use hurmo_core::mesh::Unusable;

/// Sets vertices without usable coordinates aside. `first` says where the first one stands; it is
/// the error if nothing usable is left.
pub(crate) fn set_aside<E>(
    (positions, corners, starts): (&mut [DVec3], &mut [VertexId], &[u32]),
    first: Option<E>,
    notes: &mut Vec<String>,
) -> Result<Unusable, E> {
    let Some(first) = first else {
        return Ok(Unusable::default());
    };
    let unusable = Unusable::set_aside(positions, corners, starts).ok_or(first)?;
    notes.extend(note(&unusable));
    Ok(unusable)
}

/// What a person should know of it.
fn note(unusable: &Unusable) -> Option<String> {
    let counted = |count: usize, one: &str, more: &str| match count {
        1 => format!("1 {one}"),
        _ => format!("{count} {more}"),
    };
    let vertices = counted(
        unusable.vertices.len(),
        "vertex has a coordinate",
        "vertices have coordinates",
    );
    let faces = counted(
        unusable.faces.len(),
        "face there covers nothing",
        "faces there cover nothing",
    );
    (!unusable.is_empty()).then(|| format!("{vertices} that can't be used; {faces}"))
}
