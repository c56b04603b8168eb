//! What a reduction takes more care of, as it is written on the command line.

use super::named_options::{NamedOptions, Visitor};
use super::symmetry;
use crate::quantity::{angle, axis};
use crate::words::Words;
use anyhow::{Result, bail};
use hurmo_core::decimate::{FeatureWeights, Shares, Weight};
use hurmo_core::mirror::Half;
use hurmo_core::parts::{By, Piece, pieces};
use hurmo_core::units::Axis;
use hurmo_core::{FaceId, Model};
use std::str::FromStr;

/// Edges that bend by more than this are creases, in degrees.
const CREASE: f64 = 30.0;

/// The options of every command that reduces.
#[derive(Clone, Debug)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct WeightArguments {
    /// Weights of feature lines: rims, groups (and materials), seams (of UVs, and hard edges), creases, as in
    /// groups=0.8. 0 = not kept, 0.5 = default, 1 = every vertex at which the line turns stays; 1 if no number is
    /// given. symmetry, or symmetry=x: one half is reduced, and the other is its image
    #[cfg_attr(
        feature = "clap",
        arg(long, value_name = "LINES[=W],…", value_delimiter = ',')
    )]
    keep: Vec<Keep>,
    /// For --keep creases: edges that bend by more than this angle, in degrees, are creases
    #[cfg_attr(feature = "clap", arg(long, value_name = "ANGLE", default_value_t = CREASE, value_parser = angle))]
    crease: f64,
    /// Weight of evenness, from 0 (triangles where the shape needs them) to 1 (as even as possible)
    #[cfg_attr(feature = "clap", arg(long, value_name = "W", default_value_t = 0.0, value_parser = share))]
    regularity: f64,
    /// Triangle density of a group, material or part, relative to the default: sails=3
    #[cfg_attr(
        feature = "clap",
        arg(long, value_name = "NAME=TIMES,…", value_delimiter = ',')
    )]
    focus: Vec<Focus>,
    /// Triangle density by a channel of the vertex colours (red, green, blue, alpha): red=3 is three times the
    /// default where the channel is full, 1 = default density where it is 0
    #[cfg_attr(
        feature = "clap",
        arg(long, alias = "focus-color", value_name = "CHANNEL=TIMES")
    )]
    focus_colour: Option<Focus>,
}

/// What is kept.
#[derive(Clone, Copy, Debug)]
enum Keep {
    /// Lines, and how well.
    Lines(Lines, Weight),
    /// Mirror symmetry, across an axis or the best one.
    Symmetry(Option<Axis>),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
enum Lines {
    Rims,
    Groups,
    Seams,
    Creases,
}

impl Words for Lines {
    const WORDS: &'static [(&'static str, Self)] = &[
        ("rims", Self::Rims),
        ("groups", Self::Groups),
        ("seams", Self::Seams),
        ("creases", Self::Creases),
    ];
}

impl FromStr for Keep {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let (name, how) = match text.split_once('=') {
            Some((name, how)) => (name.trim(), Some(how.trim())),
            None => (text.trim(), None),
        };
        if name.eq_ignore_ascii_case("symmetry") {
            return Ok(Self::Symmetry(how.map(axis).transpose()?));
        }
        let lines = Lines::of_word(&name.to_ascii_lowercase()).map_err(|_| {
            format!("'{name}' can't be kept; write rims, groups, seams, creases or symmetry")
        })?;
        let weight = how.unwrap_or("1").parse().ok().and_then(Weight::new);
        let weight = weight.ok_or_else(|| format!("'{text}': a weight lies between 0 and 1"))?;
        Ok(Self::Lines(lines, weight))
    }
}

fn share(text: &str) -> Result<f64, String> {
    match text.parse::<f64>() {
        Ok(share) if (0.0..=1.0).contains(&share) => Ok(share),
        _ => Err(format!("'{text}' does not lie between 0 and 1")),
    }
}

/// What is spent more on, and how many times as much.
#[derive(Clone, Debug)]
struct Focus {
    name: String,
    times: f32,
}

impl FromStr for Focus {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let fail = || format!("'{text}' is no focus; write NAME=3, with a number from 0.1 to 10");
        let (name, times) = text.rsplit_once('=').ok_or_else(fail)?;
        match times.trim().parse::<f32>() {
            Ok(times) if (0.1..=10.0).contains(&times) && !name.trim().is_empty() => Ok(Self {
                name: name.trim().into(),
                times,
            }),
            _ => Err(fail()),
        }
    }
}

