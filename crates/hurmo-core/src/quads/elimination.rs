//! Linear equations with few terms, solved for one unknown each: what is left are independent unknowns.
//!
//! Whole-numbered unknowns stay whole: equations are solved for an unknown with a coefficient of one, and
//! rather for one that need not be whole (Bommes, Zimmer, Kobbelt 2010, Practical Mixed-Integer Optimization
//! for Geometry Processing).

use rustc_hash::FxHashMap;

/// Unknowns with their coefficients, in rising order.
pub(super) type Terms = Vec<(u32, f64)>;

/// Coefficients below this are zero.
const NOTHING: f64 = 1e-9;

/// Equations solved so far.
#[derive(Default)]
pub(super) struct Elimination {
    /// What an unknown is the sum of.
    solved: FxHashMap<u32, Terms>,
}

impl Elimination {
    /// Takes in that a sum is zero. `is_whole` says which unknowns must be whole.
    pub fn add(&mut self, sum: &[(u32, f64)], is_whole: impl Fn(u32) -> bool) {
        let mut sum = self.reduced(sum);
        let is_one = |term: &(u32, f64)| (term.1.abs() - 1.0).abs() < NOTHING;
        // Two of each: half of the equation says the same.
        while !sum.is_empty()
            && sum
                .iter()
                .all(|term| (term.1 / 2.0).fract().abs() < NOTHING)
        {
            sum.iter_mut().for_each(|term| term.1 /= 2.0);
        }
        let best = sum
            .iter()
            .max_by_key(|term| (!is_whole(term.0), is_one(term)));
        let Some(&(pivot, coefficient)) = best else {
            return;
        };
        sum.retain(|term| term.0 != pivot);
        sum.iter_mut().for_each(|term| term.1 /= -coefficient);
        self.solved.insert(pivot, sum);
    }

    /// A sum in terms of unknowns that are not solved for.
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

/// Terms of the same unknown summed, those that vanish left out.
fn collected(mut terms: Terms) -> Terms {
    terms.sort_unstable_by_key(|term| term.0);
    let sums = terms.chunk_by(|a, b| a.0 == b.0);
    sums.map(|same| (same[0].0, same.iter().map(|term| term.1).sum::<f64>()))
        .filter(|term| term.1.abs() > NOTHING)
        .collect()
}
