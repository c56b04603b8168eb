//! What a cut made: planes, pieces, their caps and volumes.

use crate::text::counted;
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

impl CutDocument {
    /// A heading.
    pub fn title(&self) -> String {
        format!("{}: {}", self.input, counted(self.pieces.len(), "piece"))
    }
}
