//! Smoothing: noise taken out, or vertices evened out along the surface. Edges and faces stay.

use super::named_options::{NamedOptions, Visitor};
use super::region::Region;
use super::together::{any_of, excludes};
use super::{Context, Outcome, rebuilt_step};
use crate::quantity::angle;
use crate::said;
use anyhow::{Result, bail};
use hurmo_core::remesh::{self, DEFAULT_CREASE, RelaxOptions};
use hurmo_core::smooth::{self, Kind};

/// Options of a smoothing.
#[derive(Clone, Debug)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// Take noise out, in this many rounds: vertices move, the volume is kept
    #[cfg_attr(feature = "clap", arg(long, value_name = "ROUNDS", value_parser = rounds))]
    noise: Option<usize>,
    /// With --noise: keep creases sharp
    #[cfg_attr(feature = "clap", arg(long))]
    keep_creases: bool,
    /// Move vertices along the surface only, in this many rounds, for evener triangles: the shape stays
    #[cfg_attr(feature = "clap", arg(long, value_name = "ROUNDS", value_parser = rounds))]
    relax: Option<usize>,
    /// Move the borders of groups and materials along the surface only, in this many rounds, so that they are not
    /// ragged: the shape stays
    #[cfg_attr(feature = "clap", arg(long, value_name = "ROUNDS", value_parser = rounds))]
    borders: Option<usize>,
    /// With --relax and --borders: keep edges that bend by more than this angle, in degrees
    #[cfg_attr(feature = "clap", arg(long, value_name = "DEGREES", default_value_t = DEFAULT_CREASE, value_parser = angle))]
    crease: f64,
    #[cfg_attr(feature = "clap", command(flatten))]
    region: Region,
}

pub(super) fn rounds(text: &str) -> Result<usize, String> {
    match text.parse() {
        Ok(rounds) if (1..=1000).contains(&rounds) => Ok(rounds),
        _ => Err(format!("'{text}' is no number of rounds; write 1 to 1000")),
    }
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        let (noise, relax) = (
            ("noise", self.noise.is_some()),
            ("relax", self.relax.is_some()),
        );
        let borders = ("borders", self.borders.is_some());
        let keep_creases = ("keep-creases", self.keep_creases);
        any_of(&[noise, relax, borders], "say what to smooth")?;
        excludes(relax, &[noise, borders, keep_creases])?;
        excludes(borders, &[noise, keep_creases])?;
        if self.borders.is_some() && self.region.is_given() {
            bail!("--borders relaxes all borders of the model: a region does not go with it");
        }
        self.region.check()
    }

    /// Smooths.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        match (self.noise, self.borders) {
            (Some(rounds), _) => self.take_noise_out(context, rounds),
            (_, Some(rounds)) => self.relax_borders(context, rounds),
            (None, None) => self.relax(context, self.relax.unwrap_or(1)),
        }
    }

    fn relax_borders(&self, context: &Context<'_>, rounds: usize) -> Result<Outcome> {
        let outcome = remesh::relax_borders(context.model, rounds, self.crease, context.observer)?;
        let did = vec![said!(
            "borders-relaxed",
            "borders of groups relaxed: {vertices:vertex} moved along the surface, edges and faces as they were",
            vertices = outcome.moved
        )];
        let step = rebuilt_step("smooth", did, context, &outcome.model);
        Ok(Outcome::new(outcome.model, vec![step]))
    }

    fn take_noise_out(&self, context: &Context<'_>, rounds: usize) -> Result<Outcome> {
        let kind = match self.keep_creases {
            true => Kind::Hard,
            false => Kind::Soft,
        };
        let mut smoothing = smooth::SmoothOptions::of(rounds, kind);
        smoothing.faces = self.region.faces(context)?;
        let outcome = smooth::smooth(context.model, &smoothing, context.observer)?;
        let mut lost = Vec::new();
        if context.model.attributes.normals.is_some() && outcome.model.attributes.normals.is_none()
        {
            lost.push(said!(
                "normals",
                "normals of corners: they were those of the rough surface"
            ));
        }
        let did = vec![said!(
            "smoothed",
            "{vertices:vertex} moved by up to {by}, edges and faces as they were",
            vertices = outcome.moved,
            by = outcome.furthest,
        )];
        let step = rebuilt_step("smooth", did, context, &outcome.model);
        Ok(Outcome {
            lost,
            ..Outcome::new(outcome.model, vec![step])
        })
    }

    fn relax(&self, context: &Context<'_>, rounds: usize) -> Result<Outcome> {
        let mut relaxing = RelaxOptions::of(rounds);
        relaxing.crease = self.crease;
        relaxing.faces = self.region.faces(context)?;
        let outcome = remesh::relax(context.model, &relaxing, context.observer)?;
        let did = vec![said!(
            "relaxed",
            "{vertices:vertex} moved along the surface, edges and faces as they were",
            vertices = outcome.moved
        )];
        let step = rebuilt_step("smooth", did, context, &outcome.model);
        Ok(Outcome::new(outcome.model, vec![step]))
    }
}

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.parsed("noise", &mut self.noise, rounds, usize::to_string);
        visitor.flag("keep-creases", &mut self.keep_creases);
        visitor.parsed("relax", &mut self.relax, rounds, usize::to_string);
        visitor.parsed("borders", &mut self.borders, rounds, usize::to_string);
        visitor.usually(
            "crease",
            &mut self.crease,
            DEFAULT_CREASE,
            angle,
            f64::to_string,
        );
        self.region.each(visitor);
    }
}

impl Default for Options {
    fn default() -> Self {
        Self {
            noise: None,
            keep_creases: false,
            relax: None,
            borders: None,
            crease: DEFAULT_CREASE,
            region: Region::default(),
        }
    }
}
