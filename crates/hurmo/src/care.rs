//! What a reduction takes more care of, as it is written on the command line.

use crate::quantity::angle;
use anyhow::{Result, bail};
use hurmo_core::decimate::{Care, Shares, Weight};
use hurmo_core::parts::{By, Piece, pieces};
use hurmo_core::{FaceId, Model};
use std::str::FromStr;

/// The options of every command that reduces.
#[derive(Clone, Debug, Default, clap::Args)]
pub struct CareArguments {
    /// Keep lines better or worse than usual: rims, groups (and materials), seams (of UVs, and hard
    /// edges), creases; from 0 (not at all) over 0.5 (as usual) to 1 (no vertex goes at which the
    /// line turns), as in groups=0.8; 1 if no number is given
    #[arg(long, value_name = "LINES[=W],…", value_delimiter = ',')]
    keep: Vec<Keep>,
    /// For --keep creases: from what angle on an edge is a crease, in degrees
    #[arg(long, value_name = "ANGLE", default_value = "30", value_parser = angle)]
    crease: f64,
    /// From 0 (triangles where the shape needs them) to 1 (triangles as even as can be)
    #[arg(long, value_name = "W", default_value_t = 0.0, value_parser = share)]
    even: f64,
    /// Spend so many times as many triangles for the area of a group, material or part as the shape
    /// alone would: sails=3
    #[arg(long, value_name = "NAME=TIMES,…", value_delimiter = ',')]
    focus: Vec<Focus>,
    /// The same by a vertex colour's channel (red, green, blue, alpha): red=3 spends three times as
    /// many where it is full, as usual where it is nought
    #[arg(long, value_name = "CHANNEL=TIMES")]
    focus_color: Option<Focus>,
}

/// Lines, and how well they are kept.
#[derive(Clone, Copy, Debug)]
struct Keep {
    lines: Lines,
    weight: Weight,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
enum Lines {
    Rims,
    Groups,
    Seams,
    Creases,
}

impl FromStr for Keep {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let (name, weight) = text.split_once('=').unwrap_or((text, "1"));
        let lines = <Lines as clap::ValueEnum>::from_str(name.trim(), true)
            .map_err(|_| format!("'{name}' can't be kept; write rims, groups, seams or creases"))?;
        let weight = weight.trim().parse().ok().and_then(Weight::new);
        let weight = weight.ok_or_else(|| format!("'{text}': a weight lies between 0 and 1"))?;
        Ok(Self { lines, weight })
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

impl CareArguments {
    /// Whether evenness is asked for.
    pub fn evens(&self) -> bool {
        self.even > 0.0
    }

    /// What that means for a model.
    pub fn of(&self, model: &Model) -> Result<Care> {
        let mut care = Care {
            crease: self.crease,
            even: self.even,
            ..Care::default()
        };
        for keep in &self.keep {
            match keep.lines {
                Lines::Rims => care.rims = keep.weight,
                Lines::Groups => care.groups = keep.weight,
                Lines::Seams => care.seams = keep.weight,
                Lines::Creases => care.creases = Some(keep.weight),
            }
        }
        if self.focus.is_empty() && self.focus_color.is_none() {
            return Ok(care);
        }
        care.focus = vec![1.0; model.mesh.face_count()];
        for focus in &self.focus {
            for face in named(model, &focus.name)? {
                care.focus[face.index()] = focus.times;
            }
        }
        if let Some(focus) = &self.focus_color {
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
                care.focus[face.index()] *= 1.0 + (focus.times - 1.0) * full;
            }
        }
        Ok(care)
    }
}

/// The faces of a group, a material or a part.
fn named(model: &Model, name: &str) -> Result<Vec<FaceId>> {
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
