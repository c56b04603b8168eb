//! Laying new faces into a model: the surface of one rim after another.

use super::around::FacesNear;
use super::border::{Border, Chords, chord};
use super::kinds::bend;
use super::options::FLAT;
use super::refine::Patch;
use super::{Filled, Surface, Task, fair, grid, patch, values};
use crate::measure::vector_area;
use crate::mesh::{Model, Rebuild, VertexId};
use glam::DVec3;

/// How many edges a finer surface is across to begin with.
const ACROSS: f64 = 8.0;

/// Lays new faces into a model.
pub(super) struct Layer<'m> {
    pub model: &'m Model,
    pub near: &'m FacesNear,
    pub chords: Chords,
    pub rebuild: Rebuild<'m>,
}

impl Layer<'_> {
    /// Closes a rim.
    pub fn lay(&mut self, task: &Task) -> Filled {
        let before = self.rebuild.face_count();
        let mut surface = task.surface;
        let mut why_plainer = task.why_plainer;
        let patch = self.patch(&task.border, &mut surface, &mut why_plainer);
        let area = patch.triangles.iter().map(|t| {
            let corners = t.map(|i| patch.points[i as usize]);
            crate::measure::vector_area_of(corners.into_iter()).length()
        });
        let filled = Filled {
            rim: task.name,
            edges: task.edges,
            islands: task.islands,
            faces: patch.face_count(),
            area: area.sum(),
            surface,
            rise: rise(&patch),
            why_plainer,
            meets_others: false,
        };
        self.add(&task.border, &patch);
        debug_assert_eq!(self.rebuild.face_count(), before + filled.faces);
        filled
    }

    /// The new faces of a border; `surface` is made plainer where a finer one can't be had.
    fn patch(
        &self,
        border: &Border,
        surface: &mut Surface,
        why_plainer: &mut Option<&'static str>,
    ) -> Patch {
        let points: Vec<DVec3> = border
            .vertices
            .iter()
            .map(|&v| self.model.mesh.position(v))
            .collect();
        let taken = |i: u32, j: u32| {
            let [a, b] = [i, j].map(|i| border.vertices[i as usize]);
            self.chords.contains(&chord(a, b))
        };
        if *surface == Surface::Grid {
            match grid::over(points.clone(), &taken) {
                Ok(patch) => return self.faired(patch, border),
                Err(why) => {
                    *surface = Surface::Tight;
                    *why_plainer = Some(why);
                }
            }
        }
        let beside: Vec<DVec3> = border
            .faces
            .iter()
            .map(|&face| vector_area(&self.model.mesh, face).normalize_or_zero())
            .collect();
        let Some(triangles) = patch::closed(&points, &beside, &taken) else {
            *surface = Surface::Flat;
            *why_plainer = Some("every way across it is taken by an edge");
            return star(&points);
        };
        let mut fine = Patch::over(points, triangles);
        if *surface == Surface::Flat {
            return fine;
        }
        fine.scale(self.near.scales(&self.model.mesh, border));
        let around = match *surface {
            Surface::Round => Some(self.near.around(&self.model.mesh, border)),
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
                *why_plainer = Some("a finer one could not be solved");
                return self.patch(border, surface, why_plainer);
            }
            if coarseness <= 1.0 {
                break;
            }
            coarseness /= 2.0;
            first = false;
        }
        fine
    }

    /// A grid curved on like its surroundings, unless its border is flat.
    fn faired(&self, grid: Patch, border: &Border) -> Patch {
        if bend(&grid.points[..grid.border]) <= FLAT {
            return grid;
        }
        let around = self.near.around(&self.model.mesh, border);
        let mut faired = grid.clone();
        match fair::tight(&mut faired) && fair::round(&mut faired, &around) {
            true => faired,
            false => grid,
        }
    }

    fn add(&mut self, border: &Border, patch: &Patch) {
        let uvs = values::uvs(self.model, border, patch);
        let colors = values::colors(self.model, border, patch);
        let mut vertices: Vec<VertexId> = border.vertices.clone();
        for (i, point) in patch.points.iter().enumerate().skip(patch.border) {
            let like = border.vertices[patch.like[i] as usize];
            let color = colors.as_ref().map(|colors| colors[i]);
            vertices.push(self.rebuild.colored_vertex(*point, like, color));
        }
        let sources: Option<Vec<usize>> =
            uvs.map(|uvs| uvs.iter().map(|&uv| self.rebuild.with_uv(uv)).collect());
        let count = patch.border as u32;
        for face in patch.faces() {
            let sides = face.len();
            // The group and material of the face along its side of the rim, if it has one.
            let along = (0..sides).find(|&k| {
                let (a, b) = (face[k], face[(k + 1) % sides]);
                a < count && b < count && (a + 1) % count == b
            });
            let place = along.map_or(patch.like[face[0] as usize], |k| face[k]);
            let like = border.faces[place as usize];
            let corners: Vec<VertexId> = face.iter().map(|&i| vertices[i as usize]).collect();
            match &sources {
                Some(sources) => {
                    let sources = face.iter().map(|&i| sources[i as usize]);
                    let corners = sources.zip(corners.iter().copied());
                    self.rebuild.moved_piece(like, corners);
                }
                None => self.rebuild.new_face(like, &corners),
            }
            for k in 0..sides {
                self.chords
                    .insert(chord(corners[k], corners[(k + 1) % sides]));
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
