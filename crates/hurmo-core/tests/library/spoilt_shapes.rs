//! Clean closed shapes, spoilt in several ways at once, come back watertight and with their
//! volume, to within what the faults took away.

use crate::random_cases::cases;
use glam::DVec3;
use hurmo_core::audit::{self, Audit, audit};
use hurmo_core::mesh::{FaceId, Mesh, VertexId};
use hurmo_core::{Model, fill, mend, shapes};
use proptest::prelude::*;

/// Faults, each at faces chosen by number.
#[derive(Clone, Debug)]
struct Faults {
    unwelded: Vec<usize>,
    doubled: Vec<usize>,
    turned: Vec<usize>,
    /// Triangles that hang on an edge, outward or inward.
    fins: Vec<(usize, bool)>,
    /// Small triangles and tetrahedra beside the shape.
    scraps: Vec<(usize, bool)>,
    /// Whole patches that are gone.
    deleted: Vec<usize>,
    /// Vertices in the middle of one side of an edge only.
    tjunctions: Vec<usize>,
    strays: usize,
}

fn faults() -> impl Strategy<Value = Faults> {
    let some = |most: usize| prop::collection::vec(0usize..10_000, 0..most);
    let sided = |most: usize| prop::collection::vec((0usize..10_000, any::<bool>()), 0..most);
    (
        some(40),
        some(6),
        some(20),
        sided(4),
        sided(4),
        some(3),
        some(4),
        0usize..5,
    )
        .prop_map(
            |(unwelded, doubled, turned, fins, scraps, deleted, tjunctions, strays)| Faults {
                unwelded,
                doubled,
                turned,
                fins,
                scraps,
                deleted,
                tjunctions,
                strays,
            },
        )
}

fn shape(kind: usize) -> Mesh {
    match kind {
        0 => shapes::sphere(1.0, 4),
        1 => shapes::torus(1.0, 0.4, 80, 36),
        _ => shapes::cuboid(DVec3::ZERO, DVec3::splat(1.5), 16),
    }
}

/// A shape as loose lists, while faults are planted.
struct Draft {
    positions: Vec<DVec3>,
    faces: Vec<Vec<VertexId>>,
}

impl Draft {
    fn vertex(&mut self, position: DVec3) -> VertexId {
        self.positions.push(position);
        VertexId::new(self.positions.len() - 1)
    }

    fn middle(&self, face: usize) -> DVec3 {
        let corners = &self.faces[face];
        corners
            .iter()
            .map(|v| self.positions[v.index()])
            .sum::<DVec3>()
            / corners.len() as f64
    }

    fn normal(&self, face: usize) -> DVec3 {
        let at = |i: usize| self.positions[self.faces[face][i].index()];
        (at(1) - at(0)).cross(at(2) - at(0)).normalize()
    }

    fn size(&self, face: usize) -> f64 {
        let at = |i: usize| self.positions[self.faces[face][i].index()];
        at(0).distance(at(1))
    }
}

/// Plants the faults; deleted patches lie apart from everything else, since what else is wrong
/// at a hole's rim belongs to the hole.
fn spoilt(clean: &Mesh, faults: &Faults) -> Model {
    let mut draft = Draft {
        positions: clean.positions().to_vec(),
        faces: clean.faces().map(|(_, c)| c.to_vec()).collect(),
    };
    let count = draft.faces.len();
    // Apart from each other, too: between two that all but meet, a scrap would be left that is no
    // part of the shape any more.
    let mut holes: Vec<(DVec3, f64)> = Vec::new();
    for &f in &faults.deleted {
        let (at, size) = (draft.middle(f % count), draft.size(f % count));
        let is_apart = |(other, reach): &(DVec3, f64)| other.distance(at) > reach + 4.0 * size;
        if holes.iter().all(is_apart) {
            holes.push((at, 2.5 * size));
        }
    }
    let far = |draft: &Draft, face: usize| {
        let here = draft.middle(face);
        let clear = 4.0 * draft.size(face);
        holes
            .iter()
            .all(|(at, reach)| at.distance(here) > reach + clear)
    };
    // An edge gets a fin or a T-junction, not both: what then belongs together is anyone's guess.
    let mut used = std::collections::HashSet::new();
    let mut take = |draft: &Draft, f: usize| {
        let (a, b) = (draft.faces[f][0], draft.faces[f][1]);
        used.insert([a.min(b), a.max(b)])
    };
    for &(f, outward) in &faults.fins {
        let f = f % count;
        if far(&draft, f) && take(&draft, f) {
            let sign = if outward { 1.0 } else { -1.0 };
            let size = draft.size(f);
            let tip = draft.middle(f) + draft.normal(f) * size * 0.5 * sign;
            let tip = draft.vertex(tip);
            let (a, b) = (draft.faces[f][0], draft.faces[f][1]);
            draft.faces.push(vec![a, b, tip]);
        }
    }
    for &f in &faults.tjunctions {
        let f = f % count;
        if far(&draft, f) && take(&draft, f) {
            let (a, b) = (draft.faces[f][0], draft.faces[f][1]);
            let middle = (draft.positions[a.index()] + draft.positions[b.index()]) / 2.0;
            let middle = draft.vertex(middle);
            if draft.faces[f].len() < 5 {
                draft.faces[f].insert(1, middle);
            }
        }
    }
    for &f in &faults.doubled {
        let f = f % count;
        if far(&draft, f) {
            let double = draft.faces[f].clone();
            draft.faces.push(double);
        }
    }
    for &f in &faults.turned {
        let f = f % count;
        if far(&draft, f) {
            draft.faces[f].reverse();
        }
    }
    for &f in &faults.unwelded {
        let f = f % count;
        if far(&draft, f) {
            for k in 0..draft.faces[f].len() {
                let copy = draft.positions[draft.faces[f][k].index()];
                draft.faces[f][k] = draft.vertex(copy);
            }
        }
    }
    let mut gone: Vec<usize> = (0..count)
        .filter(|&f| {
            let here = draft.middle(f);
            holes.iter().any(|(at, reach)| at.distance(here) < *reach)
        })
        .collect();
    gone.reverse();
    gone.into_iter().for_each(|f| {
        draft.faces.remove(f);
    });
    for (i, &(at, solid)) in faults.scraps.iter().enumerate() {
        let turn = at as f64;
        let middle = DVec3::new(turn.cos(), turn.sin(), 0.3 * i as f64).normalize() * 4.0;
        let corners = [DVec3::ZERO, DVec3::X, DVec3::Y, DVec3::Z]
            .map(|step| draft.vertex(middle + step * 0.02));
        let [a, b, c, d] = corners;
        draft.faces.push(vec![a, c, b]);
        if solid {
            draft
                .faces
                .extend([vec![a, b, d], vec![b, c, d], vec![c, a, d]]);
        }
    }
    for i in 0..faults.strays {
        draft.vertex(DVec3::splat(0.1 * i as f64));
    }
    let mut mesh = Mesh::from_parts(draft.positions, vec![], vec![0]).unwrap();
    draft.faces.into_iter().for_each(|face| {
        mesh.push_face(face);
    });
    Model::from(mesh)
}

