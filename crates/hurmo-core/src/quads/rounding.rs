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
const SHARE: f64 = 0.5;

/// A quadratic energy, half of x·Ax less b·x, for any b. The last unknowns must be whole.
pub(super) struct Energy {
    /// This many unknowns must be whole.
    whole: usize,
    factors: Factors,
}

/// What solutions are found with.
enum Factors {
    /// Where few unknowns must be whole, or none.
    Blocks(Blocks),
    /// Of all of A, and its lower half: row, column, number.
    All(Factor, Vec<(u32, u32, f64)>),
}

/// The parts of A: for unknowns that may be any number, and for those that must be whole.
struct Blocks {
    /// Of the first part; `None` if all must be whole.
    any: Option<Factor>,
    /// For each unknown that must be whole, what A has for it and the others.
    between: Vec<Vec<(u32, f64)>>,
    /// How those that must be whole follow each other: their block of the inverse of A, row by row.
    covariance: Vec<f64>,
}

impl Blocks {
    fn of(entries: &[(u32, u32, f64)], count: usize, whole: usize) -> Option<Self> {
        let first = count - whole;
        let mut any = Vec::with_capacity(entries.len());
        let mut between = vec![Vec::new(); whole];
        let mut schur = vec![0.0; whole * whole];
        for &(i, j, number) in entries {
            match [i as usize, j as usize] {
                [i, _] if i < first => any.push((i as u32, j, number)),
                [i, j] if j < first => between[i - first].push((j as u32, number)),
                [i, j] => schur[(i - first) * whole + j - first] += number,
            }
        }
        let any = match first {
            0 => None,
            _ => Some(Factor::of(&Rows::summed(first, any))?),
        };
        if let Some(any) = &any {
            // What each pulls at the others through those that may be any number.
            let pulled = any.products(&between);
            let numbers = schur.iter_mut().zip(pulled);
            numbers.for_each(|(number, pulled)| *number -= pulled);
        }
        Some(Self {
            any,
            between,
            covariance: inverse(&schur, whole)?,
        })
    }

    /// The unknowns of least energy whose last are whole.
    fn solved(&self, right: &[f64]) -> Vec<f64> {
        let whole = self.between.len();
        let (first, last) = right.split_at(right.len() - whole);
        let solved = |right: &[f64]| match &self.any {
            Some(any) => any.solved(right),
            None => Vec::new(),
        };
        let free = solved(first);
        let left: Vec<f64> = (self.between.iter().zip(last))
            .map(|(own, right)| right - dot(own, &free))
            .collect();
        let free = self.covariance.chunks_exact(whole.max(1));
        let free = free.map(|row| row.iter().zip(&left).map(|(a, b)| a * b).sum());
        let values = one_by_one(self.covariance.clone(), free.collect());
        let mut pulled = first.to_vec();
        for (own, value) in self.between.iter().zip(&values) {
            own.iter()
                .for_each(|&(i, number)| pulled[i as usize] -= number * value);
        }
        let mut found = solved(&pulled);
        found.extend(values);
        found
    }
}

/// The inverse of a symmetric matrix of which the lower half is given, row by row; `None` unless it is positive
/// definite.
fn inverse(lower: &[f64], count: usize) -> Option<Vec<f64>> {
    if count == 0 {
        return Some(Vec::new());
    }
    let places = (0..count).flat_map(|i| (0..=i).map(move |j| (i, j)));
    let terms = places.map(|(i, j)| (i as u32, j as u32, lower[i * count + j]));
    let factor = Factor::of(&Rows::summed(count, terms.collect()))?;
    let units: Vec<Vec<(u32, f64)>> = (0..count as u32).map(|k| vec![(k, 1.0)]).collect();
    let mut inverse = factor.products(&units);
    for i in 0..count {
        for j in 0..i {
            inverse[j * count + i] = inverse[i * count + j];
        }
    }
    Some(inverse)
}

