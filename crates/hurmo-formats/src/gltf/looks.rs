//! Materials and images.

use super::accessor::Data;
use super::buffers::{data_uri, name_of};
use crate::{ReadError, Remarks};
use gltf_json::buffer::View;
use gltf_json::material::AlphaMode;
use gltf_json::texture::Texture;
use gltf_json::validation::Checked;
use gltf_json::{Index, Root};
use hurmo_core::scene::{Alpha, Image, ImageData, ImageId, Material, Names, TextureUse};
use rustc_hash::FxHashMap;
use std::sync::Arc;

/// This many bytes of images are taken out of buffers, and as many as these have.
const BESIDES: usize = 64 << 20;
/// What alpha is cut at where the file does not say.
const CUT: f32 = 0.5;

/// All materials, each with a name of its own, and all images, by the file's numbers.
pub fn looks(
    data: &Data<'_>,
    remarks: &mut Remarks,
) -> Result<(Vec<Material>, Vec<Image>), ReadError> {
    let root = &data.document.root;
    let mut names = Names::default();
    let materials = root.materials.iter().enumerate().map(|(number, own)| {
        let name = match own.name.as_deref().map(str::trim) {
            Some(name) if !name.is_empty() => name.to_string(),
            _ => format!("material {}", number + 1),
        };
        material(root, own, names.free(&name), number as u32)
    });
    let materials = materials.collect();
    let mut embedded = Embedded {
        known: FxHashMap::default(),
        left: BESIDES + data.buffers.len(),
    };
    let images = (0..root.images.len()).map(|number| image(data, number, &mut embedded, remarks));
    Ok((materials, images.collect::<Result<_, _>>()?))
}

fn material(root: &Root, own: &gltf_json::Material, name: String, number: u32) -> Material {
    let metal = &own.pbr_metallic_roughness;
    let plain = |info: &gltf_json::texture::Info| {
        let placed = info
            .extensions
            .as_ref()
            .map(|all| all.texture_transform.is_some());
        used(root, info.index, info.tex_coord, 1.0, placed)
    };
    Material {
        color: metal.base_color_factor.0,
        color_texture: metal.base_color_texture.as_ref().and_then(plain),
        metallic: metal.metallic_factor.0,
        roughness: metal.roughness_factor.0,
        roughness_texture: metal.metallic_roughness_texture.as_ref().and_then(plain),
        normal_texture: (own.normal_texture.as_ref())
            .and_then(|info| used(root, info.index, info.tex_coord, info.scale, None)),
        occlusion_texture: (own.occlusion_texture.as_ref())
            .and_then(|info| used(root, info.index, info.tex_coord, info.strength.0, None)),
        glow: own.emissive_factor.0,
        glow_texture: own.emissive_texture.as_ref().and_then(plain),
        alpha: match own.alpha_mode {
            Checked::Valid(AlphaMode::Mask) => {
                Alpha::Cut(own.alpha_cutoff.map_or(CUT, |cutoff| cutoff.0))
            }
            Checked::Valid(AlphaMode::Blend) => Alpha::Blend,
            _ => Alpha::Opaque,
        },
        double_sided: own.double_sided,
        source: Some(number),
        ..Material::named(name)
    }
}

fn used(
    root: &Root,
    texture: Index<Texture>,
    uv_set: u32,
    strength: f32,
    is_placed: Option<bool>,
) -> Option<TextureUse> {
    let image = root.textures.get(texture.value())?.source;
    (image.value() < root.images.len()).then(|| TextureUse {
        uv_set,
        strength,
        is_placed: is_placed.unwrap_or(false),
        ..TextureUse::of(ImageId(image.value() as u32))
    })
}

/// Pictures that have been taken out of buffers.
struct Embedded {
    /// By view.
    known: FxHashMap<usize, Arc<[u8]>>,
    /// How many bytes may still be.
    left: usize,
}

impl Embedded {
    fn view(&mut self, data: &Data<'_>, view: Index<View>) -> Result<Arc<[u8]>, ReadError> {
        if let Some(known) = self.known.get(&view.value()) {
            return Ok(known.clone());
        }
        let bytes = data.buffers.view(data.document, view)?;
        self.left = self
            .left
            .checked_sub(bytes.len())
            .ok_or_else(|| ReadError::whole("images have far more bytes than the file"))?;
        let bytes: Arc<[u8]> = bytes.into();
        self.known.insert(view.value(), bytes.clone());
        Ok(bytes)
    }
}

fn image(
    data: &Data<'_>,
    number: usize,
    taken: &mut Embedded,
    remarks: &mut Remarks,
) -> Result<Image, ReadError> {
    let own = &data.document.root.images[number];
    let media_type = own
        .mime_type
        .as_ref()
        .map(|media_type| media_type.0.clone());
    let embedded = |bytes: Arc<[u8]>, stated: Option<String>| ImageData::Embedded {
        media_type: stated.unwrap_or_else(|| guessed(&bytes).to_string()),
        bytes,
    };
    let data = match (own.buffer_view, &own.uri) {
        (Some(view), _) => embedded(taken.view(data, view)?, media_type),
        (None, Some(uri)) => match data_uri(uri) {
            Some((stated, bytes)) => {
                let what = format!("images[{number}]");
                let bytes = bytes.map_err(|why| data.document.error(&what, &why))?;
                let stated = Some(stated.to_string()).filter(|stated| !stated.is_empty());
                embedded(bytes.into(), media_type.or(stated))
            }
            None => {
                let name = name_of(uri);
                ImageData::File {
                    found: remarks.found(&name),
                    name,
                }
            }
        },
        (None, None) => {
            let what = format!("images[{number}]");
            return Err(data.document.error(&what, "it is nowhere"));
        }
    };
    Ok(Image {
        name: own.name.clone(),
        data,
        size: None,
    })
}

fn guessed(bytes: &[u8]) -> &'static str {
    match image::guess_format(bytes) {
        Ok(format) => format.to_mime_type(),
        Err(_) => "application/octet-stream",
    }
}
