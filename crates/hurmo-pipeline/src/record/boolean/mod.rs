//! What solids are to each other, what was made of them, and the proof by volumes.

mod seams;

pub use seams::{EvenedRecord, RoundedRecord, SeamRecord};

use super::StepReport;
use super::statement::{Statement, shorten};
use crate::said;
use crate::text::{self, measure};
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

/// When the volume is off by more than this share, something is wrong.
const WRONG: f64 = 1e-4;

impl BooleanRecord {
    /// The solids, one by one.
    fn solids(&self) -> Vec<Statement> {
        let mut solids: Vec<Statement> = (self.solids.iter())
            .map(|solid| {
                let went = [
                    (solid.kept, "kept"),
                    (solid.cut, "cut"),
                    (solid.dropped, "dropped"),
                ];
                let went: Vec<Statement> = went
                    .iter()
                    .filter(|(faces, _)| *faces > 0)
                    .map(|(faces, how)| said!("went", "{faces} {how}", faces = *faces, how = *how))
                    .collect();
                said!(
                    "solid",
                    "{name}: {faces:face}, {went}; {volume} cubic units",
                    name = solid.name.clone(),
                    faces = solid.faces,
                    went = went,
                    volume = solid.volume,
                )
            })
            .collect();
        shorten(&mut solids, 8);
        solids
    }

    /// How they lie to each other.
    fn relations(&self) -> Vec<Statement> {
        let mut lines = Vec::new();
        if !self.meeting.is_empty() {
            let mut pairs: Vec<Statement> = self
                .meeting
                .iter()
                .map(|[a, b]| said!("pair", "{one} and {two}", one = a.clone(), two = b.clone()))
                .collect();
            shorten(&mut pairs, 4);
            lines.push(said!(
                "meet",
                "{pairs} meet along {lines:line}, {length} long",
                pairs = pairs,
                lines = self.lines,
                length = self.line_length,
            ));
        }
        let mut others: Vec<Statement> = self
            .within
            .iter()
            .map(|[a, b]| {
                said!(
                    "within",
                    "{inner} lies within {outer}",
                    inner = a.clone(),
                    outer = b.clone(),
                )
            })
            .collect();
        let others_of = self.meeting.iter().chain(&self.within).flatten();
        let with_others: HashSet<&String> = others_of.collect();
        let is_alone = |name: &&String| !with_others.contains(*name);
        let names = self.solids.iter().map(|solid| &solid.name);
        match &names.clone().filter(is_alone).collect::<Vec<_>>()[..] {
            [a, b] if self.solids.len() == 2 => others.push(said!(
                "apart",
                "{one} and {two} don't touch",
                one = a.to_string(),
                two = b.to_string(),
            )),
            alone => others.extend((alone.iter()).map(|name| {
                said!(
                    "alone",
                    "{solid} touches no other",
                    solid = name.to_string()
                )
            })),
        }
        shorten(&mut others, 6);
        lines.extend(others);
        lines
    }

    /// Which solids are open, and where cut lines run into rims.
    fn openings(&self) -> Vec<Statement> {
        let open = self.solids.iter().filter(|solid| solid.open_edges > 0);
        let mut lines: Vec<Statement> = open
            .map(|solid| {
                said!(
                    "open-solid",
                    "{solid} does not close along {edges:edge}: flat caps close it while it is cut, so that \
                     inside is where its winding number is over a half; its rims stay open",
                    solid = solid.name.clone(),
                    edges = solid.open_edges,
                )
            })
            .collect();
        shorten(&mut lines, 6);
        if !self.seams_at_rims.is_empty() {
            let mut places: Vec<String> = (self.seams_at_rims.iter())
                .map(|place| place.map(measure).join(","))
                .collect();
            let count = places.len();
            text::shorten(&mut places, 4);
            lines.push(said!(
                "seam-at-rim",
                "the cut line runs into an open rim at {count:place}: {places:; }",
                count = count,
                places = places,
            ));
        }
        lines
    }

