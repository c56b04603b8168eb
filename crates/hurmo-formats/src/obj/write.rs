//! Writing OBJ.

use crate::text::{is_single, write_numbers};
use hurmo_core::mesh::{CornerLayer, Tag};
use hurmo_core::{FaceId, Model};
use std::io::{self, Write};

/// Writes a model that refers to these material files.
pub(crate) fn write(model: &Model, libraries: &[String], out: &mut dyn Write) -> io::Result<()> {
    let attributes = &model.attributes;
    let single = is_single(&model.mesh);
    writeln!(out, "# written by hurmo")?;
    for library in libraries {
        writeln!(out, "mtllib {library}")?;
    }
    for (i, position) in model.mesh.positions().iter().enumerate() {
        out.write_all(b"v")?;
        write_numbers(out, &position.to_array(), single)?;
        if let Some(colors) = &attributes.colors {
            write_numbers(out, &[0, 1, 2].map(|c| f64::from(colors[i][c])), true)?;
        }
        out.write_all(b"\n")?;
    }
    for uv in attributes.uvs.iter().flat_map(|layer| &layer.values) {
        out.write_all(b"vt")?;
        write_numbers(out, &uv.to_array(), false)?;
        out.write_all(b"\n")?;
    }
    for normal in attributes.normals.iter().flat_map(|layer| &layer.values) {
        out.write_all(b"vn")?;
        write_numbers(out, &normal.to_array(), false)?;
        out.write_all(b"\n")?;
    }
    let mut current = Tag::default();
    let mut current_number = u32::MAX;
    for face in model.mesh.face_ids() {
        if let Some(&number) = attributes.tags.of_face.get(face.index())
            && number != current_number
        {
            current_number = number;
            let tag = &attributes.tags.table[number as usize];
            write_changes(&current, tag, out)?;
            current = tag.clone();
        }
        write_face(model, face, out)?;
    }
    for line in &model.lines {
        out.write_all(b"l")?;
        for vertex in line {
            write!(out, " {}", vertex.0 as u64 + 1)?;
        }
        out.write_all(b"\n")?;
    }
    Ok(())
}

fn write_face(model: &Model, face: FaceId, out: &mut dyn Write) -> io::Result<()> {
    let range = model.mesh.face_range(face);
    // All corners of a face must have the same fields: a lone missing one drops the field.
    fn of_all<T: Copy>(
        layer: Option<&CornerLayer<T>>,
        mut corners: std::ops::Range<usize>,
    ) -> Option<&CornerLayer<T>> {
        layer.filter(|layer| corners.all(|corner| layer.at(corner).is_some()))
    }
    let uvs = of_all(model.attributes.uvs.as_ref(), range.clone());
    let normals = of_all(model.attributes.normals.as_ref(), range.clone());
    out.write_all(b"f")?;
    for corner in range {
        write!(out, " {}", model.mesh.corners()[corner].0 as u64 + 1)?;
        if let Some(layer) = uvs {
            write!(out, "/{}", layer.index[corner] as u64 + 1)?;
        }
        if let Some(layer) = normals {
            let gap = if uvs.is_some() { "/" } else { "//" };
            write!(out, "{gap}{}", layer.index[corner] as u64 + 1)?;
        }
    }
    out.write_all(b"\n")
}

fn write_changes(from: &Tag, to: &Tag, out: &mut dyn Write) -> io::Result<()> {
    let changes = [
        ("o", &from.object, &to.object, ""),
        ("g", &from.group, &to.group, ""),
        ("usemtl", &from.material, &to.material, ""),
        ("s", &from.smoothing, &to.smoothing, "off"),
    ];
    for (word, before, after, nothing) in changes {
        if before != after {
            let name = after.as_deref().unwrap_or(nothing);
            writeln!(out, "{}", format!("{word} {name}").trim_end())?;
        }
    }
    Ok(())
}
