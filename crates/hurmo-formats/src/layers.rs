//! Coloured layers as a binary glTF 2.0 file: named nodes of triangles, lines and markers that
//! any viewer of the format shows.
//!
//! ```text
//! layers ─▶ positions in one buffer ─▶ a node, a mesh and a material each ─▶ GLB
//! ```
//!
//! The document follows the Khronos glTF 2.0 specification (2021): a 12-byte header, a JSON
//! chunk padded with spaces, a binary chunk padded with zeros. No normals are written, so that
//! viewers light each face flat, as the specification asks.

use crate::gltf::container;
use glam::{DVec3, Vec3};
use gltf_json::accessor::{ComponentType, GenericComponentType, Type};
use gltf_json::buffer::{Stride, Target};
use gltf_json::material::{EmissiveFactor, PbrBaseColorFactor, StrengthFactor};
use gltf_json::mesh::{Mode, Primitive, Semantic};
use gltf_json::validation::{Checked, USize64};
use gltf_json::{Index, Root};
use hurmo_core::paint;
use serde_json::json;

/// A node of the file.
#[derive(Clone, Debug, Default)]
pub struct Layer {
    /// Its name.
    pub name: String,
    /// Red, green, blue, from 0 to 1, as on a screen.
    pub color: [f32; 3],
    /// Corners of triangles.
    pub triangles: Vec<[DVec3; 3]>,
    /// Ends of lines.
    pub lines: Vec<[DVec3; 2]>,
    /// Places of markers.
    pub points: Vec<DVec3>,
}

/// Why layers could not be written.
#[derive(Debug, thiserror::Error)]
pub enum LayerError {
    /// A coordinate that single precision can't hold.
    #[error("a coordinate is too large for glTF, which has single precision")]
    TooLarge,
    /// More than a file of this kind can hold.
    #[error("the marked model would be over 4 GB, the most that the format can hold")]
    TooMuch,
    /// The document could not be made into JSON.
    #[error("the document could not be written: {0}")]
    Json(#[from] serde_json::Error),
}

/// Makes a GLB file; markers are as large as `marker`, from their middle.
///
/// # Errors
/// When the format can't hold the layers.
pub fn layers_to_glb(layers: &[Layer], marker: f64) -> Result<Vec<u8>, LayerError> {
    let mut builder = Builder::default();
    let nodes: Vec<_> = layers
        .iter()
        .map(|layer| builder.layer(layer, marker))
        .collect::<Result<Vec<_>, _>>()?;
    let scene = gltf_json::Scene {
        extensions: Default::default(),
        extras: Default::default(),
        name: None,
        nodes: nodes.into_iter().flatten().collect(),
    };
    builder.finish(scene)
}

#[derive(Default)]
struct Builder {
    root: Root,
    bytes: Vec<u8>,
}

impl Builder {
    /// Adds a layer; nothing when it is empty.
    fn layer(
        &mut self,
        layer: &Layer,
        marker: f64,
    ) -> Result<Option<Index<gltf_json::Node>>, LayerError> {
        let material = self.material(layer);
        let markers = layer.points.iter().flat_map(|&at| octahedron(at, marker));
        let triangles = layer.triangles.iter().copied().chain(markers).flatten();
        let lines = layer.lines.iter().copied().flatten();
        let mut primitives = Vec::new();
        primitives.extend(self.primitive(triangles, Mode::Triangles, material)?);
        primitives.extend(self.primitive(lines, Mode::Lines, material)?);
        if primitives.is_empty() {
            return Ok(None);
        }
        let mesh = self.root.push(gltf_json::Mesh {
            extensions: Default::default(),
            extras: Default::default(),
            name: Some(layer.name.clone()),
            primitives,
            weights: None,
        });
        let node = gltf_json::Node {
            mesh: Some(mesh),
            name: Some(layer.name.clone()),
            ..Default::default()
        };
        Ok(Some(self.root.push(node)))
    }