impl WeightArguments {
    /// Whether evenness is asked for.
    pub fn evens(&self) -> bool {
        self.regularity > 0.0
    }

    /// Whether symmetry is to be kept.
    pub fn keeps_symmetry(&self) -> bool {
        self.keep
            .iter()
            .any(|keep| matches!(keep, Keep::Symmetry(_)))
    }

    /// The half of a model, if its symmetry is to be kept; an error if it has none.
    pub fn half(&self, model: &Model) -> Result<Option<Half>> {
        let symmetry = self.keep.iter().rev().find_map(|keep| match keep {
            Keep::Symmetry(axis) => Some(*axis),
            Keep::Lines(..) => None,
        });
        let Some(axis) = symmetry else {
            return Ok(None);
        };
        symmetry::half(model, axis)
    }

    /// What that means for a model.
    pub fn of(&self, model: &Model) -> Result<FeatureWeights> {
        let mut weights = FeatureWeights {
            crease: self.crease,
            regularity: self.regularity,
            ..FeatureWeights::default()
        };
        for keep in &self.keep {
            match *keep {
                Keep::Lines(Lines::Rims, weight) => weights.rims = weight,
                Keep::Lines(Lines::Groups, weight) => weights.groups = weight,
                Keep::Lines(Lines::Seams, weight) => weights.seams = weight,
                Keep::Lines(Lines::Creases, weight) => weights.creases = Some(weight),
                Keep::Symmetry(_) => {}
            }
        }
        if self.focus.is_empty() && self.focus_colour.is_none() {
            return Ok(weights);
        }
        weights.focus = vec![1.0; model.mesh.face_count()];
        for focus in &self.focus {
            for face in named(model, &focus.name)? {
                weights.focus[face.index()] = focus.times;
            }
        }
        if let Some(focus) = &self.focus_colour {
            let channel = ["red", "green", "blue", "alpha"]
                .iter()
                .position(|name| *name == focus.name);
            let Some(channel) = channel else {
                bail!(
                    "'{}' is no channel; write red, green, blue or alpha",
                    focus.name
                );
            };
            let Some(colors) = &model.attributes.colors else {
                bail!("the model has no vertex colours to focus by");
            };
            for (face, vertices) in model.mesh.faces() {
                let sum: f32 = vertices.iter().map(|v| colors[v.index()][channel]).sum();
                let full = (sum / vertices.len() as f32).clamp(0.0, 1.0);
                weights.focus[face.index()] *= 1.0 + (focus.times - 1.0) * full;
            }
        }
        Ok(weights)
    }
}

/// The faces of a group, a material or a part.
pub fn named(model: &Model, name: &str) -> Result<Vec<FaceId>> {
    let is_it = |piece: &Piece| piece.name.as_deref() == Some(name);
    for by in [By::Group, By::Material, By::Part] {
        if let Some(piece) = pieces(model, by).into_iter().find(is_it) {
            return Ok(piece.faces);
        }
    }
    bail!("there is no group, material or part '{name}'; `hurmo parts` and `hurmo audit` list them")
}

/// A budget for each part, group or material.
pub fn shares(model: &Model, by: By, budget: impl Fn(usize) -> usize) -> Shares {
    let mut of_face = vec![0; model.mesh.face_count()];
    for (class, piece) in pieces(model, by).iter().enumerate() {
        for face in &piece.faces {
            of_face[face.index()] = class as u32;
        }
    }
    Shares::new(model, of_face, budget)
}

impl Default for WeightArguments {
    fn default() -> Self {
        Self {
            keep: Vec::new(),
            crease: CREASE,
            regularity: 0.0,
            focus: Vec::new(),
            focus_colour: None,
        }
    }
}

impl std::fmt::Display for Keep {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Lines(lines, weight) => {
                write!(f, "{}={}", lines.word(), weight.get())
            }
            Self::Symmetry(None) => f.write_str("symmetry"),
            Self::Symmetry(Some(axis)) => write!(f, "symmetry={}", axis.name()),
        }
    }
}

impl std::fmt::Display for Focus {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}={}", self.name, self.times)
    }
}

impl NamedOptions for WeightArguments {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.values("keep", &mut self.keep);
        visitor.usually("crease", &mut self.crease, CREASE, angle, f64::to_string);
        visitor.usually(
            "regularity",
            &mut self.regularity,
            0.0,
            share,
            f64::to_string,
        );
        visitor.values("focus", &mut self.focus);
        visitor.value("focus-colour", &mut self.focus_colour);
    }
}
