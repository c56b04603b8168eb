//! Where things are: welding by position, closest points, what touches what, and what is inside.

mod border;
mod boxes;
mod capped;
mod closest;
mod contacts;
mod crowds;
mod enclosing;
mod four_boxes;
mod graded_caps;
mod height_fields;
mod line_tree;
mod normal_cones;
mod overlaps;
mod rays;
mod same_faces;
mod segments;
mod separated;
mod sides;
mod solid_angle;
mod t_junctions;
mod triangle_hierarchy;
mod weld;
mod winding;

pub use border::Border;
pub use boxes::{Bounds32, BoxTree, NOWHERE, Node, along_curve, overlap, rounded_outward};
pub use capped::Capped;
pub use closest::{
    Closest, InBox, On, TriangleTree, closest_and_where, closest_on_triangle, reaches_into,
};
pub use contacts::{Contacts, MOST_PAIRS_OF_PARTS, faces_meet};
pub use enclosing::Enclosing;
pub use four_boxes::Four;
pub use height_fields::height_fields;
pub use line_tree::LineTree;
pub use normal_cones::{Facings, round_directions};
pub use overlaps::overlapping_pairs;
pub use rays::{Crossing, crossings, times_inside};
pub use same_faces::{faces_not_in, has_most_of};
pub use segments::{are_nearer, to_segment};
pub use sides::SidesTally;
pub use solid_angle::solid_angle;
pub(crate) use t_junctions::TJunctions;
pub use triangle_hierarchy::TriangleHierarchy;
pub use weld::{exact_weld, first_of_equal, near_weld, numbered_by_first, position_key, welded};
pub use winding::{MOST_WORK, Sides, Winding};
