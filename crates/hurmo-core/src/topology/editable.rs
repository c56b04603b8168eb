//! A triangle mesh that can be edited in place: the ground of decimation and remeshing.
//!
//! Three corners a triangle, and for every vertex a linked list of the corners at it. That
//! holds any input, non-manifold too, in 28 bytes a triangle, and every edit touches only the
//! triangles round one edge. A triangle that is gone keeps its place with its corners marked;
//! its corners are unlinked when their lists are next tidied.

use crate::mesh::VertexId;
use glam::DVec3;

const NONE: u32 = u32::MAX;

/// Triangles over shared vertices, with the triangles round each vertex.
#[derive(Clone, Debug)]
pub struct TriangleNet {
    /// Where each vertex is.
    pub positions: Vec<DVec3>,
    corners: Vec<u32>,
    next_at_vertex: Vec<u32>,
    first_at_vertex: Vec<u32>,
    living: usize,
}

impl TriangleNet {
    /// A net of triangles. Those that repeat a vertex are dead from the start.
    pub fn new(positions: Vec<DVec3>, triangles: &[[VertexId; 3]]) -> Self {
        let mut net = Self {
            first_at_vertex: vec![NONE; positions.len()],
            positions,
            corners: Vec::with_capacity(triangles.len() * 3),
            next_at_vertex: Vec::with_capacity(triangles.len() * 3),
            living: 0,
        };
        for triangle in triangles {
            net.add(triangle.map(|v| v.0));
        }
        net
    }

    /// How many triangles are there.
    pub fn living(&self) -> usize {
        self.living
    }

    /// How many places for triangles there are, dead ones too.
    pub fn places(&self) -> usize {
        self.corners.len() / 3
    }

    /// The vertices of a triangle; `None` if it is gone.
    #[inline]
    pub fn triangle(&self, t: u32) -> Option<[u32; 3]> {
        let at = t as usize * 3;
        let corners = [self.corners[at], self.corners[at + 1], self.corners[at + 2]];
        (corners[0] != NONE).then_some(corners)
    }

    /// The corners of a triangle's vertices.
    #[inline]
    pub fn points(&self, triangle: [u32; 3]) -> [DVec3; 3] {
        triangle.map(|v| self.positions[v as usize])
    }

    /// The living triangles at a vertex, each with its vertices turned so that this one is
    /// first.
    #[inline]
    pub fn around(&self, vertex: u32) -> Around<'_> {
        Around {
            net: self,
            vertex,
            corner: self.first_at_vertex[vertex as usize],
        }
    }

    /// The corners at a vertex, each with its triangle's vertices turned so that this one is
    /// first. Corner `i` of triangle `t` is `3t + i`, as long as the triangle is there.
    #[inline]
    pub fn corners_at(&self, vertex: u32) -> impl Iterator<Item = (u32, [u32; 3])> + '_ {
        let mut around = self.around(vertex);
        std::iter::from_fn(move || {
            let corner = around.corner;
            around.next().map(|(_, triangle)| (corner, triangle))
        })
    }

    /// Adds a triangle and returns its place.
    pub fn add(&mut self, triangle: [u32; 3]) -> u32 {
        let t = (self.corners.len() / 3) as u32;
        let [a, b, c] = triangle;
        if a == b || b == c || c == a {
            self.corners.extend([NONE; 3]);
            self.next_at_vertex.extend([NONE; 3]);
            return t;
        }
        for vertex in triangle {
            self.next_at_vertex
                .push(self.first_at_vertex[vertex as usize]);
            self.first_at_vertex[vertex as usize] = self.corners.len() as u32;
            self.corners.push(vertex);
        }
        self.living += 1;
        t
    }

    /// Adds a vertex without triangles.
    pub fn add_vertex(&mut self, position: DVec3) -> u32 {
        self.positions.push(position);
        self.first_at_vertex.push(NONE);
        self.positions.len() as u32 - 1
    }

    /// Takes a triangle away.
    pub fn remove(&mut self, t: u32) {
        let Some(vertices) = self.triangle(t) else {
            return;
        };
        let at = t as usize * 3;
        self.corners[at..at + 3].fill(NONE);
        self.living -= 1;
        vertices.iter().for_each(|&v| self.tidy_some(v));
    }

    /// Replaces a triangle's vertices.
    pub fn replace(&mut self, t: u32, triangle: [u32; 3]) {
        let old = self.triangle(t).expect("the triangle is there");
        let at = t as usize * 3;
        self.corners[at..at + 3].fill(NONE);
        old.iter().for_each(|&v| self.tidy(v));
        for (i, vertex) in triangle.into_iter().enumerate() {
            self.corners[at + i] = vertex;
            self.next_at_vertex[at + i] = self.first_at_vertex[vertex as usize];
            self.first_at_vertex[vertex as usize] = (at + i) as u32;
        }
    }

    /// Makes one vertex of two: the triangles on the edge between them go, those at `gone`
    /// pass to `keep`. `gone` is left without triangles.
    pub fn collapse(&mut self, keep: u32, gone: u32) {
        let mut corner = self.first_at_vertex[gone as usize];
        let mut last_living = NONE;
        let mut thirds = [NONE; 2];
        while corner != NONE {
            let next = self.next_at_vertex[corner as usize];
            if self.corners[corner as usize] == gone {
                let at = corner as usize / 3 * 3;
                let triangle = &mut self.corners[at..at + 3];
                if triangle.contains(&keep) {
                    let third = triangle.iter().find(|&&v| v != keep && v != gone);
                    let third = *third.expect("three different vertices");
                    triangle.fill(NONE);
                    self.living -= 1;
                    match thirds[0] {
                        NONE => thirds[0] = third,
                        _ if thirds[1] == NONE => thirds[1] = third,
                        _ => self.tidy_some(third),
                    }
                } else {
                    self.corners[corner as usize] = keep;
                    // Onto the list of those that stay, built from its end.
                    self.next_at_vertex[corner as usize] = last_living;
                    last_living = corner;
                }
            }
            corner = next;
        }
        self.first_at_vertex[gone as usize] = NONE;
        self.tidy_some(keep);
        // In front of what was at `keep` already.
        while last_living != NONE {
            let next = self.next_at_vertex[last_living as usize];
            self.next_at_vertex[last_living as usize] = self.first_at_vertex[keep as usize];
            self.first_at_vertex[keep as usize] = last_living;
            last_living = next;
        }
        for third in thirds {
            if third != NONE {
                self.tidy_some(third);
            }
        }
    }

    /// Unlinks dead corners from the front of a vertex's list. Those further back stay: a walk round a
    /// vertex passes over them, and to look through thousands for each triangle that goes would be
    /// quadratic.
    fn tidy_some(&mut self, vertex: u32) {
        self.tidy_first(vertex, MOST_TIDIED);
    }

    /// Unlinks dead corners from a vertex's list.
    fn tidy(&mut self, vertex: u32) {
        self.tidy_first(vertex, usize::MAX);
    }

    fn tidy_first(&mut self, vertex: u32, mut most: usize) {
        let mut corner = self.first_at_vertex[vertex as usize];
        let mut previous = NONE;
        while corner != NONE && most > 0 {
            most -= 1;
            let next = self.next_at_vertex[corner as usize];
            if self.corners[corner as usize] == vertex {
                previous = corner;
            } else if previous == NONE {
                self.first_at_vertex[vertex as usize] = next;
            } else {
                self.next_at_vertex[previous as usize] = next;
            }
            corner = next;
        }
    }

    /// The living triangles that have both vertices.
    pub fn on_edge(&self, a: u32, b: u32) -> impl Iterator<Item = (u32, [u32; 3])> + '_ {
        self.around(a)
            .filter(move |(_, [_, x, y])| *x == b || *y == b)
    }
}

