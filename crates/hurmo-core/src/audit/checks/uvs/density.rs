//! How many pixels of its texture a face gets.

use super::textures;
use crate::audit::Level::{Note, Off};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::mesh::FaceId;
use rustc_hash::FxHashMap;

pub(in super::super) const UNEVEN_TEXEL_DENSITY: Check = Check {
    name: "uneven-texel-density",
    counts: "faces with over 2 times more or fewer pixels of texture along a length than most of their material's surface",
    harm: "sharp beside blurred, and texture memory spent where nobody looks",
    remedy: Remedy::ByHand,
    drawing: r"
    +--+--+--+--+ +-+-+-+-+-+-+-+-+
    |  |  |  |  | +-+-+-+-+-+-+-+-+
    +--+--+--+--+ +-+-+-+-+-+-+-+-+",
    levels: Levels::new(Off, Off, Note, Off),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let Some(layout) = &analysis.layout else {
        return Ok(Found::default());
    };
    let texture = textures(analysis.model);
    let step = search.brief.thresholds.texel_step;
    // Tiles along a length, by texture, with the areas that they hold for.
    let mut of_texture: FxHashMap<u32, Vec<(f64, f64)>> = FxHashMap::default();
    let density = |face: FaceId| {
        let area = analysis.areas[face.index()];
        let laid = layout.area(face)?.abs();
        (laid > 0.0 && !analysis.has_no_area(face)).then(|| (laid / area).sqrt())
    };
    for face in analysis.mesh.face_ids() {
        if let Some(density) = density(face) {
            let all = of_texture.entry(texture(face.index())).or_default();
            all.push((density, analysis.areas[face.index()]));
        }
    }
    let mut spread: f64 = 1.0;
    let middles: FxHashMap<u32, f64> = of_texture
        .into_iter()
        .map(|(texture, mut all)| {
            all.sort_by(|a, b| a.0.total_cmp(&b.0));
            spread = spread.max(share_of_area(&all, 0.95) / share_of_area(&all, 0.05));
            (texture, share_of_area(&all, 0.5))
        })
        .collect();
    let is_uneven = |&face: &FaceId| {
        density(face).is_some_and(|density| {
            let ratio = density / middles[&texture(face.index())];
            ratio.max(1.0 / ratio) > step
        })
    };
    let found = Found::faces(
        analysis,
        search.limit,
        analysis.mesh.face_ids().filter(is_uneven),
    );
    Ok(found.measured("times as dense, 95 in 100 of the area as 5", spread))
}

/// The value that this share of the area does not exceed, of values in order with their areas.
fn share_of_area(sorted: &[(f64, f64)], share: f64) -> f64 {
    let all: f64 = sorted.iter().map(|(_, area)| area).sum();
    let mut sum = 0.0;
    for (value, area) in sorted {
        sum += area;
        if sum >= share * all {
            return *value;
        }
    }
    sorted.last().map_or(1.0, |(value, _)| *value)
}
