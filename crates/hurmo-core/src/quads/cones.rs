//! More irregular vertices, where a field has too few for quads of about one size.
//!
//! A map along a field stretches the surface by a factor whose logarithm φ follows from the irregular vertices
//! alone: Lφ = k - K, for the quarter turns k and the curvature K of vertices (Springborn, Schröder, Pinkall
//! 2008, Conformal Equivalence of Triangle Meshes; cones placed where φ is worst: Ben-Chen, Gotsman, Bunin 2008,
//! Conformal Flattening by Curvature Prescription and Metric Scaling). Where φ is out of bounds, a vertex with
//! a quarter turn more and one with a quarter turn less are added, where they lower the excess most. The field
//! is turned by what these need, and no more (Crane, Desbrun, Schröder 2010, Trivial Connections on Discrete
//! Surfaces). So are vertices with so many quarter turns that no three quads would meet there, as at tips of needles: they
//! share these with others near by.

use super::frames::{curvature, indices, turned};
use super::surface::{NONE, Surface, next, previous};
use crate::parallel::mapped_of;
use crate::sparse::{Factor, Rows};
use rustc_hash::FxHashSet;
use std::collections::VecDeque;
use std::f64::consts::FRAC_PI_2;
use std::ops::RangeInclusive;

/// The largest logarithm of the stretch that needs no more irregular vertices.
const BORNE: f64 = 0.5;
/// Nothing is added if less than this share of the area is out of bounds.
const ENOUGH: f64 = 0.01;
/// A pair must lower the excess by this share,
const WORTH: f64 = 0.03;
/// and by that of this many quads whose sides are out of bounds by a factor of e.
const WORTH_QUADS: f64 = 2.0;
/// A way between two vertices is divided into this many parts, at whose ends pairs may lie.
const STOPS: usize = 8;
/// The most pairs, as a share of the quads.
const MOST: f64 = 0.006;
/// The quarter turns of vertices at which there are three quads to six.
const FEW: RangeInclusive<i32> = -2..=1;
/// Quarter turns are shared with vertices no more edges away than this.
const RINGS: usize = 12;

/// By half-edge: by how much the field is to turn across it beyond parallel transport; `None` if the field has
/// irregular vertices enough.
pub(super) fn turns_for_even_size(
    surface: &Surface,
    angles: &[f64],
    quads: f64,
) -> Option<Vec<f64>> {
    let stretch = Stretch::of(surface)?;
    let mut index = indices(surface, angles);
    let shared = share_out(surface, &mut index, &stretch.is_on_rim);
    let is_shared = shared.iter().any(|&source| source != 0.0);
    let mut added = match is_shared {
        true => stretch.solved(&shared),
        false => vec![0.0; index.len()],
    };
    let mut log = stretch.log_scale(surface, &index);
    let mut energy = stretch.excess(&log).1;
    let most = (quads * MOST).ceil() as usize;
    let of_quads = WORTH_QUADS * stretch.area / quads;
    let mut pairs = 0;
    while pairs < most && stretch.share_out_of_bounds(&log) > ENOUGH {
        let slope = stretch.solved(&stretch.excess(&log).0);
        let inner = || (0..index.len()).filter(|&v| !stretch.is_on_rim[v]);
        let up = inner().min_by(|&a, &b| slope[a].total_cmp(&slope[b]))?;
        let down = inner().max_by(|&a, &b| slope[a].total_cmp(&slope[b]))?;
        let Some(pair) = stretch.best_pair(surface, [up, down], &log) else {
            break;
        };
        if pair.excess > energy - of_quads.max(energy * WORTH) {
            break;
        }
        energy = pair.excess;
        let [up, down] = pair.vertices;
        index[up] += 1;
        index[down] -= 1;
        let moved = log.iter().zip(&pair.change).map(|(log, by)| log + by);
        log = stretch.centred(moved.collect());
        added
            .iter_mut()
            .zip(&pair.change)
            .for_each(|(sum, by)| *sum += by);
        pairs += 1;
    }
    (pairs > 0 || is_shared).then(|| stretch.turns(surface, angles, &added))
}

/// By how much a logarithm of a stretch is out of bounds.
fn over(log: f64) -> f64 {
    log - log.clamp(-BORNE, BORNE)
}

/// Two vertices, with a quarter turn more and less, and what they do.
struct Pair {
    vertices: [usize; 2],
    /// By vertex: by how much the logarithm of the stretch changes.
    change: Vec<f64>,
    /// What is out of bounds then.
    excess: f64,
}

