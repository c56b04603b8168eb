//! Quads out of a map: one for each place where two lines of half numbers cross.
//!
//! ```text
//!       ┄┄┄┬┄┄┄┄┬┄┄┄       lines of half numbers in both coordinates divide the surface into cells
//!    ·     ┊  · ┊   ·      round the whole numbers; every crossing has four cells round it, which are
//!       ┄┄┄┼┄┄┄┄┼┄┄┄       the vertices of a quad. An irregular vertex is in a cell of its own, with as
//!    ·     ┊  · ┊   ·      many sides as quads meet there.
//! ```
//!
//! Which lines cross in a triangle follows from the order of their ends along its sides alone, and that order
//! is the same for both triangles at a side. So quads fit together whatever the map is like: where it turns
//! triangles over, lines run to and fro and make quads too many, but no gap (for maps read by geometry: Ebke,
//! Bommes, Campen, Kobbelt 2013, QEx: Robust Quad Mesh Extraction; for curves and the quads dual to them:
//! Campen, Bommes, Kobbelt 2012, Dual Loops Meshing).

mod cells;
mod lines;
mod merged;
mod places;

use super::frames::Frames;
use super::grid_map::GridMap;
use super::surface::Surface;
use lines::{Border, Lines};
pub(super) use merged::Merged;
use merged::merged;
use places::Places;
pub(super) use places::{Cell, On};
use rustc_hash::FxHashMap;

/// Quads over cells, and what is known of where these lie.
pub(super) struct Extracted {
    /// By quad: its cells, counter-clockwise.
    pub quads: Vec<[u32; 4]>,
    /// By cell: what it is laid on.
    pub cells: Vec<Cell>,
    /// Pairs of cells beside each other along feature lines, the lower first, sorted.
    pub feature_edges: Vec<[u32; 2]>,
    /// Triangles on which a cell lies that is no disc: lines are too far apart there.
    pub undivided: Vec<u32>,
    /// Where feature lines lie on each other.
    pub merged: Vec<Merged>,
}

/// The quads of a map; `None` where its lines don't fit together across the cut.
pub(super) fn extracted(surface: &Surface, frames: &Frames, map: &GridMap) -> Option<Extracted> {
    let lines = Lines::of(surface, map, &frames.turns);
    let cells = cells::joined(&lines)?;
    let mut made = Made::default();
    let mut sets = cells.sets.clone();
    let undivided = cells.undivided(&lines, &mut sets);
    for t in 0..surface.triangles.len() as u32 {
        let border = Border::of(&lines, t);
        border.quads(&mut |keys| {
            let own: Option<Vec<u32>> = keys.iter().map(|&key| cells.of((t, key))).collect();
            let own = own?;
            let quad = [0, 1, 2, 3].map(|i| sets.find(own[i]));
            made.quads.push(quad);
            Some(())
        })?;
    }
    let places = Places::of(&lines, &cells, &mut sets);
    let merged = merged(surface, frames, &places);
    Some(made.numbered(places, undivided, merged))
}

/// Quads by the roots of their cells.
#[derive(Default)]
struct Made {
    quads: Vec<[u32; 4]>,
}

impl Made {
    /// With cells numbered as they come.
    fn numbered(self, places: Places, undivided: Vec<u32>, merged: Vec<Merged>) -> Extracted {
        let mut numbers: FxHashMap<u32, u32> = FxHashMap::default();
        let mut cells = Vec::new();
        let mut number = |root: u32| {
            *numbers.entry(root).or_insert_with(|| {
                cells.push(places.cell(root));
                cells.len() as u32 - 1
            })
        };
        let quads = self
            .quads
            .iter()
            .map(|quad| quad.map(&mut number))
            .collect();
        let of_cell = |root: u32| numbers.get(&root).copied();
        let mut feature_edges: Vec<[u32; 2]> = (places.passages.iter())
            .map(|passage| passage.cells)
            .filter_map(|[a, b]| Some([of_cell(a)?, of_cell(b)?]))
            .map(|[a, b]| [a.min(b), a.max(b)])
            .filter(|[a, b]| a != b)
            .collect();
        feature_edges.sort_unstable();
        feature_edges.dedup();
        Extracted {
            quads,
            cells,
            feature_edges,
            undivided,
            merged,
        }
    }
}
