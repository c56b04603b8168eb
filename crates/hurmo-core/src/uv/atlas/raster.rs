//! Charts as cells of a grid, and the floor on which they are laid.

use glam::DVec2;

/// The cells that a chart covers, with room round it.
#[derive(Debug)]
pub struct Mask {
    width: usize,
    /// By row its runs: the first cell, and the one past the last.
    rows: Vec<Vec<[usize; 2]>>,
    /// The rows, those that cover most first.
    order: Vec<usize>,
}

impl Mask {
    /// Of triangles over places in cells, all beyond nought; with this many cells round them.
    pub fn of(places: &[DVec2], triangles: &[[u32; 3]], round: usize) -> Self {
        let far = places.iter().copied().fold(DVec2::ZERO, DVec2::max);
        let [width, height] = [far.x, far.y].map(|along| along as usize + 1 + 2 * round);
        let mut covered = vec![vec![false; width]; height];
        for triangle in triangles {
            let corners = triangle.map(|place| places[place as usize]);
            let lowest = corners.iter().fold(f64::INFINITY, |low, p| low.min(p.y));
            let highest = corners.iter().fold(0.0, |high: f64, p| high.max(p.y));
            for row in lowest as usize..=highest as usize {
                let [from, to] = across(corners, row as f64);
                if from <= to {
                    let cells = from as usize + round..=to as usize + round;
                    covered[row + round][cells].fill(true);
                }
            }
        }
        let sideways: Vec<Vec<[usize; 2]>> = covered
            .iter()
            .map(|row| widened(&runs(row), round, width))
            .collect();
        let rows = (0..height).map(|row| {
            let near = row.saturating_sub(round)..(row + round + 1).min(height);
            joined(sideways[near].iter().flatten().copied().collect())
        });
        let rows: Vec<Vec<[usize; 2]>> = rows.collect();
        let mut order: Vec<usize> = (0..height).filter(|&row| !rows[row].is_empty()).collect();
        let cells = |row: &usize| rows[*row].iter().map(|[a, b]| b - a).sum::<usize>();
        order.sort_by_key(|row| (std::cmp::Reverse(cells(row)), *row));
        Self { width, rows, order }
    }

    /// How many rows high it is.
    pub fn height(&self) -> usize {
        self.rows.len()
    }
}

/// From where to where a triangle lies within a row of cells; the other way round if it doesn't.
fn across(corners: [DVec2; 3], row: f64) -> [f64; 2] {
    let mut ends = [f64::INFINITY, f64::NEG_INFINITY];
    let mut take = |x: f64| ends = [ends[0].min(x), ends[1].max(x)];
    for i in 0..3 {
        let (a, b) = (corners[i], corners[(i + 1) % 3]);
        if (row..=row + 1.0).contains(&a.y) {
            take(a.x);
        }
        for y in [row, row + 1.0] {
            if (a.y < y) != (b.y < y) {
                take(a.x + (b.x - a.x) * ((y - a.y) / (b.y - a.y)).clamp(0.0, 1.0));
            }
        }
    }
    ends
}

fn runs(row: &[bool]) -> Vec<[usize; 2]> {
    let mut runs: Vec<[usize; 2]> = Vec::new();
    for (cell, _) in row.iter().enumerate().filter(|(_, covered)| **covered) {
        match runs.last_mut() {
            Some([_, end]) if *end == cell => *end += 1,
            _ => runs.push([cell, cell + 1]),
        }
    }
    runs
}

fn widened(runs: &[[usize; 2]], round: usize, width: usize) -> Vec<[usize; 2]> {
    let wide = |&[from, to]: &[usize; 2]| [from.saturating_sub(round), (to + round).min(width)];
    joined(runs.iter().map(wide).collect())
}

/// Runs that meet as one.
fn joined(mut runs: Vec<[usize; 2]>) -> Vec<[usize; 2]> {
    runs.sort_unstable();
    let mut all: Vec<[usize; 2]> = Vec::with_capacity(runs.len());
    for [from, to] in runs {
        match all.last_mut() {
            Some([_, end]) if *end >= from => *end = to.max(*end),
            _ => all.push([from, to]),
        }
    }
    all
}

/// A square of cells, of which some are taken.
pub struct Floor {
    cells: usize,
    /// Words a row.
    words: usize,
    taken: Vec<u64>,
}

impl Floor {
    /// With this many cells along a side, all free.
    pub fn new(cells: usize) -> Self {
        let words = cells.div_ceil(64);
        Self {
            cells,
            words,
            taken: vec![0; words * cells],
        }
    }

    fn row(&self, row: usize) -> &[u64] {
        &self.taken[row * self.words..(row + 1) * self.words]
    }

