//! The checks against the plainest reading of their definitions, on random soups of faces, and
//! against faults planted in known numbers.

mod contacts;
mod near_misses;
mod planted;
mod solids;
mod threads;

use super::{Audit, AuditOptions, Brief, Level, audit};
use crate::mesh::{FaceId, Mesh, Model, VertexId};
use crate::random_cases::cases;
use crate::shapes;
use glam::DVec3;
use proptest::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

fn audited(mesh: &Mesh) -> Audit {
    audit(&Model::from(mesh.clone()), &AuditOptions::default(), &()).unwrap()
}

/// The audit of a mesh by one check alone, with thresholds set.
fn checked(model: &Model, check: &str, set: impl Fn(&mut Brief)) -> super::Found {
    let mut options = AuditOptions {
        places: usize::MAX,
        ..AuditOptions::default()
    };
    for other in super::CHECKS {
        options.brief.set_level(other.name, Level::Off);
    }
    options.brief.set_level(check, Level::Block);
    set(&mut options.brief);
    let audit = audit(model, &options, &()).unwrap();
    assert_eq!(audit.missing, []);
    assert_eq!(audit.findings.len(), 1, "{check} is run");
    audit.findings.into_iter().next().unwrap().found
}

fn counted(model: &Model, check: &str) -> usize {
    checked(model, check, |_| {}).count
}

/// All faces of all places.
fn listed(found: &super::Found) -> BTreeSet<FaceId> {
    let faces = found.places.iter().flat_map(|place| match &place.elements {
        super::Elements::Faces(faces) => faces.clone(),
        other => panic!("faces, not {other:?}"),
    });
    faces.collect()
}

/// Adds a copy of a shape, each corner moved by `place`.
fn add(mesh: &mut Mesh, shape: &Mesh, place: impl Fn(DVec3) -> DVec3) {
    let base = mesh.vertex_count() as u32;
    for &position in shape.positions() {
        mesh.push_vertex(place(position));
    }
    for (_, face) in shape.faces() {
        mesh.push_face(face.iter().map(|v| VertexId(v.0 + base)));
    }
}

/// Adds a face over new vertices.
fn add_face(mesh: &mut Mesh, points: impl IntoIterator<Item = DVec3>) {
    let vertices: Vec<VertexId> = points.into_iter().map(|p| mesh.push_vertex(p)).collect();
    mesh.push_face(vertices);
}

/// Faces as lists of vertex numbers, each with how often an edge is run up and down.
struct Plain {
    faces: Vec<Vec<u32>>,
    sides: BTreeMap<(u32, u32), (usize, usize)>,
}

impl Plain {
    fn of(mesh: &Mesh) -> Self {
        let faces: Vec<Vec<u32>> = mesh
            .faces()
            .map(|(_, f)| f.iter().map(|v| v.0).collect())
            .collect();
        let mut sides = BTreeMap::new();
        for face in faces.iter().filter(|f| !Self::repeats(f)) {
            for (i, &a) in face.iter().enumerate() {
                let b = face[(i + 1) % face.len()];
                let entry: &mut (usize, usize) = sides.entry((a.min(b), a.max(b))).or_default();
                if a < b { entry.0 += 1 } else { entry.1 += 1 }
            }
        }
        Self { faces, sides }
    }

    fn repeats(face: &[u32]) -> bool {
        face.len() < 3 || face.iter().collect::<BTreeSet<_>>().len() < face.len()
    }

    fn edges_where(&self, wanted: impl Fn(usize, usize) -> bool) -> usize {
        self.sides
            .values()
            .filter(|(up, down)| wanted(*up, *down))
            .count()
    }

    fn laminas(&self) -> usize {
        let sound = || self.faces.iter().filter(|face| !Self::repeats(face));
        let sets: BTreeSet<BTreeSet<u32>> = sound().map(|f| f.iter().copied().collect()).collect();
        sound().count() - sets.len()
    }

    /// Groups of faces, put together while any two of them share what `shares` says.
    fn groups(faces: &[&Vec<u32>], shares: impl Fn(&[u32], &[u32]) -> bool) -> usize {
        let mut group: Vec<usize> = (0..faces.len()).collect();
        for i in 0..faces.len() {
            for j in 0..i {
                if shares(faces[i], faces[j]) && group[i] != group[j] {
                    let (from, to) = (group[i], group[j]);
                    group
                        .iter_mut()
                        .filter(|g| **g == from)
                        .for_each(|g| *g = to);
                }
            }
        }
        group.iter().collect::<BTreeSet<_>>().len()
    }

