//! Sheets: a model from several sides with a legend, and its faults from close by.

use crate::camera::{Projection, View};
use crate::closeup::{Closeup, is_hidden};
use crate::color::{self, Color, FAINT_INK, INK};
use crate::picture::{Frame, Picture};
use crate::scene::Scene;
use crate::text::{Type, cut};
use hurmo_core::geometry::Bounds;
use hurmo_core::units::Axis;
use std::sync::Arc;

/// How much of a frame stays empty at each side.
const MARGIN: f64 = 0.06;

/// A line of a legend.
#[derive(Clone, Debug)]
pub struct LegendLine {
    /// A patch of colour before it.
    pub color: Option<Color>,
    /// Whether it is set in, as if it had one.
    pub set_in: bool,
    /// The words.
    pub words: String,
    /// Whether they are bold.
    pub bold: bool,
}

/// What a sheet says beside the views.
#[derive(Clone, Debug, Default)]
pub struct Legend {
    /// The heading.
    pub title: String,
    /// What follows, most important first; what has no room is left out, with a line saying so.
    pub lines: Vec<LegendLine>,
}

/// One view of a scene.
pub fn single(scene: &Scene<'_>, view: View, [width, height]: [u32; 2]) -> Picture {
    let mut picture = Picture::new(width, height);
    let whole = Frame {
        left: 0,
        top: 0,
        width,
        height,
    };
    draw_fitting(&mut picture, scene, view, whole);
    picture
}

/// Draws all of a scene into a frame.
pub fn draw_fitting(picture: &mut Picture, scene: &Scene<'_>, view: View, frame: Frame) {
    if let Some(shown) = scene.shown() {
        let outline = scene.outline(&shown);
        let projection = Projection::fitting_points(view, outline, frame.samples(), MARGIN);
        picture.draw(scene, &projection, frame);
    }
}

/// A three-quarter view, the front, the right side, and a legend.
pub fn overview(
    scene: &Scene<'_>,
    up: Axis,
    legend: &Legend,
    [width, height]: [u32; 2],
) -> Picture {
    let mut picture = Picture::new(width, height);
    let large = width * 62 / 100;
    let small = width - large;
    let main = Frame {
        left: 0,
        top: 0,
        width: large,
        height,
    };
    draw_fitting(&mut picture, scene, View::THREE_QUARTER.with_up(up), main);
    let half = small / 2;
    let row = height * 36 / 100;
    for (i, name) in ["front", "right"].into_iter().enumerate() {
        let frame = Frame {
            left: large + half * i as u32,
            top: 0,
            width: half,
            height: row,
        };
        draw_fitting(&mut picture, scene, named(name).with_up(up), frame);
        picture.words(name, Type::Plain, FAINT_INK, [frame.left + 8, 6]);
    }
    let legend_frame = Frame {
        left: large + 8,
        top: row + 4,
        width: small - 16,
        height: height - row - 12,
    };
    draw_legend(&mut picture, legend, legend_frame);
    picture
}

fn named(name: &str) -> View {
    let found = View::NAMED.iter().find(|(known, _)| *known == name);
    found.map_or(View::THREE_QUARTER, |(_, view)| *view)
}

pub(crate) fn draw_legend(picture: &mut Picture, legend: &Legend, frame: Frame) {
    let letters = |kind: Type, indent: u32| kind.fits(frame.width.saturating_sub(indent));
    let title = cut(&legend.title, letters(Type::Title, 0));
    picture.words(&title, Type::Title, INK, [frame.left, frame.top]);
    let mut top = frame.top + Type::Title.line() + 6;
    let line = Type::Plain.line();
    let room = (frame.height.saturating_sub(Type::Title.line() + 6) / line) as usize;
    let all_fit = legend.lines.len() <= room;
    let shown = if all_fit {
        legend.lines.len()
    } else {
        room.saturating_sub(1)
    };
    for entry in &legend.lines[..shown] {
        let indent = if entry.set_in { 22 } else { 0 };
        if let Some(color) = entry.color {
            let swatch = Frame {
                left: frame.left,
                top: top + 2,
                width: 14,
                height: 13,
            };
            picture.fill(swatch, color);
        }
        let kind = if entry.bold { Type::Bold } else { Type::Plain };
        let words = cut(&entry.words, letters(kind, indent));
        picture.words(&words, kind, INK, [frame.left + indent, top]);
        top += line;
    }
    if !all_fit {
        let more = format!("and {} more lines", legend.lines.len() - shown);
        picture.words(&more, Type::Plain, FAINT_INK, [frame.left, top]);
    }
}

/// Close-ups side by side, each with its caption of two lines.
pub fn closeups(
    scene: &mut Scene<'_>,
    places: &[Closeup],
    up: Axis,
    title: &str,
    [width, height]: [u32; 2],
) -> Picture {
    let mut picture = Picture::new(width, height);
    picture.words(title, Type::Title, INK, [10, 6]);
    let head = Type::Title.line() + 10;
    let (columns, rows) = grid(places.len(), width, height - head);
    let (across, down) = (width / columns, (height - head) / rows);
    let caption = 2 * Type::Plain.line() + 4;
    for (i, place) in places.iter().enumerate() {
        let (column, row) = (i as u32 % columns, i as u32 / columns);
        let frame = Frame {
            left: column * across + 4,
            top: head + row * down,
            width: across - 8,
            height: down.saturating_sub(caption).max(1),
        };
        scene.marks = Arc::clone(&place.marks);
        let scene = &*scene;
        let shown: Bounds = place.framed(scene);
        let near = scene.near(&shown);
        let view = place.best_view(&near, &shown, up);
        // What stands before the place and hides it is cut away.
        let scene = match is_hidden(scene, &near, view, &shown) {
            true => &near,
            false => scene,
        };
        let projection = Projection::fitting(view, &shown, frame.samples(), 0.02);
        picture.draw(scene, &projection, frame);
        let under = frame.top + frame.height + 2;
        let swatch = Frame {
            left: frame.left,
            top: under + 2,
            width: 14,
            height: 13,
        };
        picture.fill(swatch, color::of_check(&place.check));
        let letters = Type::Plain.fits(frame.width);
        let head = cut(&place.heading, letters.saturating_sub(3));
        picture.words(&head, Type::Bold, INK, [frame.left + 22, under]);
        let below = [frame.left, under + Type::Plain.line()];
        picture.words(&cut(&place.caption, letters), Type::Plain, FAINT_INK, below);
    }
    picture
}

/// Columns and rows for this many tiles, so that they are as square as can be.
fn grid(count: usize, width: u32, height: u32) -> (u32, u32) {
    let count = count.max(1) as u32;
    let fit = |columns: u32| {
        let rows = count.div_ceil(columns);
        (width / columns).min(height / rows)
    };
    let columns = (1..=count).max_by_key(|&columns| (fit(columns), std::cmp::Reverse(columns)));
    let columns = columns.unwrap_or(1);
    (columns, count.div_ceil(columns))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tiles_are_as_square_as_can_be() {
        assert_eq!(grid(1, 1280, 760), (1, 1));
        assert_eq!(grid(12, 1280, 760), (4, 3));
        assert_eq!(grid(6, 1280, 760), (3, 2));
        assert_eq!(grid(0, 1280, 760), (1, 1));
    }
}
