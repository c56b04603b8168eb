//! The elements of a PLY file.

use super::header::{self, Element, Encoding, Property, Scalar};
use super::values::Values;
use crate::ReadError;
use crate::unusable::set_aside;
use glam::DVec3;
use hurmo_core::{Mesh, Model, VertexId};

pub(crate) fn read(bytes: &[u8], notes: &mut Vec<String>) -> Result<Model, ReadError> {
    let header = header::read(bytes)?;
    let mut values = Values::new(bytes, header.end, header.encoding);
    let vertex_count = match header.elements.iter().find(|e| e.name == "vertex") {
        Some(element) => element.count,
        None => return Err(ReadError::whole("the header lists no vertex element")),
    };
    let mut body = Body {
        vertex_count,
        starts: vec![0],
        ..Body::default()
    };
    let mut passed_over = Vec::new();
    for element in &header.elements {
        check_room(element, &values, header.encoding)?;
        match element.name.as_str() {
            "vertex" => body.vertices(element, &mut values, &mut passed_over)?,
            "face" => body.faces(element, &mut values, &mut passed_over)?,
            "edge" => body.lines(element, &mut values)?,
            _ => {
                skip(element, &mut values)?;
                if element.count > 0 {
                    passed_over.push(format!("element '{}' ({})", element.name, element.count));
                }
            }
        }
    }
    if !passed_over.is_empty() {
        notes.push(format!("not read: {}", passed_over.join(", ")));
    }
    let arrays = (
        &mut body.positions[..],
        &mut body.corners[..],
        &body.starts[..],
    );
    let unusable = set_aside(arrays, body.unusable, notes)?;
    let mesh = Mesh::from_parts(body.positions, body.corners, body.starts)
        .map_err(|error| ReadError::whole(error.to_string()))?;
    let mut model = Model::from(mesh);
    model.attributes.colors = body.colors;
    model.lines = body.lines;
    model.unusable = unusable;
    Ok(model)
}

/// Refuses counts that the rest of the file can't hold, before anything is allocated.
fn check_room(element: &Element, values: &Values<'_>, encoding: Encoding) -> Result<(), ReadError> {
    let least = element.least_bytes(encoding).max(1);
    // The last line of a text needs no separator.
    let room = (values.left() + 1) / least;
    if element.count > room {
        return Err(ReadError::whole(format!(
            "the header promises {} of element '{}', but the rest of the file holds at most {room}",
            element.count, element.name
        )));
    }
    Ok(())
}

#[derive(Default)]
struct Body {
    vertex_count: usize,
    positions: Vec<DVec3>,
    colors: Option<Vec<[f32; 4]>>,
    corners: Vec<VertexId>,
    starts: Vec<u32>,
    lines: Vec<Vec<VertexId>>,
    /// Where the first vertex stands that can't be used.
    unusable: Option<ReadError>,
}

fn row_missing(values: &Values<'_>, element: &Element, row: usize) -> ReadError {
    values.error(format!(
        "the header promises {} of element '{}', but the file ends after {row}",
        element.count, element.name
    ))
}

fn skip_property(values: &mut Values<'_>, property: &Property) -> Result<(), ReadError> {
    let count = match property.list_count {
        Some(count) => values.whole(count, "list length")?,
        None => 1,
    };
    for _ in 0..count {
        values.number(property.scalar)?;
    }
    Ok(())
}

fn skip(element: &Element, values: &mut Values<'_>) -> Result<(), ReadError> {
    if element.properties.is_empty() {
        return Ok(());
    }
    for row in 0..element.count {
        values
            .begin_row()
            .ok_or_else(|| row_missing(values, element, row))?;
        for property in &element.properties {
            skip_property(values, property)?;
        }
        values.end_row();
    }
    Ok(())
}

