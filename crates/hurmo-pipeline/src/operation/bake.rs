//! Baking: a texture for a model, from the look and the detail of another.

use super::atlas::made;
use super::looks::{NO_COLORS, looks, name_of, note, original};
use super::named_options::{NamedOptions, Visitor};
use super::together::{needs, within};
use super::{Context, Outcome};
use crate::quantity::length_in;
use crate::record::{Statement, StepReport};
use crate::said;
use crate::words::Words;
use anyhow::{Context as _, Result, bail};
use hurmo_core::Model;
use hurmo_core::bake::{self, Baked};
use hurmo_core::measure::bounds;
use hurmo_core::paint::Texture;
use hurmo_core::scene::{Image, ImageData, ImageId, Material, Scene, TextureUse};
use hurmo_core::shading::{Shading, normals};
use hurmo_core::units::Length;
use hurmo_core::uv::atlas::{self, atlas};
use hurmo_core::uv::{Layout, Overlaps};
use std::path::PathBuf;
use std::sync::Arc;

/// The material that a baked model has.
const MATERIAL: &str = "baked";
/// When more of the samples find nothing, the models hardly belong together.
const MOSTLY: f64 = 0.5;

/// Baking as a step: where the look comes from, and how it is baked.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct Bake {
    /// Model file that gives its look [default: the model as it was read]
    #[cfg_attr(feature = "clap", arg(long, value_name = "FILE"))]
    pub from: Option<PathBuf>,
    /// How.
    #[cfg_attr(feature = "clap", command(flatten))]
    pub options: Options,
}

/// How to bake.
#[derive(Clone, Debug)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// Pixels along a side of the texture
    #[cfg_attr(feature = "clap", arg(long, value_name = "PIXELS", default_value_t = 1024, value_parser = clap::value_parser!(u32).range(16..=16384)))]
    size: u32,
    /// Pixels between two charts of the new UVs, at least
    #[cfg_attr(feature = "clap", arg(long, value_name = "PIXELS", default_value_t = 8, value_parser = clap::value_parser!(u32).range(1..=256)))]
    margin: u32,
    /// How far the surface of FROM may lie off; what is farther away is filled from beside
    #[cfg_attr(
        feature = "clap",
        arg(long, value_name = "LENGTH", default_value = "2%")
    )]
    within: Length,
    /// The UVs of ONTO: made new, or kept
    #[cfg_attr(feature = "clap", arg(long, value_enum, default_value_t))]
    uvs: Uvs,
    /// Bake a normal map too: the detail of FROM, in tangent space
    #[cfg_attr(feature = "clap", arg(long))]
    normal_map: bool,
    /// Leave out the colours
    #[cfg_attr(feature = "clap", arg(long, alias = "no-colors"))]
    no_colours: bool,
    /// A texture for all of FROM, instead of those that it names: PNG or JPEG
    #[cfg_attr(feature = "clap", arg(long, value_name = "PNG"))]
    texture: Option<PathBuf>,
}

/// What becomes of UVs.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
enum Uvs {
    /// They are made new.
    #[default]
    New,
    /// They stay.
    Keep,
}

impl Words for Uvs {
    const WORDS: &'static [(&'static str, Self)] = &[("new", Self::New), ("keep", Self::Keep)];
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        within("size", self.size.into(), 16.0..=16384.0)?;
        within("margin", self.margin.into(), 1.0..=256.0)?;
        needs(
            ("no-colours", self.no_colours),
            ("normal-map", self.normal_map),
        )
    }
}

impl Bake {
    /// Bakes.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        let options = &self.options;
        let mut left = Vec::new();
        let name = name_of(self.from.as_deref());
        let from = original(context, self.from.as_deref(), &name, &mut left)?;
        let found = looks(&from, options.texture.as_deref(), &name)?;
        left.extend(found.notes.into_iter().map(note));
        let mut onto = context.model.clone();
        let mut did = Vec::new();
        match options.uvs {
            Uvs::New => {
                let options = atlas::AtlasOptions::of(options.size, options.margin);
                let atlas = atlas(&onto.mesh, options, context.observer)?;
                onto.attributes.uvs = Some(atlas.uvs.clone());
                did.push(made(&atlas, &onto));
            }
            Uvs::Keep => left.extend(unfit_uvs(&onto)?),
        }
        if options.normal_map && onto.attributes.normals.is_none() {
            onto.attributes.normals = Some(normals(&onto.mesh, Shading::Smooth(180.0)));
        }
        let diagonal = bounds(&from.mesh).map_or(0.0, |bounds| bounds.diagonal());
        let mut how = bake::BakeOptions::of(
            options.size,
            length_in(options.within, context.model.unit, diagonal)?,
        );
        how.padding = options.margin;
        how.colors = !options.no_colours;
        how.normals = options.normal_map;
        let baked = bake::bake(&from, &found.of_tags, &onto, how, context.observer)?;
        if baked.samples == 0 {
            bail!("no face of the model lies in the tile");
        }
        if how.colors && baked.bare + baked.far == baked.samples && !how.normals {
            let why = match baked.far == baked.samples {
                true => "nothing of it lies near enough: --within says how near that is".into(),
                false => {
                    let notes = left.iter().map(|note| format!("\n  {note}"));
                    NO_COLORS.to_string() + &notes.collect::<String>()
                }
            };
            bail!("{name}: {why}");
        }
        let lost = wear(&mut onto, &baked);
        did.push(baked_as(&name, options.size, &baked));
        left.extend(doubts(&baked));
        let step = StepReport {
            did,
            left,
            ..StepReport::of("bake")
        };
        Ok(Outcome {
            lost,
            ..Outcome::new(onto, vec![step])
        })
    }
}

