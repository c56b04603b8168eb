//! Whether there is anything to put a skin round, decided without making one.

use super::inside_test::INSIDE;
use crate::audit::SortedAnalysis;
use crate::measure::{area_samples, vector_area};
use crate::parallel::any;
use crate::spatial::Winding;

/// This many places are asked.
const PLACES: usize = 2048;
/// So deep, in cells: what is flatter leaves small components, if anything.
const DEPTH: f64 = 0.5;
/// Closed parts thinner than this, in cells, are flat.
const FLAT: f64 = 0.01;

/// Whether a closed part of a model is thicker than a hundredth of a cell, or the model winds more
/// than half a time round any of many places half a cell off its faces, spread evenly over them. Of
/// one that is sheets only, no skin has anything to hold. An open room whose walls are less than a
/// thousandth of all may be missed.
pub fn encloses_anything(analysis: &SortedAnalysis<'_>, cell: f64) -> bool {
    if has_thick_part(analysis, cell) {
        return true;
    }
    let mesh = analysis.mesh;
    let winding = Winding::of(analysis.hierarchy());
    let samples = area_samples(mesh, PLACES);
    any(samples.len(), 1, |sample| {
        let (at, face) = samples[sample];
        let normal = vector_area(mesh, face).normalize_or_zero();
        let off = normal * DEPTH * cell;
        let mut places = [at - off, at + off].into_iter();
        places.any(|place| winding.at(place) > INSIDE)
    })
}

/// Whether a part that is closed is not flat: by its volume over its area.
fn has_thick_part(analysis: &SortedAnalysis<'_>, cell: f64) -> bool {
    let (mesh, hierarchy) = (analysis.mesh, analysis.hierarchy());
    let mut volumes = vec![0.0; analysis.parts.len()];
    for t in 0..hierarchy.len() {
        if let Some(part) = analysis.parts.of_face(mesh, hierarchy.face(t)) {
            let origin = analysis.part(part).bounds.middle();
            let [a, b, c] = hierarchy.corners(t).map(|corner| corner - origin);
            volumes[part.index()] += a.dot(b.cross(c)) / 6.0;
        }
    }
    let is_open = analysis.parts.open(mesh, &analysis.edges);
    (0..volumes.len()).any(|part| {
        let area = analysis.part_measures[part].area;
        !is_open[part] && 2.0 * volumes[part].abs() > FLAT * cell * area
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{Mesh, Model};
    use crate::remesh::dual_contouring::tests::joined;
    use crate::shapes;
    use glam::DVec3;

    fn encloses(mesh: Mesh) -> bool {
        encloses_anything(&SortedAnalysis::of(&Model::from(mesh), &()), 0.05)
    }

    #[test]
    fn a_sheet_encloses_nothing_and_a_bowl_does() {
        let ball = Model::from(shapes::sphere(1.0, 3));
        let cut = |above: f64| {
            let is_above = |face| ball.mesh.face_middle(face).z > above;
            ball.without_faces(is_above).0.mesh
        };
        assert!(encloses(cut(0.0)));
        // Next to flat: only what is nearer than half a cell is behind it.
        assert!(!encloses(cut(-0.99)));
        let cube = shapes::cuboid(DVec3::splat(2.0), DVec3::splat(2.01), 1);
        assert!(encloses(joined(&[cut(-0.99), cube])));
    }
}
