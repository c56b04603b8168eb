//! Linear equations with few terms, solved for one unknown each: what is left are independent unknowns.
//!
//! Whole-numbered unknowns stay whole: equations are solved for an unknown with a coefficient of one, and
//! rather for one that need not be whole (Bommes, Zimmer, Kobbelt 2010, Practical Mixed-Integer Optimization
//! for Geometry Processing). An unknown that is a long sum is kept with what it is a sum of, so that no sum of others
//! becomes longer by it.

use rustc_hash::{FxHashMap, FxHashSet};
use std::cmp::Reverse;

/// Unknowns with their coefficients, in rising order.
pub(super) type Terms = Vec<(u32, f64)>;

/// Coefficients below this are zero.
const NOTHING: f64 = 1e-9;

/// Sums are long that have more terms than this.
const LONG: usize = 24;

/// Equations solved so far.
pub(super) struct Elimination {
    /// Longer sums are not put in the place of an unknown.
    long: usize,
    /// What an unknown is the sum of.
    solved: FxHashMap<u32, Terms>,
    /// The same of unknowns that are kept, since their sums are long.
    kept: FxHashMap<u32, Terms>,
}

impl Default for Elimination {
    fn default() -> Self {
        Self::keeping_over(LONG)
    }
}

impl Elimination {
    /// No equations, of unknowns that are kept where they are sums of more terms than `long`.
    pub fn keeping_over(long: usize) -> Self {
        Self {
            long,
            solved: FxHashMap::default(),
            kept: FxHashMap::default(),
        }
    }

    /// Takes in that a sum is zero. `is_whole` says which unknowns must be whole.
    pub fn add(&mut self, sum: &[(u32, f64)], is_whole: impl Fn(u32) -> bool) {
        let mut sum = halved(self.reduced(sum));
        if sum.iter().any(|term| self.kept.contains_key(&term.0)) {
            if let Some(path) = self.path_to_pivot(&sum, &is_whole) {
                return self.solve_along(sum, &path);
            }
            sum = halved(self.expanded(sum));
        }
        let best = sum
            .iter()
            .max_by_key(|term| (!is_whole(term.0), is_one(term.1)));
        if let Some(&(pivot, _)) = best {
            self.solve(sum, pivot);
        }
    }

    /// Solves an equation for an unknown.
    fn solve(&mut self, mut sum: Terms, pivot: u32) {
        let own = sum.iter().find(|term| term.0 == pivot);
        let coefficient = own.map_or(1.0, |term| term.1);
        sum.retain(|term| term.0 != pivot);
        sum.iter_mut().for_each(|term| term.1 /= -coefficient);
        match sum.len() > self.long {
            true => self.kept.insert(pivot, sum),
            false => self.solved.insert(pivot, sum),
        };
    }

    /// Solves an equation for the last of some unknowns. The others are kept, each in the sum of the one before: the
    /// equation says what the first is, and what that was says what the next one is.
    fn solve_along(&mut self, mut sum: Terms, path: &[u32]) {
        for &unknown in path {
            let before = self.kept.remove(&unknown);
            self.solve(sum, unknown);
            sum = before.unwrap_or_default();
            sum.push((unknown, -1.0));
        }
    }

    /// A sum in terms of unknowns that are not solved for, or kept.
    pub fn reduced(&mut self, sum: &[(u32, f64)]) -> Terms {
        let mut terms = collected(sum.to_vec());
        while terms.iter().any(|term| self.solved.contains_key(&term.0)) {
            let mut all = Vec::with_capacity(terms.len() + 4);
            for (unknown, factor) in terms {
                match self.solved.contains_key(&unknown) {
                    false => all.push((unknown, factor)),
                    true => {
                        let own = self.settled(unknown);
                        all.extend(own.iter().map(|term| (term.0, term.1 * factor)));
                    }
                }
            }
            terms = collected(all);
        }
        terms
    }

    /// A sum in terms of unknowns that are not solved for, and of none that is kept.
    pub fn expanded(&mut self, mut sum: Terms) -> Terms {
        while sum.iter().any(|term| self.kept.contains_key(&term.0)) {
            let mut all = Vec::with_capacity(2 * sum.len());
            for term in sum {
                match self.kept.get(&term.0) {
                    None => all.push(term),
                    Some(own) => all.extend(own.iter().map(|own| (own.0, own.1 * term.1))),
                }
            }
            sum = self.reduced(&all);
        }
        sum
    }

    /// The unknowns that are kept, each after those in its sum, with these sums.
    pub fn kept(&mut self) -> Vec<(u32, Terms)> {
        let mut all: Vec<u32> = self.kept.keys().copied().collect();
        all.sort_unstable();
        let order = self.kept_within(all);
        let sums = order.into_iter();
        sums.map(|unknown| (unknown, self.kept[&unknown].clone()))
            .collect()
    }

