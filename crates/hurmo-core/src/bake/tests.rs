use super::*;
use crate::mesh::Mesh;
use crate::shapes;
use crate::uv::atlas::{self, atlas};
use std::sync::Arc;

const OPTIONS: BakeOptions = BakeOptions {
    size: 64,
    within: 0.5,
    padding: 2,
    colors: true,
    normals: true,
};

/// A sheet over the whole tile, at a height.
fn sheet(cuts: usize, height: f64) -> Model {
    let mut mesh = shapes::grid(cuts, cuts, 1.0, 1.0);
    mesh.positions_mut().iter_mut().for_each(|at| at.z = height);
    let mut model = Model::from(mesh);
    let mesh = &model.mesh;
    let corners = mesh.corners().iter();
    model.attributes.uvs = Some(CornerLayer {
        values: corners.map(|&v| mesh.position(v).truncate()).collect(),
        index: (0..mesh.corners().len() as u32).collect(),
    });
    model
}

/// Red grows to the right, green upwards.
fn ramp(size: u32) -> Look {
    let rows = (0..size).flat_map(|y| (0..size).map(move |x| (x, y)));
    let share = |i: u32| ((f64::from(i) + 0.5) / f64::from(size) * 255.0).round() as u8;
    let pixels = rows.map(|(x, y)| [share(x), share(size - 1 - y), 0, 255]);
    Look::texture(Arc::new(Texture::new([size; 2], pixels.collect()).unwrap()))
}

fn pixel(texture: &Texture, x: u32, y: u32) -> [u8; 4] {
    texture.pixels()[(y * texture.size()[0] + x) as usize]
}

#[test]
fn a_texture_is_the_same_on_another_mesh_of_the_same_surface() {
    let baked = bake(
        &sheet(7, 0.2),
        &[Some(ramp(256))],
        &sheet(3, 0.0),
        OPTIONS,
        &(),
    )
    .unwrap();
    let colors = baked.colors.unwrap();
    for (x, y) in [(0, 0), (63, 0), (10, 50), (32, 32), (63, 63)] {
        let [r, g, b, a] = pixel(&colors, x, y);
        let wanted = [f64::from(x) + 0.5, 63.5 - f64::from(y)].map(|i| i / 64.0 * 255.0);
        assert!((f64::from(r) - wanted[0]).abs() < 2.0 && (f64::from(g) - wanted[1]).abs() < 2.0);
        assert_eq!((b, a), (0, 255));
    }
    // Four samples a pixel, each as far away as the sheets are apart.
    // On the edges of triangles, both count.
    assert!((4 * 64 * 64..4 * 65 * 64).contains(&baked.samples));
    assert_eq!((baked.far, baked.bare, baked.behind), (0, 0, 0));
    assert!(baked.off.iter().all(|off| (off - 0.2).abs() < 1e-12));
    // A flat surface above another faces straight out of it.
    let flat = baked.normals.unwrap();
    assert!(flat.pixels().iter().all(|&p| p == [128, 128, 255, 255]));
}

#[test]
fn what_is_too_far_away_gives_nothing_and_what_faces_away_is_counted() {
    let onto = sheet(2, 0.0);
    let (half, _) = sheet(8, 0.2).without_faces(|face| face.index() % 8 >= 4);
    let near = BakeOptions {
        within: 0.25,
        ..OPTIONS
    };
    let baked = bake(&half, &[Some(ramp(64))], &onto, near, &()).unwrap();
    // Half of it, and as far beyond as the limit reaches round the rim.
    let share = baked.far as f64 / baked.samples as f64;
    let reach = (0.25f64 * 0.25 - 0.04).sqrt();
    assert!((share - (0.5 - reach)).abs() < 0.02, "{share}");
    let below = bake(
        &onto,
        &[Some(ramp(64))],
        &turned(&sheet(2, -0.1)),
        OPTIONS,
        &(),
    )
    .unwrap();
    assert_eq!((below.behind, below.far), (below.samples, 0));
    let bare = bake(&onto, &[], &sheet(2, 0.1), OPTIONS, &()).unwrap();
    assert_eq!(bare.bare, bare.samples);
    let nothing = bake(&onto, &[], &Model::from(onto.mesh.clone()), OPTIONS, &()).unwrap();
    assert_eq!(nothing.samples, 0);
}

