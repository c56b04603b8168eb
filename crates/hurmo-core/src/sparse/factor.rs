//! A Cholesky factor that is kept for several right sides: by fronts (Duff & Reid 1983, The Multifrontal Solution of
//! Indefinite Sparse Symmetric Linear Equations; Liu 1992, The Multifrontal Method for Sparse Matrix Solution).
//!
//! A front is a small dense matrix of some columns and the rows below them. It gathers what the system has there
//! and what its children leave; its own columns are factored, and what they take from the rows below is left to
//! its parent.

use super::Rows;
use super::front::{partly_factored, products_of_columns};
use super::tree::{NONE, Shape, Tree};
use crate::parallel::{mapped, mapped_with};
use rustc_hash::FxHashMap;
use std::ops::Range;

/// This many right sides go through a factor together.
const TOGETHER: usize = 8;
/// Into about so many subtrees a tree is divided,
const SUBTREES: f64 = 16.0;
/// unless there is less to multiply than this.
const LITTLE: f64 = 1e7;

/// The factor of a symmetric positive definite system.
pub(crate) struct Factor {
    /// By unknown: its column.
    places: Vec<u32>,
    fronts: Vec<Front>,
}

/// Columns of a factor, with the rows below them.
struct Front {
    shape: Shape,
    /// Column by column, its own rows first.
    numbers: Vec<f64>,
}

impl Factor {
    /// Of the lower half of a system; `None` if it isn't positive definite.
    pub fn of(lower: &Rows) -> Option<Self> {
        let Tree {
            places,
            fronts: shapes,
            columns,
        } = Tree::of(lower);
        let fronts = Fronts {
            shapes: &shapes,
            columns: &columns,
        };
        let numbers = fronts.factored()?;
        let fronts = shapes.into_iter().zip(numbers);
        let fronts = fronts.map(|(shape, numbers)| Front { shape, numbers });
        let fronts = fronts.collect();
        Some(Self { places, fronts })
    }

    /// The solution for a right side.
    pub fn solved(&self, right: &[f64]) -> Vec<f64> {
        let [values] = self.solved_together([right]);
        values
    }

    /// What is made of the solutions for many right sides; some of them at a time go through the factor
    /// together, since to read it takes longer than to reckon with it.
    pub fn made_of_all<R: Send>(
        &self,
        count: usize,
        right: impl Fn(usize) -> Vec<f64> + Sync,
        made: impl Fn(&[f64], usize) -> R + Sync,
    ) -> Vec<R> {
        let some = mapped(count.div_ceil(TOGETHER), 1, |chunk| {
            let own = |i: usize| chunk * TOGETHER + i;
            let rights: [Vec<f64>; TOGETHER] =
                std::array::from_fn(|i| right(own(i).min(count - 1)));
            let rights = std::array::from_fn::<&[f64], TOGETHER, _>(|i| &rights[i]);
            let solutions = self.solved_together(rights);
            let solutions = (chunk * TOGETHER..count).zip(&solutions);
            let made = solutions.map(|(i, solution)| made(solution, i));
            made.collect::<Vec<R>>()
        });
        some.into_iter().flatten().collect()
    }

    /// For sparse columns b, by two of them, the first no lower than the second: b·A⁻¹b′. Row by row, above the diagonal
    /// nought. With A = LLᵀ that is the product of L⁻¹b and L⁻¹b′, and such a half of a solution is zero but on the way
    /// from where b is not zero to the root (Gilbert & Liu 1993, Elimination Structures for Unsymmetric Sparse LU
    /// Factors).
    pub fn products(&self, columns: &[Vec<(u32, f64)>]) -> Vec<f64> {
        let order = self.by_begin(columns);
        let lots: Vec<&[usize]> = order.chunks(TOGETHER).collect();
        let mut of_fronts: Vec<Vec<(usize, Vec<f64>)>> = vec![Vec::new(); self.fronts.len()];
        for (lot, way) in self.half_solutions(columns, &lots).into_iter().enumerate() {
            for (front, numbers) in way {
                of_fronts[front as usize].push((lot, numbers));
            }
        }
        let count = columns.len();
        let mut products = vec![0.0; count * count];
        let mut own = Vec::new();
        for (front, parts) in self.fronts.iter().zip(of_fronts) {
            let all: Vec<usize> = parts
                .iter()
                .flat_map(|(lot, _)| lots[*lot])
                .copied()
                .collect();
            let numbers: Vec<f64> = parts.into_iter().flat_map(|(_, numbers)| numbers).collect();
            products_of_columns(&numbers, front.shape.width, &mut own);
            for (i, own) in all.iter().zip(own.chunks_exact(all.len().max(1))) {
                for (j, product) in all.iter().zip(own) {
                    if j <= i {
                        products[i * count + j] += product;
                    }
                }
            }
        }
        products
    }

