//! Putting the chunks of an OBJ text together.

use super::chunk::{Event, RawChunk, Reference, resolved};
use crate::unusable::set_aside;
use crate::{Remarks, SourceLines};
use glam::{DVec2, DVec3};
use hurmo_core::mesh::{Attributes, CornerLayer, FaceTags, NO_VALUE, Tag};
use hurmo_core::{Mesh, Model, VertexId};
use std::collections::HashMap;

/// What is wrong, and where: chunk, and line in it from 0.
pub(super) struct Trouble {
    pub place: Option<(usize, u32)>,
    pub message: String,
}

/// How many vertices, UVs and normals there are.
type Counts = [usize; 3];

const KINDS: [&str; 3] = ["vertex", "texture coordinate", "normal"];

pub(super) fn assemble(chunks: Vec<RawChunk>, remarks: &mut Remarks) -> Result<Model, Trouble> {
    let mut before: Vec<Counts> = Vec::with_capacity(chunks.len());
    let mut total: Counts = [0; 3];
    for chunk in &chunks {
        before.push(total);
        total[0] += chunk.positions.len();
        total[1] += chunk.uvs.len();
        total[2] += chunk.normals.len();
    }
    if total[0] == 0 {
        return Err(Trouble {
            place: None,
            message: "no vertex in it: this is no OBJ file, or an empty one".into(),
        });
    }
    let (corners, starts) = corners(&chunks, &before, total)?;
    let lines = lines(&chunks, &before, total)?;
    let attributes = Attributes {
        uvs: layer(
            &corners,
            1,
            chunks
                .iter()
                .flat_map(|c| &c.uvs)
                .copied()
                .collect::<Vec<DVec2>>(),
        ),
        more_uvs: Vec::new(),
        normals: layer(
            &corners,
            2,
            chunks.iter().flat_map(|c| &c.normals).copied().collect(),
        ),
        colors: colors(&chunks, total[0]),
        tags: tags(&chunks),
        material_libraries: chunks.iter().flat_map(|c| c.libraries.clone()).collect(),
        scene: None,
    };
    remarks.notes.extend(notes(&chunks));
    remarks.lines = Some(source_lines(&chunks));
    let first = first_unusable(&chunks);
    let mut positions: Vec<DVec3> = chunks.into_iter().flat_map(|c| c.positions).collect();
    let mut vertices: Vec<VertexId> = corners.iter().map(|corner| VertexId(corner[0])).collect();
    let arrays = (&mut positions[..], &mut vertices[..], &starts[..]);
    let unusable = set_aside(arrays, first, &mut remarks.notes)?;
    let mesh = Mesh::from_parts(positions, vertices, starts).map_err(|error| Trouble {
        place: None,
        message: error.to_string(),
    })?;
    Ok(Model {
        mesh,
        attributes,
        lines,
        unit: None,
        up: None,
        unusable,
    })
}

/// All corners as indices from 0 of vertex, UV and normal; and the faces' runs.
fn corners(
    chunks: &[RawChunk],
    before: &[Counts],
    total: Counts,
) -> Result<(Vec<[u32; 3]>, Vec<u32>), Trouble> {
    let count: usize = chunks.iter().map(|c| c.corners.len()).sum();
    let mut corners = Vec::with_capacity(count);
    let mut starts = vec![0u32];
    for (number, (chunk, before)) in chunks.iter().zip(before).enumerate() {
        let base = corners.len() as u32;
        let mut from = 0;
        for (face, &end) in chunk.face_ends.iter().enumerate() {
            for corner in &chunk.corners[from as usize..end as usize] {
                let mut settled = [NO_VALUE; 3];
                for kind in 0..3 {
                    if corner[kind] != 0 {
                        settled[kind] =
                            settle(corner[kind], kind, before, total).map_err(|message| {
                                Trouble {
                                    place: Some((number, chunk.face_lines[face])),
                                    message,
                                }
                            })?;
                    }
                }
                corners.push(settled);
            }
            starts.push(base + end);
            from = end;
        }
    }
    Ok((corners, starts))
}

fn settle(
    reference: Reference,
    kind: usize,
    before: &Counts,
    total: Counts,
) -> Result<u32, String> {
    match resolved(reference, before[kind]) {
        Some(index) if index < total[kind] => Ok(index as u32),
        Some(index) => Err(format!(
            "{} {} is used, but there are only {}",
            KINDS[kind],
            index + 1,
            total[kind]
        )),
        None => Err(format!(
            "a negative index reaches back before the first {}",
            KINDS[kind]
        )),
    }
}

