//! What is wrong with a layout by itself.

use super::textures;
use crate::audit::Level::{Note, Off, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, Remedy};
use crate::mesh::FaceId;
use crate::uv::{LITTLE, Layout, Overlaps};

/// A face's area in the plane, in tiles, that is none.
const LEAST: f64 = 1e-12;

pub(in super::super) const ZERO_AREA_UVS: Check = Check {
    name: "zero-area-uvs",
    counts: "faces with an area whose UVs have none: at most 1e-12 of the tile",
    harm: "the texture smears across them, and there is no tangent for normal maps",
    remedy: Remedy::ByHand,
    drawing: r"
    +---+
    |   |  -->  |   a face becomes a line
    +---+",
    levels: Levels::new(Note, Off, Warn, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let bad = faces(analysis, |layout, face| {
            let area = layout.area(face);
            area.is_some_and(|area| area.abs() <= LEAST) && !analysis.has_no_area(face)
        });
        Ok(Found::faces(analysis, search.limit, bad.into_iter()))
    },
};

pub(in super::super) const OVERLAPPING_UVS: Check = Check {
    name: "overlapping-uvs",
    counts: "faces whose UVs lie on those of others with the same material, by more than a millionth of the tile",
    harm: "what is painted or baked on the one shows on the other",
    remedy: Remedy::ByHand,
    drawing: r"
    +-----+
    |   +-|---+
    +---|-+   |   the same pixels twice
        +-----+",
    levels: Levels::new(Note, Off, Warn, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let Some(layout) = &analysis.layout else {
            return Ok(Found::default());
        };
        let overlaps = Overlaps::of(layout, textures(analysis.model));
        let lies = |face: &FaceId| overlaps.faces[face.index()];
        let found = Found::faces(
            analysis,
            search.limit,
            analysis.mesh.face_ids().filter(lies),
        );
        Ok(found.measured("tiles of area lie on others", overlaps.area))
    },
};

pub(in super::super) const MIRRORED_UVS: Check = Check {
    name: "mirrored-uvs",
    counts: "faces whose UVs run clockwise",
    harm: "writing reads backwards, and normal maps are lit from the wrong side in programs that don't look out for it",
    remedy: Remedy::ByHand,
    drawing: r"
    +---+      +---+
    | b |  --> | d |
    +---+      +---+",
    levels: Levels::new(Note, Off, Note, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let bad = faces(analysis, |layout, face| {
            layout.area(face).is_some_and(|area| area < -LEAST)
        });
        Ok(Found::faces(analysis, search.limit, bad.into_iter()))
    },
};

pub(in super::super) const UVS_OUTSIDE_TILE: Check = Check {
    name: "uvs-outside-tile",
    counts: "faces with a UV below 0 or above 1, by more than a millionth",
    harm: "where the texture does not repeat, its rim is drawn out; bakes and atlases leave it out",
    remedy: Remedy::ByHand,
    drawing: r"
    +-----+
    |   +-|-+
    |   +-|-+
    +-----+ 1",
    levels: Levels::new(Off, Off, Note, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let bad = faces(analysis, |layout, face| {
            let is_out = |at: f64| !(-LITTLE..=1.0 + LITTLE).contains(&at);
            layout.area(face).is_some()
                && layout.corners(face).any(|at| is_out(at.x) || is_out(at.y))
        });
        Ok(Found::faces(analysis, search.limit, bad.into_iter()))
    },
};

pub(in super::super) const NONMANIFOLD_UVS: Check = Check {
    name: "nonmanifold-uvs",
    counts: "edges at which more than two faces go on from each other in the UVs, too",
    harm: "unfolding and baking do not know which of them is next",
    remedy: Remedy::MendByName,
    drawing: r"
       \  /
        \/        in the texture as well
        |
        |",
    levels: Levels::new(Note, Off, Warn, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let Some(layout) = &analysis.layout else {
            return Ok(Found::default());
        };
        let bad = layout.nonmanifold(&analysis.edges);
        let ends = bad.map(|edge| analysis.edges.ends(edge));
        Ok(Found::edges(analysis, search.limit, ends))
    },
};

/// The faces of which something holds in the layout.
fn faces(analysis: &MeshAnalysis<'_>, is_one: impl Fn(&Layout<'_>, FaceId) -> bool) -> Vec<FaceId> {
    let Some(layout) = &analysis.layout else {
        return Vec::new();
    };
    let faces = analysis.mesh.face_ids();
    faces.filter(|&face| is_one(layout, face)).collect()
}
