//! What the demo makes of several models, or several of one: commands as people give them.

use super::draft::Draft;
use glam::{DMat4, DVec3};
use hurmo_core::{Model, shapes};

/// A command that the demo runs on its models once they are prepared.
pub struct Command {
    /// What it makes, in a few words.
    pub what: &'static str,
    /// Its words. Those that begin with [`FOLDER`] are files in the demo's folder.
    pub line: &'static str,
}

/// In a [`Command`], the demo's folder.
pub const FOLDER: &str = "DIR/";

/// A file that goes with the models: the landing stage's plank, which the bollard stands on.
pub const PLANK: &str = "plank.obj";

/// The commands, in order.
pub const COMMANDS: &[Command] = &[
    Command {
        what: "the bell buoy's parts, pushed into each other, become one solid with rounded joints",
        line: "boolean DIR/buoy.obj -o DIR/buoy-one.obj --as union --blend 1.5% --force",
    },
    Command {
        what: "the bollard's foot is taken out of the plank that it stands in",
        line: "boolean DIR/plank.obj DIR/bollard-sculpt.obj -o DIR/plank-notched.obj --as difference --force",
    },
    Command {
        what: "the heron is cut for a small printer, with pegs that hold it together",
        line: "cut DIR/heron-print.3mf -o DIR/heron-pieces.3mf --bed 100x100x60mm --pegs 6mm --force",
    },
];

impl Command {
    /// Its words, with the program's name, for models in a folder.
    pub fn words(&self, folder: &std::path::Path) -> Vec<String> {
        let word = |word: &str| match word.strip_prefix(FOLDER) {
            Some(file) => folder.join(file).display().to_string(),
            None => word.to_string(),
        };
        let words = self.line.split_whitespace().map(word);
        std::iter::once("hurmo".into()).chain(words).collect()
    }
}

/// The plank: its top lies above the bollard's foot plate.
pub fn plank() -> Model {
    let mut draft = Draft::default();
    draft.add(
        &shapes::cuboid(
            DVec3::new(-1.6, -0.55, -0.12),
            DVec3::new(1.6, 0.55, 0.04),
            1,
        ),
        DMat4::IDENTITY,
        "plank",
        "oak",
    );
    draft.finish()
}
