//! Pinches: vertices at which several fans of a surface meet. Each fan has quads of its own with a corner there;
//! the corners become one vertex again, so that parts hang together as before.

use super::assembled::Assembled;
use crate::mesh::{Mesh, VertexId};
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

/// A place, to the last bit.
type Bits = [u64; 3];

fn bits(place: DVec3) -> Bits {
    place.to_array().map(f64::to_bits)
}

/// Makes one vertex of those at each pinch; not where an edge would get more than two sides, or a face a vertex twice.
pub(super) fn join(made: &mut Assembled, pinches: impl Iterator<Item = DVec3>) {
    let mut places: FxHashSet<Bits> = pinches.map(bits).collect();
    if places.is_empty() {
        return;
    }
    let names = untangled(&made.mesh, &mut places);
    let name = |v: VertexId| names[v.index()];
    let mut mesh = Mesh::default();
    for &place in made.mesh.positions() {
        mesh.push_vertex(place);
    }
    for (_, face) in made.mesh.faces() {
        mesh.push_face(face.iter().map(|&v| name(v)));
    }
    made.mesh = mesh;
    for edge in &mut made.feature_edges {
        *edge = edge.map(name);
    }
    made.corners = made.corners.iter().map(|&v| name(v)).collect();
    made.corners.sort_unstable();
    made.corners.dedup();
    made.drop_unused();
}

/// By vertex: the first one at its place, if it is one of these.
fn names(mesh: &Mesh, places: &FxHashSet<Bits>) -> Vec<VertexId> {
    let mut first: FxHashMap<Bits, VertexId> = FxHashMap::default();
    let name = |v: VertexId| {
        let place = bits(mesh.position(v));
        match places.contains(&place) {
            true => *first.entry(place).or_insert(v),
            false => v,
        }
    };
    mesh.vertex_ids().map(name).collect()
}

/// The names of vertices; without some of the places, so that no edge gets more than two sides.
fn untangled(mesh: &Mesh, places: &mut FxHashSet<Bits>) -> Vec<VertexId> {
    loop {
        let names = names(mesh, places);
        let before = places.clone();
        for ends in tangled(mesh, &names) {
            // One end of an edge left out does for both.
            let ends = ends.map(|v| bits(mesh.position(v)));
            let mut own = ends.iter().filter(|end| before.contains(*end));
            if own.all(|end| places.contains(end))
                && let Some(last) = ends.iter().rfind(|end| places.contains(*end))
            {
                places.remove(last);
            }
        }
        if places.len() == before.len() {
            return names;
        }
    }
}

/// Edges of more than two sides where vertices have these names, by their ends; and vertices, twice, that a face would
/// have twice.
fn tangled(mesh: &Mesh, names: &[VertexId]) -> Vec<[VertexId; 2]> {
    let mut tangled = Vec::new();
    let mut sides: FxHashMap<[VertexId; 2], u32> = FxHashMap::default();
    for (_, face) in mesh.faces() {
        let corner = |i: usize| names[face[i % face.len()].index()];
        for i in 0..face.len() {
            let [a, b] = [corner(i), corner(i + 1)];
            let again = (i + 1..face.len()).map(corner).filter(|&other| other == a);
            tangled.extend(again.map(|other| [other, other]));
            let count = sides.entry([a.min(b), a.max(b)]).or_insert(0);
            *count += 1;
            if *count > 2 {
                tangled.push([a.min(b), a.max(b)]);
            }
        }
    }
    tangled
}

#[cfg(test)]
mod tests {
    use crate::Model;
    use crate::mesh::{Mesh, VertexId};
    use crate::quads::assembled::Assembled;
    use crate::quads::{QuadOptions, QuadTarget, quads};
    use crate::shapes;
    use crate::topology::Parts;
    use glam::DVec3;

    /// Two balls, of which the highest vertex of one is the lowest of the other, and where that is.
    fn balls_that_touch() -> (Model, DVec3) {
        let ball = shapes::sphere(1.0, 3);
        let by_height =
            |a: &VertexId, b: &VertexId| ball.position(*a).z.total_cmp(&ball.position(*b).z);
        let lowest = ball.vertex_ids().min_by(by_height).unwrap();
        let highest = ball.vertex_ids().max_by(by_height).unwrap();
        let up = ball.position(highest) - ball.position(lowest);
        let mut both = ball.clone();
        let base = ball.vertex_count();
        for &place in ball.positions() {
            both.push_vertex(place + up);
        }
        for (_, face) in ball.faces() {
            both.push_face(face.iter().map(|&v| match v == lowest {
                true => highest,
                false => VertexId::new(v.index() + base),
            }));
        }
        let mut model = Model::from(both);
        model.drop_unused_vertices();
        (model, ball.position(highest))
    }

    #[test]
    fn what_hangs_together_at_a_vertex_still_does() {
        let (model, pinch) = balls_that_touch();
        assert_eq!(Parts::of(&model.mesh).len(), 1);
        let made = quads(&model, &QuadOptions::of(QuadTarget::Edge(0.25)), &()).unwrap();
        assert_eq!(made.parts_paired, 0);
        let mesh: &Mesh = &made.model.mesh;
        assert_eq!(Parts::of(mesh).len(), 1);
        let near = mesh
            .vertex_ids()
            .filter(|&v| mesh.position(v).distance(pinch) < 1e-9);
        let near: Vec<VertexId> = near.collect();
        assert_eq!(near.len(), 1);
        // Four quads of either ball, or three or five.
        let there = mesh
            .faces()
            .filter(|(_, face)| face.contains(&near[0]))
            .count();
        assert!((6..=10).contains(&there), "{there}");
    }

    /// Cubes that touch along an edge: with both of its ends joined it would have four sides.
    #[test]
    fn of_two_pinches_on_one_edge_one_is_joined() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1);
        let mut mesh = cube.clone();
        mesh.append(&shapes::cuboid(
            DVec3::new(1.0, 1.0, 0.0),
            DVec3::new(2.0, 2.0, 1.0),
            1,
        ));
        let mut made = Assembled {
            mesh,
            ..Assembled::default()
        };
        let ends = [0.0, 1.0].map(|z| DVec3::new(1.0, 1.0, z));
        super::join(&mut made, ends.into_iter());
        assert_eq!(made.mesh.vertex_count(), 15);
        assert_eq!(Parts::of(&made.mesh).len(), 1);
    }
}
