//! A model on its way through a reduction: the linked mesh that is made of it, and the model that is made of
//! what is left.

use super::StoppedBy;
use super::cracks::{self, Cracks};
use super::reduce::Reduction;
use super::rules::{Counted, Rules};
use super::wedges::Wedges;
use super::{DecimateOptions, DecimateOutcome, Shares, small};
use crate::mesh::{FaceId, FaceTags, Mesh, Model, PartId, VertexId};
use crate::topology::{LinkedMesh, Parts};
use crate::triangulate::all_triangles;

/// What reductions of a model have in common.
pub(super) struct Work<'m> {
    model: &'m Model,
    /// Of which face each triangle is.
    from: Vec<FaceId>,
    pub before: usize,
    polygons_cut: usize,
}

impl<'m> Work<'m> {
    /// A reduction at its start, or how many triangles there are if no more than `least`.
    pub fn begin(
        model: &'m Model,
        least: usize,
        options: &DecimateOptions,
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
        let linked = match &cracks {
            None => LinkedMesh::new(model.mesh.positions().to_vec(), &triangles),
            Some(cracks) => {
                let first = |t: &[VertexId; 3]| t.map(|v| cracks.first(v));
                let triangles: Vec<_> = triangles.iter().map(first).collect();
                LinkedMesh::new(model.mesh.positions().to_vec(), &triangles)
            }
        };
        let bounds = crate::measure::bounds(&model.mesh);
        let plain = Rules::plain(bounds, region);
        let centre = plain.centre;
        let wedges = Wedges::of(model, &linked, (&triangles, cracks.as_ref()), &from, centre);
        let work = Self {
            model,
            before: triangles.len(),
            polygons_cut: model.mesh.faces().filter(|(_, f)| f.len() > 3).count(),
            from,
        };
        drop(triangles);
        let rules = Rules {
            flat: options.flat,
            mirror: options.weights.mirror,
            // What counts for all must be counted by one, and what lies near be seen.
            region: match options.shares.is_some() || options.no_crossing {
                true => None,
                false => Some(region),
            },
            ..plain
        };
        let colors = model.attributes.colors.clone();
        let face = |t: u32| work.from[t as usize].index();
        let about = (
            &options.weights,
            &face as _,
            &model.attributes.tags.of_face[..],
        );
        let mut reduction = Reduction::new(linked, wedges, colors, rules, about);
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
    pub fn end(&self, reduction: Reduction, reached: bool, held: Option<f64>) -> DecimateOutcome {
        let crossing_matters = reduction.boxes.is_some();
        let Reduction {
            linked,
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
            let living = (0..linked.places()).filter(|&t| linked.triangle(t as u32).is_some());
            living.for_each(|t| left[origins[t] as usize] = true);
        }
        let mut reduced = model_of(&linked, colors, face_tag, self.model);
        if let Some(wedges) = &wedges {
            reduced.attributes.set_uv_sets(wedges.uvs(&linked));
            reduced.attributes.normals = wedges.normals(&linked);
            if let Some(sides) = wedges.sides_of_cracks(&linked) {
                reduced = cracks::reopened(&reduced, &sides);
            }
        }
        DecimateOutcome {
            normals_anew: reduced.attributes.normals.is_some(),
            model: reduced,
            before: self.before,
            polygons_cut: self.polygons_cut,
            held,
            dropped: self.gone(&left),
            stopped_by: (!reached).then_some(match crossing_matters {
                true => StoppedBy::NoEdgeLeftWithoutCrossing,
                false => StoppedBy::NoEdgeLeft,
            }),
        }
    }
}

/// The living triangles of a linked mesh as a model, with the groups and materials of `like`.
fn model_of(
    linked: &LinkedMesh,
    colors: Option<Vec<[f32; 4]>>,
    face_tag: impl Fn(usize) -> u32,
    like: &Model,
) -> Model {
    let mut name = vec![u32::MAX; linked.positions.len()];
    let mut positions = Vec::new();
    let mut kept_colors = colors.as_ref().map(|_| Vec::new());
    let mut faces = Vec::with_capacity(linked.living());
    let mut of_face = Vec::new();
    for t in 0..linked.places() as u32 {
        let Some(triangle) = linked.triangle(t) else {
            continue;
        };
        faces.push(triangle.map(|vertex| {
            if name[vertex as usize] == u32::MAX {
                name[vertex as usize] = positions.len() as u32;
                positions.push(linked.positions[vertex as usize]);
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
