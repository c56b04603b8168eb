//! What solids are to each other, what was made of them, and the proof by volumes.

mod seams;

pub use seams::{EvenedRecord, RoundedRecord, SeamRecord};

use super::StepReport;
use crate::text::{count, counted, measure, shorten};
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::HashSet;

/// The record of a boolean.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct BooleanRecord {
    /// What was made: union, difference, intersection or pieces.
    #[serde(rename = "as")]
    pub kind: &'static str,
    /// The solids.
    pub solids: Vec<SolidRecord>,
    /// The places that lie in the same solids, with their volumes: together all that the solids fill.
    pub cells: Vec<CellRecord>,
    /// Pairs of solids whose surfaces meet.
    pub meeting: Vec<[String; 2]>,
    /// Pairs of solids, the first of which lies within the second and does not meet it.
    pub within: Vec<[String; 2]>,
    /// How many lines solids meet along, and how long they are together.
    pub lines: usize,
    /// In the model's unit.
    pub line_length: f64,
    /// The volume of the result.
    pub volume: f64,
    /// What it must be by the volumes of the cells.
    pub expected_volume: f64,
    /// By what share of all that the solids fill the two differ.
    pub residual: f64,
    /// Faces that cross others still, since their coordinates are not exact enough.
    pub left_crossing: usize,
    /// Where cut lines run into open rims of the result.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub seams_at_rims: Vec<[f64; 3]>,
    /// What was done along the cut lines afterwards, where that was asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seams: Option<SeamRecord>,
}

/// One of the solids.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct SolidRecord {
    /// What it is called.
    pub name: String,
    /// What it fills, in cubic units.
    pub volume: f64,
    /// Its faces.
    pub faces: usize,
    /// Those that are in the result whole.
    pub kept: usize,
    /// Those of which pieces are in the result.
    pub cut: usize,
    /// Those of which nothing is.
    pub dropped: usize,
    /// Edges at which it is open, or faces run the same way: caps close it while it is cut.
    #[serde(skip_serializing_if = "is_nought")]
    pub open_edges: usize,
}

fn is_nought(count: &usize) -> bool {
    *count == 0
}

/// A set of solids and the places in just these.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct CellRecord {
    /// The solids.
    #[serde(rename = "in")]
    pub of: Vec<String>,
    /// In cubic units.
    pub volume: f64,
}

/// What was done where what cutting leaves could not be cleared.
pub const JOINED: &str =
    "of cuts joined with others beside them, between which faces would have no area";

/// What cutting leaves and is cleared.
pub const TIDIED: &str = "faces without area and non-manifold edges that cutting left";

/// What is done first for files of single precision.
pub const ROUNDED: &str = "rounded to single precision first, as the file holds them";

/// When the volume is off by more than this share, something is wrong.
const WRONG: f64 = 1e-4;

impl BooleanRecord {
    /// The solids, a line each.
    fn solids_in_words(&self) -> Vec<String> {
        let mut lines: Vec<String> = (self.solids.iter())
            .map(|solid| {
                let went = [
                    (solid.kept, "kept"),
                    (solid.cut, "cut"),
                    (solid.dropped, "dropped"),
                ];
                let went: Vec<String> = went
                    .iter()
                    .filter(|(faces, _)| *faces > 0)
                    .map(|(faces, how)| format!("{} {how}", count(*faces)))
                    .collect();
                format!(
                    "{}: {}, {}; {} cubic units",
                    solid.name,
                    counted(solid.faces, "face"),
                    went.join(", "),
                    measure(solid.volume)
                )
            })
            .collect();
        shorten(&mut lines, 8);
        lines
    }

    /// How they lie to each other.
    fn relations_in_words(&self) -> Vec<String> {
        let mut lines = Vec::new();
        if !self.meeting.is_empty() {
            let mut pairs: Vec<String> = self
                .meeting
                .iter()
                .map(|[a, b]| format!("{a} and {b}"))
                .collect();
            shorten(&mut pairs, 4);
            lines.push(format!(
                "{} meet along {}, {} long",
                pairs.join(", "),
                counted(self.lines, "line"),
                measure(self.line_length)
            ));
        }
        let mut others: Vec<String> = self
            .within
            .iter()
            .map(|[a, b]| format!("{a} lies within {b}"))
            .collect();
        let others_of = self.meeting.iter().chain(&self.within).flatten();
        let with_others: HashSet<&String> = others_of.collect();
        let is_alone = |name: &&String| !with_others.contains(*name);
        let names = self.solids.iter().map(|solid| &solid.name);
        match &names.clone().filter(is_alone).collect::<Vec<_>>()[..] {
            [a, b] if self.solids.len() == 2 => others.push(format!("{a} and {b} don't touch")),
            alone => others.extend(alone.iter().map(|name| format!("{name} touches no other"))),
        }
        shorten(&mut others, 6);
        lines.extend(others);
        lines
    }

