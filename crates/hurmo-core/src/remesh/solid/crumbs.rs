//! Crumbs: what open sheets, and walls that are too thin, leave on the grid here and there.

use crate::measure::parts_measured;
use crate::mesh::{Model, PartId, VertexId};
use crate::topology::{Parts, signed_volume_term};

/// Volume over area, as a share of the cell, below which a part is thinner than half a cell.
const THIN: f64 = 0.25;
/// A part that reaches further across, in cells, is none, however thin.
const ACROSS: f64 = 8.0;

/// A skin without its crumbs.
pub struct Clean {
    /// The skin.
    pub model: Model,
    /// How many crumbs there were.
    pub crumbs: usize,
    /// By vertex of the skin as it was, whether it was a crumb's.
    pub went: Vec<bool>,
}

impl Clean {
    /// Takes away what is thinner than half a cell and reaches over few.
    pub fn of(skin: Model, cell: f64) -> Self {
        let parts = Parts::of(&skin.mesh);
        let measured = parts_measured(&skin.mesh, &parts);
        let mut volumes = vec![0.0; parts.len()];
        for face in skin.mesh.face_ids() {
            if let Some(part) = parts.of_face(&skin.mesh, face) {
                let middle = measured[part.index()].bounds.middle();
                volumes[part.index()] += signed_volume_term(&skin.mesh, face, middle) / 6.0;
            }
        }
        let each = measured.iter().zip(volumes);
        let is_crumb: Vec<bool> = each
            .map(|(part, volume)| {
                let across = part.bounds.diagonal();
                volume.abs() < THIN * cell * part.area && across < ACROSS * cell
            })
            .collect();
        let crumbs = is_crumb.iter().filter(|&&is_crumb| is_crumb).count();
        let goes = |part: Option<PartId>| part.is_some_and(|part| is_crumb[part.index()]);
        let vertices = 0..skin.mesh.vertex_count();
        let went = vertices
            .map(|v| goes(parts.of_vertex(VertexId::new(v))))
            .collect();
        let model = match crumbs {
            0 => skin,
            _ => {
                let goes = |face| goes(parts.of_face(&skin.mesh, face));
                skin.without_faces(goes).0
            }
        };
        Self {
            model,
            crumbs,
            went,
        }
    }
}
