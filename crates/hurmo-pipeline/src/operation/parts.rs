//! Keeping and dropping parts; parts as groups.

use super::named_options::{NamedOptions, Visitor};
use super::together::excludes;
use super::{Context, Outcome};
use crate::quantity::numbered;
use crate::record::{Statement, StepReport, shorten};
use crate::said;
use crate::text;
use anyhow::{Result, bail};
use hurmo_core::PartId;
use hurmo_core::parts::{self, PartFacts};
use hurmo_core::units::Length;
use std::collections::HashSet;
use std::ops::RangeInclusive;

/// Which parts stay, and which go.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// Keep only these parts: P1, or P1,P4..P6
    #[cfg_attr(feature = "clap", arg(long, value_name = "PART,…"))]
    pub keep: Option<String>,
    /// Drop these parts: P3, or P7.. for all from the seventh on
    #[cfg_attr(feature = "clap", arg(long, value_name = "PART,…"))]
    pub drop: Option<String>,
    /// Drop the parts whose diagonal is under this length
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub drop_under: Option<Length>,
    /// Make each part that stays a group of its own, by its name
    #[cfg_attr(feature = "clap", arg(long))]
    pub as_groups: bool,
}

impl Options {
    /// Whether anything is asked for.
    pub fn is_some(&self) -> bool {
        self.as_groups || self.keep.is_some() || self.drop.is_some() || self.drop_under.is_some()
    }

    /// Makes sure that something is asked for, and can be understood.
    pub fn check(&self) -> Result<()> {
        if !self.is_some() {
            bail!("say which parts: --keep, --drop or --drop-under; or --as-groups");
        }
        let others = [
            ("drop", self.drop.is_some()),
            ("drop-under", self.drop_under.is_some()),
        ];
        excludes(("keep", self.keep.is_some()), &others)?;
        for list in self.keep.iter().chain(&self.drop) {
            numbered(list, 'P')?;
        }
        Ok(())
    }

    /// Keeps some parts, and drops the others.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        let facts = parts::described(context.model, context.observer);
        let in_list = |list: &Option<String>| -> Result<Option<Vec<RangeInclusive<usize>>>> {
            let chosen = list.as_ref().map(|list| chosen(list, facts.len()));
            chosen.transpose()
        };
        let (keep, drop) = (in_list(&self.keep)?, in_list(&self.drop)?);
        let under = self
            .drop_under
            .map(|length| context.length(length))
            .transpose()?;
        let holds = |ranges: &Option<Vec<RangeInclusive<usize>>>, part: usize| {
            let mut ranges = ranges.iter().flatten();
            ranges.any(|range| range.contains(&part))
        };
        let goes = |facts: &PartFacts| {
            let part = facts.part.index();
            let small = under.is_some_and(|under| facts.bounds.diagonal() < under);
            (keep.is_some() && !holds(&keep, part)) || holds(&drop, part) || small
        };
        let dropped: Vec<&PartFacts> = facts.iter().filter(|facts| goes(facts)).collect();
        if dropped.len() == facts.len() && !facts.is_empty() {
            bail!("that would drop every part; nothing was written");
        }
        let gone: HashSet<PartId> = dropped.iter().map(|facts| facts.part).collect();
        let mut model = parts::without(context.model, |part| gone.contains(&part));
        let mut list: Vec<Statement> = dropped.iter().map(|facts| size(facts)).collect();
        let rest = facts.len() - dropped.len();
        shorten(&mut list, 4);
        let mut did = vec![said!("parts-kept", "{parts:part} kept", parts = rest)];
        if !dropped.is_empty() {
            did.push(said!(
                "parts-dropped",
                "{count:part} dropped: {parts:; }",
                count = dropped.len(),
                parts = list,
            ));
        }
        if self.as_groups {
            let groups = parts::group_by_part(&mut model);
            did.push(said!(
                "groups-made",
                "{groups:group} made, one a part",
                groups = groups
            ));
        }
        let step = StepReport {
            did,
            ..StepReport::of("parts")
        };
        Ok(Outcome::new(model, vec![step]))
    }
}

/// The parts that ranges mean, made sure that each is there.
pub(super) fn chosen(ranges: &str, count: usize) -> Result<Vec<RangeInclusive<usize>>> {
    let ranges = numbered(ranges, 'P')?;
    if let Some(range) = ranges.iter().find(|range| *range.start() >= count) {
        let there = text::counted(count, "part");
        bail!("there is no P{}: the model has {there}", range.start() + 1);
    }
    Ok(ranges)
}

/// A part that goes: how large it is, and why it may be missed.
fn size(facts: &PartFacts) -> Statement {
    let group = facts.groups.first();
    said!(
        "part",
        "{part} ({faces:face}, {across} across{group})",
        part = facts.part.to_string(),
        faces = facts.faces,
        across = facts.bounds.diagonal(),
        group = group.map(|name| said!("group", ", {name}", name = text::short(name))),
    )
}

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.text("keep", &mut self.keep);
        visitor.text("drop", &mut self.drop);
        visitor.value("drop-under", &mut self.drop_under);
        visitor.flag("as-groups", &mut self.as_groups);
    }
}
