//! Closing holes.

use super::named_options::{NamedOptions, Visitor};
use super::together::excludes;
use super::{Context, Outcome};
use crate::quantity::{RimSize, axis, numbered, point, point_text};
use crate::record::StepReport;
use crate::text;
use crate::words::Words;
use anyhow::{Result, anyhow, bail};
use glam::DVec3;
use hurmo_core::fill::{self, BridgeError, Islands, Surface};
use hurmo_core::units::Axis;
use std::ops::RangeInclusive;

/// Options of a fill.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// Close only these rims: R1, or R1,R3..R5
    #[cfg_attr(feature = "clap", arg(long, value_name = "RIM,…"))]
    pub rim: Option<String>,
    /// Close only rims on these parts: P1, or P2..
    #[cfg_attr(feature = "clap", arg(long, value_name = "PART,…"))]
    pub part: Option<String>,
    /// Close only rims of at most this size: a number of edges, or a length
    #[cfg_attr(feature = "clap", arg(long, value_name = "EDGES|LENGTH"))]
    pub up_to: Option<RimSize>,
    /// Close only the rim nearest to this point
    #[cfg_attr(feature = "clap", arg(long, value_name = "X,Y,Z", value_parser = point, allow_hyphen_values = true))]
    pub nearest: Option<DVec3>,
    /// Leave this many of the longest rims: a bust's base, a sheet's border
    #[cfg_attr(feature = "clap", arg(long, value_name = "N", default_value_t = 0))]
    pub leave_longest: usize,
    /// Leave rims in the plane through the origin across this axis: the model is one half of a
    /// mirrored whole
    #[cfg_attr(feature = "clap", arg(long, value_name = "x|y|z", value_parser = axis))]
    pub mirror: Option<Axis>,
    /// Join two rims with a band of faces, and close none
    #[cfg_attr(feature = "clap", arg(long, value_name = "RIM,RIM"))]
    pub bridge: Option<String>,
    /// What to do with parts that float in a hole; by default they are left
    #[cfg_attr(feature = "clap", arg(long, value_name = "drop|join"))]
    pub islands: Option<IslandsArgument>,
    /// First remove this many rows of ragged faces from the border
    #[cfg_attr(feature = "clap", arg(long, value_name = "ROWS", default_value_t = 0))]
    pub trim: usize,
    /// The shape of the new faces
    #[cfg_attr(feature = "clap", arg(long, value_name = "flat|tight|round|grid"))]
    pub surface: Option<Shape>,
    /// Close rims even where the new faces meet others
    #[cfg_attr(feature = "clap", arg(long))]
    pub may_cross: bool,
}

/// What to do with parts that float in a hole.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum IslandsArgument {
    /// They are removed, and the hole closes over their place
    Drop,
    /// The new faces take them in
    Join,
}

impl Words for IslandsArgument {
    const WORDS: &'static [(&'static str, Self)] = &[("drop", Self::Drop), ("join", Self::Join)];
}

/// The shape of new faces.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum Shape {
    /// Least area, over the vertices of the rim
    Flat,
    /// As dense as the surroundings, of least area
    Tight,
    /// As dense and as curved as the surroundings
    Round,
    /// Quads across, for rims with an even number of edges
    Grid,
}

impl Words for Shape {
    const WORDS: &'static [(&'static str, Self)] = &[
        ("flat", Self::Flat),
        ("tight", Self::Tight),
        ("round", Self::Round),
        ("grid", Self::Grid),
    ];
}

impl Options {
    /// Makes sure that the options can be understood.
    pub fn check(&self) -> Result<()> {
        let closing = [
            ("rim", self.rim.is_some()),
            ("part", self.part.is_some()),
            ("up-to", self.up_to.is_some()),
            ("nearest", self.nearest.is_some()),
            ("leave-longest", self.leave_longest > 0),
            ("mirror", self.mirror.is_some()),
            ("islands", self.islands.is_some()),
            ("trim", self.trim > 0),
            ("surface", self.surface.is_some()),
            ("may-cross", self.may_cross),
        ];
        excludes(("bridge", self.bridge.is_some()), &closing)?;
        ranges(&self.rim, 'R')?;
        ranges(&self.part, 'P')?;
        self.bridge.as_deref().map(two_rims).transpose()?;
        Ok(())
    }

