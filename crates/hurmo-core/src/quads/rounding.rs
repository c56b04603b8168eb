//! Whole numbers for unknowns of a quadratic energy, one after the other: each time the one that is nearest to
//! a whole number is set to it, and the others follow (Bommes, Zimmer, Kobbelt 2009). How the others follow is
//! in the covariance of the unknowns, so that nothing is solved again; only of many unknowns, those that are
//! clearly near to whole numbers are set together first.

use crate::sparse::{Factor, Rows};

/// The covariance of more unknowns than this would take too long.
const MOST: usize = 1000;
/// An unknown so near to a whole number is set together with others,
const NEAR: f64 = 0.05;
/// as is this share of them, the nearest first.
const SHARE: f64 = 0.3;

/// A quadratic energy, half of x·Ax less b·x, for any b. The last unknowns must be whole.
pub(super) struct Energy {
    /// The lower half of A: row, column, number.
    entries: Vec<(u32, u32, f64)>,
    factor: Factor,
    /// So many unknowns must be whole.
    whole: usize,
    /// How these follow each other; `None` where there are none, or too many.
    together: Option<Together>,
}

/// How the unknowns that must be whole follow each other.
struct Together {
    /// Their block of the inverse, row by row.
    covariance: Vec<f64>,
    /// Its factor.
    factor: Factor,
}

impl Together {
    fn of(factor: &Factor, count: usize, last: usize) -> Option<Self> {
        let unit = |i: usize| {
            let mut right = vec![0.0; count];
            right[count - last + i] = 1.0;
            right
        };
        let rows = factor.solved_all(last, unit, count - last..count);
        let lower = rows.iter().enumerate();
        let lower = lower.flat_map(|(i, row)| (0..=i).map(move |j| (i as u32, j as u32, row[j])));
        Some(Self {
            factor: Factor::of(&Rows::summed(last, lower.collect()))?,
            covariance: rows.concat(),
        })
    }
}

impl Energy {
    /// Of the lower half of A, for some unknowns, the last of which must be whole; `None` unless A is positive
    /// definite.
    pub fn of(entries: Vec<(u32, u32, f64)>, count: usize, whole: usize) -> Option<Self> {
        let factor = Factor::of(&Rows::summed(count, entries.clone()))?;
        let together = match whole {
            1..=MOST => Some(Together::of(&factor, count, whole)?),
            _ => None,
        };
        Some(Self {
            entries,
            factor,
            whole,
            together,
        })
    }

    /// The unknowns of least energy whose last are whole; `None` where that can't be found.
    pub fn solved(&self, right: &[f64]) -> Option<Vec<f64>> {
        let first = right.len() - self.whole;
        let free = self.factor.solved(right);
        let Some(together) = &self.together else {
            return match self.whole {
                0 => Some(free),
                _ => self.solved_in_lots(right, free),
            };
        };
        let whole = one_by_one(together.covariance.clone(), free[first..].to_vec());
        // What must pull at the last unknowns for them to be whole.
        let off = whole.iter().zip(&free[first..]).map(|(a, b)| a - b);
        let pull = together.factor.solved(&off.collect::<Vec<_>>());
        let mut pulled = right.to_vec();
        let last = pulled[first..].iter_mut().zip(&pull);
        last.for_each(|(right, pull)| *right += pull);
        let mut found = self.factor.solved(&pulled);
        found[first..].copy_from_slice(&whole);
        found.iter().all(|value| value.is_finite()).then_some(found)
    }

