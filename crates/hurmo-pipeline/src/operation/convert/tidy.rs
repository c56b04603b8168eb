//! How a model is stored: transforms, empty objects, names, normals.

use crate::operation::atlas;
use crate::operation::named_options::{NamedOptions, Visitor};
use crate::record::Statement;
use crate::said;
use crate::words::Words;
use anyhow::Result;
use hurmo_core::Model;
use hurmo_core::progress::Observer;
use hurmo_core::scene::{Material, Renamed};
use hurmo_core::shading::{Shading, normals};
use hurmo_core::uv;
use std::str::FromStr;

/// What is put in order.
#[derive(Clone, Debug, Default, PartialEq)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct Tidy {
    /// Store objects as they are shown: let no transform turn, scale or mirror them
    #[cfg_attr(feature = "clap", arg(long))]
    pub flatten_transforms: bool,
    /// Drop objects with nothing in them
    #[cfg_attr(feature = "clap", arg(long))]
    pub drop_empty: bool,
    /// Name objects apart that have the same name
    #[cfg_attr(feature = "clap", arg(long))]
    pub unique_names: bool,
    /// Give objects, materials and textures names that every program takes
    #[cfg_attr(feature = "clap", arg(long))]
    pub safe_names: bool,
    /// Normals of corners: keep, flat, or smooth=40 across edges that bend by at most 40°
    #[cfg_attr(
        feature = "clap",
        arg(long, value_name = "HOW", default_value = "keep")
    )]
    pub normals: Normals,
    /// UVs: kept as they are, made new (flattened in charts and packed into the tile), or dropped
    #[cfg_attr(
        feature = "clap",
        arg(long, value_enum, value_name = "keep|new|drop", default_value_t)
    )]
    pub uvs: Uvs,
}

/// What becomes of UVs.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum Uvs {
    /// They stay as they are
    #[default]
    Keep,
    /// They are made new, in place of all sets
    New,
    /// They go, all sets
    Drop,
}

impl Words for Uvs {
    const WORDS: &'static [(&'static str, Self)] = &[
        ("keep", Self::Keep),
        ("new", Self::New),
        ("drop", Self::Drop),
    ];
}

/// The texture that new UVs are packed for: pixels along a side, and between charts.
const ATLAS: uv::atlas::AtlasOptions = uv::atlas::AtlasOptions::of(2048, 8);

/// What becomes of normals.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum Normals {
    /// They stay as they are.
    #[default]
    Keep,
    /// They are made anew.
    Made(Shading),
}

impl FromStr for Normals {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        match text.trim() {
            "keep" => return Ok(Normals::Keep),
            "flat" => return Ok(Normals::Made(Shading::Flat)),
            _ => {}
        }
        let angle = text.trim().strip_prefix("smooth");
        let angle = angle.map(|angle| angle.trim_start_matches(['=', ' ']).trim_end_matches('°'));
        match angle.map(str::parse::<f64>) {
            Some(Ok(angle)) if (0.0..=180.0).contains(&angle) => {
                Ok(Normals::Made(Shading::Smooth(angle)))
            }
            _ => Err(format!(
                "'{text}' says nothing of normals; write keep, flat, or smooth=40, an angle up to 180"
            )),
        }
    }
}

/// A model that was put in order, and how.
pub struct Tidied {
    /// The model.
    pub model: Model,
    /// What was done.
    pub did: Vec<Statement>,
    /// Single things that were done.
    pub single: Vec<Statement>,
    /// What was left, and why.
    pub left: Vec<Statement>,
    /// Names that changed.
    pub renamed: Vec<Renamed>,
}

/// Applies the transforms of nodes to meshes, as far as nothing needs them.
fn flatten_transforms(model: &mut Model, did: &mut Vec<Statement>, left: &mut Vec<Statement>) {
    let applied = model.flatten_transforms();
    if applied.applied > 0 {
        did.push(said!(
            "transforms-applied",
            "{transforms:transform} applied",
            transforms = applied.applied
        ));
    }
    if applied.written_out > 0 {
        did.push(said!(
            "instances-written-out",
            "{instances:instance} given a mesh of its own",
            instances = applied.written_out
        ));
    }
    if applied.kept > 0 {
        left.push(said!(
            "transforms-needed",
            "{transforms:transform} that an animation, a skin, a camera or a light needs",
            transforms = applied.kept
        ));
    }
}

impl Tidy {
    /// Makes sure that it can be done.
    pub fn check(&self, model: &Model) -> Result<()> {
        if self.flatten_transforms {
            hurmo_formats::check_instances(model)?;
        }
        Ok(())
    }