    /// The volumes, and what must be true of them.
    fn volumes(&self) -> Option<Statement> {
        let sum = |cells: &dyn Fn(&CellRecord) -> bool| -> f64 {
            let cells = self.cells.iter().filter(|cell| cells(cell));
            cells.map(|cell| cell.volume).sum()
        };
        let (first, others) = match &self.solids[..] {
            [first, others @ ..] => (first, others),
            [] => return None,
        };
        let volume = self.volume;
        let identity = match self.kind {
            "difference" => said!(
                "difference",
                "{first} - {common} in {others} = {volume}",
                first = first.volume,
                common = sum(&|cell| cell.of.len() > 1 && cell.of.contains(&first.name)),
                others = match others {
                    [other] => other.name.as_str(),
                    _ => "others",
                },
                volume = volume,
            ),
            "intersection" => said!(
                "intersection",
                "{volume} of {volumes: and }",
                volume = volume,
                volumes = (self.solids.iter())
                    .map(|solid| measure(solid.volume))
                    .collect::<Vec<_>>(),
            ),
            _ => {
                let again: f64 = (self.cells.iter())
                    .map(|cell| (cell.of.len() as f64 - 1.0) * cell.volume)
                    .sum();
                let volumes: Vec<f64> = self.solids.iter().map(|solid| solid.volume).collect();
                let sum = match volumes.len() {
                    ..=4 => {
                        let volumes: Vec<String> = volumes.into_iter().map(measure).collect();
                        said!("each", "{volumes: + }", volumes = volumes)
                    }
                    solids => said!(
                        "together",
                        "{volume} in {solids:solid}",
                        volume = volumes.iter().sum::<f64>(),
                        solids = solids,
                    ),
                };
                said!(
                    "sum",
                    "{sum} = {volume} + {again} {how}",
                    sum = sum,
                    volume = volume,
                    again = again,
                    how = match others {
                        [_] => "in both",
                        _ => "counted again",
                    },
                )
            }
        };
        let off = match self.residual {
            off if off < 5e-16 => "to the last digit".into(),
            off => format!("relative error {off:.0e}"),
        };
        Some(said!(
            "volumes",
            "volumes: {identity}, {residual}",
            identity = identity,
            residual = (self.residual, off),
        ))
    }
}

impl StepReport {
    /// A boolean.
    pub fn solved(record: BooleanRecord) -> Self {
        let all = |which: fn(&SolidRecord) -> usize| record.solids.iter().map(which).sum::<usize>();
        let solids = record.solids.len();
        let of = match record.kind {
            "pieces" => said!(
                "pieces",
                "{pieces:piece} of {solids:solid}",
                pieces = record.cells.len(),
                solids = solids,
            ),
            kind => said!(
                "combined",
                "{as} of {solids:solid}",
                as = kind,
                solids = solids,
            ),
        };
        let mut did = vec![of];
        let went = [
            (all(|s| s.cut), "cut where they meet"),
            (all(|s| s.dropped), "dropped"),
        ];
        for (faces, how) in went.into_iter().filter(|(faces, _)| *faces > 0) {
            did.push(said!(
                "went",
                "{faces:face} {how}",
                faces = faces,
                how = how
            ));
        }
        let mut single = record.solids();
        single.extend(record.relations());
        single.extend(record.volumes());
        let mut left = record.openings();
        if let Some(seams) = &record.seams {
            single.extend(seams.done(record.volume));
            left.extend(seams.left());
        }
        if record.left_crossing > 0 {
            left.push(said!(
                "still-meet",
                "{triangles:triangle} meet others still: the surfaces lie closer together there than their \
                 coordinates are exact",
                triangles = record.left_crossing
            ));
        }
        if record.residual > WRONG {
            left.push(said!(
                "wrong-volume",
                "the volume is {volume}, and should be {expected}",
                volume = record.volume,
                expected = record.expected_volume,
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
