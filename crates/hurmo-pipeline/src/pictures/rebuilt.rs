//! A rebuilt model beside what it was, with wires.

use crate::record::Rebuilt;
use crate::text::{self, count, measure, percent};
use glam::DVec3;
use hurmo_core::measure::{Evenness, QuadShape, bounds};
use hurmo_core::quads::Flow;
use hurmo_core::units::Axis;
use hurmo_core::{Mesh, Model, compare};
use hurmo_view::{FlowSheet, Pair, Picture, Spot, before_beside_after, flow_sheet};

/// This many edges of the new model lie across a close-up.
const EDGES_ACROSS: f64 = 16.0;
/// This many lie across a close-up of an irregular vertex,
const QUADS_ACROSS: f64 = 10.0;
/// of which there are no more than this many.
const CLOSE: usize = 4;
/// Lines from irregular vertices have no more edges than this.
const LINES: usize = 40;
/// The width of a picture, in pixels.
const WIDTH: u32 = 1280;
/// What lies nearer than this share of the diagonal lies on it.
const ON: f64 = 1e-6;
/// A close-up reaches at least and at most so far, as a share of the diagonal.
const REACH: [f64; 2] = [0.004, 0.15];

/// What is drawn.
pub struct Drawn<'a> {
    /// The models, before and after, with their names.
    pub models: [(&'a Model, String); 2],
    /// What the rebuilding owes, where it was measured.
    pub rebuilt: Option<&'a Rebuilt>,
    /// Where to look closely, and how far round; else where the surface went furthest.
    pub close_up: Option<(DVec3, f64)>,
    /// Which axis points up.
    pub up: Axis,
}

impl Drawn<'_> {
    /// Draws both; nothing where the new one has no faces.
    pub fn picture(&self) -> Option<Picture> {
        let [(before, name_before), (after, name_after)] = &self.models;
        let even = Evenness::of(&after.mesh)?;
        let diagonal = bounds(&after.mesh)?.diagonal();
        let (spot, caption) = match self.close_up {
            Some((at, reach)) => (
                Spot { at, reach },
                format!(
                    "the framed place from close by, round {}",
                    text::position(at)
                ),
            ),
            None => {
                let (at, off) = furthest_apart(before, after, ON * diagonal)?;
                let [least, most] = REACH.map(|share| share * diagonal);
                let reach = (EDGES_ACROSS / 2.0 * even.mean_edge).clamp(least, most);
                let caption = format!(
                    "the framed place from close by: the vertex that is furthest off, by {}, at {}",
                    measure(off),
                    text::position(at)
                );
                (Spot { at, reach }, caption)
            }
        };
        let words = Pair {
            headings: [
                format!("before: {name_before}"),
                format!("after: {name_after}"),
            ],
            caption,
            lines: self.rebuilt.map_or(Vec::new(), in_words),
        };
        let models = [*before, *after];
        let size = [WIDTH, 800];
        let picture = before_beside_after(models, &spot, &words, self.up, size);
        let is_quads = self.rebuilt.is_some_and(|rebuilt| rebuilt.quads.is_some());
        Some(match is_quads {
            true => picture.above(flow(&after.mesh, even.mean_edge, self.up)),
            false => picture,
        })
    }
}

/// How quads run: lines from irregular vertices, and the worst of these.
fn flow(mesh: &Mesh, edge: f64, up: Axis) -> Picture {
    let flow = Flow::of(mesh, LINES);
    let faces = |v| {
        flow.irregular
            .iter()
            .find(|(own, _)| *own == v)
            .map_or(0, |(_, faces)| *faces)
    };
    let worst = flow.worst(mesh, CLOSE).into_iter();
    let close = worst.map(|v| {
        let at = text::position(mesh.position(v));
        (v, format!("{} faces at {at}", faces(v)))
    });
    let sheet = FlowSheet {
        mesh,
        close: close.collect(),
        reach: QUADS_ACROSS / 2.0 * edge,
        flow: &flow,
        up,
    };
    flow_sheet(&sheet, [WIDTH, 640])
}

/// The vertex after that lies furthest from what was before, and how far; where all are on it, the
/// one before that lies furthest from what is there now.
fn furthest_apart(before: &Model, after: &Model, on: f64) -> Option<(DVec3, f64)> {
    let (at, off) = furthest(after, before)?;
    match off > on {
        true => Some((at, off)),
        false => furthest(before, after),
    }
}

/// The vertex of a model that lies furthest from another, and how far.
fn furthest(from: &Model, to: &Model) -> Option<(DVec3, f64)> {
    let off = compare::distances(&from.mesh, &to.mesh);
    let each = from.mesh.positions().iter().zip(off);
    let each = each.filter(|(_, off)| off.is_finite());
    // Of equally far ones, the first.
    let most = each.reduce(|most, next| if next.1 > most.1 { next } else { most });
    most.map(|(at, off)| (*at, off))
}

fn in_words(rebuilt: &Rebuilt) -> Vec<String> {
    let one = |when: &str, even: &Evenness| {
        format!(
            "{when}: {} triangles; edges {} to {}, {} in the mean; angles from 35° to 85°: {}, under 15°: {}; six neighbours: {}",
            count(even.triangles),
            measure(even.shortest_edge),
            measure(even.longest_edge),
            measure(even.mean_edge),
            percent(even.even_angles),
            count(even.narrow_angles),
            percent(even.six_neighbours)
        )
    };
    let off = &rebuilt.deviation;
    let mut moved = format!(
        "at samples the new surface lies up to {} off ({} rms), the old one up to {} off the new",
        measure(off.new_from_old.max),
        measure(off.new_from_old.rms),
        measure(off.old_from_new.max)
    );
    if let Some(percent) = rebuilt.volume_change() {
        moved += &format!("; volume {percent:+.3}%");
    }
    let after = match &rebuilt.quads {
        Some(quads) => quads_in_words(quads),
        None => one("after", &rebuilt.after),
    };
    vec![one("before", &rebuilt.before), after, moved]
}

fn quads_in_words(quads: &QuadShape) -> String {
    format!(
        "after: {} quads; edges {} to {}, {} in the mean; angles from 60° to 120°: {}, under 25° or over 160°: {}; \
         irregular vertices: {}",
        count(quads.quads),
        measure(quads.shortest_edge),
        measure(quads.longest_edge),
        measure(quads.mean_edge),
        percent(quads.square_angles),
        count(quads.sharp_or_flat_angles),
        count(quads.irregular()),
    )
}
