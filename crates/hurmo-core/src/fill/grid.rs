//! Quads across a rim with an even number of edges.
//!
//! ```text
//!  *--*--*--*--*    p edges
//!  |  |  |  |  |
//!  *--+--+--+--*    q edges on either side,
//!  |  |  |  |  |    2 (p + q) in all
//!  *--*--*--*--*
//! ```
//!
//! Four corners are chosen so that opposite sides have as many edges: where the rim turns most,
//! opposite sides are about as long and, of a round rim, all four. Vertices between are blended
//! from the four sides (Coons 1967). Cost: edges squared.

use super::patch::Patch;
use super::reasons::PlainerBecause;
use glam::DVec3;

/// What an uneven pair of opposite sides costs, against a right angle at a corner.
const UNEVEN: f64 = 2.0;
/// What a long, narrow grid costs.
const NARROW: f64 = 0.5;
/// More edges than this would take too many quads.
const MOST: usize = 4000;

/// A grid over a ring of points, with no edge that is `taken`.
///
/// # Errors
/// The reason why there is none.
pub(super) fn over(
    points: Vec<DVec3>,
    taken: &dyn Fn(u32, u32) -> bool,
) -> Result<Patch, PlainerBecause> {
    let count = points.len();
    if count % 2 == 1 || count < 4 {
        return Err(PlainerBecause::OddEdges);
    }
    if count > MOST {
        return Err(PlainerBecause::TooManyFaces);
    }
    let frame = Frame::best(&points);
    let patch = frame.patch(points);
    let on_border = |v: u32| (v as usize) < count;
    let along = |a: u32, b: u32| {
        let steps = (a as usize + count - b as usize) % count;
        steps == 1 || steps == count - 1
    };
    let clash = patch.quads.iter().any(|quad| {
        (0..4).any(|k| {
            let (a, b) = (quad[k], quad[(k + 1) % 4]);
            on_border(a) && on_border(b) && !along(a, b) && taken(a, b)
        })
    });
    match clash {
        true => Err(PlainerBecause::EdgeTaken),
        false => Ok(patch),
    }
}

/// Where the corners are: the first, and how many edges the sides have.
struct Frame {
    start: usize,
    p: usize,
    q: usize,
}

impl Frame {
    fn best(points: &[DVec3]) -> Self {
        let count = points.len();
        let at = |i: usize| points[i % count];
        // 0 where the ring goes straight on, 1 at a right angle.
        let turns: Vec<f64> = (0..count)
            .map(|i| {
                let (into, out) = (at(i) - at(i + count - 1), at(i + 1) - at(i));
                1.0 - into.normalize_or_zero().dot(out.normalize_or_zero())
            })
            .collect();
        let mut walked = vec![0.0; count + 1];
        for i in 0..count {
            walked[i + 1] = walked[i] + at(i).distance(at(i + 1));
        }
        let whole = walked[count].max(f64::MIN_POSITIVE);
        let length = |from: usize, steps: usize| {
            let to = from + steps;
            let laps = |i: usize| walked[i % count] + whole * (i / count) as f64;
            (laps(to) - laps(from)) / whole
        };
        let mut best = (
            f64::NEG_INFINITY,
            Self {
                start: 0,
                p: 1,
                q: 1,
            },
        );
        for p in 1..count / 2 {
            let q = count / 2 - p;
            for start in 0..count / 2 {
                let corners = [0, p, p + q, 2 * p + q].map(|i| turns[(start + i) % count]);
                let uneven = (length(start, p) - length(start + p + q, p)).abs()
                    + (length(start + p, q) - length(start + 2 * p + q, q)).abs();
                let narrow = 1.0 - p.min(q) as f64 / p.max(q) as f64;
                let score = corners.iter().sum::<f64>() - UNEVEN * uneven - NARROW * narrow;
                if score > best.0 {
                    best = (score, Self { start, p, q });
                }
            }
        }
        best.1
    }

    /// The ring's name of the grid point `(i, j)`, if it lies on the ring.
    fn on_ring(&self, i: usize, j: usize, count: usize) -> Option<usize> {
        let (p, q) = (self.p, self.q);
        let steps = match (i, j) {
            (i, 0) => i,
            (i, j) if i == p => p + j,
            (i, j) if j == q => 2 * p + q - i,
            (0, j) => count - j,
            _ => return None,
        };
        Some((self.start + steps) % count)
    }

