//! A triangle mesh that can be edited in place: decimation and remeshing work on it.
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
pub struct LinkedMesh {
    /// Where each vertex is.
    pub positions: Vec<DVec3>,
    corners: Vec<u32>,
    next_at_vertex: Vec<u32>,
    first_at_vertex: Vec<u32>,
    /// By vertex, how many corners its list has, dead ones too, and how many triangles are there.
    listed: Vec<u32>,
    degrees: Vec<u32>,
    living: usize,
}

impl LinkedMesh {
    /// A linked mesh of triangles. Those that repeat a vertex are dead from the start.
    pub fn new(positions: Vec<DVec3>, triangles: &[[VertexId; 3]]) -> Self {
        let mut net = Self {
            first_at_vertex: vec![NONE; positions.len()],
            listed: vec![0; positions.len()],
            degrees: vec![0; positions.len()],
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

    /// How many triangles are at a vertex.
    #[inline]
    pub fn degree(&self, vertex: u32) -> usize {
        self.degrees[vertex as usize] as usize
    }

    /// Whether so many triangles are at a vertex that to go through all of them for each that changes
    /// would take too long.
    #[inline]
    pub fn is_crowded(&self, vertex: u32) -> bool {
        self.degree(vertex) > CROWD
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
            self.listed[vertex as usize] += 1;
            self.degrees[vertex as usize] += 1;
        }
        self.living += 1;
        t
    }

    /// Adds a vertex without triangles.
    pub fn add_vertex(&mut self, position: DVec3) -> u32 {
        self.positions.push(position);
        self.first_at_vertex.push(NONE);
        self.listed.push(0);
        self.degrees.push(0);
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
        for vertex in vertices {
            self.degrees[vertex as usize] -= 1;
            self.tidy(vertex);
        }
    }

    /// Replaces a triangle's vertices. Cost: a look at every triangle at the old ones.
    pub fn replace(&mut self, t: u32, triangle: [u32; 3]) {
        let old = self.triangle(t).expect("the triangle is there");
        let at = t as usize * 3;
        self.corners[at..at + 3].fill(NONE);
        for vertex in old {
            self.degrees[vertex as usize] -= 1;
            self.unlink_dead(vertex);
        }
        for (i, vertex) in triangle.into_iter().enumerate() {
            self.listed[vertex as usize] += 1;
            self.degrees[vertex as usize] += 1;
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
        let mut moved = 0;
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
                    self.degrees[keep as usize] -= 1;
                    self.degrees[third as usize] -= 1;
                    match thirds[0] {
                        NONE => thirds[0] = third,
                        _ if thirds[1] == NONE => thirds[1] = third,
                        _ => self.tidy(third),
                    }
                } else {
                    moved += 1;
                    self.corners[corner as usize] = keep;
                    // Onto the list of those that stay, built from its end.
                    self.next_at_vertex[corner as usize] = last_living;
                    last_living = corner;
                }
            }
            corner = next;
        }
        self.first_at_vertex[gone as usize] = NONE;
        self.listed[gone as usize] = 0;
        self.degrees[gone as usize] = 0;
        self.tidy(keep);
        self.listed[keep as usize] += moved;
        self.degrees[keep as usize] += moved;
        // In front of what was at `keep` already.
        while last_living != NONE {
            let next = self.next_at_vertex[last_living as usize];
            self.next_at_vertex[last_living as usize] = self.first_at_vertex[keep as usize];
            self.first_at_vertex[keep as usize] = last_living;
            last_living = next;
        }
        for third in thirds {
            if third != NONE {
                self.tidy(third);
            }
        }
    }

    /// Unlinks dead corners from a vertex's list, where that is short or half of it is dead: to look
    /// through thousands for each triangle that goes would be quadratic. A walk round a vertex passes
    /// over those that are left.
    fn tidy(&mut self, vertex: u32) {
        let [listed, living] = [&self.listed, &self.degrees].map(|all| all[vertex as usize]);
        if listed <= SHORT || listed > 2 * living {
            self.unlink_dead(vertex);
        }
    }

    /// Unlinks all dead corners from a vertex's list.
    fn unlink_dead(&mut self, vertex: u32) {
        let mut corner = self.first_at_vertex[vertex as usize];
        let mut previous = NONE;
        while corner != NONE {
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
        self.listed[vertex as usize] = self.degrees[vertex as usize];
    }

    /// The living triangles that have both vertices, each turned so that the first of them is first.
    pub fn on_edge(&self, a: u32, b: u32) -> impl Iterator<Item = (u32, [u32; 3])> + '_ {
        let from_other = self.is_crowded(a) && self.degree(b) < self.degree(a);
        let (here, there) = if from_other { (b, a) } else { (a, b) };
        self.around(here).filter_map(move |(t, [first, x, y])| {
            let turned = match (x == there, y == there) {
                (false, false) => return None,
                _ if !from_other => [first, x, y],
                (true, _) => [x, y, first],
                _ => [y, first, x],
            };
            Some((t, turned))
        })
    }
}

/// Lists of this many corners are looked through for dead ones whenever a triangle goes.
const SHORT: u32 = 64;
/// More triangles at a vertex are a crowd.
const CROWD: usize = 256;

/// Walks over the triangles at a vertex.
#[derive(Clone)]
pub struct Around<'a> {
    net: &'a LinkedMesh,
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

    fn net() -> LinkedMesh {
        let sphere = shapes::sphere(1.0, 1);
        let triangles: Vec<_> = sphere.faces().map(|(_, f)| [f[0], f[1], f[2]]).collect();
        LinkedMesh::new(sphere.positions().to_vec(), &triangles)
    }

    fn consistent(net: &LinkedMesh) {
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
        assert!((0..42).all(|v| net.degree(v) == net.around(v).count()));
        let (t, [a, b, c]) = (0..80u32)
            .find_map(|t| net.triangle(t).map(|there| (t, there)))
            .unwrap();
        net.replace(t, [b, a, c]);
        consistent(&net);
        net.remove(t);
        consistent(&net);
    }

    #[test]
    fn a_crowd_is_walked_from_its_other_end() {
        // A fan of triangles at vertex 0, of which one after the other goes.
        let count = 2_000;
        let fan: Vec<_> = (1..count).map(|i| [0, i, i + 1].map(VertexId)).collect();
        let mut net = LinkedMesh::new(vec![DVec3::ZERO; count as usize + 1], &fan);
        assert!(net.is_crowded(0) && !net.is_crowded(1));
        let all = |net: &LinkedMesh, a: u32, b: u32| {
            let around = net.around(a).filter(|(_, [_, x, y])| *x == b || *y == b);
            around.collect::<Vec<_>>()
        };
        for i in (1..count - 600).step_by(2) {
            let mut on_edge: Vec<_> = net.on_edge(0, i).collect();
            let mut expected = all(&net, 0, i);
            on_edge.sort_unstable();
            expected.sort_unstable();
            assert_eq!(on_edge, expected);
            net.collapse(0, i);
            assert_eq!(net.degree(0), net.around(0).count());
            // No more is listed than twice what is there.
            assert!(net.listed[0] as usize <= 2 * net.degree(0));
        }
        consistent(&net);
    }
}
