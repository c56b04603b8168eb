//! Where the skin crosses the grid's edges, and which way it faces there.

use super::grid::{EdgeKey, Grid, edge_parts, step};
use super::reach::Reach;
use crate::spatial::{Soup, Winding};
use glam::DVec3;

/// What winds more often than this is inside.
pub const INSIDE: f64 = 0.5;
/// No point lies nearer to an end of its edge, as a share of it.
const RIM: f64 = 0.004;
/// How often an edge is halved where no surface crosses it.
const HALVED: usize = 14;

/// A point of the skin on an edge of the grid.
#[derive(Clone, Copy, Debug)]
pub struct Crossing {
    /// Where.
    pub at: DVec3,
    /// Which way it faces.
    pub normal: DVec3,
    /// Which triangle of the model it lies on; none where an opening is closed.
    pub triangle: Option<u32>,
}

/// What becomes of an edge.
pub enum Found {
    /// It is crossed once.
    Skin(Crossing),
    /// It goes in and out again between its ends: a wall or a gap thinner than a cell, here.
    Thin(DVec3),
    /// Nothing.
    Nothing,
}

/// What is asked where edges are crossed.
pub struct Ground<'a> {
    pub soup: &'a Soup<'a>,
    pub winding: &'a Winding<'a, 'a>,
    pub reach: &'a Reach,
    pub grid: &'a Grid,
    /// Whether the surface has no border anywhere, so that crossings can be counted instead of
    /// winding numbers worked out.
    pub is_closed: bool,
}

/// Where triangles cross an edge.
pub struct Hits {
    /// How far along, which triangle, and by how much the winding number rises there, in order.
    list: Vec<(f64, u32, i32)>,
    /// Whether each was told for certain.
    is_sure: bool,
}

impl Hits {
    /// By how much the winding number rises along the edge, if that is certain.
    pub fn rise(&self) -> Option<i32> {
        self.is_sure
            .then(|| self.list.iter().map(|hit| hit.2).sum())
    }
}

