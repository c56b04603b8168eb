//! A band of faces between two rims.
//!
//! ```text
//!  *--*--*--*   one rim
//!  |  |  |  |
//!  +--+--+--+   as many rows as the edges beside are long
//!  |  |  |  |
//!  *--*--*--*   the other
//! ```
//!
//! Both rims are walked in the direction in which new faces must run them. The band begins
//! where the two are matched with the least sum of squared distances, so that it doesn't twist.
//! Rims with as many edges get quads. Others get the triangles of least area between them (the
//! shortest way through a grid of steps along one or the other: Fuchs, Kedem & Uselton 1977),
//! then refined and made taut like a film. Cost: edges of the one times edges of the other.

use super::border::Border;
use super::patch::Patch;
use super::surroundings::FacesNear;
use super::{fair, meets};
use crate::mesh::{FaceId, Mesh, Model, Rebuild, RimId, VertexId};
use crate::topology::{Edges, Rims};
use glam::DVec3;

/// Most pairs of edges that are looked at.
const MOST_STEPS: usize = 16_000_000;

/// A model with a band between two rims.
#[derive(Clone, Debug)]
pub struct Bridged {
    /// The model.
    pub model: Model,
    /// How many faces the band has.
    pub faces: usize,
    /// Rows of quads; 0 where the rims had different counts and the band is of triangles.
    pub rows: usize,
    /// Whether the band meets other faces, or itself.
    pub meets_others: bool,
}

/// Why two rims were not joined.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum BridgeError {
    /// There is no such rim.
    #[error("there is no {0}")]
    NoRim(RimId),
    /// A rim can't be joined to itself.
    #[error("a band joins two rims, not {0} to itself")]
    Same(RimId),
    /// They share a vertex.
    #[error("{0} and {1} touch: a band between them would be pinched there")]
    Touch(RimId, RimId),
    /// The faces along one show their fronts where those along the other show their backs.
    #[error("the faces along {0} and {1} face opposite ways, so a band between them would twist")]
    FaceOppositeWays(RimId, RimId),
    /// More pairs of edges than are looked at.
    #[error("{0} and {1} have too many edges for a band between them: {2} times {3}")]
    TooLong(RimId, RimId, usize, usize),
}

/// Joins two rims, by index, with a band.
///
/// # Errors
/// When there is no such pair of rims, or no band between them that is one.
pub fn bridge(model: &Model, rims: [usize; 2]) -> Result<Bridged, BridgeError> {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let all = Rims::of(mesh, &edges);
    let names = rims.map(RimId::new);
    let [near, far] = borders(mesh, &edges, &all, rims)?;
    let (n, m) = (near.vertices.len(), far.vertices.len());
    // New faces run both rims forwards, so beside a step forth on one lies a step back on the
    // other.
    let ring = |border: &Border| -> Vec<DVec3> {
        border.vertices.iter().map(|&v| mesh.position(v)).collect()
    };
    let (a, b) = (ring(&near), ring(&far));
    let backward: Vec<DVec3> = b.iter().rev().copied().collect();
    let (start, cost) = best_match(&a, &backward);
    let (_, twisted) = best_match(&a, &b);
    if twisted < 0.8 * cost {
        return Err(BridgeError::FaceOppositeWays(names[0], names[1]));
    }
    // The far rim, backwards, from where it meets the near one's first vertex.
    let place = |i: usize| (2 * m - 1 - (start + i) % m) % m;
    let beside = FacesNear::of(mesh, near.vertices.iter().chain(&far.vertices).copied());
    let mut rebuild = Rebuild::new(model);
    mesh.face_ids().for_each(|face| rebuild.keep(face));
    let before = rebuild.face_count();
    let rows = if n == m {
        let across: f64 = (0..n).map(|i| a[i].distance(b[place(i)])).sum();
        let scales = beside.scales(mesh, &near).into_iter();
        let edge: f64 = scales.chain(beside.scales(mesh, &far)).sum();
        let rows = (2.0 * across / edge.max(f64::MIN_POSITIVE)).round();
        let rows = rows.clamp(1.0, 1000.0) as usize;
        let opposite: Vec<VertexId> = (0..n).map(|i| far.vertices[place(i)]).collect();
        lay_quads(&mut rebuild, mesh, [&near, &far], &opposite, place, rows);
        rows
    } else {
        let mut patch = triangles_between(&a, &b, place);
        let mut scales = beside.scales(mesh, &near);
        scales.extend(beside.scales(mesh, &far));
        patch.scale(scales);
        let is_edge = |i: u32, j: u32| {
            let [i, j] = [i, j].map(|i| match (i as usize).checked_sub(n) {
                Some(i) => far.vertices[i],
                None => near.vertices[i as usize],
            });
            edges.between(i, j).is_some()
        };
        let plain = patch.clone();
        patch.refine(1.0, &is_edge);
        if !fair::tight(&mut patch) {
            patch = plain;
        }
        lay_triangles(&mut rebuild, &patch, [&near, &far]);
        0
    };
    let faces = rebuild.face_count() - before;
    let model = rebuild.finish();
    let run = meets::Run {
        faces: before..before + faces,
        lies_side_by_side: false,
        changed: true,
    };
    let meets_others = !meets::that_meet(&model.mesh, &[run])[0].is_empty();
    Ok(Bridged {
        model,
        faces,
        rows,
        meets_others,
    })
}

