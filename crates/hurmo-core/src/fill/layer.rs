//! Laying a surface over one border.

use super::around::FacesNear;
use super::border::{Border, Chords, chord};
use super::kinds::bend;
use super::options::FLAT;
use super::patch::Patch;
use super::{Surface, Task, fair, grid, lid};
use crate::measure::vector_area;
use crate::mesh::Model;
use glam::DVec3;

/// How many edges a finer surface is across to begin with.
const ACROSS: f64 = 8.0;

/// Lays surfaces over borders.
pub(super) struct Layer<'m> {
    pub model: &'m Model,
    pub near: &'m FacesNear,
    /// Edges that there are.
    pub chords: Chords,
}

/// What surface is to be laid.
#[derive(Clone, Copy)]
pub(super) struct Want {
    pub surface: Surface,
    /// Whether one over a lid that is a height field is to stay one.
    pub steady: bool,
    /// Why it is plainer than what was asked for, if it is.
    pub why_plainer: Option<&'static str>,
}

/// A surface over a border.
pub(super) struct Laid {
    pub patch: Patch,
    /// What it has become.
    pub surface: Surface,
    pub why_plainer: Option<&'static str>,
    /// How many steps of holding it back were tried.
    pub steps: usize,
    /// Whether one of them moved anything.
    pub held_back: bool,
    /// How many of its faces met others when last looked at.
    pub meeting: Option<usize>,
    pub meets_others: bool,
}

impl Want {
    pub fn plainly(surface: Surface) -> Self {
        Self {
            surface,
            steady: false,
            why_plainer: None,
        }
    }
}

impl Laid {
    /// What to lay in its place, where it meets other faces: a round one that stays a height
    /// field, before a plainer one.
    pub fn plainer(&self) -> Option<Want> {
        if self.surface == Surface::Round && self.patch.look.is_some() && !self.patch.is_steady {
            return Some(Want {
                steady: true,
                ..Want::plainly(Surface::Round)
            });
        }
        self.surface.plainer().map(|surface| Want {
            why_plainer: Some("a finer one would meet other faces"),
            ..Want::plainly(surface)
        })
    }
}

impl Layer<'_> {
    /// A surface of this kind, or a plainer one if that can't be had.
    pub fn lay(&self, task: &Task, want: Want) -> Laid {
        let Want {
            mut surface,
            steady,
            mut why_plainer,
        } = want;
        Laid {
            patch: self.patch(&task.border, &mut surface, steady, &mut why_plainer),
            surface,
            why_plainer,
            steps: 0,
            held_back: false,
            meeting: None,
            meets_others: false,
        }
    }

    /// The new faces of a border; `surface` is made plainer where a finer one can't be had.
    fn patch(
        &self,
        border: &Border,
        surface: &mut Surface,
        steady: bool,
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
        let Some(triangles) = lid::closed(&points, &beside, &taken) else {
            *surface = Surface::Flat;
            *why_plainer = Some("every way across it is taken by an edge");
            return star(&points);
        };
        let mut fine = Patch::over(points, triangles);
        if *surface == Surface::Flat {
            return fine;
        }
        fine.look = fine.as_height_field();
        fine.is_steady = true;
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
            let mut faired = !first && around.is_some() || fair::tight(&mut fine);
            if let Some(around) = &around {
                if first {
                    fine.lid.clone_from(&fine.points);
                    fine.is_steady = steady;
                }
                faired = faired && fair::round(&mut fine, around);
            }
            if !faired {
                *surface = surface.plainer().unwrap_or(Surface::Flat);
                *why_plainer = Some("a finer one could not be solved");
                return self.patch(border, surface, steady, why_plainer);
            }
            if coarseness <= 1.0 {
                break;
            }
            coarseness /= 2.0;
            first = false;
        }
        fine.unfold(&beside);
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
}

/// A border closed by a new vertex in its middle.
fn star(points: &[DVec3]) -> Patch {
    let count = points.len() as u32;
    let mut patch = Patch::over(points.to_vec(), Vec::new());
    patch.push(points.iter().sum::<DVec3>() / f64::from(count), 0);
    patch.triangles = (0..count).map(|i| [i, (i + 1) % count, count]).collect();
    patch
}
