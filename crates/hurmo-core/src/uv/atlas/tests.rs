use super::*;
use crate::random_cases::cases;
use crate::shapes;
use crate::topology::Edges;
use crate::uv::{Islands, tile_used};
use glam::DVec3;
use proptest::prelude::*;

const OPTIONS: AtlasOptions = AtlasOptions {
    size: 512,
    margin: 4,
};

fn made(mesh: &Mesh) -> (Atlas, Model) {
    made_as(mesh, OPTIONS)
}

fn made_as(mesh: &Mesh, options: AtlasOptions) -> (Atlas, Model) {
    let atlas = atlas(mesh, options, &()).unwrap();
    let mut model = Model::from(mesh.clone());
    model.attributes.uvs = Some(atlas.uvs.clone());
    (atlas, model)
}

/// Every face has UVs in the tile, none is folded, none lies on another.
fn assert_sound(atlas: &Atlas, model: &Model) {
    assert_eq!(atlas.stretch.folded, 0);
    let layout = Layout::of(model).unwrap();
    for face in model.mesh.face_ids() {
        assert!(layout.area(face).is_some());
        for at in layout.corners(face) {
            assert!(
                at.cmpge(DVec2::ZERO).all() && at.cmple(DVec2::ONE).all(),
                "{at}"
            );
        }
    }
    let overlaps = Overlaps::of(&layout, |_| 0);
    assert!(!overlaps.faces.contains(&true), "{}", overlaps.area);
}

/// The least distance in pixels between two charts, by their corners, as far as it is less than some.
fn gap(model: &Model, most: f64) -> f64 {
    let layout = Layout::of(model).unwrap();
    let islands = Islands::of(&layout, &Edges::of(&model.mesh));
    let mut corners: Vec<(DVec2, u32)> = Vec::new();
    for face in model.mesh.face_ids() {
        let island = islands.of_face[face.index()].unwrap();
        corners.extend(layout.corners(face).map(|at| (at * 512.0, island)));
    }
    corners.sort_by(|a, b| a.0.x.total_cmp(&b.0.x));
    let mut least = most;
    for (i, &(p, island)) in corners.iter().enumerate() {
        let near = corners[i + 1..]
            .iter()
            .take_while(|(q, _)| q.x - p.x < most);
        let others = near.filter(|(_, other)| *other != island);
        least = others.map(|(q, _)| q.distance(p)).fold(least, f64::min);
    }
    least
}

fn used(model: &Model) -> f64 {
    let layout = Layout::of(model).unwrap();
    tile_used(&layout, 0..layout.len())
}

#[test]
fn a_box_is_six_squares_without_any_stretch() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::splat(3.0), 4);
    let (atlas, model) = made(&cube);
    assert_sound(&atlas, &model);
    assert_eq!(atlas.charts, 6);
    assert!((atlas.stretch.worst_skew - 1.0).abs() < 1e-6);
    assert!(
        atlas
            .stretch
            .areas
            .iter()
            .all(|area| (area - 1.0).abs() < 1e-6)
    );
    assert!(gap(&model, 8.0) >= 4.0);
    // Two rows of three: just over half of the tile, less the margins.
    let used = used(&model);
    assert!((0.5..0.67).contains(&used), "{used}");
    // The density given in pixels is true.
    let edge = 3.0 / 4.0 * atlas.density;
    let layout = Layout::of(&model).unwrap();
    let area = layout.area(FaceId(0)).unwrap() * 512.0 * 512.0;
    assert!((area.sqrt() - edge).abs() < 1e-6 * edge, "{area} {edge}");
}

#[test]
fn a_roof_is_unrolled_and_a_sheet_lies_flat() {
    // A sheet is one chart, and so is one that is bent over an edge of 40°.
    let roof = |bend: f64| {
        let mut mesh = shapes::grid(8, 8, 2.0, 1.0);
        for at in mesh.positions_mut() {
            let over = (at.x - 1.0).max(0.0);
            *at = DVec3::new(at.x.min(1.0) + over * bend.cos(), at.y, over * bend.sin());
        }
        mesh
    };
    for bend in [0.0f64, 0.7] {
        let (atlas, model) = made(&roof(bend));
        assert_sound(&atlas, &model);
        assert_eq!(atlas.charts, 1, "{bend}");
        assert!(
            (atlas.stretch.worst_skew - 1.0).abs() < 1e-6,
            "{:?}",
            atlas.stretch
        );
        // Twice as high as wide, upright.
        let layout = Layout::of(&model).unwrap();
        let used = tile_used(&layout, 0..layout.len());
        assert!((0.45..0.5).contains(&used), "{used}");
    }
}

#[test]
fn a_ribbon_is_cut_and_laid_side_by_side() {
    let (atlas, model) = made(&shapes::grid(200, 10, 20.0, 1.0));
    assert_sound(&atlas, &model);
    assert!((2..=8).contains(&atlas.charts), "{}", atlas.charts);
    let used = used(&model);
    assert!(used > 0.6, "{used}");
    assert!(gap(&model, 8.0) >= 4.0);
}

#[test]
fn round_shapes_are_stretched_little() {
    for (mesh, charts, skew) in [
        (shapes::sphere(1.0, 5), 6..24, 1.12),
        (shapes::torus(1.0, 0.4, 64, 32), 8..40, 1.12),
        (shapes::bumpy_sphere(20_000), 6..60, 1.15),
    ] {
        let (atlas, model) = made(&mesh);
        assert_sound(&atlas, &model);
        assert!(charts.contains(&atlas.charts), "{} charts", atlas.charts);
        assert!(atlas.stretch.mean_skew < skew, "{:?}", atlas.stretch);
        let [least, most] = atlas.stretch.areas;
        assert!(most / least < 6.0, "{:?}", atlas.stretch);
        assert!(gap(&model, 8.0) >= 4.0);
        let used = used(&model);
        assert!(used > 0.5, "{used}");
    }
}

#[test]
fn charts_that_do_not_fit_are_refused() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1);
    let tight = AtlasOptions { size: 8, margin: 6 };
    let refused = atlas(&cube, tight, &()).unwrap_err();
    assert_eq!((refused.charts, refused.size), (6, 8));
    assert!(
        refused
            .to_string()
            .contains("6 charts do not fit into 8 × 8 pixels")
    );
}

proptest! {
    #![proptest_config(cases(6))]

    /// Whatever the faces are like: doubled, in fans, without area, turned, in scraps.
    #[test]
    fn any_soup_has_an_atlas(
        places in prop::collection::vec(prop::array::uniform3(-4..4i8), 4..30),
        faces in prop::collection::vec(prop::collection::vec(0..30usize, 3..6), 1..60),
    ) {
        let mut mesh = Mesh::default();
        let places: Vec<_> = places
            .into_iter()
            .map(|at| mesh.push_vertex(DVec3::from_array(at.map(f64::from))))
            .collect();
        for face in faces {
            mesh.push_face(face.into_iter().map(|v| places[v % places.len()]));
        }
        let few_pixels = AtlasOptions { size: 256, margin: 2 };
        let (atlas, model) = made_as(&mesh, few_pixels);
        let layout = Layout::of(&model).unwrap();
        prop_assert!(mesh.face_ids().all(|face| layout.area(face).is_some()));
        // Triangles lie apart; polygons that are bent may fold by themselves.
        let is_plain: Vec<bool> = mesh.faces().map(|(_, face)| face.len() == 3).collect();
        if is_plain.iter().all(|&plain| plain) {
            prop_assert!(!Overlaps::of(&layout, |_| 0).faces.contains(&true));
        }
        prop_assert!(atlas.charts > 0);
    }
}
