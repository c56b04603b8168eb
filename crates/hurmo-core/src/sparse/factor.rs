//! A Cholesky factor that is kept for several right sides.

use super::Rows;
use crate::parallel::mapped;
use faer::linalg::solvers::Solve;
use faer::sparse::linalg::solvers::{Llt, SymbolicLlt};
use faer::sparse::{SparseColMatRef, SymbolicSparseColMatRef};
use faer::{Mat, Side};

/// The factor of a symmetric positive definite system, by supernodes.
pub(crate) struct Factor {
    lower: Llt<u32, f64>,
    count: usize,
}

impl Factor {
    /// Of the lower half of a system; `None` if it isn't positive definite.
    pub fn of(lower: &Rows) -> Option<Self> {
        let count = lower.count();
        let (columns, numbers): (Vec<u32>, Vec<f64>) = lower.list.iter().copied().unzip();
        // By columns, a lower half is the upper half.
        let pattern =
            SymbolicSparseColMatRef::new_checked(count, count, &lower.starts, None, &columns);
        let matrix = SparseColMatRef::new(pattern, &numbers);
        let symbolic = SymbolicLlt::try_new(pattern, Side::Upper).ok()?;
        Some(Self {
            lower: Llt::try_new_with_symbolic(symbolic, matrix, Side::Upper).ok()?,
            count,
        })
    }

    /// The solution for a right side.
    pub fn solved(&self, right: &[f64]) -> Vec<f64> {
        let mut values = Mat::from_fn(self.count, 1, |i, _| right[i]);
        self.lower.solve_in_place(&mut values);
        (0..self.count).map(|i| values[(i, 0)]).collect()
    }

    /// What is made of the solutions for many right sides; some of them at a time go through the factor
    /// together, since to read it takes longer than to reckon with it.
    pub fn made_of_all<R: Send>(
        &self,
        count: usize,
        right: impl Fn(usize) -> Vec<f64> + Sync,
        made: impl Fn(&[f64], usize) -> R + Sync,
    ) -> Vec<R> {
        const TOGETHER: usize = 16;
        let some = mapped(count.div_ceil(TOGETHER), 1, |chunk| {
            let own = chunk * TOGETHER..count.min((chunk + 1) * TOGETHER);
            let mut values = Mat::zeros(self.count, own.len());
            for (k, i) in own.clone().enumerate() {
                let column = values.col_mut(k).try_as_col_major_mut();
                let column = column.expect("as it was made").as_slice_mut();
                column.copy_from_slice(&right(i));
            }
            self.lower.solve_in_place(&mut values);
            let one = |(k, i)| {
                let column = values.col(k).try_as_col_major();
                made(column.expect("as it was made").as_slice(), i)
            };
            own.enumerate().map(one).collect::<Vec<R>>()
        });
        some.into_iter().flatten().collect()
    }
}
