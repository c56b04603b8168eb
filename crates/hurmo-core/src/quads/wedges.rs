//! Wedges: corners between two feature lines that are so sharp that a field which follows both does not turn from one to
//! the other. A map would lay the two lines on each other. The field is made to turn a quarter there, by an irregular
//! vertex beside the corner: one quad has its corner there, and lines run on from the vertex between the two.

use super::frames::{indices, turned};
use super::surface::{Surface, previous};
use crate::geometry::corner_angle;
use rustc_hash::FxHashMap;
use std::f64::consts::FRAC_PI_2;

/// By half-edge across which a field turns by more or fewer quarters than by the least angle: by how many more.
pub(super) type MoreTurns = FxHashMap<u32, i8>;

/// The quarters by which a field has to turn more, so that it turns at each corner between feature lines.
pub(super) fn turns_at_wedges(surface: &Surface, angles: &[f64]) -> MoreTurns {
    let mut is_on_line = vec![false; surface.positions.len()];
    for half_edge in (0..surface.half_edge_count()).filter(|&h| surface.is_feature[h as usize]) {
        for v in [surface.from(half_edge), surface.to(half_edge)] {
            is_on_line[v as usize] = true;
        }
    }
    let mut index = indices(surface, angles);
    let mut more = MoreTurns::default();
    for v in (0..surface.positions.len() as u32).filter(|&v| is_on_line[v as usize]) {
        for sector in sectors(surface, v) {
            if quarters(surface, angles, v, &sector) > 0 {
                continue;
            }
            let beyond = |place: usize| surface.from(previous(sector[place]));
            let fits = (0..sector.len() - 1).filter(|&place| {
                let end = beyond(place) as usize;
                !is_on_line[end] && index[end] <= 0
            });
            let opening = |some: &[u32]| some.iter().map(|&h| angle(surface, v, h)).sum::<f64>();
            let off_middle = |place: &usize| {
                let (one, other) = sector.split_at(place + 1);
                (opening(one) - opening(other)).abs()
            };
            let middle = fits.min_by(|a, b| off_middle(a).total_cmp(&off_middle(b)));
            if let Some(place) = middle {
                let crossed = previous(sector[place]);
                more.insert(crossed, 1);
                more.insert(surface.across[crossed as usize], -1);
                index[beyond(place) as usize] += 1;
            }
        }
    }
    more
}

/// The triangles at a vertex between two feature lines that follow each other, by the half-edges that leave the vertex;
/// not those of the one sector of a line that ends.
fn sectors(surface: &Surface, v: u32) -> Vec<Vec<u32>> {
    let mut around: Vec<u32> = surface.around(v).collect();
    let is_line = |half_edge: &u32| surface.is_feature[*half_edge as usize];
    let Some(first) = around.iter().position(is_line) else {
        return Vec::new();
    };
    around.rotate_left(first);
    let is_end = !surface.is_on_rim(v) && around.iter().filter(|h| is_line(h)).count() == 1;
    if is_end {
        return Vec::new();
    }
    let sectors = around.chunk_by(|_, next| !is_line(next));
    sectors.map(<[u32]>::to_vec).collect()
}

/// The angle of a triangle at a vertex, by the half-edge that leaves it.
fn angle(surface: &Surface, v: u32, half_edge: u32) -> f64 {
    let at = |v: u32| surface.positions[v as usize];
    let ends = [surface.to(half_edge), surface.from(previous(half_edge))];
    corner_angle(at(v), ends.map(at))
}

/// How many quarter turns a field makes in a sector.
fn quarters(surface: &Surface, angles: &[f64], v: u32, sector: &[u32]) -> i64 {
    let opening: f64 = sector.iter().map(|&h| angle(surface, v, h)).sum();
    let inner = sector[..sector.len() - 1].iter();
    let turns: f64 = inner.map(|&h| turned(surface, angles, previous(h)).1).sum();
    ((opening - turns) / FRAC_PI_2).round() as i64
}