/// The same seen from behind: faces the other way round, UVs stay.
fn turned(model: &Model) -> Model {
    let mut mesh = Mesh::from_parts(model.mesh.positions().to_vec(), vec![], vec![0]).unwrap();
    let mut layer = CornerLayer::default();
    let own = model.attributes.uvs.as_ref().unwrap();
    for (face, corners) in model.mesh.faces() {
        mesh.push_face(corners.iter().rev().copied());
        for corner in model.mesh.face_range(face).rev() {
            layer.index.push(layer.values.len() as u32);
            layer.values.push(own.at(corner).unwrap());
        }
    }
    let mut turned = Model::from(mesh);
    turned.attributes.uvs = Some(layer);
    turned
}

#[test]
fn normals_are_those_of_the_slope_in_the_texture() {
    // A sheet that rises to the right at 1 in 2, and another that rises upwards.
    for (rise, wanted) in [
        (DVec2::new(0.5, 0.0), DVec3::new(-0.5, 0.0, 1.0)),
        (DVec2::new(0.0, 0.5), DVec3::new(0.0, -0.5, 1.0)),
    ] {
        let mut slope = sheet(4, 0.0);
        let lift = |at: &mut DVec3| at.z = (at.truncate() - 0.5).dot(rise);
        slope.mesh.positions_mut().iter_mut().for_each(lift);
        let options = BakeOptions {
            within: 1.0,
            ..OPTIONS
        };
        let [x, y, z] = wanted
            .normalize()
            .to_array()
            .map(|i| ((i * 0.5 + 0.5) * 255.0).round() as i32);
        let near = |pixel: [u8; 4], x: i32| {
            let [r, g, b, _] = pixel.map(i32::from);
            (r - x).abs() <= 1 && (g - y).abs() <= 1 && (b - z).abs() <= 1
        };
        let normals = bake(&slope, &[], &sheet(3, 0.0), options, &())
            .unwrap()
            .normals
            .unwrap();
        assert!(
            near(pixel(&normals, 30, 40), x),
            "{:?}",
            pixel(&normals, 30, 40)
        );
        // With the texture mirrored, right is left.
        let mut mirrored = sheet(3, 0.0);
        let uvs = &mut mirrored.attributes.uvs.as_mut().unwrap().values;
        uvs.iter_mut().for_each(|uv| uv.x = 1.0 - uv.x);
        let normals = bake(&slope, &[], &mirrored, options, &())
            .unwrap()
            .normals
            .unwrap();
        assert!(
            near(pixel(&normals, 30, 40), 255 - x),
            "{:?}",
            pixel(&normals, 30, 40)
        );
    }
}

/// The mean angle between the normals that a ball with a texture of such a size shows and those of a
/// bumpy one, in degrees.
fn normals_off(bumps: &Model, size: u32) -> f64 {
    let mesh = shapes::sphere(1.0, 3);
    let atlas = atlas(&mesh, atlas::AtlasOptions { size, margin: 4 }, &()).unwrap();
    let mut ball = Model::from(mesh);
    ball.attributes.uvs = Some(atlas.uvs);
    let options = BakeOptions {
        size,
        within: 0.3,
        ..OPTIONS
    };
    let baked = bake(bumps, &[], &ball, options, &()).unwrap();
    assert_eq!(baked.far, 0);
    let texture = baked.normals.unwrap();
    let frames = Frames::of(&ball, normals(&ball.mesh, Shading::Smooth(180.0)));
    let original = Original::new(bumps, &[]);
    let detailed = normals(&bumps.mesh, Shading::Smooth(180.0));
    let (mut sum, mut count) = (0.0, 0);
    for triangle in texels::triangles(&ball) {
        for sample in samples(&triangle, size).step_by(7) {
            let found = original.near(sample.place, 1.0, None).unwrap();
            let wanted = original.normal(&found, &detailed);
            let pixel = texture.pixels()[sample.pixel as usize];
            let [x, y, z, _] = pixel.map(|c| f64::from(c) / 127.5 - 1.0);
            let inward = frames.at(&triangle, sample.shares).inward(wanted);
            sum += inward.angle_between(DVec3::new(x, y, z));
            count += 1;
        }
    }
    assert!(count > 5_000);
    (sum / f64::from(count)).to_degrees()
}

#[test]
fn a_ball_wears_the_bumps_of_another_the_better_the_finer_its_texture() {
    let bumps = Model::from(shapes::bumpy_sphere(60_000));
    let [coarse, fine] = [256, 1024].map(|size| normals_off(&bumps, size));
    assert!(coarse < 3.0 && fine < 1.0, "{coarse}° and {fine}°");
}