    /// Closes rims, or joins two.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        if let Some(pair) = &self.bridge {
            let rims = two_rims(pair)?;
            let bridged = fill::bridge(context.model, rims).map_err(|error| match error {
                BridgeError::FaceOppositeWays(..) => anyhow!("{error}: `hurmo mend` turns faces"),
                error => error.into(),
            })?;
            let step = StepReport::bridged(context.model, rims, &bridged);
            return Ok(Outcome::new(bridged.model, vec![step]));
        }
        let (rims, parts) = (ranges(&self.rim, 'R')?, ranges(&self.part, 'P')?);
        let mesh = &context.audit.mesh;
        check_there(&rims, 'R', mesh.rims, "rim")?;
        check_there(&parts, 'P', mesh.parts, "part")?;
        let mut options = fill::FillOptions::default();
        options.rims = rims;
        options.parts = parts;
        options.nearest = self.nearest;
        options.leave_longest = self.leave_longest;
        options.mirror = self.mirror;
        options.trim = self.trim;
        options.islands = self.islands.map(|islands| match islands {
            IslandsArgument::Drop => Islands::Drop,
            IslandsArgument::Join => Islands::Join,
        });
        options.surface = self.surface.map(|shape| match shape {
            Shape::Flat => Surface::Flat,
            Shape::Tight => Surface::Tight,
            Shape::Round => Surface::Round,
            Shape::Grid => Surface::Grid,
        });
        options.leave_crossing = !self.may_cross;
        match self.up_to {
            Some(RimSize::Edges(edges)) => options.up_to_edges = Some(edges),
            Some(RimSize::Length(length)) => options.up_to_length = Some(context.length(length)?),
            None => {}
        }
        let outcome = fill::fill(context.model, &options, context.observer)?;
        let step = StepReport::filled(context.model, &outcome);
        Ok(Outcome::new(outcome.model, vec![step]))
    }
}

fn two_rims(pair: &str) -> Result<[usize; 2]> {
    let rims: Vec<usize> = numbered(pair, 'R')?.into_iter().flatten().take(3).collect();
    match rims.as_slice() {
        &[one, two] => Ok([one, two]),
        _ => bail!("--bridge joins two rims, as in --bridge R1,R2"),
    }
}

fn ranges(list: &Option<String>, letter: char) -> Result<Vec<RangeInclusive<usize>>> {
    match list {
        Some(list) => numbered(list, letter),
        None => Ok(Vec::new()),
    }
}

fn check_there(
    ranges: &[RangeInclusive<usize>],
    letter: char,
    there: usize,
    noun: &str,
) -> Result<()> {
    if let Some(range) = ranges.iter().find(|range| *range.start() >= there) {
        bail!(
            "there is no {letter}{}: the model has {}",
            range.start() + 1,
            text::counted(there, noun)
        );
    }
    Ok(())
}

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.text("rim", &mut self.rim);
        visitor.text("part", &mut self.part);
        visitor.value("up-to", &mut self.up_to);
        visitor.parsed("nearest", &mut self.nearest, point, |at| point_text(*at));
        visitor.number("leave-longest", &mut self.leave_longest, 0);
        visitor.parsed("mirror", &mut self.mirror, axis, |axis| axis.name().into());
        visitor.text("bridge", &mut self.bridge);
        visitor.word("islands", &mut self.islands);
        visitor.number("trim", &mut self.trim, 0);
        visitor.word("surface", &mut self.surface);
        visitor.flag("may-cross", &mut self.may_cross);
    }
}
