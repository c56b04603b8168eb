//! Reading OFF.

use crate::text::{any_number, coordinate_or_nan, quoted, refuse_binary, words};
use crate::unusable::set_aside;
use crate::{ReadError, Remarks, SourceLines};
use glam::DVec3;
use hurmo_core::mesh::Attributes;
use hurmo_core::{Mesh, Model, VertexId};

/// The fewest bytes of a line with a vertex, and with a face.
const LEAST: [usize; 2] = [6, 4];

/// What the first word says of the vertex lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Header {
    normals: bool,
    colors: bool,
}

impl Header {
    /// By the word; `None` if it is none.
    fn of(word: &[u8]) -> Option<Result<Self, String>> {
        let mut rest = word.strip_suffix(b"OFF")?;
        let mut header = Self {
            normals: false,
            colors: false,
        };
        rest = rest.strip_prefix(b"ST").unwrap_or(rest);
        if let Some(after) = rest.strip_prefix(b"C") {
            (header.colors, rest) = (true, after);
        }
        if let Some(after) = rest.strip_prefix(b"N") {
            (header.normals, rest) = (true, after);
        }
        match rest {
            b"" => Some(Ok(header)),
            b"4" | b"n" | b"4n" => Some(Err(format!(
                "'{}' is a mesh in more than three dimensions",
                quoted(word)
            ))),
            _ => None,
        }
    }
}

pub(crate) fn looks_like(bytes: &[u8]) -> bool {
    let mut lines = Lines::of(&bytes[..bytes.len().min(65_536)]);
    let first = lines.next();
    first.is_some_and(|line| words(line.text).next().and_then(Header::of).is_some())
}

/// A line that says something, without its comment.
#[derive(Clone, Copy)]
struct Line<'b> {
    text: &'b [u8],
    /// Counted from 1.
    number: usize,
}

/// The lines that say something.
struct Lines<'b> {
    rest: Option<&'b [u8]>,
    number: usize,
}

impl<'b> Lines<'b> {
    fn of(bytes: &'b [u8]) -> Self {
        Self {
            rest: Some(bytes),
            number: 0,
        }
    }
}

impl<'b> Iterator for Lines<'b> {
    type Item = Line<'b>;

    fn next(&mut self) -> Option<Line<'b>> {
        loop {
            let rest = self.rest?;
            let (line, after) = match memchr::memchr(b'\n', rest) {
                Some(end) => (&rest[..end], Some(&rest[end + 1..])),
                None => (rest, None),
            };
            self.rest = after;
            self.number += 1;
            let said = memchr::memchr(b'#', line).map_or(line, |comment| &line[..comment]);
            if !said.trim_ascii().is_empty() {
                return Some(Line {
                    text: said,
                    number: self.number,
                });
            }
        }
    }
}

pub(crate) fn read(bytes: &[u8], remarks: &mut Remarks) -> Result<Model, ReadError> {
    let mut lines = Lines::of(bytes);
    let first = lines.next();
    let first = first.ok_or_else(|| ReadError::whole("it is empty: this is no OFF file"))?;
    let mut begin = words(first.text);
    let at = |line: Line<'_>| move |message| ReadError::at_line(line.number, message);
    // Some leave the word out and begin with the counts.
    let header = match begin.clone().next().and_then(Header::of) {
        Some(header) => {
            begin.next();
            header.map_err(at(first))?
        }
        None => Header {
            normals: false,
            colors: false,
        },
    };
    if begin.clone().next() == Some(b"BINARY") {
        return Err(ReadError::at_line(
            first.number,
            "a binary OFF: Hurmo reads those in text",
        ));
    }
    refuse_binary(bytes, "OFF")?;
    let (line, counts) = match begin.clone().next() {
        Some(_) => (first, begin),
        None => {
            let next = lines.next();
            let next = next.ok_or_else(|| ReadError::whole("the file ends before its counts"))?;
            (next, words(next.text))
        }
    };
    let [vertices, faces] = counts_of(counts, bytes.len()).map_err(at(line))?;
    let mut raw = Raw::with_room_for(vertices, faces);
    for (kind, count) in [("vertex", vertices), ("face", faces)] {
        for i in 0..count {
            let line = lines.next().ok_or_else(|| {
                ReadError::whole(format!("the file ends before {kind} {i} of {count}"))
            })?;
            let taken = match kind {
                "vertex" => raw.vertex(line, header),
                _ => raw.face(line),
            };
            taken.map_err(at(line))?;
        }
    }
    raw.passed_over[3] += lines.count();
    raw.model(remarks)
}

/// How many vertices and faces there are.
fn counts_of<'b>(
    mut words: impl Iterator<Item = &'b [u8]>,
    bytes: usize,
) -> Result<[usize; 2], String> {
    let mut counts = [0; 2];
    for (i, name) in ["vertices", "faces"].into_iter().enumerate() {
        let word = words
            .next()
            .ok_or_else(|| format!("the number of {name} is missing"))?;
        let count = whole(word, || format!("number of {name}"))?;
        if count > bytes / LEAST[i] || count > u32::MAX as usize / 4 {
            return Err(format!(
                "{count} {name} are said to be in it, which a file of {bytes} bytes can't hold"
            ));
        }
        counts[i] = count;
    }
    Ok(counts)
}

