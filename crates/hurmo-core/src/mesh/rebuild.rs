//! Making a model out of another: the one place where faces are kept, cut up, turned or added
//! while their attributes come along.
//!
//! ```text
//! source model ──┬─ keep(face) ───────────────┐
//!                ├─ turned(face) ─────────────┼─▶ finish() ─▶ new model
//!                ├─ piece(face, its corners) ─┤
//!                └─ new_face(like, vertices) ─┘
//! ```

use super::{CornerLayer, FaceId, Mesh, Model, NO_VALUE, Unusable, VertexId};
use glam::{DVec2, DVec3};

/// Collects the faces of a new model over the vertices of `source` (and new ones).
pub struct Rebuild<'a> {
    source: &'a Model,
    mesh: Mesh,
    /// For every corner made so far: the source corner that it copies, or [`NO_VALUE`].
    corner_from: Vec<u32>,
    /// For every face made so far: the source face whose tag it has.
    face_from: Vec<FaceId>,
    new_colors: Vec<[f32; 4]>,
    /// Made-up corners, spoken of by numbers behind those of the source's corners.
    made: Vec<MadeUp>,
}

/// A corner that the source doesn't have.
enum MadeUp {
    /// Means of source corners.
    Mean(Vec<(u32, f64)>),
    /// With these UVs, by set, and no normal.
    Uvs(Vec<Option<DVec2>>),
}

impl<'a> Rebuild<'a> {
    /// Starts with all of the source's vertices and none of its faces.
    pub fn new(source: &'a Model) -> Self {
        let mesh = Mesh::from_parts(source.mesh.positions().to_vec(), Vec::new(), vec![0])
            .expect("positions of a mesh are finite");
        Self {
            source,
            mesh,
            corner_from: Vec::with_capacity(source.mesh.corners().len()),
            face_from: Vec::with_capacity(source.mesh.face_count()),
            new_colors: Vec::new(),
            made: Vec::new(),
        }
    }

    /// Makes up a corner whose values are means of those of source corners, with weights that
    /// sum to one; for [`Self::moved_piece`]. It has none where one of them has none.
    pub fn blended(&mut self, of: impl Iterator<Item = (usize, f64)>) -> usize {
        let of = of.map(|(corner, weight)| (corner as u32, weight));
        self.make_up(MadeUp::Mean(of.collect()))
    }

    /// Makes up a corner with UVs: for every set of them one, or none.
    pub fn with_uvs(&mut self, uvs: impl Iterator<Item = Option<DVec2>>) -> usize {
        self.make_up(MadeUp::Uvs(uvs.collect()))
    }

    fn make_up(&mut self, corner: MadeUp) -> usize {
        self.made.push(corner);
        self.source.mesh.corners().len() + self.made.len() - 1
    }

    /// Adds a vertex, coloured like `like`.
    pub fn new_vertex(&mut self, position: DVec3, like: VertexId) -> VertexId {
        self.colored_vertex(position, like, None)
    }

    /// Adds a vertex of a colour, or else coloured like `like`.
    pub fn colored_vertex(
        &mut self,
        position: DVec3,
        like: VertexId,
        color: Option<[f32; 4]>,
    ) -> VertexId {
        if let Some(colors) = &self.source.attributes.colors {
            let others = || match colors.get(like.index()) {
                Some(&color) => color,
                None => self.new_colors[like.index() - colors.len()],
            };
            self.new_colors.push(color.unwrap_or_else(others));
        }
        self.mesh.push_vertex(position)
    }

    /// A face as it is.
    pub fn keep(&mut self, face: FaceId) {
        self.piece(face, self.source.mesh.face_range(face));
    }

    /// A face, the other way round; its first corner stays first.
    pub fn turned(&mut self, face: FaceId) {
        let range = self.source.mesh.face_range(face);
        let first = range.clone().take(1);
        self.piece(face, first.chain(range.skip(1).rev()));
    }

    /// A face over some of the corners of a source face, given as corner indices.
    pub fn piece(&mut self, face: FaceId, corners: impl Iterator<Item = usize> + Clone) {
        self.mesh
            .push_face(corners.clone().map(|c| self.source.mesh.corners()[c]));
        self.corner_from.extend(corners.map(|c| c as u32));
        self.face_from.push(face);
    }