impl Body {
    fn vertices(
        &mut self,
        element: &Element,
        values: &mut Values<'_>,
        passed_over: &mut Vec<String>,
    ) -> Result<(), ReadError> {
        let [Some(x), Some(y), Some(z)] = ["x", "y", "z"].map(|name| element.scalar(&[name]))
        else {
            return Err(ReadError::whole("the vertex element lacks x, y or z"));
        };
        let channels = [
            element.scalar(&["red", "r", "diffuse_red"]),
            element.scalar(&["green", "g", "diffuse_green"]),
            element.scalar(&["blue", "b", "diffuse_blue"]),
            element.scalar(&["alpha", "a", "diffuse_alpha"]),
        ];
        let colored = channels[..3].iter().all(Option::is_some);
        let kept = |i: usize| [x, y, z].contains(&i) || (colored && channels.contains(&Some(i)));
        let lost: Vec<_> = (0..element.properties.len())
            .filter(|&i| !kept(i))
            .map(|i| element.properties[i].name.as_str())
            .collect();
        if !lost.is_empty() {
            passed_over.push(format!("vertex properties {}", lost.join(" ")));
        }
        self.positions.reserve_exact(element.count);
        let mut colors = Vec::with_capacity(if colored { element.count } else { 0 });
        let mut row_values = vec![0.0; element.properties.len()];
        for row in 0..element.count {
            values
                .begin_row()
                .ok_or_else(|| row_missing(values, element, row))?;
            for (slot, property) in row_values.iter_mut().zip(&element.properties) {
                match property.list_count {
                    None => *slot = values.number(property.scalar)?,
                    Some(_) => skip_property(values, property)?,
                }
            }
            let position = DVec3::new(row_values[x], row_values[y], row_values[z]);
            if !hurmo_core::mesh::is_usable(position) && self.unusable.is_none() {
                self.unusable = Some(values.error(format!(
                    "vertex {row} has a coordinate that is not a usable number"
                )));
            }
            values.end_row();
            self.positions.push(position);
            if colored {
                colors.push(channels.map(|channel| match channel {
                    Some(i) => (row_values[i] / element.properties[i].scalar.full()) as f32,
                    None => 1.0,
                }));
            }
        }
        self.colors = colored.then_some(colors);
        Ok(())
    }

    fn faces(
        &mut self,
        element: &Element,
        values: &mut Values<'_>,
        passed_over: &mut Vec<String>,
    ) -> Result<(), ReadError> {
        let is_corners = |p: &Property| {
            p.list_count.is_some() && ["vertex_indices", "vertex_index"].contains(&p.name.as_str())
        };
        if element.count > 0 && !element.properties.iter().any(is_corners) {
            return Err(ReadError::whole(
                "the face element has no list of vertex indices",
            ));
        }
        let lost: Vec<_> = element
            .properties
            .iter()
            .filter(|p| !is_corners(p))
            .collect();
        if !lost.is_empty() && element.count > 0 {
            let names: Vec<_> = lost.iter().map(|p| p.name.as_str()).collect();
            passed_over.push(format!("face properties {}", names.join(" ")));
        }
        self.starts.reserve(element.count);
        self.corners
            .reserve(element.count.min(values.left() / 4) * 3);
        for row in 0..element.count {
            values
                .begin_row()
                .ok_or_else(|| row_missing(values, element, row))?;
            for property in &element.properties {
                match property.list_count {
                    Some(count) if is_corners(property) => {
                        for _ in 0..values.whole(count, "list length")? {
                            let vertex = self.vertex(values, property.scalar)?;
                            self.corners.push(vertex);
                        }
                    }
                    _ => skip_property(values, property)?,
                }
            }
            if self.corners.len() >= u32::MAX as usize {
                return Err(values.error("more corners than Hurmo can number"));
            }
            self.starts.push(self.corners.len() as u32);
            values.end_row();
        }
        Ok(())
    }

    fn lines(&mut self, element: &Element, values: &mut Values<'_>) -> Result<(), ReadError> {
        let ends = [element.scalar(&["vertex1"]), element.scalar(&["vertex2"])];
        let [Some(first), Some(second)] = ends else {
            return skip(element, values);
        };
        for row in 0..element.count {
            values
                .begin_row()
                .ok_or_else(|| row_missing(values, element, row))?;
            let mut line = [VertexId(0); 2];
            for (i, property) in element.properties.iter().enumerate() {
                if i == first || i == second {
                    line[usize::from(i == second)] = self.vertex(values, property.scalar)?;
                } else {
                    skip_property(values, property)?;
                }
            }
            values.end_row();
            self.lines.push(line.to_vec());
        }
        Ok(())
    }

    #[inline]
    fn vertex(&self, values: &mut Values<'_>, scalar: Scalar) -> Result<VertexId, ReadError> {
        let index = values.whole(scalar, "vertex index")?;
        if index >= self.vertex_count {
            return Err(values.error(format!(
                "vertex {index} is used, but there are only {}",
                self.vertex_count
            )));
        }
        Ok(VertexId::new(index))
    }
}