/// How many corners of a vertex's list are looked through for dead ones.
const MOST_TIDIED: usize = 64;

/// Walks over the triangles at a vertex.
#[derive(Clone)]
pub struct Around<'a> {
    net: &'a TriangleNet,
    vertex: u32,
    corner: u32,
}

impl Iterator for Around<'_> {
    type Item = (u32, [u32; 3]);

    #[inline]
    fn next(&mut self) -> Option<Self::Item> {
        let corner = loop {
            if self.corner == NONE {
                return None;
            }
            let corner = self.corner as usize;
            self.corner = self.net.next_at_vertex[corner];
            if self.net.corners[corner] == self.vertex {
                break corner;
            }
        };
        let t = corner / 3;
        let [a, b, c] = [0, 1, 2].map(|i| self.net.corners[t * 3 + i]);
        let turned = match corner % 3 {
            0 => [a, b, c],
            1 => [b, c, a],
            _ => [c, a, b],
        };
        Some((t as u32, turned))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;

    fn net() -> TriangleNet {
        let sphere = shapes::sphere(1.0, 1);
        let triangles: Vec<_> = sphere.faces().map(|(_, f)| [f[0], f[1], f[2]]).collect();
        TriangleNet::new(sphere.positions().to_vec(), &triangles)
    }

    fn consistent(net: &TriangleNet) {
        let mut seen = 0;
        for vertex in 0..net.positions.len() as u32 {
            for (t, turned) in net.around(vertex) {
                assert_eq!(turned[0], vertex);
                assert!(net.triangle(t).is_some_and(|there| there.contains(&vertex)));
                seen += 1;
            }
        }
        assert_eq!(seen, net.living() * 3);
    }

    #[test]
    fn edits_keep_the_lists_right() {
        let mut net = net();
        consistent(&net);
        for _ in 0..20 {
            let (keep, gone) = (0..net.positions.len() as u32)
                .find_map(|v| net.around(v).next().map(|(_, [a, b, _])| (a, b)))
                .unwrap();
            net.collapse(keep, gone);
            consistent(&net);
            assert_eq!(net.around(gone).count(), 0);
        }
        let (t, [a, b, c]) = (0..80u32)
            .find_map(|t| net.triangle(t).map(|there| (t, there)))
            .unwrap();
        net.replace(t, [b, a, c]);
        consistent(&net);
        net.remove(t);
        consistent(&net);
    }
}