    /// A face over some corners of a source face, each at a vertex of its own choosing: for
    /// taking a vertex apart, or for putting several together.
    pub fn moved_piece(&mut self, face: FaceId, corners: impl Iterator<Item = (usize, VertexId)>) {
        let corner_from = &mut self.corner_from;
        self.mesh.push_face(corners.map(|(corner, vertex)| {
            corner_from.push(corner as u32);
            vertex
        }));
        self.face_from.push(face);
    }

    /// A face that the source doesn't have, in the group and material of `like`.
    pub fn new_face(&mut self, like: FaceId, vertices: &[VertexId]) {
        self.mesh.push_face(vertices.iter().copied());
        self.corner_from
            .extend(std::iter::repeat_n(NO_VALUE, vertices.len()));
        self.face_from.push(like);
    }

    /// Where a vertex is, the source's or a new one.
    pub fn position(&self, vertex: VertexId) -> DVec3 {
        self.mesh.position(vertex)
    }

    /// How many faces there are by now.
    pub fn face_count(&self) -> usize {
        self.mesh.face_count()
    }

    /// The new model. Vertices that lost their faces stay; see [`Model::drop_unused_vertices`].
    pub fn finish(self) -> Model {
        let old = &self.source.attributes;
        let uv_sets = old.uv_sets().enumerate().map(|(set, layer)| {
            let own = |corner: &MadeUp| match corner {
                MadeUp::Uvs(uvs) => uvs[set],
                MadeUp::Mean(of) => mean(layer, of),
            };
            copied(layer, &self.corner_from, &self.made, own)
        });
        let mut attributes = super::Attributes {
            uvs: None,
            more_uvs: Vec::new(),
            normals: old.normals.as_ref().map(|layer| {
                let own = |corner: &MadeUp| match corner {
                    MadeUp::Uvs(_) => None,
                    MadeUp::Mean(of) => mean(layer, of).map(DVec3::normalize_or_zero),
                };
                copied(layer, &self.corner_from, &self.made, own)
            }),
            colors: old.colors.clone(),
            tags: super::FaceTags {
                table: old.tags.table.clone(),
                of_face: Vec::new(),
            },
            material_libraries: old.material_libraries.clone(),
            scene: old.scene.clone(),
        };
        attributes.set_uv_sets(uv_sets);
        if let Some(colors) = &mut attributes.colors {
            colors.extend(self.new_colors);
        }
        if !old.tags.is_empty() {
            attributes.tags.of_face = self
                .face_from
                .iter()
                .map(|face| old.tags.of_face[face.index()])
                .collect();
        }
        Model {
            mesh: self.mesh,
            attributes,
            lines: self.source.lines.clone(),
            unit: self.source.unit,
            up: self.source.up,
            unusable: Unusable::default(),
        }
    }
}

impl Model {
    /// The model without some faces, the vertices that only they used, and the line elements
    /// that end at these; and for every vertex, whether it went.
    pub fn without_faces(&self, goes: impl Fn(FaceId) -> bool) -> (Model, Vec<bool>) {
        let mut rebuild = Rebuild::new(self);
        for face in self.mesh.face_ids().filter(|&face| !goes(face)) {
            rebuild.keep(face);
        }
        let mut rest = rebuild.finish();
        let vertex_goes = rest.drop_what_lost_its_faces(self);
        (rest, vertex_goes)
    }

    /// Drops the vertices that only faces used that are gone since, and the line elements that end at
    /// these; says for every vertex whether it went. What `before` is was made into this.
    pub(crate) fn drop_what_lost_its_faces(&mut self, before: &Model) -> Vec<bool> {
        let was_used = before.mesh.used_vertices().into_iter();
        let mut goes: Vec<bool> = was_used
            .zip(self.mesh.used_vertices())
            .map(|(was, is)| was && !is)
            .collect();
        // What is new since stays.
        goes.resize(self.mesh.vertex_count(), false);
        self.lines
            .retain(|line| !line.iter().any(|v| goes[v.index()]));
        self.drop_vertices(&goes);
        goes
    }
}

fn mean<T>(layer: &CornerLayer<T>, of: &[(u32, f64)]) -> Option<T>
where
    T: Copy + std::ops::Mul<f64, Output = T> + std::iter::Sum,
{
    of.iter()
        .map(|&(corner, weight)| Some(layer.at(corner as usize)? * weight))
        .sum()
}