/// What is wrong with UVs that are to be baked into.
fn unfit_uvs(onto: &Model) -> Result<Vec<Statement>> {
    let layout = Layout::of(onto).filter(|layout| !layout.is_empty());
    let layout = layout.context("--uvs keep: there are none to keep")?;
    let mut unfit = Vec::new();
    let bare = onto
        .mesh
        .face_ids()
        .filter(|&face| layout.area(face).is_none())
        .count();
    if bare > 0 {
        unfit.push(said!(
            "without-uvs",
            "{faces:face} without UVs",
            faces = bare
        ));
    }
    let shared = Overlaps::of(&layout, |_| 0)
        .faces
        .iter()
        .filter(|&&lies| lies)
        .count();
    if shared > 0 {
        unfit.push(said!(
            "uvs-shared",
            "{faces:face} on pixels of others: what was baked last is seen on both",
            faces = shared
        ));
    }
    Ok(unfit)
}

/// Gives a model its textures, in place of all that it looked like; what went.
fn wear(onto: &mut Model, baked: &Baked) -> Vec<Statement> {
    let attributes = &mut onto.attributes;
    let mut lost = Vec::new();
    if attributes.colors.take().is_some() && baked.colors.is_some() {
        lost.push(said!(
            "vertex-colours",
            "vertex colours: they would be multiplied with the texture"
        ));
    }
    let old = attributes
        .tags
        .used()
        .filter_map(|tag| tag.material.clone());
    let old: std::collections::BTreeSet<String> = old.collect();
    if !old.is_empty() {
        let names: Vec<String> = old.into_iter().collect();
        lost.push(said!(
            "materials",
            "materials, in place of which is {instead}: {names}",
            instead = MATERIAL,
            names = names,
        ));
    }
    hurmo_formats::forget_looks(onto);
    let attributes = &mut onto.attributes;
    attributes.material_libraries.clear();
    if attributes.tags.table.is_empty() {
        attributes.tags.table.push(Default::default());
        attributes.tags.of_face = vec![0; onto.mesh.face_count()];
    }
    for tag in &mut attributes.tags.table {
        tag.material = Some(MATERIAL.into());
    }
    let scene = attributes
        .scene
        .get_or_insert_with(|| Arc::new(Scene::default()));
    let scene = Arc::make_mut(scene);
    let mut used = |texture: &Option<Texture>, name: &str| {
        let texture = texture.as_ref()?;
        scene.images.push(Image {
            name: Some(name.into()),
            data: ImageData::Embedded {
                media_type: "image/png".into(),
                bytes: hurmo_formats::png(texture).into(),
            },
            size: Some(texture.size()),
        });
        Some(TextureUse::of(ImageId(scene.images.len() as u32 - 1)))
    };
    let material = Material {
        color_texture: used(&baked.colors, "baked-colour"),
        normal_texture: used(&baked.normals, "baked-normal"),
        ..Material::named(MATERIAL)
    };
    scene.materials.push(material);
    lost
}

fn baked_as(name: &str, size: u32, baked: &Baked) -> Statement {
    let textures = match (&baked.colors, &baked.normals) {
        (Some(_), Some(_)) => "colours and normals",
        (None, _) => "normals",
        (_, None) => "colours",
    };
    said!(
        "baked",
        "{textures} of {from} in {size} × {size} pixels; it lies up to {off} off ({rms} rms)",
        textures = textures,
        from = name,
        size = (f64::from(size), size.to_string()),
        off = baked.off[0],
        rms = baked.off[1],
    )
}

/// What makes one ask whether it came out as meant.
fn doubts(baked: &Baked) -> Vec<Statement> {
    let share = |count: usize| count as f64 / baked.samples as f64;
    let percent = |count: usize| (share(count), format!("{:.1}%", 100.0 * share(count)));
    let mut doubts = Vec::new();
    if baked.far > 0 {
        let ask = share(baked.far) > MOSTLY;
        doubts.push(said!(
            "farther-away",
            "{share} of the surface farther away than asked, filled from beside{ask}",
            share = percent(baked.far),
            ask = ask.then(|| said!("ask", ": does it lie there, and is it as large?")),
        ));
    }
    if baked.bare > 0 && baked.colors.is_some() {
        doubts.push(said!(
            "beside-no-colour",
            "{share} of the surface beside what has no colour, filled from beside",
            share = percent(baked.bare)
        ));
    }
    if baked.behind > 0 {
        doubts.push(said!(
            "beside-faces-turned-away",
            "{share} of the surface beside faces that look the other way",
            share = percent(baked.behind)
        ));
    }
    doubts
}

impl NamedOptions for Bake {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.file("from", &mut self.from);
        self.options.each(visitor);
    }
}

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        let usual = Self::default();
        visitor.number("size", &mut self.size, usual.size);
        visitor.number("margin", &mut self.margin, usual.margin);
        visitor.usually(
            "within",
            &mut self.within,
            usual.within,
            str::parse,
            Length::to_string,
        );
        visitor.usual_word("uvs", &mut self.uvs, usual.uvs);
        visitor.flag("normal-map", &mut self.normal_map);
        visitor.flag("no-colours", &mut self.no_colours);
        visitor.file("texture", &mut self.texture);
    }
}

impl Default for Options {
    fn default() -> Self {
        Self {
            size: 1024,
            margin: 8,
            within: Length::Percent(2.0),
            uvs: Uvs::default(),
            normal_map: false,
            no_colours: false,
            texture: None,
        }
    }
}