    fn material(&mut self, layer: &Layer) -> Index<gltf_json::Material> {
        let linear = layer.color.map(paint::linear);
        let mut material = gltf_json::Material {
            name: Some(layer.name.clone()),
            double_sided: true,
            ..Default::default()
        };
        let [r, g, b] = linear;
        material.pbr_metallic_roughness.base_color_factor = PbrBaseColorFactor([r, g, b, 1.0]);
        material.pbr_metallic_roughness.metallic_factor = StrengthFactor(0.0);
        material.pbr_metallic_roughness.roughness_factor = StrengthFactor(0.9);
        // Some light of its own, so that lines, which no light falls on, show.
        material.emissive_factor = EmissiveFactor(linear.map(|c| c * 0.35));
        self.root.push(material)
    }

    fn primitive(
        &mut self,
        corners: impl Iterator<Item = DVec3>,
        mode: Mode,
        material: Index<gltf_json::Material>,
    ) -> Result<Option<Primitive>, LayerError> {
        let offset = self.bytes.len();
        let (mut low, mut high) = (Vec3::INFINITY, Vec3::NEG_INFINITY);
        let mut count = 0u64;
        for corner in corners {
            let corner = corner.as_vec3();
            if !corner.is_finite() {
                return Err(LayerError::TooLarge);
            }
            (low, high) = (low.min(corner), high.max(corner));
            let bytes = corner.to_array().map(f32::to_le_bytes);
            self.bytes.extend_from_slice(bytes.as_flattened());
            count += 1;
        }
        if count == 0 {
            return Ok(None);
        }
        if self.bytes.len() > u32::MAX as usize / 2 {
            return Err(LayerError::TooMuch);
        }
        let view = self.root.push(gltf_json::buffer::View {
            buffer: Index::new(0),
            byte_length: USize64::from(self.bytes.len() - offset),
            byte_offset: Some(USize64::from(offset)),
            byte_stride: Some(Stride(12)),
            name: None,
            target: Some(Checked::Valid(Target::ArrayBuffer)),
            extensions: Default::default(),
            extras: Default::default(),
        });
        let accessor = self.root.push(gltf_json::Accessor {
            buffer_view: Some(view),
            byte_offset: Some(USize64(0)),
            count: USize64(count),
            component_type: Checked::Valid(GenericComponentType(ComponentType::F32)),
            extensions: Default::default(),
            extras: Default::default(),
            type_: Checked::Valid(Type::Vec3),
            min: Some(json!(low.to_array())),
            max: Some(json!(high.to_array())),
            name: None,
            normalized: false,
            sparse: None,
        });
        Ok(Some(Primitive {
            attributes: [(Checked::Valid(Semantic::Positions), accessor)].into(),
            extensions: Default::default(),
            extras: Default::default(),
            indices: None,
            material: Some(material),
            mode: Checked::Valid(mode),
            targets: None,
        }))
    }

    fn finish(mut self, scene: gltf_json::Scene) -> Result<Vec<u8>, LayerError> {
        let has_nodes = !scene.nodes.is_empty();
        if has_nodes {
            let scene = self.root.push(scene);
            self.root.scene = Some(scene);
            self.root.buffers.push(gltf_json::Buffer {
                byte_length: USize64::from(self.bytes.len()),
                name: None,
                uri: None,
                extensions: Default::default(),
                extras: Default::default(),
            });
        }
        self.root.asset.version = "2.0".into();
        self.root.asset.generator = Some(concat!("hurmo ", env!("CARGO_PKG_VERSION")).into());
        let document = serde_json::to_vec(&self.root)?;
        let mut file = Vec::new();
        container::glb(&document, &self.bytes, &mut file).map_err(|_| LayerError::TooMuch)?;
        Ok(file)
    }
}

/// A small solid round a point.
fn octahedron(at: DVec3, radius: f64) -> impl Iterator<Item = [DVec3; 3]> {
    let signs = [1.0, -1.0];
    signs.into_iter().flat_map(move |x| {
        signs.into_iter().flat_map(move |y| {
            signs.into_iter().map(move |z| {
                let tips = [DVec3::X * x, DVec3::Y * y, DVec3::Z * z].map(|tip| at + tip * radius);
                match x * y * z > 0.0 {
                    true => tips,
                    false => [tips[0], tips[2], tips[1]],
                }
            })
        })
    })
}
