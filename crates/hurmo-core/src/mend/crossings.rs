//! Faces that meet others: the parts that hang together by them become the boundary of what they
//! fill, exactly, and nothing else is touched.
//!
//! Only closed surfaces fill anything: parts with open edges, or with faces that run an edge the
//! same way, are left, and so is what faces inward as a whole.

use super::after_cuts::{joining_distances, tidied_where_new, tidiest};
use super::{Cure, MendError, MendOptions, Step};
use crate::audit::{MeshAnalysis, Needs};
use crate::boolean::{
    BooleanOutcome, Filled, MayMeet, Rounding, Solids, resolve, without_small_components,
};
use crate::measure::signed_volume_term;
use crate::mesh::{FaceId, Model, PartId, VertexId};
use crate::spatial::Border;
use crate::topology::UnionFind;

pub(super) const CURE: Cure = Cure {
    clears: &["intersecting-faces", "crossing-parts"],
    safe: false,
    drops: true,
    apply,
};

const LEFT: &str = "{face that meets others|faces that meet others} left: parts that are open or face inward have no inside";

const LEFT_BY_ROUNDING: &str = "{face that meets others|faces that meet others} left: the surfaces lie closer together there than their coordinates are exact";

const TIDIED: &str =
    "{change|changes} to clear faces without area and non-manifold edges that cutting left";

const JOINED: &str = "{vertex|vertices} of cuts joined with others beside {it|them}, between which faces would have no area";

const ROUNDED: &str = "{vertex|vertices} rounded to single precision, as the file holds them";

fn apply(model: &mut Model, options: &MendOptions) -> Result<Step, MendError> {
    let mut analysis = MeshAnalysis::of(model);
    analysis.prepare(Needs::Contacts, &());
    let groups = Groups::of(&analysis, options.filled);
    let left = |left, why| Step {
        left: (left > 0).then_some((left, why)),
        ..Step::default()
    };
    if groups.resolved == 0 {
        return Ok(left(groups.left, LEFT));
    }
    if options.single && !model.mesh.is_single() && model.mesh.fits_single() {
        drop(analysis);
        return apply_rounded(model, options);
    }
    let resolved = |join_within: f64| {
        let solids = Solids {
            count: 1,
            of: &|face| groups.of_face(face).map(|_| 0),
            group: &|face| groups.of_face(face).unwrap_or(u32::MAX),
            may_meet: MayMeet::Marked(&groups.meets),
            inside: &|windings| options.filled.holds(windings[0]),
            filled: None,
            sheet: None,
            rounding: Rounding::of(&model.mesh, options.single),
            join_within,
        };
        let halved = |outcome: &BooleanOutcome| outcome.tally.meeting * 2 <= groups.resolved;
        resolve(model, &solids, &()).ok().filter(halved)
    };
    let mut any = std::iter::once(0.0).chain(joining_distances(model));
    let Some(made) = any.find_map(resolved) else {
        return Ok(left(groups.resolved, LEFT_BY_ROUNDING));
    };
    let made = tidiest(model, made, resolved);
    let BooleanOutcome {
        model: made,
        sources,
        tally,
        ..
    } = made;
    let cleaned = without_small_components(made, &sources);
    let (tidied, changes) = tidied_where_new(&analysis, cleaned.model);
    drop(analysis);
    *model = tidied;
    Ok(Step {
        done: vec![
            ("{face|faces} cut where they met others", tally.cut),
            (JOINED, tally.joined),
            ("{face|faces} inside dropped", tally.dropped),
            ("{face|faces} turned", tally.turned),
            (TIDIED, changes),
            ("{enclosed pocket|enclosed pockets} filled", cleaned.pockets),
            (
                "{small component|small components} of cut faces dropped",
                cleaned.small_components,
            ),
        ],
        ..left(groups.left, LEFT)
    })
}

/// The same in single precision; of a model that stays as it was where nothing came of it.
fn apply_rounded(model: &mut Model, options: &MendOptions) -> Result<Step, MendError> {
    let mut rounded = model.clone();
    let moved = rounded.mesh.round_to_single();
    let mut step = apply(&mut rounded, options)?;
    if step.done.iter().any(|(_, count)| *count > 0) {
        step.done.insert(0, (ROUNDED, moved));
        *model = rounded;
    }
    Ok(step)
}

