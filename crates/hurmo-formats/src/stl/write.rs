//! Writing STL, binary or text.

use crate::WriteOptions;
use crate::text::{is_single, write_numbers};
use glam::DVec3;
use hurmo_core::{Mesh, Model, VertexId};
use rayon::prelude::*;
use std::io::{self, Write};

pub(crate) fn write(model: &Model, options: WriteOptions, out: &mut dyn Write) -> io::Result<()> {
    let triangles = hurmo_core::triangulate::triangles(&model.mesh);
    if options.ascii {
        write_text(&model.mesh, &triangles, out)
    } else {
        write_binary(&model.mesh, &triangles, out)
    }
}

fn normal([a, b, c]: [DVec3; 3]) -> DVec3 {
    (b - a).cross(c - a).normalize_or_zero()
}

fn write_binary(mesh: &Mesh, triangles: &[[VertexId; 3]], out: &mut dyn Write) -> io::Result<()> {
    let largest = f64::from(f32::MAX);
    if mesh
        .positions()
        .iter()
        .any(|p| p.abs().max_element() > largest)
    {
        return Err(io::Error::new(
            io::ErrorKind::InvalidInput,
            "a coordinate is larger than STL's single-precision numbers can be; scale the model",
        ));
    }
    // A header that can't be taken for a text file's.
    let mut header = [b' '; 80];
    let title = b"binary triangles, written by hurmo";
    header[..title.len()].copy_from_slice(title);
    out.write_all(&header)?;
    out.write_all(&(triangles.len() as u32).to_le_bytes())?;
    for many in triangles.chunks(1 << 18) {
        let records = many.par_iter().with_min_len(1024);
        let records: Vec<[u8; super::RECORD]> = records.map(|&t| record(mesh, t)).collect();
        out.write_all(records.as_flattened())?;
    }
    Ok(())
}

/// A triangle's record: its normal, then its corners.
fn record(mesh: &Mesh, triangle: [VertexId; 3]) -> [u8; super::RECORD] {
    let points = triangle.map(|v| mesh.position(v));
    let numbers = [normal(points), points[0], points[1], points[2]];
    let numbers = numbers.iter().flat_map(|p| p.to_array());
    let mut record = [0u8; super::RECORD];
    for (slot, x) in record.chunks_exact_mut(4).zip(numbers) {
        slot.copy_from_slice(&(x as f32).to_le_bytes());
    }
    record
}

fn write_text(mesh: &Mesh, triangles: &[[VertexId; 3]], out: &mut dyn Write) -> io::Result<()> {
    let single = is_single(mesh);
    writeln!(out, "solid hurmo")?;
    for triangle in triangles {
        let points = triangle.map(|v| mesh.position(v));
        write!(out, "facet normal")?;
        write_numbers(out, &normal(points).to_array(), true)?;
        writeln!(out, "\n  outer loop")?;
        for point in points {
            write!(out, "    vertex")?;
            write_numbers(out, &point.to_array(), single)?;
            writeln!(out)?;
        }
        writeln!(out, "  endloop\nendfacet")?;
    }
    writeln!(out, "endsolid hurmo")
}
