//! Writing PLY: binary little-endian, or text.

use crate::WriteOptions;
use crate::text::{is_single, write_number, write_numbers};
use hurmo_core::Model;
use std::io::{self, Write};

pub(crate) fn write(model: &Model, options: WriteOptions, out: &mut dyn Write) -> io::Result<()> {
    let mesh = &model.mesh;
    let single = is_single(mesh);
    let encoding = if options.ascii {
        "ascii"
    } else {
        "binary_little_endian"
    };
    let number = if single { "float" } else { "double" };
    let longest = mesh.faces().map(|(_, face)| face.len()).max().unwrap_or(0);
    let count_type = if longest < 256 { "uchar" } else { "uint" };
    writeln!(out, "ply\nformat {encoding} 1.0\ncomment written by hurmo")?;
    writeln!(out, "element vertex {}", mesh.vertex_count())?;
    for axis in ["x", "y", "z"] {
        writeln!(out, "property {number} {axis}")?;
    }
    if model.attributes.colors.is_some() {
        for channel in ["red", "green", "blue", "alpha"] {
            writeln!(out, "property uchar {channel}")?;
        }
    }
    writeln!(out, "element face {}", mesh.face_count())?;
    writeln!(out, "property list {count_type} uint vertex_indices")?;
    let segments = || model.lines.iter().flat_map(|line| line.windows(2));
    if !model.lines.is_empty() {
        writeln!(out, "element edge {}", segments().count())?;
        writeln!(out, "property uint vertex1\nproperty uint vertex2")?;
    }
    writeln!(out, "end_header")?;

    for (i, position) in mesh.positions().iter().enumerate() {
        let color =
            model.attributes.colors.as_ref().map(|colors| {
                colors[i].map(|channel| (channel.clamp(0.0, 1.0) * 255.0).round() as u8)
            });
        let [x, y, z] = position.to_array();
        if options.ascii {
            write_number(out, x, single)?;
            write_numbers(out, &[y, z], single)?;
            for channel in color.iter().flatten() {
                write!(out, " {channel}")?;
            }
            out.write_all(b"\n")?;
        } else {
            for x in [x, y, z] {
                match single {
                    true => out.write_all(&(x as f32).to_le_bytes())?,
                    false => out.write_all(&x.to_le_bytes())?,
                }
            }
            color.iter().try_for_each(|color| out.write_all(color))?;
        }
    }
    for (_, face) in mesh.faces() {
        if options.ascii {
            write!(out, "{}", face.len())?;
            face.iter().try_for_each(|v| write!(out, " {}", v.0))?;
            out.write_all(b"\n")?;
        } else {
            match longest < 256 {
                true => out.write_all(&[face.len() as u8])?,
                false => out.write_all(&(face.len() as u32).to_le_bytes())?,
            }
            face.iter()
                .try_for_each(|v| out.write_all(&v.0.to_le_bytes()))?;
        }
    }
    for ends in segments() {
        if options.ascii {
            writeln!(out, "{} {}", ends[0].0, ends[1].0)?;
        } else {
            ends.iter()
                .try_for_each(|v| out.write_all(&v.0.to_le_bytes()))?;
        }
    }
    Ok(())
}
