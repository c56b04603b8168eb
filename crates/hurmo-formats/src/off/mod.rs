//! OFF: text with vertices, their colours, and polygons.
//!
//! ```text
//! COFF          what each vertex line holds: with C colours, with N normals, with ST UVs
//! 4 2 0         vertices, faces, edges (which nobody counts)
//! x y z r g b a
//! …
//! 3 0 1 2       corners, then perhaps the face's colour
//! ```

mod read;
mod write;

pub(crate) use read::{looks_like, read};
pub(crate) use write::write;

#[cfg(test)]
mod tests;
