//! The pieces of a skin: small components, which open sheets and walls that are too thin leave on the grid
//! here and there, and voids, which are enclosed on all sides.

use crate::geometry::Bounds;
use crate::measure::{parts_measured, signed_volume_term};
use crate::mesh::{FaceId, Mesh, Model, PartId, VertexId};
use crate::parallel::mapped;
use crate::spatial::{TriangleHierarchy, times_inside};
use crate::topology::Parts;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// Volume over area, as a share of the cell, below which a piece is thinner than half a cell.
const THIN: f64 = 0.25;
/// A piece that reaches further across, in cells, is no small component, however thin.
const ACROSS: f64 = 8.0;

/// A room that the skin encloses, with no way out.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Void {
    /// The middle of its bounds.
    pub at: DVec3,
    /// The diagonal of its bounds.
    pub across: f64,
    /// Its volume.
    pub volume: f64,
}

/// A skin of which some pieces were taken away.
pub struct Clean {
    /// The skin.
    pub model: Model,
    /// How many small components there were.
    pub small_components: usize,
    /// Its voids, the largest first.
    pub voids: Vec<Void>,
    /// By vertex of the skin as it was, whether it was of a piece that went.
    pub went: Vec<bool>,
}

#[derive(Clone, Copy, PartialEq)]
enum Piece {
    Solid,
    Void,
    Small,
    /// A solid in a void that was filled.
    Swallowed,
}

impl Clean {
    /// Takes away what is thinner than half a cell and reaches over few; and, to fill them, voids
    /// and all that is in them.
    pub fn of(skin: Model, cell: f64, fill_voids: bool) -> Self {
        let parts = Parts::of(&skin.mesh);
        let measured = parts_measured(&skin.mesh, &parts);
        let volumes = signed_volumes(&skin.mesh, &parts, |part| measured[part.index()].bounds);
        let mut pieces: Vec<Piece> = measured
            .iter()
            .zip(&volumes)
            .map(|(part, volume)| {
                let is_small = part.bounds.diagonal() < ACROSS * cell;
                match volume.abs() < THIN * cell * part.area && is_small {
                    true => Piece::Small,
                    false if *volume < 0.0 => Piece::Void,
                    false => Piece::Solid,
                }
            })
            .collect();
        let mut voids: Vec<Void> = (0..parts.len())
            .filter(|&part| pieces[part] == Piece::Void)
            .map(|part| Void {
                at: measured[part].bounds.middle(),
                across: measured[part].bounds.diagonal(),
                volume: -volumes[part],
            })
            .collect();
        voids.sort_by(|a, b| b.volume.total_cmp(&a.volume));
        let fills = fill_voids && !voids.is_empty();
        if fills {
            swallow(&skin.mesh, &parts, &mut pieces, |part| {
                measured[part].bounds
            });
        }
        let goes = |part: Option<PartId>| {
            part.is_some_and(|part| match pieces[part.index()] {
                Piece::Solid => false,
                Piece::Void => fills,
                Piece::Small | Piece::Swallowed => true,
            })
        };
        let vertices = 0..skin.mesh.vertex_count();
        let went: Vec<bool> = vertices
            .map(|v| goes(parts.of_vertex(VertexId::new(v))))
            .collect();
        let model = match went.contains(&true) {
            true => {
                let goes = |face| goes(parts.of_face(&skin.mesh, face));
                skin.without_faces(goes).0
            }
            false => skin,
        };
        Self {
            model,
            small_components: pieces.iter().filter(|&&p| p == Piece::Small).count(),
            voids,
            went,
        }
    }
}

/// The volume of each part, negative where it faces inward.
fn signed_volumes(
    mesh: &Mesh,
    parts: &Parts,
    bounds: impl Fn(PartId) -> Bounds + Sync,
) -> Vec<f64> {
    // Summed up in order, whatever the number of threads.
    let terms: Vec<Option<(PartId, f64)>> = mapped(mesh.face_count(), 4096, |face| {
        let face = FaceId::new(face);
        let part = parts.of_face(mesh, face)?;
        let middle = bounds(part).middle();
        Some((part, signed_volume_term(mesh, face, middle) / 6.0))
    });
    let mut volumes = vec![0.0; parts.len()];
    for (part, term) in terms.into_iter().flatten() {
        volumes[part.index()] += term;
    }
    volumes
}

/// Marks the solids that lie in others, once voids are filled.
fn swallow(mesh: &Mesh, parts: &Parts, pieces: &mut [Piece], bounds: impl Fn(usize) -> Bounds) {
    let mut faces: Vec<Vec<FaceId>> = vec![Vec::new(); parts.len()];
    for face in mesh.face_ids() {
        if let Some(part) = parts.of_face(mesh, face) {
            faces[part.index()].push(face);
        }
    }
    let solids: Vec<usize> = (0..parts.len())
        .filter(|&part| pieces[part] == Piece::Solid)
        .collect();
    let encloses = |outer: usize, inner: usize| {
        let [outer, inner] = [outer, inner].map(&bounds);
        outer.min.cmplt(inner.min).all() && inner.max.cmplt(outer.max).all()
    };
    let mut hierarchies: FxHashMap<usize, TriangleHierarchy<'_>> = FxHashMap::default();
    for &inner in &solids {
        let Some(corner) = faces[inner].first().map(|&face| mesh.face(face)[0]) else {
            continue;
        };
        let at = mesh.position(corner);
        let is_in = solids.iter().any(|&outer| {
            encloses(outer, inner) && {
                let hierarchy = hierarchies
                    .entry(outer)
                    .or_insert_with(|| TriangleHierarchy::of(mesh, &faces[outer], |_| false));
                times_inside(hierarchy, at).is_some_and(|times| times > 0)
            }
        });
        if is_in {
            pieces[inner] = Piece::Swallowed;
        }
    }
}