/// The Laplacian of a surface, factored, and what belongs to it.
struct Stretch {
    factor: Factor,
    /// By half-edge: the weight of its edge.
    weights: Vec<f64>,
    areas: Vec<f64>,
    area: f64,
    is_on_rim: Vec<bool>,
}

impl Stretch {
    fn of(surface: &Surface) -> Option<Self> {
        let count = surface.positions.len();
        let weights = weights(surface);
        let mut terms = Vec::with_capacity(2 * weights.len());
        let mut areas = vec![0.0; count];
        for half_edge in 0..surface.half_edge_count() {
            let [a, b] = [surface.from(half_edge), surface.to(half_edge)];
            let other = surface.across[half_edge as usize];
            areas[a as usize] += surface.area(half_edge / 3) / 3.0;
            if other == NONE || half_edge < other {
                let weight = weights[half_edge as usize];
                terms.extend([
                    (a, a, weight),
                    (b, b, weight),
                    (a.max(b), a.min(b), -weight),
                ]);
            }
        }
        terms.extend((0..count as u32).map(|v| (v, v, 1e-8)));
        Some(Self {
            factor: Factor::of(&Rows::summed(count, terms))?,
            weights,
            area: areas.iter().sum(),
            areas,
            is_on_rim: (0..count as u32).map(|v| surface.is_on_rim(v)).collect(),
        })
    }

    /// The solution for sources, less their mean.
    fn solved(&self, sources: &[f64]) -> Vec<f64> {
        self.centred(self.factor.solved(&self.less_mean(sources)))
    }

    /// Sources that cancel each other.
    fn less_mean(&self, sources: &[f64]) -> Vec<f64> {
        let mean = sources.iter().sum::<f64>() / self.area;
        let own = sources.iter().zip(&self.areas);
        own.map(|(source, area)| source - mean * area).collect()
    }

    fn centred(&self, mut values: Vec<f64>) -> Vec<f64> {
        let sum: f64 = values
            .iter()
            .zip(&self.areas)
            .map(|(value, area)| value * area)
            .sum();
        values
            .iter_mut()
            .for_each(|value| *value -= sum / self.area);
        values
    }

    /// The logarithm of how much a map along a field with these quarter turns stretches the surface.
    fn log_scale(&self, surface: &Surface, index: &[i32]) -> Vec<f64> {
        let sources = (0..index.len()).map(|v| {
            let curved = curvature(surface, v as u32);
            let turns = match self.is_on_rim[v] {
                true => (curved / FRAC_PI_2).round(),
                false => f64::from(index[v]),
            };
            turns * FRAC_PI_2 - curved
        });
        self.solved(&sources.collect::<Vec<_>>())
    }

    /// What is out of bounds, by vertex times its area, and the sum of squares.
    fn excess(&self, log: &[f64]) -> (Vec<f64>, f64) {
        let list = log
            .iter()
            .zip(&self.areas)
            .map(|(&log, area)| over(log) * area);
        let sum = log
            .iter()
            .zip(&self.areas)
            .map(|(&log, area)| over(log).powi(2) * area);
        (list.collect(), sum.sum())
    }

    fn share_out_of_bounds(&self, log: &[f64]) -> f64 {
        let out = log
            .iter()
            .zip(&self.areas)
            .filter(|(log, _)| log.abs() > BORNE);
        out.map(|(_, area)| area).sum::<f64>() / self.area
    }

    /// The pair that leaves least out of bounds, of places on the way between two vertices. The further apart it
    /// is, the more rows of quads begin at one and end at the other.
    fn best_pair(&self, surface: &Surface, [up, down]: [usize; 2], log: &[f64]) -> Option<Pair> {
        let way = way(surface, up as u32, down as u32);
        let stops: Vec<usize> = (0..=STOPS)
            .map(|i| way[i * (way.len() - 1) / STOPS] as usize)
            .collect();
        let part = |i: usize| {
            let mut sources = vec![0.0; log.len()];
            sources[stops[i]] = FRAC_PI_2;
            self.less_mean(&sources)
        };
        let centred = |solution: &[f64], _| self.centred(solution.to_vec());
        let parts = self.factor.made_of_all(stops.len(), part, centred);
        let all = 0..stops.len();
        let pairs = all.flat_map(|i| (i + 1..stops.len()).map(move |j| (i, j)));
        let pairs: Vec<(usize, usize)> = pairs.filter(|&(i, j)| stops[i] != stops[j]).collect();
        let excesses = mapped_of(&pairs, 1, |&(i, j)| {
            let change = parts[i].iter().zip(&parts[j]).map(|(a, b)| a - b);
            let logs = log.iter().zip(change).map(|(log, by)| log + by);
            logs.zip(&self.areas)
                .map(|(log, area)| over(log).powi(2) * area)
                .sum::<f64>()
        });
        let tried = pairs.into_iter().zip(excesses);
        let ((i, j), excess) = tried.min_by(|a, b| a.1.total_cmp(&b.1))?;
        Some(Pair {
            vertices: [stops[i], stops[j]],
            change: parts[i].iter().zip(&parts[j]).map(|(a, b)| a - b).collect(),
            excess,
        })
    }

