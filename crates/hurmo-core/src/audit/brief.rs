//! Levels, and the purposes that set them.

use serde::Serialize;

/// How bad a finding is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Level {
    /// Worth knowing.
    Note,
    /// May cause trouble.
    Warn,
    /// Must not go on like that.
    Block,
}

impl Level {
    /// The level's name.
    pub fn name(self) -> &'static str {
        match self {
            Level::Note => "note",
            Level::Warn => "warn",
            Level::Block => "block",
        }
    }
}

/// What the model is handed off to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Brief {
    /// Nothing in particular.
    General,
    /// Sculpting: closed, even, no n-gons.
    Sculpt,
    /// A game engine: triangles, nothing stray or doubled; open sheets allowed.
    Engine,
    /// A 3D printer: watertight.
    Print,
}

impl Brief {
    /// The brief's name.
    pub fn name(self) -> &'static str {
        match self {
            Brief::General => "general",
            Brief::Sculpt => "sculpt",
            Brief::Engine => "engine",
            Brief::Print => "print",
        }
    }

    /// Whether the handoff needs a closed surface.
    pub fn wants_closed(self) -> bool {
        matches!(self, Brief::Sculpt | Brief::Print)
    }

    /// Whether the handoff needs triangles.
    pub fn wants_triangles(self) -> bool {
        matches!(self, Brief::Engine | Brief::Print)
    }
}

/// A check's level in each brief.
#[derive(Clone, Copy, Debug)]
pub struct Levels {
    /// Without a brief.
    pub general: Level,
    /// In `sculpt`.
    pub sculpt: Level,
    /// In `engine`.
    pub engine: Level,
    /// In `print`.
    pub print: Level,
}

impl Levels {
    /// The level in a brief.
    pub fn in_brief(&self, brief: Brief) -> Level {
        match brief {
            Brief::General => self.general,
            Brief::Sculpt => self.sculpt,
            Brief::Engine => self.engine,
            Brief::Print => self.print,
        }
    }
}
