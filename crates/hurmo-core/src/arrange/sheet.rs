//! Triangles that lie in one plane, cut up along all that meets them.

use super::constructions::{Exact, Inputs, Made, Near, Plane, exact_turn, near_turn};
use super::planar::{Planar, Sheet};
use super::points::Points;
use super::view::View;
use crate::spatial::along_curve;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;
use std::cell::OnceCell;
use std::cmp::Ordering::{self, Equal, Less};

/// What lies in a sheet: its triangles, points in them, and segments between such points.
pub(super) struct Content<'a> {
    /// More than one only where they overlap or touch in one plane.
    pub triangles: &'a [u32],
    /// By number; corners need not be named.
    pub points: Vec<u32>,
    pub segments: Vec<(u32, u32, Plane)>,
}

/// A sheet that was cut up.
#[derive(Default)]
pub(super) struct CutUp {
    /// What the points were made of.
    pub points: Vec<Made>,
    /// Triangles over these points, anticlockwise as the sheet is looked at.
    pub pieces: Vec<[u32; 3]>,
    /// Of which triangles a piece is, and whether these run the other way round.
    pub of: Vec<Vec<(u32, bool)>>,
}

struct Node {
    made: Option<Made>,
    near: Near,
    exact: OnceCell<Exact>,
    /// Planes across the sheet that it is known to lie on.
    on: SmallVec<[Plane; 2]>,
}

impl Node {
    fn new(made: Option<Made>, near: Near) -> Self {
        Self {
            made,
            near,
            exact: OnceCell::new(),
            on: SmallVec::new(),
        }
    }

    /// Whether three nodes lie on one line since they were made on it.
    fn are_on_one_line([a, b, c]: [&Self; 3]) -> bool {
        let is_on_all = |plane| b.on.contains(plane) && c.on.contains(plane);
        a.on.iter().any(is_on_all)
    }
}

struct Face<'a> {
    inputs: &'a Inputs<'a>,
    plane: Plane,
    view: View,
    nodes: Vec<Node>,
}

impl Sheet for Face<'_> {
    type Line = Plane;

    fn turn(&self, a: u32, b: u32, c: u32) -> Ordering {
        let nodes = [a, b, c].map(|v| &self.nodes[v as usize]);
        let near = near_turn(nodes.map(|node| &node.near), self.axes());
        let exact = || exact_turn(nodes.map(|node| self.exact(node)), self.axes());
        near.unwrap_or_else(|| {
            if Node::are_on_one_line(nodes) {
                debug_assert_eq!(exact(), Equal, "they were made on one line");
                return Equal;
            }
            exact()
        })
    }

    fn crossing(&mut self, one: Plane, other: Plane) -> u32 {
        let mut planes = [self.plane, one, other];
        planes.sort_unstable();
        let made = Made::OfPlanes(planes);
        let node = self.add(made, self.inputs.near(&made));
        self.lies_on(node, one);
        self.lies_on(node, other);
        node
    }

    fn position(&self, point: u32) -> DVec3 {
        DVec3::from_array(self.nodes[point as usize].near.map(|x| x.middle))
    }
}

impl<'a> Face<'a> {
    fn new(inputs: &'a Inputs<'a>, triangle: u32) -> Self {
        Self {
            inputs,
            plane: Plane::Of(triangle),
            view: View::of(inputs, triangle),
            nodes: Vec::new(),
        }
    }

    /// The axes in which its first triangle runs anticlockwise.
    fn axes(&self) -> [usize; 2] {
        self.view.axes_from_front()
    }

    fn add(&mut self, made: Made, near: Near) -> u32 {
        self.nodes.push(Node::new(Some(made), near));
        self.nodes.len() as u32 - 1
    }

    /// The plane across the sheet along an edge of one of its triangles.
    fn along(&self, mut edge: [u32; 2]) -> Plane {
        edge.sort_unstable();
        let axis = self.view.up as u8;
        Plane::Upright { edge, axis }
    }

    /// Notes that a node lies on a plane across the sheet.
    fn lies_on(&mut self, node: u32, plane: Plane) {
        if plane != self.plane {
            self.nodes[node as usize].on.push(plane);
        }
    }

    fn add_vertex(&mut self, vertex: u32) -> u32 {
        let made = Made::Vertex(vertex);
        self.add(made, self.inputs.near(&made))
    }

    fn exact<'n>(&self, node: &'n Node) -> &'n Exact {
        node.exact.get_or_init(|| match &node.made {
            Some(made) => self.inputs.exact(made),
            None => self.inputs.exact_place(self.middle(node)),
        })
    }

    fn middle(&self, node: &Node) -> DVec3 {
        DVec3::from_array(node.near.map(|x| x.middle))
    }

    /// Three corners of a triangle far round all nodes.
    fn surround(&mut self) -> [u32; 3] {
        let [i, j] = self.axes();
        let each = |axis: usize| self.nodes.iter().map(move |node| node.near[axis].middle);
        let low = [i, j].map(|axis| each(axis).fold(f64::INFINITY, f64::min));
        let high = [i, j].map(|axis| each(axis).fold(f64::NEG_INFINITY, f64::max));
        let size = (high[0] - low[0]).max(high[1] - low[1]);
        let at = |x: f64, y: f64| {
            let mut place = [0.0; 3];
            (place[i], place[j]) = (x, y);
            DVec3::from_array(place)
        };
        let far = 4.0 * size;
        [
            at(low[0] - far, low[1] - far),
            at(high[0] + 2.0 * far, low[1] - far),
            at(low[0] - far, high[1] + 2.0 * far),
        ]
        .map(|place| {
            let near = place.to_array().map(super::ball::Ball::exactly);
            self.nodes.push(Node::new(None, near));
            self.nodes.len() as u32 - 1
        })
    }
}

