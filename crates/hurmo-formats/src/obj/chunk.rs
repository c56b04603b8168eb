//! Parsing one chunk of an OBJ text.

use crate::text::{any_number, coordinate_or_nan, names_no_number, quoted, words};
use glam::{DVec2, DVec3};

/// A reference to a vertex, UV or normal.
///
/// 0: none. Positive: counted from 1, over the whole file. Negative: relative to the first
/// element of the chunk, shifted by [`RELATIVE`] so that it is always negative.
pub(super) type Reference = i32;

const RELATIVE: i32 = -(1 << 30);

/// The element's index from 0, or `None` when there isn't one before it in the file.
pub(super) fn resolved(reference: Reference, before_chunk: usize) -> Option<usize> {
    if reference > 0 {
        Some(reference as usize - 1)
    } else {
        let index = before_chunk as i64 + i64::from(reference) - i64::from(RELATIVE);
        usize::try_from(index).ok()
    }
}

/// What changes for the faces from a given one on.
#[derive(Debug)]
pub(super) enum Event {
    Object(String),
    Group(String),
    Material(String),
    Smoothing(String),
}

/// What a chunk holds.
#[derive(Debug, Default)]
pub(super) struct RawChunk {
    pub positions: Vec<DVec3>,
    /// By vertex; shorter than `positions` where the last ones have none.
    pub colors: Vec<Option<[f32; 3]>>,
    pub uvs: Vec<DVec2>,
    pub normals: Vec<DVec3>,
    /// Vertex, UV, normal.
    pub corners: Vec<[Reference; 3]>,
    pub face_ends: Vec<u32>,
    /// The line of each vertex's and each face's statement, from 0 at the chunk's start.
    pub vertex_lines: Vec<u32>,
    /// What is wrong with the first coordinate that can't be used.
    pub trouble: Option<String>,
    pub face_lines: Vec<u32>,
    /// Line elements, each with its line.
    pub lines: Vec<(u32, Vec<Reference>)>,
    /// How many lines of text the chunk has.
    pub line_count: usize,
    /// Events, each with the number of faces before it.
    pub events: Vec<(u32, Event)>,
    pub libraries: Vec<String>,
    pub passed_over: Vec<String>,
    /// Normals and UVs that are not numbers and were read as 0.
    pub mended_numbers: usize,
    pub depths: usize,
}

/// Parses a chunk; an error comes with its line, from 0 at the chunk's start.
pub(super) fn parse(text: &[u8]) -> Result<RawChunk, (usize, String)> {
    let mut chunk = RawChunk::default();
    let mut joined = Vec::new();
    let mut at = 0;
    while at < text.len() {
        let here = chunk.line_count;
        chunk.line_count += 1;
        let mut line = next_line(text, &mut at);
        if line.ends_with(b"\\") && !line.trim_ascii_start().starts_with(b"#") {
            joined.clear();
            while line.ends_with(b"\\") {
                joined.extend_from_slice(&line[..line.len() - 1]);
                joined.push(b' ');
                if at >= text.len() {
                    line = b"";
                    break;
                }
                line = next_line(text, &mut at);
                chunk.line_count += 1;
            }
            joined.extend_from_slice(line);
            line = &joined;
        }
        statement(&mut chunk, line, here as u32).map_err(|message| (here, message))?;
    }
    Ok(chunk)
}

/// The next line, without its end; moves `at` behind it.
fn next_line<'t>(text: &'t [u8], at: &mut usize) -> &'t [u8] {
    let rest = &text[*at..];
    let end = memchr::memchr(b'\n', rest).unwrap_or(rest.len());
    *at += end + 1;
    rest[..end].trim_ascii_end()
}

fn statement(chunk: &mut RawChunk, line: &[u8], number: u32) -> Result<(), String> {
    let line = line.trim_ascii_start();
    let end = line
        .iter()
        .position(u8::is_ascii_whitespace)
        .unwrap_or(line.len());
    let (word, rest) = line.split_at(end);
    match word {
        b"v" => vertex(chunk, rest, number),
        b"vt" => uv(chunk, rest),
        b"vn" => normal(chunk, rest),
        b"f" => face(chunk, rest, number),
        b"l" => line_element(chunk, rest, number),
        b"o" => chunk.event(Event::Object(name(rest))),
        b"g" => chunk.event(Event::Group(name(rest))),
        b"usemtl" => chunk.event(Event::Material(name(rest))),
        b"s" => chunk.event(Event::Smoothing(name(rest))),
        b"mtllib" => {
            chunk.libraries.push(name(rest));
            Ok(())
        }
        _ if word.is_empty() || word[0] == b'#' => Ok(()),
        _ => {
            let word = quoted(word);
            if chunk.passed_over.len() < 8 && !chunk.passed_over.contains(&word) {
                chunk.passed_over.push(word);
            }
            Ok(())
        }
    }
}

impl RawChunk {
    fn event(&mut self, event: Event) -> Result<(), String> {
        self.events.push((self.face_ends.len() as u32, event));
        Ok(())
    }
}

fn name(rest: &[u8]) -> String {
    String::from_utf8_lossy(rest.trim_ascii()).into_owned()
}

/// The words of a statement, up to a comment.
fn fields(rest: &[u8]) -> impl Iterator<Item = &[u8]> + Clone {
    words(rest).take_while(|word| word[0] != b'#')
}

