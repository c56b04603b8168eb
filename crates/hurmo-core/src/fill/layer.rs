//! Laying a surface over one border.

use super::border::{Border, Chords, chord};
use super::kinds::bend;
use super::options::FLAT;
use super::patch::Patch;
use super::reasons::PlainerBecause;
use super::surroundings::FacesNear;
use super::{Surface, Task, fair, grid, minimum_area};
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
    pub why_plainer: Option<PlainerBecause>,
}

/// A surface over a border.
pub(super) struct Laid {
    pub patch: Patch,
    /// What it has become.
    pub surface: Surface,
    pub why_plainer: Option<PlainerBecause>,
    /// How many steps of holding it back were tried.
    pub steps: usize,
    /// Whether one of them moved anything.
    pub held_back: bool,
    /// How many of its faces met others when last looked at.
    pub meeting: Option<usize>,
    pub meets_others: bool,
}

/// Why a surface was not laid.
struct NotLaid {
    why: PlainerBecause,
    /// Whether its lid is a height field.
    has_height: bool,
}

impl Want {
    pub fn plainly(surface: Surface) -> Self {
        Self {
            surface,
            steady: false,
            why_plainer: None,
        }
    }

    /// What to lay where this was no good: a round one that stays a height field, if it can be
    /// one, before a plainer one.
    fn plainer(self, has_height: bool, why: PlainerBecause) -> Option<Want> {
        if self.surface == Surface::Round && has_height && !self.steady {
            return Some(Want {
                steady: true,
                ..self
            });
        }
        self.surface.plainer().map(|surface| Want {
            why_plainer: Some(why),
            ..Want::plainly(surface)
        })
    }
}

impl Laid {
    /// What to lay in its place, where it meets other faces.
    pub fn plainer(&self) -> Option<Want> {
        let want = Want {
            surface: self.surface,
            steady: self.patch.is_steady,
            why_plainer: self.why_plainer,
        };
        want.plainer(self.patch.look.is_some(), PlainerBecause::Crosses)
    }
}

impl Layer<'_> {
    /// A surface of this kind, or a plainer one if that can't be had.
    pub fn lay(&self, task: &Task, want: Want) -> Laid {
        let laid = |want: Want, patch: Patch| Laid {
            patch,
            surface: want.surface,
            why_plainer: want.why_plainer,
            steps: 0,
            held_back: false,
            meeting: None,
            meets_others: false,
        };
        let mut want = want;
        loop {
            let not_laid = match self.patch(&task.border, want) {
                Ok(patch) => return laid(want, patch),
                Err(not_laid) => not_laid,
            };
            let Some(plainer) = want.plainer(not_laid.has_height, not_laid.why) else {
                let points = self.points(&task.border);
                let why_plainer = Some(not_laid.why);
                return laid(
                    Want {
                        why_plainer,
                        ..want
                    },
                    star(&points),
                );
            };
            want = plainer;
        }
    }

    fn points(&self, border: &Border) -> Vec<DVec3> {
        let mesh = &self.model.mesh;
        border.vertices.iter().map(|&v| mesh.position(v)).collect()
    }

    /// The new faces of a border.
    fn patch(&self, border: &Border, want: Want) -> Result<Patch, NotLaid> {
        let points = self.points(border);
        let taken = |i: u32, j: u32| {
            let [a, b] = [i, j].map(|i| border.vertices[i as usize]);
            self.chords.contains(&chord(a, b))
        };
        if want.surface == Surface::Grid {
            let not_laid = |why| NotLaid {
                why,
                has_height: false,
            };
            let grid = grid::over(points, &taken).map_err(not_laid)?;
            return Ok(self.faired(grid, border));
        }
        let beside: Vec<DVec3> = border
            .faces
            .iter()
            .map(|&face| vector_area(&self.model.mesh, face).normalize_or_zero())
            .collect();
        let Some(triangles) = minimum_area::closed(&points, &beside, &taken) else {
            return Err(NotLaid {
                why: PlainerBecause::NoWayAcross,
                has_height: false,
            });
        };
        let mut fine = Patch::over(points, triangles);
        if want.surface == Surface::Flat {
            return Ok(fine);
        }
        fine.look = fine.as_height_field();
        fine.is_steady = true;
        fine.scale(self.near.scales(&self.model.mesh, border));
        let around = match want.surface {
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
                    fine.is_steady = want.steady;
                }
                faired = faired && fair::round(&mut fine, around);
            }
            if !faired {
                return Err(NotLaid {
                    why: PlainerBecause::Unsolved,
                    has_height: fine.look.is_some(),
                });
            }
            if coarseness <= 1.0 {
                break;
            }
            coarseness /= 2.0;
            first = false;
        }
        fine.unfold(&beside);
        Ok(fine)
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
