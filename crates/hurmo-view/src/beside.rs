//! Scenes side by side in one view, with headings, a scale of colours, and lines of words.

use crate::camera::{Projection, View};
use crate::color::{Color, FAINT_INK, INK};
use crate::picture::{Frame, Picture};
use crate::scene::Scene;
use crate::spot::Spot;
use crate::text::{Type, cut};

/// A scene among others.
pub struct Beside<'s, 'm> {
    /// What is drawn.
    pub scene: &'s Scene<'m>,
    /// Above it.
    pub heading: String,
    /// What its colours mean.
    pub scale: Vec<(Color, String)>,
    /// The place of it that is shown from close by, from where that is seen best; else all of it.
    pub close_up: Option<Spot>,
}

/// Draws three scenes in a square of four, all but close-ups as seen in one view and at one scale; the
/// fourth place is for words and the last one's scale.
pub fn side_by_side(
    scenes: &[Beside<'_, '_>; 3],
    lines: &[String],
    view: View,
    [width, height]: [u32; 2],
) -> Picture {
    let mut picture = Picture::new(width, height);
    let head = Type::Title.line() + 10;
    let (across, down) = (width / 2, height / 2);
    let frame = |i: u32| Frame {
        left: across * (i % 2),
        top: down * (i / 2) + head,
        width: across,
        height: down.saturating_sub(head).max(1),
    };
    let whole = scenes.iter().filter(|beside| beside.close_up.is_none());
    let outlines = whole.filter_map(|beside| {
        let shown = beside.scene.shown()?;
        Some(beside.scene.outline(&shown))
    });
    let points = outlines.flatten();
    let projection = Projection::fitting_points(view, points, frame(0).samples(), 0.04);
    for (beside, i) in scenes.iter().zip(0..) {
        let frame = frame(i);
        match &beside.close_up {
            None => picture.draw(beside.scene, &projection, frame),
            Some(spot) => spot
                .seen(beside.scene, view.up)
                .draw(&mut picture, beside.scene, frame),
        }
        let heading = cut(&beside.heading, Type::Title.fits(across - 20));
        let above = [frame.left + 10, frame.top + 6 - head];
        picture.words(&heading, Type::Title, INK, above);
    }
    let words = frame(3);
    let mut top = words.top;
    for line in lines {
        let line = cut(line, Type::Plain.fits(across - 20));
        picture.words(&line, Type::Plain, INK, [words.left + 10, top]);
        top += Type::Plain.line();
    }
    top += 14;
    let scale = &scenes[2].scale;
    let step = (across - 20) / scale.len().max(1) as u32;
    for ((color, name), k) in scale.iter().zip(0..) {
        let patch = Frame {
            left: words.left + 10 + step * k,
            top,
            width: step,
            height: 14,
        };
        picture.fill(patch, *color);
        let name = cut(name, Type::Plain.fits(step));
        picture.words(&name, Type::Plain, FAINT_INK, [patch.left, top + 17]);
    }
    picture
}
