//! Evening vertices out, along the surface and along its lines.

use super::lines::Hold;
use super::sheet::{Ground, NEW, Sheet};
use glam::DVec3;
use rayon::prelude::*;

/// Where a vertex goes.
enum Goes {
    /// To a place on the model's surface.
    Onto { at: DVec3, near: u32 },
    /// So far along its line, whose neighbours are these.
    Along { by: f64, neighbours: [u32; 2] },
}

impl Sheet {
    /// Moves every vertex towards the middle of its neighbours, along the surface, and back
    /// onto the model. All are moved from where all were.
    pub fn relax(&mut self, ground: &Ground<'_>) {
        let going: Vec<Option<Goes>> = (0..self.net.positions.len() as u32)
            .into_par_iter()
            .with_min_len(16_384)
            .map(|v| match self.hold(v) {
                Hold::Free => self.along_surface(v, ground),
                Hold::Line => self.along_line(v),
                Hold::Fixed | Hold::Frozen => None,
            })
            .collect();
        for (v, goes) in going.into_iter().enumerate() {
            match goes {
                Some(Goes::Onto { at, near }) => {
                    self.near[v] = near;
                    self.move_to(v as u32, at);
                    if let (Some(wanted), false) = (ground.wanted, self.wanted.is_empty()) {
                        self.wanted[v] = wanted.at(ground.carried, near, self.net.positions[v]);
                    }
                }
                Some(Goes::Along { by, neighbours }) => {
                    self.slide(v as u32, by, neighbours, ground);
                }
                None => {}
            }
        }
    }

    fn move_to(&mut self, vertex: u32, at: DVec3) -> bool {
        let is_sound = self.sound(vertex, None, at);
        if is_sound {
            self.net.positions[vertex as usize] = at;
            self.source[vertex as usize] = NEW;
        }
        is_sound
    }

    fn along_surface(&self, vertex: u32, ground: &Ground<'_>) -> Option<Goes> {
        let here = self.net.positions[vertex as usize];
        let mut normal = DVec3::ZERO;
        let (mut sum, mut weight) = (DVec3::ZERO, 0.0);
        for (_, [_, x, y]) in self.net.around(vertex) {
            let [p, q] = [x, y].map(|v| self.net.positions[v as usize]);
            let area = (p - here).cross(q - here);
            normal += area;
            // The middle of the faces by area, against how large they should be: evens out
            // faces, not only edges.
            let mut share = area.length();
            if !self.wanted.is_empty() {
                let wanted = [vertex, x, y].map(|v| self.wanted_at(v));
                share /= wanted.iter().sum::<f64>().powi(2);
            }
            sum += (here + p + q) / 3.0 * share;
            weight += share;
        }
        if weight <= 0.0 {
            return None;
        }
        let way = sum / weight - here;
        let up = normal.normalize_or_zero();
        let moved = here + way - up * way.dot(up);
        let found = ground.closest(moved, self.near[vertex as usize])?;
        // Not to the other side of a thin wall.
        let faces_along = ground.carried.normal(found.triangle).dot(normal) >= 0.0;
        faces_along.then_some(Goes::Onto {
            at: found.point,
            near: found.triangle,
        })
    }

    /// Half the way to the middle between its neighbours on the line.
    fn along_line(&self, vertex: u32) -> Option<Goes> {
        let neighbours = <[u32; 2]>::try_from(self.line_neighbours(vertex)).ok()?;
        let [p, q] = neighbours.map(|other| self.lines.get(vertex, other));
        let (p, q) = (p?, q?);
        let by = ((p.to - p.from) + (q.to - q.from)) / 4.0;
        (p.chain == q.chain && by != 0.0).then_some(Goes::Along { by, neighbours })
    }

    fn slide(&mut self, vertex: u32, by: f64, neighbours: [u32; 2], ground: &Ground<'_>) {
        let Some(span) = self.lines.get(vertex, neighbours[0]) else {
            return;
        };
        let at = ground.chains.at(span.chain, span.from + by);
        if !self.move_to(vertex, at) {
            return;
        }
        for other in neighbours {
            if let Some(mut span) = self.lines.take(vertex, other) {
                span.from += by;
                self.lines.add(vertex, other, span);
            }
        }
    }
}
