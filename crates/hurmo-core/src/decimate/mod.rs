//! Decimation: to a budget of triangles, by collapsing the edge that costs least, again and
//! again (Garland & Heckbert 1997).
//!
//! ```text
//! model ─▶ triangles ─▶ quadrics by vertex ─▶ queue of edges ─▶ collapses ─▶ model
//! ```
//!
//! Kept at every collapse: no edge gets a third side and no sheet closes on itself (link
//! condition, Dey et al. 1999); no face turns over; a border vertex stays on the border; a
//! vertex where sheets meet stays where it is. A border weighs like a wall that stands on it,
//! so that straight borders and sharp edges keep their place exactly: where an end of the edge
//! costs nothing, the new vertex is put there and not beside it.
//! Cost: O(n log n) time; about 250 bytes a triangle.

mod quadric;
mod queue;
mod reduce;

use crate::mesh::{FaceTags, Mesh, Model, VertexId};
use crate::progress::Observer;
use crate::topology::TriangleNet;
use crate::triangulate::all_triangles;

/// What to reach.
#[derive(Clone, Debug)]
pub struct Options {
    /// At most so many triangles.
    pub to: usize,
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
    /// Why the budget could not be reached, when it could not.
    pub stopped_by: Option<&'static str>,
    /// What could not be carried over.
    pub lost: Vec<&'static str>,
}

/// Reduces a model.
pub fn decimate(model: &Model, options: &Options, observer: &dyn Observer) -> Outcome {
    let (triangles, from) = all_triangles(&model.mesh);
    let polygons_cut = model.mesh.faces().filter(|(_, f)| f.len() > 3).count();
    let before = triangles.len();
    let mut reduction = reduce::Reduction::new(
        TriangleNet::new(model.mesh.positions().to_vec(), &triangles),
        model.attributes.colors.clone(),
    );
    drop(triangles);
    let reached = reduction.run(options.to, observer);
    let (net, colors) = reduction.finish();
    let lost = match before > options.to || polygons_cut > 0 {
        true => model.attributes.clone().drop_corner_layers(),
        false => Vec::new(),
    };
    let tags = &model.attributes.tags;
    let face_tag = |t: usize| match tags.is_empty() {
        true => 0,
        false => tags.of_face[from[t].index()],
    };
    if lost.is_empty() && before <= options.to {
        return Outcome {
            model: model.clone(),
            before,
            polygons_cut: 0,
            stopped_by: None,
            lost,
        };
    }
    Outcome {
        model: model_of(&net, colors, face_tag, model),
        before,
        polygons_cut,
        stopped_by: (!reached).then_some(
            "every edge left would make a non-manifold edge, turn a face over or take a part away",
        ),
        lost,
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
mod tests;
