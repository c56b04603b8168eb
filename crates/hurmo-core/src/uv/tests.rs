use super::*;
use crate::shapes;
use crate::topology::Edges;
use glam::DMat2;

/// A model whose UVs are where its corners are, seen along z, moved anyhow.
fn laid_out(mesh: Mesh, at: impl Fn(FaceId, DVec3) -> DVec2) -> Model {
    let mut layer = CornerLayer::default();
    for face in mesh.face_ids() {
        for point in mesh.face_points(face) {
            layer.index.push(layer.values.len() as u32);
            layer.values.push(at(face, point));
        }
    }
    let mut model = Model::from(mesh);
    model.attributes.uvs = Some(layer);
    model
}

fn sheet() -> Mesh {
    shapes::grid(8, 4, 1.0, 0.5)
}

fn used(model: &Model) -> f64 {
    let layout = Layout::of(model).unwrap();
    tile_used(&layout, 0..layout.len())
}

#[test]
fn a_sheet_is_one_island_that_uses_what_it_covers() {
    let model = laid_out(sheet(), |_, at| at.truncate());
    let layout = Layout::of(&model).unwrap();
    let edges = Edges::of(&model.mesh);
    assert_eq!(Islands::of(&layout, &edges).count, 1);
    let area: f64 = model.mesh.face_ids().filter_map(|f| layout.area(f)).sum();
    assert!((area - 0.5).abs() < 1e-12);
    assert!((tile_used(&layout, 0..layout.len()) - 0.5).abs() < 1e-9);
    let overlaps = Overlaps::of(&layout, |_| 0);
    assert_eq!(
        (overlaps.area, overlaps.faces.contains(&true)),
        (0.0, false)
    );
    // Turned and small it still is, and twice as long it goes round the tile.
    let turn = DMat2::from_angle(0.7) * 0.5;
    let model = laid_out(sheet(), |_, at| turn * at.truncate() + DVec2::splat(3.2));
    let layout = Layout::of(&model).unwrap();
    assert!((tile_used(&layout, 0..layout.len()) - 0.125).abs() < 2e-3);
    let model = laid_out(sheet(), |_, at| at.truncate() * 2.0 - 0.3);
    assert!((used(&model) - 1.0).abs() < 1e-9);
    assert!(Layout::of(&Model::from(sheet())).is_none());
}

#[test]
fn a_sheet_in_two_halves_is_two_islands_and_they_lie_on_each_other_if_so() {
    let mesh = sheet();
    let is_left: Vec<bool> = mesh
        .face_ids()
        .map(|f| mesh.face_middle(f).x < 0.5)
        .collect();
    for (shift, shared) in [(0.6, 0.0), (0.0, 0.0), (-0.5, 0.5), (-0.25, 0.25)] {
        let model = laid_out(mesh.clone(), |face, at| match is_left[face.index()] {
            true => at.truncate(),
            false => at.truncate() + DVec2::X * shift,
        });
        let layout = Layout::of(&model).unwrap();
        let count = Islands::of(&layout, &Edges::of(&mesh)).count;
        assert_eq!(count, if shift == 0.0 { 1 } else { 2 });
        let overlaps = Overlaps::of(&layout, |_| 0);
        assert!(
            (overlaps.area - shared).abs() < 1e-12,
            "{shift}: {}",
            overlaps.area
        );
        let faces = overlaps.faces.iter().filter(|&&lies| lies).count();
        assert_eq!(
            faces,
            if shared == 0.0 {
                0
            } else if shared == 0.5 {
                32
            } else {
                16
            }
        );
        // With textures of their own they don't.
        let apart = Overlaps::of(&layout, |face| u32::from(is_left[face]));
        assert_eq!(apart.area, 0.0);
    }
}

#[test]
fn very_many_faces_in_one_place_take_no_longer_than_a_few() {
    let mesh = shapes::sphere(1.0, 6);
    let count = mesh.face_count();
    let model = laid_out(mesh, |_, at| DVec2::new(at.x.signum(), at.y.signum()));
    let layout = Layout::of(&model).unwrap();
    let overlaps = Overlaps::of(&layout, |_| 0);
    // Those that have an area there lie on each other.
    let flat = |f: &FaceId| layout.area(*f) == Some(0.0);
    let wide = model.mesh.face_ids().filter(|f| !flat(f)).count();
    assert!(wide < count);
    assert_eq!(overlaps.faces.iter().filter(|&&lies| lies).count(), wide);
}

#[test]
fn edges_that_three_faces_share_in_the_plane_are_found() {
    let mut mesh = sheet();
    let tip = mesh.push_vertex(DVec3::new(0.3, 0.3, 1.0));
    let (a, b) = (mesh.face(FaceId(9))[0], mesh.face(FaceId(9))[1]);
    mesh.push_face([a, b, tip]);
    let fin = FaceId::new(mesh.face_count() - 1);
    let edges = Edges::of(&mesh);
    let joined = laid_out(mesh.clone(), |_, at| at.truncate());
    let layout = Layout::of(&joined).unwrap();
    assert_eq!(layout.nonmanifold(&edges).count(), 1);
    let apart = laid_out(mesh, |face, at| match face == fin {
        true => at.truncate() + 2.0,
        false => at.truncate(),
    });
    let layout = Layout::of(&apart).unwrap();
    assert_eq!(layout.nonmanifold(&edges).count(), 0);
    assert_eq!(Islands::of(&layout, &edges).count, 2);
}

#[test]
fn faces_without_uvs_are_left_out_and_polygons_have_their_area() {
    let mut mesh = Mesh::default();
    let arrow = [(0.0, 0.0), (1.0, 0.0), (0.4, 0.4), (0.0, 1.0)];
    let corners: Vec<_> = arrow
        .iter()
        .map(|&(x, y)| mesh.push_vertex(DVec3::new(x, y, 0.0)))
        .collect();
    mesh.push_face(corners.iter().copied());
    mesh.push_face(corners.iter().rev().copied());
    let mut model = laid_out(mesh, |_, at| at.truncate());
    let layout = Layout::of(&model).unwrap();
    // The arrow's area, and the same from behind.
    assert!((layout.area(FaceId(0)).unwrap() - 0.4).abs() < 1e-12);
    assert!((layout.area(FaceId(1)).unwrap() + 0.4).abs() < 1e-12);
    assert_eq!(layout.len(), 4);
    let overlaps = Overlaps::of(&layout, |_| 0);
    assert!((overlaps.area - 0.8).abs() < 1e-12, "{}", overlaps.area);
    model.attributes.uvs.as_mut().unwrap().index[5] = crate::mesh::NO_VALUE;
    let layout = Layout::of(&model).unwrap();
    assert_eq!((layout.area(FaceId(1)), layout.len()), (None, 2));
}
