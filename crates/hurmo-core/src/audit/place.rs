//! A place that a person can go to: elements at fault that hang together.

use super::MeshAnalysis;
use crate::geometry::Bounds;
use crate::mesh::{FaceId, PartId, RimId, VertexId};
use crate::scene::{NodeId, Shows};
use crate::topology::UnionFind;
use glam::DVec3;

/// What is at fault at a place.
#[derive(Clone, Debug, PartialEq)]
pub enum Elements {
    /// Faces.
    Faces(Vec<FaceId>),
    /// Edges, by their ends.
    Edges(Vec<[VertexId; 2]>),
    /// Vertices.
    Vertices(Vec<VertexId>),
    /// Whole parts.
    Parts(Vec<PartId>),
    /// Objects, materials or textures, by name.
    Named(Vec<String>),
    /// The model as a whole.
    Model,
}

impl Elements {
    /// How many.
    pub fn len(&self) -> usize {
        match self {
            Elements::Faces(list) => list.len(),
            Elements::Edges(list) => list.len(),
            Elements::Vertices(list) => list.len(),
            Elements::Parts(list) => list.len(),
            Elements::Named(list) => list.len(),
            Elements::Model => 1,
        }
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }
}

/// Elements at fault that hang together.
#[derive(Clone, Debug, PartialEq)]
pub struct Place {
    /// The part of the first of them; nothing for a vertex in no face.
    pub part: Option<PartId>,
    /// The rim, where they are one.
    pub rim: Option<RimId>,
    /// The elements.
    pub elements: Elements,
    /// The mean of the elements' middles.
    pub at: DVec3,
    /// Their extent.
    pub bounds: Bounds,
    /// A face there, whose object, group and material are those of the place.
    pub face: Option<FaceId>,
    /// What was measured there: the length of a rim, the thickness of a wall, an area.
    pub value: Option<f64>,
}

impl Place {
    /// A place with these elements and points; the middles' mean is where it is.
    pub(super) fn new(
        part: Option<PartId>,
        elements: Elements,
        middles: impl Iterator<Item = DVec3>,
        points: impl Iterator<Item = DVec3>,
    ) -> Self {
        let (sum, count) = middles.fold((DVec3::ZERO, 0usize), |(sum, n), p| (sum + p, n + 1));
        let at = sum / count.max(1) as f64;
        Self {
            part,
            rim: None,
            elements,
            at,
            bounds: Bounds::of(points).unwrap_or(Bounds { min: at, max: at }),
            face: None,
            value: None,
        }
    }

    /// Faces that hang together.
    pub fn faces(analysis: &MeshAnalysis<'_>, faces: Vec<FaceId>) -> Self {
        let mesh = analysis.mesh;
        let part = faces.first().and_then(|&f| analysis.parts.of_face(mesh, f));
        let list = faces.clone();
        Self {
            face: list.first().copied(),
            ..Self::new(
                part,
                Elements::Faces(faces),
                list.iter().map(|&f| mesh.face_middle(f)),
                list.iter().flat_map(|&f| mesh.face_points(f)),
            )
        }
    }

    /// Edges that hang together.
    pub fn edges(analysis: &MeshAnalysis<'_>, edges: Vec<[VertexId; 2]>) -> Self {
        let at = |v: VertexId| analysis.mesh.position(v);
        let part = edges.first().and_then(|e| analysis.parts.of_vertex(e[0]));
        let list = edges.clone();
        let first = list
            .first()
            .and_then(|&[a, b]| analysis.edges.between(a, b));
        Self {
            face: first.map(|edge| analysis.edges.sides(edge)[0].face),
            ..Self::new(
                part,
                Elements::Edges(edges),
                list.iter().map(|&[a, b]| (at(a) + at(b)) / 2.0),
                list.iter().flatten().map(|&v| at(v)),
            )
        }
    }

    /// Vertices that hang together.
    pub fn vertices(analysis: &MeshAnalysis<'_>, vertices: Vec<VertexId>) -> Self {
        let points: Vec<DVec3> = vertices
            .iter()
            .map(|&v| analysis.mesh.position(v))
            .collect();
        let part = vertices.first().and_then(|&v| analysis.parts.of_vertex(v));
        Self::new(
            part,
            Elements::Vertices(vertices),
            points.iter().copied(),
            points.iter().copied(),
        )
    }