    /// The same where there are many: those nearest to whole numbers are set first, then all is solved again.
    fn solved_in_lots(&self, right: &[f64], mut values: Vec<f64>) -> Option<Vec<f64>> {
        let first = right.len() - self.whole;
        let mut known: Vec<Option<f64>> = vec![None; right.len()];
        loop {
            let mut list: Vec<(f64, usize)> = (first..values.len())
                .filter(|&i| known[i].is_none())
                .map(|i| ((values[i] - values[i].round()).abs(), i))
                .collect();
            list.sort_by(|a, b| a.0.total_cmp(&b.0));
            let share = (list.len() as f64 * SHARE) as usize;
            for (rank, &(off, i)) in list.iter().enumerate() {
                if off < NEAR || rank <= share {
                    known[i] = Some(values[i].round());
                }
            }
            let rest = Rest::of(&self.entries, right, &known);
            let open = known[first..]
                .iter()
                .filter(|known| known.is_none())
                .count();
            let (entries, right) = (rest.entries, rest.right);
            let found = match open <= MOST {
                true => Energy::of(entries, right.len(), open)?.solved(&right)?,
                false => Factor::of(&Rows::summed(right.len(), entries))?.solved(&right),
            };
            values = joined(&known, &found);
            if open <= MOST {
                return Some(values);
            }
        }
    }
}

/// The unknowns of least energy, the last being these whole numbers; `None` where that can't be found.
pub(super) fn solved_with(
    entries: &[(u32, u32, f64)],
    right: &[f64],
    whole: &[f64],
) -> Option<Vec<f64>> {
    let mut known: Vec<Option<f64>> = vec![None; right.len() - whole.len()];
    known.extend(whole.iter().map(|&value| Some(value)));
    let rest = Rest::of(entries, right, &known);
    let rows = Rows::summed(rest.right.len(), rest.entries);
    let found = joined(&known, &Factor::of(&rows)?.solved(&rest.right));
    found.iter().all(|value| value.is_finite()).then_some(found)
}

/// What of an energy is left where some unknowns are known.
struct Rest {
    entries: Vec<(u32, u32, f64)>,
    right: Vec<f64>,
}

impl Rest {
    fn of(entries: &[(u32, u32, f64)], right: &[f64], known: &[Option<f64>]) -> Self {
        let mut numbers = vec![u32::MAX; known.len()];
        let mut rest = Self {
            entries: Vec::with_capacity(entries.len()),
            right: Vec::with_capacity(known.len()),
        };
        for (i, known) in known.iter().enumerate() {
            if known.is_none() {
                numbers[i] = rest.right.len() as u32;
                rest.right.push(right[i]);
            }
        }
        for &(i, j, number) in entries {
            let [p, q] = [i, j].map(|k| numbers[k as usize]);
            match (known[i as usize], known[j as usize]) {
                (None, None) => rest.entries.push((p.max(q), p.min(q), number)),
                (None, Some(value)) => rest.right[p as usize] -= number * value,
                (Some(value), None) => rest.right[q as usize] -= number * value,
                (Some(_), Some(_)) => {}
            }
        }
        rest
    }
}

/// All unknowns: those that are known, and those that were found.
fn joined(known: &[Option<f64>], found: &[f64]) -> Vec<f64> {
    let mut found = found.iter().copied();
    let all = known.iter();
    all.map(|known| known.or_else(|| found.next()).unwrap_or(0.0))
        .collect()
}

/// Sets the value that is nearest to a whole number, again and again.
fn one_by_one(mut covariance: Vec<f64>, mut values: Vec<f64>) -> Vec<f64> {
    let count = values.len();
    let mut open: Vec<usize> = (0..count).collect();
    while !open.is_empty() {
        let off = |i: usize| (values[i] - values[i].round()).abs();
        let best = (0..open.len()).min_by(|&a, &b| off(open[a]).total_cmp(&off(open[b])));
        let k = open.swap_remove(best.unwrap_or(0));
        let by = values[k].round() - values[k];
        values[k] = values[k].round();
        let variance = covariance[k * count + k];
        if variance.is_nan() || variance <= 1e-12 {
            continue;
        }
        let row: Vec<f64> = open.iter().map(|&i| covariance[k * count + i]).collect();
        for (&i, &one) in open.iter().zip(&row) {
            let share = one / variance;
            values[i] += share * by;
            for (&j, &other) in open.iter().zip(&row) {
                covariance[i * count + j] -= share * other;
            }
        }
    }
    values
}
