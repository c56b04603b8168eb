//! OBJ: text with polygons, groups, materials, UVs and normals.
//!
//! ```text
//! bytes ─cut at line ends─▶ chunks ─each on its own thread─▶ raw chunks ─in order─▶ model
//! ```
//!
//! A chunk doesn't know how many vertices came before it, nor which group it is in: indices
//! counted from the end are kept relative to the chunk's start, and group statements as
//! events; both are settled when the chunks are put together.

mod assemble;
mod chunk;
mod materials;
mod write;

pub(crate) use materials::{Kept, companions};
pub(crate) use write::write;

use crate::{ReadError, Remarks};
use hurmo_core::Model;
use rayon::prelude::*;
use std::ops::Range;
use std::sync::Arc;

const CHUNK: usize = 4 << 20;

pub(crate) fn looks_like(bytes: &[u8]) -> bool {
    let head = &bytes[..bytes.len().min(65_536)];
    if memchr::memchr(0, head).is_some() {
        return false;
    }
    head.split(|&b| b == b'\n').any(|line| {
        let mut words = crate::text::words(line);
        matches!(words.next(), Some(b"v"))
            && words.clone().count() >= 3
            && words.take(3).all(|w| crate::text::any_number(w).is_some())
    })
}

pub(crate) fn read(bytes: &[u8], remarks: &mut Remarks) -> Result<Model, ReadError> {
    crate::text::refuse_binary(bytes, "OBJ")?;
    let ranges = chunk_ranges(bytes, CHUNK);
    let chunks = ranges
        .par_iter()
        .map(|range| chunk::parse(&bytes[range.clone()]))
        .collect::<Vec<_>>();
    let mut raw = Vec::with_capacity(chunks.len());
    // The number of each chunk's first line.
    let mut first_lines = Vec::with_capacity(chunks.len());
    let mut lines = 1;
    for chunk in chunks {
        let chunk = chunk.map_err(|(line, message)| ReadError::at_line(lines + line, message))?;
        first_lines.push(lines);
        lines += chunk.line_count;
        raw.push(chunk);
    }
    let assembled = assemble::assemble(raw, remarks).map_err(|trouble| match trouble.place {
        Some((chunk, line)) => {
            ReadError::at_line(first_lines[chunk] + line as usize, trouble.message)
        }
        None => ReadError::whole(trouble.message),
    });
    let mut model = assembled?;
    let scene = materials::scene(&model.attributes.material_libraries, remarks);
    model.attributes.scene = scene.map(Arc::new);
    Ok(model)
}

/// Cuts the text at line ends that no backslash continues.
fn chunk_ranges(bytes: &[u8], size: usize) -> Vec<Range<usize>> {
    let mut ranges = Vec::new();
    let mut from = 0;
    while from < bytes.len() {
        let mut to = (from + size).min(bytes.len());
        while to < bytes.len() {
            let Some(end) = memchr::memchr(b'\n', &bytes[to..]) else {
                to = bytes.len();
                break;
            };
            to += end + 1;
            if !bytes[from..to - 1].trim_ascii_end().ends_with(b"\\") {
                break;
            }
        }
        ranges.push(from..to);
        from = to;
    }
    ranges
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn chunks_end_at_line_ends_that_are_not_continued() {
        let text = b"v 1 2 3\nf 1 \\\n2 3\nv 4 5 6\n";
        for size in 1..text.len() {
            let ranges = chunk_ranges(text, size);
            for range in &ranges {
                let chunk = &text[range.clone()];
                assert!(chunk.ends_with(b"\n") && !chunk.ends_with(b"\\\n"));
            }
            assert_eq!(ranges.iter().map(|r| r.len()).sum::<usize>(), text.len());
        }
    }

    #[test]
    fn the_size_of_chunks_does_not_matter() {
        let text =
            "v 0 0 0\nv 1 0 0\nv 1 1 0\nf -3 -2 -1\ng rail\nv 0 1 0\nusemtl tar\nf -4 -2 -1\n";
        let mut whole_remarks = Remarks::default();
        let whole = read(text.as_bytes(), &mut whole_remarks).unwrap();
        let lines = whole_remarks.lines.as_ref().unwrap();
        assert_eq!(
            (&lines.vertices[..], &lines.faces[..]),
            (&[1, 2, 3, 6][..], &[4, 8][..])
        );
        for size in 1..text.len() {
            let chunks: Vec<_> = chunk_ranges(text.as_bytes(), size)
                .into_iter()
                .map(|range| chunk::parse(&text.as_bytes()[range]).unwrap())
                .collect();
            let mut remarks = Remarks::default();
            let cut = assemble::assemble(chunks, &mut remarks);
            assert_eq!(cut.map_err(|t| t.message).unwrap(), whole);
            assert_eq!(remarks.lines, whole_remarks.lines);
        }
    }
}