fn copied<T: Copy>(
    layer: &CornerLayer<T>,
    corner_from: &[u32],
    made: &[MadeUp],
    own: impl Fn(&MadeUp) -> Option<T>,
) -> CornerLayer<T> {
    let mut values = layer.values.clone();
    let made: Vec<u32> = made
        .iter()
        .map(|corner| match own(corner) {
            Some(value) => {
                values.push(value);
                values.len() as u32 - 1
            }
            None => NO_VALUE,
        })
        .collect();
    let index = corner_from.iter().map(|&corner| match corner {
        NO_VALUE => NO_VALUE,
        corner => match layer.index.get(corner as usize) {
            Some(&value) => value,
            None => made[corner as usize - layer.index.len()],
        },
    });
    CornerLayer {
        index: index.collect(),
        values,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{FaceTags, Tag};
    use glam::DVec2;

    fn tagged_quad() -> Model {
        let positions = [(0., 0.), (1., 0.), (1., 1.), (0., 1.)]
            .map(|(x, y)| DVec3::new(x, y, 0.0))
            .to_vec();
        let corners = (0..4).map(VertexId).collect();
        let mut model = Model::from(Mesh::from_parts(positions, corners, vec![0, 4]).unwrap());
        model.attributes.uvs = Some(CornerLayer {
            values: (0..4).map(|i| DVec2::new(i as f64, 0.0)).collect(),
            index: vec![0, 1, 2, 3],
        });
        model.attributes.tags = FaceTags {
            table: vec![Tag {
                material: Some("pane".into()),
                ..Tag::default()
            }],
            of_face: vec![0],
        };
        model
    }

    #[test]
    fn turning_keeps_every_corner_with_its_own_value() {
        let model = tagged_quad();
        let mut rebuild = Rebuild::new(&model);
        rebuild.turned(FaceId(0));
        let turned = rebuild.finish();
        assert_eq!(turned.mesh.face(FaceId(0)), [0, 3, 2, 1].map(VertexId));
        assert_eq!(turned.attributes.uvs.unwrap().index, [0, 3, 2, 1]);
        assert_eq!(turned.attributes.tags.of_face, [0]);
    }

    #[test]
    fn a_blended_corner_lies_between_those_it_is_made_of() {
        let model = tagged_quad();
        let mut rebuild = Rebuild::new(&model);
        let middle = rebuild.new_vertex(DVec3::new(0.5, 0.0, 0.0), VertexId(0));
        let between = rebuild.blended([(0, 0.25), (1, 0.75)].into_iter());
        let corners = [(0, VertexId(0)), (between, middle), (2, VertexId(2))];
        rebuild.moved_piece(FaceId(0), corners.into_iter());
        let uvs = rebuild.finish().attributes.uvs.unwrap();
        assert_eq!(uvs.at(1), Some(DVec2::new(0.75, 0.0)));
        assert_eq!(uvs.at(2), Some(DVec2::new(2.0, 0.0)));
    }

    #[test]
    fn every_set_of_uvs_comes_along() {
        let mut model = tagged_quad();
        model.attributes.more_uvs = vec![CornerLayer {
            values: vec![DVec2::X, DVec2::Y],
            index: vec![0, 1, 0, 1],
        }];
        let mut rebuild = Rebuild::new(&model);
        let half = rebuild.blended([(0, 0.5), (1, 0.5)].into_iter());
        let own = rebuild.with_uvs([Some(DVec2::ZERO), None].into_iter());
        let corners = [(half, VertexId(0)), (own, VertexId(1)), (3, VertexId(3))];
        rebuild.moved_piece(FaceId(0), corners.into_iter());
        let attributes = rebuild.finish().attributes;
        let first = attributes.uvs.as_ref().unwrap();
        assert_eq!(first.at(1), Some(DVec2::ZERO));
        let [second] = &attributes.more_uvs[..] else {
            panic!("one more set")
        };
        assert_eq!(second.at(0), Some(DVec2::splat(0.5)));
        assert_eq!(second.at(1), None);
        assert_eq!(second.at(2), Some(DVec2::Y));
    }

    #[test]
    fn new_faces_take_the_tag_but_no_corner_values() {
        let model = tagged_quad();
        let mut rebuild = Rebuild::new(&model);
        rebuild.piece(FaceId(0), [0, 1, 2].into_iter());
        rebuild.new_face(FaceId(0), &[0, 2, 3].map(VertexId));
        let result = rebuild.finish();
        let uvs = result.attributes.uvs.unwrap();
        assert_eq!(uvs.at(2), Some(DVec2::new(2.0, 0.0)));
        assert_eq!(uvs.at(3), None);
        assert_eq!(result.attributes.tags.of_face, [0, 0]);
    }
}