/// Parts that hang together by contacts.
struct Groups {
    /// Of each face, the group that is resolved.
    group: Vec<Option<u32>>,
    /// Whether a face meets others, those without area among them.
    meets: Vec<bool>,
    /// Faces with an area that meet others, of such groups and of others.
    resolved: usize,
    left: usize,
}

impl Groups {
    fn of(analysis: &MeshAnalysis<'_>, filled: Filled) -> Self {
        let mesh = analysis.mesh;
        let contacts = analysis.contacts().expect("they were asked for");
        let all = analysis.meeting().expect("they were asked for");
        let part = |face: FaceId| analysis.parts.of_face(mesh, face);
        let mut joined = UnionFind::new(analysis.parts.len());
        // What meets, and what hangs together by place alone.
        for (a, b) in &all.parts {
            joined.join(a.0, b.0);
        }
        let of_vertex = |v: usize| analysis.parts.of_vertex(VertexId::new(v));
        for (v, first) in analysis.first_at_place.iter().enumerate() {
            if let (Some(a), Some(b)) = (of_vertex(v), of_vertex(first.index())) {
                joined.join(a.0, b.0);
            }
        }
        let mut group = |part: PartId| joined.find(part.0);
        let groups: Vec<Option<u32>> = mesh.face_ids().map(|f| part(f).map(&mut group)).collect();
        let count = analysis.parts.len();
        let (mut meeting, mut is_open) = (vec![0; count], vec![false; count]);
        let mut volume = vec![0.0; count];
        let origin = analysis
            .bounds
            .map_or(glam::DVec3::ZERO, |b| (b.min + b.max) / 2.0);
        for face in mesh.face_ids() {
            let Some(group) = groups[face.index()] else {
                continue;
            };
            meeting[group as usize] += usize::from(contacts.touches(face));
            volume[group as usize] += signed_volume_term(mesh, face, origin);
        }
        let turned = vec![false; mesh.face_count()];
        let border = Border::of(
            mesh,
            &analysis.edges,
            |_| true,
            &turned,
            &analysis.first_at_place,
        );
        for v in border.ends().flatten() {
            if let Some(part) = analysis.parts.of_vertex(v) {
                is_open[group(part) as usize] = true;
            }
        }
        // What faces inward encloses nothing that counts, unless either way does.
        let encloses = |group: usize| volume[group] > 0.0 || filled != Filled::Positive;
        let resolved = |group: usize| meeting[group] > 0 && !is_open[group] && encloses(group);
        let sum = |wanted: bool| {
            (0..count)
                .filter(|&g| resolved(g) == wanted)
                .map(|g| meeting[g])
                .sum()
        };
        Self {
            meets: all.faces,
            resolved: sum(true),
            left: sum(false),
            group: (groups.iter().copied())
                .map(|group| group.filter(|&group| resolved(group as usize)))
                .collect(),
        }
    }

