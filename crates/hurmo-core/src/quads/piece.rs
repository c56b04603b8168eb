//! The quads of one piece of a surface: its field once, then maps, with lines closer together where they are too
//! far apart for its form.

use super::cleaning::QuadMesh;
use super::cones::turns_for_even_size;
use super::cross_field::{Guides, cross_field, fourfold};
use super::curvature;
use super::extraction::{Merged, On, extracted};
use super::frames::Frames;
use super::grid_map::{GridMap, Mapping};
use super::guides::ByTriangle;
use super::lengths::{Lengths, Nearest, Sides, between_lines, closer, shortened};
use super::surface::Surface;
use crate::remesh::EvenSurface;
use glam::{DVec2, DVec3};

/// Lines are laid closer at most this often where they are too far apart: a map of up to [`MANY_WHOLE`] unknowns that must
/// be whole.
const TRIES: usize = 24;
/// A map of more such unknowns takes longer, and has fewer tries.
const MANY_WHOLE: usize = 1000;
/// Each map has this many tries.
const LEAST_TRIES: usize = 6;
/// No more tries are made than these in a row without fewer faults than ever before.
const STUCK: usize = 8;
/// Where quads are flat, no more tries are made than these in a row without fewer such quads.
const IN_VAIN: usize = 2;
/// A flat quad may cost this many quads to avoid,
const FLAT: usize = 1000;
/// and a place where feature lines lie on each other, or no edge runs along one, this many.
const OFF: usize = 16;
/// A piece is given up when it would have this many times the wanted quads,
const MANY: f64 = 64.0;
/// and more than this.
const FEW: f64 = 2000.0;
/// and than this many times its triangles, of which pairs could be made.
const TRIANGLES: f64 = 2.0;
/// A bend's radius, in sides of quads, below which these are shorter,
pub(super) const ROUND: f64 = 1.0;
/// but never shorter than this share.
pub(super) const SHORTEST: f64 = 0.06;

/// How much more the field counts for a map where a guide runs.
const DRAWN: f64 = 3000.0;
/// How much a field counts for the one that has more irregular vertices.
const KEPT: f64 = 1e-3;

/// No part has fewer quads than about this.
const LEAST: f64 = 24.0;

/// The length of sides for a part of an area: shorter where it would have too few quads.
pub(super) fn edge_for_part(edge: f64, area: f64) -> f64 {
    edge.min((area / LEAST).sqrt())
}

/// For each triangle of an even surface, the radius of the sharpest bend.
pub(super) fn radii(even: &EvenSurface) -> Vec<f64> {
    let mut radii = vec![f64::INFINITY; even.triangles.len()];
    for surface in Surface::parts_of(even) {
        for (&t, radius) in surface.origins.iter().zip(curvature::radii(&surface)) {
            radii[t as usize] = radius;
        }
    }
    radii
}

/// A piece of a surface, connected by edges of two sides, with its field.
pub(super) struct Piece {
    surface: Surface,
    frames: Frames,
    mapping: Option<Mapping>,
    /// By triangle: the wanted lengths of sides.
    lengths: Vec<Sides>,
    /// By triangle: whether a guide runs over it.
    is_drawn: Vec<bool>,
    /// What was laid out last.
    found: Option<Candidate>,
}

impl Piece {
    pub fn of(surface: Surface, wanted: &Lengths, along: &ByTriangle) -> Self {
        let area: f64 = (0..surface.triangles.len() as u32)
            .map(|t| surface.area(t))
            .sum();
        let edge = edge_for_part(wanted.edge, area);
        let lengths = wanted.on(&surface, edge);
        let quads = expected(&surface, &lengths);
        let drawn = along.on(&surface);
        let weights = drawn.iter().map(|way| match way {
            Some(_) => DRAWN,
            None => 1.0,
        });
        let weights: Vec<f64> = weights.collect();
        let mut guides = guides(&surface, edge, &drawn);
        let mut angles = cross_field(&surface, &guides);
        if let Some(turns) = turns_for_even_size(&surface, &angles, quads) {
            guides.turns = turns;
            guides.soft = angles.iter().map(|&angle| fourfold(angle) * KEPT).collect();
            angles = cross_field(&surface, &guides);
        }
        let frames = Frames::of(&surface, angles);
        let mut piece = Self {
            mapping: Mapping::of(&surface, &frames, weights),
            frames,
            lengths,
            is_drawn: drawn.iter().map(Option::is_some).collect(),
            found: None,
            surface,
        };
        piece.shorten_at_bends(edge);
        piece
    }

