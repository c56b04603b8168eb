//! What `hurmo parts` tells.

use super::table::Table;
use crate::out::{self, counted, measure};
use hurmo_core::Model;
use hurmo_core::parts::{PartFacts, Surface};
use hurmo_core::units::Unit;
use serde::Serialize;
use std::path::Path;

/// The parts of a model.
#[derive(Clone, Debug, Serialize)]
pub struct PartsDocument {
    /// The file.
    pub file: String,
    /// What one unit of length is, where that is known.
    pub unit: Option<Unit>,
    /// The parts, those of most faces first.
    pub parts: Vec<PartFacts>,
}

/// A file that was split off.
#[derive(Clone, Debug, Serialize)]
pub struct PartsNote {
    /// The file.
    pub file: String,
    /// The piece's name.
    pub name: Option<String>,
    /// How many faces it has.
    pub faces: usize,
}

/// How many parts the list shows in full.
const MOST: usize = 40;

impl PartsDocument {
    /// Of a model that was read from a file.
    pub fn of(file: &Path, model: &Model, parts: Vec<PartFacts>) -> Self {
        Self {
            file: file.display().to_string(),
            unit: model.unit,
            parts,
        }
    }

    /// For people.
    pub fn text(&self) -> String {
        let count = |what: fn(&PartFacts) -> bool| self.parts.iter().filter(|p| what(p)).count();
        let closed = count(|part| part.surface == Surface::Closed);
        let scraps = count(|part| part.floating && !part.perhaps_wanted);
        let mut summary = format!("{}, {closed} closed", counted(self.parts.len(), "part"));
        if scraps > 0 {
            summary += &format!(", {scraps} small enough to be scrap");
        }
        let mut text = format!("{}  {summary}\n\n", out::bold(&self.file));
        let mut table = Table::new(&[
            "part",
            ">faces",
            ">across",
            ">area",
            ">volume",
            "surface",
            "lies",
            "belongs to",
        ]);
        for part in self.parts.iter().take(MOST) {
            table.row([
                part.part.to_string(),
                out::count(part.faces),
                measure(part.bounds.diagonal()),
                measure(part.area),
                part.volume.map_or("-".into(), measure),
                surface(part),
                lies(part),
                belongs(part),
            ]);
        }
        text += &table.text();
        if self.parts.len() > MOST {
            let rest = &self.parts[MOST..];
            let faces = rest.iter().map(|part| part.faces).sum();
            text += &format!(
                "  and {} more with {} together; --json lists all\n",
                out::count(rest.len()),
                counted(faces, "face")
            );
        }
        text
    }
}

/// Whether a part ends anywhere, in a word.
pub fn surface(part: &PartFacts) -> String {
    match part.surface {
        Surface::Closed => "closed",
        Surface::Open => "open",
        Surface::Branching => "branching",
    }
    .into()
}

/// How a part lies to the others, in words.
pub fn lies(part: &PartFacts) -> String {
    let mut words = Vec::new();
    if part.hollow {
        words.push("hollow".to_string());
    }
    if let Some(outer) = part.inside {
        words.push(format!("inside {outer}"));
    }
    if !part.meets.is_empty() {
        let names: Vec<String> = part.meets.iter().take(3).map(|p| p.to_string()).collect();
        let more = part.meets.len() - names.len();
        let more = if more > 0 {
            format!(" and {more} more")
        } else {
            String::new()
        };
        words.push(format!("meets {}{more}", names.join(" ")));
    }
    match (part.floating, part.perhaps_wanted) {
        (true, true) => words.push("small, perhaps wanted".into()),
        (true, false) => words.push("perhaps scrap".into()),
        (false, _) => {}
    }
    words.join(", ")
}

fn belongs(part: &PartFacts) -> String {
    let names: Vec<&String> = part.groups.iter().chain(&part.materials).collect();
    let mut shown: Vec<String> = names.iter().take(3).map(|name| out::short(name)).collect();
    if names.len() > 3 {
        shown.push(format!("and {} more", names.len() - 3));
    }
    shown.join(", ")
}

/// The files that were written, for people.
pub fn written(files: &[PartsNote]) -> String {
    let mut table = Table::new(&["file", ">faces"]);
    for file in files.iter().take(MOST) {
        table.row([file.file.clone(), out::count(file.faces)]);
    }
    let mut text = table.text();
    if files.len() > MOST {
        text += &format!("  and {} more\n", out::count(files.len() - MOST));
    }
    text + &format!("{} written\n", counted(files.len(), "file"))
}
