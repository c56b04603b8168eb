//! What can be wrong with a file.

use std::fmt;
use std::path::PathBuf;

/// Where in a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Spot {
    /// A line of text, counted from 1.
    Line(usize),
    /// A byte, counted from 0.
    Byte(usize),
    /// The file as a whole.
    Whole,
}

impl fmt::Display for Spot {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Spot::Line(line) => write!(f, "line {line}: "),
            Spot::Byte(byte) => write!(f, "byte {byte}: "),
            Spot::Whole => Ok(()),
        }
    }
}

/// Why a file could not be read.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{spot}{message}")]
pub struct ReadError {
    /// Where the trouble is.
    pub spot: Spot,
    /// What it is.
    pub message: String,
}

impl ReadError {
    pub(crate) fn whole(message: impl Into<String>) -> Self {
        Self {
            spot: Spot::Whole,
            message: message.into(),
        }
    }

    pub(crate) fn at_byte(byte: usize, message: impl Into<String>) -> Self {
        Self {
            spot: Spot::Byte(byte),
            message: message.into(),
        }
    }

    /// An error in a text, at a line counted from 1.
    pub(crate) fn at_line(line: usize, message: impl Into<String>) -> Self {
        Self {
            spot: Spot::Line(line),
            message: message.into(),
        }
    }

    /// An error in a text, at the line that holds this byte.
    pub(crate) fn at_line_of(text: &[u8], byte: usize, message: impl Into<String>) -> Self {
        let before = &text[..byte.min(text.len())];
        Self {
            spot: Spot::Line(1 + memchr::memchr_iter(b'\n', before).count()),
            message: message.into(),
        }
    }
}

/// Why a file could not be written.
#[derive(Debug, thiserror::Error)]
pub enum WriteError {
    /// The name has no ending that says which format.
    #[error("{path}: the name says no format; end it in {}", crate::Format::known_extensions(), path = .0.display())]
    UnknownFormat(PathBuf),
    /// The model has no faces.
    #[error("{path}: not written, no face of the model is left", path = .0.display())]
    NoFaces(PathBuf),
    /// The system refused.
    #[error("{path}: {error}", path = .0.display(), error = .1)]
    Io(PathBuf, std::io::Error),
}