fn audited(model: &Model) -> Audit {
    audit(model, &audit::AuditOptions::default(), &()).unwrap()
}

const CLEARED: [&str; 13] = [
    "duplicate-vertices",
    "zero-area-faces",
    "lamina-faces",
    "open-edges",
    "nonmanifold-edges",
    "pinched-vertices",
    "floating-parts",
    "misoriented-edges",
    "reversed-faces",
    "nested-parts",
    "interior-faces",
    "stray-vertices",
    "stray-edges",
];

/// Mended, once with nothing known of it and once with what its audit says, which must come to
/// the same.
fn mended(model: &Model) -> mend::MendOutcome {
    let found_nothing = audited(model).clear().collect();
    let (plain, informed) = (
        mended_knowing(model, vec![]),
        mended_knowing(model, found_nothing),
    );
    assert_eq!(plain.model, informed.model);
    assert_eq!(plain.changes, informed.changes);
    assert_eq!(plain.left, informed.left);
    informed
}

fn mended_knowing(model: &Model, found_nothing: Vec<&'static str>) -> mend::MendOutcome {
    let mut options = mend::MendOptions::default();
    options.clear = CLEARED.map(String::from).to_vec();
    options.gap = 1e-5;
    options.found_nothing = found_nothing;
    mend::mend(model, &options, &()).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig { max_shrink_iters: 300, ..cases(40) })]
    #[test]
    fn spoilt_shapes_come_back_whole(kind in 0usize..3, faults in faults()) {
        let clean = shape(kind);
        let wanted = audited(&Model::from(clean.clone())).mesh.volume;
        let model = spoilt(&clean, &faults);
        let once = mended(&model).model;
        let closed = fill::fill(&once, &fill::FillOptions::default(), &()).unwrap();
        let crosses = closed.filled.iter().any(|rim| rim.meets_others);
        let outcome = mended(&closed.model);
        let after = audited(&outcome.model);
        prop_assert!(after.mesh.watertight, "{:?} {:?}", after.mesh, outcome.left);
        for check in CLEARED {
            prop_assert_eq!(after.count(check), 0, "{}", check);
        }
        prop_assert_eq!(after.count("intersecting-faces") > 0, crosses);
        // A hole takes away at most a lens of its width; and filling it, all but a little comes
        // back.
        let off = (after.mesh.volume / wanted - 1.0).abs();
        let allowed = 1e-5 + 0.01 * faults.deleted.len() as f64;
        prop_assert!(off <= allowed, "volume off by {}", off);
        let before = (&closed.model, &audited(&closed.model));
        let options = audit::AuditOptions::default();
        prop_assert_eq!(audit::audit_again(&outcome.model, before, &options, &()).unwrap(), after);
        let again = mended(&outcome.model);
        prop_assert!(again.changes.is_empty(), "again: {:?}", again.changes);
    }
}

#[test]
fn the_faults_are_there_to_begin_with() {
    let clean = shape(0);
    let model = spoilt(
        &clean,
        &Faults {
            unwelded: vec![3, 400],
            doubled: vec![9],
            turned: vec![77],
            fins: vec![(1000, true), (2000, false)],
            scraps: vec![(1, false), (2, true)],
            deleted: vec![3000],
            tjunctions: vec![700],
            strays: 2,
        },
    );
    let before = audited(&model);
    for check in [
        "duplicate-vertices",
        "lamina-faces",
        "open-edges",
        "nonmanifold-edges",
        "floating-parts",
        "misoriented-edges",
        "stray-vertices",
    ] {
        assert!(before.count(check) > 0, "{check}");
    }
    assert!(clean.face_count() > FaceId(0).index() && before.mesh.rims > 1);
}
