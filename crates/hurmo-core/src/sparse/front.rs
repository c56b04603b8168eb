//! The dense part of a factor: some columns of a square, and what they take from the rest.

use matrixmultiply::dgemm;

/// Columns that are factored before the rest is touched.
const PANEL: usize = 32;
/// Columns of the rest that are touched together: what lies above the diagonal is for nothing.
const STRIP: usize = 64;
/// Where fewer products are to be summed, plain loops are as fast.
const FEW: usize = 4096;

/// Factors the first `width` columns of the lower half of a symmetric matrix, column by column, and takes from
/// the others what these make of them; `None` unless they are positive definite.
pub(super) fn partly_factored(matrix: &mut [f64], height: usize, width: usize) -> Option<()> {
    for begin in (0..width).step_by(PANEL) {
        let end = width.min(begin + PANEL);
        let (known, rest) = matrix.split_at_mut(end * height);
        let panel = &mut known[begin * height..];
        factor_panel(panel, height, begin)?;
        for first in (end..height).step_by(STRIP) {
            let last = height.min(first + STRIP);
            let strip = &mut rest[(first - end) * height..(last - end) * height];
            take_products(strip, panel, height, first);
        }
    }
    Some(())
}

/// Factors columns from the one of this number on, from their own rows down.
fn factor_panel(panel: &mut [f64], height: usize, begin: usize) -> Option<()> {
    for j in 0..panel.len() / height {
        let row = begin + j;
        let (before, own) = panel.split_at_mut(j * height);
        let own = &mut own[row..height];
        for column in before.chunks_exact(height) {
            let by = column[row];
            for (own, other) in own.iter_mut().zip(&column[row..]) {
                *own -= by * other;
            }
        }
        let diagonal = own[0];
        if !(diagonal > 0.0 && diagonal.is_finite()) {
            return None;
        }
        let by = 1.0 / diagonal.sqrt();
        own.iter_mut().for_each(|number| *number *= by);
    }
    Some(())
}

/// Takes from columns, the first of which has this number, the products of rows of a panel, from there down.
fn take_products(strip: &mut [f64], panel: &[f64], height: usize, first: usize) {
    let (columns, inner) = (strip.len() / height, panel.len() / height);
    let rows = height - first;
    if rows * columns * inner < FEW {
        for (j, own) in strip.chunks_exact_mut(height).enumerate() {
            for column in panel.chunks_exact(height) {
                let by = column[first + j];
                for (own, other) in own[first + j..].iter_mut().zip(&column[first + j..]) {
                    *own -= by * other;
                }
            }
        }
        return;
    }
    let (panel, strip) = (&panel[first..], &mut strip[first..]);
    // SAFETY: a panel has `inner` columns and a strip `columns` of them, each `height` apart; from row `first` on each
    // has `rows`, no fewer than `columns`, as the strip lies on the diagonal. The two don't overlap.
    unsafe {
        dgemm(
            rows,
            inner,
            columns,
            -1.0,
            panel.as_ptr(),
            1,
            height as isize,
            panel.as_ptr(),
            height as isize,
            1,
            1.0,
            strip.as_mut_ptr(),
            1,
            height as isize,
        );
    }
}

/// The products of columns of this height with each other, row by row.
pub(super) fn products_of_columns(columns: &[f64], height: usize, products: &mut Vec<f64>) {
    let count = columns.len() / height;
    products.clear();
    products.resize(count * count, 0.0);
    // SAFETY: there are `count` columns of `height` numbers each, one after the other, and `count` times `count` products.
    // The two don't overlap.
    unsafe {
        dgemm(
            count,
            height,
            count,
            1.0,
            columns.as_ptr(),
            height as isize,
            1,
            columns.as_ptr(),
            1,
            height as isize,
            0.0,
            products.as_mut_ptr(),
            count as isize,
            1,
        );
    }
}
