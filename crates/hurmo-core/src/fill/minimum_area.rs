//! Triangles over the vertices of a closed border.

use super::height_field::Look;
use crate::geometry::vector_area_of;
use crate::triangulate::{self, flip_to_better};
use glam::DVec3;
use rustc_hash::FxHashMap;

/// Up to this many vertices, the least area is found outright.
const OUTRIGHT: usize = 256;
/// Of a longer border, this many vertices are closed first.
const SAMPLES: usize = 128;
/// The cosine of the widest angle that is a notch: 75 degrees.
const NOTCH: f64 = 0.26;
/// What folding over costs, in squares over the edge.
const FOLD: f64 = 2.0;
/// A long border may stray from its plane by this share of its width, to be closed over the
/// plane.
const PLANE: f64 = 0.35;

/// Triangles that close a border, wound as it runs, with no edge that is `taken`; `None` when
/// there is no way to do so over the border's vertices alone. `beside[i]` is the normal of the
/// face along the edge from point `i` to the next; where it is nought, any face may lie beside.
pub(super) fn closed(
    points: &[DVec3],
    beside: &[DVec3],
    taken: &dyn Fn(u32, u32) -> bool,
) -> Option<Vec<[u32; 3]>> {
    let count = points.len() as u32;
    let mut normals: Normals = (0..count)
        .map(|i| ((i, (i + 1) % count), beside[i as usize]))
        .collect();
    if points.len() > OUTRIGHT
        && let Some(mut triangles) = in_the_plane(points)
        && uses_no_taken(points.len(), &triangles, taken)
    {
        better(points, &mut triangles, taken, Some(Look::at(points)));
        return Some(triangles);
    }
    let mut ring: Vec<u32> = (0..count).collect();
    let mut triangles = Vec::with_capacity(points.len() - 2);
    while ring.len() > OUTRIGHT && shave(points, &mut normals, &mut ring, taken, &mut triangles) {}
    close_ring(points, &normals, &ring, taken, &mut triangles)?;
    better(points, &mut triangles, taken, None);
    Some(triangles)
}

/// Ears cut off in the border's plane, if it is not far from it and doesn't cross itself there.
fn in_the_plane(points: &[DVec3]) -> Option<Vec<[u32; 3]>> {
    let area = vector_area_of(points.iter().copied());
    let normal = area.try_normalize()?;
    let heights = points.iter().map(|p| (*p - points[0]).dot(normal));
    let (low, high) = heights.fold((0.0f64, 0.0f64), |(low, high), h| (low.min(h), high.max(h)));
    if high - low > PLANE * area.length().sqrt() {
        return None;
    }
    let triangles = triangulate::polygon(points);
    let look = Look::at(points);
    let corners = |t: &[u32; 3]| t.map(|i| points[i as usize]);
    let sound = triangles.iter().all(|t| look.is_forth(corners(t)));
    sound.then_some(triangles)
}

fn uses_no_taken(count: usize, triangles: &[[u32; 3]], taken: &dyn Fn(u32, u32) -> bool) -> bool {
    triangles.iter().all(|t| {
        (0..3).all(|k| {
            let (a, b) = (t[k], t[(k + 1) % 3]);
            let along = (a + 1) % count as u32 == b;
            along || !taken(a, b)
        })
    })
}

/// By border edge, in the direction of the ring, the normal of the face beside it.
type Normals = FxHashMap<(u32, u32), DVec3>;

/// Closes the notches of a jagged ring: the corners that are sharp as seen along the faces
/// beside them, no two next to each other. Says whether there was one.
fn shave(
    points: &[DVec3],
    beside: &mut Normals,
    ring: &mut Vec<u32>,
    taken: &dyn Fn(u32, u32) -> bool,
    out: &mut Vec<[u32; 3]>,
) -> bool {
    let count = ring.len();
    let at = |i: usize| points[ring[i % count] as usize];
    let normal = |i: usize| beside.get(&(ring[i % count], ring[(i + 1) % count]));
    let mut sharp: Vec<(f64, usize)> = (0..count)
        .filter_map(|i| {
            let (before, here, after) = (at(i + count - 1), at(i), at(i + 1));
            let up = *normal(i + count - 1)? + *normal(i)?;
            let opens = (here - before).cross(after - here).dot(up) > 0.0;
            let cosine = (before - here)
                .normalize_or_zero()
                .dot((after - here).normalize_or_zero());
            (opens && cosine > NOTCH).then_some((cosine, i))
        })
        .collect();
    sharp.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
    let mut gone = vec![false; count];
    for (_, i) in sharp {
        let (before, after) = ((i + count - 1) % count, (i + 1) % count);
        let [a, b, c] = [before, i, after].map(|i| ring[i]);
        if gone[before] || gone[after] || taken(a, c) {
            continue;
        }
        gone[i] = true;
        let [p, q, r] = [a, b, c].map(|v| points[v as usize]);
        beside.insert((a, c), (q - p).cross(r - p).normalize_or_zero());
        out.push([a, b, c]);
    }
    let mut gone = gone.iter();
    let before = ring.len();
    ring.retain(|_| !*gone.next().expect("one for each"));
    ring.len() < before
}

