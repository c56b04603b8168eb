//! Decimation: to a budget of triangles, by collapsing the edge that costs least, again and
//! again (Garland & Heckbert 1997).
//!
//! ```text
//! model ─▶ triangles ─▶ quadrics by vertex ─▶ queue of edges ─▶ collapses ─▶ placing ─▶ model
//! ```
//!
//! Kept at every collapse: no edge gets a third side and no sheet closes on itself (link
//! condition, Dey et al. 1999); no face turns over; a border vertex stays on the border,
//! and one on a line where sheets meet stays on that; where such lines come together vertices go
//! last. The shape of faces is a price (see `shape`). A border weighs like a wall that stands on it,
//! so that straight borders and sharp edges keep their place exactly: where an end of the edge
//! costs nothing, the new vertex is put there and not beside it. UV seams, borders of groups and
//! materials and hard edges weigh, too, and stay lines; UVs, normals, colours, groups and
//! materials come along (see `wedges`). Open edges that lie on each other are reduced as one
//! (see `cracks`).
//! Every collapse inside a surface keeps the volume (after Lindstrom & Turk 1998, but along the
//! normal), since quadrics alone make round shapes larger; and where few triangles are left, they
//! are fitted to the first surface in the end (see `place`). Large surfaces are reduced in
//! regions, many at once (see `regions`).
//! Cost: O(n log n) time; about 250 bytes a triangle.

mod care;
mod cracks;
mod crossing;
mod crowd;
mod first;
mod fit;
mod freed;
mod left_over;
mod links;
mod place;
mod quadric;
mod queue;
mod reduce;
mod regions;
mod seen;
mod shape;
mod small;
mod surroundings;
mod sweep;
mod symmetric;
mod textbook;
mod turn;
mod uv_set;
mod volume;
mod wedges;
mod within;

pub use care::{Care, Shares, Weight};
pub use left_over::cheaper_left;
pub use symmetric::{decimate_symmetric, ladder_symmetric};
pub use textbook::textbook;

use crate::compare::stay_within;
use crate::mesh::{FaceId, FaceTags, Mesh, Model, PartId, VertexId};
use crate::progress::Observer;
use crate::spatial::Contacts;
use crate::topology::{Parts, TriangleNet};
use crate::triangulate::all_triangles;
use cracks::Cracks;
use reduce::{Counted, Reduction, Rules};
use regions::REGION;
use wedges::Wedges;

/// What to reach; of several, what comes first.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// So many triangles, or one fewer.
    pub to: Option<usize>,
    /// As few as stay within this distance of the model, both ways, in model units.
    pub within: Option<f64>,
    /// Only what lies flat or straight goes: it is proved that no point lies further off than this,
    /// either way, in model units. Not together with parts that may go.
    pub flat: Option<f64>,
    /// What is kept more carefully than the rest.
    pub care: Care,
    /// Budgets for some faces each, beside that for all.
    pub shares: Option<Shares>,
    /// Parts that reach less far across than this, in model units, may go where that costs
    /// least, once they are reduced as far as can be; without, none does.
    pub may_drop_under: Option<f64>,
    /// No face may come to cross another.
    pub no_crossing: bool,
}

/// A reduced model.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// The model, all triangles.
    pub model: Model,
    /// How many triangles there were.
    pub before: usize,
    /// How many polygons were cut into triangles first.
    pub polygons_cut: usize,
    /// Why neither the budget nor the distance was reached, when that is so.
    pub stopped_by: Option<&'static str>,
    /// The distance that is proved to be held, where one was asked for.
    pub held: Option<f64>,
    /// The parts of which nothing is left.
    pub dropped: Vec<PartId>,
    /// Whether normals were made anew from the shape; hard edges are kept.
    pub normals_anew: bool,
}

/// Reduces a model.
pub fn decimate(model: &Model, options: &Options, observer: &dyn Observer) -> Outcome {
    decimate_in_regions(model, options, REGION, observer)
}