    /// Sparse columns, those that begin near each other one after the other: they have most of the way in common.
    fn by_begin(&self, columns: &[Vec<(u32, f64)>]) -> Vec<usize> {
        let begins = |k: usize| {
            let places = columns[k].iter().map(|&(i, _)| self.places[i as usize]);
            places.min()
        };
        let mut order: Vec<usize> = (0..columns.len()).collect();
        order.sort_by_key(|&k| begins(k));
        order
    }

    /// L⁻¹b for lots of sparse columns b: by lot, the fronts where it is not zero, in rising order, with the numbers of
    /// each column there.
    fn half_solutions(
        &self,
        columns: &[Vec<(u32, f64)>],
        lots: &[&[usize]],
    ) -> Vec<Vec<(u32, Vec<f64>)>> {
        let mut front_of = vec![NONE; self.places.len()];
        let mut parents = vec![NONE; self.fronts.len()];
        for (number, Front { shape, .. }) in (0..).zip(&self.fronts) {
            front_of[shape.first as usize..][..shape.width].fill(number);
            let children = shape.children.iter();
            children.for_each(|&child| parents[child as usize] = number);
        }
        let begin = || {
            let values = vec![[0.0; TOGETHER]; self.places.len()];
            (values, vec![false; self.fronts.len()], Vec::new())
        };
        mapped_with(lots.len(), 1, begin, |(values, is_on_way, below), lot| {
            let mut way: Vec<u32> = Vec::new();
            for (k, &column) in lots[lot].iter().enumerate() {
                for &(i, number) in &columns[column] {
                    let place = self.places[i as usize];
                    values[place as usize][k] += number;
                    let mut here = front_of[place as usize];
                    while here != NONE && !std::mem::replace(&mut is_on_way[here as usize], true) {
                        way.push(here);
                        here = parents[here as usize];
                    }
                }
            }
            way.sort_unstable();
            let on_way = way.into_iter().map(|number| {
                is_on_way[number as usize] = false;
                let front = &self.fronts[number as usize];
                front.forwards(values, below);
                let own = &mut values[front.shape.first as usize..][..front.shape.width];
                let of_column = |k: usize| own.iter().map(move |numbers| numbers[k]);
                let numbers = (0..lots[lot].len()).flat_map(of_column).collect();
                own.fill([0.0; TOGETHER]);
                (number, numbers)
            });
            on_way.collect()
        })
    }

    /// Forwards through the factor, and back through its transpose.
    fn solved_together<const N: usize>(&self, rights: [&[f64]; N]) -> [Vec<f64>; N] {
        let count = self.places.len();
        let mut values = vec![[0.0; N]; count];
        for (i, &place) in self.places.iter().enumerate() {
            values[place as usize] = rights.map(|right| right[i]);
        }
        let mut below: Vec<[f64; N]> = Vec::new();
        for front in &self.fronts {
            front.forwards(&mut values, &mut below);
        }
        for front in self.fronts.iter().rev() {
            front.backwards(&mut values, &mut below);
        }
        let place = |i: usize| self.places[i] as usize;
        std::array::from_fn(|k| (0..count).map(|i| values[place(i)][k]).collect())
    }
}

/// What fronts leave to their parents, by front.
type Left = FxHashMap<u32, Vec<f64>>;

/// Fronts that are to be factored; children come before their parents, all descendants of one right before it.
struct Fronts<'t> {
    shapes: &'t [Shape],
    /// By column, its rows from the diagonal down, with their numbers.
    columns: &'t Rows,
}

