//! The quads of all pieces: as many as wanted, and without crossings that the model has not.

use super::QuadTarget;
use super::apart::move_apart;
use super::assembled::Assembled;
use super::cleaning::QuadMesh;
use super::crossings::Crossings;
use super::guides::ByTriangle;
use super::lengths::Lengths;
use super::piece::Piece;
use super::surface::{self, Surface};
use crate::attribute_transfer::Carried;
use crate::mesh::Model;
use crate::parallel::{change_each, mapped_from};
use crate::progress::{Cancelled, Observer};
use crate::remesh::EvenSurface;
use crate::topology::Parts;
use glam::DVec3;

/// A count is met if the number of quads is no further off than this share.
const MET: f64 = 0.02;
/// How often lengths are changed to meet a count.
const TRIES: usize = 4;
/// How often lines are laid closer where quads cross, at most.
const CLOSER: usize = 4;
/// No further try is made once this many times as many quads cross as at best,
const WORSE: usize = 4;
/// or after this many tries in a row without fewer crossings.
const IN_VAIN: usize = 2;

/// Pieces of a model's surface with their quads.
pub(super) struct Layout<'m> {
    model: &'m Model,
    whole: &'m Parts,
    pieces: Vec<Own>,
    /// By part of the model: whether a piece of its surface can't be mapped. All of the part is paired then, so
    /// that what hangs together at edges of three sides, or at vertices, still does.
    pub is_paired: Vec<bool>,
    /// Sides are this many times as long as was said.
    pub scale: f64,
}

/// A piece, the part of the model that it is of, and its quads if they are known.
struct Own {
    part: usize,
    piece: Piece,
    quads: Option<QuadMesh>,
}

impl<'m> Layout<'m> {
    pub fn of(
        model: &'m Model,
        whole: &'m Parts,
        even: &EvenSurface,
        lengths: &Lengths,
        guides: &ByTriangle,
        observer: &dyn Observer,
    ) -> Result<Self, Cancelled> {
        let mut is_paired = vec![false; whole.len()];
        let part_of = |surface: &Surface| {
            let face = even.faces[surface.origins[0] as usize];
            whole
                .of_face(&model.mesh, face)
                .map_or(0, |part| part.index())
        };
        let is_branching = surface::branching(even);
        let mut surfaces = Vec::new();
        for surface in Surface::parts_of(even) {
            let part = part_of(&surface);
            match surface.origins.iter().any(|&t| is_branching[t as usize]) {
                true => is_paired[part] = true,
                false => surfaces.push((part, surface)),
            }
        }
        surfaces.retain(|(part, _)| !is_paired[*part]);
        let piece = |(part, surface)| {
            observer.check()?;
            Ok(Own {
                part,
                piece: Piece::of(surface, lengths, guides),
                quads: None,
            })
        };
        let pieces: Vec<Result<Own, Cancelled>> = mapped_from(surfaces, piece);
        let pieces = pieces
            .into_iter()
            .collect::<Result<Vec<Own>, Cancelled>>()?;
        Ok(Self {
            model,
            whole,
            pieces,
            is_paired,
            scale: 1.0,
        })
    }

    /// Lays quads out, as many as wanted.
    pub fn lay_out(
        &mut self,
        target: QuadTarget,
        observer: &dyn Observer,
    ) -> Result<(), Cancelled> {
        self.draft(observer)?;
        if let QuadTarget::Count(count) = target {
            for _ in 1..TRIES {
                let found: usize = self.pieces.iter().map(|own| own.piece.quad_count()).sum();
                let ratio = found as f64 / count as f64;
                let is_met = (ratio - 1.0).abs() < MET;
                if is_met || found == 0 || self.is_paired.contains(&true) {
                    break;
                }
                self.scale *= ratio.sqrt();
                self.draft(observer)?;
            }
        }
        self.finish(observer)
    }

    /// Lays out what has no quads yet. There are about as many then, but where maps turn triangles over they are left so.
    fn draft(&mut self, observer: &dyn Observer) -> Result<(), Cancelled> {
        let (scale, is_paired) = (self.scale, &self.is_paired);
        change_each(&mut self.pieces, 1, |_, own| {
            if own.quads.is_none() && !is_paired[own.part] && !observer.cancelled() {
                own.piece.lay_out(scale);
            }
        });
        observer.check()?;
        for own in self.pieces.iter().filter(|own| own.quads.is_none()) {
            self.is_paired[own.part] |= own.piece.quad_count() == 0;
        }
        Ok(())
    }

