//! Rebuilding with other faces, or evening out the vertices of those that are there.

use super::region::Region;
use super::solid::{self, Cells, Fineness, Then};
use super::{At, Done, colours, triangles};
use crate::quantity::{Budget, angle};
use crate::text;
use anyhow::{Result, bail};
use clap::ValueEnum;
use hurmo_core::audit::{self, Audit};
use hurmo_core::parts::{only, replaced};
use hurmo_core::remesh::DEFAULT_CREASE;
use hurmo_core::topology::Parts;
use hurmo_core::units::Length;
use hurmo_core::{FaceId, Model, PartId};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// Options of a rebuilding.
#[derive(Clone, Debug, clap::Args)]
pub struct Options {
    /// What to rebuild it into
    #[arg(long, value_enum, required_unless_present_any = ["relax", "smooth", "colour_from"])]
    into: Option<Into>,
    /// Only even the vertices out along the surface, in so many rounds: shape and edges stay
    #[arg(long, value_name = "ROUNDS", conflicts_with = "into", value_parser = rounds)]
    relax: Option<usize>,
    /// Only take noise out, in so many rounds: vertices move, edges stay, and the volume is kept
    #[arg(long, value_name = "ROUNDS", conflicts_with_all = ["into", "relax"], value_parser = rounds)]
    smooth: Option<usize>,
    /// With --smooth: keep sharp edges sharp
    #[arg(long, requires = "smooth")]
    hard: bool,
    /// Into triangles: edges of about this length
    #[arg(long, value_name = "LENGTH", conflicts_with = "to")]
    pub(super) edge: Option<Length>,
    /// Into triangles: edges as long as leaves the surface by no more than this, shorter where it
    /// bends. Into a solid: cells as large as stays within this
    #[arg(long, value_name = "LENGTH", conflicts_with_all = ["edge", "to"])]
    pub(super) within: Option<Length>,
    /// With --within: no edges much shorter than this
    #[arg(long, value_name = "LENGTH", requires = "within")]
    pub(super) edge_min: Option<Length>,
    /// With --within: no edges much longer than this
    #[arg(long, value_name = "LENGTH", requires = "within")]
    pub(super) edge_max: Option<Length>,
    /// Into a solid: cells of this length
    #[arg(long, value_name = "LENGTH", conflicts_with_all = ["to", "edge", "within"])]
    cell: Option<Length>,
    /// So many triangles: 5000, 20k, 1.5M or 12.5%; about so many into triangles, at most into a
    /// solid
    #[arg(long, value_name = "BUDGET")]
    pub(super) to: Option<Budget>,
    /// Into a solid: leave sharp edges out, for a smooth skin
    #[arg(long)]
    rounded: bool,
    /// Into a solid: a skin at this distance round all faces, whichever way they look, instead of
    /// round what the model fills; it goes in through holes wider than twice the distance
    #[arg(long, value_name = "LENGTH", conflicts_with_all = ["within", "close_gaps", "at_least_wall"])]
    around: Option<Length>,
    /// Into a solid: fill gaps up to this width, between faces that look at each other
    #[arg(long, value_name = "LENGTH", conflicts_with = "within")]
    close_gaps: Option<Length>,
    /// Into a solid: make walls at least so thick, sheets too
    #[arg(long, value_name = "LENGTH", conflicts_with = "within")]
    at_least_wall: Option<Length>,
    /// Into a solid: fill rooms that have no way out
    #[arg(long)]
    fill_voids: bool,
    /// Into a solid: then bring fine detail back: divide and bring onto the model, so many times
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u8).range(1..=8))]
    levels: Option<u8>,
    /// With --levels: how far a vertex may travel [default: one cell]
    #[arg(long, value_name = "LENGTH", requires = "levels")]
    travel: Option<Length>,
    /// Into a solid: then reduce it, to a budget (40k) or to as few triangles as stay within a
    /// distance of it ('within 0.1mm'), so that flat areas don't pay for cells
    #[arg(long, value_name = "BUDGET|within LENGTH", conflicts_with = "to")]
    then_decimate: Option<Then>,
    /// Into triangles: edges that bend by more than this angle, in degrees, are kept
    #[arg(long, value_name = "DEGREES", default_value_t = DEFAULT_CREASE, value_parser = angle)]
    pub(super) crease: f64,
    /// Into triangles: sharp edges and borders of groups shorter than this are not kept: specks of
    /// noise, a few faces in the wrong group. Unless it is given, sharp edges that end on a smooth
    /// surface must be two edges long; with 0 all are kept
    #[arg(long, value_name = "LENGTH")]
    pub(super) ignore_lines_under: Option<Length>,
    /// Into triangles: exact leaves every vertex on an open rim where it is, so that a part still
    /// fits its neighbour
    #[arg(long, value_enum, value_name = "HOW", default_value_t = Rims::Even)]
    pub(super) keep_rims: Rims,
    #[command(flatten)]
    pub(super) region: Region,
    /// Then give its vertices the colours of this model, by nearest surface: those of its texture,
    /// of its vertices or of its materials
    #[arg(long, visible_alias = "color-from", value_name = "ORIGINAL")]
    colour_from: Option<PathBuf>,
    /// With --colour-from: the texture that lies on ORIGINAL, PNG or JPEG, where its files don't say
    #[arg(long, value_name = "IMAGE", requires = "colour_from")]
    texture: Option<PathBuf>,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Into {
    /// Even triangles, on the surface as it is
    Triangles,
    /// A new skin, closed and sound, round whatever the model fills
    Solid,
}

