//! Where the vertices of quads go: along the surface towards the middle of those beside them, and back onto
//! the model. Corners and vertices on lines stay where the map puts them.

use super::cleaning::{QuadMesh, sides};
use super::extraction::On;
use crate::attribute_transfer::Carried;
use crate::parallel::mapped;
use glam::DVec3;

/// How often vertices move.
const ROUNDS: usize = 8;
/// Which share of the way they move.
const SHARE: f64 = 0.6;

/// Moves vertices along the surface for evener quads, onto the model.
pub(super) fn placed(mesh: &QuadMesh, carried: &Carried<'_>) -> Vec<DVec3> {
    let beside = Beside::of(mesh);
    let mut places: Vec<DVec3> = mesh.cells.iter().map(|cell| cell.at).collect();
    let mut near: Vec<u32> = mapped(places.len(), 256, |v| {
        let closest = carried.tree().closest(places[v]);
        closest.map_or(0, |closest| closest.triangle)
    });
    for round in 0..=ROUNDS {
        let moved: Vec<(DVec3, u32)> = mapped(places.len(), 256, |v| {
            let here = places[v];
            if mesh.cells[v].on == On::Corner || mesh.cells[v].on == On::Line {
                return (here, near[v]);
            }
            let wanted = match round {
                0 => here,
                _ => {
                    let list = beside.of_vertex(v);
                    let middle =
                        list.iter().map(|&w| places[w as usize]).sum::<DVec3>() / list.len() as f64;
                    here.lerp(middle, SHARE)
                }
            };
            // Where the surface is thin, what is closest may be its other side.
            let closest = carried.closest_from(wanted, near[v]);
            let normal = carried.normal(near[v]);
            let same_side =
                closest.filter(|found| carried.normal(found.triangle).dot(normal) >= 0.0);
            match same_side {
                Some(closest) => (closest.point, closest.triangle),
                None => (here, near[v]),
            }
        });
        (places, near) = moved.into_iter().unzip();
    }
    places
}

/// The vertices that edges lead to.
struct Beside {
    starts: Vec<u32>,
    list: Vec<u32>,
}

impl Beside {
    fn of(mesh: &QuadMesh) -> Self {
        let mut pairs: Vec<[u32; 2]> = (mesh.quads.iter())
            .flat_map(sides)
            .flat_map(|[a, b]| [[a, b], [b, a]])
            .collect();
        pairs.sort_unstable();
        pairs.dedup();
        let mut starts = vec![0; mesh.cells.len() + 1];
        pairs
            .iter()
            .for_each(|pair| starts[pair[0] as usize + 1] += 1);
        for v in 0..mesh.cells.len() {
            starts[v + 1] += starts[v];
        }
        Self {
            starts,
            list: pairs.iter().map(|pair| pair[1]).collect(),
        }
    }

    fn of_vertex(&self, v: usize) -> &[u32] {
        &self.list[self.starts[v] as usize..self.starts[v + 1] as usize]
    }
}
