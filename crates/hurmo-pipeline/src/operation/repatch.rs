//! Cutting out the faces round faults, and closing the openings anew.

use super::named_options::{NamedOptions, Visitor};
use super::together::needs;
use super::{Context, region};
use crate::quantity::{sphere, sphere_text};
use crate::record::{Moved, Statement, StepReport, Value, shorten};
use crate::said;
use crate::text::{self, measure};
use anyhow::{Result, bail};
use glam::DVec3;
use hurmo_core::Model;
use hurmo_core::repatch::{self, CHECKS, Left, Patched, RepatchOutcome, Where};
use std::str::FromStr;

/// What to cut out, and how wide.
#[derive(Clone, Debug)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[cfg_attr(feature = "clap", group(skip))]
#[non_exhaustive]
pub struct Options {
    /// Then cut out the faces at each finding of these checks, or within a radius of a point, and fill the openings
    /// with the curvature and density of their surroundings, where that leaves fewer faults. For folds, twisted
    /// strips and double skins that nothing else clears
    #[cfg_attr(
        feature = "clap",
        arg(long, value_name = "CHECK,…|X,Y,Z,R", allow_hyphen_values = true)
    )]
    pub repatch: Option<Places>,
    /// For --repatch: rings of faces round them to cut out too
    #[cfg_attr(feature = "clap", arg(long, value_name = "RINGS", default_value_t = 1))]
    pub grow: usize,
}

/// The places to cut out.
#[derive(Clone, Debug, PartialEq)]
pub enum Places {
    /// At the findings of these checks.
    Checks(Vec<String>),
    /// Within a radius of a point.
    Near(DVec3, f64),
}

impl FromStr for Places {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let starts_a_number = |c: char| c.is_ascii_digit() || "+-.".contains(c);
        if text.starts_with(starts_a_number) {
            return sphere(text).map(|(middle, radius)| Places::Near(middle, radius));
        }
        let names: Vec<String> = text.split(',').map(|name| name.trim().into()).collect();
        let unknown = names.iter().find(|name| !CHECKS.contains(&name.as_str()));
        match unknown {
            None => Ok(Places::Checks(names)),
            Some(name) => {
                let why = match hurmo_core::audit::named(name) {
                    Some(_) => "finds nothing that can be cut out",
                    None => "is no check",
                };
                Err(format!("'{name}' {why}; these do: {}", CHECKS.join(", ")))
            }
        }
    }
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        let grow = ("grow", self.grow != Self::default().grow);
        needs(grow, ("repatch", self.repatch.is_some()))
    }

    /// Cuts out and closes anew, where that is asked for.
    pub fn apply(
        &self,
        model: Model,
        context: &Context<'_>,
    ) -> Result<(Model, Option<StepReport>)> {
        let Some(places) = &self.repatch else {
            return Ok((model, None));
        };
        let place = match places {
            Places::Checks(checks) => Where::Checks(checks.clone()),
            Places::Near(middle, radius) => match region::within(&model, *middle, *radius) {
                faces if faces.is_empty() => bail!(
                    "no face lies within {} of {}; nothing was written",
                    measure(*radius),
                    text::position(*middle)
                ),
                faces => Where::Faces(faces),
            },
        };
        let mut options = repatch::RepatchOptions::at(place);
        options.grow = self.grow;
        options.thresholds = context.brief.thresholds.clone();
        let outcome = repatch::repatch(&model, &options, context.observer)?;
        let step = report(&model, &outcome);
        Ok((outcome.model, Some(step)))
    }
}

fn report(before: &Model, outcome: &RepatchOutcome) -> StepReport {
    let sum = |of: fn(&Patched) -> usize| outcome.patched.iter().map(of).sum::<usize>();
    let mut did = Vec::new();
    if !outcome.patched.is_empty() {
        did.push(said!(
            "repatched",
            "{places:place} cut out and closed anew: {added:new face} for {removed:old one}",
            places = outcome.patched.len(),
            added = sum(|place| place.added),
            removed = sum(|place| place.removed),
        ));
    }
    let mut single: Vec<Statement> = outcome.patched.iter().map(patched).collect();
    let mut left: Vec<Statement> = outcome.left.iter().map(left_at).collect();
    shorten(&mut single, 8);
    shorten(&mut left, 6);
    StepReport {
        did,
        single,
        left,
        moved: Moved::Both.between(&before.mesh, &outcome.model.mesh),
        ..StepReport::of("repatch")
    }
}

fn patched(place: &Patched) -> Statement {
    let cleared: Vec<Statement> = place
        .faults
        .iter()
        .filter(|(_, was, is)| is < was)
        .map(|(check, was, is)| {
            let check = check.to_string();
            said!(
                "cleared",
                "{check} {was} → {is}",
                check = check,
                was = *was,
                is = *is
            )
        })
        .collect();
    said!(
        "place",
        "at {at}, {added:face} for {removed}{spanned}{cleared}",
        at = place.at,
        added = place.added,
        removed = place.removed,
        spanned = (place.spanned > 0).then(|| said!(
            "hole",
            ", over a hole of {edges:edge}",
            edges = place.spanned
        )),
        cleared = (!cleared.is_empty()).then(|| said!("cleared", ": {checks}", checks = cleared)),
    )
}

fn left_at(place: &Left) -> Statement {
    said!(
        "place-left",
        "left at {at} ({faces:face}): {why}",
        at = place.at,
        faces = place.faces,
        why = Value::reason(&place.reason),
    )
}

impl Default for Options {
    fn default() -> Self {
        Self {
            repatch: None,
            grow: 1,
        }
    }
}

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.value("repatch", &mut self.repatch);
        visitor.number("grow", &mut self.grow, Self::default().grow);
    }
}

impl std::fmt::Display for Places {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Places::Checks(checks) => f.write_str(&checks.join(",")),
            Places::Near(middle, radius) => f.write_str(&sphere_text((*middle, *radius))),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_are_checks_or_a_point_with_a_radius() {
        let near = Places::Near(DVec3::new(-1.0, 2.0, 0.5), 0.1);
        assert_eq!("-1,2,0.5,0.1".parse(), Ok(near));
        let checks = ["intersecting-faces", "sliver-faces"].map(String::from);
        let parsed = "intersecting-faces,sliver-faces".parse();
        assert_eq!(parsed, Ok(Places::Checks(checks.to_vec())));
        for wrong in ["1,2,3", "floating-parts", "folds", ""] {
            assert!(wrong.parse::<Places>().is_err(), "{wrong}");
        }
    }
}
