//! Operations on scenes: nodes joined, instances written out, transforms applied, names made unique.
//! The data are [`crate::mesh::scene`]'s.

mod append;
mod applied;
mod emptied;
mod expand;
mod moved;
mod named;

pub use crate::mesh::scene::{
    Alpha, Image, ImageData, ImageId, Material, Node, NodeId, Rest, Scene, Shows, TextureUse,
};
pub use append::{Appended, Names};
pub use applied::Applied;
pub use moved::Origin;
pub use named::{Renamed, is_safe_name, safe_name};

#[cfg(test)]
mod cure_tests;
#[cfg(test)]
mod tests;