    fn of_face(&self, face: FaceId) -> Option<u32> {
        self.group[face.index()]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::Mesh;
    use crate::topology::Edges;
    use crate::{mend, shapes};
    use glam::{DMat3, DVec3, EulerRot};

    fn mended(mesh: Mesh) -> mend::MendOutcome {
        let options = MendOptions {
            clear: vec!["intersecting-faces".into()],
            ..MendOptions::default()
        };
        mend::mend(&Model::from(mesh), &options, &()).unwrap()
    }

    fn cube(low: f64, high: f64) -> Mesh {
        shapes::cuboid(DVec3::splat(low), DVec3::splat(high), 2)
    }

    #[test]
    fn cubes_that_cross_become_one_and_what_touches_nothing_stays() {
        let mut mesh = cube(0.0, 2.0);
        mesh.append(&cube(1.0, 3.5));
        // Inside the first, and beside both.
        mesh.append(&cube(0.25, 0.5));
        mesh.append(&cube(5.0, 6.0));
        let outcome = mended(mesh.clone());
        let result = &outcome.model.mesh;
        let faces = result.face_ids();
        let volume = faces
            .map(|f| signed_volume_term(result, f, DVec3::ZERO))
            .sum::<f64>()
            / 6.0;
        let expected = 8.0 + 15.625 - 1.0 + 0.25f64.powi(3) + 1.0;
        assert!((volume - expected).abs() < 1e-12, "{volume} for {expected}");
        let has = |face: FaceId| {
            result.faces().any(|(_, f)| {
                let points = |mesh: &Mesh, f: &[VertexId]| {
                    f.iter().map(|&v| mesh.position(v)).collect::<Vec<_>>()
                };
                points(result, f) == points(&mesh, mesh.face(face))
            })
        };
        let each = cube(0.0, 1.0).face_count();
        let (inner, outer) = (2 * each..3 * each, 3 * each..4 * each);
        assert!(inner.chain(outer).all(|face| has(FaceId::new(face))));
    }

    /// Cubes that cross, and a cube so small that its faces count as having no area, half way through the skin
    /// of one of them.
    #[test]
    fn faces_without_area_that_meet_others_are_cut_with_them() {
        let mut mesh = cube(0.0, 2.0);
        mesh.append(&cube(1.0, 3.5));
        let tiny = DVec3::splat(1e-7);
        let middle = DVec3::new(0.0, 0.37, 0.73);
        mesh.append(&shapes::cuboid(middle - tiny, middle + tiny, 1));
        let meeting = |mesh: &Mesh| {
            let model = Model::from(mesh.clone());
            let mut analysis = MeshAnalysis::of(&model);
            analysis.prepare(Needs::Contacts, &());
            let found = analysis.meeting().expect("they were asked for");
            (
                found.faces.iter().filter(|meets| **meets).count(),
                found.parts.len(),
            )
        };
        let (faces, parts) = meeting(&mesh);
        assert_eq!(parts, 2);
        let of_cubes = {
            let mut cubes = cube(0.0, 2.0);
            cubes.append(&cube(1.0, 3.5));
            meeting(&cubes).0
        };
        assert!(
            faces >= of_cubes + 5,
            "{faces} with the tiny one, {of_cubes} without"
        );
        let outcome = mended(mesh);
        assert_eq!(meeting(&outcome.model.mesh), (0, 0));
        let border = Edges::of(&outcome.model.mesh);
        assert!(
            border
                .ids()
                .all(|edge| border.sides(edge).len().is_multiple_of(2))
        );
    }

    #[test]
    fn what_goes_to_single_precision_is_cut_in_it() {
        let turn = DMat3::from_euler(EulerRot::XYZ, 0.3, 0.5, 0.7);
        let mut mesh = shapes::sphere(1.0, 6);
        let second = mesh.vertex_count();
        mesh.append(&shapes::sphere(1.3, 6));

        let apart = DVec3::new(0.7, 0.1, 0.2);
        for (i, place) in mesh.positions_mut().iter_mut().enumerate() {
            *place = turn * *place + if i < second { DVec3::ZERO } else { apart };
        }
        assert!(!mesh.is_single());
        let options = |single: bool| MendOptions {
            clear: vec!["intersecting-faces".into()],
            single,
            ..MendOptions::default()
        };
        let mended = |single| mend::mend(&Model::from(mesh.clone()), &options(single), &());
        let says_rounded = |outcome: &mend::MendOutcome| {
            outcome
                .changes
                .iter()
                .any(|change| change.what.contains("rounded"))
        };
        let (single, double) = (mended(true).unwrap(), mended(false).unwrap());
        assert!(says_rounded(&single) && !says_rounded(&double));
        assert!(single.model.mesh.is_single() && !double.model.mesh.is_single());
        let mut analysis = MeshAnalysis::of(&single.model);
        analysis.prepare(Needs::Contacts, &());
        let contacts = analysis.contacts().expect("they were asked for");
        let mut faces = single.model.mesh.face_ids();
        assert!(faces.all(|face| !contacts.touches(face)));
    }

    #[test]
    fn open_parts_that_cross_are_left_and_told() {
        let mut mesh = cube(0.0, 2.0);
        let sheet = shapes::grid(4, 4, 4.0, 4.0);
        let sheet = Mesh::from_parts(
            (sheet
                .positions()
                .iter()
                .map(|p| *p + DVec3::new(0.1, 0.2, 0.9)))
            .collect(),
            sheet.corners().to_vec(),
            sheet.starts().to_vec(),
        );
        mesh.append(&sheet.unwrap());
        let outcome = mended(mesh.clone());
        assert_eq!(outcome.model.mesh.face_count(), mesh.face_count());
        assert!(outcome.changes.is_empty());
        assert_eq!(outcome.left.len(), 1);
        assert!(outcome.left[0].count > 4);
    }
}
