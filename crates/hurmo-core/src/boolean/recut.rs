//! What rounding made to meet, cut again: all that is looked at is what lies near what meets, and all of the
//! model only where that does not decide what is inside.

use super::cutting::{Part, check_closed, with_cut};
use super::fragments::Fragments;
use super::near::{Near, places};
use super::rounds::Resolved;
use super::{BooleanError, MayMeet, Rounding, Solids, Tally, Windings};
use crate::mesh::{FaceId, VertexId};
use crate::parallel::mapped_of;
use crate::progress::Observer;
use crate::spatial::exact_weld;

/// Where one face in this many is new, all are taken to be near new ones.
const MOST: usize = 3;

/// What there is before a round.
pub(super) struct Round<'r> {
    pub result: &'r Resolved,
    /// Of each face, the group whose solid it bounds, if any.
    pub group: &'r [Option<u32>],
    pub sheet: Option<usize>,
    /// Whether new positions are rounded to single precision.
    pub single: bool,
}

/// What a round found.
pub(super) struct Met {
    /// How many triangles are of faces that meet others.
    pub meeting: usize,
    /// What was made of it, and what was done; nothing where there is nothing to cut.
    pub next: Option<(Resolved, Tally)>,
}

impl Round<'_> {
    /// Cuts what meets, since new vertices may be as far as this from where they were exactly. Looks at what
    /// is near what meets; at what is near new faces, or at all of it, where that does not decide what is
    /// inside.
    pub fn cut(&self, moved: f64, observer: &dyn Observer) -> Result<Met, BooleanError> {
        let (mesh, is_new) = (&self.result.model.mesh, &self.result.is_new);
        let count = is_new.iter().filter(|is_new| **is_new).count();
        let new = (count * MOST < is_new.len()).then(|| Near::of(mesh, is_new, moved));
        let near = new
            .as_ref()
            .map_or_else(|| vec![true; is_new.len()], Near::reached);
        let may_meet = MayMeet::WithMarked(is_new);
        let fragments = self.fragments(places(mesh, &near), may_meet, |face| near[face.index()]);
        let meeting = fragments.meeting();
        if fragments.is_settled() {
            return Ok(Met {
                meeting,
                next: None,
            });
        }
        let unsettled = fragments.unsettled(mesh.face_count());
        let boxes = Near::of(mesh, &unsettled, 0.0);
        let close = boxes.reached();
        let known = Known::of(self.result, &close, moved);
        let mut next = {
            let (place, marked) = (places(mesh, &close), MayMeet::Marked(&unsettled));
            let fragments = self.fragments(place, marked, |face| close[face.index()]);
            self.next(&fragments, Some(&known.part(&boxes)), observer)
        };
        if let (None, Some(new)) = (&next, &new) {
            let known = Known::of(self.result, &near, moved);
            next = self.next(&fragments, Some(&known.part(new)), observer);
        }
        let next = match next {
            Some(next) => next,
            None => {
                self.check_closed()?;
                let place = exact_weld(mesh.positions());
                let fragments = self.fragments(place, MayMeet::Marked(&unsettled), |_| true);
                let next = self.next(&fragments, None, observer);
                next.expect("the whole model decides all sides")
            }
        };
        Ok(Met {
            meeting,
            next: Some(next),
        })
    }

    /// The triangles of some of the faces, over vertices of which there is one at each place.
    fn fragments(
        &self,
        place: Vec<VertexId>,
        may_meet: MayMeet<'_>,
        is_near: impl Fn(FaceId) -> bool + Sync,
    ) -> Fragments<'_> {
        let solids = Solids {
            count: 1,
            of: &|face| {
                self.group[face.index()]
                    .filter(|_| is_near(face))
                    .map(|_| 0)
            },
            group: &|face| self.group[face.index()].unwrap_or(0),
            may_meet,
            inside: &|_| true,
            filled: None,
            sheet: self.sheet,
            rounding: Rounding::default(),
            join_within: 0.0,
        };
        Fragments::of(&self.result.model.mesh, &solids, place)
    }

    /// What is made of triangles; `None` where they are a part that does not decide what is inside.
    fn next(
        &self,
        fragments: &Fragments<'_>,
        part: Option<&Part<'_>>,
        observer: &dyn Observer,
    ) -> Option<(Resolved, Tally)> {
        let Resolved { model, young, .. } = self.result;
        let inside = |windings: &Windings| self.sheet.is_some() || windings[0] > 0;
        with_cut(model, fragments, 1, part, observer, |cut| {
            let mut done = Tally::default();
            let next = cut.assemble(model, &inside, self.single, young, &mut done);
            (next, done)
        })
    }

    /// Makes sure that the surface closes.
    pub fn check_closed(&self) -> Result<(), BooleanError> {
        let mesh = &self.result.model.mesh;
        let is_of = |face: FaceId| self.group[face.index()].map(|_| 0);
        let place = exact_weld(mesh.positions());
        check_closed(mesh, (1, self.sheet), &is_of, &place)
    }
}

/// Which faces are known to bound the one solid, as they did before rounding.
struct Known<'k> {
    made: &'k Resolved,
    /// The new faces that are near those asked for.
    new: Near<'k>,
}

