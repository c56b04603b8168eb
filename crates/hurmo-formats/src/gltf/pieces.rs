//! Primitives: which vertices make triangles and lines.

use super::accessor::Data;
use crate::ReadError;
use gltf_json::Index;
use gltf_json::mesh::{Mode, Primitive, Semantic};
use gltf_json::validation::Checked;
use hurmo_core::scene::Scene;
use rustc_hash::FxHashMap;

/// This many sets of UVs are read.
pub const UV_SETS: usize = 8;

/// The accessors of a primitive's vertices.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
pub struct Streams {
    pub positions: u32,
    pub normals: Option<u32>,
    /// By set.
    pub uvs: [Option<u32>; UV_SETS],
    pub colors: Option<u32>,
}

impl Streams {
    /// Those of a primitive, if it has positions.
    pub fn of(primitive: &Primitive) -> Option<Self> {
        let find = |semantic| primitive.attributes.get(&Checked::Valid(semantic));
        let number = |semantic| find(semantic).map(|accessor| accessor.value() as u32);
        Some(Self {
            positions: number(Semantic::Positions)?,
            normals: number(Semantic::Normals),
            uvs: std::array::from_fn(|set| number(Semantic::TexCoords(set as u32))),
            colors: number(Semantic::Colors(0)),
        })
    }
}

/// A primitive.
pub struct Piece {
    pub streams: Streams,
    /// All smaller than the streams have vertices.
    pub indices: Vec<u32>,
    pub mode: Mode,
    /// The name of its material.
    pub material: Option<String>,
}

/// This many corners and vertices are read for each byte of all buffers, and this many besides: meshes
/// may share what they are made of, but a file that describes more does so to do harm.
const A_BYTE: usize = 4;
const BESIDES: usize = 4_000_000;

/// How much may still be read.
pub struct Budget(usize);

impl Budget {
    /// What buffers of this size allow.
    pub fn of(data: &Data<'_>) -> Self {
        Self(BESIDES + A_BYTE * data.buffers.len())
    }

    /// Counts what is about to be read.
    pub fn spend(&mut self, elements: usize) -> Result<(), ReadError> {
        let left = self.0.checked_sub(elements);
        self.0 = left.ok_or_else(|| {
            ReadError::whole(
                "the document describes far more vertices and triangles than the file has bytes for",
            )
        })?;
        Ok(())
    }
}

/// The pieces of a mesh; what of it is not understood is counted.
pub fn pieces(
    data: &Data<'_>,
    scene: &Scene,
    mesh: usize,
    budget: &mut Budget,
    passed_over: &mut FxHashMap<&'static str, usize>,
) -> Result<Vec<Piece>, ReadError> {
    let mut pieces = Vec::new();
    for (number, primitive) in data.document.root.meshes[mesh]
        .primitives
        .iter()
        .enumerate()
    {
        let error = |why: &str| {
            let what = format!("meshes[{mesh}].primitives[{number}]");
            data.document.error(&what, why)
        };
        let mut pass =
            |what: &'static str, count: usize| *passed_over.entry(what).or_default() += count;
        let Some(streams) = Streams::of(primitive) else {
            pass("primitives without positions", 1);
            continue;
        };
        let count = data.count(Index::new(streams.positions))?;
        budget.spend(match primitive.indices {
            Some(indices) => data.count(indices)?,
            None => count,
        })?;
        let indices = match primitive.indices {
            Some(indices) => data.indices(indices)?,
            None => (0..count as u32).collect(),
        };
        if indices.iter().any(|&index| index as usize >= count) {
            return Err(error("an index is past the last vertex"));
        }
        let material = match primitive.material {
            None => None,
            Some(material) => match scene.materials.get(material.value()) {
                Some(material) => Some(material.name.clone()),
                None => return Err(error("its material does not exist")),
            },
        };
        let mode = match primitive.mode {
            Checked::Valid(mode) => mode,
            Checked::Invalid => return Err(error("its mode is none that there is")),
        };
        if mode == Mode::Points {
            pass("points", indices.len());
        }
        if mode == Mode::Triangles && indices.len() % 3 != 0 {
            return Err(error(
                "the number of its corners is not a multiple of three",
            ));
        }
        pass_attributes(primitive, &mut pass);
        pieces.push(Piece {
            streams,
            indices,
            mode,
            material,
        });
    }
    Ok(pieces)
}

/// Counts what vertices have that the model does not keep.
fn pass_attributes(primitive: &Primitive, pass: &mut impl FnMut(&'static str, usize)) {
    for semantic in primitive.attributes.keys() {
        match semantic {
            Checked::Valid(Semantic::Tangents) => {
                pass("tangents, which programs work out of normals and UVs", 1);
            }
            Checked::Valid(Semantic::TexCoords(set)) if *set as usize >= UV_SETS => {
                pass("UV sets beyond the eighth", 1);
            }
            Checked::Valid(Semantic::Colors(1..)) => pass("colour sets beyond the first", 1),
            Checked::Valid(Semantic::Joints(0)) => pass("weights of skins", 1),
            Checked::Invalid => pass("attributes of the program that wrote it", 1),
            _ => {}
        }
    }
    if primitive
        .targets
        .as_ref()
        .is_some_and(|targets| !targets.is_empty())
    {
        pass("shapes to morph into", 1);
    }
}

impl Piece {
    /// Gives all triangles. Those of strips that only lead elsewhere are none.
    pub fn triangles(&self, mut give: impl FnMut([u32; 3])) {
        let all = &self.indices;
        match self.mode {
            Mode::Triangles => all.chunks_exact(3).for_each(|t| give([t[0], t[1], t[2]])),
            Mode::TriangleStrip => {
                for (i, t) in all.windows(3).enumerate() {
                    let [a, b, c] = [t[0], t[1], t[2]];
                    if a != b && b != c && c != a {
                        give(if i % 2 == 0 { [a, b, c] } else { [b, a, c] });
                    }
                }
            }
            Mode::TriangleFan => {
                for pair in all.get(1..).unwrap_or_default().windows(2) {
                    give([all[0], pair[0], pair[1]]);
                }
            }
            _ => {}
        }
    }

    /// Gives all chains of lines.
    pub fn chains(&self, mut give: impl FnMut(&[u32])) {
        let all = &self.indices;
        match self.mode {
            Mode::Lines => all.chunks_exact(2).for_each(&mut give),
            Mode::LineStrip if all.len() > 1 => give(all),
            Mode::LineLoop if all.len() > 1 => {
                let round = all.iter().chain(&all[..1]).copied();
                give(&round.collect::<Vec<_>>());
            }
            _ => {}
        }
    }
}
