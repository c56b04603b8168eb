//! What surrounds a vertex: the planes that it is to stay near, and which way it may move.

use super::care::{Care, Weight};
use super::quadric::Quadric;
use super::wedges::Wedges;
use crate::mirror::Mirror;
use crate::topology::TriangleNet;
use glam::DVec3;

/// A line that turns by less (cosine) runs straight.
const STRAIGHT: f64 = 0.999_8;
/// How much more a border weighs than the surface along it.
const BORDER_WEIGHT: f64 = 10.0;
/// And a line inside the surface: a UV seam, a border of groups, a hard edge.
const LINE_WEIGHT: f64 = 1.0;
/// What surrounds a vertex.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub(super) enum Kind {
    /// One closed fan.
    Inside,
    /// One closed fan that a line runs through.
    Line,
    /// One open fan that ends where a half does.
    Cut,
    /// One open fan.
    Border,
    /// Anything else: sheets meet here.
    Meeting,
    /// Not to be touched.
    Held,
}

/// One end of an edge at a vertex, as a triangle there has it.
struct Spoke {
    other: u32,
    /// Whether the triangle runs out along it.
    out: bool,
    normal: DVec3,
    triangle: u32,
    /// The wedges at the vertex and at the other end.
    wedges: [u32; 2],
}

/// What a vertex's surroundings depend on.
pub(super) struct Ground<'a> {
    pub net: &'a TriangleNet,
    pub wedges: Option<&'a Wedges>,
    pub care: &'a Care,
    /// By triangle, of which face it is.
    pub face: &'a (dyn Fn(u32) -> usize + Sync),
    /// By face, of which group and material it is.
    pub tags: &'a [u32],
    /// What places are measured from.
    pub centre: DVec3,
    /// Where a half ends: what lies on it is no border of the whole.
    pub mirror: Option<Mirror>,
}

impl Ground<'_> {
    fn is_on_mirror(&self, points: [DVec3; 2]) -> bool {
        let mirror = self.mirror;
        mirror.is_some_and(|mirror| points.into_iter().all(|point| mirror.holds(point)))
    }

    /// How much an edge matters as a line; none if it is none.
    fn line(&self, edge: &[Spoke]) -> Option<(Line, Weight)> {
        match edge {
            [_] => Some((Line::Border, self.care.rims)),
            [one, two] if one.out != two.out => {
                let tag = |spoke: &Spoke| self.tags.get((self.face)(spoke.triangle));
                let sharp = self.care.crease.to_radians().cos();
                if one.wedges != two.wedges {
                    let care = self.care;
                    let parts = tag(one) != tag(two);
                    Some((Line::Inside, if parts { care.groups } else { care.seams }))
                } else if one.normal.dot(two.normal) < sharp {
                    self.care.creases.map(|weight| (Line::Crease, weight))
                } else {
                    None
                }
            }
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
pub(super) fn surroundings(ground: &Ground<'_>, vertex: u32) -> (Quadric, Kind) {
    let Ground {
        net,
        wedges,
        centre,
        ..
    } = *ground;
    let mut quadric = Quadric::default();
    let mut spokes: Vec<Spoke> = Vec::with_capacity(16);
    let mut leaves: Vec<(u32, u32)> = Vec::with_capacity(8);
    let here = net.positions[vertex as usize];
    for (corner, [_, x, y]) in net.corners_at(vertex) {
        let [p, q] = [x, y].map(|v| net.positions[v as usize]);
        let area = (p - here).cross(q - here) / 2.0;
        let normal = area.normalize_or_zero();
        let triangle = corner / 3;
        let weight = area.length() * ground.care.of_face((ground.face)(triangle));
        quadric += Quadric::plane(normal, here - centre, weight);
        let of_places = ground.care.of_places();
        if of_places > 0.0 {
            quadric += Quadric::place(here - centre, weight * of_places);
        }
        leaves.push((x, y));
        let own = wedges.map_or([0; 3], |wedges| wedges.of_triangle(corner));
        for (other, out, wedge) in [(x, true, own[1]), (y, false, own[2])] {
            spokes.push(Spoke {
                other,
                out,
                normal,
                triangle,
                wedges: [own[0], wedge],
            });
        }
    }
    spokes.sort_unstable_by_key(|spoke| (spoke.other, spoke.out));
    let (mut borders, mut cuts, mut lines, mut many) = (0, 0, 0, false);
    let mut kept: Vec<DVec3> = Vec::new();
    for edge in spokes.chunk_by(|a, b| a.other == b.other) {
        let Some((line, care)) = ground.line(edge) else {
            continue;
        };
        lines += usize::from(line == Line::Inside);
        borders += usize::from(line == Line::Border);
        many |= line == Line::Meeting;
        let ends = [here, net.positions[edge[0].other as usize]];
        if line == Line::Border && ground.is_on_mirror(ends) {
            cuts += 1;
            continue;
        }
        // A wall on the edge, square to the face.
        let along = net.positions[edge[0].other as usize] - here;
        if care.is_all() {
            kept.push(along.normalize_or_zero());
        }
        let usual = match line {
            Line::Border | Line::Meeting => BORDER_WEIGHT,
            Line::Inside | Line::Crease => LINE_WEIGHT,
        };
        let weight = usual * care.times() * along.length_squared();
        for spoke in edge.iter().filter(|_| weight > 0.0) {
            let wall = along.cross(spoke.normal).normalize_or_zero();
            let focus = ground.care.of_face((ground.face)(spoke.triangle));
            quadric += Quadric::plane(wall, here - centre, weight * focus);
        }
    }
    let turns = match kept[..] {
        [] => false,
        [one, two] => one.dot(two) > -STRAIGHT,
        _ => true,
    };
    let is_one = |leaves: &mut [(u32, u32)]| is_one_fan(&spokes, leaves);
    let kind = match (many, borders - cuts, lines) {
        _ if leaves.is_empty() || turns => Kind::Meeting,
        (false, 0, 0) if cuts == 0 && is_one(&mut leaves) => Kind::Inside,
        (false, 0, 0) if cuts == 2 && is_one(&mut leaves) => Kind::Cut,
        _ if cuts > 0 => Kind::Meeting,
        (false, 0, 2) if parted_in_two(&spokes) && is_one(&mut leaves) => Kind::Line,
        (false, 2, 0) if is_one(&mut leaves) => Kind::Border,
        _ => Kind::Meeting,
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

/// Whether the triangles at a vertex form one fan: walking from one to the next across their
/// shared edges meets them all.
fn is_one_fan(spokes: &[Spoke], leaves: &mut [(u32, u32)]) -> bool {
    leaves.sort_unstable();
    // An open fan begins at the spoke that no triangle reaches.
    let first = spokes
        .chunk_by(|a, b| a.other == b.other)
        .find(|edge| edge.len() == 1 && edge[0].out)
        .map_or(leaves[0].0, |edge| edge[0].other);
    let mut here = first;
    for met in 1..=leaves.len() {
        let Ok(i) = leaves.binary_search_by_key(&here, |leaf| leaf.0) else {
            return false;
        };
        here = leaves[i].1;
        if here == first {
            return met == leaves.len();
        }
    }
    true
}
