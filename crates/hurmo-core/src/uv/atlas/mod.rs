//! An atlas: a surface cut into charts, each flattened with little stretch, all packed into one tile.
//!
//! ```text
//! faces ─▶ charts, grown by their normals (`charts`) ─▶ each flattened (`flatten`)
//!     ─▶ those that fold, lie on themselves or are stretched too much cut in two, and again;
//!        so are those so long that all would have to be small for their sake
//!     ─▶ packed into the tile with a margin between them (`pack`) ─▶ UVs of corners
//! ```
//!
//! No two faces lie on each other in the end, whatever the surface: a chart that can't be flattened so
//! is cut until it can, and a single face always can. All charts have the same scale.

mod charts;
mod flatten;
mod pack;
mod raster;
mod stretch;
mod upright;

pub use pack::PackError;
pub use stretch::Stretch;

use super::{Layout, Overlaps};
use crate::mesh::{CornerLayer, FaceId, Mesh, Model, NO_VALUE};
use crate::parallel::mapped_of;
use crate::progress::Observer;
use charts::charts;
use flatten::{Chart, flat};
use glam::DVec2;
use pack::packed;
use upright::stand_upright;

/// A triangle whose area is made this many times larger or smaller than it should be is stretched,
const MOST_SPREAD: f64 = 2.0;
/// and so is one that becomes so much longer in one direction than across.
const MOST_SKEW: f64 = 2.0;
/// A face that is stretched this many times leaves its chart, however small it is.
const OUT_OF_SHAPE: f64 = 50.0;
/// A chart is cut in two if more of its area is than this share.
const STRETCHED: f64 = 0.05;
/// Faces that fold or lie on others leave their chart, if they are no more than this share of it.
const LEAVE: f64 = 0.2;

/// A chart longer than the side of a square of the area of all, times this, is cut in two.
const LONG: f64 = 1.45;

/// How to make an atlas.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct AtlasOptions {
    /// Pixels along a side of the texture that it is for.
    pub size: u32,
    /// Pixels between two charts, at least.
    pub margin: u32,
}

impl AtlasOptions {
    /// For a texture of this many pixels along a side, with this many between charts.
    pub const fn of(size: u32, margin: u32) -> Self {
        Self { size, margin }
    }
}

/// An atlas.
#[derive(Clone, Debug)]
pub struct Atlas {
    /// UVs for the corners of all faces; faces without area have them, but no area there either.
    pub uvs: CornerLayer<DVec2>,
    /// How many charts there are.
    pub charts: usize,
    /// How far they are from true.
    pub stretch: Stretch,
    /// Pixels of the texture along a unit of length.
    pub density: f64,
}

/// Makes an atlas for a mesh.
///
/// # Errors
/// When the charts are too many for the texture.
pub fn atlas(
    mesh: &Mesh,
    options: AtlasOptions,
    observer: &dyn Observer,
) -> Result<Atlas, PackError> {
    observer.begin("cutting into charts", 0);
    let mut todo = charts(mesh);
    let mut done: Vec<Chart> = Vec::new();
    observer.begin("flattening", 0);
    while !todo.is_empty() {
        let tried: Vec<Result<Chart, Vec<Vec<FaceId>>>> = mapped_of(&todo, 1, |faces| {
            let chart = flat(mesh, faces);
            match faces.len() {
                1 => Ok(chart),
                _ => good(mesh, chart),
            }
        });
        todo = Vec::new();
        for tried in tried {
            match tried {
                Ok(chart) => done.push(chart),
                Err(pieces) => todo.extend(pieces),
            }
        }
        if todo.is_empty() {
            todo = cut_if_long(mesh, &mut done);
        }
    }
    done.sort_by_key(|chart| chart.faces.iter().min().copied());
    let stretch = Stretch::of(mesh, &done);
    observer.begin("packing", 0);
    let density = packed(&mut done, options)?;
    let mut uvs = CornerLayer {
        values: Vec::new(),
        index: vec![NO_VALUE; mesh.corners().len()],
    };
    for chart in &done {
        let first = uvs.values.len() as u32;
        uvs.values.extend(&chart.places);
        let mut corners = chart.corners.iter();
        for &face in &chart.faces {
            for corner in mesh.face_range(face) {
                let place = corners.next().expect("one for each corner");
                uvs.index[corner] = first + place;
            }
        }
    }
    Ok(Atlas {
        uvs,
        charts: done.len(),
        stretch,
        density: density * f64::from(options.size),
    })
}