impl Ground<'_> {
    /// Where triangles cross an edge.
    pub fn hits(&self, edge: EdgeKey) -> Hits {
        let (low, axis) = edge_parts(edge);
        let from = self.grid.corner(low);
        let mut hits = Hits {
            list: Vec::new(),
            is_sure: true,
        };
        // What crosses an edge reaches into every cell round it: that of its low corner is one.
        for t in self.reach.at(low) {
            match hit(self.soup.corners(t as usize), from, axis, self.grid.cell) {
                Hit::No => {}
                Hit::At(share, rise) => hits.list.push((share, t, rise)),
                Hit::Unsure(share, rise) => {
                    hits.list.push((share, t, rise));
                    hits.is_sure = false;
                }
            }
        }
        let list = &mut hits.list;
        list.sort_unstable_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
        hits
    }

    /// Looks along an edge between corners with these winding numbers.
    pub fn along(&self, edge: EdgeKey, Hits { mut list, is_sure }: Hits, ends: [f64; 2]) -> Found {
        let inside = ends.map(|winds| winds > INSIDE);
        let crosses = inside[0] != inside[1];
        if !crosses && list.len() < 2 {
            return Found::Nothing;
        }
        let (low, axis) = edge_parts(edge);
        let (from, to) = (self.grid.corner(low), self.grid.corner(step(low, axis)));
        // From the end outside, if there is one.
        let from_far = inside == [true, false];
        if from_far {
            list.reverse();
        }
        let [begin, end] = if from_far { [1.0, 0.0] } else { [0.0, 1.0] };
        let begins_inside = inside[usize::from(from_far)];
        let at = |share: f64| from.lerp(to, share);
        let mut last = begin;
        let mut count = ends[usize::from(from_far)];
        for (i, &(share, triangle, rise)) in list.iter().enumerate() {
            count += f64::from(if from_far { -rise } else { rise });
            let goes_in = match list.get(i + 1) {
                // Of several in one place, the last counts.
                Some(next) if (next.0 - share).abs() < 1e-9 => continue,
                Some(_) if self.is_closed && is_sure => count > INSIDE,
                Some(next) => self.winding.at(at((share + next.0) / 2.0)) > INSIDE,
                None => inside[usize::from(!from_far)],
            };
            if goes_in == begins_inside {
                last = share;
            } else if crosses {
                return Found::Skin(self.on(at(clamped(share)), triangle, axis, inside[0]));
            } else {
                return Found::Thin(at(share));
            }
        }
        match crosses {
            true => Found::Skin(self.between(at(last), at(end), (from, to))),
            false => Found::Nothing,
        }
    }

    fn on(&self, at: DVec3, triangle: u32, axis: usize, from_inside: bool) -> Crossing {
        let [a, b, c] = self.soup.corners(triangle as usize);
        let normal = (b - a).cross(c - a).normalize_or_zero();
        let faces = if from_inside {
            normal[axis]
        } else {
            -normal[axis]
        };
        Crossing {
            at,
            normal: if faces < 0.0 { -normal } else { normal },
            triangle: Some(triangle),
        }
    }

    /// Where nothing crosses: the place at which the winding number passes the half.
    fn between(&self, mut out: DVec3, mut within: DVec3, ends: (DVec3, DVec3)) -> Crossing {
        for _ in 0..HALVED {
            let middle = (out + within) / 2.0;
            match self.winding.at(middle) > INSIDE {
                true => within = middle,
                false => out = middle,
            }
        }
        let (from, to) = ends;
        let share = ((out + within) / 2.0 - from).dot(to - from) / from.distance_squared(to);
        let at = from.lerp(to, clamped(share));
        let step = 0.1 * self.grid.cell;
        let falls =
            |way: DVec3| self.winding.at(at - way * step) - self.winding.at(at + way * step);
        let normal = DVec3::new(falls(DVec3::X), falls(DVec3::Y), falls(DVec3::Z));
        Crossing {
            at,
            normal: normal.normalize_or_zero(),
            triangle: None,
        }
    }
}

fn clamped(share: f64) -> f64 {
    share.clamp(RIM, 1.0 - RIM)
}

/// How a triangle lies to an edge.
enum Hit {
    No,
    /// It crosses it so far along, and the winding number rises by so much.
    At(f64, i32),
    /// The same, but the edge runs through a corner or a side of it.
    Unsure(f64, i32),
}

/// How a triangle lies to an edge along an axis. A side that two triangles share gives the very same
/// number in both (Woop, Benthin & Wald 2013), so that rounding cannot put an edge between them.
fn hit(corners: [DVec3; 3], from: DVec3, axis: usize, length: f64) -> Hit {
    let [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    let [a, b, c] = corners.map(|p| [p[u] - from[u], p[v] - from[v]]);
    let side = |p: [f64; 2], q: [f64; 2]| p[0] * q[1] - p[1] * q[0];
    let sides = [side(b, c), side(c, a), side(a, b)];
    let is_in = sides.iter().all(|&s| s >= 0.0) || sides.iter().all(|&s| s <= 0.0);
    let sum: f64 = sides.iter().sum();
    if !is_in || sum == 0.0 {
        return Hit::No;
    }
    let along = (0..3).map(|i| corners[i][axis] * sides[i]).sum::<f64>() / sum;
    let share = (along - from[axis]) / length;
    // A triangle that is seen anticlockwise from the far end faces that way: one leaves there.
    let rise = if sum > 0.0 { -1 } else { 1 };
    const NEAR: f64 = 1e-7;
    if !(-NEAR..=1.0 + NEAR).contains(&share) {
        return Hit::No;
    }
    let is_sure = !sides.contains(&0.0) && (NEAR..1.0 - NEAR).contains(&share);
    match is_sure {
        true => Hit::At(share, rise),
        false => Hit::Unsure(share, rise),
    }
}
