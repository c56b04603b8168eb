//! Closing rims with new faces.
//!
//! ```text
//! rim ─┬─ up to 256 edges ──────────────▶ least total area (Barequet & Sharir 1995)
//!      ├─ longer, simple in its plane ──▶ ears cut off in the plane
//!      └─ longer, ragged ───────────────▶ least area over samples, then between them
//!            └─▶ edges flipped ─┬─ flat ──────────────────────────────▶ faces
//!                               ├─ tight: refined, then a soap film ──▶ faces
//!                               └─ round: refined, then curved on ────▶ faces
//! ```
//!
//! New faces wind like the faces along the rim. No diagonal is laid where the model has an
//! edge already, so that no edge gets a third side; where that leaves no way to close the rim,
//! a new vertex in its middle does. A surface whose faces meet others is laid again, a plainer
//! one in its place. Cost: O(n³) up to 256 edges, O(n²) beyond; the finer surfaces, what their
//! own faces cost.

mod around;
mod border;
mod fair;
mod kinds;
mod meets;
mod net;
mod patch;
mod refine;

pub use kinds::{Kind, RimFacts, rims_described};

use crate::measure::vector_area;
use crate::mesh::{Mesh, Model, Rebuild, RimId, VertexId};
use crate::progress::Observer;
use crate::topology::{Edges, Parts, Rims};
use crate::units::Axis;
use around::FacesNear;
use border::{Border, Chords, chord, edges_between_rims};
use glam::DVec3;
use refine::Patch;
use serde::Serialize;
use std::ops::RangeInclusive;

/// The shape of new faces.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Surface {
    /// The least area over the rim's own vertices.
    Flat,
    /// Refined like the surroundings, and taut like a soap film.
    Tight,
    /// Refined, and with the curvature of the surroundings.
    Round,
}

impl Surface {
    /// What a rim gets when nothing is asked for: flat ones flat, others round.
    pub fn fitting(facts: &RimFacts) -> Self {
        match facts.bend <= FLAT {
            true => Surface::Flat,
            false => Surface::Round,
        }
    }

    fn plainer(self) -> Option<Self> {
        match self {
            Surface::Round => Some(Surface::Tight),
            Surface::Tight => Some(Surface::Flat),
            Surface::Flat => None,
        }
    }

    /// In a word.
    pub fn name(self) -> &'static str {
        match self {
            Surface::Flat => "flat",
            Surface::Tight => "tight",
            Surface::Round => "round",
        }
    }
}

/// How many edges a finer surface is across to begin with.
const ACROSS: f64 = 8.0;

/// Up to this bend (a share of its width), a rim is flat.
const FLAT: f64 = 0.02;

/// Which rims to close, those that meet every condition, and how.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// Only these, by index; empty: any that is no seam.
    pub rims: Vec<RangeInclusive<usize>>,
    /// Only those on these parts, by index; empty: any.
    pub parts: Vec<RangeInclusive<usize>>,
    /// Only those of at most so many edges.
    pub up_to_edges: Option<usize>,
    /// Only those of at most this length, in model units.
    pub up_to_length: Option<f64>,
    /// Only the one nearest to this point.
    pub nearest: Option<DVec3>,
    /// All but so many of the longest.
    pub leave_longest: usize,
    /// The plane through the origin in which rims are left: the model is one half of a
    /// mirrored whole.
    pub mirror: Option<Axis>,
    /// What new faces are like; `None`: as each rim asks for.
    pub surface: Option<Surface>,
}

impl Options {
    /// The rims to close, by index.
    fn chosen(&self, facts: &[RimFacts], tolerance: f64) -> Vec<usize> {
        let within = |ranges: &[RangeInclusive<usize>], i: usize| {
            ranges.is_empty() || ranges.iter().any(|range| range.contains(&i))
        };
        let mirrored = |rim: &RimFacts| {
            self.mirror.is_some_and(|axis| {
                let [low, high] = [rim.bounds.min, rim.bounds.max].map(|p| p[axis as usize]);
                low.abs().max(high.abs()) <= tolerance
            })
        };
        let mut chosen: Vec<usize> = (self.leave_longest..facts.len())
            .filter(|&i| {
                let rim = &facts[i];
                within(&self.rims, i)
                    && (self.parts.is_empty()
                        || rim
                            .part
                            .is_some_and(|part| within(&self.parts, part.index())))
                    && self.up_to_edges.is_none_or(|limit| rim.edges <= limit)
                    && self.up_to_length.is_none_or(|limit| rim.length <= limit)
                    && !mirrored(rim)
            })
            .collect();
        if let Some(point) = self.nearest {
            let distance = |&i: &usize| facts[i].at.distance_squared(point);
            let nearest = chosen
                .iter()
                .copied()
                .min_by(|a, b| distance(a).total_cmp(&distance(b)));
            chosen = nearest.into_iter().collect();
        }
        chosen
    }
}

