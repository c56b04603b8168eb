//! A model at several budgets, each in the same view, shaded and with its edges.

use crate::camera::{Projection, View};
use crate::color::{FAINT_INK, INK};
use crate::picture::{Frame, Picture};
use crate::scene::{Scene, Show};
use crate::text::{Type, cut};
use hurmo_core::Mesh;

/// A rung as it is shown.
pub struct Rung<'m> {
    /// Its mesh.
    pub mesh: &'m Mesh,
    /// What stands over it.
    pub heading: String,
    /// And below that.
    pub lines: Vec<String>,
}

/// The most rungs in a row.
const ACROSS: u32 = 4;
/// Lines under a heading.
const LINES: u32 = 3;

/// Draws rungs in rows, all at one scale.
pub fn ladder_sheet(rungs: &[Rung<'_>], view: View, width: u32) -> Picture {
    let count = rungs.len().max(1) as u32;
    let rows = count.div_ceil(ACROSS);
    let across = count.div_ceil(rows).max(2);
    let cell = width / across;
    let head = Type::Title.line() + Type::Plain.line() * LINES + 14;
    let side = cell * 5 / 8;
    let tall = head + 2 * side;
    let mut picture = Picture::new(width, tall * rows);
    let frame = |i: u32, below: u32| Frame {
        left: cell * (i % across),
        top: tall * (i / across) + head + below * side,
        width: cell,
        height: side,
    };
    let mut projection = None;
    for (rung, i) in rungs.iter().zip(0..) {
        for (show, below) in [(Show::Plain, 0), (Show::Wire, 1)] {
            let scene = Scene::of(rung.mesh, show);
            let frame = frame(i, below);
            let projection = projection.get_or_insert_with(|| {
                let shown = scene.shown();
                let points = shown.map(|shown| scene.outline(&shown)).unwrap_or_default();
                Projection::fitting_points(view, points, frame.samples(), 0.05)
            });
            picture.draw(&scene, projection, frame);
        }
        let above = frame(i, 0);
        let (left, top) = (above.left + 10, above.top + 8 - head);
        let heading = cut(&rung.heading, Type::Title.fits(cell - 16));
        picture.words(&heading, Type::Title, INK, [left, top]);
        for (line, k) in rung.lines.iter().zip(0..LINES) {
            let line = cut(line, Type::Plain.fits(cell - 16));
            let top = top + Type::Title.line() + Type::Plain.line() * k;
            picture.words(&line, Type::Plain, FAINT_INK, [left, top]);
        }
    }
    picture
}
