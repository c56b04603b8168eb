//! The UVs of wedges, of one set, and how they go on over the surface.

use super::fit::Fit;
use glam::{DVec2, DVec3};

/// By wedge its UV, not finite where it has none, and what all its triangles would have elsewhere.
#[derive(Clone, Default)]
pub(super) struct UvSet {
    uvs: Vec<DVec2>,
    fits: Vec<Fit>,
}

impl UvSet {
    /// Adds a wedge.
    pub fn push(&mut self, uv: Option<DVec2>) {
        self.uvs.push(uv.unwrap_or(DVec2::NAN));
        self.fits.push(Fit::default());
    }

    /// The UVs, by wedge.
    pub fn values(&self) -> &[DVec2] {
        &self.uvs
    }

    /// The UVs of a triangle's wedges.
    pub fn of(&self, wedges: [u32; 3]) -> [DVec2; 3] {
        wedges.map(|wedge| self.uvs[wedge as usize])
    }

    /// Takes in a triangle with these wedges; `points` are measured from the centre.
    pub fn take_in(&mut self, points: [DVec3; 3], wedges: [u32; 3]) {
        let fit = Fit::of(points, self.of(wedges));
        for wedge in wedges {
            let sum = &mut self.fits[wedge as usize];
            *sum = sum.plus(fit);
        }
    }

    /// Those of some wedges, in this order.
    pub fn part(&self, names: &[u32]) -> Self {
        Self {
            uvs: names.iter().map(|&w| self.uvs[w as usize]).collect(),
            fits: names.iter().map(|&w| self.fits[w as usize]).collect(),
        }
    }

    /// Takes in what became of a part.
    pub fn take_back(&mut self, part: &Self, names: &[u32]) {
        let own = part.uvs.iter().zip(&part.fits);
        for (&name, (&uv, &fit)) in names.iter().zip(own) {
            self.uvs[name as usize] = uv;
            self.fits[name as usize] = fit;
        }
    }

    /// The UV of a wedge.
    pub fn at(&self, wedge: u32) -> DVec2 {
        self.uvs[wedge as usize]
    }

    /// The UV of two wedges together at a place, measured from the centre.
    pub fn joined(&self, wedges: [u32; 2], place: DVec3) -> DVec2 {
        let [one, two] = wedges.map(|wedge| self.fits[wedge as usize]);
        one.plus(two).at(place)
    }

    /// Makes one wedge of two.
    pub fn join(&mut self, kept: u32, lost: u32, uv: DVec2) {
        self.uvs[kept as usize] = uv;
        self.fits[kept as usize] = self.fits[kept as usize].plus(self.fits[lost as usize]);
    }

    /// The UV of a wedge when its vertex moves by so much.
    fn moved(&self, wedge: u32, by: DVec3) -> DVec2 {
        let own = self.at(wedge);
        if by == DVec3::ZERO {
            return own;
        }
        let to = own + self.fits[wedge as usize].change(by);
        if to.is_finite() { to } else { own }
    }

    /// Lets a wedge's UV go on over the surface by so much.
    pub fn shift(&mut self, wedge: u32, by: DVec3) {
        self.uvs[wedge as usize] = self.moved(wedge, by);
    }

    /// Whether a triangle with these wedges would turn over when its corners move by so much.
    pub fn would_turn(&self, wedges: [u32; 3], by: [DVec3; 3]) -> bool {
        let new = [0, 1, 2].map(|i| self.moved(wedges[i], by[i]));
        area(self.of(wedges)) * area(new) < 0.0
    }

    /// Whether a triangle with these wedges would turn over with another UV at the first. Where there
    /// are none, or they have no area, nothing can.
    pub fn turns_with(&self, wedges: [u32; 3], first: DVec2) -> bool {
        let own = self.of(wedges);
        area(own) * area([first, own[1], own[2]]) < 0.0
    }

    /// Whether UVs turn over where an edge between the first two of four wedges is turned to lie
    /// between the others.
    pub fn turns_over(&self, wedges: [u32; 4]) -> bool {
        let [a, b, c, d] = wedges.map(|wedge| self.at(wedge));
        let was = area([a, b, c]);
        let new = [[b, a, d], [a, d, c], [d, b, c]];
        new.into_iter().any(|is| area(is) * was < 0.0)
    }
}

fn area([a, b, c]: [DVec2; 3]) -> f64 {
    (b - a).perp_dot(c - a)
}