/// A rim that was closed.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Filled {
    /// Its name before.
    pub rim: RimId,
    /// How many edges it had.
    pub edges: usize,
    /// How many faces were added.
    pub faces: usize,
    /// Their area, in square units.
    pub area: f64,
    /// Their shape.
    pub surface: Surface,
    /// How far a new vertex lies from the rim's plane at most.
    pub rise: f64,
    /// Whether a finer surface would have met other faces.
    pub made_plainer: bool,
    /// Whether even this one meets other faces.
    pub meets_others: bool,
}

/// A rim that was left, and why.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Left {
    /// Its name.
    pub rim: RimId,
    /// How many edges it has.
    pub edges: usize,
    /// The reason.
    pub reason: &'static str,
}

/// A model with rims closed.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// The model.
    pub model: Model,
    /// What was closed, by name.
    pub filled: Vec<Filled>,
    /// What was asked for and could not be closed.
    pub left: Vec<Left>,
    /// How many rims were not asked for.
    pub not_asked: usize,
    /// How many chains of open edges are no rims: they end at non-manifold edges.
    pub broken_chains: usize,
}

/// A rim on its way.
struct Task {
    rim: usize,
    border: Border,
    surface: Surface,
    made_plainer: bool,
}

/// Closes rims.
pub fn fill(model: &Model, options: &Options, observer: &dyn Observer) -> Outcome {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let rims = Rims::of(mesh, &edges);
    let parts = Parts::of(mesh);
    let facts = kinds::described(mesh, &edges, &rims, &parts);
    let diagonal = crate::measure::bounds(mesh).map_or(0.0, |b| b.diagonal());
    let chosen = options.chosen(&facts, diagonal * 1e-6);
    let not_asked = facts.len() - chosen.len();
    let (mut tasks, mut left) = (Vec::new(), Vec::new());
    for rim in chosen {
        let border = Border::of(mesh, &edges, &rims.closed[rim]);
        let seam = facts[rim].kind == Kind::Seam && options.rims.is_empty();
        let why = border
            .unfit(mesh)
            .or(seam.then_some("it is a seam, which a weld closes"));
        match why {
            Some(reason) => left.push(Left {
                rim: RimId::new(rim),
                edges: facts[rim].edges,
                reason,
            }),
            None => tasks.push(Task {
                rim,
                border,
                surface: options.surface.unwrap_or(Surface::fitting(&facts[rim])),
                made_plainer: false,
            }),
        }
    }
    let on_rims = || {
        tasks
            .iter()
            .flat_map(|task| task.border.vertices.iter().copied())
    };
    let near = FacesNear::of(mesh, on_rims());
    let chords = edges_between_rims(mesh, &edges, &rims);
    observer.begin("filling", tasks.len() as u64);
    let (model, filled) = loop {
        let mut layer = Layer {
            mesh,
            near: &near,
            chords: chords.clone(),
            rebuild: Rebuild::new(model),
        };
        mesh.face_ids().for_each(|face| layer.rebuild.keep(face));
        let mut filled: Vec<Filled> = Vec::with_capacity(tasks.len());
        for (i, task) in tasks.iter().enumerate() {
            observer.at(i as u64);
            filled.push(layer.lay(task, &facts[task.rim]));
        }
        let model = layer.rebuild.finish();
        let counts: Vec<usize> = filled.iter().map(|filled| filled.faces).collect();
        let meeting = meets::that_meet(&model.mesh, mesh.face_count(), &counts);
        let mut again = false;
        for (i, task) in tasks.iter_mut().enumerate().filter(|(i, _)| meeting[*i]) {
            filled[i].meets_others = true;
            if let Some(plainer) = task.surface.plainer() {
                task.surface = plainer;
                task.made_plainer = true;
                again = true;
            }
        }
        if !again || observer.cancelled() {
            break (model, filled);
        }
    };
    Outcome {
        model,
        filled,
        left,
        not_asked,
        broken_chains: rims.broken.len(),
    }
}

/// Lays new faces into a model.
struct Layer<'m> {
    mesh: &'m Mesh,
    near: &'m FacesNear,
    chords: Chords,
    rebuild: Rebuild<'m>,
}