    /// A whole part, or several that have to do with each other.
    pub fn parts(analysis: &MeshAnalysis<'_>, parts: Vec<PartId>) -> Self {
        let bounds: Vec<Bounds> = parts.iter().map(|p| analysis.part(*p).bounds).collect();
        let first = parts.first().copied();
        Self {
            face: first.map(|part| analysis.part(part).first_face),
            ..Self::new(
                first,
                Elements::Parts(parts),
                bounds.iter().map(|b| b.middle()),
                bounds.iter().flat_map(|b| [b.min, b.max]),
            )
        }
    }

    /// Something with a name: a node, where the mesh is that it shows, or what is nowhere.
    pub fn named(analysis: &MeshAnalysis<'_>, name: String, node: Option<NodeId>) -> Self {
        let elements = Elements::Named(vec![name]);
        let attributes = &analysis.model.attributes;
        let scene = attributes.scene.as_ref();
        let home = node
            .zip(scene)
            .map(|(node, scene)| match scene.node(node).shows {
                Shows::Of(home) => home,
                _ => node,
            });
        let is_of = |tag: &u32| attributes.tags.table[*tag as usize].node == home;
        let of_face = attributes.tags.of_face.iter().enumerate();
        let faces = of_face.filter(|(_, tag)| home.is_some() && is_of(tag));
        let faces: Vec<FaceId> = faces.map(|(face, _)| FaceId::new(face)).collect();
        let points = faces
            .iter()
            .flat_map(|&face| analysis.mesh.face_points(face));
        match Bounds::of(points) {
            None => Self {
                elements,
                ..Self::model(analysis)
            },
            Some(bounds) => Self {
                face: faces.first().copied(),
                ..Self::new(
                    None,
                    elements,
                    std::iter::once(bounds.middle()),
                    [bounds.min, bounds.max].into_iter(),
                )
            },
        }
    }

    /// The model as a whole.
    pub fn model(analysis: &MeshAnalysis<'_>) -> Self {
        let corners = analysis
            .bounds
            .map_or(vec![DVec3::ZERO], |b| vec![b.min, b.max]);
        let points = corners.iter().copied();
        Self::new(None, Elements::Model, points.clone(), points)
    }

    /// A rim.
    pub fn rim(analysis: &MeshAnalysis<'_>, name: RimId) -> Self {
        let rim = &analysis.rims.closed[name.index()];
        let edges = rim.edges.iter().map(|&e| analysis.edges.ends(e)).collect();
        Self {
            rim: Some(name),
            value: Some(rim.length),
            ..Self::edges(analysis, edges)
        }
    }

    /// The same place, with what was measured there.
    pub fn measured(self, value: f64) -> Self {
        Self {
            value: Some(value),
            ..self
        }
    }
}

/// Puts elements together that have a vertex in common (vertices at one place are one) or that
/// `links` joins, by index. Largest groups first, then by lowest element; elements in order.
pub(super) fn grouped<E: Copy>(
    analysis: &MeshAnalysis<'_>,
    elements: &[E],
    vertices: impl Fn(E, &mut dyn FnMut(VertexId)),
    links: impl Iterator<Item = (usize, usize)>,
) -> Vec<Vec<E>> {
    const NONE: u32 = u32::MAX;
    let mut first = vec![NONE; analysis.mesh.vertex_count()];
    let mut sets = UnionFind::new(elements.len());
    for (i, &element) in elements.iter().enumerate() {
        vertices(element, &mut |vertex| {
            let slot = &mut first[analysis.first_at_place[vertex.index()].index()];
            match *slot {
                NONE => *slot = i as u32,
                other => {
                    sets.join(i as u32, other);
                }
            }
        });
    }
    for (a, b) in links {
        sets.join(a as u32, b as u32);
    }
    let mut number = vec![NONE; elements.len()];
    let mut groups: Vec<Vec<E>> = Vec::new();
    for (i, &element) in elements.iter().enumerate() {
        let root = sets.find(i as u32) as usize;
        if number[root] == NONE {
            number[root] = groups.len() as u32;
            groups.push(Vec::new());
        }
        groups[number[root] as usize].push(element);
    }
    groups.sort_by_key(|group| std::cmp::Reverse(group.len()));
    groups
}
