//! The winding number on that side of a face that has less of it.

use crate::audit::Survey;
use crate::measure::Bounds;
use crate::spatial::{BoxTree, Soup, Winding, times_inside, times_inside_few};
use glam::{DVec3, Vec3A};
use std::sync::OnceLock;

/// Up to so many triangles, all of a patch's are tried.
const FEW: usize = 256;

/// Tells winding numbers: by rays where every patch is closed, which is cheaper.
pub(super) struct Lower<'s, 'm> {
    soup: &'s Soup<'m>,
    closed: Option<ClosedPatches<'s>>,
    winding: OnceLock<Winding<'s, 'm>>,
}

impl<'s, 'm> Lower<'s, 'm> {
    pub fn of(survey: &'s Survey<'m>, all_closed: bool) -> Self {
        Self {
            soup: survey.soup(),
            closed: all_closed.then(|| ClosedPatches::of(survey)),
            winding: OnceLock::new(),
        }
    }

    /// The winding numbers by tree.
    pub fn winding(&self) -> &Winding<'s, 'm> {
        self.winding.get_or_init(|| Winding::of(self.soup))
    }

    /// What a query costs, if it isn't answered by rays.
    pub fn mean_cost(&self) -> f64 {
        match self.closed {
            Some(_) => 0.0,
            None => self.winding().mean_cost(),
        }
    }

    /// The lower one of a triangle's two sides.
    pub fn at(&self, triangle: usize) -> f64 {
        let by_rays = |closed: &ClosedPatches<'_>| {
            let (middle, offset) = self.soup.middle_and_offset(triangle);
            let front = closed.times_inside(self.soup, middle + offset)?;
            // Where the front is outside, the lower side is no higher.
            let back = match front {
                ..=0 => front,
                _ => closed.times_inside(self.soup, middle - offset)?,
            };
            Some(f64::from(front.min(back)))
        };
        let told = self.closed.as_ref().and_then(by_rays);
        told.unwrap_or_else(|| {
            let sides = self.winding().sides_of(triangle);
            sides.front.min(sides.back)
        })
    }
}

/// The patches of a model, each of them closed, under a hierarchy of boxes. A point needs to
/// be held only against those in whose boxes it lies.
struct ClosedPatches<'s> {
    of_face: &'s [u32],
    bounds: Vec<Bounds>,
    boxes: BoxTree,
    /// The soup's triangles by patch, those of patch `p` from `starts[p]` on.
    triangles: Vec<u32>,
    starts: Vec<u32>,
}

impl<'s> ClosedPatches<'s> {
    fn of(survey: &'s Survey<'_>) -> Self {
        let (soup, patches) = (survey.soup(), &survey.patches);
        let count = patches.closed.len();
        let patch = |triangle: usize| patches.of_face[soup.face(triangle).index()] as usize;
        let mut bounds = vec![Bounds::NOTHING; count];
        let mut starts = vec![0u32; count + 1];
        for triangle in 0..soup.len() {
            starts[patch(triangle) + 1] += 1;
            let bounds = &mut bounds[patch(triangle)];
            soup.corners(triangle)
                .into_iter()
                .for_each(|corner| bounds.take_in(corner));
        }
        (0..count).for_each(|patch| starts[patch + 1] += starts[patch]);
        let mut next = starts.clone();
        let mut triangles = vec![0u32; soup.len()];
        for triangle in 0..soup.len() {
            let slot = &mut next[patch(triangle)];
            triangles[*slot as usize] = triangle as u32;
            *slot += 1;
        }
        Self {
            of_face: &patches.of_face,
            boxes: BoxTree::new(count, |patch| match starts[patch] == starts[patch + 1] {
                true => [DVec3::ZERO; 2],
                false => [bounds[patch].min, bounds[patch].max],
            }),
            bounds,
            triangles,
            starts,
        }
    }

    fn few(&self, patch: usize) -> bool {
        (self.starts[patch + 1] - self.starts[patch]) as usize <= FEW
    }

    fn times_inside(&self, soup: &Soup<'_>, point: DVec3) -> Option<i32> {
        let here = Bounds {
            min: point,
            max: point,
        };
        let at = Vec3A::from(point.as_vec3());
        let (mut times, mut sure, mut any_large) = (0, true, false);
        self.boxes.visit(
            |[low, high]| low.cmple(at).all() && at.cmple(high).all(),
            |item| {
                let patch = self.boxes.order()[item] as usize;
                if !self.bounds[patch].holds(&here) {
                    return;
                }
                if !self.few(patch) {
                    any_large = true;
                    return;
                }
                let own = self.starts[patch] as usize..self.starts[patch + 1] as usize;
                let own = self.triangles[own].iter().map(|&t| t as usize);
                match times_inside_few(soup, own, point) {
                    Some(more) => times += more,
                    None => sure = false,
                }
            },
        );
        if any_large {
            // Of those in whose boxes the point doesn't lie, nothing comes of it.
            let large =
                |triangle: usize| !self.few(self.of_face[soup.face(triangle).index()] as usize);
            times += times_inside(soup, point, large)?;
        }
        sure.then_some(times)
    }
}
