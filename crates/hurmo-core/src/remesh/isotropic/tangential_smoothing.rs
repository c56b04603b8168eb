//! Evening vertices out, along the surface and along its lines.

use super::feature_edges::VertexConstraint;
use super::sheet::{LEAN, NEW, ReferenceSurface, Sheet};
use crate::parallel::{chosen, mapped};
use crate::spatial::{Closest, closest_on_triangle};
use crate::triangulate::quality;
use glam::DVec3;

/// Where a vertex goes.
pub(super) enum Goes {
    /// To a place on the model's surface.
    Onto { at: DVec3, near: u32 },
    /// So far along its line, whose neighbours are these.
    Along { by: f64, neighbours: [u32; 2] },
}

impl Sheet {
    /// Moves every vertex towards the middle of its neighbours, along the surface, and back
    /// onto the model. All are moved from where all were.
    pub fn relax(&mut self, reference: &ReferenceSurface<'_>) {
        let going: Vec<Option<Goes>> = mapped(self.linked.positions.len(), 16_384, |v| {
            let v = v as u32;
            match self.constraint(v) {
                VertexConstraint::Free => self.along_surface(v, reference),
                VertexConstraint::Line => self.along_line(v),
                VertexConstraint::Fixed | VertexConstraint::Frozen => None,
            }
        });
        for (v, goes) in going.into_iter().enumerate() {
            match goes {
                Some(Goes::Onto { at, near }) => self.move_onto(v as u32, at, near, reference),
                Some(Goes::Along { by, neighbours }) => {
                    self.slide(v as u32, by, neighbours, reference);
                }
                None => {}
            }
        }
    }

    /// Moves a free vertex as [`Sheet::relax`] does, if that shapes the worst of its triangles
    /// better.
    pub fn relax_to_better_shape(&mut self, vertex: u32, reference: &ReferenceSurface<'_>) {
        if self.constraint(vertex) != VertexConstraint::Free {
            return;
        }
        let Some(Goes::Onto { at, near }) = self.along_surface(vertex, reference) else {
            return;
        };
        let worst = |here: DVec3| {
            let around = self.linked.around(vertex);
            let shapes = around.map(|(_, [_, x, y])| {
                let [p, q] = [x, y].map(|v| self.linked.positions[v as usize]);
                quality([here, p, q])
            });
            shapes.fold(f64::INFINITY, f64::min)
        };
        if worst(at) > worst(self.linked.positions[vertex as usize]) {
            self.move_onto(vertex, at, near, reference);
        }
    }

    pub fn move_onto(
        &mut self,
        vertex: u32,
        at: DVec3,
        near: u32,
        reference: &ReferenceSurface<'_>,
    ) {
        let v = vertex as usize;
        self.near[v] = near;
        self.move_to(vertex, at);
        if let (Some(sizing), false) = (reference.sizing, self.sizing.is_empty()) {
            self.sizing[v] = sizing.at(reference.carried, near, self.linked.positions[v]);
        }
    }

    fn move_to(&mut self, vertex: u32, at: DVec3) -> bool {
        let is_sound = self.sound(vertex, None, at);
        if is_sound {
            self.linked.positions[vertex as usize] = at;
            self.source[vertex as usize] = NEW;
        }
        is_sound
    }

    fn along_surface(&self, vertex: u32, reference: &ReferenceSurface<'_>) -> Option<Goes> {
        let here = self.linked.positions[vertex as usize];
        let mut normal = DVec3::ZERO;
        let (mut sum, mut weight) = (DVec3::ZERO, 0.0);
        for (_, [_, x, y]) in self.linked.around(vertex) {
            let [p, q] = [x, y].map(|v| self.linked.positions[v as usize]);
            let area = (p - here).cross(q - here);
            normal += area;
            // The middle of the faces by area, against how large they should be: evens out
            // faces, not only edges.
            let mut share = area.length();
            if !self.sizing.is_empty() {
                let sizing = [vertex, x, y].map(|v| self.wanted_at(v));
                share /= sizing.iter().sum::<f64>().powi(2);
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
        self.onto_surface(vertex, moved, normal, reference)
    }

    /// The place on the model's surface where a vertex goes that was moved. `normal`: which way the
    /// faces at it look.
    pub fn onto_surface(
        &self,
        vertex: u32,
        moved: DVec3,
        normal: DVec3,
        reference: &ReferenceSurface<'_>,
    ) -> Option<Goes> {
        let looks_along = |found: &Closest, least: f64| {
            let there = reference.carried.normal(found.triangle);
            there.dot(normal) >= least * there.length() * normal.length()
        };
        let onto = |found: Closest| Goes::Onto {
            at: found.point,
            near: found.triangle,
        };
        let found = reference.closest(moved, self.near[vertex as usize])?;
        if looks_along(&found, LEAN) {
            return Some(onto(found));
        }
        // Beside a sharp edge the walk may have begun on the other side of it.
        let neighbours = self.linked.around(vertex).flat_map(|(_, [_, x, y])| [x, y]);
        let from_there = neighbours
            .filter_map(|other| reference.closest(moved, self.near[other as usize]))
            .filter(|found| looks_along(found, LEAN))
            .min_by(|a, b| a.distance_squared.total_cmp(&b.distance_squared));
        // But not to the other side of a thin wall.
        let any = from_there.or_else(|| Some(found).filter(|found| looks_along(found, 0.0)));
        any.map(onto)
    }

    /// Brings free vertices back that are not on the model's surface: those that were new, and on
    /// the borders of regions ever since. How many there were.
    pub fn bring_back(&mut self, reference: &ReferenceSurface<'_>) -> usize {
        let far = (1e-6 * self.edge).powi(2);
        let is_off = |v: u32| {
            let here = self.linked.positions[v as usize];
            let near = reference.linked.triangle(self.near[v as usize]);
            let off = near.is_some_and(|near| {
                let there = closest_on_triangle(here, reference.linked.points(near));
                there.distance_squared(here) > far
            });
            off && self.constraint(v) == VertexConstraint::Free
                && self.linked.around(v).next().is_some()
        };
        let off: Vec<u32> = chosen(self.linked.positions.len(), 16_384, |v| {
            is_off(v as u32).then_some(v as u32)
        });
        for &v in &off {
            let here = self.linked.positions[v as usize];
            let goes = self.onto_surface(v, here, self.facing(v), reference);
            if let Some(Goes::Onto { at, near }) = goes {
                self.move_onto(v, at, near, reference);
            }
        }
        off.len()
    }

    /// Half the way to the middle between its neighbours on the line.
    fn along_line(&self, vertex: u32) -> Option<Goes> {
        let neighbours = <[u32; 2]>::try_from(self.line_neighbours(vertex)).ok()?;
        let [p, q] = neighbours.map(|other| self.lines.get(vertex, other));
        let (p, q) = (p?, q?);
        let by = ((p.to - p.from) + (q.to - q.from)) / 4.0;
        (p.chain == q.chain && by != 0.0).then_some(Goes::Along { by, neighbours })
    }

    /// Moves a vertex along its line; whether it may.
    pub fn slide(
        &mut self,
        vertex: u32,
        by: f64,
        neighbours: [u32; 2],
        reference: &ReferenceSurface<'_>,
    ) -> bool {
        let Some(span) = self.lines.get(vertex, neighbours[0]) else {
            return false;
        };
        let at = reference.chains.at(span.chain, span.from + by);
        if !self.move_to(vertex, at) {
            return false;
        }
        for other in neighbours {
            if let Some(mut span) = self.lines.take(vertex, other) {
                span.from += by;
                self.lines.add(vertex, other, span);
            }
        }
        true
    }
}