impl Layer<'_> {
    fn lay(&mut self, task: &Task, facts: &RimFacts) -> Filled {
        let before = self.rebuild.face_count();
        let mut surface = task.surface;
        let patch = self.patch(&task.border, &mut surface);
        let area = patch.triangles.iter().map(|t| {
            let corners = t.map(|i| patch.points[i as usize]);
            crate::measure::vector_area_of(corners.into_iter()).length()
        });
        let filled = Filled {
            rim: facts.rim,
            edges: facts.edges,
            faces: patch.triangles.len(),
            area: area.sum(),
            surface,
            rise: rise(&patch),
            made_plainer: task.made_plainer,
            meets_others: false,
        };
        self.add(&task.border, &patch);
        debug_assert_eq!(self.rebuild.face_count(), before + filled.faces);
        filled
    }

    /// The new faces of a border; `surface` is made plainer where a finer one can't be had.
    fn patch(&self, border: &Border, surface: &mut Surface) -> Patch {
        let points: Vec<DVec3> = border
            .vertices
            .iter()
            .map(|&v| self.mesh.position(v))
            .collect();
        let taken = |i: u32, j: u32| {
            let [a, b] = [i, j].map(|i| border.vertices[i as usize]);
            self.chords.contains(&chord(a, b))
        };
        let beside: Vec<DVec3> = border
            .faces
            .iter()
            .map(|&face| vector_area(self.mesh, face).normalize_or_zero())
            .collect();
        let Some(triangles) = patch::closed(&points, &beside, &taken) else {
            *surface = Surface::Flat;
            return star(&points);
        };
        let flat = Patch::over(points, triangles);
        if *surface == Surface::Flat {
            return flat;
        }
        let mut fine = flat.clone();
        fine.scale(self.near.scales(self.mesh, border));
        let around = match *surface {
            Surface::Round => Some(self.near.around(self.mesh, border)),
            _ => None,
        };
        // From coarse to fine, so that each stage begins near its goal.
        let mut coarseness = match &around {
            Some(_) => fine.first_coarseness(ACROSS),
            None => 1.0,
        };
        let mut first = true;
        loop {
            fine.refine(coarseness, &taken);
            let faired = match &around {
                Some(around) => {
                    (!first || fair::tight(&mut fine)) && fair::round(&mut fine, around)
                }
                None => fair::tight(&mut fine),
            };
            if !faired {
                *surface = surface.plainer().unwrap_or(Surface::Flat);
                return self.patch(border, surface);
            }
            if coarseness <= 1.0 {
                break;
            }
            coarseness /= 2.0;
            first = false;
        }
        fine
    }

    fn add(&mut self, border: &Border, patch: &Patch) {
        let mut vertices: Vec<VertexId> = border.vertices.clone();
        for (point, &like) in patch.points.iter().zip(&patch.like).skip(patch.border) {
            let like = border.vertices[like as usize];
            vertices.push(self.rebuild.new_vertex(*point, like));
        }
        let count = patch.border as u32;
        for triangle in &patch.triangles {
            // The group and material of the face along its side of the rim, if it has one.
            let along = (0..3).find(|&k| {
                let (a, b) = (triangle[k], triangle[(k + 1) % 3]);
                a < count && b < count && (a + 1) % count == b
            });
            let place = along.map_or(patch.like[triangle[0] as usize], |k| triangle[k]);
            let corners = triangle.map(|i| vertices[i as usize]);
            self.rebuild
                .new_face(border.faces[place as usize], &corners);
            for k in 0..3 {
                self.chords.insert(chord(corners[k], corners[(k + 1) % 3]));
            }
        }
    }
}

/// A border closed by a new vertex in its middle.
fn star(points: &[DVec3]) -> Patch {
    let count = points.len() as u32;
    let mut patch = Patch::over(points.to_vec(), Vec::new());
    patch
        .points
        .push(points.iter().sum::<DVec3>() / f64::from(count));
    patch.like.push(0);
    patch.triangles = (0..count).map(|i| [i, (i + 1) % count, count]).collect();
    patch
}

/// How far a new vertex lies from the border's plane at most.
fn rise(patch: &Patch) -> f64 {
    let (border, new) = patch.points.split_at(patch.border);
    let normal = crate::measure::vector_area_of(border.iter().copied()).normalize_or_zero();
    let middle = border.iter().sum::<DVec3>() / border.len().max(1) as f64;
    let heights = new.iter().map(|p| (*p - middle).dot(normal).abs());
    heights.fold(0.0, f64::max)
}

#[cfg(test)]
mod tests;
