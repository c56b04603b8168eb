//! Ragged borders between groups, relaxed along the surface.
//!
//! Vertices on a border go towards the middle between the next two on it (Laplacian smoothing of the curve), but no
//! farther than about an edge from where they were, so that small patches do not vanish. They stay on the surface,
//! and the vertices beside make room.

use super::feature_edges::{self, VertexConstraint};
use super::finish::Pieces;
use super::sheet::{ReferenceSurface, Sheet};
use super::short_features::ShortFeatures;
use super::smoothing_alone::{Relaxed, moved};
use super::start::sheet_of;
use super::tangential_smoothing::Goes;
use crate::attribute_transfer::Carried;
use crate::mesh::{FaceTags, Model};
use crate::progress::{Failure, Observer};
use crate::topology::LinkedMesh;
use rustc_hash::FxHashMap;

/// Which share of the way vertices go.
const SHARE: f64 = 0.5;
/// How far they go at most, in edges of the border as it was.
const REACH: f64 = 0.75;
/// Vertices so many edges off a border make room for it.
const RINGS: usize = 2;

/// A vertex on a border, and the next two on it.
type OnBorder = (u32, [u32; 2]);

/// Relaxes the borders of groups and materials, in some rounds. Vertices on creases (edges that bend by more than
/// `crease` degrees), rims and seams of UVs stay, and where borders meet; so does all that is not near a border.
///
/// # Errors
/// When an option makes no sense, or the observer says to stop.
pub fn relax_borders(
    model: &Model,
    rounds: usize,
    crease: f64,
    observer: &dyn Observer,
) -> Result<Relaxed, Failure> {
    Failure::unless_angle("crease", crease)?;
    let carried = Carried::by(model);
    let origins: Vec<u32> = carried.faces().iter().map(|face| face.0).collect();
    let linked = LinkedMesh::new(model.mesh.positions().to_vec(), carried.triangles());
    let mut ungrouped = model.clone();
    ungrouped.attributes.tags = FaceTags::default();
    let making = feature_edges::Making {
        model: &ungrouped,
        crease,
        short_features: ShortFeatures::Under(0.0),
        noise: 1.0,
        edge: 1.0,
        bend: None,
        lines: &[],
    };
    let found = feature_edges::find(&linked, &origins, &making);
    let borders = borders(&linked, &origins, &model.attributes.tags.of_face);
    let is_free = |v: u32| found.constraints[v as usize] == VertexConstraint::Free;
    let mut movable: Vec<OnBorder> = (borders.iter())
        .filter(|(v, _)| is_free(**v))
        .filter_map(|(&v, ends)| Some((v, <[u32; 2]>::try_from(&ends[..]).ok()?)))
        .collect();
    movable.sort_unstable();
    let mut constraints = vec![VertexConstraint::Frozen; found.constraints.len()];
    for v in near(&linked, &movable) {
        if is_free(v) && !borders.contains_key(&v) {
            constraints[v as usize] = VertexConstraint::Free;
        }
    }
    for &(v, _) in &movable {
        constraints[v as usize] = VertexConstraint::Fixed;
    }
    let pieces = Pieces::of(carried.triangles(), &found.lines);
    let reference = ReferenceSurface {
        carried: &carried,
        linked: &linked,
        chains: &found.chains,
        sizing: None,
        most_rise: f64::INFINITY,
    };
    let touched = vec![true; model.mesh.face_count()];
    let held = (constraints, found.lines);
    let mut sheet = sheet_of(&linked, origins, &touched, held, &reference, 1.0);
    observer.begin("relaxing borders", rounds as u64);
    for round in 0..rounds {
        observer.check()?;
        sheet.relax_along(&movable, &reference);
        sheet.relax(&reference);
        observer.at(round as u64 + 1);
    }
    Ok(moved(model, &sheet, &reference, &pieces))
}

/// By vertex on a border between faces of different tags, the next on it.
fn borders(linked: &LinkedMesh, origins: &[u32], tags: &[u32]) -> FxHashMap<u32, Vec<u32>> {
    let mut borders: FxHashMap<u32, Vec<u32>> = FxHashMap::default();
    if tags.is_empty() {
        return borders;
    }
    let tag = |t: u32| tags[origins[t as usize] as usize];
    for t in 0..linked.places() as u32 {
        let Some([a, b, c]) = linked.triangle(t) else {
            continue;
        };
        for [from, to] in [[a, b], [b, c], [c, a]] {
            let mut others = linked.on_edge(from, to).filter(|(other, _)| *other != t);
            if let (Some((other, _)), None) = (others.next(), others.next())
                && t < other
                && tag(t) != tag(other)
            {
                borders.entry(from).or_default().push(to);
                borders.entry(to).or_default().push(from);
            }
        }
    }
    borders
}