impl<'k> Known<'k> {
    /// Of the faces that are marked.
    fn of(made: &'k Resolved, marked: &[bool], moved: f64) -> Self {
        let mesh = &made.model.mesh;
        // Both what was moved and what it was moved from are within the distance.
        let mut near = Near::of(mesh, marked, 2.0 * moved).reached();
        let is_new = made.is_new.iter();
        near.iter_mut()
            .zip(is_new)
            .for_each(|(near, is_new)| *near &= is_new);
        Self {
            new: Near::of(mesh, &near, 2.0 * moved),
            made,
        }
    }

    /// Whether a face was not moved, and nothing moved past its middle.
    fn holds(&self, face: FaceId) -> bool {
        let middle = self.made.model.mesh.face_middle(face);
        !self.made.is_new[face.index()] && !self.new.is_within(middle)
    }

    /// The part of the mesh near some faces.
    fn part(&self, near: &Near<'_>) -> Part<'_> {
        let positions = self.made.model.mesh.positions();
        Part {
            inner: mapped_of(positions, 1024, |&place| near.holds(place)),
            is_known: Box::new(|face| self.holds(face)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::boolean::{How, resolve};
    use crate::measure::volume;
    use crate::mesh::{Mesh, Model};
    use crate::shapes;
    use glam::DVec3;

    /// Two spheres joined, and the vertices of their seam rounded to a coarse grid, so that many faces beside
    /// it cross.
    fn roughly_joined(by: DVec3) -> (Resolved, f64) {
        const GRID: f64 = 64.0;
        let mut mesh = shapes::sphere(1.0, 4);
        let split = mesh.face_count();
        let mut other = shapes::sphere(0.8, 4);
        other.positions_mut().iter_mut().for_each(|p| *p += by);
        mesh.append(&other);
        let solids = Solids {
            count: 2,
            of: &|face| Some(usize::from(face.index() >= split)),
            group: Solids::ONE_GROUP,
            may_meet: MayMeet::Any,
            inside: &|windings| windings[0] > 0 || windings[1] > 0,
            filled: None,
            sheet: None,
            rounding: Rounding::Double,
            join_within: 0.0,
        };
        let before = mesh.vertex_count();
        let made = resolve(&Model::from(mesh), &solids, &()).unwrap();
        let mut model = made.model;
        let is_new = made
            .sources
            .iter()
            .map(|source| source.how == How::Cut)
            .collect();
        let old: std::collections::HashSet<_> = {
            let mut old = shapes::sphere(1.0, 4);
            old.append(&other);
            assert_eq!(old.vertex_count(), before);
            old.positions()
                .iter()
                .map(|p| p.to_array().map(f64::to_bits))
                .collect()
        };
        let is_old = |p: &DVec3| old.contains(&p.to_array().map(f64::to_bits));
        let young: Vec<bool> = model.mesh.positions().iter().map(|p| !is_old(p)).collect();
        for (place, young) in model.mesh.positions_mut().iter_mut().zip(&young) {
            if *young {
                *place = (*place * GRID).round() / GRID;
            }
        }
        let result = Resolved {
            sources: Vec::new(),
            is_new,
            young,
            model,
        };
        (result, 1.0 / GRID)
    }

    fn triangles(mesh: &Mesh) -> Vec<Vec<[u64; 3]>> {
        let bits = |p: DVec3| p.to_array().map(|x| (x + 0.0).to_bits());
        let mut all: Vec<Vec<[u64; 3]>> = mesh
            .face_ids()
            .map(|face| {
                let mut corners: Vec<_> = mesh.face_points(face).map(bits).collect();
                let least = (0..corners.len()).min_by_key(|&i| corners[i]).unwrap();
                corners.rotate_left(least);
                corners
            })
            .collect();
        all.sort_unstable();
        all
    }

    /// Looking near the contacts gives the same result as looking at the whole model.
    #[test]
    fn what_is_near_is_cut_as_all_of_it_would_be() {
        let places = [
            [0.9, 0.1, 0.2],
            [0.31, 0.55, -0.4],
            [1.5, 0.2, 0.1],
            [0.2, 0.3, 1.1],
        ];
        let mut by_part = 0;
        for place in places {
            let (result, moved) = roughly_joined(DVec3::from_array(place));
            let group = vec![Some(0); result.model.mesh.face_count()];
            let round = Round {
                result: &result,
                group: &group,
                sheet: None,
                single: false,
            };
            let met = round.cut(moved, &()).unwrap();
            assert!(met.meeting > 10, "{} faces meet", met.meeting);
            let (near, _) = met.next.unwrap();
            let place = exact_weld(result.model.mesh.positions());
            let all = round.fragments(place, MayMeet::Any, |_| true);
            let (whole, _) = round.next(&all, None, &()).unwrap();
            let [near, whole] = [near.model.mesh, whole.model.mesh];
            assert!((volume(&near) - volume(&whole)).abs() < 1e-9);
            by_part += usize::from(triangles(&near) == triangles(&whole));
        }
        assert!(by_part > 2, "{by_part} of 4 are cut alike to the last bit");
    }
}
