//! Where a surface goes through a cell, by which of its corners are inside.
//!
//! Each face of the cell is crossed by none, one or two segments between its edges; where there
//! could be two ways, inside corners are cut off one by one. The rule depends on the face alone, so
//! that cells agree. Segments close to loops, each with the inside on its left, seen from before.

use std::sync::LazyLock;

/// One step of a loop: from an edge of the cell to the next over a face.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Step {
    /// The edge that it begins on, from 0 to 11: four along each axis.
    pub edge: u8,
    /// The face that it runs over: two across each axis, the low one first.
    pub face: u8,
    /// Whether the face is crossed twice.
    pub is_doubtful: bool,
}

/// Loops by which corners are inside, bit by corner.
pub static LOOPS: LazyLock<Vec<Vec<Vec<Step>>>> =
    LazyLock::new(|| (0..256).map(|inside| loops(inside as u8)).collect());

/// An edge's axis and low corner.
pub const fn edge_of(edge: u8) -> (usize, usize) {
    let (axis, which) = (edge as usize / 4, edge as usize % 4);
    let (u, v) = ((axis + 1) % 3, (axis + 2) % 3);
    (axis, ((which & 1) << u) | ((which >> 1) << v))
}

/// The number of the edge between two corners.
fn edge_between(a: usize, b: usize) -> u8 {
    let is_it = |edge: &u8| {
        let (axis, low) = edge_of(*edge);
        low == a.min(b) && low | (1 << axis) == a.max(b)
    };
    (0..12).find(is_it).expect("neighbouring corners")
}

/// A face's corners, round it as seen from outside.
fn corners_round(face: u8) -> [usize; 4] {
    let (axis, high) = (face as usize / 2, face as usize % 2);
    let (u, v) = (1 << ((axis + 1) % 3), 1 << ((axis + 2) % 3));
    let round = [0, u, u | v, v].map(|corner| corner | (high << axis));
    match high {
        1 => round,
        _ => [round[0], round[3], round[2], round[1]],
    }
}

fn loops(inside: u8) -> Vec<Vec<Step>> {
    let is_in = |corner: usize| inside >> corner & 1 == 1;
    // By edge that a segment begins on, where it ends and on which face.
    let mut next: [Option<(u8, Step)>; 12] = [None; 12];
    for face in 0..6 {
        let round = corners_round(face);
        let enters: Vec<usize> = (0..4)
            .filter(|&i| !is_in(round[i]) && is_in(round[(i + 1) % 4]))
            .collect();
        for &enter in &enters {
            let exit = (enter + 1..enter + 4)
                .find(|&i| is_in(round[i % 4]) && !is_in(round[(i + 1) % 4]))
                .expect("what is entered is left");
            let edge = edge_between(round[enter], round[(enter + 1) % 4]);
            let to = edge_between(round[exit % 4], round[(exit + 1) % 4]);
            let is_doubtful = enters.len() == 2;
            let step = Step {
                edge,
                face,
                is_doubtful,
            };
            next[edge as usize] = Some((to, step));
        }
    }
    let mut found = Vec::new();
    for start in 0..12 {
        let mut steps = Vec::new();
        let mut at = start;
        while let Some((to, step)) = next[at].take() {
            steps.push(step);
            at = to as usize;
        }
        if !steps.is_empty() {
            found.push(steps);
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_crossed_edge_is_in_just_one_loop() {
        for inside in 0..=255u8 {
            let crossed = (0..12).filter(|&edge| {
                let (axis, low) = edge_of(edge);
                (inside >> low ^ inside >> (low | 1 << axis)) & 1 == 1
            });
            let mut seen: Vec<u8> = LOOPS[inside as usize]
                .concat()
                .iter()
                .map(|s| s.edge)
                .collect();
            seen.sort_unstable();
            assert_eq!(seen, crossed.collect::<Vec<_>>(), "{inside:08b}");
            assert!(LOOPS[inside as usize].iter().all(|steps| steps.len() > 2));
        }
    }

    /// That two loops never have to cross inside a cell rests on this (see `surface_extraction`).
    #[test]
    fn of_several_loops_all_but_one_cut_off_a_corner_or_two_cut_off_opposite_edges() {
        for loops in LOOPS.iter().filter(|loops| loops.len() > 1) {
            let mut lengths: Vec<usize> = loops.iter().map(Vec::len).collect();
            lengths.sort_unstable();
            let long = lengths.iter().filter(|&&length| length > 3).count();
            assert!(long <= 1 || lengths == [4, 4], "{lengths:?}");
        }
    }

    #[test]
    fn a_single_corner_is_faced_away_from() {
        let [steps] = &LOOPS[1][..] else {
            panic!("one loop")
        };
        let axes: Vec<usize> = steps.iter().map(|step| edge_of(step.edge).0).collect();
        assert!([[0, 1, 2], [1, 2, 0], [2, 0, 1]].contains(&[axes[0], axes[1], axes[2]]));
    }
}