/// The borders along two rims between which there may be a band.
fn borders(
    mesh: &Mesh,
    edges: &Edges,
    all: &Rims,
    rims: [usize; 2],
) -> Result<[Border; 2], BridgeError> {
    let names = rims.map(RimId::new);
    if rims[0] == rims[1] {
        return Err(BridgeError::Same(names[0]));
    }
    if let Some(name) = names.iter().find(|name| name.index() >= all.closed.len()) {
        return Err(BridgeError::NoRim(*name));
    }
    let [near, far] = rims.map(|rim| Border::of(mesh, edges, &all.closed[rim]));
    if near.vertices.iter().any(|v| far.vertices.contains(v)) {
        return Err(BridgeError::Touch(names[0], names[1]));
    }
    let (n, m) = (near.vertices.len(), far.vertices.len());
    match n * m > MOST_STEPS {
        true => Err(BridgeError::TooLong(names[0], names[1], n, m)),
        false => Ok([near, far]),
    }
}

/// At which point of `b` to begin so that points at equal shares along both rings lie nearest
/// together, and how far they lie then: the sum of squares, for each point of `a`.
fn best_match(a: &[DVec3], b: &[DVec3]) -> (usize, f64) {
    let middle = |ring: &[DVec3]| ring.iter().sum::<DVec3>() / ring.len() as f64;
    let step = middle(a) - middle(b);
    // A sample of the points is enough to see which way a rim turns.
    let stride = a.len().div_ceil(400);
    let cost = |start: usize| -> f64 {
        (0..a.len())
            .step_by(stride)
            .map(|i| {
                let j = (start + i * b.len() / a.len()) % b.len();
                // Which is nearer doesn't depend on how far the two rings are apart.
                a[i].distance_squared(b[j] + step)
            })
            .sum()
    };
    let costs = (0..b.len()).map(|start| (start, cost(start)));
    costs
        .min_by(|p, q| p.1.total_cmp(&q.1))
        .unwrap_or((0, f64::INFINITY))
}