    /// How a field turns across half-edges, and what quarter turns added to vertices turn it besides.
    fn turns(&self, surface: &Surface, angles: &[f64], added: &[f64]) -> Vec<f64> {
        let turn = |half_edge: u32| {
            if surface.across[half_edge as usize] == NONE {
                return 0.0;
            }
            let [from, to] =
                [surface.from(half_edge), surface.to(half_edge)].map(|v| added[v as usize]);
            turned(surface, angles, half_edge).1 + self.weights[half_edge as usize] * (to - from)
        };
        (0..surface.half_edge_count()).map(turn).collect()
    }
}

/// Shares quarter turns of vertices that have too many, as tips of needles, with regular ones near by: at a vertex
/// there are four quads less its quarter turns. By vertex, what it gets or gives, in radians.
fn share_out(surface: &Surface, index: &mut [i32], is_on_rim: &[bool]) -> Vec<f64> {
    let mut sources = vec![0.0; index.len()];
    for v in 0..index.len() as u32 {
        let own = index[v as usize];
        if FEW.contains(&own) {
            continue;
        }
        for other in in_rings(surface, v, RINGS) {
            if FEW.contains(&index[v as usize]) {
                break;
            }
            let beside = surface.around(other).map(|h| surface.to(h));
            let is_alone = beside.chain([other]).all(|w| index[w as usize] == 0);
            if is_alone && !is_on_rim[other as usize] {
                let by = own.signum();
                for (vertex, by) in [(other, by), (v, -by)] {
                    index[vertex as usize] += by;
                    sources[vertex as usize] += f64::from(by) * FRAC_PI_2;
                }
            }
        }
    }
    sources
}

/// The vertices up to a number of edges from another, the nearest first.
fn in_rings(surface: &Surface, from: u32, rings: usize) -> Vec<u32> {
    let mut seen = FxHashSet::from_iter([from]);
    let (mut found, mut begin) = (vec![from], 0);
    for _ in 0..rings {
        let end = found.len();
        for i in begin..end {
            let beside = surface.around(found[i]).map(|h| surface.to(h));
            let new: Vec<u32> = beside.filter(|&v| seen.insert(v)).collect();
            found.extend(new);
        }
        begin = end;
    }
    found
}

/// The vertices on a shortest way by edges, off rims.
fn way(surface: &Surface, from: u32, to: u32) -> Vec<u32> {
    let mut before = vec![NONE; surface.positions.len()];
    before[to as usize] = to;
    let mut queue = VecDeque::from([to]);
    while let Some(v) = queue.pop_front()
        && v != from
    {
        for half_edge in surface.around(v) {
            let next = surface.to(half_edge);
            if before[next as usize] == NONE && !surface.is_on_rim(next) {
                before[next as usize] = v;
                queue.push_back(next);
            }
        }
    }
    let mut way = vec![from];
    let mut here = from;
    while here != to && before[here as usize] != NONE {
        here = before[here as usize];
        way.push(here);
    }
    way
}

/// Half the cotangents of the angles opposite each edge, not below a small number.
fn weights(surface: &Surface) -> Vec<f64> {
    let cotangent = |half_edge: u32| {
        let to_apex = surface.along(previous(half_edge));
        let from_apex = -surface.along(next(half_edge));
        // From the apex to both ends.
        let [a, b] = [to_apex, from_apex];
        let cross = a.cross(b).length();
        if cross > 0.0 { a.dot(b) / cross } else { 0.0 }
    };
    (0..surface.half_edge_count())
        .map(|half_edge| {
            let other = surface.across[half_edge as usize];
            let own = cotangent(half_edge);
            let both = if other == NONE {
                own
            } else {
                own + cotangent(other)
            };
            (both / 2.0).clamp(0.05, 20.0)
        })
        .collect()
}
