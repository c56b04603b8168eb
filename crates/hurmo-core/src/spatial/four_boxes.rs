//! Four boxes side by side, coordinate by coordinate, so that one box is held against four at a
//! time.

use super::boxes::{Bounds32, NOWHERE, united};
use glam::{Vec3A, Vec4};

/// Four boxes: their least and greatest x, y and z.
pub struct Four {
    low: [Vec4; 3],
    high: [Vec4; 3],
}

impl Four {
    /// Puts four boxes side by side.
    pub fn of(boxes: [Bounds32; 4]) -> Self {
        let along = |end: usize, axis: usize| Vec4::from_array(boxes.map(|b| b[end][axis]));
        Self {
            low: [0, 1, 2].map(|axis| along(0, axis)),
            high: [0, 1, 2].map(|axis| along(1, axis)),
        }
    }

    /// One of the boxes.
    #[inline]
    pub fn get(&self, i: usize) -> Bounds32 {
        let corner = |ends: &[Vec4; 3]| Vec3A::from_array(ends.map(|end| end[i]));
        [corner(&self.low), corner(&self.high)]
    }

    /// The box round all.
    pub fn bounds(&self) -> Bounds32 {
        [0, 1, 2, 3]
            .map(|i| self.get(i))
            .into_iter()
            .fold(NOWHERE, united)
    }

    /// Which of the four overlap another box, one bit each.
    #[inline]
    pub fn overlapping(&self, [low, high]: Bounds32) -> u32 {
        let axis = |axis: usize| {
            self.low[axis].cmple(Vec4::splat(high[axis]))
                & self.high[axis].cmpge(Vec4::splat(low[axis]))
        };
        (axis(0) & axis(1) & axis(2)).bitmask()
    }
}
