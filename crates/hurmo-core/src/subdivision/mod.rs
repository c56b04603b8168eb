//! Levels of a model: a base of quads, divided again and again, with the detail of a surface brought back at each.
//!
//! ```text
//! base ─▶ divide (Catmull & Clark) ─▶ vertices onto the surface, none folds a quad ─▶ level 1 ─▶ divide …
//! ```
//!
//! Every level has the vertices of the one before first, in the same order. Cost: a closest point a vertex and
//! level.
//!
//! ```
//! use hurmo_core::quads::{QuadOptions, QuadTarget, quads};
//! use hurmo_core::subdivision::{Base, LevelOptions, levels};
//! use hurmo_core::{Model, shapes};
//!
//! let ball = Model::from(shapes::sphere(1.0, 4));
//! let made = quads(&ball, &QuadOptions::of(QuadTarget::Count(200)), &())?;
//! let levels = levels(&Base::of(&made), &ball, &LevelOptions::of(2, made.edge), &())?;
//! assert_eq!(levels[1].model.mesh.face_count(), 16 * made.model.mesh.face_count());
//! # Ok::<(), hurmo_core::remesh::RemeshError>(())
//! ```

mod catmull_clark;
mod detail;

use crate::attribute_transfer::Carried;
use crate::mesh::{Attributes, Mesh, Model, Unusable, VertexId};
use crate::mirror::{Mirror, Twins};
use crate::parallel::mapped;
use crate::progress::{Failure, Observer};
use crate::quads::QuadOutcome;
use crate::remesh::RemeshError;
use crate::topology::Edges;
use catmull_clark::Cage;
use detail::Detail;
use glam::DVec3;

/// The most quads that a level has.
pub const MOST_QUADS: usize = 30_000_000;
/// The nearest triangle is not known yet.
const UNKNOWN: u32 = u32::MAX;

/// What is divided.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Base<'a> {
    /// A model, of quads as a rule.
    pub model: &'a Model,
    /// Edges that stay sharp, by their ends, besides those that have not two sides.
    pub sharp: &'a [[VertexId; 2]],
    /// Vertices that stay where they are.
    pub corners: &'a [VertexId],
    /// The plane across which it is its own image to the last bit, if it is to stay so.
    pub mirror: Option<Mirror>,
}

impl<'a> Base<'a> {
    /// What a rebuild with quads has made.
    pub fn of(made: &'a QuadOutcome) -> Self {
        Self {
            model: &made.model,
            sharp: &made.feature_edges,
            corners: &made.corners,
            mirror: made.mirror,
        }
    }
}

/// How many levels, and how far detail goes.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct LevelOptions {
    /// How many times the base is divided.
    pub levels: usize,
    /// How far a vertex goes from where the division puts it, in model units.
    pub travel: f64,
    /// The lines of the surface that sharp edges lie on, as pieces.
    pub lines: Vec<[DVec3; 2]>,
}

impl LevelOptions {
    /// This many levels, with vertices that go no farther than this; without lines.
    pub const fn of(levels: usize, travel: f64) -> Self {
        Self {
            levels,
            travel,
            lines: Vec::new(),
        }
    }
}

/// A base, divided.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Level {
    /// The model.
    pub model: Model,
    /// Vertices for which the surface has no place within reach that faces their way.
    pub too_far: usize,
    /// Vertices that stay short of their place, lest quads fold.
    pub held: usize,
}