fn lines(
    chunks: &[RawChunk],
    before: &[Counts],
    total: Counts,
) -> Result<Vec<Vec<VertexId>>, Trouble> {
    let mut lines = Vec::new();
    for (number, (chunk, before)) in chunks.iter().zip(before).enumerate() {
        for (offset, line) in &chunk.lines {
            let settled = line
                .iter()
                .map(|&reference| settle(reference, 0, before, total).map(VertexId))
                .collect::<Result<Vec<_>, _>>()
                .map_err(|message| Trouble {
                    place: Some((number, *offset)),
                    message,
                })?;
            lines.push(settled);
        }
    }
    Ok(lines)
}

fn layer<T>(corners: &[[u32; 3]], kind: usize, values: Vec<T>) -> Option<CornerLayer<T>> {
    let index: Vec<u32> = corners.iter().map(|corner| corner[kind]).collect();
    let used = index.iter().any(|&value| value != NO_VALUE);
    used.then_some(CornerLayer { values, index })
}

fn colors(chunks: &[RawChunk], vertices: usize) -> Option<Vec<[f32; 4]>> {
    if chunks.iter().all(|chunk| chunk.colors.is_empty()) {
        return None;
    }
    let mut colors = Vec::with_capacity(vertices);
    for chunk in chunks {
        for i in 0..chunk.positions.len() {
            let [r, g, b] = chunk.colors.get(i).copied().flatten().unwrap_or([1.0; 3]);
            colors.push([r, g, b, 1.0]);
        }
    }
    Some(colors)
}

fn tags(chunks: &[RawChunk]) -> FaceTags {
    if chunks.iter().all(|chunk| chunk.events.is_empty()) {
        return FaceTags::default();
    }
    let mut tags = FaceTags::default();
    let mut known: HashMap<Tag, u32> = HashMap::new();
    let mut current = Tag::default();
    for chunk in chunks {
        let mut events = chunk.events.iter().peekable();
        let mut number = None;
        for face in 0..chunk.face_ends.len() as u32 {
            while let Some((_, event)) = events.next_if(|(at, _)| *at <= face) {
                apply(event, &mut current);
                number = None;
            }
            let tag = *number.get_or_insert_with(|| {
                *known.entry(current.clone()).or_insert_with(|| {
                    tags.table.push(current.clone());
                    tags.table.len() as u32 - 1
                })
            });
            tags.of_face.push(tag);
        }
        events.for_each(|(_, event)| apply(event, &mut current));
    }
    tags
}

fn apply(event: &Event, tag: &mut Tag) {
    let named = |name: &String| (!name.is_empty()).then(|| name.clone());
    match event {
        Event::Object(name) => tag.object = named(name),
        Event::Group(name) => tag.group = named(name),
        Event::Material(name) => tag.material = named(name),
        Event::Smoothing(name) => tag.smoothing = named(name),
    }
}

/// Where the first vertex stands that can't be used.
fn first_unusable(chunks: &[RawChunk]) -> Option<Trouble> {
    chunks.iter().enumerate().find_map(|(number, chunk)| {
        let message = chunk.trouble.clone()?;
        let vertex = chunk.positions.iter().position(|p| !p.is_finite())?;
        Some(Trouble {
            place: Some((number, chunk.vertex_lines[vertex])),
            message,
        })
    })
}

/// The line of every vertex and face, from 1.
fn source_lines(chunks: &[RawChunk]) -> SourceLines {
    let mut lines = SourceLines::default();
    let mut before = 1u32;
    for chunk in chunks {
        let absolute = |line: &u32| before + line;
        lines
            .vertices
            .extend(chunk.vertex_lines.iter().map(absolute));
        lines.faces.extend(chunk.face_lines.iter().map(absolute));
        before += chunk.line_count as u32;
    }
    lines
}

fn notes(chunks: &[RawChunk]) -> Vec<String> {
    let mut notes = Vec::new();
    let mut passed_over: Vec<&String> = chunks.iter().flat_map(|c| &c.passed_over).collect();
    passed_over.sort();
    passed_over.dedup();
    if !passed_over.is_empty() {
        let shown: Vec<_> = passed_over
            .iter()
            .take(6)
            .map(|word| format!("'{word}'"))
            .collect();
        let more = if passed_over.len() > 6 {
            " and more"
        } else {
            ""
        };
        notes.push(format!("statements not read: {}{more}", shown.join(", ")));
    }
    let mended: usize = chunks.iter().map(|c| c.mended_numbers).sum();
    if mended > 0 {
        notes.push(format!(
            "{mended} numbers of normals or UVs are not numbers: read as 0"
        ));
    }
    let depths: usize = chunks.iter().map(|c| c.depths).sum();
    if depths > 0 {
        notes.push(format!(
            "{depths} texture coordinates have a third number, which is not kept"
        ));
    }
    notes
}
