//! Decimation: to a budget of triangles, by collapsing the edge that costs least, again and
//! again (Garland & Heckbert 1997).
//!
//! ```text
//! model ─▶ triangles ─▶ quadrics by vertex ─▶ queue of edges ─▶ collapses ─▶ placing ─▶ model
//! ```
//!
//! Kept at every collapse: no edge gets a third side and no sheet closes on itself (link
//! condition, Dey et al. 1999); no face turns over; a border vertex stays on the border; a
//! vertex where sheets meet stays where it is. A border weighs like a wall that stands on it,
//! so that straight borders and sharp edges keep their place exactly: where an end of the edge
//! costs nothing, the new vertex is put there and not beside it. UV seams, borders of groups and
//! materials and hard edges weigh, too, and stay lines; UVs, normals, colours, groups and
//! materials come along (see `wedges`).
//! Every collapse inside a surface keeps the volume (after Lindstrom & Turk 1998, but along the
//! normal), since quadrics alone make round shapes larger; and where few triangles are left, they
//! are fitted to the first surface in the end (see `place`). Large surfaces are reduced in
//! regions, many at once (see `regions`).
//! Cost: O(n log n) time; about 250 bytes a triangle.

mod place;
mod quadric;
mod queue;
mod reduce;
mod regions;
mod surroundings;
mod sweep;
mod turn;
mod wedges;
mod within;

use crate::mesh::{FaceId, FaceTags, Mesh, Model, VertexId};
use crate::progress::Observer;
use crate::topology::TriangleNet;
use crate::triangulate::all_triangles;
use glam::DVec3;
use reduce::{Reduction, Rules};
use regions::REGION;
use wedges::Wedges;

/// What to reach; of several, what comes first.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// So many triangles, or one fewer.
    pub to: Option<usize>,
    /// As few as stay within this distance of the model, both ways, in model units.
    pub within: Option<f64>,
    /// Only what lies flat or straight goes: within this distance of the planes that its place
    /// has taken in, as a root of the mean square, in model units.
    pub flat: Option<f64>,
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
    let Some((work, mut reduction)) = Work::begin(model, least, options.flat, region) else {
        return untouched(model);
    };
    let (reached, held) = match (options.flat, options.within) {
        (None, None) => {
            let reached = reduction.run(least, observer);
            place::place(&mut reduction, &model.mesh);
            (reached, None)
        }
        (Some(_), _) => {
            reduction.run(least, observer);
            (true, None)
        }
        (None, Some(within)) => {
            let first = &model.mesh;
            let stuck = within::reduce_within(&mut reduction, first, within, least, observer);
            (!stuck, Some(within))
        }
    };
    work.end(reduction, reached, held)
}

/// Reduces a model to several budgets on one way down; the outcomes are in the order of the
/// budgets, falling, each budget once.
pub fn ladder(model: &Model, budgets: &[usize], observer: &dyn Observer) -> Vec<Outcome> {
    let mut budgets = budgets.to_vec();
    budgets.sort_unstable_by(|a, b| b.cmp(a));
    budgets.dedup();
    let Some(&least) = budgets.last() else {
        return Vec::new();
    };
    let Some((work, mut reduction)) = Work::begin(model, least, None, REGION) else {
        return vec![untouched(model); budgets.len()];
    };
    let mut outcomes = Vec::new();
    for to in budgets {
        if work.before <= to {
            outcomes.push(untouched(model));
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

/// What comes of a model that is small enough.
fn untouched(model: &Model) -> Outcome {
    Outcome {
        model: model.clone(),
        before: all_triangles(&model.mesh).0.len(),
        polygons_cut: 0,
        stopped_by: None,
        held: None,
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
    /// A reduction at its start; `None` if there are no more than `least` triangles.
    fn begin(
        model: &'m Model,
        least: usize,
        flat: Option<f64>,
        region: usize,
    ) -> Option<(Self, Reduction)> {
        let (triangles, from) = all_triangles(&model.mesh);
        if triangles.len() <= least {
            return None;
        }
        let net = TriangleNet::new(model.mesh.positions().to_vec(), &triangles);
        let centre = crate::measure::bounds(&model.mesh).map_or(DVec3::ZERO, |b| b.middle());
        let wedges = Wedges::of(model, &net, &triangles, &from, centre);
        let work = Self {
            model,
            before: triangles.len(),
            polygons_cut: model.mesh.faces().filter(|(_, f)| f.len() > 3).count(),
            from,
        };
        drop(triangles);
        let rules = Rules {
            flat,
            ..Rules::plain(centre, region)
        };
        let colors = model.attributes.colors.clone();
        Some((work, Reduction::new(net, wedges, colors, rules)))
    }

    /// What came of it.
    fn end(&self, reduction: Reduction, reached: bool, held: Option<f64>) -> Outcome {
        let Reduction {
            net,
            wedges,
            colors,
            origins,
            ..
        } = reduction;
        let tags = &self.model.attributes.tags;
        let face_tag = |t: usize| match tags.is_empty() {
            true => 0,
            false => tags.of_face[self.from[origins[t] as usize].index()],
        };
        let mut reduced = model_of(&net, colors, face_tag, self.model);
        if let Some(wedges) = &wedges {
            reduced.attributes.uvs = wedges.uvs(&net);
            reduced.attributes.normals = wedges.normals(&net);
        }
        Outcome {
            normals_anew: reduced.attributes.normals.is_some(),
            model: reduced,
            before: self.before,
            polygons_cut: self.polygons_cut,
            held,
            stopped_by: (!reached).then_some(
                "every edge left would make a non-manifold edge, turn a face over or take a part \
                 away",
            ),
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
    model.attributes.colors = kept_colors;
    model.attributes.material_libraries = like.attributes.material_libraries.clone();
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
mod region_tests;
#[cfg(test)]
mod tests;