    /// Which solids are open, and where cut lines run into rims.
    fn openings_in_words(&self) -> Vec<String> {
        let open = self.solids.iter().filter(|solid| solid.open_edges > 0);
        let mut lines: Vec<String> = open
            .map(|solid| {
                format!(
                    "{} does not close along {}: flat caps close it while it is cut, so that inside is where \
                     its winding number is over a half; its rims stay open",
                    solid.name,
                    counted(solid.open_edges, "edge")
                )
            })
            .collect();
        shorten(&mut lines, 6);
        if !self.seams_at_rims.is_empty() {
            let mut places: Vec<String> = (self.seams_at_rims.iter())
                .map(|place| place.map(measure).join(","))
                .collect();
            let count = counted(places.len(), "place");
            shorten(&mut places, 4);
            let places = places.join("; ");
            lines.push(format!(
                "the cut line runs into an open rim at {count}: {places}"
            ));
        }
        lines
    }

    /// The volumes, and what must be true of them.
    fn volumes_in_words(&self) -> String {
        let sum = |cells: &dyn Fn(&CellRecord) -> bool| -> f64 {
            let cells = self.cells.iter().filter(|cell| cells(cell));
            cells.map(|cell| cell.volume).sum()
        };
        let (first, others) = match &self.solids[..] {
            [first, others @ ..] => (first, others),
            [] => return String::new(),
        };
        let (made, volume) = (self.kind, measure(self.volume));
        let said = match made {
            "difference" => format!(
                "{} - {} in {} = {volume}",
                measure(first.volume),
                measure(sum(
                    &|cell| cell.of.len() > 1 && cell.of.contains(&first.name)
                )),
                match others {
                    [other] => other.name.as_str(),
                    _ => "others",
                }
            ),
            "intersection" => format!(
                "{volume} of {}",
                self.solids
                    .iter()
                    .map(|solid| measure(solid.volume))
                    .collect::<Vec<_>>()
                    .join(" and ")
            ),
            _ => {
                let again: f64 = (self.cells.iter())
                    .map(|cell| (cell.of.len() as f64 - 1.0) * cell.volume)
                    .sum();
                let volumes: Vec<f64> = self.solids.iter().map(|solid| solid.volume).collect();
                let sum = match volumes.len() {
                    ..=4 => volumes
                        .into_iter()
                        .map(measure)
                        .collect::<Vec<_>>()
                        .join(" + "),
                    solids => format!(
                        "{} in {}",
                        measure(volumes.iter().sum()),
                        counted(solids, "solid")
                    ),
                };
                let together = match others {
                    [_] => "in both",
                    _ => "counted again",
                };
                format!("{sum} = {volume} + {} {together}", measure(again))
            }
        };
        let off = match self.residual {
            off if off < 5e-16 => "to the last digit".into(),
            off => format!("off by {off:.0e} of all"),
        };
        format!("volumes: {said}, {off}")
    }
}

impl StepReport {
    /// A boolean.
    pub fn solved(record: BooleanRecord) -> Self {
        let all = |which: fn(&SolidRecord) -> usize| record.solids.iter().map(which).sum::<usize>();
        let of = match record.kind {
            "pieces" => format!(
                "{} of {}",
                counted(record.cells.len(), "piece"),
                counted(record.solids.len(), "solid")
            ),
            kind => format!("{kind} of {}", counted(record.solids.len(), "solid")),
        };
        let mut did = vec![of];
        let went = [
            (all(|s| s.cut), "cut where they meet"),
            (all(|s| s.dropped), "dropped"),
        ];
        for (faces, how) in went.into_iter().filter(|(faces, _)| *faces > 0) {
            did.push(format!("{} {how}", counted(faces, "face")));
        }
        let mut single = record.solids_in_words();
        single.extend(record.relations_in_words());
        single.push(record.volumes_in_words());
        let mut left = record.openings_in_words();
        if let Some(seams) = &record.seams {
            single.extend(seams.in_words(record.volume));
            left.extend(seams.left_in_words());
        }
        if record.left_crossing > 0 {
            left.push(format!(
                "{} meet others still: the surfaces lie closer together there than their coordinates \
                 are exact",
                counted(record.left_crossing, "triangle")
            ));
        }
        if record.residual > WRONG {
            left.push(format!(
                "the volume is {}, and should be {}",
                measure(record.volume),
                measure(record.expected_volume)
            ));
        }
        Self {
            step: "boolean",
            did,
            single,
            left,
            moved: None,
            rebuilt: None,
            boolean: Some(Box::new(record)),
        }
    }
}
