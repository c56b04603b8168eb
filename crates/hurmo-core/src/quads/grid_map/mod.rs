//! A map of the surface to the plane whose whole-numbered lines become the edges of quads: its gradients
//! follow the crosses, and across the cut it goes on by quarter turns and whole shifts (Bommes, Zimmer, Kobbelt
//! 2009, Mixed-Integer Quadrangulation). Irregular vertices and feature lines lie on whole numbers.

mod system;

use super::frames::Frames;
use super::lengths::Sides;
use super::rounding::{Energy, solved_with};
use super::surface::{NONE, Surface, next};
use glam::DVec2;
use system::{Element, System, is_whole_by_itself};

/// How often triangles that are turned over or squeezed are made stiffer.
const STIFFENING: usize = 2;
/// What lies more sides of triangles away than this from those that are made stiffer stays as it is.
const NEAR: usize = 20;
/// No coordinate comes nearer to a half than this: there the lines between quads run.
const OFF_HALVES: f64 = 1e-7;

/// A map of each triangle to the plane.
pub(super) struct GridMap {
    /// By half-edge: where the corner at which it begins lies.
    pub corners: Vec<DVec2>,
    /// By half-edge: the shift across it, after the quarter turns back.
    pub shifts: Vec<[i64; 2]>,
    /// Triangles that the map turns over.
    pub turned_over: usize,
    /// The free unknowns.
    pub free: Vec<f64>,
}

impl GridMap {
    /// How fast the two coordinates grow over a triangle, in its plane; `None` where it has no area.
    pub fn gradients(&self, surface: &Surface, t: u32) -> Option<[DVec2; 2]> {
        let element = Element::of(surface, t)?;
        let corners = &self.corners[3 * t as usize..][..3];
        let gradient = |of: usize| (0..3).map(|i| element.gradients[i] * corners[i][of]).sum();
        Some([gradient(0), gradient(1)])
    }
}

/// A coordinate pair turned by quarters, counter-clockwise.
#[inline]
pub(super) fn quarters<T: Copy + std::ops::Neg<Output = T>>([x, y]: [T; 2], turns: u8) -> [T; 2] {
    match turns % 4 {
        0 => [x, y],
        1 => [-y, x],
        2 => [-x, -y],
        _ => [y, -x],
    }
}

/// Maps of a piece of a surface along one field, for any lengths of sides: these change only what the unknowns are
/// pulled to, so that all is factored once.
pub(super) struct Mapping {
    system: System,
    energy: Energy,
    /// By triangle: how much it counts that the map follows the field there.
    weights: Vec<f64>,
}

impl Mapping {
    /// `None` where there is no such map.
    pub fn of(surface: &Surface, frames: &Frames, weights: Vec<f64>) -> Option<Self> {
        let system = System::of(surface, frames);
        let entries = system.matrix(surface, &weights)?;
        Some(Self {
            energy: Energy::of(entries, system.free, system.whole)?,
            system,
            weights,
        })
    }

    /// How many unknowns must be whole.
    pub fn whole(&self) -> usize {
        self.system.whole
    }

    /// The map for sides of these lengths, by triangle; `None` where none is found.
    pub fn map(&self, surface: &Surface, frames: &Frames, lengths: &[Sides]) -> Option<GridMap> {
        let right = self.system.right(surface, frames, &self.weights, lengths);
        self.made(surface, frames, self.energy.solved(&right)?)
    }

    /// The same with triangles made stiffer that it turns over, some times; `None` where that is no better. Only what is
    /// near them moves.
    pub fn stiffened(
        &self,
        surface: &Surface,
        frames: &Frames,
        lengths: &[Sides],
        map: &GridMap,
    ) -> Option<GridMap> {
        let mut stiffness = self.weights.clone();
        let mut best: Option<GridMap> = None;
        for _ in 0..STIFFENING {
            let last = best.as_ref().unwrap_or(map);
            let is_stiffer = stiffen(surface, last, lengths, &mut stiffness);
            if is_stiffer.is_empty() {
                break;
            }
            let is_near = in_rings(surface, is_stiffer, NEAR);
            let mut known = self.system.used_by(|t| !is_near[t as usize]);
            known[self.system.free - self.system.whole..].fill(true);
            let known = known.iter().zip(&last.free);
            let known: Vec<Option<f64>> = known
                .map(|(is_known, &value)| is_known.then_some(value))
                .collect();
            let local = stiffness.iter().zip(&is_near);
            let local: Vec<f64> = local
                .map(|(stiffness, is_near)| if *is_near { *stiffness } else { 0.0 })
                .collect();
            let entries = self.system.matrix(surface, &local)?;
            let right = self.system.right(surface, frames, &local, lengths);
            let made = self.made(surface, frames, solved_with(&entries, &right, &known)?)?;
            if made.turned_over < last.turned_over {
                best = Some(made);
            }
        }
        best
    }

