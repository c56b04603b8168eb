//! Where a surface is thin against the edges that it is to have for a while.
//!
//! From every vertex a step inward, and one outward should the faces look the wrong way: where the
//! other side is nearer to that place than the step is long, edges twice as long would not go
//! round. Edges there stay short, and from there on become longer bit by bit.
//!
//! Most vertices are decided together with those beside them: where no face that looks another way
//! comes near any of them, none is thin.

use super::sheet::{ReferenceSurface, Sheet};
use super::sizing_field::SizingField;
use crate::geometry::Bounds;
use crate::parallel::listed;
use crate::spatial::{Facings, round_directions, rounded_outward};
use glam::DVec3;

/// The other side is so near to the place a step away, in steps.
const NEAR: f64 = 0.6;
/// How far its faces look the other way (cosine).
const OPPOSITE: f64 = -0.3;
/// The number of triangles whose vertices are decided together.
const TOGETHER: usize = 64;

/// How long edges may be while they are laid coarsely, by vertex of the model and as a share of
/// twice `step`; `None` where all may be as long.
pub(super) fn coarse_lengths(
    sheet: &Sheet,
    reference: &ReferenceSurface<'_>,
    step: f64,
) -> Option<SizingField> {
    let thin = thin_vertices(sheet, reference, step);
    (!thin.is_empty()).then(|| SizingField::shorter_at(reference.linked, &thin, step))
}

/// The vertices where the surface is thin, in order.
fn thin_vertices(sheet: &Sheet, reference: &ReferenceSurface<'_>, step: f64) -> Vec<u32> {
    let facings = Facings::of(reference.carried.tree());
    let along = reference.carried.tree().along();
    let together: Vec<_> = along.chunks(TOGETHER).collect();
    let mut thin: Vec<u32> = listed(together.len(), 16, |i, thin| {
        let vertices = with_facing(sheet, reference, together[i]);
        if may_be_thin(&vertices, &facings, reference, step) {
            let vertices = vertices.into_iter();
            let those = vertices.filter(|&(v, normal)| is_thin(reference, v, normal, step));
            thin.extend(those.map(|(v, _)| v));
        }
    });
    thin.sort_unstable();
    thin
}

/// The vertices of some triangles of the model, each with the first of its triangles only, and
/// which way the surface faces there.
fn with_facing(
    sheet: &Sheet,
    reference: &ReferenceSurface<'_>,
    triangles: &[u32],
) -> Vec<(u32, DVec3)> {
    let corners = triangles.iter().flat_map(|&t| {
        let corners = reference.linked.triangle(t).into_iter().flatten();
        corners.filter(move |&v| sheet.near[v as usize] == t)
    });
    corners
        .map(|v| (v, sheet.facing(v).normalize_or_zero()))
        .collect()
}

/// Whether any face that may look away from one of the vertices comes near the places that are
/// asked about.
fn may_be_thin(
    vertices: &[(u32, DVec3)],
    facings: &Facings<'_>,
    reference: &ReferenceSurface<'_>,
    step: f64,
) -> bool {
    let places = vertices.iter();
    let places = places.map(|&(v, _)| reference.linked.positions[v as usize]);
    let Some(bounds) = Bounds::of(places) else {
        return false;
    };
    let reach = DVec3::splat((1.0 + NEAR) * step);
    let within = rounded_outward([bounds.min - reach, bounds.max + reach]);
    let directions = round_directions(vertices.iter().map(|&(_, normal)| normal));
    facings.may_differ(within, directions, OPPOSITE as f32)
}

/// Whether the other side is near a place a step away from a vertex.
fn is_thin(reference: &ReferenceSurface<'_>, vertex: u32, normal: DVec3, step: f64) -> bool {
    let here = reference.linked.positions[vertex as usize];
    [-step, step].into_iter().any(|step| {
        let there = here + normal * step;
        let found = reference.carried.closest_within(there, NEAR * step.abs());
        found.is_some_and(|found| {
            let other = reference.carried.normal(found.triangle);
            other.dot(normal) < OPPOSITE * other.length()
        })
    })
}

#[cfg(test)]
mod tests {
    use super::super::feature_edges::{Found, Making, find};
    use super::super::start::sheet_of;
    use super::super::{DEFAULT_CREASE, ShortFeatures};
    use super::*;
    use crate::attribute_transfer::Carried;
    use crate::mesh::Model;
    use crate::shapes;
    use crate::topology::LinkedMesh;
    use glam::DVec2;

    /// Against every vertex asked by itself.
    #[test]
    fn none_is_passed_by() {
        let rings: Vec<DVec2> = (0..60)
            .map(|i| DVec2::new(0.05, f64::from(i) / 20.0))
            .collect();
        let tube = shapes::lathe(&rings, 12, true);
        let mut flask = shapes::torus(1.0, 0.3, 120, 60);
        flask.positions_mut().iter_mut().for_each(|p| p.z *= 0.3);
        for (mesh, step, share) in [(tube, 0.07, 0.9..1.1), (flask, 0.06, 0.02..0.9)] {
            let model = Model::from(mesh);
            let carried = Carried::by(&model);
            let origins: Vec<u32> = carried.faces().iter().map(|face| face.0).collect();
            let linked = LinkedMesh::new(model.mesh.positions().to_vec(), carried.triangles());
            let making = Making {
                model: &model,
                crease: DEFAULT_CREASE,
                short_features: ShortFeatures::Noise,
                noise: 1.0,
                edge: step,
                bend: None,
                lines: &[],
            };
            let Found {
                lines,
                chains,
                constraints,
                ..
            } = find(&linked, &origins, &making);
            let reference = ReferenceSurface {
                carried: &carried,
                linked: &linked,
                chains: &chains,
                sizing: None,
                most_rise: f64::INFINITY,
            };
            let touched = vec![true; model.mesh.face_count()];
            let held = (constraints, lines);
            let sheet = sheet_of(&linked, origins, &touched, held, &reference, step);
            let vertices = 0..linked.positions.len() as u32;
            let one_by_one = vertices.filter(|&v| {
                let normal = sheet.facing(v).normalize_or_zero();
                is_thin(&reference, v, normal, step)
            });
            let one_by_one: Vec<u32> = one_by_one.collect();
            assert_eq!(thin_vertices(&sheet, &reference, step), one_by_one);
            let found = one_by_one.len() as f64 / linked.positions.len() as f64;
            assert!(share.contains(&found), "{found}");
        }
    }
}
