//! A texture for one model, filled from another: what lies nearest to each of its pixels.
//!
//! ```text
//! pixels of the texture ─▶ places on the surface (`texels`) ─▶ closest place of the other model
//!     ─▶ its colour there, and which way it faces, in tangent space (`tangents`)
//!     ─▶ the mean of four samples a pixel ─▶ drawn on beyond the charts' rims (`padding`)
//! ```
//!
//! What lies farther than a limit gives nothing: its pixels are filled from those round them. Normals are
//! those of glTF 2.0 (§3.9.3): x to the right in the texture, y up, z out of the surface, each channel from
//! -1 to 1.

mod padding;
mod tangents;
mod texels;

use crate::measure::vector_area;
use crate::mesh::{CornerLayer, Model};
use crate::paint::{Look, Original, Texture};
use crate::parallel::mapped_of;
use crate::progress::{Failure, Observer};
use crate::shading::{Shading, normals};
use glam::{DVec2, DVec3};
use tangents::Frames;
use texels::{Sample, samples};

/// Triangles whose samples are looked up at once: so many, that memory stays small.
const AT_ONCE: usize = 2048;

/// What to bake.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct BakeOptions {
    /// Pixels along a side.
    pub size: u32,
    /// How far the other surface may be away.
    pub within: f64,
    /// How many pixels are drawn on beyond the charts.
    pub padding: u32,
    /// Whether colours are wanted.
    pub colors: bool,
    /// Whether normals are.
    pub normals: bool,
}

impl BakeOptions {
    /// Colours only, in a square of this many pixels along a side, from what is no farther away than this.
    pub const fn of(size: u32, within: f64) -> Self {
        Self {
            size,
            within,
            padding: 8,
            colors: true,
            normals: false,
        }
    }
}

/// What was baked.
#[derive(Clone, Debug, Default)]
pub struct Baked {
    /// Colours.
    pub colors: Option<Texture>,
    /// Normals in tangent space.
    pub normals: Option<Texture>,
    /// How many samples were taken on the surface.
    pub samples: usize,
    /// How many of them had nothing within the limit.
    pub far: usize,
    /// How many found a place without colour.
    pub bare: usize,
    /// How many found a surface that faces the other way.
    pub behind: usize,
    /// How far what was found lay off: at most, and the root of the mean square.
    pub off: [f64; 2],
}

impl Baked {
    /// Counts a sample, by what was found for it.
    fn count(&mut self, found: Option<&Found>) {
        self.samples += 1;
        let Some(found) = found else {
            self.far += 1;
            return;
        };
        self.off[0] = self.off[0].max(found.off);
        self.behind += usize::from(found.is_behind);
        self.bare += usize::from(found.color.is_none());
    }
}

/// Fills a texture for `onto`, which must have UVs, from what `from` looks like: `looks` are those of its
/// tags. Normals of `onto` are those of its corners; all smooth where it has none.
///
/// # Errors
/// When an option makes no sense, or the observer says to stop.
pub fn bake(
    from: &Model,
    looks: &[Option<Look>],
    onto: &Model,
    options: BakeOptions,
    observer: &dyn Observer,
) -> Result<Baked, Failure> {
    Failure::unless_length("within", options.within)?;
    let original = Original::new(from, looks);
    let given = |model: &Model| -> CornerLayer<DVec3> {
        let own = model.attributes.normals.clone();
        own.unwrap_or_else(|| normals(&model.mesh, Shading::Smooth(180.0)))
    };
    let detailed = options.normals.then(|| given(from));
    let frames = options.normals.then(|| Frames::of(onto, given(onto)));
    let (size, padding) = (options.size as usize, options.padding as usize);
    let mut colors = Sums::new(size * size);
    let mut facing = Sums::new(size * size);
    let mut baked = Baked::default();
    let mut squares = 0.0;
    let triangles = texels::triangles(onto);
    observer.begin("baking", triangles.len() as u64);
    for (done, some) in triangles.chunks(AT_ONCE).enumerate() {
        observer.check()?;
        let found: Vec<Vec<(Sample, Option<Found>)>> = mapped_of(some, 1, |triangle| {
            let mut near = None;
            let mut look = |sample: Sample| {
                let found = original.near(sample.place, options.within, near)?;
                near = Some(found.triangle);
                let normal = detailed
                    .as_ref()
                    .map(|layer| original.normal(&found, layer));
                Some(Found {
                    color: found.color,
                    off: found.off,
                    is_behind: found.facing.dot(sample.facing) < 0.0,
                    normal: frames
                        .as_ref()
                        .zip(normal)
                        .map(|(frames, normal)| frames.at(triangle, sample.shares).inward(normal)),
                })
            };
            samples(triangle, options.size)
                .map(|sample| (sample, look(sample)))
                .collect()
        });
        for (sample, found) in found.into_iter().flatten() {
            baked.count(found.as_ref());
            let Some(found) = found else {
                continue;
            };
            squares += found.off * found.off;
            if let Some(color) = found.color {
                colors.add(sample.pixel, color);
            }
            if let Some(normal) = found.normal {
                let [x, y, z] = normal.as_vec3().to_array();
                facing.add(sample.pixel, [x, y, z, 1.0]);
            }
        }
        observer.at(((done + 1) * AT_ONCE) as u64);
    }
    let hits = (baked.samples - baked.far).max(1);
    baked.off[1] = (squares / hits as f64).sqrt();
    baked.colors = options.colors.then(|| {
        let means = colors.means(|color| color);
        let pixels = padding::filled(means, size, padding, [0.5, 0.5, 0.5, 1.0]);
        texture(pixels, options.size)
    });
    baked.normals = options.normals.then(|| {
        let unit = |[x, y, z, _]: [f32; 4]| {
            let normal = glam::Vec3::new(x, y, z).normalize_or(glam::Vec3::Z);
            let [x, y, z] = (normal * 0.5 + 0.5).to_array();
            [x, y, z, 1.0]
        };
        let pixels = padding::filled(facing.means(unit), size, padding, [0.5, 0.5, 1.0, 1.0]);
        texture(pixels, options.size)
    });
    Ok(baked)
}

/// What was found for a sample.
struct Found {
    color: Option<[f32; 4]>,
    off: f64,
    is_behind: bool,
    normal: Option<DVec3>,
}

/// What the samples of each pixel come to.
struct Sums(Vec<([f32; 4], u32)>);

impl Sums {
    fn new(count: usize) -> Self {
        Self(vec![([0.0; 4], 0); count])
    }

    fn add(&mut self, pixel: u32, color: [f32; 4]) {
        let (sum, count) = &mut self.0[pixel as usize];
        sum.iter_mut()
            .zip(color)
            .for_each(|(sum, channel)| *sum += channel);
        *count += 1;
    }

    fn means(self, made: impl Fn([f32; 4]) -> [f32; 4]) -> Vec<Option<[f32; 4]>> {
        let mean = |(sum, count): ([f32; 4], u32)| {
            (count > 0).then(|| made(sum.map(|channel| channel / count as f32)))
        };
        self.0.into_iter().map(mean).collect()
    }
}

fn texture(pixels: Vec<[f32; 4]>, size: u32) -> Texture {
    let eight_bit = |channel: f32| (channel.clamp(0.0, 1.0) * 255.0).round() as u8;
    let pixels = pixels
        .into_iter()
        .map(|pixel| pixel.map(eight_bit))
        .collect();
    Texture::new([size; 2], pixels).expect("as many as the size says")
}

#[cfg(test)]
mod tests;
