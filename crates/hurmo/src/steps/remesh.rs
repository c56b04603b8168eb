//! Rebuilding with other faces.

use super::{At, Done};
use crate::out::{self, count};
use crate::quantity::{Budget, angle};
use crate::story::{Moved, Step};
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
    /// Edges of about this length
    #[arg(
        long,
        value_name = "LENGTH",
        required_unless_present = "to",
        conflicts_with = "to"
    )]
    edge: Option<Length>,
    /// About so many triangles: 5000, 20k, 1.5M or 12.5%
    #[arg(long, value_name = "BUDGET")]
    to: Option<Budget>,
    /// Edges that bend by more than this angle, in degrees, are kept
    #[arg(long, value_name = "DEGREES", default_value_t = DEFAULT_CREASE, value_parser = angle)]
    crease: f64,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Into {
    /// Even triangles, on the surface as it is
    Triangles,
}

impl Options {
    /// Rebuilds.
    pub fn apply(&self, at: &At<'_>) -> Result<Done> {
        let Into::Triangles = self.into;
        let triangles = crate::job::triangle_count(at.model);
        let target = match (self.edge, self.to) {
            (Some(edge), _) => Target::Edge(at.length(edge)?),
            (None, Some(budget)) => Target::Count(budget.of(triangles).max(1)),
            (None, None) => bail!("say how fine: --edge LENGTH or --to BUDGET"),
        };
        let options = remesh::Options {
            target,
            crease: self.crease,
        };
        let outcome = remesh::remesh(at.model, &options, at.observer)?;
        let step = Step {
            step: "remesh",
            did: vec![format!(
                "{} → {} triangles of about {} a side, {} on lines kept",
                count(outcome.before),
                count(outcome.model.mesh.face_count()),
                out::measure(outcome.edge),
                out::counted(outcome.line_edges, "edge"),
            )],
            single: Vec::new(),
            left: Vec::new(),
            moved: Moved::Both.between(&at.model.mesh, &outcome.model.mesh),
        };
        let lost = outcome
            .lost
            .iter()
            .map(|what| format!("{what} of corners: remeshing does not carry them over yet"));
        Ok(Done {
            lost: lost.collect(),
            ..Done::new(outcome.model, vec![step])
        })
    }
}