    fn patch(&self, points: Vec<DVec3>) -> Patch {
        let count = points.len();
        let (p, q) = (self.p, self.q);
        let ring = |i: usize, j: usize| self.on_ring(i, j, count).expect("on a side of the grid");
        let mut patch = Patch::over(points, Vec::new());
        let mut names = vec![0u32; (p + 1) * (q + 1)];
        for j in 0..=q {
            for i in 0..=p {
                names[j * (p + 1) + i] = match self.on_ring(i, j, count) {
                    Some(name) => name as u32,
                    None => {
                        let (u, v) = (i as f64 / p as f64, j as f64 / q as f64);
                        let at = |i: usize, j: usize| patch.points[ring(i, j)];
                        let across = at(0, j).lerp(at(p, j), u);
                        let along = at(i, 0).lerp(at(i, q), v);
                        let corners = at(0, 0)
                            .lerp(at(p, 0), u)
                            .lerp(at(0, q).lerp(at(p, q), u), v);
                        let sides = [(i, (0, j)), (p - i, (p, j)), (j, (i, 0)), (q - j, (i, q))];
                        let nearest = sides.into_iter().min_by_key(|(steps, _)| *steps);
                        let (_, (x, y)) = nearest.expect("one of four sides");
                        patch.push(across + along - corners, ring(x, y) as u32);
                        patch.points.len() as u32 - 1
                    }
                };
            }
        }
        for j in 0..q {
            for i in 0..p {
                let name = |i: usize, j: usize| names[j * (p + 1) + i];
                let quad = [
                    name(i, j),
                    name(i + 1, j),
                    name(i + 1, j + 1),
                    name(i, j + 1),
                ];
                let [a, b, c, d] = quad;
                patch.quads.push(quad);
                patch.triangles.extend([[a, b, c], [a, c, d]]);
            }
        }
        patch
    }
}

#[cfg(test)]
mod tests {
    use super::super::tests::{with_surface, without};
    use super::super::{Surface, rims_described};
    use crate::fill::PlainerBecause;
    use crate::shapes;
    use glam::DVec3;

    #[test]
    fn a_boxs_lid_becomes_its_grid_again() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::splat(2.0), 6);
        let open = without(&cube, |f| cube.face_middle(f).z > 2.0 - 1e-9);
        let (outcome, audit) = with_surface(&open, Surface::Grid);
        assert_eq!(outcome.filled[0].faces, 36);
        assert_eq!(audit.mesh.quads, cube.face_count());
        assert!(audit.mesh.watertight && (audit.mesh.volume - 8.0).abs() < 1e-9);
        // Every vertex lies where it lay.
        for &p in outcome.model.mesh.positions() {
            assert!(cube.positions().iter().any(|q| q.distance(p) < 1e-9), "{p}");
        }
    }

    #[test]
    fn a_round_rim_becomes_quads_that_follow_the_ball() {
        let profile: Vec<glam::DVec2> = (0..=20)
            .map(|i| f64::from(i) * 0.12 - 1.2)
            .map(|turn| glam::DVec2::new(turn.cos(), turn.sin()))
            .collect();
        let ball = crate::mesh::Model::from(shapes::lathe(&profile, 32, false));
        assert_eq!(rims_described(&ball.mesh).len(), 2);
        let (outcome, audit) = with_surface(&ball, Surface::Grid);
        for filled in &outcome.filled {
            assert_eq!((filled.surface, filled.faces), (Surface::Grid, 64));
        }
        assert!(audit.mesh.watertight);
        assert_eq!(audit.mesh.triangles, 0);
        assert_eq!(audit.count("intersecting-faces"), 0);
    }

    #[test]
    fn an_odd_rim_gets_no_grid_and_says_so() {
        let profile = [0.0, 1.0, 2.0].map(|z| glam::DVec2::new(1.0, z));
        let tube = crate::mesh::Model::from(shapes::lathe(&profile, 17, false));
        let (outcome, audit) = with_surface(&tube, Surface::Grid);
        assert!(audit.mesh.watertight);
        for filled in &outcome.filled {
            assert_eq!(filled.surface, Surface::Tight);
            assert_eq!(filled.why_plainer, Some(PlainerBecause::OddEdges));
        }
    }
}