fn dot(sparse: &[(u32, f64)], dense: &[f64]) -> f64 {
    sparse
        .iter()
        .map(|&(i, number)| number * dense[i as usize])
        .sum()
}

impl Energy {
    /// Of the lower half of A, for some unknowns, the last of which must be whole; `None` unless A is positive
    /// definite.
    pub fn of(entries: Vec<(u32, u32, f64)>, count: usize, whole: usize) -> Option<Self> {
        let factors = match whole {
            0..=MOST => Factors::Blocks(Blocks::of(&entries, count, whole)?),
            _ => Factors::All(Factor::of(&Rows::summed(count, entries.clone()))?, entries),
        };
        Some(Self { whole, factors })
    }

    /// The unknowns of least energy whose last are whole; `None` where that can't be found.
    pub fn solved(&self, right: &[f64]) -> Option<Vec<f64>> {
        let found = match &self.factors {
            Factors::Blocks(blocks) => blocks.solved(right),
            Factors::All(factor, entries) => {
                self.solved_in_lots(entries, right, factor.solved(right))?
            }
        };
        found.iter().all(|value| value.is_finite()).then_some(found)
    }

    /// The same where there are many: those nearest to whole numbers are set first, then all is solved again.
    fn solved_in_lots(
        &self,
        entries: &[(u32, u32, f64)],
        right: &[f64],
        mut values: Vec<f64>,
    ) -> Option<Vec<f64>> {
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
            let rest = Rest::of(entries, right, &known);
            let open = known[first..]
                .iter()
                .filter(|known| known.is_none())
                .count();
            let count = rest.right.len();
            let found = match open <= MOST {
                true => Energy::of(rest.entries, count, open)?.solved(&rest.right)?,
                false => Factor::of(&Rows::summed(count, rest.entries))?.solved(&rest.right),
            };
            values = joined(&known, &found);
            if open <= MOST {
                return Some(values);
            }
        }
    }
}

/// The unknowns of least energy where some are known; `None` where that can't be found.
pub(super) fn solved_with(
    entries: &[(u32, u32, f64)],
    right: &[f64],
    known: &[Option<f64>],
) -> Option<Vec<f64>> {
    let rest = Rest::of(entries, right, known);
    let rows = Rows::summed(rest.right.len(), rest.entries);
    let found = joined(known, &Factor::of(&rows)?.solved(&rest.right));
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
    // The first ones are open; by place, which value it is.
    let mut order: Vec<usize> = (0..count).collect();
    for open in (1..=count).rev() {
        let off = |i: &usize| (values[*i] - values[*i].round()).abs();
        let best = (0..open).min_by(|&a, &b| off(&order[a]).total_cmp(&off(&order[b])));
        let (k, last) = (best.unwrap_or(0), open - 1);
        order.swap(k, last);
        swap_rows_and_columns(&mut covariance, count, k, last);
        let own = order[last];
        let by = values[own].round() - values[own];
        values[own] = values[own].round();
        let (rest, row) = covariance.split_at_mut(last * count);
        let (row, variance) = (&row[..last], row[last]);
        if variance.is_nan() || variance <= 1e-12 {
            continue;
        }
        for (i, other) in rest.chunks_exact_mut(count).enumerate() {
            let share = row[i] / variance;
            values[order[i]] += share * by;
            for (number, one) in other[..last].iter_mut().zip(row) {
                *number -= share * one;
            }
        }
    }
    values
}

/// Lets two rows of a square matrix change places, and the two columns.
fn swap_rows_and_columns(matrix: &mut [f64], count: usize, one: usize, other: usize) {
    if one == other {
        return;
    }
    let (first, second) = matrix.split_at_mut(other * count);
    first[one * count..][..count].swap_with_slice(&mut second[..count]);
    for row in matrix.chunks_exact_mut(count) {
        row.swap(one, other);
    }
}
