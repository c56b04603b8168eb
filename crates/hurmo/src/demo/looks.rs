//! What the demo's materials look like, and the lantern's texture: brass that has stood in the spray.

use hurmo_core::paint::{Texture, linear};
use hurmo_core::scene::{Image, ImageData, ImageId, Material, Scene, TextureUse};
use std::f64::consts::TAU;

/// Pixels across the lantern's texture.
const SIZE: usize = 512;

/// Name, red, green, blue as on a screen, metal, roughness, opacity.
type Plain = (&'static str, [u8; 3], f32, f32, f32);

const MATERIALS: [Plain; 8] = [
    ("red lead", [158, 54, 38], 0.0, 0.6, 1.0),
    ("iron", [74, 76, 80], 1.0, 0.55, 1.0),
    ("cast iron", [58, 60, 66], 1.0, 0.75, 1.0),
    ("bronze", [150, 104, 58], 1.0, 0.4, 1.0),
    ("glass", [196, 214, 204], 0.0, 0.1, 0.4),
    ("cork", [176, 132, 88], 0.0, 0.95, 1.0),
    ("oak", [124, 92, 60], 0.0, 0.8, 1.0),
    ("cloth", [198, 190, 170], 0.0, 1.0, 1.0),
];

/// The looks of those materials that a model has; of a scene without nodes.
pub(super) fn scene<'n>(names: impl Iterator<Item = &'n str>) -> Scene {
    let mut scene = Scene::default();
    for name in names {
        if scene.material(name).is_some() {
            continue;
        }
        let material = match MATERIALS.iter().find(|(own, ..)| *own == name) {
            Some(&(_, color, metallic, roughness, opacity)) => {
                let [r, g, b] = color.map(|c| linear(f32::from(c) / 255.0));
                Material {
                    color: [r, g, b, opacity],
                    metallic,
                    roughness,
                    ..Material::named(name)
                }
            }
            None => {
                scene.images.push(brass());
                Material {
                    color_texture: Some(TextureUse::of(ImageId(scene.images.len() as u32 - 1))),
                    metallic: 1.0,
                    roughness: 0.45,
                    ..Material::named(name)
                }
            }
        };
        scene.materials.push(material);
    }
    scene
}

/// The texture, by turn round the lantern and height.
fn brass() -> Image {
    let mut pixels = Vec::with_capacity(SIZE * SIZE);
    for row in 0..SIZE {
        for column in 0..SIZE {
            let [turn, down] = [column, row].map(|i| (i as f64 + 0.5) / SIZE as f64);
            let [r, g, b] = color(turn, 1.0 - down).map(|c| (255.0 * c.clamp(0.0, 1.0)) as u8);
            pixels.push([r, g, b, 255]);
        }
    }
    let texture = Texture::new([SIZE as u32; 2], pixels).expect("as many pixels as that");
    Image {
        name: Some("brass".into()),
        data: ImageData::Embedded {
            media_type: "image/png".into(),
            bytes: hurmo_formats::png(&texture).into(),
        },
        size: None,
    }
}

/// Bands that were turned, an engraved wave, and verdigris that runs down from the top.
fn color(turn: f64, height: f64) -> [f64; 3] {
    let brass = [0.72, 0.56, 0.28];
    let green = [0.33, 0.52, 0.44];
    let dark = [0.24, 0.17, 0.09];
    let bands = 0.06 * (40.0 * TAU * height).sin().powi(3);
    let wave = (height - 0.5 - 0.04 * (12.0 * TAU * turn).sin()).abs() < 0.008;
    let drops = (1..5).map(|i| {
        let f = f64::from(i);
        (TAU * (f * f * 3.0 * turn + 0.37 * f)).sin() / f
    });
    let run = 0.62 + 0.16 * drops.sum::<f64>();
    let share = ((height - run) * 3.0).clamp(0.0, 1.0);
    let base = if wave { dark } else { brass };
    let mut mixed = [0.0; 3];
    for (i, mixed) in mixed.iter_mut().enumerate() {
        *mixed = (base[i] + bands) * (1.0 - share) + green[i] * share;
    }
    mixed
}
