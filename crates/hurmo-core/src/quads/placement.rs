//! Where the vertices of quads go: along the surface towards the middle of those beside them, and back onto
//! the model. Corners and vertices on lines stay where the map puts them.

use super::extraction::On;
use crate::attribute_transfer::Carried;
use crate::parallel::mapped;
use glam::DVec3;

/// How often vertices move.
const ROUNDS: usize = 8;
/// Which share of the way they move.
const SHARE: f64 = 0.6;
/// The sine of an angle of a bad corner, of 25 degrees or 155.
pub(super) const BAD: f64 = 0.42;
/// How often bad faces are looked for.
const TAKEN_BACK: usize = 8;

/// Moves vertices along the surface for evener faces, onto the model; not where a face becomes bad by it. `vertices`:
/// where they are, and on what.
pub(super) fn placed<'f>(
    vertices: &[(DVec3, On)],
    faces: impl Iterator<Item = &'f [u32]> + Clone,
    carried: &Carried<'_>,
) -> Vec<DVec3> {
    let sides = |face: &'f [u32]| (0..face.len()).map(|i| [face[i], face[(i + 1) % face.len()]]);
    let beside = Beside::of(vertices.len(), faces.clone().flat_map(sides));
    let mut places: Vec<DVec3> = vertices.iter().map(|(at, _)| *at).collect();
    let mut near: Vec<u32> = mapped(places.len(), 256, |v| {
        let closest = carried.tree().closest(places[v]);
        closest.map_or(0, |closest| closest.triangle)
    });
    let mut begin = Vec::new();
    for round in 0..=ROUNDS {
        let moved: Vec<(DVec3, u32)> = mapped(places.len(), 256, |v| {
            let here = places[v];
            if vertices[v].1 != On::Surface {
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
        if round == 0 {
            begin.clone_from(&places);
        }
    }
    take_back(&mut places, &begin, faces);
    places
}

/// Takes vertices back to where they began if a face of theirs has become bad, and worse than it was.
fn take_back<'f>(
    places: &mut [DVec3],
    begin: &[DVec3],
    faces: impl Iterator<Item = &'f [u32]> + Clone,
) {
    for _ in 0..TAKEN_BACK {
        let is_harmed = |face: &&[u32]| {
            let now = convexity(places, face);
            now < BAD && now < convexity(begin, face)
        };
        let harmed = faces.clone().filter(is_harmed).flatten();
        let harmed: Vec<u32> = harmed.copied().collect();
        if harmed.is_empty() {
            return;
        }
        (harmed.iter()).for_each(|&v| places[v as usize] = begin[v as usize]);
    }
}

/// The least sine of a corner's angle; below nought at a corner that looks the other way.
pub(super) fn convexity(places: &[DVec3], face: &[u32]) -> f64 {
    let at = |i: usize| places[face[i % face.len()] as usize];
    let corner = |i: usize| {
        let [to, back] = [at(i + 1) - at(i), at(i + face.len() - 1) - at(i)];
        (to.cross(back), to.length() * back.length())
    };
    let facing: DVec3 = (0..face.len()).map(|i| corner(i).0).sum();
    let facing = facing.normalize_or_zero();
    let sine = |(turned, lengths): (DVec3, f64)| match lengths > 0.0 {
        true => turned.dot(facing) / lengths,
        false => -1.0,
    };
    let sines = (0..face.len()).map(|i| sine(corner(i)));
    sines.fold(f64::INFINITY, f64::min)
}

/// The vertices that edges lead to.
pub(super) struct Beside {
    starts: Vec<u32>,
    list: Vec<u32>,
}

impl Beside {
    /// By the sides of faces.
    pub fn of(vertices: usize, sides: impl Iterator<Item = [u32; 2]>) -> Self {
        let both = sides.flat_map(|[a, b]| [[a, b], [b, a]]);
        let mut pairs: Vec<[u32; 2]> = both.collect();
        pairs.sort_unstable();
        pairs.dedup();
        let mut starts = vec![0; vertices + 1];
        pairs
            .iter()
            .for_each(|pair| starts[pair[0] as usize + 1] += 1);
        for v in 0..vertices {
            starts[v + 1] += starts[v];
        }
        Self {
            starts,
            list: pairs.iter().map(|pair| pair[1]).collect(),
        }
    }

    pub fn of_vertex(&self, v: usize) -> &[u32] {
        &self.list[self.starts[v] as usize..self.starts[v + 1] as usize]
    }
}
