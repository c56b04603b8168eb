//! A new watertight skin round what the model fills.

mod report;
mod skin;

pub use skin::{Then, WALL};

use super::named_options::{NamedOptions, Visitor};
use super::region::chosen_parts;
use super::remesh::Faces;
use super::together::{any_of, excludes, needs, within};
use super::{Context, Outcome};
use crate::quantity::Budget;
use crate::said;
use anyhow::{Result, bail};
use hurmo_core::audit::{self, Audit};
use hurmo_core::parts::{only, replaced};
use hurmo_core::progress::Cancelled;
use hurmo_core::remesh::dual_contouring::ReskinOptions;
use hurmo_core::topology::Parts;
use hurmo_core::units::Length;
use hurmo_core::{FaceId, Model, PartId};
use skin::{Cells, Fineness};
use std::collections::BTreeSet;

/// Options of a new skin.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// Cells of this length
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub cell: Option<Length>,
    /// The largest cells whose skin stays within this distance of the model
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub within: Option<Length>,
    /// At most this many triangles: 5000, 20k, 1.5M or 12.5%
    #[cfg_attr(feature = "clap", arg(long, value_name = "BUDGET"))]
    pub to: Option<Budget>,
    /// A smooth skin, without sharp edges
    #[cfg_attr(feature = "clap", arg(long))]
    pub rounded: bool,
    /// What faces it is rebuilt with: quads have sides of about a cell, or are as many as --to says
    #[cfg_attr(feature = "clap", arg(long, value_enum, value_name = "FACES", default_value_t = Faces::Triangles))]
    pub into: Faces,
    /// Leave triangles as cells make them, instead of even along the skin: faster, but ragged
    #[cfg_attr(feature = "clap", arg(long))]
    pub keep_cells: bool,
    /// A skin at this distance round all faces, whichever way they look, instead of round what the model
    /// fills; it goes in through holes wider than twice the distance
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub offset: Option<Length>,
    /// Fill gaps up to this width, between faces that look at each other
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub close_gaps: Option<Length>,
    /// Make walls at least so thick, sheets too
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub min_thickness: Option<Length>,
    /// Fill rooms that have no way out
    #[cfg_attr(feature = "clap", arg(long))]
    pub fill_voids: bool,
    /// Then bring fine detail back: divide the skin and move it onto the model, this many times. Of quads each
    /// time makes a file of its own beside OUT
    #[cfg_attr(feature = "clap", arg(long, value_name = "N", value_parser = clap::value_parser!(u8).range(1..=8)))]
    pub levels: Option<u8>,
    /// With --levels: the farthest that a vertex may move [default: one cell]
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub max_displacement: Option<Length>,
    /// Then reduce it, to a budget (40k) or to as few triangles as stay within a distance of it
    /// ('within 0.1mm'), so that flat areas don't pay for cells
    #[cfg_attr(feature = "clap", arg(long, value_name = "BUDGET|within LENGTH"))]
    pub then_decimate: Option<Then>,
    /// Only these parts get a new skin: P3, or P1,P4..P6
    #[cfg_attr(feature = "clap", arg(long, value_name = "PART,…"))]
    pub part: Option<String>,
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        let (cell, to) = (("cell", self.cell.is_some()), ("to", self.to.is_some()));
        let tolerance = ("within", self.within.is_some());
        any_of(&[cell, tolerance, to], "say how fine")?;
        excludes(cell, &[tolerance, to])?;
        let (part, then) = (
            ("part", self.part.is_some()),
            ("then-decimate", self.then_decimate.is_some()),
        );
        excludes(to, &[tolerance, then, part])?;
        let offset = ("offset", self.offset.is_some());
        let closing = ("close-gaps", self.close_gaps.is_some());
        let walls = ("min-thickness", self.min_thickness.is_some());
        excludes(tolerance, &[offset, closing, walls])?;
        excludes(offset, &[closing, walls])?;
        let levels = ("levels", self.levels.is_some());
        let into_quads = ("into quads", self.into == Faces::Quads);
        excludes(into_quads, &[then, ("keep-cells", self.keep_cells)])?;
        needs(
            ("max-displacement", self.max_displacement.is_some()),
            levels,
        )?;
        if self.levels_of_quads() > 0 {
            excludes(levels, &[part])?;
        }
        if let Some(levels) = self.levels {
            within("levels", f64::from(levels), 1.0..=8.0)?;
        }
        self.part
            .as_deref()
            .map(|list| crate::quantity::numbered(list, 'P'))
            .transpose()?;
        Ok(())
    }

    /// How many levels of quads are made.
    pub(super) fn levels_of_quads(&self) -> usize {
        match self.into {
            Faces::Quads => self.levels.map_or(0, usize::from),
            Faces::Triangles => 0,
        }
    }

    /// Makes a new skin, round instances as well: it is one mesh.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        let instances = context.model.instances();
        if let Some(parts) = &self.part {
            if instances > 0 {
                bail!(
                    "--part can't distinguish instances: `hurmo convert --flatten-transforms` writes them out"
                );
            }
            return self.of_parts(context, parts);
        }
        if instances == 0 {
            return skin::apply(context, &self.fineness(context)?);
        }
        hurmo_formats::check_instances(context.model)?;
        let model = context.model.expanded();
        let audit = audited(&model, context)?;
        let all = Context {
            model: &model,
            audit: &audit,
            analysis: None,
            ..*context
        };
        let mut done = skin::apply(&all, &self.fineness(&all)?)?;
        if let Some(step) = done.reports.first_mut() {
            let written = said!(
                "instances-written-out",
                "{instances:instance} written out, to be part of it",
                instances = instances
            );
            step.single.insert(0, written);
        }
        Ok(done)
    }

    /// A new skin in place of some parts; all others stay.
    fn of_parts(&self, context: &Context<'_>, list: &str) -> Result<Outcome> {
        let mesh = &context.model.mesh;
        let faces: Vec<FaceId> = chosen_parts(context.model, list)?;
        let parts = Parts::of(mesh);
        let concerned: BTreeSet<PartId> = faces
            .iter()
            .filter_map(|&face| parts.of_face(mesh, face))
            .collect();
        let model = only(context.model, &faces);
        let audit = audited(&model, context)?;
        let those = Context {
            model: &model,
            audit: &audit,
            analysis: None,
            ..*context
        };
        let mut done = skin::apply(&those, &self.fineness(context)?)?;
        if let Some(step) = done.reports.first_mut() {
            let others = parts.len() - concerned.len();
            step.did.push(said!(
                "parts-replaced",
                "in place of {parts:part}; {others:other} as before",
                parts = concerned.len(),
                others = others,
            ));
        }
        done.faces_apart = false;
        done.model = replaced(context.model, |part| concerned.contains(&part), &done.model);
        Ok(done)
    }

    fn fineness(&self, context: &Context<'_>) -> Result<Fineness> {
        let length =
            |length: Option<Length>| length.map(|length| context.length(length)).transpose();
        let triangles = context.model.mesh.triangle_count();
        let to = self.to.map(|to| to.of(triangles).max(4));
        let cells = match (length(self.cell)?, length(self.within)?, to) {
            (Some(cell), ..) => Cells::Of(cell),
            (_, Some(distance), _) => Cells::Within(distance),
            (.., Some(to)) => Cells::To(to),
            _ => bail!("give --cell LENGTH, --within LENGTH or --to BUDGET"),
        };
        let mut options = ReskinOptions::of(1.0);
        options.rounded = self.rounded;
        // What is reduced then need not be even; quads need it.
        let is_reduced =
            self.into == Faces::Triangles && (to.is_some() || self.then_decimate.is_some());
        options.even = !self.keep_cells && !is_reduced;
        options.offset = length(self.offset)?;
        options.close_gaps = length(self.close_gaps)?;
        options.min_thickness = length(self.min_thickness)?;
        options.fill_voids = self.fill_voids;
        if let Some(free) = crate::memory::free_memory() {
            options.memory = free as f64;
        }
        Ok(Fineness {
            cells,
            levels: self.levels.map_or(0, usize::from),
            max_displacement: length(self.max_displacement)?,
            then: self.then_decimate,
            into: self.into,
            options,
        })
    }
}

/// The audit of what a skin is put round, in the same brief.
fn audited(model: &Model, context: &Context<'_>) -> Result<Audit, Cancelled> {
    let mut options = audit::AuditOptions::default();
    options.brief = context.brief.clone();
    audit::audit(model, &options, context.observer)
}

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.value("cell", &mut self.cell);
        visitor.value("within", &mut self.within);
        visitor.value("to", &mut self.to);
        visitor.flag("rounded", &mut self.rounded);
        visitor.usual_word("into", &mut self.into, Faces::Triangles);
        visitor.flag("keep-cells", &mut self.keep_cells);
        visitor.value("offset", &mut self.offset);
        visitor.value("close-gaps", &mut self.close_gaps);
        visitor.value("min-thickness", &mut self.min_thickness);
        visitor.flag("fill-voids", &mut self.fill_voids);
        visitor.number_or_none("levels", &mut self.levels);
        visitor.value("max-displacement", &mut self.max_displacement);
        visitor.value("then-decimate", &mut self.then_decimate);
        visitor.text("part", &mut self.part);
    }
}
