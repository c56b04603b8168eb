//! Holding a surface back where it folds over or stands in the way of other faces.
//!
//! Every new vertex has a place in the lid, the plainest surface over its border. Where the
//! finer one is at fault, the vertices of the faces concerned go part of the way back there, at
//! last all of it, with more and more of those round them.

use super::editable_triangles::Net;
use super::patch::Patch;
use glam::DVec3;
use std::collections::BTreeSet;

/// The cosine of the angle between normals beyond which two faces are folded over: 120 degrees.
const FOLDED: f64 = -0.5;
/// How much less than in the lid that cosine must be for it to be the finer surface's fault.
const WORSE: f64 = 0.1;
/// How often faces are held back, each time more of them or further.
const ROUNDS: usize = 4;

/// How far to hold back the first time, the second time and so on: what share of the way from
/// the lid stays, and how many rings of faces round those at fault are held, too.
pub(super) const STEPS: [(f64, usize); ROUNDS] = [(0.5, 0), (0.5, 1), (0.0, 2), (0.0, 4)];

impl Patch {
    /// Takes the new vertices of some faces, and of `rings` of faces round them, back to a
    /// share of their way from the lid; says whether that moved any.
    pub fn hold_back(&mut self, faces: &BTreeSet<usize>, (share, rings): (f64, usize)) -> bool {
        let mut held = vec![false; self.points.len()];
        for (face, corners) in self.faces().enumerate() {
            if faces.contains(&face) {
                corners.iter().for_each(|&v| held[v as usize] = true);
            }
        }
        for _ in 0..rings {
            let before = held.clone();
            for corners in self.faces() {
                if corners.iter().any(|&v| before[v as usize]) {
                    corners.iter().for_each(|&v| held[v as usize] = true);
                }
            }
        }
        let mut moved = false;
        for v in (self.border..self.points.len()).filter(|&v| held[v]) {
            let held = self.lid[v].lerp(self.points[v], share);
            moved |= held != self.points[v];
            self.points[v] = held;
        }
        moved
    }

    /// Holds back what folds over where the lid doesn't, as long as that helps. `beside` are the
    /// normals of the faces along the border.
    pub fn unfold(&mut self, beside: &[DVec3]) {
        let net = Net::of(self.triangles.clone());
        let mut folded = self.folded(&net, beside);
        for step in STEPS {
            let before = self.points.clone();
            if folded.is_empty() || !self.hold_back(&folded, step) {
                break;
            }
            let left = self.folded(&net, beside);
            if left.len() > folded.len() {
                self.points = before;
                break;
            }
            folded = left;
        }
    }

    /// The triangles that fold over a neighbour, more than they do in the lid.
    fn folded(&self, net: &Net, beside: &[DVec3]) -> BTreeSet<usize> {
        let normals = |points: &[DVec3]| -> Vec<DVec3> {
            let normal = |t: &[u32; 3]| {
                let [a, b, c] = t.map(|v| points[v as usize]);
                (b - a).cross(c - a).normalize_or_zero()
            };
            self.triangles.iter().map(normal).collect()
        };
        let (now, lid) = (normals(&self.points), normals(&self.lid));
        let is_worse = |now: f64, lid: f64| now < FOLDED && now < lid - WORSE;
        let inner = net
            .neighbours()
            .filter(|&[s, t]| is_worse(now[s].dot(now[t]), lid[s].dot(lid[t])))
            .flatten();
        let along = self.triangles.iter().enumerate().filter(|(t, corners)| {
            (0..3).any(|k| {
                let (a, b) = (corners[k] as usize, corners[(k + 1) % 3] as usize);
                let is_along = a < self.border && b == (a + 1) % self.border;
                is_along && is_worse(now[*t].dot(beside[a]), lid[*t].dot(beside[a]))
            })
        });
        inner.chain(along.map(|(t, _)| t)).collect()
    }
}
