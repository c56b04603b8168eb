//! How the source file numbers what was read from it.

use crate::Format;

/// The line of every vertex and face in a text, from 1.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SourceLines {
    /// By vertex.
    pub vertices: Vec<u32>,
    /// By face.
    pub faces: Vec<u32>,
}

/// How the file that a model came from speaks of its elements.
#[derive(Clone, Debug)]
pub struct Source {
    /// The format.
    pub format: Format,
    /// Lines, where the format has them.
    pub lines: Option<SourceLines>,
}

impl Source {
    /// A file's number of a vertex or face, counted from 0 here.
    pub fn number(&self, index: usize) -> u64 {
        index as u64 + u64::from(self.format.entry().first_number)
    }

    /// Whether the file has vertices of its own that faces share; where it has none, their
    /// numbers mean nothing to a person.
    pub fn numbers_vertices(&self) -> bool {
        self.format.entry().holds.shared_vertices
    }

    /// The line of a face.
    pub fn face_line(&self, index: usize) -> Option<u32> {
        self.lines.as_ref()?.faces.get(index).copied()
    }

    /// The line of a vertex.
    pub fn vertex_line(&self, index: usize) -> Option<u32> {
        self.lines.as_ref()?.vertices.get(index).copied()
    }
}
