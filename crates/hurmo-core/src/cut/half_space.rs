//! Half-spaces as solids: tetrahedra, so that each plane is one triangle far round the model, whose
//! sides add no vertex to what is cut.

use super::Plane;
use crate::geometry::Bounds;
use crate::mesh::{FaceTags, Mesh, Model, NO_VALUE, Tag};
use glam::DVec3;

/// How many times the model's radius the triangle in the plane is wide, from its middle to its sides.
const WIDE: f64 = 8.0;
/// How many times as deep as wide the tetrahedron is: near the plane, its sides go nearly straight down.
const DEEP: f64 = 2.0;

/// The model with a half-space for each plane; and for each face 0, or the number of its plane from 1.
pub(super) fn with_half_spaces(
    model: &Model,
    planes: &[Plane],
    bounds: &Bounds,
) -> (Model, Vec<u32>) {
    let mut solids = Mesh::default();
    let mut of_face = vec![0; model.mesh.face_count()];
    for (number, plane) in (1..).zip(planes) {
        let corners = corners(plane, bounds, number).map(|corner| solids.push_vertex(corner));
        for face in [[0, 1, 2], [0, 3, 1], [1, 3, 2], [2, 3, 0]] {
            solids.push_face(face.map(|corner: usize| corners[corner]));
            of_face.push(number);
        }
    }
    (with_solids(model, &solids), of_face)
}

/// The model with other surfaces, which carry nothing, in the group of cuts.
pub(super) fn with_solids(model: &Model, solids: &Mesh) -> Model {
    let mut all = model.clone();
    all.mesh.append(solids);
    carry_on(&mut all, model.mesh.face_count());
    all
}

/// Gives what was added to this many faces all that the model carries: nothing of it, and a tag.
fn carry_on(all: &mut Model, old: usize) {
    let attributes = &mut all.attributes;
    let corners = all.mesh.corners().len();
    for layer in attributes.uv_sets_mut() {
        layer.index.resize(corners, NO_VALUE);
    }
    if let Some(layer) = &mut attributes.normals {
        layer.index.resize(corners, NO_VALUE);
    }
    if let Some(colors) = &mut attributes.colors {
        colors.resize(all.mesh.vertex_count(), [1.0; 4]);
    }
    tag(&mut attributes.tags, all.mesh.face_count(), old);
}

/// Gives the faces of other surfaces a tag of their own.
fn tag(tags: &mut FaceTags, faces: usize, old: usize) {
    if tags.is_empty() {
        tags.table = vec![Tag::default()];
        tags.of_face = vec![0; old];
    }
    tags.table.push(Tag {
        group: Some(super::CAP.into()),
        ..Tag::default()
    });
    tags.of_face.resize(faces, tags.table.len() as u32 - 1);
}

/// The corners of a tetrahedron below a plane: three in it, anticlockwise as seen from above, and the tip.
/// It holds a ball round the bounds, as far as that is below.
fn corners(plane: &Plane, bounds: &Bounds, number: u32) -> [DVec3; 4] {
    let (u, v) = across(plane.normal);
    let radius = bounds.diagonal().max(f64::MIN_POSITIVE);
    // No two are alike, so that they have no side in common.
    let wide = radius * (WIDE + 0.37 * f64::from(number));
    let middle = bounds.middle();
    let foot = middle + plane.normal * (plane.at - plane.normal.dot(middle));
    let at = |x: f64, y: f64| on(plane, foot + u * (x * wide) + v * (y * wide));
    let half = 3f64.sqrt();
    [
        at(2.0, 0.0),
        at(-1.0, half),
        at(-1.0, -half),
        foot - plane.normal * (DEEP * wide),
    ]
}

/// A place in a plane; exactly there where that lies across an axis.
fn on(plane: &Plane, mut place: DVec3) -> DVec3 {
    for axis in 0..3 {
        if plane.normal[axis].abs() == 1.0 {
            place[axis] = plane.at * plane.normal[axis];
        }
    }
    place
}

/// Two directions in a plane, which with its normal run anticlockwise.
pub(super) fn across(normal: DVec3) -> (DVec3, DVec3) {
    let axis = match normal.abs().to_array() {
        [x, y, z] if x <= y && x <= z => DVec3::X,
        [_, y, z] if y <= z => DVec3::Y,
        _ => DVec3::Z,
    };
    let u = normal.cross(axis).normalize();
    (u, normal.cross(u))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::measure::volume;
    use crate::shapes;

    #[test]
    fn half_spaces_face_outward_and_hold_what_is_below() {
        let cube = shapes::cuboid(DVec3::new(3.0, -2.0, 1.0), DVec3::new(5.0, 4.0, 2.0), 1);
        let bounds = crate::measure::bounds(&cube).unwrap();
        for normal in [
            DVec3::X,
            -DVec3::Y,
            DVec3::Z,
            DVec3::new(1.0, 2.0, -3.0).normalize(),
        ] {
            let plane = Plane {
                normal,
                at: normal.dot(bounds.middle()) + 0.2,
            };
            let (all, of_face) = with_half_spaces(&Model::from(cube.clone()), &[plane], &bounds);
            let own = crate::parts::only(
                &all,
                &all.mesh
                    .face_ids()
                    .filter(|f| of_face[f.index()] == 1)
                    .collect::<Vec<_>>(),
            );
            assert!(volume(&own.mesh) > 0.0);
            let hierarchy = crate::spatial::TriangleHierarchy::whole(&own.mesh);
            let inside = crate::spatial::Enclosing::of(&hierarchy);
            for p in cube.positions() {
                let below = normal.dot(*p) < plane.at;
                assert_eq!(inside.times(*p), f64::from(u8::from(below)), "{normal} {p}");
            }
        }
    }
}
