//! A region of a model: the faces that a step may touch.

use super::Context;
use super::named_options::{NamedOptions, Visitor};
use crate::operation::feature_weights::named;
use crate::quantity::{numbered, sphere, sphere_text};
use anyhow::{Result, bail};
use glam::DVec3;
use hurmo_core::parts::{By, pieces};
use hurmo_core::spatial::closest_on_triangle;
use hurmo_core::triangulate::all_triangles;
use hurmo_core::{FaceId, Model, VertexId, parts};

/// Which faces.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct Region {
    /// Only these parts: P3, or P1,P4..P6
    #[cfg_attr(feature = "clap", arg(long, value_name = "PART,…"))]
    part: Option<String>,
    /// Only the faces of this group or material
    #[cfg_attr(feature = "clap", arg(long, value_name = "NAME"))]
    group: Option<String>,
    /// Only what lies within a distance of a point: X,Y,Z,RADIUS in model units
    #[cfg_attr(feature = "clap", arg(long, value_name = "X,Y,Z,R", value_parser = sphere, allow_hyphen_values = true))]
    near: Option<(DVec3, f64)>,
    /// Only where two parts cross: P1,P2
    #[cfg_attr(feature = "clap", arg(long, value_name = "PART,PART"))]
    where_crossing: Option<String>,
}

impl Region {
    /// Makes sure that names can be understood.
    pub fn check(&self) -> Result<()> {
        self.part
            .as_deref()
            .map(|list| numbered(list, 'P'))
            .transpose()?;
        self.where_crossing.as_deref().map(two_parts).transpose()?;
        Ok(())
    }

    /// Whether it is any but the whole model.
    pub fn is_given(&self) -> bool {
        let by_name = self.part.is_some() || self.group.is_some();
        by_name || self.near.is_some() || self.where_crossing.is_some()
    }

    /// The faces in it, by number; `None` when all are.
    pub fn faces(&self, context: &Context<'_>) -> Result<Option<Vec<bool>>> {
        let model = context.model;
        let mut chosen: Option<Vec<bool>> = None;
        let mut only = |faces: Vec<FaceId>| {
            let mut marked = vec![false; model.mesh.face_count()];
            for face in faces {
                let was = chosen.as_ref().is_none_or(|chosen| chosen[face.index()]);
                marked[face.index()] = was;
            }
            chosen = Some(marked);
        };
        if let Some(list) = &self.part {
            only(chosen_parts(model, list)?);
        }
        if let Some(name) = &self.group {
            only(named(model, name)?);
        }
        if let Some((middle, radius)) = self.near {
            only(within(model, middle, radius));
        }
        if let Some(pair) = &self.where_crossing {
            let pair = two_parts(pair)?;
            only(parts::where_meeting(model, pair, context.observer)?);
        }
        if chosen
            .as_ref()
            .is_some_and(|chosen| !chosen.contains(&true))
        {
            bail!("there are no faces in that region; nothing was written");
        }
        Ok(chosen)
    }
}

fn two_parts(pair: &str) -> Result<[usize; 2]> {
    let ranges = numbered(pair, 'P')?;
    match &ranges[..] {
        [one, two] if one.start() == one.end() && two.start() == two.end() && one != two => {
            Ok([*one.start(), *two.start()])
        }
        _ => bail!("'{pair}' is no pair of parts; write P1,P2"),
    }
}

/// The faces of these parts.
pub(super) fn chosen_parts(model: &Model, list: &str) -> Result<Vec<FaceId>> {
    let ranges = numbered(list, 'P')?;
    let pieces = pieces(model, By::Part);
    let count = pieces.len();
    for range in &ranges {
        if *range.start() >= count {
            bail!(
                "there is no part P{}; the model has {count}",
                range.start() + 1
            );
        }
    }
    let those = pieces.into_iter().enumerate();
    let those = those.filter(|(i, _)| ranges.iter().any(|range| range.contains(i)));
    Ok(those.flat_map(|(_, piece)| piece.faces).collect())
}

/// The faces that come within a distance of a point.
pub(super) fn within(model: &Model, middle: DVec3, radius: f64) -> Vec<FaceId> {
    let (triangles, faces) = all_triangles(&model.mesh);
    let comes_near = |triangle: &[VertexId; 3]| {
        let corners = triangle.map(|v| model.mesh.position(v));
        closest_on_triangle(middle, corners).distance_squared(middle) <= radius * radius
    };
    let near = triangles.iter().zip(faces);
    near.filter(|(triangle, _)| comes_near(triangle))
        .map(|(_, face)| face)
        .collect()
}

impl NamedOptions for Region {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.text("part", &mut self.part);
        visitor.text("group", &mut self.group);
        visitor.parsed("near", &mut self.near, sphere, |near| sphere_text(*near));
        visitor.text("where-crossing", &mut self.where_crossing);
    }
}
