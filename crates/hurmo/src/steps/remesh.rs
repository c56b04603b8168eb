//! Rebuilding with other faces.

use super::solid::{self, Fineness, Then};
use super::{At, Done};
use crate::out::{self, count};
use crate::quantity::{Budget, angle};
use crate::report::Rebuilt;
use crate::story::Step;
use anyhow::{Result, bail};
use clap::ValueEnum;
use hurmo_core::remesh::{self, DEFAULT_CREASE, Target};
use hurmo_core::units::Length;

/// Options of a rebuilding.
#[derive(Clone, Debug, clap::Args)]
pub struct Options {
    /// What to rebuild it into
    #[arg(long, value_enum)]
    into: Into,
    /// Into triangles: edges of about this length
    #[arg(long, value_name = "LENGTH", conflicts_with = "to")]
    edge: Option<Length>,
    /// Into a solid: cells of this length
    #[arg(long, value_name = "LENGTH", conflicts_with_all = ["to", "edge"])]
    cell: Option<Length>,
    /// So many triangles: 5000, 20k, 1.5M or 12.5%; about so many into triangles, at most into a
    /// solid
    #[arg(long, value_name = "BUDGET")]
    to: Option<Budget>,
    /// Into a solid: leave sharp edges out, for a smooth skin
    #[arg(long)]
    rounded: bool,
    /// Into a solid: then reduce it, to a budget (40k) or to as few triangles as stay within a
    /// distance of it ('within 0.1mm'), so that flat areas don't pay for cells
    #[arg(long, value_name = "BUDGET|within LENGTH", requires = "cell")]
    then_decimate: Option<Then>,
    /// Into triangles: edges that bend by more than this angle, in degrees, are kept
    #[arg(long, value_name = "DEGREES", default_value_t = DEFAULT_CREASE, value_parser = angle)]
    crease: f64,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Into {
    /// Even triangles, on the surface as it is
    Triangles,
    /// A new skin, closed and sound, round whatever the model fills
    Solid,
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        match self.into {
            Into::Triangles if self.cell.is_some() || self.rounded => {
                bail!("--cell and --rounded are for --into solid")
            }
            Into::Solid if self.edge.is_some() => bail!("--edge is for --into triangles"),
            Into::Triangles if self.edge.is_none() && self.to.is_none() => {
                bail!("say how fine: --edge LENGTH or --to BUDGET")
            }
            Into::Solid if self.cell.is_none() && self.to.is_none() => {
                bail!("say how fine: --cell LENGTH or --to BUDGET")
            }
            _ => Ok(()),
        }
    }

    /// Rebuilds.
    pub fn apply(&self, at: &At<'_>) -> Result<Done> {
        let triangles = crate::job::triangle_count(at.model);
        match self.into {
            Into::Triangles => self.even_triangles(at, triangles),
            Into::Solid => {
                let fineness = Fineness {
                    cell: self.cell.map(|cell| at.length(cell)).transpose()?,
                    to: self.to.map(|to| to.of(triangles).max(4)),
                    then: self.then_decimate,
                    rounded: self.rounded,
                };
                solid::apply(at, &fineness)
            }
        }
    }

    fn even_triangles(&self, at: &At<'_>, triangles: usize) -> Result<Done> {
        let target = match (self.edge, self.to) {
            (Some(edge), _) => Target::Edge(at.length(edge)?),
            (None, Some(budget)) => Target::Count(budget.of(triangles).max(1)),
            (None, None) => bail!("say how fine: --edge LENGTH or --to BUDGET"),
        };
        let options = remesh::Options {
            crease: self.crease,
            ..remesh::Options::of(target)
        };
        let outcome = remesh::remesh(at.model, &options, at.observer)?;
        let rebuilt = Rebuilt::between(&at.model.mesh, &outcome.model.mesh);
        let step = Step {
            step: "remesh",
            did: vec![format!(
                "{} → {} triangles of about {} a side, {} on lines kept",
                count(outcome.before),
                count(outcome.after),
                out::measure(outcome.edges[0]),
                out::counted(outcome.line_edges, "edge"),
            )],
            single: Vec::new(),
            left: Vec::new(),
            moved: rebuilt.as_ref().map(Rebuilt::moved),
            rebuilt: rebuilt.map(Box::new),
        };
        Ok(Done::new(outcome.model, vec![step]))
    }
}