/// Reduces a model in regions of so many triangles.
fn decimate_in_regions(
    model: &Model,
    options: &Options,
    region: usize,
    observer: &dyn Observer,
) -> Outcome {
    let least = options.to.unwrap_or(1);
    if let Some(flat) = options.flat {
        return reduce_flat(model, options, flat, region, observer);
    }
    let (work, mut reduction) = match Work::begin(model, least, options, region) {
        Ok(begun) => begun,
        Err(triangles) => return untouched(model, triangles),
    };
    let (reached, held) = match options.within {
        None => {
            let whole = reduction.run(least, observer);
            let reached = match &reduction.shares {
                Some(shares) => shares.are_reached(),
                None => whole,
            };
            fit_in_the_end(&mut reduction, &model.mesh);
            (reached, None)
        }
        Some(within) => {
            let first = &model.mesh;
            let stuck = within::reduce_within(&mut reduction, first, within, least, observer);
            (!stuck, Some(within))
        }
    };
    work.end(reduction, reached, held)
}

/// Fits what few triangles are left to the model, unless that makes faces cross that may not.
fn fit_in_the_end(reduction: &mut Reduction, first: &Mesh) {
    if reduction.boxes.is_none() {
        return place::place(reduction, first);
    }
    let unfitted = reduction.clone();
    place::place(reduction, first);
    let crossing = |reduction: &Reduction| {
        let surface = reduction.surface();
        let faces: Vec<FaceId> = surface.face_ids().collect();
        let contacts = Contacts::among(&surface, &faces, |_, _| false);
        faces.iter().filter(|&&face| contacts.touches(face)).count()
    };
    match crossing(reduction) > crossing(&unfitted) {
        true => *reduction = unfitted,
        // What was fitted is another net.
        false => reduction.forbid_crossing(),
    }
}

/// How often what lies flat is taken by a stricter measure, where the first does not hold.
const STRICTER: usize = 4;

/// Takes what lies flat, and proves that nothing lies further off than that. A root of a mean square
/// says little of the farthest point: where that is off, a stricter one is tried.
fn reduce_flat(
    model: &Model,
    options: &Options,
    flat: f64,
    region: usize,
    observer: &dyn Observer,
) -> Outcome {
    let least = options.to.unwrap_or(1);
    let mut by = flat;
    for _ in 0..STRICTER {
        let stricter = Options {
            flat: Some(by),
            ..options.clone()
        };
        let (work, mut reduction) = match Work::begin(model, least, &stricter, region) {
            Ok(begun) => begun,
            Err(triangles) => return untouched(model, triangles),
        };
        reduction.run(least, observer);
        observer.begin("proving", 0);
        let outcome = work.end(reduction, true, Some(flat));
        let holds = || stay_within(&model.mesh, &outcome.model.mesh, flat);
        if outcome.model.mesh.face_count() == work.before || observer.cancelled() || holds() {
            return outcome;
        }
        by /= 3.0;
    }
    let mut outcome = untouched(model, all_triangles(&model.mesh).0.len());
    outcome.stopped_by = Some("it could not be proved that the shape stays as it is");
    outcome
}

/// Reduces a model to several budgets, the largest first, on one way down.
pub fn ladder(
    model: &Model,
    budgets: &[usize],
    care: &Care,
    observer: &dyn Observer,
) -> Vec<Outcome> {
    let options = &Options {
        care: care.clone(),
        ..Options::default()
    };
    debug_assert!(budgets.is_sorted_by(|a, b| a >= b));
    let Some(&least) = budgets.last() else {
        return Vec::new();
    };
    let (work, mut reduction) = match Work::begin(model, least, options, REGION) {
        Ok(begun) => begun,
        Err(triangles) => return vec![untouched(model, triangles); budgets.len()],
    };
    let mut outcomes = Vec::new();
    for &to in budgets {
        if work.before <= to {
            outcomes.push(untouched(model, work.before));
            continue;
        }
        let reached = reduction.run(to, observer);
        // The way down goes on from where quadrics put the vertices.
        let mut rung = regions::compact(&reduction);
        place::place(&mut rung, &model.mesh);
        outcomes.push(work.end(rung, reached, None));
    }
    outcomes
}

