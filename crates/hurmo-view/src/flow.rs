//! How the quads of a model run: all of it from four sides, and its worst irregular vertices from close by.

use crate::camera::View;
use crate::color::{FAINT_INK, INK, of_irregular};
use crate::picture::{Frame, Picture};
use crate::scene::{Scene, Show};
use crate::sheet::draw_fitting;
use crate::spot::Spot;
use crate::text::{Type, cut};
use glam::DVec3;
use hurmo_core::Mesh;
use hurmo_core::mesh::VertexId;
use hurmo_core::quads::Flow;
use hurmo_core::units::Axis;

/// From where the whole model is seen.
const VIEWS: [&str; 4] = ["front", "right", "back", "top"];
/// What part of the height the whole models take, in percent.
const WHOLE: u32 = 54;

/// What is shown.
pub struct FlowSheet<'a> {
    /// The quads.
    pub mesh: &'a Mesh,
    /// Where their edges lead.
    pub flow: &'a Flow,
    /// The vertices that are seen from close by, with words for each; four at most.
    pub close: Vec<(VertexId, String)>,
    /// How far round them.
    pub reach: f64,
    /// Which axis points up.
    pub up: Axis,
}

/// Draws lines that go straight on from irregular vertices, in colours by the number of quads there.
pub fn flow_sheet(sheet: &FlowSheet<'_>, [width, height]: [u32; 2]) -> Picture {
    let mut picture = Picture::new(width, height);
    let mut scene = Scene::of(sheet.mesh, Show::Wire);
    let place = |v: VertexId| sheet.mesh.position(v);
    for faces in [3, 5, 6] {
        let has = |count: usize| of_irregular(count) == of_irregular(faces);
        let irregular = sheet.flow.irregular.iter().filter(|(_, count)| has(*count));
        let starts: Vec<VertexId> = irregular.map(|(v, _)| *v).collect();
        let from = |line: &&Vec<VertexId>| starts.binary_search(&line[0]).is_ok();
        let lines = sheet.flow.lines.iter().filter(from);
        let pieces =
            lines.flat_map(|line| line.windows(2).map(|ends| [ends[0], ends[1]].map(place)));
        let pieces: Vec<[DVec3; 2]> = pieces.collect();
        scene.draw_lines(pieces.into_iter(), of_irregular(faces));
        scene.draw_points(starts.into_iter().map(place), of_irregular(faces));
    }
    let (title, line) = (Type::Title.line() + 10, Type::Plain.line());
    let whole = height.saturating_sub(title + 2 * line + 8) * WHOLE / 100;
    let close = height.saturating_sub(title + 2 * line + 8 + whole);
    let across = width / VIEWS.len() as u32;
    let frame = |i: usize, top: u32, height: u32| Frame {
        left: across * i as u32 + 4,
        top,
        width: across.saturating_sub(8).max(1),
        height: height.max(1),
    };
    heading(&mut picture, sheet.flow, width);
    for (i, name) in VIEWS.into_iter().enumerate() {
        let named = View::NAMED.iter().find(|(own, _)| *own == name);
        let view = named
            .map_or(View::THREE_QUARTER, |(_, view)| *view)
            .with_up(sheet.up);
        draw_fitting(&mut picture, &scene, view, frame(i, title + line, whole));
        picture.words(
            name,
            Type::Plain,
            FAINT_INK,
            [frame(i, 0, 0).left + 6, title],
        );
    }
    let top = title + line + whole + 4;
    for (i, (v, words)) in sheet.close.iter().take(VIEWS.len()).enumerate() {
        let spot = Spot {
            at: place(*v),
            reach: sheet.reach,
        };
        let own = frame(i, top + line, close);
        spot.seen(&scene, sheet.up).draw(&mut picture, &scene, own);
        let words = cut(words, Type::Plain.fits(own.width));
        picture.words(&words, Type::Plain, FAINT_INK, [own.left + 6, top]);
    }
    picture
}

/// What colours mean.
fn heading(picture: &mut Picture, flow: &Flow, width: u32) {
    let mut left = 10;
    let count = |wanted: fn(usize) -> bool| {
        let irregular = flow.irregular.iter();
        irregular.filter(|(_, faces)| wanted(*faces)).count()
    };
    let kinds: [(usize, &str, usize); 3] = [
        (3, "of three quads", count(|faces| faces == 3)),
        (5, "of five", count(|faces| faces == 5)),
        (6, "of others", count(|faces| faces != 3 && faces != 5)),
    ];
    let words = "Flow: straight on from irregular vertices";
    picture.words(words, Type::Title, INK, [left, 6]);
    left += Type::Title.letter() * words.len() as u32 + 30;
    for (faces, what, count) in kinds {
        let words = format!("{count} {what}");
        if left + 20 < width {
            let patch = Frame {
                left,
                top: 10,
                width: 14,
                height: 14,
            };
            picture.fill(patch, of_irregular(faces));
            picture.words(&words, Type::Plain, INK, [left + 20, 10]);
        }
        left += 20 + Type::Plain.letter() * words.len() as u32 + 24;
    }
}