    /// Some unknowns that are kept and all in their sums that are, each after those in its own, which is reduced.
    fn kept_within(&mut self, some: Vec<u32>) -> Vec<u32> {
        let mut order = Vec::with_capacity(some.len());
        let mut is_begun: FxHashSet<u32> = FxHashSet::default();
        let mut stack: Vec<(u32, bool)> =
            some.into_iter().map(|unknown| (unknown, false)).collect();
        while let Some((unknown, is_ready)) = stack.pop() {
            if is_ready {
                order.push(unknown);
            } else if let Some(sum) = self.kept.get(&unknown).cloned()
                && is_begun.insert(unknown)
            {
                let sum = self.reduced(&sum);
                stack.push((unknown, true));
                stack.extend(sum.iter().map(|term| (term.0, false)));
                self.kept.insert(unknown, sum);
            }
        }
        order
    }

    /// An unknown for which an equation can be solved, after the kept ones that lead to it, each in the sum of the one
    /// before. It comes in one of these sums and once only, so that none depends on itself then.
    fn path_to_pivot(&mut self, sum: &Terms, is_whole: impl Fn(u32) -> bool) -> Option<Vec<u32>> {
        let kept = self.kept_within(sum.iter().map(|term| term.0).collect());
        let mut reached: FxHashMap<u32, Reached> = FxHashMap::default();
        Reached::see(&mut reached, None, sum);
        for &unknown in kept.iter().rev() {
            Reached::see(&mut reached, Some(unknown), &self.kept[&unknown]);
        }
        let pivots = reached.iter().filter(|(unknown, how)| {
            let stays_whole = !is_whole(**unknown) || is_one(how.factor);
            how.is_once && stays_whole && !self.kept.contains_key(unknown)
        });
        let nearest =
            pivots.min_by_key(|&(&unknown, how)| (is_whole(unknown), how.far, Reverse(unknown)));
        let mut path = vec![*nearest?.0];
        while let Some(over) = reached[path.last()?].over {
            path.push(over);
        }
        path.reverse();
        Some(path)
    }

    /// What a solved unknown is, one step further than it was.
    fn settled(&mut self, unknown: u32) -> &Terms {
        // Chains of unknowns that are each the next one are shortened by half at each look.
        if let [(next, factor)] = self.solved[&unknown][..]
            && let Some(after) = self.solved.get(&next)
        {
            let after = after.iter().map(|term| (term.0, term.1 * factor)).collect();
            self.solved.insert(unknown, after);
        }
        &self.solved[&unknown]
    }
}

/// How an unknown comes into an equation.
#[derive(Clone, Copy)]
struct Reached {
    /// In the sum of this kept unknown.
    over: Option<u32>,
    /// With this coefficient.
    factor: f64,
    /// This many kept unknowns away.
    far: usize,
    /// In one way only.
    is_once: bool,
}

impl Reached {
    /// Takes in the terms of the equation, or those of a kept unknown that comes into it.
    fn see(reached: &mut FxHashMap<u32, Self>, over: Option<u32>, terms: &Terms) {
        let from = over.map(|unknown| reached[&unknown]);
        for &(unknown, factor) in terms {
            let own = Self {
                over,
                factor: factor * from.map_or(1.0, |from| from.factor),
                far: from.map_or(0, |from| from.far + 1),
                is_once: from.is_none_or(|from| from.is_once),
            };
            let again = |known: &mut Self| known.is_once = false;
            reached.entry(unknown).and_modify(again).or_insert(own);
        }
    }
}

/// Whether an equation that is solved for an unknown with this coefficient divides nothing.
fn is_one(coefficient: f64) -> bool {
    (coefficient.abs() - 1.0).abs() < NOTHING
}

/// Half of an equation that has two of each unknown says the same, and so on.
fn halved(mut sum: Terms) -> Terms {
    let is_even = |term: &(u32, f64)| (term.1 / 2.0).fract().abs() < NOTHING;
    while !sum.is_empty() && sum.iter().all(is_even) {
        sum.iter_mut().for_each(|term| term.1 /= 2.0);
    }
    sum
}

/// Terms of the same unknown summed, those that vanish left out.
fn collected(mut terms: Terms) -> Terms {
    terms.sort_unstable_by_key(|term| term.0);
    let sums = terms.chunk_by(|a, b| a.0 == b.0);
    sums.map(|same| (same[0].0, same.iter().map(|term| term.1).sum::<f64>()))
        .filter(|term| term.1.abs() > NOTHING)
        .collect()
}
