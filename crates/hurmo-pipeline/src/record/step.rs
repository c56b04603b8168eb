//! What an operation did to a model.

use super::boolean::BooleanRecord;
use super::rebuilt::Rebuilt;
use crate::text::{self, count, measure, shorten};
use hurmo_core::fill::LeftBecause;
use hurmo_core::measure::{Deviation, PartMeasure, deviation, deviation_of_new};
use hurmo_core::mesh::RimId;
use hurmo_core::thicken::ThickenOutcome as Thickened;
use hurmo_core::{Mesh, Model, fill, mend};
use schemars::JsonSchema;
use serde::Serialize;

/// Samples on each surface when measuring how far a step moved it.
const SAMPLES: usize = 20_000;

/// One step.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct StepReport {
    /// Its name.
    pub step: &'static str,
    /// What it changed, in words; empty when nothing.
    pub did: Vec<String>,
    /// Single things that it did, a line each.
    pub single: Vec<String>,
    /// What it left, and why.
    pub left: Vec<String>,
    /// The largest sampled distance by which it moved the surface, in model units.
    pub moved: Option<f64>,
    /// Of a rebuilding: how even the triangles were and are.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rebuilt: Option<Box<Rebuilt>>,
    /// Of a boolean: the solids, how they lie to each other, and their volumes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub boolean: Option<Box<BooleanRecord>>,
}

/// Which way a step's movement is measured.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Moved {
    /// What is there now, from what was there: for steps that take away.
    NewFromOld,
    /// What was there, from what is there now: for steps that add.
    OldFromNew,
    /// Both.
    Both,
}

impl Moved {
    /// Measures how far a step moved the surface.
    pub fn between(self, before: &Mesh, after: &Mesh) -> Option<f64> {
        let found: Option<Deviation> = match self {
            Moved::NewFromOld => deviation_of_new(after, before, SAMPLES),
            Moved::OldFromNew => deviation_of_new(before, after, SAMPLES),
            Moved::Both => deviation(before, after, SAMPLES),
        };
        found.map(|deviation| deviation.max)
    }
}

impl StepReport {
    /// A step of this name that did nothing.
    pub fn of(step: &'static str) -> Self {
        Self {
            step,
            did: Vec::new(),
            single: Vec::new(),
            left: Vec::new(),
            moved: None,
            rebuilt: None,
            boolean: None,
        }
    }

    /// A mend.
    pub fn mended(before: &Model, outcome: &mend::MendOutcome) -> Self {
        let words = |changes: &[mend::Change]| -> Vec<String> {
            changes
                .iter()
                .map(|change| format!("{} {}", count(change.count), change.agreeing()))
                .collect()
        };
        let mut did: Vec<String> = words(&outcome.changes);
        if !outcome.dropped.is_empty() {
            did.push(dropped_in_words(&outcome.dropped));
        }
        let mut single: Vec<String> = outcome.removed.iter().map(removed_in_words).collect();
        shorten(&mut single, 6);
        Self {
            did,
            single,
            left: {
                let mut left: Vec<String> = outcome.left.iter().map(left_in_words).collect();
                left.extend(perhaps_wanted_in_words(&outcome.perhaps_wanted));
                left
            },
            moved: Moved::NewFromOld.between(&before.mesh, &outcome.model.mesh),
            ..Self::of("mend")
        }
    }

    /// A step whose result was thrown away.
    pub fn not_kept(step: &'static str, why: &str) -> Self {
        Self {
            left: vec![format!("tried and not kept: {why}")],
            ..Self::of(step)
        }
    }

    /// A fill.
    pub fn filled(before: &Model, outcome: &fill::FillOutcome) -> Self {
        let mut did = Vec::new();
        if !outcome.dropped.is_empty() {
            did.push(dropped_in_words(&outcome.dropped));
        }
        if outcome.trimmed > 0 {
            did.push(format!(
                "{} trimmed off borders",
                text::counted(outcome.trimmed, "face")
            ));
        }
        if !outcome.filled.is_empty() {
            let faces = outcome.filled.iter().map(|rim| rim.faces).sum();
            let area: f64 = outcome.filled.iter().map(|rim| rim.area).sum();
            did.push(format!(
                "{} closed with {} ({} square units)",
                text::counted(outcome.filled.len(), "rim"),
                text::counted(faces, "face"),
                measure(area),
            ));
        }
        let mut left: Vec<String> = outcome
            .left
            .iter()
            .map(|left| {
                let edges = text::counted(left.edges, "edge");
                format!("{} ({edges}) left: {}", left.rim, with_way_out(left.reason))
            })
            .collect();
        let meets = outcome.filled.iter().filter(|rim| rim.meets_others);
        left.extend(meets.map(|rim| format!("{} closed, but its faces meet others", rim.rim)));
        shorten(&mut left, 4);
        for (rim, parts) in &outcome.floating {
            let mut names: Vec<String> = parts.iter().map(ToString::to_string).collect();
            shorten(&mut names, 4);
            left.push(format!(
                "{rim} has {} in it: {}; --islands join takes in what floats in a rim, \
                 --islands drop drops it",
                text::counted(parts.len(), "part"),
                names.join(" "),
            ));
        }
        if outcome.broken_chains > 0 {
            left.push(format!(
                "{} of open edges left: they end at non-manifold edges",
                text::counted(outcome.broken_chains, "chain")
            ));
        }
        if outcome.not_asked > 0 {
            left.push(format!(
                "{} not asked for",
                text::counted(outcome.not_asked, "rim")
            ));
        }
        Self {
            did,
            single: {
                let mut rims: Vec<String> = outcome.filled.iter().map(filled_in_words).collect();
                shorten(&mut rims, 8);
                rims
            },
            left,
            moved: Moved::OldFromNew.between(&before.mesh, &outcome.model.mesh),
            ..Self::of("fill")
        }
    }