/// The vertices a few edges round those on borders.
fn near(linked: &LinkedMesh, movable: &[OnBorder]) -> Vec<u32> {
    let mut is_near = vec![false; linked.positions.len()];
    let mut ring: Vec<u32> = movable.iter().map(|(v, _)| *v).collect();
    let mut all = Vec::new();
    for _ in 0..RINGS {
        let beside = ring.iter().flat_map(|&v| linked.around(v));
        let mut next: Vec<u32> = beside.flat_map(|(_, [_, x, y])| [x, y]).collect();
        next.retain(|&v| !std::mem::replace(&mut is_near[v as usize], true));
        all.extend(&next);
        ring = next;
    }
    all
}

impl Sheet {
    /// Moves vertices towards the middle between the next two, along the surface.
    fn relax_along(&mut self, movable: &[OnBorder], reference: &ReferenceSurface<'_>) {
        let at = |v: u32| self.linked.positions[v as usize];
        let was = |v: u32| reference.linked.positions[v as usize];
        let goal = |&(v, [p, q]): &OnBorder| {
            let goal = at(v).lerp((at(p) + at(q)) / 2.0, SHARE);
            let edge = (was(v).distance(was(p)) + was(v).distance(was(q))) / 2.0;
            was(v) + (goal - was(v)).clamp_length_max(REACH * edge)
        };
        let goals: Vec<_> = movable.iter().map(goal).collect();
        for (&(v, _), goal) in movable.iter().zip(goals) {
            let goes = self.onto_surface(v, goal, self.facing(v), reference);
            if let Some(Goes::Onto { at, near }) = goes {
                self.move_onto(v, at, near, reference);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::measure::area;
    use crate::mesh::Tag;
    use crate::remesh::DEFAULT_CREASE;
    use crate::shapes;
    use glam::DVec3;

    /// The length of the border between two groups.
    fn border_length(model: &Model) -> f64 {
        let (mesh, tags) = (&model.mesh, &model.attributes.tags.of_face);
        let edges = crate::topology::Edges::of(mesh);
        let sides_differ = |edge| {
            let tags: Vec<u32> = edges
                .sides(edge)
                .iter()
                .map(|side| tags[side.face.index()])
                .collect();
            matches!(tags[..], [a, b] if a != b)
        };
        let border = edges.ids().filter(|&edge| sides_differ(edge));
        let lengths = border.map(|edge| {
            let [a, b] = edges.ends(edge).map(|v| mesh.position(v));
            a.distance(b)
        });
        lengths.sum()
    }

    fn in_two(mut model: Model, is_first: impl Fn(DVec3) -> bool) -> Model {
        let of_face = model.mesh.face_ids();
        let of_face = of_face.map(|face| u32::from(is_first(model.mesh.face_middle(face))));
        model.attributes.tags.of_face = of_face.collect();
        model.attributes.tags.table = vec![Tag::default(); 2];
        model
    }

    #[test]
    fn a_ragged_border_becomes_smooth_and_a_small_patch_stays() {
        let band = in_two(Model::from(shapes::sphere(1.0, 5)), |at| {
            at.z + 0.4 * at.x > 0.2
        });
        let before = border_length(&band);
        let relaxed = relax_borders(&band, 10, DEFAULT_CREASE, &()).unwrap();
        let after = border_length(&relaxed.model);
        // The circle in which the plane meets the sphere.
        let off: f64 = 0.2 / 1.16f64.sqrt();
        let circle = std::f64::consts::TAU * (1.0 - off * off).sqrt();
        assert!(before > 1.1 * circle, "{before} {circle}");
        assert!((after / circle - 1.0).abs() < 0.03, "{after} {circle}");
        // Vertices stay on the surface as it was; what is far from the border has not moved.
        assert!((area(&relaxed.model.mesh) / area(&band.mesh) - 1.0).abs() < 1e-3);
        assert!(relaxed.moved < band.mesh.vertex_count() / 3);
        assert_eq!(relaxed.model.mesh.corners(), band.mesh.corners());
        let cap = in_two(Model::from(shapes::sphere(1.0, 4)), |at| at.z > 0.99);
        let relaxed = relax_borders(&cap, 50, DEFAULT_CREASE, &()).unwrap();
        assert!(border_length(&relaxed.model) > 0.4 * border_length(&cap));
    }

    #[test]
    fn borders_on_creases_and_rims_stay() {
        let cube = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 6));
        let lid = in_two(cube, |at| at.z > 0.999);
        let relaxed = relax_borders(&lid, 5, DEFAULT_CREASE, &()).unwrap();
        assert_eq!((relaxed.moved, relaxed.model.mesh), (0, lid.mesh));
    }
}
