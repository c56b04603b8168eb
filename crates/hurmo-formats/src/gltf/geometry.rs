//! Meshes: their vertices welded by position, each mesh once, where its node stands.

use super::accessor::Data;
use super::pieces::{Budget, Piece, Streams, UV_SETS, pieces};
use crate::ReadError;
use glam::{DAffine3, DVec2, DVec3};
use gltf_json::Index;
use hurmo_core::mesh::{CornerLayer, FaceTags, NO_VALUE, Tag};
use hurmo_core::scene::{Names, NodeId, Scene, Shows};
use hurmo_core::spatial::{exact_weld, numbered_by_first};
use hurmo_core::{Mesh, Model, VertexId};
use rustc_hash::{FxHashMap, FxHashSet};
use std::sync::Arc;

/// The model of all meshes in a scene.
pub fn model(data: &Data<'_>, scene: &Scene, notes: &mut Vec<String>) -> Result<Model, ReadError> {
    let placements = scene.mesh_placements();
    let mut gathering = Gathering {
        data,
        budget: Budget::of(data),
        users: users(data),
        decoded: FxHashMap::default(),
        positions: Vec::new(),
        colors: Vec::new(),
        has_colors: false,
        torn_colors: 0,
        uv_sets: Vec::new(),
        normals: CornerLayer::default(),
        corners: Vec::new(),
        lines: Vec::new(),
        tags: FaceTags::default(),
    };
    let mut passed_over: FxHashMap<&'static str, usize> = FxHashMap::default();
    let names = object_names(scene);
    for (mesh, home) in homes(data, scene).into_iter().enumerate() {
        let budget = &mut gathering.budget;
        let pieces = pieces(data, scene, mesh, budget, &mut passed_over)?;
        let object = names[home.index()].as_deref();
        gathering.add_mesh(&pieces, home, object, placements[home.index()])?;
    }
    let mut passed_over: Vec<_> = passed_over.into_iter().collect();
    passed_over.sort_unstable();
    for (what, count) in passed_over {
        notes.push(format!("passed over: {what} ({count})"));
    }
    if gathering.torn_colors > 0 {
        notes.push(format!(
            "{} vertices have another colour in one face than in the next: one of them is taken",
            gathering.torn_colors
        ));
    }
    gathering.finish()
}

/// How many pieces, with other streams or of other meshes, use an accessor of positions.
fn users(data: &Data<'_>) -> FxHashMap<u32, usize> {
    let mut found: FxHashSet<(usize, Streams)> = FxHashSet::default();
    let mut users = FxHashMap::default();
    for (number, mesh) in data.document.root.meshes.iter().enumerate() {
        for streams in mesh.primitives.iter().filter_map(Streams::of) {
            if found.insert((number, streams)) {
                *users.entry(streams.positions).or_default() += 1;
            }
        }
    }
    users
}

/// What is gathered of a model, mesh by mesh.
struct Gathering<'a> {
    data: &'a Data<'a>,
    budget: Budget,
    users: FxHashMap<u32, usize>,
    /// Accessors of three floats that are used more than once.
    decoded: FxHashMap<u32, Arc<Vec<[f32; 3]>>>,
    positions: Vec<DVec3>,
    colors: Vec<[f32; 4]>,
    has_colors: bool,
    torn_colors: usize,
    uv_sets: Vec<CornerLayer<DVec2>>,
    normals: CornerLayer<DVec3>,
    corners: Vec<VertexId>,
    lines: Vec<Vec<VertexId>>,
    tags: FaceTags,
}

/// The vertices of a mesh's pieces that have the same streams.
struct Block {
    /// Which of the streams' vertices, in order; `None` for all.
    which: Option<Vec<u32>>,
    /// Where they begin among the mesh's, and where their values begin in the layers.
    first: u32,
    first_uvs: [Option<u32>; UV_SETS],
    first_normal: Option<u32>,
}

impl Block {
    /// The place of one of the streams' vertices among the block's.
    fn place(&self, vertex: u32) -> u32 {
        match &self.which {
            None => vertex,
            Some(which) => which.binary_search(&vertex).expect("all that are used") as u32,
        }
    }
}

/// A mesh's vertices before they are welded, in its own space.
#[derive(Default)]
struct Raw {
    positions: Vec<DVec3>,
    colors: Vec<[f32; 4]>,
}

