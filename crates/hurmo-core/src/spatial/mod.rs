//! Where things are: welding by position, and closest points.

mod closest;
mod weld;

pub use closest::{Closest, TriangleTree};
pub use weld::{exact_weld, first_of_equal, near_weld, numbered_by_first};