    /// A band between two rims.
    pub fn bridged(before: &Model, rims: [usize; 2], bridged: &fill::Bridged) -> Self {
        let [one, two] = rims.map(RimId::new);
        let rows = match bridged.rows {
            0 => "triangles".to_string(),
            rows => format!("quads in {}", text::counted(rows, "row")),
        };
        let faces = text::counted(bridged.faces, "face");
        let meets = bridged
            .meets_others
            .then_some("the band meets other faces, or itself");
        Self {
            did: vec![format!("{one} and {two} joined with {faces}: {rows}")],
            left: meets.into_iter().map(String::from).collect(),
            moved: Moved::OldFromNew.between(&before.mesh, &bridged.model.mesh),
            ..Self::of("fill")
        }
    }

    /// Walls given to sheets.
    pub fn thickened(before: &Model, outcome: &Thickened) -> Self {
        let mut did = Vec::new();
        if !outcome.thickened.is_empty() {
            let mut names: Vec<_> = outcome.thickened.iter().map(ToString::to_string).collect();
            shorten(&mut names, 6);
            did.push(format!(
                "{} given a wall with {}: {}",
                text::counted(outcome.thickened.len(), "sheet"),
                text::counted(outcome.faces, "face"),
                names.join(" "),
            ));
        }
        let mut left: Vec<String> = outcome
            .left
            .iter()
            .map(|(part, why)| format!("{part} left without a wall: {why}"))
            .collect();
        shorten(&mut left, 4);
        if outcome.crossing > 0 {
            left.push(format!(
                "{} of the sheets and their walls cross others: the wall is thicker than they bend",
                text::counted(outcome.crossing, "face")
            ));
        }
        Self {
            did,
            left,
            moved: Moved::OldFromNew.between(&before.mesh, &outcome.model.mesh),
            ..Self::of("thicken")
        }
    }

    /// Whether it neither did nor left anything.
    pub fn is_empty(&self) -> bool {
        self.did.is_empty() && self.left.is_empty()
    }
}

/// Parts that were dropped, with their sizes.
pub fn dropped_in_words(dropped: &[PartMeasure]) -> String {
    let parts = text::counted(dropped.len(), "part");
    format!("{parts} dropped: {}", sizes_in_words(dropped))
}

fn sizes_in_words(parts: &[PartMeasure]) -> String {
    let mut list: Vec<String> = parts
        .iter()
        .map(|part| {
            let across = measure(part.bounds.diagonal());
            let faces = text::counted(part.faces, "face");
            format!("{} ({faces}, {across} across)", part.part)
        })
        .collect();
    shorten(&mut list, 3);
    list.join(", ")
}

/// Small parts that were left, and how to drop them.
fn perhaps_wanted_in_words(parts: &[PartMeasure]) -> Option<String> {
    let names: Vec<String> = parts.iter().map(|part| part.part.to_string()).collect();
    (!parts.is_empty()).then(|| {
        format!(
            "{} left, perhaps wanted (closed, within the main part's bounds): {}; \
             `hurmo parts --drop {}` drops {}",
            text::counted(parts.len(), "floating part"),
            sizes_in_words(parts),
            names.join(","),
            if parts.len() == 1 { "it" } else { "them" },
        )
    })
}

/// Of which group faces were dropped.
fn removed_in_words(removed: &mend::Removed) -> String {
    let names: Vec<String> = removed.from.iter().map(|name| text::short(name)).collect();
    let faces = text::counted(removed.faces, "face");
    format!("{faces} dropped from {}", names.join(", "))
}

/// A rim that was closed: how, with what, and how far from flat.
fn filled_in_words(rim: &fill::Filled) -> String {
    let rise = match rim.rise > 0.0 {
        true => format!(", rises {}", measure(rim.rise)),
        false => String::new(),
    };
    let plainer = match rim.why_plainer {
        Some(why) => format!(" ({why})"),
        None => String::new(),
    };
    let held = match rim.held_back {
        true => ", held back in places where it would have met other faces",
        false => "",
    };
    let islands = match rim.islands {
        0 => String::new(),
        islands => format!(", {} taken in", text::counted(islands, "island")),
    };
    format!(
        "{} ({}) {}{plainer}: {}, {} square units{rise}{held}{islands}",
        rim.rim,
        text::counted(rim.edges, "edge"),
        rim.surface.name(),
        text::counted(rim.faces, "face"),
        measure(rim.area),
    )
}

/// What a mend left, with the option or command that deals with it.
fn left_in_words(left: &mend::Change) -> String {
    let them = if left.count == 1 { "it" } else { "them" };
    let way_out = match left {
        left if left.is(mend::LEFT_APART) => "; --near 0 does".to_string(),
        left if left.is(mend::ODD_SIDES) => "; --also nonmanifold-edges does".into(),
        left if left.is(mend::ONE_SIDED) => format!("; --cut-one-sided cuts {them} open"),
        left if left.is(mend::OPENED) => format!("; `hurmo fill` closes {them}"),
        _ => String::new(),
    };
    format!("{} {}{way_out}", count(left.count), left.agreeing())
}

/// Why a rim was left, with the option that closes it all the same.
fn with_way_out(reason: LeftBecause) -> String {
    let way_out = match reason {
        LeftBecause::Crosses => ": --may-cross closes it all the same",
        LeftBecause::Floats => ": --islands says whether that is to be dropped or joined",
        _ => "",
    };
    format!("{reason}{way_out}")
}
