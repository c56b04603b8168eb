//! The check registry: one file a check, one line here.

mod duplicate_vertices;
mod floating_parts;
mod lamina_faces;
mod misoriented_edges;
mod ngons;
mod nonmanifold_edges;
mod open_edges;
mod pinched_vertices;
mod reversed_faces;
mod stray_vertices;
mod zero_area_faces;

pub(crate) use lamina_faces::doubles;
pub(crate) use zero_area_faces::is_zero_area;

use super::Check;

/// All checks, in the order in which they are reported.
pub const CHECKS: &[Check] = &[
    open_edges::CHECK,
    nonmanifold_edges::CHECK,
    pinched_vertices::CHECK,
    misoriented_edges::CHECK,
    reversed_faces::CHECK,
    lamina_faces::CHECK,
    zero_area_faces::CHECK,
    duplicate_vertices::CHECK,
    stray_vertices::CHECK,
    ngons::CHECK,
    floating_parts::CHECK,
];

/// The check of this name.
pub fn named(name: &str) -> Option<&'static Check> {
    CHECKS.iter().find(|check| check.name == name)
}
