//! What materials look like: colours and textures, as the trade's physically based shading has them.

use std::path::PathBuf;
use std::sync::Arc;

/// An image, by its place in [`super::Scene::images`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ImageId(pub u32);

/// A material.
#[derive(Clone, Debug, PartialEq)]
pub struct Material {
    /// Its name, by which faces' tags speak of it.
    pub name: String,
    /// Red, green, blue, opacity; linear.
    pub color: [f32; 4],
    /// What that is multiplied with.
    pub color_texture: Option<TextureUse>,
    /// From 0, no metal, to 1.
    pub metallic: f32,
    /// From 0, a mirror, to 1.
    pub roughness: f32,
    /// Roughness in green, metal in blue, to multiply those with.
    pub roughness_texture: Option<TextureUse>,
    /// Normals in tangent space.
    pub normal_texture: Option<TextureUse>,
    /// How much of the light from all round comes in, in red.
    pub occlusion_texture: Option<TextureUse>,
    /// The light that it gives off; linear.
    pub glow: [f32; 3],
    /// What that is multiplied with.
    pub glow_texture: Option<TextureUse>,
    /// What becomes of opacity.
    pub alpha: Alpha,
    /// Whether faces are seen from behind, too.
    pub double_sided: bool,
    /// Its number in the file, whose own words about it are in the scene's rest.
    pub source: Option<u32>,
}

impl Material {
    /// White and matt.
    pub fn named(name: impl Into<String>) -> Self {
        Self {
            name: name.into(),
            color: [1.0; 4],
            color_texture: None,
            metallic: 0.0,
            roughness: 1.0,
            roughness_texture: None,
            normal_texture: None,
            occlusion_texture: None,
            glow: [0.0; 3],
            glow_texture: None,
            alpha: Alpha::Opaque,
            double_sided: false,
            source: None,
        }
    }

    /// All its textures.
    pub fn textures(&self) -> impl Iterator<Item = &TextureUse> {
        let all = [
            &self.color_texture,
            &self.roughness_texture,
            &self.normal_texture,
            &self.occlusion_texture,
            &self.glow_texture,
        ];
        all.into_iter().flatten()
    }

    /// The same, to be changed.
    pub fn textures_mut(&mut self) -> impl Iterator<Item = &mut TextureUse> {
        let all = [
            &mut self.color_texture,
            &mut self.roughness_texture,
            &mut self.normal_texture,
            &mut self.occlusion_texture,
            &mut self.glow_texture,
        ];
        all.into_iter().flatten()
    }
}

/// How a material uses a texture.
#[derive(Clone, Debug, PartialEq)]
pub struct TextureUse {
    /// The image.
    pub image: ImageId,
    /// By which of the UV sets, from 0.
    pub uv_set: u32,
    /// How strongly: bumps of normals, shade of occlusion.
    pub strength: f32,
    /// Whether the file moves, turns or scales it besides.
    pub is_placed: bool,
}

impl TextureUse {
    /// An image by the first UVs.
    pub fn of(image: ImageId) -> Self {
        Self {
            image,
            uv_set: 0,
            strength: 1.0,
            is_placed: false,
        }
    }
}

/// What becomes of opacity.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum Alpha {
    /// Nothing.
    #[default]
    Opaque,
    /// What has less than this is not there at all.
    Cut(f32),
    /// It shows what is behind.
    Blend,
}

/// A picture.
#[derive(Clone, Debug, PartialEq)]
pub struct Image {
    /// Its name, if it has one.
    pub name: Option<String>,
    /// Where its pixels are.
    pub data: ImageData,
    /// Its width and height in pixels, where they could be read.
    pub size: Option<[u32; 2]>,
}

impl Image {
    /// Its name for messages.
    pub fn display_name(&self) -> String {
        match &self.data {
            ImageData::File { name, .. } => name.clone(),
            ImageData::Embedded { .. } => self.name.clone().unwrap_or_else(|| "a texture".into()),
        }
    }
}

/// Where a picture's pixels are.
#[derive(Clone, Debug, PartialEq)]
pub enum ImageData {
    /// In the model's own file, as PNG, JPEG or whatever its media type says.
    Embedded {
        /// As `image/png`.
        media_type: String,
        /// The picture's file.
        bytes: Arc<[u8]>,
    },
    /// In a file of its own.
    File {
        /// As the model's file names it.
        name: String,
        /// Where it is, if it is there.
        found: Option<PathBuf>,
    },
}
