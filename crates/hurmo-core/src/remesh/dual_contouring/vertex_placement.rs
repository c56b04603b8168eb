//! Where a cell's vertex goes: as near as can be to the planes of the skin at the cell's edges
//! (Ju, Losasso, Schaefer & Warren 2002), and within the cell.

use super::crossing::Crossing;
use glam::{DMat3, DVec3};

/// How strongly the middle of the crossings pulls, for each of them.
const PULL: f64 = 1e-3;
/// No vertex lies nearer to a side of its cell, as a share of the cell.
const RIM: f64 = 0.004;

/// The place, in a cell with this low corner and size.
pub fn place(crossings: &[Crossing], low: DVec3, cell: f64) -> DVec3 {
    let middle = middle(crossings);
    let (low, high) = (
        low + DVec3::splat(RIM * cell),
        low + DVec3::splat((1.0 - RIM) * cell),
    );
    let (matrix, right) = squares(crossings, middle, PULL);
    // What would lie outside is put on the side, and the rest solved again.
    let mut held: [Option<f64>; 3] = [None; 3];
    let mut found = middle;
    for _ in 0..3 {
        found = middle + solved(&matrix, right, &held);
        let beyond = (0..3).find(|&i| held[i].is_none() && !(low[i]..=high[i]).contains(&found[i]));
        let Some(axis) = beyond else { break };
        held[axis] = Some(found[axis].clamp(low[axis], high[axis]) - middle[axis]);
    }
    found.clamp(low, high)
}

/// The place that `place` would be were there no cell round it, and the middle pulled so strongly.
pub fn place_anywhere(crossings: &[Crossing], pull: f64) -> DVec3 {
    let middle = middle(crossings);
    let (matrix, right) = squares(crossings, middle, pull);
    middle + solved(&matrix, right, &[None; 3])
}

/// How strongly a place pulls against planes that meet elsewhere.
const HARDLY: f64 = 1e-6;

/// Of the places that lie best on all planes, the one nearest to a place; of no planes, none.
pub fn nearest_to_planes(planes: &[Crossing], place: DVec3) -> Option<DVec3> {
    let (matrix, right) = squares(planes, place, HARDLY);
    (!planes.is_empty()).then(|| place + solved(&matrix, right, &[None; 3]))
}

/// How far a place lies off planes, at most.
pub fn off_planes(planes: &[Crossing], place: DVec3) -> f64 {
    let off = |plane: &Crossing| plane.normal.dot(place - plane.at).abs();
    planes.iter().map(off).fold(0.0, f64::max)
}

/// The squares of what a place is off all planes, and off the middle by this weight each: the
/// matrix and the right side of the place, from the middle, where they are least.
fn squares(crossings: &[Crossing], middle: DVec3, pull: f64) -> ([[f64; 3]; 3], DVec3) {
    let mut matrix = [[0.0; 3]; 3];
    let mut right = DVec3::ZERO;
    for crossing in crossings {
        let n = crossing.normal;
        for (row, own) in matrix.iter_mut().zip(n.to_array()) {
            for (sum, other) in row.iter_mut().zip(n.to_array()) {
                *sum += own * other;
            }
        }
        right += n * n.dot(crossing.at - middle);
    }
    let pull = pull * crossings.len() as f64;
    (0..3).for_each(|i| matrix[i][i] += pull);
    (matrix, right)
}

/// Where all planes pass as near as this, as a share of the cell, they meet.
const MEET: f64 = 0.003;

/// The planes of a cell's crossings, as one.
pub struct Fit {
    /// The way that lifts a place onto it, and what is to be lifted by at the middle.
    way: DVec3,
    middle: DVec3,
    up: f64,
    /// The sum of all normals, by how much each looks that way.
    slope: DVec3,
    weight: f64,
}

impl Fit {
    /// Of crossings.
    pub fn of(crossings: &[Crossing]) -> Self {
        let normals: DVec3 = crossings.iter().map(|crossing| crossing.normal).sum();
        let mut fit = Self {
            way: normals.normalize_or_zero(),
            middle: middle(crossings),
            up: 0.0,
            slope: DVec3::ZERO,
            weight: 0.0,
        };
        for crossing in crossings {
            let along = crossing.normal.dot(fit.way);
            fit.up += along * crossing.normal.dot(crossing.at - fit.middle);
            fit.slope += along * crossing.normal;
            fit.weight += along * along;
        }
        fit
    }

    /// A place, lifted along the mean normal to where it lies best on all planes.
    pub fn lifted(&self, place: DVec3) -> DVec3 {
        if self.weight <= 0.0 {
            return place;
        }
        let up = self.up - self.slope.dot(place - self.middle);
        place + self.way * (up / self.weight)
    }

    /// Whether it lies near all planes at their middle.
    pub fn meets_all(&self, crossings: &[Crossing], cell: f64) -> bool {
        let at = self.lifted(self.middle);
        off_planes(crossings, at) <= MEET * cell
    }
}

/// The middle of the crossings.
pub fn middle(crossings: &[Crossing]) -> DVec3 {
    crossings.iter().map(|crossing| crossing.at).sum::<DVec3>() / crossings.len() as f64
}

/// Solves a symmetric system in which some unknowns are given.
fn solved(matrix: &[[f64; 3]; 3], right: DVec3, held: &[Option<f64>; 3]) -> DVec3 {
    let (mut rows, mut right) = (*matrix, right);
    for (i, given) in held.iter().enumerate() {
        if let Some(given) = *given {
            rows[i] = [0.0; 3];
            rows[i][i] = 1.0;
            right[i] = given;
        }
    }
    let matrix = DMat3::from_cols_array_2d(&rows).transpose();
    let found = matrix.inverse() * right;
    if found.is_finite() {
        found
    } else {
        DVec3::ZERO
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn crossing(at: [f64; 3], normal: [f64; 3]) -> Crossing {
        Crossing {
            at: at.into(),
            normal: DVec3::from(normal).normalize(),
            face: None,
        }
    }

    #[test]
    fn the_corner_of_three_planes_is_met() {
        let planes = [
            crossing([0.3, 0.0, 0.9], [1., 0., 0.]),
            crossing([0.0, 0.6, 0.9], [0., 1., 0.]),
            crossing([0.0, 0.1, 0.4], [0., 0., 1.]),
        ];
        let found = place(&planes, DVec3::ZERO, 1.0);
        assert!(found.distance(DVec3::new(0.3, 0.6, 0.4)) < 1e-2, "{found}");
    }

    #[test]
    fn nothing_leaves_its_cell() {
        // Two planes that meet far outside.
        let planes = [
            crossing([0.5, 0.5, 0.0], [0.1, 0., 1.]),
            crossing([0.5, 0.5, 0.4], [-0.1, 0., 1.]),
        ];
        let found = place(&planes, DVec3::ZERO, 1.0);
        assert!(
            found.cmpge(DVec3::ZERO).all() && found.cmple(DVec3::ONE).all(),
            "{found}"
        );
    }
}
