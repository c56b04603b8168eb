//! What a cut made: planes, pieces, their caps and volumes.

use super::table::Table;
use crate::out::{self, count, counted, measure};
use hurmo_core::cut::Piece;
use hurmo_core::measure::{bounds, vector_area};
use hurmo_core::units::Unit;
use schemars::JsonSchema;
use serde::Serialize;
use std::path::Path;

/// A model that was cut.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct CutDocument {
    /// The file that was read.
    pub input: String,
    /// The file or folder that was written.
    pub output: String,
    /// The brief that the pieces were judged by.
    pub brief: String,
    /// What one unit of length is, where that is known.
    pub unit: Option<Unit>,
    /// The planes.
    pub planes: Vec<PlaneRecord>,
    /// How many edges of the model are open: then it was cut as a sheet, and has no caps.
    pub open_edges: usize,
    /// Faces that were turned first, so that closed parts face outward.
    pub turned: usize,
    /// Vertices that were rounded to single precision first, as the file holds them.
    pub rounded: usize,
    /// Vertices of cuts that were joined with others beside them, between which faces would have no area.
    pub joined: usize,
    /// Changes that cleared faces without area and non-manifold edges, as cuts right beside vertices and
    /// through surfaces that touch make them.
    pub tidied: usize,
    /// Pegs, where they were asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pegs: Option<PegsRecord>,
    /// What the model fills, in cubic units; none if it is open.
    pub volume: Option<f64>,
    /// That of all pieces, those too that are not written.
    pub volume_of_all: Option<f64>,
    /// What was written.
    pub pieces: Vec<PieceRecord>,
    /// What blocks in the files, read back.
    pub blocking: Vec<String>,
    /// Whether nothing does.
    pub passes: bool,
}

/// Pegs.
#[derive(Clone, Copy, Debug, Serialize, JsonSchema)]
pub struct PegsRecord {
    /// How many were made.
    pub made: usize,
    /// How many caps have no room for one.
    pub without: usize,
}

/// A plane.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct PlaneRecord {
    /// Its normal.
    pub normal: [f64; 3],
    /// How far along its normal, from the origin.
    pub at: f64,
    /// How large the section was reckoned to be when the plane was chosen.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub section: Option<f64>,
}

/// A piece.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct PieceRecord {
    /// What it is called.
    pub name: String,
    /// The file that it is in.
    pub file: String,
    /// Its size along the axes.
    pub size: [f64; 3],
    /// Its faces.
    pub faces: usize,
    /// Those that close it where it was cut, and their area.
    pub cap_faces: usize,
    /// In square units.
    pub cap_area: f64,
    /// What it fills, in cubic units; none of an open one.
    pub volume: Option<f64>,
    /// Triangles that meet others still.
    pub meeting: usize,
}

impl PieceRecord {
    /// Of a piece and the file that it is in.
    pub fn of(piece: &Piece, name: &str, file: &Path) -> Self {
        let mesh = &piece.model.mesh;
        let caps = mesh.face_ids().filter(|face| piece.is_cap[face.index()]);
        Self {
            name: name.to_string(),
            file: file.display().to_string(),
            size: bounds(mesh).map_or([0.0; 3], |bounds| bounds.size().to_array()),
            faces: mesh.face_count(),
            cap_faces: caps.clone().count(),
            cap_area: caps.map(|face| vector_area(mesh, face).length()).sum(),
            volume: piece.volume,
            meeting: piece.meeting,
        }
    }
}

/// What was done where what cutting leaves could not be cleared.
pub const JOINED: &str =
    "of cuts joined with others beside them, between which faces would have no area";

/// What cutting leaves and is cleared.
pub const TIDIED: &str = "faces without area and non-manifold edges that cutting left";

/// What is done first for files of single precision.
pub const ROUNDED: &str = "rounded to single precision first, as the file holds them";

/// So many pieces are listed in full.
const MOST: usize = 40;

impl CutDocument {
    /// A heading.
    pub fn title(&self) -> String {
        format!("{}: {}", self.input, counted(self.pieces.len(), "piece"))
    }

    /// For people.
    pub fn text(&self) -> String {
        let files = format!("{} → {}", self.input, self.output);
        let mut text = super::heading(&files, &self.brief);
        for plane in &self.planes {
            text += &format!("  {} {}\n", out::bold("cut      "), plane.text());
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
        let mut table = Table::new(&[
            "piece",
            ">size",
            ">faces",
            ">caps",
            ">cap area",
            ">volume",
            "file",
        ]);
        for piece in self.pieces.iter().take(MOST) {
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
        text += &table.text();
        if self.pieces.len() > MOST {
            let more = self.pieces.len() - MOST;
            text += &format!("  and {}\n", counted(more, "more piece"));
        }
        text += "\n";
        if let (Some(volume), Some(all)) = (self.volume, self.volume_of_all) {
            let off = (all - volume).abs() / volume.abs().max(f64::MIN_POSITIVE);
            text += &format!(
                "  volumes: all pieces {}{}, what the model fills {}; off by {off:.0e}\n",
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

impl PlaneRecord {
    fn text(&self) -> String {
        let across = self.normal.iter().position(|x| *x == 1.0);
        let plane = match across {
            Some(axis) => format!("at {} = {}", ["x", "y", "z"][axis], measure(self.at)),
            None => format!(
                "across {}, {} along it",
                self.normal.map(measure).join(" "),
                measure(self.at)
            ),
        };
        match self.section {
            Some(section) => format!(
                "{plane}, where the section is {} square units",
                measure(section)
            ),
            None => plane,
        }
    }
}