    /// Gives all that is laid out its quads.
    fn finish(&mut self, observer: &dyn Observer) -> Result<(), Cancelled> {
        let is_paired = &self.is_paired;
        change_each(&mut self.pieces, 1, |_, own| {
            if own.quads.is_none() && !is_paired[own.part] && !observer.cancelled() {
                own.quads = own.piece.quads();
            }
        });
        observer.check()
    }

    /// The quads of pieces of parts that are mapped, by piece.
    fn made(&self) -> impl Iterator<Item = (usize, &QuadMesh)> {
        let mapped = self.pieces.iter().enumerate();
        let mapped = mapped.filter(|(_, own)| !self.is_paired[own.part]);
        mapped.filter_map(|(piece, own)| Some((piece, own.quads.as_ref()?)))
    }

    /// All that is mapped, and by its faces the piece and the quad.
    fn assembled(&self, carried: &Carried<'_>) -> (Assembled, Vec<(usize, usize)>) {
        let mut all = Assembled::default();
        let mut origins = Vec::new();
        for (piece, mesh) in self.made() {
            all.add(mesh, carried);
            origins.extend((0..mesh.quads.len()).map(|quad| (piece, quad)));
        }
        (all, origins)
    }

    /// Quads where they lie; lines are laid closer where these cross and the model does not.
    pub fn placed(
        &mut self,
        carried: &Carried<'_>,
        crossings: &Crossings<'_>,
        observer: &dyn Observer,
    ) -> Result<Assembled, Cancelled> {
        let (mut all, origins) = self.assembled(carried);
        let apart = |made: &mut Assembled| {
            let crossing = crossings.new_in(&made.mesh);
            move_apart(made, crossing, crossings, carried)
        };
        let mut faulty = apart(&mut all);
        let (mut last, mut of_last) = (faulty.clone(), origins);
        let mut in_vain = 0;
        for _ in 0..CLOSER {
            // Where sheets of the model touch, shorter sides make more crossings.
            if last.is_empty() || last.len() > WORSE * faulty.len() || in_vain == IN_VAIN {
                break;
            }
            let before = self.is_paired.clone();
            self.lay_closer(last.iter().map(|face| of_last[face.index()]));
            self.draft(observer)?;
            self.finish(observer)?;
            if self.is_paired != before {
                self.is_paired = before;
                break;
            }
            let (mut closer, of_closer) = self.assembled(carried);
            (last, of_last) = (apart(&mut closer), of_closer);
            in_vain += 1;
            if last.len() < faulty.len() {
                (all, faulty) = (closer, last.clone());
                in_vain = 0;
            }
        }
        Ok(all)
    }

    /// Lays lines closer at quads, by piece.
    fn lay_closer(&mut self, quads: impl Iterator<Item = (usize, usize)>) {
        let mut faulty: Vec<Vec<u32>> = vec![Vec::new(); self.pieces.len()];
        for (piece, quad) in quads {
            if let Some(mesh) = &self.pieces[piece].quads {
                let cells = mesh.quads[quad].map(|cell| mesh.cells[cell as usize].triangle);
                faulty[piece].extend(cells);
            }
        }
        for (own, faulty) in self.pieces.iter_mut().zip(faulty) {
            if !faulty.is_empty() {
                own.piece.lay_closer(&faulty);
                own.quads = None;
            }
        }
    }

    /// Where several fans of the surface meet.
    pub fn pinches(&self) -> impl Iterator<Item = DVec3> {
        self.pieces.iter().flat_map(|own| own.piece.pinches())
    }

    /// What is left of the model: parts that could not be mapped.
    pub fn unmapped(&self) -> Option<Model> {
        let is_left = |face| {
            let part = self.whole.of_face(&self.model.mesh, face);
            part.is_some_and(|part| self.is_paired[part.index()])
        };
        let any = self.is_paired.contains(&true);
        any.then(|| self.model.without_faces(|face| !is_left(face)).0)
    }
}