fn lay_quads(
    rebuild: &mut Rebuild<'_>,
    mesh: &Mesh,
    [near, far]: [&Border; 2],
    opposite: &[VertexId],
    place: impl Fn(usize) -> usize,
    rows: usize,
) {
    let count = near.vertices.len();
    let mut last = near.vertices.clone();
    for row in 1..=rows {
        let share = row as f64 / rows as f64;
        let next: Vec<VertexId> = (0..count)
            .map(|i| {
                if row == rows {
                    return opposite[i];
                }
                let (from, to) = (mesh.position(near.vertices[i]), mesh.position(opposite[i]));
                let like = if share < 0.5 {
                    near.vertices[i]
                } else {
                    opposite[i]
                };
                rebuild.new_vertex(from.lerp(to, share), like)
            })
            .collect();
        for i in 0..count {
            let j = (i + 1) % count;
            // The far face lies along the edge that ends at the far vertex of `i`.
            let like: FaceId = match share <= 0.5 || rows == 1 {
                true => near.faces[i],
                false => far.faces[place(j)],
            };
            rebuild.new_face(like, &[last[i], last[j], next[j], next[i]]);
        }
        last = next;
    }
}

/// The triangles of least area between two rings: first all of the near one, then of the far
/// one are its vertices.
fn triangles_between(a: &[DVec3], b: &[DVec3], place: impl Fn(usize) -> usize) -> Patch {
    let (n, m) = (a.len(), b.len());
    let area = |p: DVec3, q: DVec3, r: DVec3| {
        let sides = p.distance_squared(q) + q.distance_squared(r) + r.distance_squared(p);
        (q - p).cross(r - p).length() / 2.0 + 1e-3 * sides
    };
    let far = |j: usize| b[place(j % m)];
    let near = |i: usize| a[i % n];
    // By steps along the near and the far ring: the least cost, and whether the last was near.
    let width = m + 1;
    let mut least = vec![f64::INFINITY; (n + 1) * width];
    let mut was_near = vec![false; (n + 1) * width];
    least[0] = 0.0;
    for i in 0..=n {
        for j in 0..=m {
            let at = i * width + j;
            if i > 0 {
                let cost = least[at - width] + area(near(i - 1), near(i), far(j));
                if cost < least[at] {
                    (least[at], was_near[at]) = (cost, true);
                }
            }
            if j > 0 {
                let cost = least[at - 1] + area(near(i), far(j), far(j - 1));
                if cost < least[at] {
                    (least[at], was_near[at]) = (cost, false);
                }
            }
        }
    }
    let (mut i, mut j) = (n, m);
    let mut triangles = Vec::with_capacity(n + m);
    let name_far = |j: usize| (n + place(j % m)) as u32;
    let name_near = |i: usize| (i % n) as u32;
    while i + j > 0 {
        if was_near[i * width + j] {
            triangles.push([name_near(i - 1), name_near(i), name_far(j)]);
            i -= 1;
        } else {
            triangles.push([name_near(i), name_far(j), name_far(j - 1)]);
            j -= 1;
        }
    }
    Patch::over(a.iter().chain(b).copied().collect(), triangles)
}

