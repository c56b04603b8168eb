//! Where the skin crosses the grid's edges, and which way it faces there.

use super::grid::{EdgeKey, edge_parts, step};
use super::inside_test::{Hits, INSIDE, InsideTest};
use super::openings::{half_between, way_out_of_half};
use crate::mesh::FaceId;
use glam::DVec3;

/// No point lies nearer to an end of its edge, as a share of it.
const RIM: f64 = 0.004;
/// How often an edge is halved where what is added begins on it.
const HALVED: usize = 14;

/// A point of the skin on an edge of the grid.
#[derive(Clone, Copy, Debug)]
pub struct Crossing {
    /// Where.
    pub at: DVec3,
    /// Which way it faces.
    pub normal: DVec3,
    /// Which face of the model it lies on, or is there for; none where an opening is closed.
    pub face: Option<FaceId>,
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

/// What is known of a corner of the grid.
#[derive(Clone, Copy, Debug)]
pub struct Corner {
    /// How often the model winds round it, or on that side of a half, where the model is open.
    pub winds: f64,
    /// Whether it is inside by what is added; not asked where it is inside anyway.
    pub is_added: bool,
}

impl Corner {
    /// Whether it is inside by what the model fills.
    pub fn is_filled(&self) -> bool {
        self.winds > INSIDE
    }

    /// Whether it is inside at all.
    pub fn is_inside(&self) -> bool {
        self.is_filled() || self.is_added
    }
}

impl InsideTest<'_> {
    /// Looks along an edge between two corners.
    pub fn along(&self, edge: EdgeKey, hits: &Hits, ends: [Corner; 2]) -> Found {
        let found = self.through_the_model(edge, hits, ends.map(|end| end.winds));
        if self.added.is_empty() {
            return found;
        }
        let inside = ends.map(|end| end.is_inside());
        let (low, axis) = edge_parts(edge);
        let mut places = [low, step(low, axis)].map(|key| self.grid.corner(key));
        if inside == [true, false] {
            places.reverse();
        }
        let [out, within] = places;
        let crosses = inside[0] != inside[1];
        match found {
            // What is added may reach further out.
            Found::Skin(crossing) if crosses && !self.is_added(crossing.at) => found,
            Found::Skin(crossing) if crosses => Found::Skin(self.edge_of_added(out, crossing.at)),
            _ if crosses => Found::Skin(self.edge_of_added(out, within)),
            Found::Thin(at) if !self.is_added(at) => found,
            _ => Found::Nothing,
        }
    }

    /// The same, by what the model fills alone, which winds so often round the ends.
    fn through_the_model(&self, edge: EdgeKey, hits: &Hits, ends: [f64; 2]) -> Found {
        let inside = ends.map(|winds| winds > INSIDE);
        let crosses = inside[0] != inside[1];
        if !crosses && hits.list.len() < 2 {
            return Found::Nothing;
        }
        let (mut list, is_unsure) = (hits.list.clone(), hits.is_unsure);
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
        let can_count = self.is_closed() && !is_unsure;
        for (i, &(share, triangle, rise)) in list.iter().enumerate() {
            count += f64::from(if from_far { -rise } else { rise });
            let goes_in = match list.get(i + 1) {
                // Of several in one place, the last counts.
                Some(next) if (next.0 - share).abs() < 1e-9 => continue,
                Some(_) if can_count => count > INSIDE,
                Some(next) => self.capped.own(at((share + next.0) / 2.0)) > INSIDE,
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
        let [a, b, c] = self.hierarchy().corners(triangle as usize);
        let normal = (b - a).cross(c - a).normalize_or_zero();
        let faces = if from_inside {
            normal[axis]
        } else {
            -normal[axis]
        };
        Crossing {
            at,
            normal: if faces < 0.0 { -normal } else { normal },
            face: Some(self.hierarchy().face(triangle as usize)),
        }
    }

    /// Where nothing crosses: the place at which the winding number passes the half.
    fn between(&self, out: DVec3, within: DVec3, ends: (DVec3, DVec3)) -> Crossing {
        let place = half_between(&self.capped, out, within);
        let (from, to) = ends;
        let share = (place - from).dot(to - from) / from.distance_squared(to);
        let at = from.lerp(to, clamped(share));
        let normal = way_out_of_half(&self.capped, at, 0.06 * self.grid.cell);
        Crossing {
            at,
            normal,
            face: None,
        }
    }

    /// Where what is added begins, between a corner out of it and a place in it.
    fn edge_of_added(&self, corner: DVec3, place: DVec3) -> Crossing {
        let [out, within] = halved(corner, place, |place| self.is_added(place));
        let holds = self.added.iter().find(|added| added.holds(within));
        let way_out = holds.and_then(|added| added.way_out(within));
        let (normal, face) = way_out.map_or((DVec3::ZERO, None), |(way, face)| (way, Some(face)));
        // Not nearer to the corner than a point may lie, whose edge is one cell long.
        let off = (out + within) / 2.0 - corner;
        let least = RIM * self.grid.cell;
        let most = (1.0 - RIM) * self.grid.cell;
        let at = corner + (place - corner).normalize_or_zero() * off.length().clamp(least, most);
        Crossing { at, normal, face }
    }
}

/// The last places out and in when the way between two is halved again and again.
fn halved(mut out: DVec3, mut within: DVec3, is_in: impl Fn(DVec3) -> bool) -> [DVec3; 2] {
    for _ in 0..HALVED {
        let middle = (out + within) / 2.0;
        match is_in(middle) {
            true => within = middle,
            false => out = middle,
        }
    }
    [out, within]
}

fn clamped(share: f64) -> f64 {
    share.clamp(RIM, 1.0 - RIM)
}
