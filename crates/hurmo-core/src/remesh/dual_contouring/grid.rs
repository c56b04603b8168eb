//! A grid of cubes, of which only few are ever looked at, so that cells, corners and edges are
//! spoken of by keys.

use crate::geometry::Bounds;
use glam::DVec3;

/// Bits of a key for each axis.
const BITS: u32 = 20;
const MASK: u64 = (1 << BITS) - 1;
/// Where the model's low corner lies in its cell: nothing that is measured in round numbers then
/// lies on the grid.
const SHIFT: f64 = 0.371;
/// The cell of the model's low corner. There is as much room below it as above: where openings are
/// closed, a skin may lead far beyond the model.
const BEGIN: u32 = 1 << (BITS - 2);

/// The most cells along an axis of a model.
pub const MOST_ALONG: f64 = (1u64 << (BITS - 1)) as f64;

/// A cell or a corner: the cell's is that of its low corner.
pub type Key = u64;
/// An edge: its low corner's key, and its axis.
pub type EdgeKey = u64;

/// Where the grid lies.
#[derive(Clone, Copy, Debug)]
pub struct Grid {
    /// The low corner of the model's low cell.
    origin: DVec3,
    /// The length of a cell's edges.
    pub cell: f64,
}

impl Grid {
    /// A grid with room for everything within some bounds.
    pub fn over(bounds: &Bounds, cell: f64) -> Self {
        Self {
            origin: bounds.min - DVec3::splat(SHIFT * cell),
            cell,
        }
    }

    /// In which cell a place lies, as three numbers.
    pub fn cell_of(&self, place: DVec3) -> [u32; 3] {
        let along = (place - self.origin) / self.cell;
        along
            .to_array()
            .map(|x| (x.floor() as i64 + i64::from(BEGIN)) as u32)
    }

    /// Where a corner is.
    pub fn corner(&self, corner: Key) -> DVec3 {
        let [x, y, z] = parts(corner).map(|part| f64::from(part) - f64::from(BEGIN));
        self.origin + DVec3::new(x, y, z) * self.cell
    }
}

/// Cells of a box, by keys of as few bits as keep them distinct; they sort like the cells' own.
#[derive(Clone, Copy, Debug)]
pub struct Window {
    low: [u32; 3],
    bits: [u32; 3],
}

impl Window {
    /// From one cell to another, both among them.
    pub fn between(low: [u32; 3], high: [u32; 3]) -> Self {
        let bits = |axis: usize| u32::BITS - (high[axis] - low[axis]).leading_zeros();
        Self {
            low,
            bits: [0, 1, 2].map(bits),
        }
    }

    /// How many bits a key has.
    pub fn bits(&self) -> u32 {
        self.bits.iter().sum()
    }

    /// The short key of a cell.
    pub fn short(&self, cell: Key) -> u64 {
        let along = parts(cell).into_iter().zip(self.low).zip(self.bits);
        along.fold(0, |short, ((part, low), bits)| {
            short << bits | u64::from(part - low)
        })
    }

    /// The cell of a short key.
    pub fn cell(&self, short: u64) -> Key {
        let [_, y, z] = self.bits;
        let part = |shift: u32, axis: usize| {
            let mask = (1u64 << self.bits[axis]) - 1;
            self.low[axis] + (short >> shift & mask) as u32
        };
        key([part(y + z, 0), part(z, 1), part(0, 2)])
    }
}

/// The key of three numbers.
pub fn key([x, y, z]: [u32; 3]) -> Key {
    (u64::from(x) << (2 * BITS)) | (u64::from(y) << BITS) | u64::from(z)
}

/// The keys of all numbers from some up to others, these among them.
pub fn keys_between(low: [u32; 3], high: [u32; 3]) -> impl Iterator<Item = Key> {
    let along = move |axis: usize| low[axis]..=high[axis];
    along(0).flat_map(move |x| along(1).flat_map(move |y| along(2).map(move |z| key([x, y, z]))))
}

/// The three numbers of a key.
pub fn parts(key: Key) -> [u32; 3] {
    [key >> (2 * BITS), key >> BITS, key].map(|part| (part & MASK) as u32)
}

/// The key this many steps along an axis.
pub fn step(key: Key, axis: usize) -> Key {
    key + (1 << (BITS * (2 - axis as u32)))
}

/// The key one step back along an axis.
pub fn step_back(key: Key, axis: usize) -> Key {
    key - (1 << (BITS * (2 - axis as u32)))
}

/// A corner of a cell: bit 0 of its number says whether it is the one farther in x, and so on.
pub fn corner_of(cell: Key, corner: usize) -> Key {
    let along = (0..3).filter(|axis| corner >> axis & 1 == 1);
    along.fold(cell, step)
}

/// The edge from a corner along an axis.
pub fn edge(low: Key, axis: usize) -> EdgeKey {
    (low << 2) | axis as u64
}

/// An edge's low corner and axis.
pub fn edge_parts(edge: EdgeKey) -> (Key, usize) {
    (edge >> 2, (edge & 3) as usize)
}

/// The cells round an edge.
pub fn cells_round(edge: EdgeKey) -> [Key; 4] {
    let (low, axis) = edge_parts(edge);
    let [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    let beside = step_back(low, u);
    [low, beside, step_back(low, v), step_back(beside, v)]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_are_in_the_cells_that_say_so() {
        let bounds = Bounds::of([DVec3::splat(-3.0), DVec3::new(5.0, 1.0, 2.0)]).unwrap();
        let grid = Grid::over(&bounds, 0.13);
        for place in [DVec3::ZERO, DVec3::new(4.9, -2.0, 1.0), DVec3::splat(-30.0)] {
            let low = grid.corner(key(grid.cell_of(place)));
            assert!(
                low.cmple(place).all() && place.cmple(low + 0.13).all(),
                "{place} {low}"
            );
        }
    }

    #[test]
    fn short_keys_tell_the_cells_of_a_window_apart() {
        let (low, high) = ([262_144, 3, 70], [262_148, 3, 79]);
        let window = Window::between(low, high);
        assert_eq!(window.bits(), 3 + 4);
        let cells: Vec<Key> = keys_between(low, high).collect();
        let short: Vec<u64> = cells.iter().map(|&cell| window.short(cell)).collect();
        assert!(short.is_sorted_by(|a, b| a < b));
        let back: Vec<Key> = short.iter().map(|&short| window.cell(short)).collect();
        assert_eq!(back, cells);
    }

    #[test]
    fn keys_are_taken_apart_as_they_were_made() {
        let numbers = [5, 1_000_000, 77];
        assert_eq!(parts(key(numbers)), numbers);
        assert_eq!(parts(step(key(numbers), 1)), [5, 1_000_001, 77]);
        assert_eq!(parts(step_back(key(numbers), 0)), [4, 1_000_000, 77]);
        assert_eq!(parts(corner_of(key(numbers), 0b110)), [5, 1_000_001, 78]);
        assert_eq!(edge_parts(edge(key(numbers), 2)), (key(numbers), 2));
        let between: Vec<Key> = keys_between([4, 7, 9], [5, 7, 10]).collect();
        let listed = [[4, 7, 9], [4, 7, 10], [5, 7, 9], [5, 7, 10]];
        assert_eq!(between, listed.map(key));
        // An edge along y has cells beside it in x and z.
        let round = cells_round(edge(key([3, 3, 3]), 1)).map(parts);
        assert_eq!(round, [[3, 3, 3], [3, 3, 2], [2, 3, 3], [2, 3, 2]]);
    }
}
