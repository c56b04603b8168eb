//! Whose vertices are, when a linked mesh is edited in many places at once.

use super::LinkedMesh;

/// The owner of a vertex that several lists have.
pub const SHARED: u32 = u32::MAX - 1;
/// The owner of a vertex that none has.
pub const NOBODY: u32 = u32::MAX;

/// For every vertex, the list of triangles that alone has it, by its number: what may be edited
/// without the others knowing. Else [`SHARED`] or [`NOBODY`].
pub fn owners(net: &LinkedMesh, lists: &[Vec<u32>]) -> Vec<u32> {
    let mut owner = vec![NOBODY; net.positions.len()];
    for (name, list) in lists.iter().enumerate() {
        for vertex in list.iter().filter_map(|&t| net.triangle(t)).flatten() {
            let owner = &mut owner[vertex as usize];
            *owner = match *owner {
                NOBODY => name as u32,
                own if own == name as u32 => own,
                _ => SHARED,
            };
        }
    }
    owner
}
