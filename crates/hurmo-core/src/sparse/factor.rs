//! A Cholesky factor that is kept for several right sides.

use super::{LEAST_DEGREE, NATURAL, Rows};
use crate::parallel::mapped;
use rsparse::data::Sprs;
use rsparse::{chol, schol};
use std::ops::Range;

/// The factor of a symmetric positive definite system.
pub(crate) struct Factor {
    lower: Sprs<f64>,
    /// By unknown: its place in the order of the factor.
    places: Option<Vec<isize>>,
}

impl Factor {
    /// Of the lower half of a system; `None` if it isn't positive definite.
    pub fn of(lower: &Rows) -> Option<Self> {
        let count = lower.count();
        // By columns, a lower half is the upper half that the factor is made from.
        let matrix = Sprs {
            nzmax: lower.list.len(),
            m: count,
            n: count,
            p: lower.starts.iter().map(|&start| start as isize).collect(),
            i: lower.list.iter().map(|entry| entry.0 as usize).collect(),
            x: lower.list.iter().map(|entry| entry.1).collect(),
        };
        let mut order = schol(&matrix, if count < 3 { NATURAL } else { LEAST_DEGREE });
        let lower = chol(&matrix, &mut order).ok()?.l;
        Some(Self {
            lower,
            places: order.pinv,
        })
    }

    /// The solution for a right side.
    pub fn solved(&self, right: &[f64]) -> Vec<f64> {
        let [values] = self.solved_together([right]);
        values
    }

    /// The solutions for many right sides; some of them at a time go through the factor together, since to read
    /// it takes longer than to reckon with it. Of each solution the unknowns in `kept`.
    pub fn solved_all(
        &self,
        count: usize,
        right: impl Fn(usize) -> Vec<f64> + Sync,
        kept: Range<usize>,
    ) -> Vec<Vec<f64>> {
        const TOGETHER: usize = 8;
        let some = mapped(count.div_ceil(TOGETHER), 1, |chunk| {
            let own = |i: usize| right((chunk * TOGETHER + i).min(count - 1));
            let rights: [Vec<f64>; TOGETHER] = std::array::from_fn(own);
            let rights = std::array::from_fn::<&[f64], TOGETHER, _>(|i| &rights[i]);
            let solutions = self.solved_together(rights);
            solutions.map(|solution| solution[kept.clone()].to_vec())
        });
        let mut all: Vec<Vec<f64>> = some.into_iter().flatten().collect();
        all.truncate(count);
        all
    }

    /// Forwards through the factor, and back through its transpose.
    fn solved_together<const N: usize>(&self, rights: [&[f64]; N]) -> [Vec<f64>; N] {
        let count = self.lower.n;
        let place = |i: usize| self.places.as_ref().map_or(i, |to| to[i] as usize);
        let mut values = vec![[0.0; N]; count];
        for i in 0..count {
            values[place(i)] = rights.map(|right| right[i]);
        }
        let column = |j: usize| {
            let [from, to] = [self.lower.p[j] as usize, self.lower.p[j + 1] as usize];
            let below = self.lower.i[from + 1..to]
                .iter()
                .zip(&self.lower.x[from + 1..to]);
            (self.lower.x[from], below)
        };
        for j in 0..count {
            let (diagonal, below) = column(j);
            let own = values[j].map(|value| value / diagonal);
            values[j] = own;
            for (&i, number) in below {
                for (value, own) in values[i].iter_mut().zip(own) {
                    *value -= number * own;
                }
            }
        }
        for j in (0..count).rev() {
            let (diagonal, below) = column(j);
            let mut own = values[j];
            for (&i, number) in below {
                for (own, value) in own.iter_mut().zip(values[i]) {
                    *own -= number * value;
                }
            }
            values[j] = own.map(|value| value / diagonal);
        }
        std::array::from_fn(|k| (0..count).map(|i| values[place(i)][k]).collect())
    }
}