/// Closes a ring of border vertices, long ones by samples and then between them.
fn close_ring(
    points: &[DVec3],
    beside: &Normals,
    ring: &[u32],
    taken: &dyn Fn(u32, u32) -> bool,
    out: &mut Vec<[u32; 3]>,
) -> Option<()> {
    if ring.len() <= OUTRIGHT {
        return least_area(points, beside, ring, taken, out);
    }
    // Evenly spaced along the ring; where the chord between two samples is taken, the ring
    // is sampled somewhere else.
    let step = ring.len().div_ceil(SAMPLES);
    let samples = (0..step).find_map(|offset| {
        let mut at: Vec<usize> = vec![0];
        at.extend((1 + offset..ring.len()).step_by(step));
        if at.last() != Some(&(ring.len() - 1)) {
            at.push(ring.len() - 1);
        }
        let free = at
            .windows(2)
            .all(|pair| pair[1] == pair[0] + 1 || !taken(ring[pair[0]], ring[pair[1]]));
        free.then_some(at)
    })?;
    let coarse: Vec<u32> = samples.iter().map(|&i| ring[i]).collect();
    least_area(points, beside, &coarse, taken, out)?;
    for pair in samples.windows(2) {
        if pair[1] > pair[0] + 1 {
            let between = &ring[pair[0]..=pair[1]];
            close_ring(points, beside, between, taken, out)?;
        }
    }
    Some(())
}

/// The triangulation of a ring with the least total area, by dynamic programming over all
/// sub-rings; among equals, the one of the shorter sides. Folding over a neighbour costs too
/// (Liepa 2003 weighs dihedral angles), so that new faces don't lie on those round the rim.
fn least_area(
    points: &[DVec3],
    beside: &Normals,
    ring: &[u32],
    taken: &dyn Fn(u32, u32) -> bool,
    out: &mut Vec<[u32; 3]>,
) -> Option<()> {
    let count = ring.len();
    let at: Vec<DVec3> = ring.iter().map(|&i| points[i as usize]).collect();
    let cell = |i: usize, j: usize| i * count + j;
    let normal = |a: usize, b: usize, c: usize| (at[b] - at[a]).cross(at[c] - at[a]);
    let border_normal = |i: usize, j: usize| {
        let edge = (ring[i], ring[j]);
        beside.get(&edge).copied().unwrap_or(DVec3::ZERO)
    };
    let mut least = vec![0.0f64; count * count];
    let mut apex = vec![0u16; count * count];
    for gap in 2..count {
        for i in 0..count - gap {
            let j = i + gap;
            let mut best = f64::INFINITY;
            if gap == count - 1 || !taken(ring[i], ring[j]) {
                for k in i + 1..j {
                    let rest = least[cell(i, k)] + least[cell(k, j)];
                    if rest < best {
                        let own = normal(i, k, j).normalize_or_zero();
                        // The triangle that lies beside it on the edge from a to b.
                        let fold = |a: usize, b: usize| {
                            let other = match b - a {
                                1 => border_normal(a, b),
                                _ => normal(a, apex[cell(a, b)] as usize, b).normalize_or_zero(),
                            };
                            (-own.dot(other)).max(0.0) * FOLD * at[a].distance_squared(at[b])
                        };
                        let mut total = rest + weight(at[i], at[k], at[j]);
                        total += fold(i, k) + fold(k, j);
                        if gap == count - 1 {
                            let last = border_normal(j, i);
                            let folded = (-own.dot(last)).max(0.0);
                            total += folded * FOLD * at[i].distance_squared(at[j]);
                        }
                        if total < best {
                            best = total;
                            apex[cell(i, j)] = k as u16;
                        }
                    }
                }
            }
            least[cell(i, j)] = best;
        }
    }
    if !least[cell(0, count - 1)].is_finite() {
        return None;
    }
    let mut todo = vec![(0, count - 1)];
    while let Some((i, j)) = todo.pop() {
        if j < i + 2 {
            continue;
        }
        let k = apex[cell(i, j)] as usize;
        out.push([ring[i], ring[k], ring[j]]);
        todo.extend([(i, k), (k, j)]);
    }
    Some(())
}

/// What a triangle costs: its area, a little for long sides, much for having no area.
#[inline]
fn weight(a: DVec3, b: DVec3, c: DVec3) -> f64 {
    let area = (b - a).cross(c - a).length() / 2.0;
    let sides = a.distance_squared(b) + b.distance_squared(c) + c.distance_squared(a);
    let empty = if area <= 1e-7 * sides { sides } else { 0.0 };
    area + 1e-3 * sides + empty
}

/// Flips edges to better-shaped triangles where the area doesn't grow and nothing folds over,
/// nor turns away from a look at it.
fn better(
    points: &[DVec3],
    triangles: &mut [[u32; 3]],
    taken: &dyn Fn(u32, u32) -> bool,
    look: Option<Look>,
) {
    let is_forth = |t: [u32; 3]| {
        let corners = t.map(|i| points[i as usize]);
        look.is_none_or(|look| look.is_forth(corners))
    };
    let normal = |a: u32, b: u32, c: u32| {
        let [a, b, c] = [a, b, c].map(|i| points[i as usize]);
        (b - a).cross(c - a)
    };
    flip_to_better(points, triangles, |a, b, c, d| {
        let (before, after) = (
            [normal(a, b, c), normal(b, a, d)],
            [normal(c, a, d), normal(d, b, c)],
        );
        let area = |normals: [DVec3; 2]| normals[0].length() + normals[1].length();
        let along = before[0] + before[1];
        !taken(c, d)
            && area(after) <= area(before) * (1.0 + 1e-3)
            && after.iter().all(|normal| normal.dot(along) > 0.0)
            && is_forth([c, a, d])
            && is_forth([d, b, c])
    });
}