    /// Puts a model in order.
    ///
    /// # Errors
    /// When new UVs can't be packed.
    pub fn apply(&self, mut model: Model, observer: &dyn Observer) -> Result<Tidied> {
        let (mut did, mut left) = (Vec::new(), Vec::new());
        if self.flatten_transforms {
            flatten_transforms(&mut model, &mut did, &mut left);
        }
        let mut single = Vec::new();
        if self.drop_empty {
            let dropped = model.drop_empty_objects();
            if !dropped.is_empty() {
                did.push(said!(
                    "empty-objects-dropped",
                    "{objects:empty object} dropped",
                    objects = dropped.len()
                ));
                let names = dropped.into_iter();
                single.extend(names.map(|name| said!("dropped", "dropped {name}", name = name)));
            }
        }
        let renamed = self.rename(&mut model);
        if !renamed.is_empty() {
            did.push(said!(
                "names-changed",
                "{names:name} changed",
                names = renamed.len()
            ));
            let changes = renamed.iter().map(|name| {
                let (from, to) = (name.from.clone(), name.to.clone());
                said!("renamed", "{from} → {to}", from = from, to = to)
            });
            single.extend(changes);
        }
        if let Normals::Made(shading) = self.normals {
            model.attributes.normals = Some(normals(&model.mesh, shading));
            did.push(match shading {
                Shading::Flat => said!("normals-flat", "normals flat"),
                Shading::Smooth(angle) => said!(
                    "normals-smooth",
                    "normals smooth up to {angle}°",
                    angle = (angle, angle.to_string())
                ),
            });
        }
        let textured = is_textured(&model);
        did.extend(self.lay_out(&mut model, observer)?);
        if self.uvs != Uvs::Keep && textured {
            left.push(said!(
                "textures-of-old-uvs",
                "textures were made for the old UVs: `hurmo bake` fills new ones"
            ));
        }
        Ok(Tidied {
            model,
            did,
            single,
            left,
            renamed,
        })
    }

    /// Changes names as asked for; each name that changed, once.
    fn rename(&self, model: &mut Model) -> Vec<Renamed> {
        let mut renamed: Vec<Renamed> = Vec::new();
        if self.unique_names {
            renamed.extend(model.make_names_unique());
        }
        if self.safe_names {
            for change in model.make_names_safe() {
                // A name that changed a moment ago is reported once.
                match renamed.iter_mut().find(|before| before.to == change.from) {
                    Some(before) => before.to = change.to,
                    None => renamed.push(change),
                }
            }
        }
        renamed
    }

    /// Makes UVs new, or drops them; what was done.
    fn lay_out(&self, model: &mut Model, observer: &dyn Observer) -> Result<Option<Statement>> {
        let sets = model.attributes.uv_sets().count();
        Ok(match self.uvs {
            Uvs::Keep => None,
            Uvs::New => {
                let made = uv::atlas::atlas(&model.mesh, ATLAS, observer)?;
                model.attributes.set_uv_sets([made.uvs.clone()]);
                Some(atlas::made(&made, model))
            }
            Uvs::Drop => {
                model.attributes.set_uv_sets([]);
                (sets > 0).then(|| said!("uvs-dropped", "{sets:set} of UVs dropped", sets = sets))
            }
        })
    }
}

/// Whether a material has a texture.
fn is_textured(model: &Model) -> bool {
    let scene = model.attributes.scene.as_deref();
    let materials = scene.map_or(&[][..], |scene| &scene.materials);
    let mut textures = materials.iter().flat_map(Material::textures);
    textures.next().is_some()
}

impl NamedOptions for Tidy {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.flag("flatten-transforms", &mut self.flatten_transforms);
        visitor.flag("drop-empty", &mut self.drop_empty);
        visitor.flag("unique-names", &mut self.unique_names);
        visitor.flag("safe-names", &mut self.safe_names);
        visitor.usually(
            "normals",
            &mut self.normals,
            Normals::Keep,
            str::parse,
            Normals::to_string,
        );
        visitor.usual_word("uvs", &mut self.uvs, Uvs::Keep);
    }
}

impl std::fmt::Display for Normals {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Normals::Keep => f.write_str("keep"),
            Normals::Made(Shading::Flat) => f.write_str("flat"),
            Normals::Made(Shading::Smooth(angle)) => write!(f, "smooth={angle}"),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn normals_are_read_in_all_their_forms() {
        let smooth = |angle| Ok(Normals::Made(Shading::Smooth(angle)));
        assert_eq!("keep".parse(), Ok(Normals::Keep));
        assert_eq!("flat".parse(), Ok(Normals::Made(Shading::Flat)));
        for (text, angle) in [
            ("smooth=40", 40.0),
            ("smooth 32.5", 32.5),
            ("smooth=180°", 180.0),
        ] {
            assert_eq!(text.parse::<Normals>(), smooth(angle), "{text}");
        }
        for wrong in ["smooth", "smooth=200", "smooth=-1", "40", "smooth=nan"] {
            assert!(wrong.parse::<Normals>().is_err(), "{wrong}");
        }
    }
}
