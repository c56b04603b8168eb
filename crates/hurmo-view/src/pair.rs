//! A model before and after, with its wires: all of it, and one place from close by.

use crate::camera::{Projection, View};
use crate::color::{FAINT_INK, FRAME, INK};
use crate::picture::{Frame, Picture};
use crate::scene::{Marks, Scene, Show};
use crate::spot::Spot;
use crate::text::{Type, cut};
use glam::DVec3;
use hurmo_core::Model;
use hurmo_core::mesh::VertexId;
use hurmo_core::units::Axis;
use std::sync::Arc;

/// What part of the height the whole models take, in percent.
const WHOLE: u32 = 38;

/// A model before and after, in words.
pub struct Pair {
    /// Above each.
    pub headings: [String; 2],
    /// Between the whole and the place.
    pub caption: String,
    /// Below.
    pub lines: Vec<String>,
}

/// Draws both, before on the left, in the same views and at the same scale.
pub fn before_beside_after(
    models: [&Model; 2],
    spot: &Spot,
    words: &Pair,
    up: Axis,
    [width, height]: [u32; 2],
) -> Picture {
    let mut picture = Picture::new(width, height);
    let (title, line) = (Type::Title.line() + 10, Type::Plain.line());
    let foot = words.lines.len() as u32 * line + 12;
    let rest = height.saturating_sub(title + line + 8 + foot);
    let (whole, across) = (rest * WHOLE / 100, width / 2);
    let (close_top, close) = (title + whole + line + 8, rest - whole);
    let frame = |side: usize, top: u32, height: u32| Frame {
        left: across * side as u32 + 4,
        top,
        width: across.saturating_sub(8).max(1),
        height: height.max(1),
    };
    let mut scenes = models.map(wires);
    draw_whole(&mut picture, &mut scenes, spot, up, |side| {
        frame(side, title, whole)
    });
    draw_close(&mut picture, &scenes, spot, up, |side| {
        frame(side, close_top, close)
    });
    for (heading, left) in words.headings.iter().zip([0, across]) {
        let heading = cut(heading, Type::Title.fits(across.saturating_sub(20)));
        picture.words(&heading, Type::Title, INK, [left + 10, 6]);
    }
    let letters = Type::Plain.fits(width.saturating_sub(20));
    let between = [10, title + whole + 4];
    let caption = cut(&words.caption, letters);
    picture.words(&caption, Type::Plain, FAINT_INK, between);
    let mut top = close_top + close + 6;
    for line_of_words in &words.lines {
        picture.words(&cut(line_of_words, letters), Type::Plain, INK, [10, top]);
        top += line;
    }
    picture
}

/// A model with the edges of its faces, in its own colours where it has any.
fn wires(model: &Model) -> Scene<'_> {
    let mut scene = Scene::of(&model.mesh, Show::Wire);
    if let Some(colors) = &model.attributes.colors {
        let triangles = scene.triangles.iter();
        let channel =
            |t: &[VertexId; 3], i: usize| t.iter().map(|v| colors[v.index()][i]).sum::<f32>() / 3.0;
        let of_triangle = |t| [0, 1, 2].map(|i| channel(t, i));
        scene.colors = Some(triangles.map(of_triangle).collect());
    }
    scene
}

/// All of both, with a box round the place.
fn draw_whole(
    picture: &mut Picture,
    scenes: &mut [Scene<'_>; 2],
    spot: &Spot,
    up: Axis,
    frame: impl Fn(usize) -> Frame,
) {
    let outlines = scenes.iter().filter_map(|scene| {
        let shown = scene.shown()?;
        Some(scene.outline(&shown))
    });
    let view = View::THREE_QUARTER.with_up(up);
    let lines: Vec<[DVec3; 2]> = Scene::box_lines(&spot.bounds()).collect();
    let points = outlines.flatten().chain(lines.iter().flatten().copied());
    let projection = Projection::fitting_points(view, points, frame(0).samples(), 0.03);
    let mut marks = Marks::default();
    marks
        .lines
        .extend(lines.into_iter().map(|line| (line, FRAME)));
    let marks = Arc::new(marks);
    for (side, scene) in scenes.iter_mut().enumerate() {
        scene.marks = Arc::clone(&marks);
        picture.draw(scene, &projection, frame(side));
        scene.marks = Arc::default();
    }
}

/// The place in both, from where it is seen best in the one after; what stands before it is cut
/// away.
fn draw_close(
    picture: &mut Picture,
    scenes: &[Scene<'_>; 2],
    spot: &Spot,
    up: Axis,
    frame: impl Fn(usize) -> Frame,
) {
    let seen = spot.seen(&scenes[1], up);
    for (side, scene) in scenes.iter().enumerate() {
        seen.draw(picture, scene, frame(side));
    }
}