/// What comes of a model that has so few triangles already.
fn untouched(model: &Model, triangles: usize) -> Outcome {
    Outcome {
        model: model.clone(),
        before: triangles,
        polygons_cut: 0,
        stopped_by: None,
        held: None,
        dropped: Vec::new(),
        normals_anew: false,
    }
}

/// What reductions of a model have in common.
struct Work<'m> {
    model: &'m Model,
    /// Of which face each triangle is.
    from: Vec<FaceId>,
    before: usize,
    polygons_cut: usize,
}

impl<'m> Work<'m> {
    /// A reduction at its start, or how many triangles there are if no more than `least`.
    fn begin(
        model: &'m Model,
        least: usize,
        options: &Options,
        region: usize,
    ) -> Result<(Self, Reduction), usize> {
        let (triangles, from) = all_triangles(&model.mesh);
        if triangles.len() <= least {
            return Err(triangles.len());
        }
        // A part that may go by itself hangs on no other.
        let cracks = match options.may_drop_under {
            None => Cracks::of(&model.mesh),
            Some(_) => None,
        };
        let net = match &cracks {
            None => TriangleNet::new(model.mesh.positions().to_vec(), &triangles),
            Some(cracks) => {
                let first = |t: &[VertexId; 3]| t.map(|v| cracks.first(v));
                let triangles: Vec<_> = triangles.iter().map(first).collect();
                TriangleNet::new(model.mesh.positions().to_vec(), &triangles)
            }
        };
        let bounds = crate::measure::bounds(&model.mesh);
        let plain = Rules::plain(bounds, region);
        let centre = plain.centre;
        let wedges = Wedges::of(model, &net, (&triangles, cracks.as_ref()), &from, centre);
        let work = Self {
            model,
            before: triangles.len(),
            polygons_cut: model.mesh.faces().filter(|(_, f)| f.len() > 3).count(),
            from,
        };
        drop(triangles);
        let rules = Rules {
            flat: options.flat,
            mirror: options.care.mirror,
            // What counts for all must be counted by one, and what lies near be seen.
            region: match options.shares.is_some() || options.no_crossing {
                true => usize::MAX / 16,
                false => region,
            },
            ..plain
        };
        let colors = model.attributes.colors.clone();
        let face = |t: u32| work.from[t as usize].index();
        let about = (
            &options.care,
            &face as _,
            &model.attributes.tags.of_face[..],
        );
        let mut reduction = Reduction::new(net, wedges, colors, rules, about);
        reduction.shares = options.shares.as_ref().map(|shares| work.counted(shares));
        reduction.small = options
            .may_drop_under
            .map(|under| small::small_parts(model, under));
        if options.no_crossing {
            reduction.forbid_crossing();
        }
        Ok((work, reduction))
    }

    /// The parts of which no triangle is left.
    fn gone(&self, left: &[bool]) -> Vec<PartId> {
        if left.is_empty() {
            return Vec::new();
        }
        let mesh = &self.model.mesh;
        let parts = Parts::of(mesh);
        let mut is_left = vec![false; parts.len()];
        for (&face, _) in self.from.iter().zip(left).filter(|(_, left)| **left) {
            if let Some(part) = parts.of_face(mesh, face) {
                is_left[part.index()] = true;
            }
        }
        let gone = (0..parts.len()).filter(|&part| !is_left[part]);
        gone.map(PartId::new).collect()
    }

    /// Budgets with what there is of each.
    fn counted(&self, shares: &Shares) -> Counted {
        let faces = self.from.iter();
        let of_origin: Vec<u32> = faces.map(|face| shares.of_face[face.index()]).collect();
        let mut living = vec![0; shares.budgets.len()];
        of_origin
            .iter()
            .for_each(|&share| living[share as usize] += 1);
        Counted {
            of_origin,
            living,
            budgets: shares.budgets.clone(),
        }
    }

