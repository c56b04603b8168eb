//! Polygons with attributes, addressed by typed handles.

mod attributes;
mod ids;
mod model;
mod polygons;
mod rebuild;
pub mod scene;
mod unusable;

pub use attributes::{Attributes, CornerLayer, FaceTags, NO_VALUE, Tag};
pub use ids::{EdgeId, FaceId, PartId, RimId, VertexId};
pub use model::Model;
pub(crate) use polygons::repeats_a_vertex;
pub use polygons::{Mesh, MeshError, is_usable};

pub use rebuild::Rebuild;
pub use unusable::Unusable;