    /// The lowest place for a mask from some row on, and of those the leftmost; none if it fits nowhere.
    pub fn lowest(&self, mask: &Mask, from: usize) -> Option<[usize; 2]> {
        let last = self.cells.checked_sub(mask.width)?;
        let highest = self.cells.checked_sub(mask.height())?;
        let mut blocked = vec![0u64; self.words];
        let mut reach = vec![0u64; self.words];
        (from..=highest).find_map(|y| {
            blocked.fill(0);
            for &row in &mask.order {
                for &[from, to] in &mask.rows[row] {
                    // Where a run of this length would meet what is taken.
                    reach.copy_from_slice(self.row(y + row));
                    let mut length = 1;
                    while length < to - from {
                        let step = length.min(to - from - length);
                        // From low to high, what is read has not been written yet.
                        for word in 0..reach.len() {
                            reach[word] |= moved_down(&reach, word, step);
                        }
                        length += step;
                    }
                    for (word, blocked) in blocked.iter_mut().enumerate() {
                        *blocked |= moved_down(&reach, word, from);
                    }
                }
                first_free(&blocked, last)?;
            }
            first_free(&blocked, last).map(|x| [x, y])
        })
    }

    /// Takes the cells of a mask.
    pub fn lay(&mut self, mask: &Mask, [x, y]: [usize; 2]) {
        for (row, runs) in mask.rows.iter().enumerate() {
            let first = (y + row) * self.words;
            for &[from, to] in runs {
                for cell in x + from..x + to {
                    self.taken[first + cell / 64] |= 1 << (cell % 64);
                }
            }
        }
    }
}

/// The first bit that is not set, up to the last.
fn first_free(bits: &[u64], last: usize) -> Option<usize> {
    let word = bits.iter().position(|&word| word != u64::MAX)?;
    let bit = 64 * word + bits[word].trailing_ones() as usize;
    (bit <= last).then_some(bit)
}

/// A word of bits that are moved down by this many.
fn moved_down(bits: &[u64], word: usize, by: usize) -> u64 {
    let (words, rest) = (by / 64, by % 64);
    let at = |word: usize| bits.get(word + words).copied().unwrap_or(0);
    match rest {
        0 => at(word),
        rest => at(word) >> rest | at(word + 1) << (64 - rest),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// The cells of a mask, one by one.
    fn cells(mask: &Mask) -> Vec<[usize; 2]> {
        let rows = mask.rows.iter().enumerate();
        let cells = rows.flat_map(|(y, runs)| {
            let cells = runs.iter().flat_map(|&[from, to]| from..to);
            cells.map(move |x| [x, y])
        });
        cells.collect()
    }

    fn triangle() -> impl Strategy<Value = Mask> {
        let place = (0.0..70.0f64, 0.0..30.0f64).prop_map(|(x, y)| DVec2::new(x, y));
        let places = prop::array::uniform3(place);
        (places, 0..4usize).prop_map(|(places, round)| Mask::of(&places, &[[0, 1, 2]], round))
    }

    proptest! {
        /// The same place as by trying all, cell by cell.
        #[test]
        fn the_lowest_place_is_found(masks in prop::collection::vec(triangle(), 1..12)) {
            let side = 130;
            let mut floor = Floor::new(side);
            let mut taken = vec![vec![false; side]; side];
            for mask in &masks {
                let own = cells(mask);
                let fits = |x: usize, y: usize| own.iter().all(|[i, j]| !taken[y + j][x + i]);
                let mut all = (0..=side - mask.height()).flat_map(|y| (0..=side - mask.width).map(move |x| [x, y]));
                let expected = all.find(|&[x, y]| fits(x, y));
                let found = floor.lowest(mask, 0);
                prop_assert_eq!(found, expected);
                if let Some([x, y]) = found {
                    floor.lay(mask, [x, y]);
                    own.iter().for_each(|[i, j]| taken[y + j][x + i] = true);
                }
            }
        }

        /// Every cell that a triangle reaches into is covered, and those round it.
        #[test]
        fn masks_cover_what_they_should(
            places in prop::array::uniform3((0.0..20.0f64, 0.0..20.0f64)),
            (s, t) in (0.0..1.0f64, 0.0..1.0f64),
            round in 0..3usize,
        ) {
            let places = places.map(|(x, y)| DVec2::new(x, y));
            let mask = Mask::of(&places, &[[0, 1, 2]], round);
            let [a, b, c] = places;
            let inside = a.lerp(b, s).lerp(c, t);
            let own = cells(&mask);
            for i in 0..=2 * round {
                for j in 0..=2 * round {
                    prop_assert!(own.contains(&[inside.x as usize + i, inside.y as usize + j]));
                }
            }
        }
    }
}
