//! What a cut made: planes, pieces, their caps and volumes.

use super::{Table, Text, heading};
use crate::out::{self, count, counted, measure};
use hurmo_pipeline::record::{CutDocument, PieceRecord, PlaneRecord};

/// What was done where what cutting leaves could not be cleared.
const JOINED: &str =
    "of cuts joined with others beside them, between which faces would have no area";

/// What cutting leaves and is cleared.
const TIDIED: &str = "faces without area and non-manifold edges that cutting left";

/// What is done first for files of single precision.
const ROUNDED: &str = "rounded to single precision first, as the file holds them";

/// This many pieces are listed in full.
const MOST: usize = 40;

impl Text for CutDocument {
    fn text(&self) -> String {
        let files = format!("{} → {}", self.input, self.output);
        let mut text = heading(&files, &self.brief);
        for plane in &self.planes {
            text += &format!("  {} {}\n", out::bold("cut      "), plane_text(plane));
        }
        if self.turned > 0 {
            text += &format!(
                "            {} turned outward first\n",
                counted(self.turned, "face")
            );
        }
        if self.rounded > 0 {
            text += &format!(
                "            {} {ROUNDED}\n",
                counted(self.rounded, "vertex")
            );
        }
        if self.joined > 0 {
            text += &format!("            {} {JOINED}\n", counted(self.joined, "vertex"));
        }
        if self.tidied > 0 {
            let changes = counted(self.tidied, "change");
            text += &format!("            {changes} to clear {TIDIED}\n");
        }
        if let Some(pegs) = self.pegs {
            let made = counted(pegs.made, "peg");
            text += &format!("            {made}, pins below and holes above\n");
            if pegs.without > 0 {
                let without = counted(pegs.without, "cap");
                let said = format!("{without} without room for one");
                text += &format!("            {}\n", out::doubtful(&said));
            }
        }
        if self.open_edges > 0 {
            let open = format!(
                "{}: cut as a sheet, and the sections stay open; hurmo fill closes rims first",
                counted(self.open_edges, "open edge")
            );
            text += &format!("            {}\n", out::doubtful(&open));
        }
        text += "\n";
        text += &pieces_text(&self.pieces);
        text += "\n";
        if let (Some(volume), Some(all)) = (self.volume, self.volume_of_all) {
            let off = (all - volume).abs() / volume.abs().max(f64::MIN_POSITIVE);
            text += &format!(
                "  volumes: all pieces {}{}, what the model fills {}; relative error {off:.0e}\n",
                measure(all),
                if self.pegs.is_some() {
                    " before pegs"
                } else {
                    ""
                },
                measure(volume)
            );
        }
        let meeting: usize = self.pieces.iter().map(|piece| piece.meeting).sum();
        if meeting > 0 {
            let meeting = format!("{} meet others still", counted(meeting, "triangle"));
            text += &format!("  {}\n", out::doubtful(&meeting));
        }
        text + &match self.passes {
            true => format!(
                "  {}\n",
                out::good("good to go: nothing blocks in any piece")
            ),
            false => format!("  {} {}\n", out::bad("blocked:"), self.blocking.join(", ")),
        }
    }
}

/// The pieces in a table, the first of very many.
fn pieces_text(pieces: &[PieceRecord]) -> String {
    let mut table = Table::new(&[
        "piece",
        ">size",
        ">faces",
        ">caps",
        ">cap area",
        ">volume",
        "file",
    ]);
    for piece in pieces.iter().take(MOST) {
        let known = |value: Option<f64>| value.map_or("open".into(), measure);
        table.row([
            piece.name.clone(),
            piece.size.map(measure).join(" × "),
            count(piece.faces),
            count(piece.cap_faces),
            measure(piece.cap_area),
            known(piece.volume),
            piece.file.clone(),
        ]);
    }
    let mut text = table.text();
    if pieces.len() > MOST {
        let more = pieces.len() - MOST;
        text += &format!("  and {}\n", counted(more, "more piece"));
    }
    text
}

fn plane_text(plane: &PlaneRecord) -> String {
    let across = plane.normal.iter().position(|x| *x == 1.0);
    let where_it_is = match across {
        Some(axis) => format!("at {} = {}", ["x", "y", "z"][axis], measure(plane.at)),
        None => format!(
            "across {}, {} along it",
            plane.normal.map(measure).join(" "),
            measure(plane.at)
        ),
    };
    match plane.section {
        Some(section) => format!(
            "{where_it_is}, where the section is {} square units",
            measure(section)
        ),
        None => where_it_is,
    }
}
