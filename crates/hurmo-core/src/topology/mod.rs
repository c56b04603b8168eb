//! How faces hang together: edges, parts, rims, and the fans round a vertex.

mod by_ends;
mod consistent;
mod edges;
mod faces_at;
mod fans;
mod link;
mod linked_mesh;
mod owners;
mod parts;
mod rims;
mod union_find;
mod zero_length;

pub(crate) use by_ends::{OnEdge, Sources, rows};
pub(crate) use consistent::Consistent;
pub use edges::{Edges, Side};
pub use faces_at::FacesAt;
pub use fans::{Fans, fans};
pub(crate) use fans::{counted, join_across};
pub use link::{Along, Marks, bares_a_double, may_collapse};
pub use linked_mesh::LinkedMesh;
pub(crate) use owners::{SHARED, owners};
pub use parts::{Part, Parts};
pub use rims::{Rim, Rims};
pub use union_find::{SharedSets, UnionFind};
pub(crate) use zero_length::{collapse_zero_length, joined_along_zero_length};
