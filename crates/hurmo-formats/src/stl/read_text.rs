//! Text STL: `facet … outer loop, three vertex lines, endloop, endfacet`, in one or more solids.

use crate::ReadError;
use crate::text::{coordinate_or_nan, quoted};
use crate::unusable::set_aside;
use glam::DVec3;
use hurmo_core::mesh::{FaceTags, Tag};
use hurmo_core::spatial::{exact_weld, numbered_by_first};
use hurmo_core::{Mesh, Model};

pub(super) fn read(bytes: &[u8], notes: &mut Vec<String>) -> Result<Model, ReadError> {
    let mut state = State::default();
    let mut at = 0;
    let mut unusable = None;
    for line in bytes.split(|&b| b == b'\n') {
        state
            .take(line.trim_ascii())
            .map_err(|message| ReadError::at_line_of(bytes, at, message))?;
        if let (None, Some(message)) = (&unusable, &state.trouble) {
            unusable = Some(ReadError::at_line_of(bytes, at, message.clone()));
        }
        at += line.len() + 1;
    }
    if state.in_facet {
        return Err(ReadError::at_line_of(
            bytes,
            bytes.len(),
            "the file ends inside a facet",
        ));
    }
    if state.in_solid {
        notes.push("the last solid has no endsolid line: the file may have been cut short".into());
    }
    if state.passed_over > 0 {
        notes.push(format!(
            "{} lines that say nothing in STL are passed over",
            state.passed_over
        ));
    }
    let mut corners = exact_weld(&state.positions);
    let firsts: Vec<usize> = (0..corners.len())
        .filter(|&i| corners[i].index() == i)
        .collect();
    numbered_by_first(&mut corners);
    let mut positions: Vec<DVec3> = firsts.into_iter().map(|i| state.positions[i]).collect();
    let starts: Vec<u32> = (0..=corners.len() as u32 / 3)
        .map(|face| face * 3)
        .collect();
    let unusable = set_aside((&mut positions, &mut corners, &starts), unusable, notes)?;
    let mesh = Mesh::from_parts(positions, corners, starts)
        .map_err(|error| ReadError::whole(error.to_string()))?;
    let mut model = Model::from(mesh);
    model.unusable = unusable;
    if state.tags.table.iter().any(|tag| tag.object.is_some()) {
        model.attributes.tags = state.tags;
    }
    Ok(model)
}

#[derive(Default)]
struct State {
    positions: Vec<DVec3>,
    tags: FaceTags,
    in_solid: bool,
    in_facet: bool,
    corners: usize,
    passed_over: usize,
    /// What is wrong with the first coordinate that can't be used.
    trouble: Option<String>,
}

impl State {
    fn take(&mut self, line: &[u8]) -> Result<(), String> {
        let (word, rest) = match line.iter().position(u8::is_ascii_whitespace) {
            Some(end) => line.split_at(end),
            None => (line, &[][..]),
        };
        let is = |name: &str| word.eq_ignore_ascii_case(name.as_bytes());
        if is("vertex") {
            return self.vertex(rest);
        }
        if word.is_empty() || is("outer") || is("endloop") {
        } else if is("facet") {
            if self.in_facet {
                return Err("a facet begins before the last one ended".into());
            }
            self.in_facet = true;
            self.corners = 0;
        } else if is("endfacet") {
            if !self.in_facet || self.corners != 3 {
                return Err(format!(
                    "a facet of {} vertices; it needs three",
                    self.corners
                ));
            }
            self.in_facet = false;
            if self.tags.table.is_empty() {
                self.tags.table.push(Tag::default());
            }
            self.tags.of_face.push(self.tags.table.len() as u32 - 1);
        } else if is("solid") {
            let name = String::from_utf8_lossy(rest.trim_ascii()).into_owned();
            self.in_solid = true;
            self.tags.table.push(Tag {
                object: (!name.is_empty()).then_some(name),
                ..Tag::default()
            });
        } else if is("endsolid") {
            self.in_solid = false;
        } else if self.in_facet {
            return Err(format!("'{}' has no place in a facet", quoted(word)));
        } else {
            self.passed_over += 1;
        }
        Ok(())
    }

    fn vertex(&mut self, rest: &[u8]) -> Result<(), String> {
        if !self.in_facet || self.corners == 3 {
            return Err("a vertex outside a facet, or a fourth one in it".into());
        }
        let mut numbers = crate::text::words(rest);
        let mut position = [0.0; 3];
        for coordinate_slot in &mut position {
            let word = numbers.next().ok_or("a vertex needs three coordinates")?;
            *coordinate_slot = coordinate_or_nan(word, &mut self.trouble)?;
        }
        self.corners += 1;
        self.positions.push(DVec3::from_array(position));
        Ok(())
    }
}