impl Gathering<'_> {
    fn add_mesh(
        &mut self,
        pieces: &[Piece],
        home: NodeId,
        object: Option<&str>,
        placement: DAffine3,
    ) -> Result<(), ReadError> {
        let mut used: FxHashMap<Streams, Option<Vec<u32>>> = FxHashMap::default();
        for piece in pieces {
            let is_shared = self
                .users
                .get(&piece.streams.positions)
                .is_some_and(|&n| n > 1);
            let which = used
                .entry(piece.streams)
                .or_insert(is_shared.then(Vec::new));
            if let Some(which) = which {
                which.extend(&piece.indices);
            }
        }
        let mut raw = Raw::default();
        let mut blocks: FxHashMap<Streams, Block> = FxHashMap::default();
        for piece in pieces {
            if let Some(mut which) = used.remove(&piece.streams) {
                if let Some(which) = &mut which {
                    which.sort_unstable();
                    which.dedup();
                }
                let block = self.block(&mut raw, piece.streams, which, placement)?;
                blocks.insert(piece.streams, block);
            }
        }
        let vertices = self.weld(&raw, placement);
        let is_mirrored = placement.matrix3.determinant() < 0.0;
        let mut tag_of: FxHashMap<Option<String>, u32> = FxHashMap::default();
        for piece in pieces {
            let block = &blocks[&piece.streams];
            let tag = *tag_of.entry(piece.material.clone()).or_insert_with(|| {
                self.tags.table.push(Tag {
                    object: object.map(String::from),
                    material: piece.material.clone(),
                    node: Some(home),
                    ..Tag::default()
                });
                self.tags.table.len() as u32 - 1
            });
            piece.triangles(|[a, b, c]| {
                let triangle = if is_mirrored { [a, c, b] } else { [a, b, c] };
                for vertex in triangle {
                    let place = block.place(vertex);
                    self.corners.push(vertices[(block.first + place) as usize]);
                    let value = |first: Option<u32>| first.map_or(NO_VALUE, |first| first + place);
                    for (set, first) in self.uv_sets.iter_mut().zip(block.first_uvs) {
                        set.index.push(value(first));
                    }
                    self.normals.index.push(value(block.first_normal));
                }
                self.tags.of_face.push(tag);
            });
            piece.chains(|chain| {
                let vertex = |&v: &u32| vertices[(block.first + block.place(v)) as usize];
                self.lines.push(chain.iter().map(vertex).collect());
            });
        }
        Ok(())
    }

    /// Reads streams, or some of their vertices.
    fn block(
        &mut self,
        raw: &mut Raw,
        streams: Streams,
        which: Option<Vec<u32>>,
        placement: DAffine3,
    ) -> Result<Block, ReadError> {
        let data = self.data;
        let count = data.count(Index::new(streams.positions))?;
        let same_length = |accessor: Option<u32>| match accessor {
            Some(accessor) if data.count(Index::new(accessor))? != count => {
                let what = format!("accessors[{accessor}]");
                let why = "it has not as many elements as there are positions";
                Err(data.document.error(&what, why))
            }
            _ => Ok(()),
        };
        same_length(streams.normals)?;
        streams.uvs.into_iter().try_for_each(same_length)?;
        same_length(streams.colors)?;
        let first = raw.positions.len() as u32;
        let positions = self.three(streams.positions)?;
        let wide = |v: [f32; 3]| DVec3::from_array(v.map(f64::from));
        raw.positions
            .extend(chosen(&positions, which.as_deref()).map(wide));
        let mut first_normal = None;
        if let Some(normals) = streams.normals {
            first_normal = Some(self.normals.values.len() as u32);
            let normals = self.three(normals)?;
            let turn = placement.matrix3.inverse().transpose();
            let turn = if turn.is_finite() {
                turn
            } else {
                glam::DMat3::IDENTITY
            };
            let is_turned = turn != glam::DMat3::IDENTITY;
            let turned = |n: [f32; 3]| match is_turned {
                true => (turn * wide(n)).normalize_or_zero(),
                false => wide(n),
            };
            let normals = chosen(&normals, which.as_deref()).map(turned);
            self.normals.values.extend(normals);
        }
        let mut first_uvs = [None; UV_SETS];
        for (set, uvs) in streams.uvs.into_iter().enumerate() {
            let Some(uvs) = uvs else { continue };
            self.budget.spend(count)?;
            let uvs = data.vectors::<2>(Index::new(uvs))?;
            let layer = self.uv_set(set);
            first_uvs[set] = Some(layer.values.len() as u32);
            // The format counts from the top, the model from the bottom.
            let upward = |[u, v]: [f32; 2]| DVec2::new(u.into(), 1.0 - f64::from(v));
            let uvs = chosen(&uvs, which.as_deref()).map(upward);
            layer.values.extend(uvs);
        }
        if let Some(colors) = streams.colors {
            self.has_colors = true;
            self.budget.spend(count)?;
            raw.colors.resize(first as usize, [1.0; 4]);
            let colors = data.colors(Index::new(colors))?;
            raw.colors
                .extend(chosen(&colors, which.as_deref()).map(on_screen));
        }
        Ok(Block {
            which,
            first,
            first_uvs,
            first_normal,
        })
    }

    /// A set of UVs, with none for all corners so far where it is new.
    fn uv_set(&mut self, set: usize) -> &mut CornerLayer<DVec2> {
        while self.uv_sets.len() <= set {
            self.uv_sets.push(CornerLayer {
                values: Vec::new(),
                index: vec![NO_VALUE; self.corners.len()],
            });
        }
        &mut self.uv_sets[set]
    }

    /// Adds a mesh's vertices, those at equal positions as one; the name of each.
    fn weld(&mut self, raw: &Raw, placement: DAffine3) -> Vec<VertexId> {
        let first = exact_weld(&raw.positions);
        let colors = &raw.colors;
        let torn = |(own, first): (usize, &VertexId)| colors[own] != colors[first.index()];
        if !colors.is_empty() {
            let ends = first.iter().enumerate().take(colors.len());
            self.torn_colors += ends.filter(|&(own, first)| torn((own, first))).count();
        }
        let mut names = first.clone();
        numbered_by_first(&mut names);
        let base = self.positions.len() as u32;
        let is_placed = placement != DAffine3::IDENTITY;
        for (own, first) in first.iter().enumerate() {
            if first.index() == own {
                let at = raw.positions[own];
                self.positions.push(match is_placed {
                    true => placement.transform_point3(at),
                    false => at,
                });
                self.colors
                    .push(colors.get(own).copied().unwrap_or([1.0; 4]));
            }
        }
        names.iter_mut().for_each(|name| name.0 += base);
        names
    }

    fn three(&mut self, accessor: u32) -> Result<Arc<Vec<[f32; 3]>>, ReadError> {
        if let Some(decoded) = self.decoded.get(&accessor) {
            return Ok(decoded.clone());
        }
        self.budget.spend(self.data.count(Index::new(accessor))?)?;
        let decoded = Arc::new(self.data.vectors::<3>(Index::new(accessor))?);
        if self.users.get(&accessor).is_none_or(|&users| users > 1) {
            self.decoded.insert(accessor, decoded.clone());
        }
        Ok(decoded)
    }

    fn finish(self) -> Result<Model, ReadError> {
        let faces = self.tags.of_face.len() as u32;
        let starts = (0..=faces).map(|face| 3 * face).collect();
        let mesh = Mesh::from_parts(self.positions, self.corners, starts);
        let mut model = Model::from(mesh.map_err(|error| ReadError::whole(error.to_string()))?);
        model.lines = self.lines;
        let attributes = &mut model.attributes;
        attributes.colors = self.has_colors.then_some(self.colors);
        attributes.set_uv_sets(self.uv_sets);
        attributes.normals = (!self.normals.values.is_empty()).then_some(self.normals);
        attributes.tags = self.tags;
        Ok(model)
    }
}

