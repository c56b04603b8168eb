//! STL: triangles without shared vertices, binary or text.
//!
//! A binary file is one whose size is exactly what its triangle count asks for; the word
//! `solid` at the start proves nothing, since binary headers hold it too. Corners at equal
//! positions become one vertex (`docs/checks.md`).

mod read_binary;
mod read_text;
mod write;

pub(crate) use write::write;

use crate::ReadError;
use hurmo_core::Model;

const HEADER: usize = 84;
const RECORD: usize = 50;

/// The triangle count that a binary header states.
fn stated_count(bytes: &[u8]) -> Option<usize> {
    let count = bytes.get(80..84)?;
    Some(u32::from_le_bytes(count.try_into().ok()?) as usize)
}

fn is_exactly_binary(bytes: &[u8]) -> bool {
    stated_count(bytes).is_some_and(|count| bytes.len() == HEADER + RECORD * count)
}

fn is_text(bytes: &[u8]) -> bool {
    let start = bytes.trim_ascii_start();
    let head = &bytes[..bytes.len().min(4096)];
    start.len() >= 5
        && start[..5].eq_ignore_ascii_case(b"solid")
        && memchr::memchr(0, head).is_none()
        && (contains_word(head, b"facet") || contains_word(head, b"endsolid"))
}

fn contains_word(text: &[u8], word: &[u8]) -> bool {
    crate::text::words(text).any(|w| w.eq_ignore_ascii_case(word))
}

pub(crate) fn looks_like(bytes: &[u8]) -> bool {
    is_exactly_binary(bytes) || is_text(bytes)
}

pub(crate) fn read(bytes: &[u8], notes: &mut Vec<String>) -> Result<Model, ReadError> {
    if !is_exactly_binary(bytes) && is_text(bytes) {
        return read_text::read(bytes, notes);
    }
    read_binary::read(bytes, notes)
}
