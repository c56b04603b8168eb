//! What surrounds a vertex: the planes that it is to stay near, and which way it may move.

use super::feature_weights::{FeatureWeights, Weight};
use super::links::{LinkEnd, Links, distinct_thirds, runs_both_ways};
use super::quadric::Quadric;
use super::wedges::Wedges;
use crate::mirror::Mirror;
use crate::topology::LinkedMesh;
use glam::DVec3;
use smallvec::SmallVec;

/// A line that turns by less (cosine) runs straight.
const STRAIGHT: f64 = 0.999_8;
/// How much more a border weighs than the surface along it.
const BORDER_WEIGHT: f64 = 10.0;
/// And a line inside the surface: a UV seam, a border of groups, a hard edge.
const LINE_WEIGHT: f64 = 1.0;
/// What surrounds a vertex.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub(super) enum VertexClass {
    /// One closed fan.
    Inside,
    /// One closed fan that a line runs through.
    Line,
    /// One open fan that ends where a half does.
    Cut,
    /// One open fan.
    Border,
    /// Sheets that meet along one line which runs through here.
    Seam,
    /// Lines meet or end here, or sheets touch.
    Meeting,
    /// What lines of its own weight says stays in place: others may become one with it.
    Kept,
    /// Not to be touched.
    Held,
}

/// One end of an edge at a vertex, as a triangle there has it.
struct Spoke {
    link: LinkEnd,
    normal: DVec3,
    triangle: u32,
    /// The wedges at the vertex and at the other end.
    wedges: [u32; 2],
}

/// What a vertex's surroundings depend on.
pub(super) struct ClassContext<'a> {
    pub linked: &'a LinkedMesh,
    pub wedges: Option<&'a Wedges>,
    pub weights: &'a FeatureWeights,
    /// By triangle, of which face it is.
    pub face: &'a (dyn Fn(u32) -> usize + Sync),
    /// By face, of which group and material it is.
    pub tags: &'a [u32],
    /// What places are measured from.
    pub centre: DVec3,
    /// Where a half ends: what lies on it is no border of the whole.
    pub mirror: Option<Mirror>,
}

impl ClassContext<'_> {
    fn is_on_mirror(&self, points: [DVec3; 2]) -> bool {
        let mirror = self.mirror;
        mirror.is_some_and(|mirror| points.into_iter().all(|point| mirror.holds(point)))
    }

    /// How much an edge matters as a line; none if it is none.
    fn line(&self, edge: &[Spoke]) -> Option<(Line, Weight)> {
        let links: SmallVec<[LinkEnd; 4]> = edge.iter().map(|spoke| spoke.link).collect();
        let thirds = distinct_thirds(&links);
        match edge {
            [_] => Some((Line::Border, self.weights.rims)),
            [one, two] if thirds.len() == 2 && one.link.out != two.link.out => {
                let tag = |spoke: &Spoke| self.tags.get((self.face)(spoke.triangle));
                let sharp = self.weights.crease.to_radians().cos();
                if let Some(wedges) = self.wedges.filter(|_| one.wedges != two.wedges) {
                    let weights = self.weights;
                    let ends = one.wedges.into_iter().zip(two.wedges);
                    let mut ends = ends.map(|(one, two)| wedges.are_cracked(one, two));
                    let weight = match tag(one) != tag(two) {
                        _ if ends.any(|cracked| cracked) => weights.rims,
                        true => weights.groups,
                        false => weights.seams,
                    };
                    Some((Line::Inside, weight))
                } else if one.normal.dot(two.normal) < sharp {
                    self.weights.creases.map(|weight| (Line::Crease, weight))
                } else {
                    None
                }
            }
            // Triangles on the same vertices, and besides them those of one sheet.
            _ if thirds.len() == 2 && runs_both_ways(&links) => None,
            _ => Some((Line::Meeting, Weight::USUAL)),
        }
    }
}

/// What kind of line an edge is.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Line {
    Border,
    Inside,
    Crease,
    Meeting,
}

