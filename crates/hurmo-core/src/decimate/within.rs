//! The fewest triangles that stay within a distance.
//!
//! ```text
//! a tolerance for each vertex ─▶ collapses within them ─▶ which faces lie too far off, either way?
//!      ▲                                                        │ none: done
//!      └──────────── lowered at the vertices near these ◀───────┘
//! ```
//!
//! A tolerance bounds the root of the mean square of the distances to the planes that a vertex has
//! taken in. The farthest point lies further off than that, and how much further depends on the shape:
//! so it is proved face by face, both ways, that the reduced surface and the first one lie within the
//! distance, by branch and bound (see `compare`), and tolerances are lowered only where that fails.
//! A thin feature that a collapse would take away costs no triangle elsewhere.
//! Cost: a reduction and a proof for each round. Most triangles go in the first few rounds, whose
//! tolerances are small; the others begin with what these leave.

use super::fit_in_the_end;
use super::reduce::Reduction;
use crate::compare::Target;
use crate::mesh::{FaceId, Mesh};
use crate::progress::Observer;
use glam::DVec3;
use rustc_hash::FxHashSet;
use std::ops::Range;

/// First with small tolerances, where most triangles go and little fails; then with large ones.
const BEGINNINGS: [Beginning; 2] = [
    Beginning {
        share: 0.125,
        divisor: 8.0,
        spreads: 2.0,
        fitted: 0..0,
    },
    Beginning {
        share: 2.0,
        divisor: 2.0,
        spreads: 1.25,
        fitted: 2..6,
    },
];
/// How many rounds there are at most.
const ROUNDS: i32 = 16;
/// From this round on all tolerances are lowered, so that what lies close under the limit does not
/// come to lie over it by chance, and by this factor.
const SETTLE: i32 = 3;
const SETTLING: f32 = 0.93;
/// A vertex is held where its tolerance is a smaller share than this of what was begun with.
const HELD: f32 = 1.0 / 128.0;

/// The tolerances that are begun with.
struct Beginning {
    /// As a share of the distance.
    share: f64,
    /// By what they are divided where it is not held.
    divisor: f32,
    /// From round to round, the edges round such a place grow by this factor; one less is taken.
    spreads: f64,
    /// The rounds in which the reduced surface is fitted before it is looked at. A fit changes which places
    /// are off: in later rounds it would keep the search from ending.
    fitted: Range<i32>,
}

/// Reduces as far as the distance is proved to be held, and no further than to `least` triangles.
pub(super) fn reduce_within(
    reduction: &mut Reduction,
    original: &Mesh,
    within: f64,
    least: usize,
    observer: &dyn Observer,
) {
    let limit = Limit {
        original,
        target: Target::of(original),
        within,
        least,
    };
    for beginning in &BEGINNINGS {
        if let Some(reduced) = limit.reduced(reduction, beginning, observer) {
            *reduction = reduced;
        }
    }
}

/// How far a surface may be reduced.
struct Limit<'a> {
    original: &'a Mesh,
    target: Target,
    within: f64,
    least: usize,
}

impl Limit<'_> {
    /// What comes of a reduction with tolerances that are lowered where the distance would not be held;
    /// none where it is not held in the last round.
    fn reduced(
        &self,
        base: &Reduction,
        beginning: &Beginning,
        observer: &dyn Observer,
    ) -> Option<Reduction> {
        let widest = (beginning.share * self.within) as f32;
        let mut tolerances = vec![widest; base.linked.positions.len()];
        let begin = base.surface();
        let near = Target::of(&begin);
        for round in 0..ROUNDS {
            if base.living() <= self.least || observer.cancelled() {
                return None;
            }
            let mut trial = base.clone();
            trial.tolerances = Some(tolerances.clone());
            trial.run(self.least, observer);
            trial.tolerances = None;
            if beginning.fitted.contains(&round) {
                fit_in_the_end(&mut trial, self.original);
            }
            let off = self.off(&trial.surface(), &begin, &near);
            if off.is_empty() {
                return Some(trial);
            }
            if round >= SETTLE {
                tolerances.iter_mut().for_each(|own| *own *= SETTLING);
            }
            let rings = beginning.spreads.powi(round) as usize - 1;
            for vertex in within_rings(base, off, rings) {
                let own = &mut tolerances[vertex as usize];
                *own = match *own / beginning.divisor {
                    lower if lower < HELD * widest => -1.0,
                    lower => lower,
                };
            }
        }
        None
    }

    /// The vertices of `begin` near places where a surface that was made of it lies too far from the first
    /// one, or the first one from it: those of the nearest triangle, and the corners of the face itself.
    fn off(&self, surface: &Mesh, begin: &Mesh, near: &Target) -> Vec<u32> {
        let new = self.target.beyond(surface, self.within);
        let old = Target::of(surface).beyond(self.original, self.within);
        let places: Vec<DVec3> = new.iter().chain(&old).map(|(_, place)| *place).collect();
        let nearest = near.nearest(&places).into_iter().flatten();
        let nearest = nearest.map(|triangle| begin.face(FaceId::new(triangle as usize)));
        let own = new.iter().map(|(face, _)| surface.face(FaceId::new(*face)));
        own.chain(nearest)
            .flatten()
            .map(|vertex| vertex.0)
            .collect()
    }
}

/// Some vertices, and those that this many edges or fewer lead to from them.
fn within_rings(reduction: &Reduction, mut vertices: Vec<u32>, rings: usize) -> Vec<u32> {
    let mut seen: FxHashSet<u32> = FxHashSet::default();
    vertices.retain(|&vertex| seen.insert(vertex));
    let mut begin = 0;
    for _ in 0..rings {
        let end = vertices.len();
        for i in begin..end {
            let around = reduction.linked.around(vertices[i]);
            let others: Vec<u32> = around.flat_map(|(_, [_, x, y])| [x, y]).collect();
            vertices.extend(others.into_iter().filter(|&other| seen.insert(other)));
        }
        begin = end;
    }
    vertices
}

#[cfg(test)]
mod tests {
    use crate::compare::stay_within;
    use crate::decimate::{DecimateOptions, decimate};
    use crate::mesh::{Mesh, Model};
    use crate::shapes;

    fn fewest(mesh: &Mesh, within: f64) -> Mesh {
        let options = DecimateOptions {
            within: Some(within),
            ..DecimateOptions::default()
        };
        let outcome = decimate(&Model::from(mesh.clone()), &options, &()).unwrap();
        assert!(stay_within(mesh, &outcome.model.mesh, within));
        outcome.model.mesh
    }

    /// Needles have next to no area: they are cheap to take away, and far off when they are gone.
    #[test]
    fn thin_features_cost_nothing_elsewhere() {
        let plain = shapes::sphere(1.0, 5);
        let mut thorny = plain.clone();
        let every = thorny.vertex_count() / 40;
        let thorns = thorny.positions_mut().iter_mut().step_by(every);
        thorns.for_each(|at| *at *= 1.03);
        let within = 0.01;
        let (low, low_thorny) = (fewest(&plain, within), fewest(&thorny, within));
        let thorns_left = low_thorny.positions().iter();
        let thorns_left = thorns_left.filter(|at| at.length() > 1.015).count();
        assert!(thorns_left >= 40, "{thorns_left}");
        let (own, more) = (low.face_count(), low_thorny.face_count());
        assert!(own < 700, "{own}");
        assert!(more < own + 40 * 30, "{more} and {own}");
    }
}
