use super::*;
use crate::measure::{area, volume};
use crate::mesh::{CornerLayer, FaceTags, Model, Tag};
use crate::random_cases::cases;
use crate::shapes;
use glam::DVec2;
use proptest::prelude::*;

fn halved(mesh: &Mesh, axis: Option<Axis>) -> Result<Half, Unfit> {
    Half::of(&Model::from(mesh.clone()), &find(mesh, axis).unwrap())
}

fn moved(mut mesh: Mesh, by: impl Fn(DVec3) -> DVec3) -> Mesh {
    mesh.positions_mut().iter_mut().for_each(|at| *at = by(*at));
    mesh
}

#[test]
fn the_axis_is_found() {
    // Only across y: a wedge in x, and higher on one side in z.
    let wedge = |p: DVec3| {
        DVec3::new(
            p.x,
            p.y * (1.0 - 0.3 * p.x),
            p.z * (1.0 + 0.2 * p.x) + 0.1 * p.x,
        )
    };
    let mesh = moved(shapes::sphere(1.0, 3), wedge);
    let found = find(&mesh, None).unwrap();
    assert_eq!(
        found.mirror,
        Mirror {
            axis: Axis::Y,
            at: 0.0
        }
    );
    assert!(found.is_symmetric && found.off < 1e-12, "{found:?}");
    let across_x = find(&mesh, Some(Axis::X)).unwrap();
    assert!(!across_x.is_symmetric && across_x.off > 0.1, "{across_x:?}");
    assert_eq!(find(&Mesh::default(), None), None);
}

#[test]
fn shape_decides_and_not_how_it_is_divided() {
    // Each quad of the box is cut along one diagonal, which is no image of another.
    let cuboid = shapes::cuboid(DVec3::splat(-1.0), DVec3::new(1.0, 2.0, 3.0), 5);
    let (triangles, _) = all_triangles(&cuboid);
    let mesh = Mesh::from_triangles(cuboid.positions().to_vec(), &triangles).unwrap();
    for axis in Axis::ALL {
        let found = find(&mesh, Some(axis)).unwrap();
        assert!(found.is_symmetric && found.off < 1e-12, "{found:?}");
        let half = Half::of(&Model::from(mesh.clone()), &found).unwrap();
        // Five rows of quads: the plane runs through the middle of the third.
        assert!((volume_of_half(&half) - 12.0).abs() < 1e-9);
        let all = whole(
            &half.model,
            &half.mirror,
            half.is_joined,
            &Model::from(mesh.clone()),
        );
        assert!((volume(&all.mesh) - 24.0).abs() < 1e-9);
        assert!((area(&all.mesh) - 52.0).abs() < 1e-9);
        let audit = crate::audit::audit(&all, &Default::default(), &()).unwrap();
        assert!(audit.mesh.watertight);
    }
}

/// The volume under a half, seen from its plane.
fn volume_of_half(half: &Half) -> f64 {
    let apex = half.mirror.onto(DVec3::ZERO);
    let six = half.model.mesh.faces().map(|(face, _)| {
        let [a, b, c] = half.model.mesh.face_points(face).collect::<Vec<_>>()[..] else {
            panic!("a half is all triangles");
        };
        (a - apex).cross(b - apex).dot(c - apex)
    });
    six.sum::<f64>() / 6.0
}

#[test]
fn what_cannot_be_halved_is_told() {
    // A wall in the plane.
    let two = |a: f64| shapes::cuboid(DVec3::new(a, 0.0, 0.0), DVec3::new(a + 1.0, 1.0, 1.0), 1);
    let (left, right) = (two(-1.0), two(0.0));
    let both = joined(&left, &right);
    assert_eq!(halved(&both, Some(Axis::X)).unwrap_err(), Unfit::InPlane(4));
    // Two sheets whose borders only touch.
    let sheet = |from: f64| moved(shapes::grid(4, 3, 1.0, 1.0), |p| p + DVec3::X * from);
    let corner = shapes::grid(1, 1, 1.0, 1.0).position(crate::VertexId(0));
    let apart = joined(&sheet(-1.0 - corner.x), &sheet(-corner.x));
    let half = halved(&apart, Some(Axis::X)).unwrap();
    assert!(!half.is_joined);
    let all = whole(
        &half.model,
        &half.mirror,
        half.is_joined,
        &Model::from(apart.clone()),
    );
    assert_eq!(all.mesh.vertex_count(), apart.vertex_count());
}

fn joined(one: &Mesh, two: &Mesh) -> Mesh {
    let models = [one, two].map(|mesh| Model::from(mesh.clone()));
    let named = models.iter().map(|model| ("part".to_string(), model));
    crate::parts::joined(&named.collect::<Vec<_>>()).model.mesh
}