/// All values, or some of them.
fn chosen<'v, T: Copy>(all: &'v [T], which: Option<&'v [u32]>) -> impl Iterator<Item = T> + 'v {
    let some = which.into_iter().flatten().map(|&one| all[one as usize]);
    let every = if which.is_some() { &[] } else { all };
    every.iter().copied().chain(some)
}

/// A linear colour, as on a screen.
fn on_screen([r, g, b, a]: [f32; 4]) -> [f32; 4] {
    let [r, g, b] = [r, g, b].map(hurmo_core::paint::on_screen);
    [r, g, b, a]
}

/// For every mesh the node that has it.
fn homes(data: &Data<'_>, scene: &Scene) -> Vec<NodeId> {
    let root = &data.document.root;
    let mut homes: Vec<Option<NodeId>> = vec![None; root.meshes.len()];
    for (number, node) in root.nodes.iter().enumerate() {
        if let (Some(mesh), Shows::Own { .. }) = (node.mesh, &scene.nodes[number].shows) {
            homes[mesh.value()] = Some(NodeId(number as u32));
        }
    }
    // Meshes that no node shows have got nodes behind all others, in order.
    let mut made = root.nodes.len() as u32..;
    let home = |home: Option<NodeId>| home.or_else(|| made.next().map(NodeId));
    homes.into_iter().filter_map(home).collect()
}

/// For every node that has a mesh a name that no other such has. One that is alone needs none.
fn object_names(scene: &Scene) -> Vec<Option<String>> {
    let mut names_given = Names::default();
    let is_alone = scene.objects().0 == 1;
    let nodes = scene.nodes.iter().enumerate();
    let name = nodes.map(|(number, node)| {
        let Shows::Own { mesh, .. } = &node.shows else {
            return None;
        };
        let names = [node.name.as_ref(), mesh.as_ref()];
        let mut names = names.into_iter().flatten().map(|name| name.trim());
        let name = match names.find(|name| !name.is_empty()) {
            // In texts a name is a line.
            Some(name) => name.split_whitespace().collect::<Vec<_>>().join(" "),
            None if is_alone => return None,
            None => format!("object {}", number + 1),
        };
        Some(names_given.free(&name))
    });
    name.collect()
}
