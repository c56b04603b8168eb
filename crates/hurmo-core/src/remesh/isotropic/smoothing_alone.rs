//! Relaxing alone: the vertices evened out, every edge and face as it was.

use super::feature_edges;
use super::finish::{Pieces, blend_towards};
use super::sheet::{ReferenceSurface, Sheet};
use super::short_features::ShortFeatures;
use super::start::{freeze_border, sheet_of};
use crate::attribute_transfer::Carried;
use crate::mesh::{CornerLayer, FaceId, Model};
use crate::progress::{Failure, Observer};
use crate::topology::LinkedMesh;
use rustc_hash::FxHashMap;
use std::iter::Sum;
use std::ops::Mul;

/// How to relax.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct RelaxOptions {
    /// How many rounds.
    pub rounds: usize,
    /// Edges whose faces meet at more than this angle, in degrees, are creases.
    pub crease: f64,
    /// The faces whose vertices may move, by number; all where `None`. Vertices that other faces
    /// have too stay.
    pub faces: Option<Vec<bool>>,
}

impl RelaxOptions {
    /// This many rounds, over all faces.
    pub const fn of(rounds: usize) -> Self {
        Self {
            rounds,
            crease: super::DEFAULT_CREASE,
            faces: None,
        }
    }
}

/// A relaxed model.
#[derive(Clone, Debug)]
pub struct Relaxed {
    /// The model.
    pub model: Model,
    /// How many vertices moved.
    pub moved: usize,
}

/// Evens the vertices out along the surface and its lines; corners stay. UVs, normals and
/// colours are those that the model has at the new places, so that no texture is pulled along.
///
/// # Errors
/// When an option makes no sense, or the observer says to stop.
pub fn relax(
    model: &Model,
    options: &RelaxOptions,
    observer: &dyn Observer,
) -> Result<Relaxed, Failure> {
    Failure::unless_angle("crease", options.crease)?;
    let mesh = &model.mesh;
    let touched = match &options.faces {
        Some(faces) => faces.clone(),
        None => vec![true; mesh.face_count()],
    };
    let carried = Carried::by(model);
    let origins: Vec<u32> = carried.faces().iter().map(|face| face.0).collect();
    let linked = LinkedMesh::new(mesh.positions().to_vec(), carried.triangles());
    let making = feature_edges::Making {
        model,
        crease: options.crease,
        short_features: ShortFeatures::Under(0.0),
        noise: 1.0,
        edge: 1.0,
        bend: None,
        lines: &[],
    };
    let mut found = feature_edges::find(&linked, &origins, &making);
    freeze_border(&linked, &origins, &touched, &mut found.constraints);
    let pieces = Pieces::of(carried.triangles(), &found.lines);
    let reference = ReferenceSurface {
        carried: &carried,
        linked: &linked,
        chains: &found.chains,
        sizing: None,
        most_rise: f64::INFINITY,
    };
    let held = (found.constraints, found.lines);
    let mut sheet = sheet_of(&linked, origins, &touched, held, &reference, 1.0);
    observer.begin("relaxing", options.rounds as u64);
    for round in 0..options.rounds {
        observer.check()?;
        sheet.relax(&reference);
        observer.at(round as u64 + 1);
    }
    Ok(moved(model, &sheet, &reference, &pieces))
}

/// The model with its vertices where those of a sheet are, and with what it has there.
pub(super) fn moved(
    model: &Model,
    sheet: &Sheet,
    reference: &ReferenceSurface<'_>,
    pieces: &Pieces,
) -> Relaxed {
    let (mesh, carried) = (&model.mesh, reference.carried);
    let places = &sheet.linked.positions;
    let has_moved: Vec<bool> = (0..places.len())
        .map(|v| places[v] != mesh.positions()[v])
        .collect();
    let mut new = model.clone();
    new.mesh.positions_mut().copy_from_slice(places);
    if let Some(colors) = &mut new.attributes.colors {
        for v in (0..places.len()).filter(|&v| has_moved[v]) {
            colors[v] = carried.color_from(places[v], sheet.near[v]);
        }
    }
    if model.attributes.has_corner_layers() {
        let mut corners = Vec::new();
        for face in mesh.face_ids() {
            let range = mesh.face_range(face);
            if !range.clone().any(|c| has_moved[mesh.corners()[c].index()]) {
                continue;
            }
            let middle = new.mesh.face_middle(face);
            let near = first_triangle(carried, face);
            for corner in range {
                let v = mesh.corners()[corner];
                if has_moved[v.index()] {
                    let place = places[v.index()];
                    let blend = blend_towards(model, reference, pieces, place, middle, near);
                    corners.push((corner, v.0, blend));
                }
            }
        }
        for layer in new.attributes.uv_sets_mut() {
            resample(layer, &corners);
        }
        if let Some(layer) = &mut new.attributes.normals {
            resample(layer, &corners);
            let values = layer.values.iter_mut();
            values.for_each(|normal| *normal = normal.normalize_or_zero());
        }
    }
    Relaxed {
        model: new,
        moved: has_moved.iter().filter(|moved| **moved).count(),
    }
}

/// The first of the triangles that a face is cut into.
fn first_triangle(carried: &Carried<'_>, face: FaceId) -> u32 {
    carried.faces().partition_point(|&other| other < face) as u32
}

/// Gives corners the values that others are blended to; corners of a vertex in the same piece
/// share one.
fn resample<T>(layer: &mut CornerLayer<T>, corners: &[(usize, u32, super::finish::Blend)])
where
    T: Copy + Mul<f64, Output = T> + Sum,
{
    let mut made: FxHashMap<(u32, u32), u32> = FxHashMap::default();
    let old = layer.clone();
    for &(corner, vertex, (piece, of)) in corners {
        let parts = of.map(|(c, share)| Some(old.at(c as usize)? * share));
        let Some(value) = parts.into_iter().sum::<Option<T>>() else {
            continue;
        };
        layer.index[corner] = *made.entry((vertex, piece)).or_insert_with(|| {
            layer.values.push(value);
            layer.values.len() as u32 - 1
        });
    }
}