#[test]
fn each_side_keeps_its_groups_and_colours() {
    let mesh = shapes::sphere(1.0, 3);
    let mut model = Model::from(mesh);
    let tag = |name: &str| Tag {
        group: Some(name.into()),
        ..Tag::default()
    };
    let middle = |face| model.mesh.face_middle(face).x;
    model.attributes.tags = FaceTags {
        table: vec![tag("port"), tag("starboard")],
        of_face: model
            .mesh
            .face_ids()
            .map(|face| u32::from(middle(face) > 0.0))
            .collect(),
    };
    let red = |p: &DVec3| [if p.x > 0.0 { 1.0 } else { 0.25 }, 0.0, 0.0, 1.0];
    model.attributes.colors = Some(model.mesh.positions().iter().map(red).collect());
    let found = find(&model.mesh, Some(Axis::X)).unwrap();
    let half = Half::of(&model, &found).unwrap();
    let all = whole(&half.model, &half.mirror, half.is_joined, &model);
    // Faces that straddle the plane belong to one side.
    let is_far = |face: &crate::FaceId| all.mesh.face_middle(*face).x.abs() > 0.1;
    for face in all.mesh.face_ids().filter(is_far) {
        let name = &all.attributes.tags.of(face).unwrap().group;
        let side = if all.mesh.face_middle(face).x > 0.0 {
            "starboard"
        } else {
            "port"
        };
        assert_eq!(name.as_deref(), Some(side));
    }
    let colors = all.attributes.colors.unwrap();
    let far = all
        .mesh
        .positions()
        .iter()
        .zip(&colors)
        .filter(|(p, _)| p.x.abs() > 0.2);
    far.for_each(|(p, color)| assert!((color[0] - red(p)[0]).abs() < 1e-6));
}

#[test]
fn a_texture_must_be_the_same_on_both_sides() {
    let mesh = shapes::sphere(1.0, 3);
    let with_uvs = |uv: fn(DVec3) -> DVec2| {
        let mut model = Model::from(mesh.clone());
        model.attributes.uvs = Some(CornerLayer {
            values: mesh.positions().iter().map(|&p| uv(p)).collect(),
            index: mesh.corners().iter().map(|v| v.0).collect(),
        });
        model
    };
    let found = find(&mesh, Some(Axis::X)).unwrap();
    let shared = with_uvs(|p| DVec2::new(p.x.abs(), p.y));
    let half = Half::of(&shared, &found).unwrap();
    let all = whole(&half.model, &half.mirror, half.is_joined, &shared);
    let uvs = all.attributes.uvs.as_ref().unwrap();
    for (corner, v) in all.mesh.corners().iter().enumerate() {
        let at = all.mesh.position(*v);
        let expected = DVec2::new(at.x.abs(), at.y);
        // On the cut it lies between what both sides have.
        let near = if at.x == 0.0 { 0.1 } else { 1e-9 };
        assert!(uvs.at(corner).unwrap().distance(expected) < near);
    }
    let own = with_uvs(|p| DVec2::new(p.x, p.y));
    assert_eq!(Half::of(&own, &found).unwrap_err(), Unfit::OtherUvs);
}

proptest! {
    #![proptest_config(cases(32))]

    /// Whatever the shape, if it is symmetric the halves make the same surface again.
    #[test]
    fn a_half_and_its_image_are_the_whole(waves in 1..6u32, high in 0.0..0.4f64, cuts in 2..7usize) {
        let bumpy = |p: DVec3| p * (1.0 + high * (f64::from(waves) * p.x.abs() + p.y).sin());
        let mesh = moved(shapes::cuboid(DVec3::splat(-1.0), DVec3::splat(1.0), cuts), bumpy);
        // Bent quads have no one shape.
        let (model, _) = crate::triangulate::model(&Model::from(mesh), crate::triangulate::Which::All);
        let mesh = model.mesh.clone();
        let found = find(&mesh, Some(Axis::X)).unwrap();
        prop_assume!(found.is_symmetric);
        let half = Half::of(&model, &found).unwrap();
        prop_assert!(half.is_joined);
        let all = whole(&half.model, &half.mirror, half.is_joined, &model);
        // What its sides differ by, over its area.
        let differs = (volume(&all.mesh) - volume(&mesh)).abs();
        prop_assert!(differs <= found.off * area(&mesh) + 1e-9, "{} {}", differs, found.off);
        let audit = crate::audit::audit(&all, &Default::default(), &()).unwrap();
        prop_assert!(audit.mesh.watertight);
        prop_assert!(find(&all.mesh, Some(Axis::X)).unwrap().off < 1e-12);
    }
}