/// Cuts a sheet up.
pub(super) fn cut_up(inputs: &Inputs<'_>, points: &Points, content: &Content<'_>) -> CutUp {
    let mut face = Face::new(inputs, content.triangles[0]);
    let mut own: FxHashMap<u32, u32> = FxHashMap::default();
    let mut corners = Vec::new();
    for &triangle in content.triangles {
        corners.push(
            inputs.triangles[triangle as usize]
                .map(|v| *own.entry(v).or_insert_with(|| face.add_vertex(v))),
        );
    }
    let first_point = face.nodes.len() as u32;
    for &id in &content.points {
        let add = || face.add(points.made(id), points.near(inputs, id));
        own.entry(id).or_insert_with(add);
    }
    note_lines(&mut face, &own, content);
    let (mut planar, waiting) = match &corners[..] {
        // The sides are fixed already: nothing reaches beyond them.
        [only] => {
            let waiting = first_point..face.nodes.len() as u32;
            let side = Some(face.plane);
            (Planar::new(face, *only, [side; 3]), waiting)
        }
        _ => {
            let waiting = 0..face.nodes.len() as u32;
            let round = face.surround();
            (Planar::new(face, round, [None; 3]), waiting)
        }
    };
    for node in in_order(&planar.sheet, waiting) {
        planar.insert(node);
    }
    if corners.len() > 1 {
        for (corners, &triangle) in corners.iter().zip(content.triangles) {
            let vertices = inputs.triangles[triangle as usize];
            for i in 0..3 {
                let k = (i + 1) % 3;
                let along = planar.sheet.along([vertices[i], vertices[k]]);
                planar.connect(corners[i], corners[k], along);
            }
        }
    }
    for &(from, to, plane) in &content.segments {
        planar.connect(own[&from], own[&to], plane);
    }
    planar.even();
    let of = match &corners[..] {
        [_] => vec![vec![(content.triangles[0], false)]; planar.triangles().len()],
        _ => covered(&planar, content.triangles, &corners),
    };
    let mut cut = CutUp::default();
    for (&piece, of) in planar.triangles().iter().zip(of) {
        if !of.is_empty() {
            cut.pieces.push(piece);
            cut.of.push(of);
        }
    }
    // What surrounds a sheet has no pieces, so that nobody asks what it was made of.
    let made = |node: &Node| node.made.unwrap_or(Made::Vertex(0));
    cut.points = planar.sheet.nodes.iter().map(made).collect();
    cut
}

/// Notes for every node the lines that it was made on: sides of the sheet's triangles, and segments. Most
/// turns that balls leave open are of three nodes on one such line.
fn note_lines(face: &mut Face<'_>, own: &FxHashMap<u32, u32>, content: &Content<'_>) {
    let mut sides: SmallVec<[[u32; 2]; 3]> = SmallVec::new();
    for &triangle in content.triangles {
        let [a, b, c] = face.inputs.triangles[triangle as usize];
        sides.extend([[a, b], [b, c], [c, a]].map(|[a, b]| [a.min(b), a.max(b)]));
    }
    sides.sort_unstable();
    sides.dedup();
    for &side in &sides {
        let along = face.along(side);
        side.iter().for_each(|v| face.lies_on(own[v], along));
    }
    for node in 0..face.nodes.len() as u32 {
        if let Some(Made::OnEdge { edge, .. }) = face.nodes[node as usize].made
            && sides.binary_search(&edge).is_ok()
        {
            face.lies_on(node, face.along(edge));
        }
    }
    for (from, to, plane) in &content.segments {
        [from, to]
            .iter()
            .for_each(|id| face.lies_on(own[*id], *plane));
    }
}

/// Nodes along a curve, so that each lies near the one before.
fn in_order(face: &Face<'_>, nodes: std::ops::Range<u32>) -> Vec<u32> {
    let place = |node: u32| face.position(node);
    let all = || nodes.clone().map(place);
    let low = all().fold(DVec3::INFINITY, DVec3::min);
    let size = (all().fold(DVec3::NEG_INFINITY, DVec3::max) - low).max_element();
    let scale = if size > 0.0 { 2e6 / size } else { 0.0 };
    let mut nodes: Vec<u32> = nodes.clone().collect();
    nodes.sort_by_key(|&node| along_curve((place(node) - low) * scale));
    nodes
}

/// For each piece, of which triangles it is: all that their sides enclose.
fn covered(
    planar: &Planar<Face<'_>>,
    triangles: &[u32],
    corners: &[[u32; 3]],
) -> Vec<Vec<(u32, bool)>> {
    let mut of = vec![Vec::new(); planar.triangles().len()];
    for (&triangle, &[a, b, c]) in triangles.iter().zip(corners) {
        let turned = planar.sheet.turn(a, b, c) == Less;
        let [a, b, c] = if turned { [a, c, b] } else { [a, b, c] };
        let mut border: FxHashSet<(usize, usize)> = FxHashSet::default();
        let mut waiting = Vec::new();
        for (from, to) in [(a, b), (b, c), (c, a)] {
            for (piece, side) in planar.along(from, to) {
                border.insert((piece, side));
                waiting.push(piece);
            }
        }
        while let Some(piece) = waiting.pop() {
            if of[piece].last() == Some(&(triangle, turned)) {
                continue;
            }
            of[piece].push((triangle, turned));
            let inward = (0..3).filter(|&side| !border.contains(&(piece, side)));
            waiting.extend(inward.filter_map(|side| planar.beyond(piece, side)));
        }
    }
    of
}