    /// What came of it.
    fn end(&self, reduction: Reduction, reached: bool, held: Option<f64>) -> Outcome {
        let crossing_matters = reduction.boxes.is_some();
        let Reduction {
            net,
            wedges,
            colors,
            origins,
            small,
            ..
        } = reduction;
        let tags = &self.model.attributes.tags;
        let face_tag = |t: usize| match tags.is_empty() {
            true => 0,
            false => tags.of_face[self.from[origins[t] as usize].index()],
        };
        let mut left = vec![false; if small.is_some() { self.before } else { 0 }];
        if small.is_some() {
            let living = (0..net.places()).filter(|&t| net.triangle(t as u32).is_some());
            living.for_each(|t| left[origins[t] as usize] = true);
        }
        let mut reduced = model_of(&net, colors, face_tag, self.model);
        if let Some(wedges) = &wedges {
            reduced.attributes.set_uv_sets(wedges.uvs(&net));
            reduced.attributes.normals = wedges.normals(&net);
            if let Some(sides) = wedges.sides_of_cracks(&net) {
                reduced = cracks::reopened(&reduced, &sides);
            }
        }
        Outcome {
            normals_anew: reduced.attributes.normals.is_some(),
            model: reduced,
            before: self.before,
            polygons_cut: self.polygons_cut,
            held,
            dropped: self.gone(&left),
            stopped_by: (!reached).then_some(if crossing_matters {
                "every edge left would make a non-manifold edge, turn a face over, make faces cross, \
                 take a part away or move a line that is kept"
            } else {
                "every edge left would make a non-manifold edge, turn a face over, take a part away \
                 or move a line that is kept"
            }),
        }
    }
}

/// The living triangles of a net as a model, with the groups and materials of `like`.
pub(crate) fn model_of(
    net: &TriangleNet,
    colors: Option<Vec<[f32; 4]>>,
    face_tag: impl Fn(usize) -> u32,
    like: &Model,
) -> Model {
    let mut name = vec![u32::MAX; net.positions.len()];
    let mut positions = Vec::new();
    let mut kept_colors = colors.as_ref().map(|_| Vec::new());
    let mut faces = Vec::with_capacity(net.living());
    let mut of_face = Vec::new();
    for t in 0..net.places() as u32 {
        let Some(triangle) = net.triangle(t) else {
            continue;
        };
        faces.push(triangle.map(|vertex| {
            if name[vertex as usize] == u32::MAX {
                name[vertex as usize] = positions.len() as u32;
                positions.push(net.positions[vertex as usize]);
                if let (Some(kept), Some(all)) = (&mut kept_colors, &colors) {
                    kept.push(all[vertex as usize]);
                }
            }
            VertexId(name[vertex as usize])
        }));
        if !like.attributes.tags.is_empty() {
            of_face.push(face_tag(t as usize));
        }
    }
    let mesh = Mesh::from_triangles(positions, &faces).expect("a net holds sound triangles");
    let mut model = Model::from(mesh);
    model.unit = like.unit;
    model.up = like.up;
    model.attributes.colors = kept_colors;
    model.attributes.material_libraries = like.attributes.material_libraries.clone();
    model.attributes.scene = like.attributes.scene.clone();
    model.attributes.tags = FaceTags {
        table: like.attributes.tags.table.clone(),
        of_face,
    };
    model
}

#[cfg(test)]
mod accuracy_tests;
#[cfg(test)]
mod attribute_tests;
#[cfg(test)]
mod care_tests;
#[cfg(test)]
mod crack_tests;
#[cfg(test)]
mod crossing_tests;
#[cfg(test)]
mod harm_tests;
#[cfg(test)]
mod region_tests;
#[cfg(test)]
mod symmetric_tests;
#[cfg(test)]
mod tests;
