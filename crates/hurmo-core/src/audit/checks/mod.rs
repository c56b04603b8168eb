//! The check registry: one file a check, one line here.

mod concave_faces;
mod crossing_parts;
mod duplicate_vertices;
mod floating_parts;
mod handoff;
mod interior_faces;
mod intersecting_faces;
mod lamina_faces;
mod limits;
mod mirror_plane_faces;
mod misoriented_edges;
mod nested_parts;
mod ngons;
mod no_thickness;
mod non_planar_faces;
mod nonmanifold_edges;
mod normals;
mod open_edges;
mod overhangs;
mod pinched_vertices;
mod reversed_faces;
mod scene;
mod sliver_faces;
mod stray_edges;
mod stray_vertices;
mod thin_walls;
mod uneven_density;
mod unusable_vertices;
mod uvs;
mod zero_area_faces;
mod zero_length_edges;

pub(crate) use concave_faces::is_concave;
pub(crate) use interior_faces::interior;
pub(crate) use nested_parts::nested;
pub(crate) use non_planar_faces::is_bent;

pub(crate) use lamina_faces::doubles;
pub(crate) use sliver_faces::is_sliver;
pub(super) use uvs::textures;
pub(crate) use zero_area_faces::{is_zero_area, least_area};

use super::Check;

/// All checks, in the order in which they are reported.
pub static CHECKS: &[Check] = &[
    open_edges::CHECK,
    nonmanifold_edges::CHECK,
    pinched_vertices::CHECK,
    misoriented_edges::CHECK,
    reversed_faces::CHECK,
    lamina_faces::CHECK,
    zero_area_faces::CHECK,
    zero_length_edges::CHECK,
    duplicate_vertices::CHECK,
    unusable_vertices::CHECK,
    stray_vertices::CHECK,
    stray_edges::CHECK,
    intersecting_faces::CHECK,
    interior_faces::CHECK,
    crossing_parts::CHECK,
    nested_parts::CHECK,
    floating_parts::CHECK,
    no_thickness::CHECK,
    thin_walls::CHECK,
    overhangs::CHECK,
    mirror_plane_faces::CHECK,
    ngons::CHECK,
    concave_faces::CHECK,
    non_planar_faces::CHECK,
    sliver_faces::CHECK,
    uneven_density::CHECK,
    limits::TRIANGLES,
    limits::PARTS,
    limits::MATERIALS,
    limits::SIZE,
    limits::UNIT,
    handoff::UP_AXIS,
    handoff::SUSPICIOUS_SIZE,
    handoff::OFF_ORIGIN,
    scene::UNAPPLIED_TRANSFORMS,
    scene::MIRRORING_TRANSFORMS,
    scene::EMPTY_OBJECTS,
    scene::DUPLICATE_NAMES,
    scene::UNSAFE_NAMES,
    scene::UNUSED_MATERIALS,
    scene::MISSING_TEXTURES,
    scene::UNSAFE_TEXTURE_NAMES,
    scene::ABSOLUTE_TEXTURE_PATHS,
    scene::OVERSIZED_TEXTURES,
    scene::UNWANTED_ANIMATION,
    uvs::MISSING_UVS,
    uvs::ZERO_AREA_UVS,
    uvs::OVERLAPPING_UVS,
    uvs::MIRRORED_UVS,
    uvs::UVS_OUTSIDE_TILE,
    uvs::NONMANIFOLD_UVS,
    uvs::UNEVEN_TEXEL_DENSITY,
    normals::MISSING,
    normals::BAD,
];

/// The check of this name.
pub fn named(name: &str) -> Option<&'static Check> {
    CHECKS.iter().find(|check| check.name == name)
}