fn lay_triangles(rebuild: &mut Rebuild<'_>, patch: &Patch, [near, far]: [&Border; 2]) {
    let count = near.vertices.len();
    let on_rim = |i: usize| match i.checked_sub(count) {
        Some(i) => (far.vertices[i], far.faces[i]),
        None => (near.vertices[i], near.faces[i]),
    };
    let mut vertices: Vec<VertexId> = (0..patch.border).map(|i| on_rim(i).0).collect();
    for (i, point) in patch.points.iter().enumerate().skip(patch.border) {
        vertices.push(rebuild.new_vertex(*point, on_rim(patch.like[i] as usize).0));
    }
    for triangle in &patch.triangles {
        let like = on_rim(patch.like[triangle[0] as usize] as usize).1;
        rebuild.new_face(like, &triangle.map(|i| vertices[i as usize]));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::shapes;
    use glam::DVec2;
    use std::f64::consts::{PI, TAU};

    /// Two tubes of radius 1 along z, apart, with these numbers of edges round; the second is
    /// turned by an angle.
    fn tubes(around: [usize; 2], turn: f64, inside_out: bool) -> Model {
        let mut mesh = Mesh::default();
        for (tube, around) in around.into_iter().enumerate() {
            let low = 3.0 * tube as f64;
            let profile: Vec<DVec2> = (0..=4)
                .map(|i| DVec2::new(1.0, low + 0.25 * i as f64))
                .collect();
            let shape = shapes::lathe(&profile, around, false);
            let spin = glam::DMat3::from_rotation_z(turn * tube as f64);
            let base = mesh.vertex_count() as u32;
            shape.positions().iter().for_each(|&p| {
                mesh.push_vertex(spin * p);
            });
            for (_, corners) in shape.faces() {
                let corners: Vec<VertexId> = corners.iter().map(|v| VertexId(v.0 + base)).collect();
                match inside_out && tube == 1 {
                    true => mesh.push_face(corners.into_iter().rev()),
                    false => mesh.push_face(corners),
                };
            }
        }
        Model::from(mesh)
    }

    /// The rims at these heights.
    fn at_heights(model: &Model, heights: [f64; 2]) -> [usize; 2] {
        let facts = super::super::rims_described(&model.mesh);
        heights.map(|z| {
            facts
                .iter()
                .position(|rim| (rim.at.z - z).abs() < 0.1)
                .unwrap()
        })
    }

    #[test]
    fn a_band_between_tubes_of_equal_counts_is_of_quads_and_straight() {
        for turn in [0.0, 0.4, 2.0] {
            let model = tubes([24, 24], turn, false);
            let rims = at_heights(&model, [1.0, 3.0]);
            for rims in [rims, [rims[1], rims[0]]] {
                let bridged = bridge(&model, rims).unwrap();
                assert_eq!(bridged.faces, 24 * bridged.rows);
                assert!((6..=9).contains(&bridged.rows), "{}", bridged.rows);
                assert!(!bridged.meets_others);
                let after = audit(&bridged.model, &audit::AuditOptions::default(), &()).unwrap();
                assert_eq!((after.mesh.parts, after.mesh.rims), (1, 2));
                assert_eq!(after.count("misoriented-edges"), 0);
                assert_eq!(after.count("nonmanifold-edges"), 0);
                // At most half a step of twist.
                let area = 24.0 * 2.0 * (PI / 24.0).sin() * 2.0;
                let all = area / 2.0 * 4.0;
                assert!(
                    (after.mesh.area / all - 1.0).abs() < 0.02,
                    "{}",
                    after.mesh.area
                );
            }
        }
    }

    #[test]
    fn a_band_between_tubes_of_different_counts_is_of_even_triangles() {
        let model = tubes([24, 37], 0.3, false);
        let bridged = bridge(&model, at_heights(&model, [1.0, 3.0])).unwrap();
        assert_eq!(bridged.rows, 0);
        assert!(
            bridged.faces > 300 && !bridged.meets_others,
            "{}",
            bridged.faces
        );
        let after = audit(&bridged.model, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!((after.mesh.parts, after.mesh.rims), (1, 2));
        for check in [
            "misoriented-edges",
            "nonmanifold-edges",
            "zero-area-faces",
            "sliver-faces",
        ] {
            assert_eq!(after.count(check), 0, "{check}");
        }
        // A film between two rings this near hardly narrows.
        assert!(after.mesh.area > 0.85 * TAU * 4.0 && after.mesh.area < TAU * 4.0);
    }

    #[test]
    fn what_would_twist_or_is_no_pair_is_refused() {
        let model = tubes([24, 24], 0.0, true);
        let rims = at_heights(&model, [1.0, 3.0]);
        assert!(matches!(
            bridge(&model, rims),
            Err(BridgeError::FaceOppositeWays(..))
        ));
        assert!(matches!(bridge(&model, [0, 0]), Err(BridgeError::Same(_))));
        assert!(matches!(bridge(&model, [0, 9]), Err(BridgeError::NoRim(_))));
    }
}
