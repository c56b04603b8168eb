//! The report of `hurmo parts`.

use super::{Table, Text};
use crate::out::{self, counted, measure};
use hurmo_core::parts::{PartFacts, Surface};
use hurmo_pipeline::record::{PartsDocument, PartsNote, lies, surface};

/// How many parts the list shows in full.
const MOST: usize = 40;

impl Text for PartsDocument {
    fn text(&self) -> String {
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
