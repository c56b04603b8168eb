//! Where the edges of quads lead: straight on from every irregular vertex.

use crate::geometry::corner_angle;
use crate::measure::SQUARE;
use crate::mesh::{Mesh, PartId, VertexId};
use crate::topology::Parts;
use rustc_hash::{FxHashMap, FxHashSet};

/// Of a mesh that is mostly quads.
#[derive(Clone, Debug, Default)]
#[non_exhaustive]
pub struct Flow {
    /// Vertices inside the surface at which not four quads meet, and how many faces do.
    pub irregular: Vec<(VertexId, usize)>,
    /// Chains of edges that go straight on from irregular vertices: to another, to a rim, or as far as was said.
    pub lines: Vec<Vec<VertexId>>,
}

impl Flow {
    /// Follows edges for no more than `longest` each.
    pub fn of(mesh: &Mesh, longest: usize) -> Self {
        let fans = Fans::of(mesh);
        let counts = fans.count.iter().enumerate();
        let inside = counts.filter(|(v, count)| **count > 0 && !fans.is_on_rim[*v]);
        let irregular = inside.filter(|(_, count)| **count != 4);
        let irregular: Vec<(VertexId, usize)> = irregular
            .map(|(v, &count)| (VertexId::new(v), count as usize))
            .collect();
        let mut spokes: Vec<[VertexId; 2]> = fans.before.keys().copied().collect();
        spokes.retain(|[v, _]| fans.is_irregular(*v));
        spokes.sort_unstable();
        let lines = spokes.iter().map(|&spoke| fans.followed(spoke, longest));
        Self {
            lines: lines.collect(),
            irregular,
        }
    }

    /// The irregular vertices with the worst angles first, no two of them beside each other; those in small parts, with
    /// less than a twentieth of all faces, come last.
    pub fn worst(&self, mesh: &Mesh, most: usize) -> Vec<VertexId> {
        let parts = Parts::of(mesh);
        let mut faces = vec![0; parts.len()];
        let part_of = |v: VertexId| parts.of_vertex(v).map_or(0, PartId::index);
        for (_, face) in mesh.faces() {
            faces[part_of(face[0])] += 1;
        }
        let is_small = |v: VertexId| faces[part_of(v)] * 20 < mesh.face_count();
        let square = (SQUARE[0] + SQUARE[1]) / 2.0;
        let mut off: FxHashMap<VertexId, f64> =
            self.irregular.iter().map(|(v, _)| (*v, 0.0)).collect();
        let mut beside: FxHashMap<VertexId, FxHashSet<VertexId>> = FxHashMap::default();
        for (_, face) in mesh.faces() {
            let at = |i: usize| mesh.position(face[i % face.len()]);
            let angle = |i: usize| corner_angle(at(i), [at(i + 1), at(i + face.len() - 1)]);
            let angles = (0..face.len()).map(|i| (angle(i).to_degrees() - square).abs());
            let worst = angles.fold(0.0, f64::max);
            for v in face {
                if let Some(own) = off.get_mut(v) {
                    *own = own.max(worst);
                    beside.entry(*v).or_default().extend(face);
                }
            }
        }
        let mut order: Vec<(VertexId, f64)> = off.into_iter().collect();
        order.sort_by(|(v, off), (w, other)| {
            let small = is_small(*v).cmp(&is_small(*w));
            small.then(other.total_cmp(off)).then(v.cmp(w))
        });
        let mut chosen: Vec<VertexId> = Vec::new();
        for (v, _) in order {
            if chosen.len() == most {
                break;
            }
            if !chosen.iter().any(|other| beside[other].contains(&v)) {
                chosen.push(v);
            }
        }
        chosen
    }
}

/// The faces round each vertex.
struct Fans {
    /// By vertex and the next of a face, the one before.
    before: FxHashMap<[VertexId; 2], VertexId>,
    count: Vec<u32>,
    is_on_rim: Vec<bool>,
}

impl Fans {
    fn of(mesh: &Mesh) -> Self {
        let mut fans = Self {
            before: FxHashMap::default(),
            count: vec![0; mesh.vertex_count()],
            is_on_rim: vec![false; mesh.vertex_count()],
        };
        for (_, face) in mesh.faces() {
            for (i, &v) in face.iter().enumerate() {
                let [after, before] = [1, face.len() - 1].map(|step| face[(i + step) % face.len()]);
                fans.before.insert([v, after], before);
                fans.count[v.index()] += 1;
            }
        }
        for &[v, after] in fans.before.keys() {
            if !fans.before.contains_key(&[after, v]) {
                fans.is_on_rim[v.index()] = true;
                fans.is_on_rim[after.index()] = true;
            }
        }
        fans
    }

    fn is_irregular(&self, v: VertexId) -> bool {
        !self.is_on_rim[v.index()] && self.count[v.index()] != 4
    }

    /// The vertices straight on from an edge.
    fn followed(&self, [from, to]: [VertexId; 2], longest: usize) -> Vec<VertexId> {
        let mut line = vec![from, to];
        while line.len() <= longest {
            let [last, here] = [line[line.len() - 2], line[line.len() - 1]];
            if self.is_on_rim[here.index()] || self.count[here.index()] != 4 {
                break;
            }
            let across = self.before.get(&[here, last]);
            let Some(&on) = across.and_then(|side| self.before.get(&[here, *side])) else {
                break;
            };
            line.push(on);
        }
        line
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;
    use glam::DVec3;

    /// From each corner of a cube three lines run along its edges to the next.
    #[test]
    fn lines_of_a_cube_are_its_edges() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 5);
        let flow = Flow::of(&cube, 100);
        assert_eq!(flow.irregular.len(), 8);
        assert!(flow.irregular.iter().all(|(_, faces)| *faces == 3));
        assert_eq!(flow.lines.len(), 24);
        for line in &flow.lines {
            assert_eq!(line.len(), 6);
            let ends = [line[0], line[5]].map(|v| cube.position(v));
            assert!((ends[0].distance(ends[1]) - 1.0).abs() < 1e-12);
        }
        assert!(Flow::of(&cube, 3).lines.iter().all(|line| line.len() == 4));
        let worst = flow.worst(&cube, 3);
        assert_eq!(worst.len(), 3);
    }

    /// A line ends at a rim, and where there is none it is as long as was said.
    #[test]
    fn lines_end_at_rims() {
        // Three squares round a corner, open outwards.
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 4);
        let near = |face: &crate::mesh::FaceId| cube.face_middle(*face).min_element() < 1e-9;
        let mut open = Mesh::default();
        cube.positions().iter().for_each(|&at| {
            open.push_vertex(at);
        });
        for face in cube.face_ids().filter(near) {
            open.push_face(cube.face(face).iter().copied());
        }
        let flow = Flow::of(&open, 100);
        assert_eq!((flow.irregular.len(), flow.lines.len()), (1, 3));
        assert!(flow.lines.iter().all(|line| line.len() == 5));
    }
}