impl Fronts<'_> {
    /// The numbers of each: first whole subtrees, on all cores, then what is above them.
    fn factored(&self) -> Option<Vec<Vec<f64>>> {
        let begin = || vec![NONE; self.columns.count()];
        let subtrees = self.subtrees();
        let below = mapped_with(subtrees.len(), 1, begin, |local, i| {
            let mut left = Left::default();
            let numbers = self.factored_one_by_one(subtrees[i].clone(), local, &mut left)?;
            Some((numbers, left))
        });
        let mut left = Left::default();
        let mut all: Vec<Vec<f64>> = Vec::with_capacity(self.shapes.len());
        let mut local = begin();
        for (subtree, below) in subtrees.iter().zip(below) {
            all.extend(self.factored_one_by_one(
                all.len()..subtree.start,
                &mut local,
                &mut left,
            )?);
            let (numbers, of_root) = below?;
            left.extend(of_root);
            all.extend(numbers);
        }
        let rest = all.len()..self.shapes.len();
        all.extend(self.factored_one_by_one(rest, &mut local, &mut left)?);
        Some(all)
    }

    /// Subtrees that take no more than a share of the work each, in order; none where all is little.
    fn subtrees(&self) -> Vec<Range<usize>> {
        let mut begins: Vec<usize> = Vec::with_capacity(self.shapes.len());
        let mut work: Vec<f64> = Vec::with_capacity(self.shapes.len());
        for (front, shape) in self.shapes.iter().enumerate() {
            let children = || shape.children.iter().map(|&child| child as usize);
            let height = shape.width + shape.below.len();
            let own = (shape.width * height * height) as f64;
            begins.push(
                children()
                    .map(|child| begins[child])
                    .fold(front, usize::min),
            );
            work.push(own + children().map(|child| work[child]).sum::<f64>());
        }
        let roots = self.shapes.iter().zip(&work);
        let all: f64 = roots
            .filter(|(shape, _)| shape.below.is_empty())
            .map(|(_, work)| work)
            .sum();
        let mut subtrees = Vec::new();
        let mut end = if all < LITTLE { 0 } else { self.shapes.len() };
        while end > 0 {
            let front = end - 1;
            end = match work[front] <= all / SUBTREES {
                true => {
                    subtrees.push(begins[front]..end);
                    begins[front]
                }
                false => front,
            };
        }
        subtrees.reverse();
        subtrees
    }

    /// The numbers of some that follow each other. `local`: by row, its place in the front that is at hand. What
    /// their children have left is taken from `left`.
    fn factored_one_by_one(
        &self,
        fronts: Range<usize>,
        local: &mut [u32],
        left: &mut Left,
    ) -> Option<Vec<Vec<f64>>> {
        let numbers = fronts.map(|front| {
            let shape = &self.shapes[front];
            let (first, width) = (shape.first as usize, shape.width);
            let height = width + shape.below.len();
            let own = (first as u32..).take(width);
            for (i, row) in (0..).zip(own.chain(shape.below.iter().copied())) {
                local[row as usize] = i;
            }
            let mut whole = vec![0.0; height * height];
            for column in 0..width {
                for &(row, number) in self.columns.of(first + column) {
                    whole[column * height + local[row as usize] as usize] += number;
                }
            }
            for &child in &shape.children {
                let rows = &self.shapes[child as usize].below;
                let from = left.remove(&child).unwrap_or_default();
                for (j, (column, from)) in
                    rows.iter().zip(from.chunks_exact(rows.len())).enumerate()
                {
                    let to = &mut whole[local[*column as usize] as usize * height..][..height];
                    for (row, number) in rows.iter().zip(from).skip(j) {
                        to[local[*row as usize] as usize] += number;
                    }
                }
            }
            partly_factored(&mut whole, height, width)?;
            if width < height {
                let rest = (width..height)
                    .flat_map(|column| &whole[column * height + width..(column + 1) * height]);
                left.insert(front as u32, rest.copied().collect());
            }
            whole.truncate(width * height);
            whole.shrink_to_fit();
            Some(whole)
        });
        numbers.collect()
    }
}

impl Front {
    /// Its columns: what is on the diagonal, and what is below that in its own rows and in the others.
    fn column(&self, column: usize) -> (f64, &[f64], &[f64]) {
        let height = self.shape.width + self.shape.below.len();
        let whole = &self.numbers[column * height..(column + 1) * height];
        let (own, below) = whole.split_at(self.shape.width);
        (own[column], &own[column + 1..], below)
    }

    fn forwards<const N: usize>(&self, values: &mut [[f64; N]], taken: &mut Vec<[f64; N]>) {
        let Shape {
            first,
            width,
            below,
            ..
        } = &self.shape;
        taken.clear();
        taken.resize(below.len(), [0.0; N]);
        let own = &mut values[*first as usize..][..*width];
        for j in 0..*width {
            let (diagonal, beside, under) = self.column(j);
            let value = own[j].map(|value| value / diagonal);
            own[j] = value;
            take(&mut own[j + 1..], beside, value);
            take(taken, under, value);
        }
        for (&row, taken) in below.iter().zip(&*taken) {
            let value = &mut values[row as usize];
            (0..N).for_each(|k| value[k] += taken[k]);
        }
    }

    fn backwards<const N: usize>(&self, values: &mut [[f64; N]], known: &mut Vec<[f64; N]>) {
        let Shape {
            first,
            width,
            below,
            ..
        } = &self.shape;
        known.clear();
        known.extend(below.iter().map(|&row| values[row as usize]));
        let own = &mut values[*first as usize..][..*width];
        for j in (0..*width).rev() {
            let (diagonal, beside, under) = self.column(j);
            let mut sum = own[j];
            for (number, value) in beside
                .iter()
                .zip(&own[j + 1..])
                .chain(under.iter().zip(&*known))
            {
                (0..N).for_each(|k| sum[k] -= number * value[k]);
            }
            own[j] = sum.map(|sum| sum / diagonal);
        }
    }
}

/// Takes a column, times a value, from others.
fn take<const N: usize>(from: &mut [[f64; N]], column: &[f64], value: [f64; N]) {
    for (from, number) in from.iter_mut().zip(column) {
        (0..N).for_each(|k| from[k] -= number * value[k]);
    }
}