/// Divides a base, and brings the detail of a surface back at each level. Groups and materials are those of the
/// base's faces, colours those of the surface.
///
/// # Errors
/// When there would be too many quads, an option makes no sense, or the observer says to stop.
pub fn levels(
    base: &Base<'_>,
    surface: &Model,
    options: &LevelOptions,
    observer: &dyn Observer,
) -> Result<Vec<Level>, RemeshError> {
    Failure::unless_length("travel", options.travel)?;
    fits(&base.model.mesh, options.levels)?;
    observer.begin("dividing", options.levels as u64);
    let carried = Carried::by(surface);
    let detail = Detail::of(&carried, &options.lines, options.travel);
    let mut cage = base.cage();
    let mut edges = Edges::of(&cage.mesh);
    let mut twins = (base.mirror).and_then(|mirror| Twins::of(&cage.mesh, mirror));
    let mut near = vec![UNKNOWN; cage.mesh.vertex_count()];
    let mut of_face = base.model.attributes.tags.of_face.clone();
    let mut made = Vec::with_capacity(options.levels);
    for level in 0..options.levels {
        observer.check()?;
        let finer = cage.divided(&edges);
        twins = twins.and_then(|twins| twins.divided(&cage.mesh, &edges));
        of_face = of_children(&of_face, &cage.mesh, &edges);
        near = near_of_children(&near, &cage.mesh, &edges);
        cage = finer;
        edges = Edges::of(&cage.mesh);
        let on = cage.lies_on(&edges);
        let divided = cage.mesh.positions().to_vec();
        let brought = detail.bring(&mut cage.mesh, &on, &near);
        if let Some(twins) = &twins {
            twins.mirror(&mut cage.mesh, &divided);
        }
        near = brought.near;
        made.push(Level {
            model: base.dressed(&cage.mesh, &of_face, &carried, &near),
            too_far: brought.too_far,
            held: brought.held,
        });
        observer.at(level as u64 + 1);
    }
    Ok(made)
}

impl Base<'_> {
    fn cage(&self) -> Cage {
        let mesh = self.model.mesh.clone();
        let mut is_corner = vec![false; mesh.vertex_count()];
        (self.corners.iter()).for_each(|v| is_corner[v.index()] = true);
        Cage {
            sharp: self.sharp.to_vec(),
            is_corner,
            mesh,
        }
    }

    /// A level with what the base and the surface carry.
    fn dressed(&self, mesh: &Mesh, of_face: &[u32], carried: &Carried<'_>, near: &[u32]) -> Model {
        let own = &self.model.attributes;
        let mut tags = own.tags.clone();
        tags.of_face = of_face.to_vec();
        let colors = own.colors.as_ref().map(|_| {
            let color = |v: usize| carried.color_from(mesh.positions()[v], near[v]);
            mapped(mesh.vertex_count(), 256, color)
        });
        Model {
            mesh: mesh.clone(),
            attributes: Attributes {
                colors,
                tags,
                material_libraries: own.material_libraries.clone(),
                scene: own.scene.clone(),
                ..Attributes::default()
            },
            lines: Vec::new(),
            unit: self.model.unit,
            up: self.model.up,
            unusable: Unusable::default(),
        }
    }
}

/// Refuses what would not fit in memory.
fn fits(mesh: &Mesh, levels: usize) -> Result<(), RemeshError> {
    let first = mesh.corners().len().max(1) as f64;
    let count = first * 4f64.powi(levels as i32 - 1);
    match levels > 0 && count > MOST_QUADS as f64 {
        true => Err(RemeshError::TooManyLevels {
            levels,
            count,
            most: (MOST_QUADS as f64 / first).log(4.0).floor().max(-1.0) as usize + 1,
        }),
        false => Ok(()),
    }
}

/// By quad of a division, what the face had that it is of.
fn of_children(of_face: &[u32], mesh: &Mesh, edges: &Edges) -> Vec<u32> {
    let faces = of_face.iter().zip(mesh.face_ids());
    let children = faces.flat_map(|(&own, face)| {
        let divided = mesh
            .face_range(face)
            .filter(|&c| edges.at_corner(c).is_some());
        divided.map(move |_| own)
    });
    children.collect()
}

/// By vertex of a division, a triangle that may be near.
fn near_of_children(near: &[u32], mesh: &Mesh, edges: &Edges) -> Vec<u32> {
    let of = |v: VertexId| near[v.index()];
    let of_edges = edges.ids().map(|edge| of(edges.ends(edge)[0]));
    let of_faces = mesh
        .faces()
        .map(|(_, corners)| corners.first().map_or(UNKNOWN, |&v| of(v)));
    let own = near.iter().copied();
    own.chain(of_edges).chain(of_faces).collect()
}

#[cfg(test)]
mod tests;