    /// Shortens sides where the surface bends so sharply that few quads would go round.
    fn shorten_at_bends(&mut self, edge: f64) {
        let radii = curvature::radii(&self.surface);
        let sharp = radii
            .iter()
            .enumerate()
            .filter(|(_, radius)| **radius < edge * ROUND);
        let sharp = sharp.flat_map(|(t, &radius)| {
            [0, 1].map(|axis| Nearest {
                off: 0.0,
                length: (radius / ROUND).max(edge * SHORTEST),
                triangle: t as u32,
                axis,
                is_between_lines: false,
            })
        });
        let sharp = sharp.collect();
        self.lengths = shortened(&self.surface, &self.frames, &self.lengths, sharp);
    }

    /// With vertices at guides held where the map puts them.
    fn held_at_guides(&self, mut mesh: QuadMesh) -> QuadMesh {
        for cell in &mut mesh.cells {
            if cell.on == On::Surface && self.is_drawn[cell.triangle as usize] {
                cell.on = On::Line;
            }
        }
        mesh
    }

    /// Where others of its fans begin, or those of other pieces.
    pub fn pinches(&self) -> impl Iterator<Item = DVec3> {
        let vertices = self.surface.is_pinch.iter().zip(&self.surface.positions);
        vertices.filter_map(|(&is_pinch, &place)| is_pinch.then_some(place))
    }

    /// Lays lines closer round triangles.
    pub fn lay_closer(&mut self, triangles: &[u32]) {
        self.lengths = closer(&self.surface, &self.frames, &self.lengths, triangles, None);
    }

    /// Lays quads out, if it can be, with sides as much longer as `scale` says. Where lines had to be laid closer they
    /// stay so.
    pub fn lay_out(&mut self, scale: f64) {
        self.found = self.best_of_tries(scale);
        if let Some(found) = &self.found {
            self.lengths.clone_from(&found.lengths);
        }
    }

    /// How many quads are laid out.
    pub fn quad_count(&self) -> usize {
        let found = self.found.as_ref();
        found.map_or(0, |found| found.mesh.quads.len())
    }

    fn best_of_tries(&self, scale: f64) -> Option<Candidate> {
        let (surface, frames) = (&self.surface, &self.frames);
        let mapping = self.mapping.as_ref()?;
        let tries = (TRIES * MANY_WHOLE / mapping.whole().max(1)).clamp(LEAST_TRIES, TRIES);
        let mut own = self.lengths.clone();
        let most = FEW.max(MANY * expected(surface, &own));
        let most = most.max(TRIANGLES * surface.triangles.len() as f64);
        let mut best: Option<Candidate> = None;
        let mut in_vain = 0;
        let (mut fewest, mut stuck) = (usize::MAX, 0);
        for _ in 0..tries {
            let scaled: Vec<Sides> = own
                .iter()
                .map(|both| both.map(|length| length * scale))
                .collect();
            let Some(map) = mapping.map(surface, frames, &scaled) else {
                break;
            };
            let found = Found::of(surface, frames, &map);
            let before = own.clone();
            match found {
                None => break,
                Some(Found::Faults(faulty, merged)) => {
                    own = closer(surface, frames, &own, &faulty, Some(&map));
                    own = between_lines(surface, frames, &own, &merged, scale);
                    stuck = if faulty.len() < fewest { 0 } else { stuck + 1 };
                    fewest = fewest.min(faulty.len());
                }
                Some(Found::Mesh(mesh)) => {
                    let made = Candidate {
                        spoiled: spoiled(&mesh),
                        cost: cost(&mesh),
                        lengths: own.clone(),
                        scaled,
                        map,
                        mesh,
                    };
                    own = closer(surface, frames, &own, &made.spoiled, Some(&made.map));
                    own = between_lines(surface, frames, &own, &made.mesh.merged, scale);
                    if best.as_ref().is_none_or(|best| made.is_better_than(best)) {
                        best = Some(made);
                        in_vain = 0;
                    }
                }
            }
            if let Some(best) = &best {
                if best.cost == 0 || in_vain == IN_VAIN {
                    break;
                }
                in_vain += 1;
            }
            if own == before || expected(surface, &own) > most || stuck > STUCK {
                break;
            }
        }
        best
    }

