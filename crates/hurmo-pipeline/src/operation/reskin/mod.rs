//! A new watertight skin round what the model fills.

mod skin;

pub use skin::{Then, WALL};

use super::region::chosen_parts;
use super::spelling::{Spelled, Spelling};
use super::{Context, Outcome};
use crate::quantity::Budget;
use crate::text;
use anyhow::{Result, bail};
use hurmo_core::audit::{self, Audit};
use hurmo_core::parts::{only, replaced};
use hurmo_core::remesh::dual_contouring::ReskinOptions;
use hurmo_core::topology::Parts;
use hurmo_core::units::Length;
use hurmo_core::{FaceId, Model, PartId};
use skin::{Cells, Fineness};
use std::collections::BTreeSet;

/// Options of a new skin.
#[derive(Clone, Debug, Default, clap::Args)]
pub struct Options {
    /// Cells of this length
    #[arg(long, value_name = "LENGTH", conflicts_with_all = ["to", "within"], required_unless_present_any = ["within", "to"])]
    pub cell: Option<Length>,
    /// The largest cells whose skin stays within this distance of the model
    #[arg(long, value_name = "LENGTH", conflicts_with = "to")]
    pub within: Option<Length>,
    /// At most so many triangles: 5000, 20k, 1.5M or 12.5%
    #[arg(long, value_name = "BUDGET")]
    pub to: Option<Budget>,
    /// A smooth skin, without sharp edges
    #[arg(long)]
    pub rounded: bool,
    /// A skin at this distance round all faces, whichever way they look, instead of round what the model
    /// fills; it goes in through holes wider than twice the distance
    #[arg(long, value_name = "LENGTH", conflicts_with_all = ["within", "close_gaps", "min_thickness"])]
    pub offset: Option<Length>,
    /// Fill gaps up to this width, between faces that look at each other
    #[arg(long, value_name = "LENGTH", conflicts_with = "within")]
    pub close_gaps: Option<Length>,
    /// Make walls at least so thick, sheets too
    #[arg(long, value_name = "LENGTH", conflicts_with = "within")]
    pub min_thickness: Option<Length>,
    /// Fill rooms that have no way out
    #[arg(long)]
    pub fill_voids: bool,
    /// Then bring fine detail back: divide the skin and move it onto the model, so many times
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u8).range(1..=8))]
    pub levels: Option<u8>,
    /// With --levels: the farthest that a vertex may move [default: one cell]
    #[arg(long, value_name = "LENGTH", requires = "levels")]
    pub max_displacement: Option<Length>,
    /// Then reduce it, to a budget (40k) or to as few triangles as stay within a distance of it
    /// ('within 0.1mm'), so that flat areas don't pay for cells
    #[arg(long, value_name = "BUDGET|within LENGTH", conflicts_with = "to")]
    pub then_decimate: Option<Then>,
    /// Only these parts get a new skin: P3, or P1,P4..P6
    #[arg(long, value_name = "PART,…", conflicts_with = "to")]
    pub part: Option<String>,
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        self.part
            .as_deref()
            .map(|list| crate::quantity::numbered(list, 'P'))
            .transpose()?;
        Ok(())
    }

    /// Makes a new skin, round instances as well: it is one mesh.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        let instances = context.model.instances();
        if let Some(parts) = &self.part {
            if instances > 0 {
                bail!(
                    "--part can't tell instances apart: `hurmo convert --flatten-transforms` writes them out"
                );
            }
            return self.of_parts(context, parts);
        }
        if instances == 0 {
            return skin::apply(context, &self.fineness(context)?);
        }
        hurmo_formats::check_instances(context.model)?;
        let model = context.model.expanded();
        let audit = audited(&model, context);
        let all = Context {
            model: &model,
            audit: &audit,
            analysis: None,
            ..*context
        };
        let mut done = skin::apply(&all, &self.fineness(&all)?)?;
        if let Some(step) = done.reports.first_mut() {
            let instances = text::counted(instances, "instance");
            step.single
                .insert(0, format!("{instances} written out, to be part of it"));
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
        let audit = audited(&model, context);
        let those = Context {
            model: &model,
            audit: &audit,
            analysis: None,
            ..*context
        };
        let mut done = skin::apply(&those, &self.fineness(context)?)?;
        if let Some(step) = done.reports.first_mut() {
            let others = parts.len() - concerned.len();
            step.did.push(format!(
                "in place of {}; {} as before",
                text::counted(concerned.len(), "part"),
                text::counted(others, "other")
            ));
        }
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
        let usual = ReskinOptions::of(1.0);
        let free = crate::memory::free_memory().map_or(usual.memory, |free| free as f64);
        Ok(Fineness {
            cells,
            levels: self.levels.map_or(0, usize::from),
            max_displacement: length(self.max_displacement)?,
            then: self.then_decimate,
            options: ReskinOptions {
                rounded: self.rounded,
                offset: length(self.offset)?,
                close_gaps: length(self.close_gaps)?,
                min_thickness: length(self.min_thickness)?,
                fill_voids: self.fill_voids,
                memory: free,
                ..usual
            },
        })
    }
}

/// The audit of what a skin is put round, in the same brief.
fn audited(model: &Model, context: &Context<'_>) -> Audit {
    let options = audit::AuditOptions {
        brief: context.brief.clone(),
        ..audit::AuditOptions::default()
    };
    audit::audit(model, &options, context.observer)
}

impl Spelled for Options {
    fn spelled(&self) -> Spelling {
        Spelling::new()
            .value("cell", self.cell)
            .value("within", self.within)
            .value("to", self.to)
            .flag("rounded", self.rounded)
            .value("offset", self.offset)
            .value("close-gaps", self.close_gaps)
            .value("min-thickness", self.min_thickness)
            .flag("fill-voids", self.fill_voids)
            .value("levels", self.levels)
            .value("max-displacement", self.max_displacement)
            .value("then-decimate", self.then_decimate)
            .value("part", self.part.as_ref())
    }
}
