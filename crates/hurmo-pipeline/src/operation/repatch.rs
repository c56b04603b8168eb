//! Cutting out the faces round faults, and closing the openings anew.

use super::spelling::{Spelled, Spelling};
use super::{Context, region};
use crate::quantity::{sphere, sphere_text};
use crate::record::{Moved, StepReport};
use crate::text::{self, measure, shorten};
use anyhow::{Result, bail};
use glam::DVec3;
use hurmo_core::Model;
use hurmo_core::repatch::{self, CHECKS, Left, Patched, RepatchOutcome, Where};
use std::str::FromStr;

/// What to cut out, and how wide.
#[derive(Clone, Debug, clap::Args)]
#[group(skip)]
pub struct Options {
    /// Then cut out the faces at each finding of these checks, or within a radius of a point, and fill the openings
    /// with the curvature and density of their surroundings, where that leaves fewer faults. For folds, twisted
    /// strips and double skins that nothing else clears
    #[arg(long, value_name = "CHECK,…|X,Y,Z,R", allow_hyphen_values = true)]
    pub repatch: Option<Places>,
    /// For --repatch: rings of faces round them to cut out too
    #[arg(long, value_name = "RINGS", default_value_t = 1, requires = "repatch")]
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
        let options = repatch::RepatchOptions {
            at: place,
            grow: self.grow,
            thresholds: context.brief.thresholds.clone(),
        };
        let outcome = repatch::repatch(&model, &options, context.observer);
        let step = report(&model, &outcome);
        Ok((outcome.model, Some(step)))
    }
}

fn report(before: &Model, outcome: &RepatchOutcome) -> StepReport {
    let sum = |of: fn(&Patched) -> usize| outcome.patched.iter().map(of).sum::<usize>();
    let mut did = Vec::new();
    if !outcome.patched.is_empty() {
        did.push(format!(
            "{} cut out and closed anew: {} for {}",
            text::counted(outcome.patched.len(), "place"),
            text::counted(sum(|place| place.added), "new face"),
            text::counted(sum(|place| place.removed), "old one"),
        ));
    }
    let mut single: Vec<String> = outcome.patched.iter().map(patched_in_words).collect();
    let mut left: Vec<String> = outcome.left.iter().map(left_in_words).collect();
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

fn patched_in_words(place: &Patched) -> String {
    let cleared: Vec<String> = place
        .faults
        .iter()
        .filter(|(_, was, is)| is < was)
        .map(|(check, was, is)| format!("{check} {} → {}", text::count(*was), text::count(*is)))
        .collect();
    let cleared = match cleared.is_empty() {
        true => String::new(),
        false => format!(": {}", cleared.join(", ")),
    };
    let spanned = match place.spanned {
        0 => String::new(),
        edges => format!(", over a hole of {}", text::counted(edges, "edge")),
    };
    format!(
        "at {}, {} for {}{spanned}{cleared}",
        text::position(place.at),
        text::counted(place.added, "face"),
        text::count(place.removed),
    )
}

fn left_in_words(place: &Left) -> String {
    format!(
        "left at {} ({}): {}",
        text::position(place.at),
        text::counted(place.faces, "face"),
        place.reason
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

impl Spelled for Options {
    fn spelled(&self) -> Spelling {
        let places = self.repatch.as_ref().map(|places| match places {
            Places::Checks(checks) => checks.join(","),
            Places::Near(middle, radius) => sphere_text((*middle, *radius)),
        });
        Spelling::new()
            .value("repatch", places)
            .unless("grow", self.grow, Self::default().grow)
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