/// What is to be done.
enum Doing {
    Into(Into),
    /// In so many rounds.
    Relax(usize),
    Smooth(usize),
    /// Nothing but to bring colours over.
    Colours,
}

/// How rims are kept.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(super) enum Rims {
    /// Where they are, divided anew
    Even,
    /// As they are
    Exact,
}

fn how_fine(option: &str) -> String {
    format!("say how fine: {option} LENGTH, --within LENGTH or --to BUDGET")
}

fn rounds(text: &str) -> Result<usize, String> {
    match text.parse() {
        Ok(rounds) if (1..=1000).contains(&rounds) => Ok(rounds),
        _ => Err(format!("'{text}' is no number of rounds; write 1 to 1000")),
    }
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        self.region.check()?;
        let for_triangles = [
            (self.edge.is_some(), "--edge"),
            (self.ignore_lines_under.is_some(), "--ignore-lines-under"),
            (self.keep_rims == Rims::Exact, "--keep-rims"),
        ];
        let for_solids = [
            (self.cell.is_some(), "--cell"),
            (self.rounded, "--rounded"),
            (self.around.is_some(), "--around"),
            (self.close_gaps.is_some(), "--close-gaps"),
            (self.at_least_wall.is_some(), "--at-least-wall"),
            (self.fill_voids, "--fill-voids"),
            (self.levels.is_some(), "--levels"),
            (self.then_decimate.is_some(), "--then-decimate"),
        ];
        let for_both = [
            (self.to.is_some(), "--to"),
            (self.within.is_some(), "--within"),
        ];
        let mut stray = match self.into {
            Some(Into::Triangles) => for_solids.to_vec(),
            Some(Into::Solid) => for_triangles.to_vec(),
            None => [&for_triangles[..], &for_solids, &for_both].concat(),
        };
        stray.retain(|(is_given, _)| *is_given);
        if let Some((_, option)) = stray.first() {
            bail!("{option} is not for {}", self.what());
        }
        if self.region.is_given() {
            match self.doing() {
                Doing::Into(Into::Solid) if !self.region.is_of_parts() => {
                    bail!("a new skin is made of whole parts: --part names them")
                }
                Doing::Into(Into::Solid) if self.to.is_some() => {
                    bail!(
                        "--to is for the whole model; with --part, --cell or --within says how fine"
                    )
                }
                Doing::Colours => bail!("colours are brought to the whole model, not to a region"),
                _ => {}
            }
        }
        let of_length = match self.into {
            Some(Into::Triangles) => (self.edge, "--edge"),
            Some(Into::Solid) => (self.cell, "--cell"),
            None => return Ok(()),
        };
        if of_length.0.or(self.within).is_none() && self.to.is_none() {
            bail!(how_fine(of_length.1))
        }
        Ok(())
    }

    fn what(&self) -> &'static str {
        match self.doing() {
            Doing::Into(Into::Triangles) => "--into triangles",
            Doing::Into(Into::Solid) => "--into solid",
            Doing::Relax(_) => "--relax",
            Doing::Smooth(_) => "--smooth",
            Doing::Colours => "--colour-from alone",
        }
    }

    fn doing(&self) -> Doing {
        match (self.into, self.relax, self.smooth) {
            (Some(into), ..) => Doing::Into(into),
            (_, Some(rounds), _) => Doing::Relax(rounds),
            (.., Some(rounds)) => Doing::Smooth(rounds),
            _ => Doing::Colours,
        }
    }

    /// The files that it reads.
    pub fn reads(&self) -> impl Iterator<Item = &Path> {
        let files = [&self.colour_from, &self.texture];
        files.into_iter().flatten().map(PathBuf::as_path)
    }

    /// Rebuilds, and brings colours over.
    pub fn apply(&self, at: &At<'_>) -> Result<Done> {
        let mut done = match self.doing() {
            Doing::Into(Into::Solid) => self.solid(at)?,
            Doing::Into(Into::Triangles) => triangles::even(self, at)?,
            Doing::Relax(rounds) => triangles::relax(self, at, rounds)?,
            Doing::Smooth(rounds) => triangles::smooth(self, at, rounds, self.hard)?,
            Doing::Colours => Done::new(at.model.clone(), Vec::new()),
        };
        if let Some(original) = &self.colour_from {
            colours::bring(at, &mut done, original, self.texture.as_deref())?;
        }
        Ok(done)
    }

    /// Whether it makes a new skin.
    pub fn makes_a_skin(&self) -> bool {
        matches!(self.doing(), Doing::Into(Into::Solid))
    }

    /// A new skin, round instances as well: it is one mesh.
    fn solid(&self, at: &At<'_>) -> Result<Done> {
        let instances = at.model.instances();
        if self.region.is_given() {
            if instances > 0 {
                bail!(
                    "--part can't tell instances apart: `hurmo convert --apply-transforms` writes them out"
                );
            }
            return self.solid_of_parts(at);
        }
        if instances == 0 {
            return solid::apply(at, &self.fineness(at)?);
        }
        hurmo_formats::check_instances(at.model)?;
        let model = at.model.expanded();
        let audit = audited(&model, at);
        let all = At {
            model: &model,
            audit: &audit,
            survey: None,
            ..*at
        };
        let mut done = solid::apply(&all, &self.fineness(&all)?)?;
        if let Some(step) = done.told.first_mut() {
            let instances = text::counted(instances, "instance");
            step.single
                .insert(0, format!("{instances} written out, to be part of it"));
        }
        Ok(done)
    }

    /// A new skin in place of some parts; all others stay.
    fn solid_of_parts(&self, at: &At<'_>) -> Result<Done> {
        let marked = self.region.faces(at)?.unwrap_or_default();
        let mesh = &at.model.mesh;
        let faces: Vec<FaceId> = mesh.face_ids().filter(|f| marked[f.index()]).collect();
        let parts = Parts::of(mesh);
        let concerned: BTreeSet<PartId> = faces
            .iter()
            .filter_map(|&face| parts.of_face(mesh, face))
            .collect();
        let model = only(at.model, &faces);
        let audit = audited(&model, at);
        let those = At {
            model: &model,
            audit: &audit,
            survey: None,
            ..*at
        };
        let mut done = solid::apply(&those, &self.fineness(at)?)?;
        if let Some(step) = done.told.first_mut() {
            let others = parts.len() - concerned.len();
            step.did.push(format!(
                "in place of {}; {} as before",
                text::counted(concerned.len(), "part"),
                text::counted(others, "other")
            ));
        }
        done.model = replaced(at.model, |part| concerned.contains(&part), &done.model);
        Ok(done)
    }

    fn fineness(&self, at: &At<'_>) -> Result<Fineness> {
        let length = |length: Option<Length>| length.map(|length| at.length(length)).transpose();
        let triangles = at.model.mesh.triangle_count();
        let to = self.to.map(|to| to.of(triangles).max(4));
        let cells = match (length(self.cell)?, length(self.within)?, to) {
            (Some(cell), ..) => Cells::Of(cell),
            (_, Some(distance), _) => Cells::Within(distance),
            (.., Some(to)) => Cells::To(to),
            _ => bail!(how_fine("--cell")),
        };
        let usual = hurmo_core::remesh::solid::Options::of(1.0);
        let free = crate::memory::free_memory().map_or(usual.memory, |free| free as f64);
        Ok(Fineness {
            cells,
            levels: self.levels.map_or(0, usize::from),
            travel: length(self.travel)?,
            then: self.then_decimate,
            options: hurmo_core::remesh::solid::Options {
                rounded: self.rounded,
                around: length(self.around)?,
                close_gaps: length(self.close_gaps)?,
                at_least_wall: length(self.at_least_wall)?,
                fill_voids: self.fill_voids,
                memory: free,
                ..usual
            },
        })
    }
}

/// The audit of what a skin is put round, in the same brief.
fn audited(model: &Model, at: &At<'_>) -> Audit {
    let options = audit::Options {
        brief: at.brief.clone(),
        ..audit::Options::default()
    };
    audit::audit(model, &options, at.observer)
}