/// A whole number, which says `what`.
fn whole(word: &[u8], what: impl Fn() -> String) -> Result<usize, String> {
    let number = std::str::from_utf8(word).ok().and_then(|w| w.parse().ok());
    number.ok_or_else(|| format!("expected the {}, found '{}'", what(), quoted(word)))
}

/// What was read so far.
struct Raw {
    positions: Vec<DVec3>,
    colors: Vec<[f32; 4]>,
    corners: Vec<VertexId>,
    starts: Vec<u32>,
    lines: SourceLines,
    /// Vertices with normals or UVs, faces with colours, faces of no corners, lines in the end.
    passed_over: [usize; 4],
    /// Where the first vertex stands that can't be used.
    unusable: Option<ReadError>,
}

const PASSED_OVER: [&str; 4] = [
    "vertices with normals, UVs or more numbers than their kind has: those are passed over",
    "faces with colours of their own: those are passed over",
    "faces of no corners are passed over",
    "lines after the last face are passed over",
];

impl Raw {
    fn with_room_for(vertices: usize, faces: usize) -> Self {
        Self {
            positions: Vec::with_capacity(vertices),
            colors: Vec::new(),
            corners: Vec::with_capacity(3 * faces),
            starts: vec![0],
            lines: SourceLines::default(),
            passed_over: [0; 4],
            unusable: None,
        }
    }

    fn vertex(&mut self, line: Line<'_>, header: Header) -> Result<(), String> {
        let mut words = words(line.text);
        let mut position = [0.0; 3];
        let mut trouble = None;
        for slot in &mut position {
            let word = words.next().ok_or("a vertex needs three coordinates")?;
            *slot = coordinate_or_nan(word, &mut trouble)?;
        }
        if let (None, Some(message)) = (&self.unusable, trouble) {
            self.unusable = Some(ReadError::at_line(line.number, message));
        }
        self.positions.push(DVec3::from_array(position));
        self.lines.vertices.push(line.number as u32);
        let mut extra = words.clone();
        if header.normals {
            let _ = words.nth(2);
        }
        if header.colors {
            self.colors.push(color(&mut words)?);
            extra = words;
        }
        self.passed_over[0] += usize::from(header.normals || extra.next().is_some());
        Ok(())
    }

    fn face(&mut self, line: Line<'_>) -> Result<(), String> {
        let mut words = words(line.text);
        let word = words.next().expect("a line that says something");
        let count = whole(word, || "number of corners".into())?;
        for i in 0..count {
            let word = words
                .next()
                .ok_or_else(|| format!("a face of {count} corners has only {i}"))?;
            let vertex = whole(word, || "number of a vertex".into())?;
            if vertex >= self.positions.len() {
                return Err(format!(
                    "vertex {vertex} is used, but there are only {}",
                    self.positions.len()
                ));
            }
            self.corners.push(VertexId::new(vertex));
        }
        self.passed_over[1] += usize::from(words.next().is_some());
        if count == 0 {
            self.passed_over[2] += 1;
            return Ok(());
        }
        let end = u32::try_from(self.corners.len());
        self.starts
            .push(end.map_err(|_| "more corners than Hurmo can number")?);
        self.lines.faces.push(line.number as u32);
        Ok(())
    }

    fn model(mut self, remarks: &mut Remarks) -> Result<Model, ReadError> {
        for (count, what) in self.passed_over.into_iter().zip(PASSED_OVER) {
            if count > 0 {
                remarks.notes.push(format!("{count} {what}"));
            }
        }
        let arrays = (
            &mut self.positions[..],
            &mut self.corners[..],
            &self.starts[..],
        );
        let unusable = set_aside(arrays, self.unusable, &mut remarks.notes)?;
        let mesh = Mesh::from_parts(self.positions, self.corners, self.starts)
            .map_err(|error| ReadError::whole(error.to_string()))?;
        remarks.lines = Some(self.lines);
        Ok(Model {
            attributes: Attributes {
                colors: (!self.colors.is_empty()).then(|| shares(self.colors)),
                ..Attributes::default()
            },
            unusable,
            ..Model::from(mesh)
        })
    }
}

/// The colour at the beginning of some words; without its fourth channel, that is NaN.
fn color<'b>(words: &mut (impl Iterator<Item = &'b [u8]> + Clone)) -> Result<[f32; 4], String> {
    let mut color = [f32::NAN; 4];
    for (i, channel) in color.iter_mut().enumerate() {
        let Some(word) = words.next() else {
            match i {
                3 => break,
                _ => return Err("a colour needs three channels after the coordinates".into()),
            }
        };
        let number = any_number(word).filter(|x| (0.0..=255.0).contains(x));
        *channel =
            number.ok_or_else(|| format!("'{}' is no channel of a colour", quoted(word)))? as f32;
    }
    Ok(color)
}

/// Colours as shares of full: those of a file go up to 1, or up to 255 if any is more than 1.
fn shares(mut colors: Vec<[f32; 4]>) -> Vec<[f32; 4]> {
    let most = colors.iter().flatten().copied().fold(0.0, f32::max);
    let full = if most > 1.0 { 255.0 } else { 1.0 };
    for channel in colors.iter_mut().flatten() {
        *channel = if channel.is_nan() {
            1.0
        } else {
            *channel / full
        };
    }
    colors
}
