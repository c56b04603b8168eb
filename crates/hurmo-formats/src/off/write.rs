//! Writing OFF.

use crate::WriteOptions;
use crate::text::{is_single, write_number, write_numbers};
use hurmo_core::Model;
use std::io::{self, Write};

pub(crate) fn write(model: &Model, _options: WriteOptions, out: &mut dyn Write) -> io::Result<()> {
    let mesh = &model.mesh;
    let single = is_single(mesh);
    let colors = model.attributes.colors.as_ref();
    out.write_all(if colors.is_some() {
        b"COFF\n"
    } else {
        b"OFF\n"
    })?;
    let (vertices, faces) = (mesh.vertex_count(), mesh.face_count());
    writeln!(out, "# written by hurmo\n{vertices} {faces} 0")?;
    for (i, position) in mesh.positions().iter().enumerate() {
        let [x, y, z] = position.to_array();
        write_number(out, x, single)?;
        write_numbers(out, &[y, z], single)?;
        for channel in colors.iter().flat_map(|colors| colors[i]) {
            write!(out, " {}", (channel.clamp(0.0, 1.0) * 255.0).round())?;
        }
        out.write_all(b"\n")?;
    }
    for (_, corners) in mesh.faces() {
        write!(out, "{}", corners.len())?;
        corners.iter().try_for_each(|v| write!(out, " {}", v.0))?;
        out.write_all(b"\n")?;
    }
    Ok(())
}
