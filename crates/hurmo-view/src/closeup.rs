//! A place seen from close by: framed so that the fault stands out from what is round it, and
//! from where most of it can be seen.

use crate::camera::{Projection, View};
use crate::raster::visible_marks;
use crate::scene::{Marks, Scene};
use glam::DVec3;
use hurmo_core::Mesh;
use hurmo_core::audit::{Elements, Finding, Place};
use hurmo_core::geometry::Bounds;
use hurmo_core::measure::vector_area;
use hurmo_core::mesh::{FaceId, VertexId};
use hurmo_core::units::Axis;
use std::sync::Arc;

/// A place to be shown.
#[derive(Clone)]
pub struct Closeup {
    /// The check that found it.
    pub check: String,
    /// First line of the caption.
    pub heading: String,
    /// Second line.
    pub caption: String,
    /// What is marked: the places of its finding alone.
    pub(crate) marks: Arc<Marks>,
    /// Its extent.
    bounds: Bounds,
    /// Where it seems to face.
    facing: DVec3,
    /// How large faces round it are; nothing where there are none.
    grain: Option<f64>,
}

impl Closeup {
    /// A place of a finding; `marks` are those of its finding.
    pub fn of(
        mesh: &Mesh,
        check: &str,
        place: &Place,
        marks: Arc<Marks>,
        [heading, caption]: [String; 2],
    ) -> Self {
        let faces = faces_at(mesh, place);
        let areas = faces.iter().map(|&face| vector_area(mesh, face));
        let facing = areas.clone().sum::<DVec3>();
        let area: f64 = areas.map(|area| area.length()).sum();
        Self {
            check: check.into(),
            heading,
            caption,
            marks,
            bounds: place.bounds,
            facing,
            grain: (!faces.is_empty()).then(|| (area / faces.len() as f64).sqrt()),
        }
    }

    /// What is shown: the place, with as much round it again, and some faces at least; no more
    /// than the model and what lies outside it.
    pub(crate) fn framed(&self, scene: &Scene<'_>) -> Bounds {
        let model = scene.bounds.unwrap_or(self.bounds);
        let Some(grain) = self.grain else {
            // Beside the model: with all of it, so that one sees where.
            let corners = [model.min, model.max, self.bounds.min, self.bounds.max];
            return Bounds::of(corners).unwrap_or(model);
        };
        let size = self.bounds.diagonal();
        // What is nearly as large as the model needs no room round it.
        let reach = (size * 0.35)
            .min((model.diagonal() - size).max(0.0) * 0.5)
            .max(grain * 1.5)
            .max(model.diagonal() * 0.012);
        let room = DVec3::splat(reach);
        Bounds {
            min: self.bounds.min - room,
            max: self.bounds.max + room,
        }
    }

    /// The view, of several, in which most of the marks in the frame are not hidden.
    pub(crate) fn best_view(&self, scene: &Scene<'_>, shown: &Bounds, up: Axis) -> View {
        best_view(scene, self.facing, shown, up)
    }
}

/// The view, of several, in which most of the marks in a frame are not hidden, when this is where
/// they seem to face.
pub(crate) fn best_view(scene: &Scene<'_>, facing: DVec3, shown: &Bounds, up: Axis) -> View {
    let mut candidates = vec![View::THREE_QUARTER.with_up(up)];
    if let Some(facing) = facing.try_normalize() {
        let straight = View::facing(facing, up);
        // A little aside, so that depth shows.
        for (turn, rise) in [(20.0, 15.0), (-25.0, 20.0), (15.0, -25.0)] {
            candidates.push(View {
                turn: straight.turn + turn,
                rise: (straight.rise + rise).clamp(-90.0, 90.0),
                up,
            });
        }
    }
    let corners = [(145.0, 25.0), (235.0, 25.0), (325.0, 25.0), (35.0, -30.0)];
    candidates.extend(corners.map(|(turn, rise)| View::new(turn, rise).with_up(up)));
    let scores: Vec<usize> = candidates.iter().map(|v| seen(scene, *v, shown)).collect();
    let best = scores.iter().copied().max().unwrap_or(0);
    // The first that is nearly as good as the best.
    let chosen = scores.iter().position(|&score| score * 10 >= best * 9);
    candidates[chosen.unwrap_or(0)]
}

/// How much of the marks in a frame a view shows, on a small scale.
fn seen(scene: &Scene<'_>, view: View, shown: &Bounds) -> usize {
    const SIDE: usize = 72;
    let projection = Projection::fitting(view, shown, [SIDE as f64; 2], 0.02);
    visible_marks(scene, &projection, SIDE)
}

/// Whether most of what a view shows of a place by itself is hidden in the whole scene.
pub(crate) fn is_hidden(scene: &Scene<'_>, near: &Scene<'_>, view: View, shown: &Bounds) -> bool {
    seen(scene, view, shown) * 3 < seen(near, view, shown)
}

/// Faces that a place consists of or lies at.
fn faces_at(mesh: &Mesh, place: &Place) -> Vec<FaceId> {
    let mut wanted: Vec<VertexId> = match &place.elements {
        Elements::Faces(faces) => return faces.iter().take(20_000).copied().collect(),
        Elements::Edges(edges) => edges.iter().flatten().copied().collect(),
        Elements::Vertices(vertices) => vertices.clone(),
        Elements::Parts(_) | Elements::Named(_) | Elements::Model => {
            return place.face.into_iter().collect();
        }
    };
    wanted.sort_unstable();
    let touches = |corners: &[VertexId]| corners.iter().any(|v| wanted.binary_search(v).is_ok());
    let faces = mesh.faces().filter(|(_, corners)| touches(corners));
    faces.map(|(face, _)| face).take(20_000).collect()
}

/// The places to show of some findings, each with its number among those of its finding: the
/// worst of each, then the second of each, and so on, up to a number of tiles.
pub fn worst_places<'f>(
    findings: &[&'f Finding],
    most: usize,
) -> Vec<(&'f Finding, usize, &'f Place)> {
    let deepest = findings
        .iter()
        .map(|f| f.found.places.len())
        .max()
        .unwrap_or(0);
    let shown = |finding: &'f Finding, i: usize| {
        let place = finding.found.places.get(i)?;
        // Where there is no face, one place says as much as ten.
        let has_face = place.face.is_some() || place.part.is_some();
        let is_somewhere = !matches!(place.elements, Elements::Model | Elements::Named(_));
        let worth_it = is_somewhere && (i == 0 || has_face);
        worth_it.then_some((finding, i, place))
    };
    let rounds = (0..deepest).flat_map(|i| findings.iter().filter_map(move |f| shown(f, i)));
    rounds.take(most).collect()
}