/// A chart, if no face of it folds over or lies on others, and little of it is stretched much; else the
/// pieces that are to be charts instead, each with fewer faces.
fn good(mesh: &Mesh, chart: Chart) -> Result<Chart, Vec<Vec<FaceId>>> {
    let count = chart.faces.len();
    let mut is_bad = vec![false; count];
    let (mut stretched, mut all) = (0.0, 0.0);
    for (&triangle, &of) in chart.triangles.iter().zip(&chart.of) {
        let places = triangle.map(|place| chart.places[place as usize]);
        let stretch = Stretch::of_triangle(chart.points(mesh, triangle), places);
        let size = stretch.areas[0].max(1.0 / stretch.areas[0]);
        is_bad[of as usize] |= stretch.folded > 0 || stretch.worst_skew.max(size) > OUT_OF_SHAPE;
        all += stretch.area();
        if stretch.worst_skew > MOST_SKEW || size > MOST_SPREAD {
            stretched += stretch.area();
        }
    }
    let is_stretched = stretched > STRETCHED * all;
    if !is_stretched {
        let model = laid_out(mesh, &chart);
        if let Some(layout) = Layout::of(&model) {
            let overlaps = Overlaps::of(&layout, |_| 0);
            is_bad
                .iter_mut()
                .zip(overlaps.faces)
                .for_each(|(bad, lies)| *bad |= lies);
        }
    }
    let bad = is_bad.iter().filter(|&&bad| bad).count();
    if bad == 0 && !is_stretched {
        return Ok(chart);
    }
    let parted = if bad == 0 || is_stretched || bad as f64 > LEAVE * count as f64 {
        halves(mesh, chart.faces)
    } else {
        let (bad, rest): (Vec<_>, Vec<_>) = chart
            .faces
            .into_iter()
            .zip(is_bad)
            .partition(|(_, bad)| *bad);
        [bad, rest].map(|some| some.into_iter().map(|(face, _)| face).collect())
    };
    let pieces = parted
        .into_iter()
        .flat_map(|part| charts::connected(mesh, part));
    Err(pieces.collect())
}

/// Takes out the charts that are too long to be packed well; their pieces.
fn cut_if_long(mesh: &Mesh, charts: &mut Vec<Chart>) -> Vec<Vec<FaceId>> {
    let longest = LONG * charts.iter().map(Chart::area).sum::<f64>().sqrt();
    charts.iter_mut().for_each(stand_upright);
    let is_long = |chart: &mut Chart| chart.faces.len() > 1 && chart.extent().y > longest;
    let long = charts.extract_if(.., is_long);
    let parts = long.flat_map(|chart| halves(mesh, chart.faces));
    parts
        .flat_map(|part| charts::connected(mesh, part))
        .collect()
}

/// A chart as a model of its own, as large as a tile.
fn laid_out(mesh: &Mesh, chart: &Chart) -> Model {
    let mut own = Mesh::default();
    let mut names = rustc_hash::FxHashMap::default();
    for &face in &chart.faces {
        let corners: Vec<_> = (mesh.face(face).iter())
            .map(|&v| {
                *names
                    .entry(v)
                    .or_insert_with(|| own.push_vertex(mesh.position(v)))
            })
            .collect();
        own.push_face(corners);
    }
    let [low, high] = chart.places.iter().fold(
        [DVec2::INFINITY, DVec2::NEG_INFINITY],
        |[low, high], &place| [low.min(place), high.max(place)],
    );
    let size = (high - low).max_element().max(f64::MIN_POSITIVE);
    let mut model = Model::from(own);
    model.attributes.uvs = Some(CornerLayer {
        values: chart.places.iter().map(|&place| place / size).collect(),
        index: chart.corners.clone(),
    });
    model
}

/// The faces on either side of the middle, across the longest way through them.
fn halves(mesh: &Mesh, mut faces: Vec<FaceId>) -> [Vec<FaceId>; 2] {
    let middles = faces.iter().map(|&face| mesh.face_middle(face));
    let bounds = crate::geometry::Bounds::of(middles).expect("there are faces");
    let size = bounds.size().to_array();
    let longest = (0..3)
        .max_by(|&a, &b| size[a].total_cmp(&size[b]))
        .unwrap_or(0);
    faces.sort_by(|&a, &b| {
        let [p, q] = [a, b].map(|face| mesh.face_middle(face)[longest]);
        p.total_cmp(&q).then(a.cmp(&b))
    });
    let other = faces.split_off(faces.len() / 2);
    [faces, other]
}

#[cfg(test)]
mod tests;
