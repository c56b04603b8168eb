use super::*;
use crate::mesh::{CornerLayer, FaceId, Tag};
use crate::shapes;

/// A square sheet whose UVs are its places.
fn sheet(cuts: usize) -> Model {
    let mut model = Model::from(shapes::grid(cuts, cuts, 1.0, 1.0));
    let mesh = &model.mesh;
    model.attributes.uvs = Some(CornerLayer {
        values: mesh.positions().iter().map(|at| at.truncate()).collect(),
        index: mesh.corners().iter().map(|v| v.0).collect(),
    });
    model
}

/// Red grows to the right, green upwards.
fn slope(side: u32) -> Texture {
    let shade = |i: u32| ((f64::from(i) + 0.5) / f64::from(side) * 255.0).round() as u8;
    let pixels = (0..side * side).map(|i| [shade(i % side), 255 - shade(i / side), 0, 255]);
    Texture::new([side, side], pixels.collect()).unwrap()
}

fn painted(original: &Model, looks: &[Option<Look>], onto: &Mesh) -> Painted {
    Original::new(original, looks).paint(onto, &()).unwrap()
}

#[test]
fn a_texture_is_found_through_uvs_wherever_vertices_are() {
    let original = sheet(3);
    let looks = [Some(Look::texture(Arc::new(slope(256))))];
    let mut onto = shapes::grid(17, 23, 1.0, 1.0);
    onto.positions_mut().iter_mut().for_each(|at| at.z += 0.25);
    let painted = painted(&original, &looks, &onto);
    assert_eq!(painted.by_texture, onto.vertex_count());
    assert!((painted.farthest - 0.25).abs() < 1e-12);
    assert!((painted.rms - 0.25).abs() < 1e-12);
    for (at, color) in onto.positions().iter().zip(&painted.colors) {
        let is_inside = (0.1..0.9).contains(&at.x) && (0.1..0.9).contains(&at.y);
        // Where texture ends, what lies round a vertex is to one side of it.
        let most = if is_inside { 0.005 } else { 0.05 };
        let off = (color[0] - at.x as f32).abs() + (color[1] - at.y as f32).abs();
        assert!(off < most, "{color:?} at {at}");
    }
}

#[test]
fn a_fine_pattern_becomes_its_mean() {
    // Black and white, pixel by pixel: no vertex is either.
    let side = 512;
    let pixels = (0..side * side).map(|i| [255 * ((i % side + i / side) % 2) as u8; 4]);
    let texture = Texture::new([side, side], pixels.collect()).unwrap();
    let mut onto = shapes::grid(9, 9, 1.0, 1.0);
    // Not in step with the pattern.
    for (i, at) in onto.positions_mut().iter_mut().enumerate() {
        *at += DVec3::new(0.013, 0.017, 0.0) * (i % 7) as f64 / 7.0;
    }
    let painted = painted(&sheet(2), &[Some(Look::texture(Arc::new(texture)))], &onto);
    let spread = |colors: &[[f32; 4]]| {
        let squares = colors.iter().map(|color| (color[0] - 0.5).powi(2));
        (squares.sum::<f32>() / colors.len() as f32).sqrt()
    };
    assert!(spread(&painted.colors) < 0.2, "{}", spread(&painted.colors));
}

#[test]
fn each_face_gives_what_it_has() {
    let mut original = sheet(4);
    let mesh = &original.mesh;
    let tags = &mut original.attributes.tags;
    let named = |name: &str| Tag {
        material: Some(name.into()),
        ..Tag::default()
    };
    tags.table = ["textured", "plain", "bare"].map(named).into();
    let column = |f: FaceId| (mesh.face_middle(f).x * 3.0) as u32;
    tags.of_face = mesh.face_ids().map(column).collect();
    let looks = [
        Some(Look::texture(Arc::new(slope(8)))),
        Some(Look::Plain([0.0, 0.0, 1.0, 1.0])),
        None,
    ];
    let onto = shapes::grid(30, 30, 1.0, 1.0);
    let found = painted(&original, &looks, &onto);
    let counts = [found.by_texture, found.by_material, found.bare];
    assert!(counts.iter().all(|&count| count > 200), "{counts:?}");
    assert_eq!(counts.iter().sum::<usize>(), onto.vertex_count());
    // Colours at vertices go before plain ones, but not before textures.
    original.attributes.colors = Some(vec![[1.0, 0.0, 0.0, 1.0]; original.mesh.vertex_count()]);
    let again = painted(&original, &looks, &onto);
    assert_eq!(again.by_texture, found.by_texture);
    assert_eq!(again.by_vertices, found.by_material + found.bare);
    // Without UVs, a texture says nothing.
    original.attributes.uvs = None;
    let again = painted(&original, &looks, &onto);
    assert_eq!(again.by_vertices, onto.vertex_count());
}

#[test]
fn a_model_has_its_own_colours_at_its_own_vertices() {
    let ball = shapes::sphere(1.0, 3);
    let mut original = Model::from(ball.clone());
    let color = |at: &DVec3| [at.x, at.y, at.z, 1.0].map(|x| (0.5 + 0.5 * x) as f32);
    let colors: Vec<[f32; 4]> = ball.positions().iter().map(color).collect();
    original.attributes.colors = Some(colors.clone());
    let found = painted(&original, &[], &ball);
    for (own, found) in colors.iter().zip(&found.colors) {
        let off = own.iter().zip(found).map(|(a, b)| (a - b).abs());
        assert!(off.fold(0.0, f32::max) < 1e-6);
    }
    assert!(found.farthest < 1e-12 && found.farthest_vertex.is_some());
    // A finer ball lies off by what its chords are.
    let fine = shapes::sphere(1.0, 5);
    let found = painted(&original, &[], &fine);
    let off = crate::measure::one_way_deviation(&fine, &ball, 40_000).unwrap();
    assert!((found.farthest - off.max).abs() < 1e-3);
}

#[test]
fn of_nothing_comes_nothing() {
    let found = painted(&Model::default(), &[], &shapes::sphere(1.0, 1));
    assert_eq!(found.bare, found.colors.len());
    assert_eq!(
        painted(&sheet(1), &[], &Mesh::default()),
        Painted::default()
    );
}