    fn pinched(&self, vertices: u32) -> usize {
        (0..vertices)
            .filter(|v| {
                let around: Vec<_> = self
                    .faces
                    .iter()
                    .filter(|f| !Self::repeats(f) && f.contains(v))
                    .collect();
                let spokes = |face: &[u32]| -> BTreeSet<u32> {
                    let i = face.iter().position(|w| w == v).unwrap();
                    let n = face.len();
                    BTreeSet::from([face[(i + 1) % n], face[(i + n - 1) % n]])
                };
                Self::groups(&around, |a, b| !spokes(a).is_disjoint(&spokes(b))) > 1
            })
            .count()
    }
}

proptest! {
    #![proptest_config(cases(400))]
    #[test]
    fn random_soups_count_as_the_definitions_say(
        corners in prop::collection::vec(prop::collection::vec(0..9u32, 2..6), 1..16),
        places in prop::collection::vec((0..3i8, 0..3i8, 0..2i8), 9),
    ) {
        let mut mesh = Mesh::default();
        for &(x, y, z) in &places {
            mesh.push_vertex(DVec3::new(x.into(), y.into(), z.into()));
        }
        for face in &corners {
            mesh.push_face(face.iter().copied().map(VertexId));
        }
        let found = audited(&mesh);
        let plain = Plain::of(&mesh);
        prop_assert_eq!(found.mesh.edges, plain.sides.len());
        prop_assert_eq!(found.count("open-edges"), plain.edges_where(|u, d| u + d == 1));
        prop_assert_eq!(found.count("nonmanifold-edges"), plain.edges_where(|u, d| u + d >= 3));
        prop_assert_eq!(
            found.count("misoriented-edges"),
            plain.edges_where(|u, d| u + d == 2 && u != d)
        );
        prop_assert_eq!(found.count("lamina-faces"), plain.laminas());
        prop_assert_eq!(found.count("pinched-vertices"), plain.pinched(9));
        let used: BTreeSet<u32> = plain.faces.iter().flatten().copied().collect();
        prop_assert_eq!(found.count("stray-vertices"), 9 - used.len());
        let distinct: BTreeSet<_> = places.iter().collect();
        prop_assert_eq!(found.count("duplicate-vertices"), 9 - distinct.len());
        let all: Vec<_> = plain.faces.iter().collect();
        let parts = Plain::groups(&all, |a, b| a.iter().any(|v| b.contains(v)));
        prop_assert_eq!(found.mesh.parts, parts);
        prop_assert_eq!(
            found.count("ngons"),
            plain.faces.iter().filter(|f| f.len() >= 5).count()
        );
        let degenerate = plain.faces.iter().enumerate().filter(|(i, f)| {
            Plain::repeats(f)
                || crate::measure::vector_area(&mesh, FaceId::new(*i)).length()
                    <= 1e-12 * found.mesh.diagonal.powi(2)
        });
        prop_assert_eq!(found.count("zero-area-faces"), degenerate.count());
    }

}

#[test]
fn euler_characteristics_are_those_of_the_textbook() {
    let euler = |mesh: &Mesh| {
        let facts = audited(mesh).mesh;
        facts.vertices as i64 - facts.edges as i64 + facts.faces as i64
    };
    assert_eq!(euler(&shapes::sphere(1.0, 3)), 2);
    assert_eq!(euler(&shapes::cuboid(DVec3::ZERO, DVec3::ONE, 5)), 2);
    assert_eq!(euler(&shapes::torus(2.0, 0.5, 30, 12)), 0);
    assert_eq!(euler(&shapes::grid(6, 4, 1.0, 1.0)), 1);
}

#[test]
fn a_rough_scan_is_closed_and_rough() {
    let found = audited(&shapes::rough_scan(40));
    assert!(found.mesh.watertight);
    assert_eq!(found.count("reversed-faces"), 0);
    assert!(found.mesh.volume > 0.3);
    assert!(found.count("sliver-faces") * 200 > found.mesh.faces);
}