    /// Quads where the map is made stiffer that turns triangles over.
    fn unfolded(&self, mapping: &Mapping, scaled: &[Sides], map: &GridMap) -> Option<QuadMesh> {
        let (surface, frames) = (&self.surface, &self.frames);
        let map = mapping.stiffened(surface, frames, scaled, map)?;
        Found::of(surface, frames, &map)?.mesh()
    }

    /// The quads that were laid out last, evener where the map turns triangles over.
    pub fn quads(&mut self) -> Option<QuadMesh> {
        let found = self.found.take()?;
        let mapping = self.mapping.as_ref()?;
        let stiffened = self.unfolded(mapping, &found.scaled, &found.map);
        let stiffened = stiffened.filter(|mesh| cost(mesh) <= found.cost);
        Some(self.held_at_guides(stiffened.unwrap_or(found.mesh)))
    }
}

/// Quads that a piece may have.
struct Candidate {
    mesh: QuadMesh,
    map: GridMap,
    /// By triangle: the lengths of sides, as they are wanted and times the scale.
    lengths: Vec<Sides>,
    scaled: Vec<Sides>,
    /// Triangles where quads are flat, or leave feature lines.
    spoiled: Vec<u32>,
    /// How many quads it would be worth to have no such places.
    cost: usize,
}

impl Candidate {
    fn is_better_than(&self, other: &Self) -> bool {
        let cost = |one: &Self| one.mesh.quads.len() + one.cost;
        cost(self) < cost(other)
    }
}

/// Triangles where quads are flat, or leave feature lines.
fn spoiled(mesh: &QuadMesh) -> Vec<u32> {
    let flat = mesh.flat().into_iter().flat_map(|q| mesh.quads[q]);
    let cells = flat.chain(mesh.off_lines());
    cells
        .map(|cell| mesh.cells[cell as usize].triangle)
        .collect()
}

/// How many quads it would be worth to have none that is flat, and all feature lines apart.
fn cost(mesh: &QuadMesh) -> usize {
    FLAT * mesh.flat().len() + OFF * (mesh.off_lines().len() + mesh.merged.len())
}

/// About how many quads have sides of these lengths, by triangle.
fn expected(surface: &Surface, lengths: &[Sides]) -> f64 {
    let quads = |(t, [along, across]): (u32, &Sides)| surface.area(t) / (along * across);
    (0..).zip(lengths).map(quads).sum()
}

/// What comes of a map.
enum Found {
    Mesh(QuadMesh),
    /// Triangles at which its lines are too far apart, and feature lines that it lays on each other.
    Faults(Vec<u32>, Vec<Merged>),
}

impl Found {
    /// `None` where lines don't fit together.
    fn of(surface: &Surface, frames: &Frames, map: &GridMap) -> Option<Self> {
        let extracted = extracted(surface, frames, map)?;
        let undivided = extracted.undivided.clone();
        let mesh = QuadMesh::cleaned(extracted);
        let cells = mesh.faults();
        if cells.is_empty() && mesh.is_like(surface) {
            return Some(Self::Mesh(mesh));
        }
        let cells = cells.into_iter();
        let mut faulty: Vec<u32> = cells.map(|v| mesh.cells[v as usize].triangle).collect();
        faulty.extend(undivided);
        if faulty.is_empty() {
            faulty = (0..surface.triangles.len() as u32).collect();
        }
        Some(Self::Faults(faulty, mesh.merged))
    }

    fn mesh(self) -> Option<QuadMesh> {
        match self {
            Self::Mesh(mesh) => Some(mesh),
            Self::Faults(..) => None,
        }
    }
}

/// What the field follows: features and guides exactly, curvature where it is clear.
fn guides(surface: &Surface, edge: f64, drawn: &[Option<DVec2>]) -> Guides {
    let mut exact = vec![DVec2::ZERO; surface.triangles.len()];
    for (exact, way) in exact.iter_mut().zip(drawn) {
        *exact = way.map_or(DVec2::ZERO, |way| fourfold(way.to_angle()));
    }
    for half_edge in 0..surface.half_edge_count() {
        if surface.is_feature[half_edge as usize] {
            exact[half_edge as usize / 3] = fourfold(surface.angle(half_edge));
        }
    }
    Guides {
        exact,
        soft: curvature::crosses(surface, edge),
        turns: Vec::new(),
    }
}