/// A vertex's quadric, and what surrounds it.
pub(super) fn surroundings(context: &ClassContext<'_>, vertex: u32) -> (Quadric, VertexClass) {
    let ClassContext {
        linked,
        wedges,
        centre,
        ..
    } = *context;
    let mut quadric = Quadric::default();
    let mut spokes: Vec<Spoke> = Vec::with_capacity(16);
    let here = linked.positions[vertex as usize];
    for (corner, [_, x, y]) in linked.corners_at(vertex) {
        let [p, q] = [x, y].map(|v| linked.positions[v as usize]);
        let area = (p - here).cross(q - here) / 2.0;
        let normal = area.normalize_or_zero();
        let triangle = corner / 3;
        let weight = area.length() * context.weights.of_face((context.face)(triangle));
        quadric += Quadric::plane(normal, here - centre, weight);
        let of_places = context.weights.of_places();
        if of_places > 0.0 {
            quadric += Quadric::place(here - centre, weight * of_places);
        }
        let own = wedges.map_or([0; 3], |wedges| wedges.of_triangle(corner));
        for (other, third, out, wedge) in [(x, y, true, own[1]), (y, x, false, own[2])] {
            spokes.push(Spoke {
                link: LinkEnd { other, third, out },
                normal,
                triangle,
                wedges: [own[0], wedge],
            });
        }
    }
    spokes.sort_unstable_by_key(|spoke| spoke.link);
    let (mut borders, mut cuts, mut lines) = (0, 0, 0);
    let mut kept: Vec<DVec3> = Vec::new();
    for edge in spokes.chunk_by(|a, b| a.link.other == b.link.other) {
        let Some((line, weights)) = context.line(edge) else {
            continue;
        };
        lines += usize::from(line == Line::Inside);
        borders += usize::from(line == Line::Border);
        let ends = [here, linked.positions[edge[0].link.other as usize]];
        if line == Line::Border && context.is_on_mirror(ends) {
            cuts += 1;
            continue;
        }
        // A wall on the edge, square to the face.
        let along = linked.positions[edge[0].link.other as usize] - here;
        if weights.is_all() {
            kept.push(along.normalize_or_zero());
        }
        let usual = match line {
            Line::Border | Line::Meeting => BORDER_WEIGHT,
            Line::Inside | Line::Crease => LINE_WEIGHT,
        };
        let weight = usual * weights.times() * along.length_squared();
        for spoke in edge.iter().filter(|_| weight > 0.0) {
            let wall = along.cross(spoke.normal).normalize_or_zero();
            let focus = context.weights.of_face((context.face)(spoke.triangle));
            quadric += Quadric::plane(wall, here - centre, weight * focus);
        }
    }
    let turns = match kept[..] {
        [] => false,
        [one, two] => one.dot(two) > -STRAIGHT,
        _ => true,
    };
    let links = Links::of(spokes.iter().map(|spoke| spoke.link).collect());
    let kind = match (links, cuts, lines) {
        _ if turns => VertexClass::Kept,
        (Links::Ring, 0, 0) => VertexClass::Inside,
        (Links::Ring, 0, 2) if parted_in_two(&spokes) => VertexClass::Line,
        (Links::Ring, 0, _) => VertexClass::Kept,
        (Links::Path, 2, 0) if borders == cuts => VertexClass::Cut,
        (Links::Path, 0, 0) => VertexClass::Border,
        (Links::Path, _, _) => VertexClass::Kept,
        (Links::Book, 0, 0) => VertexClass::Seam,
        _ => VertexClass::Meeting,
    };
    (quadric, kind)
}

/// Whether there are just two wedges at a vertex.
fn parted_in_two(spokes: &[Spoke]) -> bool {
    let first = spokes[0].wedges[0];
    let mut others = spokes
        .iter()
        .map(|spoke| spoke.wedges[0])
        .filter(|&wedge| wedge != first);
    let second = others.next();
    second.is_some_and(|second| others.all(|wedge| wedge == second))
}
