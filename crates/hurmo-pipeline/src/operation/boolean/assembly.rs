//! Solids put together in one model.

use super::Placement;
use crate::record::Statement;
use crate::said;
use anyhow::{Context as _, Result, bail};
use hurmo_core::parts::{By, joined, pieces};
use hurmo_core::{Model, boolean, mend};

/// Solids in one model.
pub struct Assembly {
    /// All of them.
    pub model: Model,
    /// What they are called.
    pub names: Vec<String>,
    /// Which of them each face bounds.
    pub of_face: Vec<u32>,
    /// Whether what is made of it goes to a file that holds single precision only.
    pub(super) single: bool,
    /// What is to be said of how they were put together.
    pub(super) notes: Vec<Statement>,
}

impl Assembly {
    /// Puts models together; of a single one, its parts are the solids.
    pub fn of(models: Vec<(String, Model)>, placement: &Placement) -> Result<Self> {
        let mut placed = Vec::with_capacity(models.len());
        let mut notes = Vec::new();
        for (number, (name, mut model)) in models.into_iter().enumerate() {
            hurmo_formats::check_instances(&model).with_context(|| name.clone())?;
            if model.instances() > 0 {
                model = model.expanded();
            }
            if model.mesh.face_count() == 0 {
                bail!("{name}: there are no faces");
            }
            placement.place(&mut model, number)?;
            let (model, turned) = mend::facing_outward(model);
            if turned > 0 {
                notes.push(said!(
                    "turned-outward",
                    "{solid}: {faces:face} turned outward first",
                    solid = name.clone(),
                    faces = turned,
                ));
            }
            placed.push((name, model));
        }
        if let [(_, model)] = &mut placed[..] {
            return Self::of_parts(std::mem::take(model), notes);
        }
        let list: Vec<(String, &Model)> =
            placed.iter().map(|(name, m)| (name.clone(), m)).collect();
        let all = joined(&list);
        let of_face = (0..)
            .zip(&placed)
            .flat_map(|(solid, (_, model))| std::iter::repeat_n(solid, model.mesh.face_count()))
            .collect();
        if all.scaled > 0 {
            let unit = all.model.unit.map_or("one unit", |unit| unit.name());
            notes.push(said!(
                "scaled",
                "{models:model} scaled to {unit}",
                models = all.scaled,
                unit = unit,
            ));
        }
        if let (Some(unit), true) = (all.model.unit, all.without_unit > 0) {
            notes.push(said!(
                "without-unit",
                "{models:model} of no known unit taken as in {unit}",
                models = all.without_unit,
                unit = unit.name(),
            ));
        }
        Ok(Self {
            model: all.model,
            names: distinct(placed.into_iter().map(|(name, _)| name)),
            of_face,
            single: false,
            notes,
        })
    }

    /// The same for a file that holds single precision only: rounded to that, since to round what
    /// was cut would make it cross anew.
    pub fn in_single_precision(mut self) -> Self {
        self.single = self.model.mesh.fits_single();
        if !self.single {
            return self;
        }
        let moved = self.model.mesh.round_to_single();
        if moved > 0 {
            self.notes.push(said!(
                "rounded",
                "{vertices:vertex} rounded to single precision first, as the file holds them",
                vertices = moved
            ));
        }
        self
    }

    fn of_parts(model: Model, notes: Vec<Statement>) -> Result<Self> {
        let solids = boolean::solid_of_parts(&model);
        let mut number = vec![0; solids.len()];
        let mut names = Vec::new();
        for (part, _) in (solids.iter().enumerate()).filter(|(part, solid)| solid.index() == *part)
        {
            number[part] = names.len() as u32;
            names.push(format!("P{}", part + 1));
        }
        let mut of_face = vec![0; model.mesh.face_count()];
        for (part, piece) in pieces(&model, By::Part).into_iter().enumerate() {
            for face in piece.faces {
                of_face[face.index()] = number[solids[part].index()];
            }
        }
        if names.len() < 2 {
            bail!(
                "there is one solid: name a second model, or clear what it has crossing itself with \
                 hurmo mend --also intersecting-faces"
            );
        }
        Ok(Self {
            model,
            names,
            of_face,
            single: false,
            notes,
        })
    }
}

/// Names, those that come again with a number.
fn distinct(names: impl Iterator<Item = String>) -> Vec<String> {
    let mut taken = hurmo_core::scene::Names::default();
    names.map(|name| taken.free(&name)).collect()
}
