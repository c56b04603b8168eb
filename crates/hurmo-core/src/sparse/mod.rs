//! Sparse symmetric systems: sums of terms in rows, and their solution by a Cholesky factor
//! under an approximate minimum degree order.

mod factor;
mod front;
mod tree;

pub(crate) use factor::Factor;

use glam::DVec3;

/// Sparse rows of numbers, in rising order of column.
#[derive(Default)]
pub(crate) struct Rows {
    starts: Vec<u32>,
    list: Vec<(u32, f64)>,
}

impl Rows {
    /// Of terms (row, column, number), those at one place summed.
    pub fn summed(count: usize, terms: Vec<(u32, u32, f64)>) -> Self {
        let mut starts = vec![0u32; count + 1];
        terms
            .iter()
            .for_each(|term| starts[term.0 as usize + 1] += 1);
        for i in 0..count {
            starts[i + 1] += starts[i];
        }
        let mut next = starts.clone();
        let mut loose = vec![(0, 0.0); terms.len()];
        for (i, j, number) in terms {
            let slot = &mut next[i as usize];
            loose[*slot as usize] = (j, number);
            *slot += 1;
        }
        let mut found = Self {
            starts: vec![0],
            list: Vec::with_capacity(loose.len() / 2),
        };
        for i in 0..count {
            let row = &mut loose[starts[i] as usize..starts[i + 1] as usize];
            row.sort_by_key(|term| term.0);
            for same in row.chunk_by(|a, b| a.0 == b.0) {
                found
                    .list
                    .push((same[0].0, same.iter().map(|term| term.1).sum()));
            }
            found.starts.push(found.list.len() as u32);
        }
        found
    }

    /// A row: columns with their numbers.
    pub fn of(&self, row: usize) -> &[(u32, f64)] {
        &self.list[self.starts[row] as usize..self.starts[row + 1] as usize]
    }

    pub fn count(&self) -> usize {
        self.starts.len() - 1
    }
}