fn vertex(chunk: &mut RawChunk, rest: &[u8], number: u32) -> Result<(), String> {
    let mut fields = fields(rest);
    let mut position = [0.0; 3];
    for slot in &mut position {
        let word = fields.next().ok_or("a vertex needs three coordinates")?;
        *slot = coordinate_or_nan(word, &mut chunk.trouble)?;
    }
    chunk.positions.push(DVec3::from_array(position));
    chunk.vertex_lines.push(number);
    // A fourth number is a weight; three more, or four with a weight, are a colour.
    let mut extra = [0.0f32; 4];
    let mut count = 0;
    for (slot, word) in extra.iter_mut().zip(fields) {
        *slot = any_number(word).unwrap_or(0.0) as f32;
        count += 1;
    }
    if count >= 3 {
        let color = if count == 3 { &extra[..3] } else { &extra[1..] };
        chunk.colors.resize(chunk.positions.len() - 1, None);
        let channel = |i: usize| if color[i].is_finite() { color[i] } else { 0.0 };
        chunk
            .colors
            .push(Some([channel(0), channel(1), channel(2)]));
    }
    Ok(())
}

fn uv(chunk: &mut RawChunk, rest: &[u8]) -> Result<(), String> {
    let mut fields = fields(rest);
    let mut uv = [0.0; 3];
    let mut count = 0;
    for (slot, word) in uv.iter_mut().zip(&mut fields) {
        *slot = lenient(chunk, word)?;
        count += 1;
    }
    if count == 0 {
        return Err("a texture coordinate needs at least one number".into());
    }
    if uv[2] != 0.0 {
        chunk.depths += 1;
    }
    chunk.uvs.push(DVec2::new(uv[0], uv[1]));
    Ok(())
}

fn normal(chunk: &mut RawChunk, rest: &[u8]) -> Result<(), String> {
    let mut fields = fields(rest);
    let mut normal = [0.0; 3];
    for slot in &mut normal {
        let word = fields.next().ok_or("a normal needs three numbers")?;
        *slot = lenient(chunk, word)?;
    }
    chunk.normals.push(DVec3::from_array(normal));
    Ok(())
}

/// A number of a normal or UV: exporters write "nan" there, which harms no shape.
fn lenient(chunk: &mut RawChunk, word: &[u8]) -> Result<f64, String> {
    match any_number(word) {
        Some(x) if x.is_finite() => Ok(x),
        found => {
            if found.is_none() && !names_no_number(word) {
                return Err(format!("expected a number, found '{}'", quoted(word)));
            }
            chunk.mended_numbers += 1;
            Ok(0.0)
        }
    }
}

fn face(chunk: &mut RawChunk, rest: &[u8], number: u32) -> Result<(), String> {
    let from = chunk.corners.len();
    for word in fields(rest) {
        let counts = [chunk.positions.len(), chunk.uvs.len(), chunk.normals.len()];
        let corner = corner(word, counts)?;
        chunk.corners.push(corner);
    }
    if chunk.corners.len() == from {
        return Err("a face without corners".into());
    }
    chunk.face_ends.push(chunk.corners.len() as u32);
    chunk.face_lines.push(number);
    Ok(())
}

fn line_element(chunk: &mut RawChunk, rest: &[u8], number: u32) -> Result<(), String> {
    let counts = [chunk.positions.len(), chunk.uvs.len(), 0];
    let line = fields(rest)
        .map(|word| Ok(corner(word, counts)?[0]))
        .collect::<Result<Vec<_>, String>>()?;
    chunk.lines.push((number, line));
    Ok(())
}

/// Parses `vertex`, `vertex/uv`, `vertex//normal` or `vertex/uv/normal`.
fn corner(word: &[u8], counts: [usize; 3]) -> Result<[Reference; 3], String> {
    let mut corner = [0; 3];
    let mut fields = word.split(|&b| b == b'/');
    for (kind, slot) in corner.iter_mut().enumerate() {
        match fields.next() {
            Some(b"") if kind > 0 => {}
            Some(digits) => *slot = reference(digits, counts[kind], word)?,
            None => break,
        }
    }
    match fields.next() {
        Some(_) => Err(format!("'{}' is no corner of a face", quoted(word))),
        None => Ok(corner),
    }
}

fn reference(digits: &[u8], count: usize, word: &[u8]) -> Result<Reference, String> {
    let (negative, digits) = match digits {
        [b'-', rest @ ..] => (true, rest),
        [b'+', rest @ ..] => (false, rest),
        _ => (false, digits),
    };
    let mut value: i64 = 0;
    if digits.is_empty() || digits.len() > 10 {
        return Err(format!("'{}' is no corner of a face", quoted(word)));
    }
    for &digit in digits {
        if !digit.is_ascii_digit() {
            return Err(format!("'{}' is no corner of a face", quoted(word)));
        }
        value = value * 10 + i64::from(digit - b'0');
    }
    if value == 0 {
        return Err("an index of 0: OBJ counts from 1".into());
    }
    let limit = i64::from(-RELATIVE) - 1;
    if value > limit {
        return Err(format!("the index {value} is larger than any model's"));
    }
    if negative {
        Ok((i64::from(RELATIVE) + count as i64 - value) as i32)
    } else {
        Ok(value as i32)
    }
}