    /// The map that free unknowns make, shifts exactly whole and vertices off the lines between quads.
    fn made(&self, surface: &Surface, frames: &Frames, mut free: Vec<f64>) -> Option<GridMap> {
        if free.iter().any(|value| value.is_nan() || value.abs() > 1e9) {
            return None;
        }
        let values = self.system.all(&mut free);
        let exact: Vec<f64> = values
            .iter()
            .enumerate()
            .map(|(unknown, &value)| {
                let unknowns = &self.system.unknowns;
                match is_whole_by_itself(unknowns, surface, frames, unknown as u32) {
                    true => value.round(),
                    false => off_halves(value),
                }
            })
            .collect();
        let corners: Vec<DVec2> = (0..surface.half_edge_count())
            .map(|half_edge| {
                let own = &self.system.unknowns.corners[half_edge as usize];
                self.system
                    .unknowns
                    .value(surface.from(half_edge), own, &exact)
                    .into()
            })
            .collect();
        let shifts = (0..surface.half_edge_count()).map(|half_edge| {
            let other = surface.across[half_edge as usize];
            if other == NONE {
                return [0, 0];
            }
            let turns = (4 - frames.turns[half_edge as usize]) % 4;
            let brought = quarters(corners[half_edge as usize].to_array(), turns);
            let there = corners[next(other) as usize];
            [there.x - brought[0], there.y - brought[1]].map(|shift| shift.round() as i64)
        });
        let shifts = shifts.collect();
        let turned_over = corners
            .chunks_exact(3)
            .filter(|z| (z[1] - z[0]).perp_dot(z[2] - z[0]) <= 0.0);
        Some(GridMap {
            turned_over: turned_over.count(),
            free,
            corners,
            shifts,
        })
    }
}

/// Makes triangles stiffer that the map turns over or squeezes, and those beside them. Where it turns any over, which
/// have become stiffer; else none.
fn stiffen(surface: &Surface, map: &GridMap, lengths: &[Sides], stiffness: &mut [f64]) -> Vec<u32> {
    let mut any = false;
    let mut more = vec![0.0; stiffness.len()];
    for t in 0..stiffness.len() as u32 {
        let Some([u, v]) = map.gradients(surface, t) else {
            continue;
        };
        let [along, across] = lengths[t as usize];
        let [u, v] = [u * along, v * across];
        let spread = u.perp_dot(v);
        let size = (u.length_squared() + v.length_squared()) / 2.0;
        // The smaller of the two stretches, about; turned over where negative.
        let smaller = spread / size.max(1e-12).sqrt();
        if smaller < 0.3 {
            any |= spread <= 0.0;
            more[t as usize] = (0.3 - smaller).min(1.0);
        }
    }
    let mut stiffer = Vec::new();
    for t in 0..stiffness.len() as u32 {
        let beside = beside(surface, t).map(|other| more[other as usize]);
        let most = beside.fold(more[t as usize], |most, next| most.max(next * 0.5));
        if any && most > 0.0 {
            stiffness[t as usize] += 4.0 * most * stiffness[t as usize].min(50.0);
            stiffer.push(t);
        }
    }
    stiffer
}

/// The triangles beside one.
fn beside(surface: &Surface, t: u32) -> impl Iterator<Item = u32> + '_ {
    let across = (3 * t..3 * t + 3).map(|h| surface.across[h as usize]);
    across.filter(|&other| other != NONE).map(|other| other / 3)
}

/// By triangle: whether it is no more sides away than `rings` from one of some.
fn in_rings(surface: &Surface, mut last: Vec<u32>, rings: usize) -> Vec<bool> {
    let mut is_near = vec![false; surface.triangles.len()];
    last.iter().for_each(|&t| is_near[t as usize] = true);
    for _ in 0..rings {
        let mut next = Vec::new();
        for other in last.iter().flat_map(|&t| beside(surface, t)) {
            if !std::mem::replace(&mut is_near[other as usize], true) {
                next.push(other);
            }
        }
        last = next;
    }
    is_near
}

/// A coordinate moved off the nearest half, if it is too near.
fn off_halves(value: f64) -> f64 {
    let from_half = value - value.floor() - 0.5;
    match from_half.abs() < OFF_HALVES {
        true => value + 2.0 * OFF_HALVES,
        false => value,
    }
}