/// Solves a symmetric positive definite system, of which the lower half is given, for points;
/// `None` when it isn't that.
pub(crate) fn solved(lower: &Rows, right: &[DVec3]) -> Option<Vec<DVec3>> {
    let count = lower.count();
    if count == 0 {
        return Some(Vec::new());
    }
    let factor = Factor::of(lower)?;
    let of_axis = |axis: usize| right.iter().map(|right| right[axis]).collect();
    let axes = factor.made_of_all(3, of_axis, |solution, _| solution.to_vec());
    let points: Vec<DVec3> = (0..count)
        .map(|i| DVec3::new(axes[0][i], axes[1][i], axes[2][i]))
        .collect();
    points.iter().all(|p| p.is_finite()).then_some(points)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Any sum of squares is positive definite once its diagonal is: what comes out, put
        /// back in, is what went in.
        #[test]
        fn a_solution_put_back_is_the_right_side(
            terms in prop::collection::vec((0u32..40, 0u32..40, -1.0..1.0f64), 0..200),
            right in prop::collection::vec(prop::array::uniform3(-5.0..5.0f64), 40),
        ) {
            let factor = Rows::summed(40, terms);
            let dense = |i: usize, j: u32| {
                let row = factor.of(i).iter();
                row.filter(|entry| entry.0 == j).map(|entry| entry.1).sum::<f64>()
            };
            let entry = |i: usize, j: usize| {
                let own = if i == j { 0.5 } else { 0.0 };
                own + (0..40).map(|k| dense(i, k) * dense(j, k)).sum::<f64>()
            };
            let whole: Vec<Vec<f64>> =
                (0..40).map(|i| (0..40).map(|j| entry(i, j)).collect()).collect();
            let lower = (0..40).flat_map(|i| (0..=i).map(move |j| (i, j)));
            let lower: Vec<_> = lower
                .filter(|&(i, j)| whole[i][j] != 0.0)
                .map(|(i, j)| (i as u32, j as u32, whole[i][j]))
                .collect();
            let right: Vec<DVec3> = right.into_iter().map(DVec3::from).collect();
            let found = solved(&Rows::summed(40, lower), &right).unwrap();
            for i in 0..40 {
                let back: DVec3 = (0..40).map(|j| found[j] * whole[i][j]).sum();
                prop_assert!(back.distance(right[i]) < 1e-8, "{back} for {}", right[i]);
            }
        }
    }

    /// The Laplacian of a square lattice, held a little: fronts of all sizes. Put back in, solutions are the right
    /// sides, whether they are found one by one or together.
    #[test]
    fn a_lattice_is_solved_for_many_right_sides() {
        // Large enough for several cores.
        const SIDE: u32 = 110;
        let count = (SIDE * SIDE) as usize;
        let at = |x: u32, y: u32| y * SIDE + x;
        let mut terms: Vec<(u32, u32, f64)> = (0..SIDE * SIDE).map(|i| (i, i, 0.01)).collect();
        for (x, y) in (0..SIDE).flat_map(|y| (0..SIDE).map(move |x| (x, y))) {
            for (p, q) in [(x + 1, y), (x, y + 1)] {
                if p < SIDE && q < SIDE {
                    let (a, b) = (at(x, y), at(p, q));
                    terms.extend([(a, a, 1.0), (b, b, 1.0), (b, a, -1.0)]);
                }
            }
        }
        let lower = Rows::summed(count, terms);
        let factor = Factor::of(&lower).unwrap();
        let right = |k: usize| (0..count).map(|i| ((i * (k + 3)) % 17) as f64).collect();
        let together = factor.made_of_all(11, right, |solution, _| solution.to_vec());
        assert_eq!(together.len(), 11);
        for (k, solution) in together.iter().enumerate() {
            let mut back = vec![0.0; count];
            for i in 0..count {
                for &(j, number) in lower.of(i) {
                    back[i] += number * solution[j as usize];
                    if j as usize != i {
                        back[j as usize] += number * solution[i];
                    }
                }
            }
            let wanted: Vec<f64> = right(k);
            let off = back.iter().zip(&wanted).map(|(a, b)| (a - b).abs());
            assert!(off.fold(0.0, f64::max) < 1e-9);
            let alone = factor.solved(&wanted);
            let off = alone.iter().zip(solution).map(|(a, b)| (a - b).abs());
            assert!(off.fold(0.0, f64::max) < 1e-9);
        }
        // Products of sparse columns with the inverse, by whole solutions.
        let column = |k: u32| vec![(k * 577 % (SIDE * SIDE), 1.0), (k * 31, 0.5 - f64::from(k))];
        let columns: Vec<Vec<(u32, f64)>> = (0..20).map(column).collect();
        let products = factor.products(&columns);
        for (k, own) in columns.iter().enumerate() {
            let mut dense = vec![0.0; count];
            own.iter()
                .for_each(|&(i, number)| dense[i as usize] += number);
            let solution = factor.solved(&dense);
            for (j, other) in columns.iter().enumerate() {
                let terms = other
                    .iter()
                    .map(|&(i, number)| number * solution[i as usize]);
                let wanted = if j > k { 0.0 } else { terms.sum::<f64>() };
                assert!((products[k * 20 + j] - wanted).abs() < 1e-9);
            }
        }
    }

    #[test]
    fn a_row_or_two_are_solved_too() {
        let one = Rows::summed(1, vec![(0, 0, 4.0)]);
        assert_eq!(solved(&one, &[DVec3::ONE]), Some(vec![DVec3::splat(0.25)]));
        let two = Rows::summed(2, vec![(0, 0, 2.0), (1, 0, 1.0), (1, 1, 1.0)]);
        let found = solved(&two, &[DVec3::X * 3.0, DVec3::X * 2.0]).unwrap();
        assert!(found.iter().all(|point| point.distance(DVec3::X) < 1e-12));
    }

    #[test]
    fn what_is_not_positive_definite_has_no_solution() {
        let lower = Rows::summed(2, vec![(0, 0, 1.0), (1, 0, 2.0), (1, 1, 1.0)]);
        assert!(solved(&lower, &[DVec3::X, DVec3::Y]).is_none());
    }
}
