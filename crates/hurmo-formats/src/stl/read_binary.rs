//! Binary STL: an 80-byte header, a count, then 50 bytes a triangle.

use super::{HEADER, RECORD, stated_count};
use crate::ReadError;
use crate::unusable::set_aside;
use glam::DVec3;
use hurmo_core::{Mesh, Model, VertexId};
use rayon::prelude::*;

pub(super) fn read(bytes: &[u8], notes: &mut Vec<String>) -> Result<Model, ReadError> {
    let count = stated_count(bytes).ok_or_else(|| {
        ReadError::whole(format!(
            "not an STL file: {} bytes can't hold even a header",
            bytes.len()
        ))
    })?;
    let there = (bytes.len() - HEADER) / RECORD;
    if count > there {
        return Err(ReadError::at_byte(
            80,
            format!("the header promises {count} triangles, but the file holds {there}"),
        ));
    }
    let surplus = bytes.len() - HEADER - RECORD * count;
    if surplus > 0 {
        notes.push(format!(
            "{surplus} bytes after the last of the {count} triangles are not read"
        ));
    }
    let records = &bytes[HEADER..HEADER + RECORD * count];
    let bad = records
        .par_chunks(RECORD)
        .enumerate()
        .find_first(|(_, record)| {
            (0..3).any(|corner| !coordinates(record, corner).iter().all(|x| x.is_finite()))
        });
    let bad = bad.map(|(triangle, _)| {
        ReadError::at_byte(
            HEADER + RECORD * triangle,
            format!("triangle {triangle} has a coordinate that is not a usable number"),
        )
    });

    let corner_at = |i: usize| coordinates(&records[i / 3 * RECORD..], i % 3);
    // Adding 0 turns -0 into 0, so that equal coordinates have equal bits.
    let key = |i: usize| corner_at(i).map(|x| (x + 0.0).to_bits());
    let mut corners: Vec<VertexId> = hurmo_core::spatial::first_of_equal(count * 3, key)
        .into_iter()
        .map(VertexId)
        .collect();
    let mut positions: Vec<DVec3> = Vec::with_capacity(count / 2 + 3);
    for i in 0..corners.len() {
        let first = corners[i].index();
        corners[i] = if first == i {
            positions.push(DVec3::from_array(corner_at(i).map(f64::from)));
            VertexId::new(positions.len() - 1)
        } else {
            corners[first]
        };
    }
    let starts: Vec<u32> = (0..=count as u32).map(|face| face * 3).collect();
    let unusable = set_aside((&mut positions, &mut corners, &starts), bad, notes)?;
    let mesh = Mesh::from_parts(positions, corners, starts)
        .map_err(|error| ReadError::whole(error.to_string()))?;
    Ok(Model {
        unusable,
        ..Model::from(mesh)
    })
}

/// The coordinates of one corner of a record: they stand after the normal.
#[inline]
fn coordinates(record: &[u8], corner: usize) -> [f32; 3] {
    let from = 12 + corner * 12;
    let bytes: &[u8; 12] = record[from..from + 12].try_into().expect("twelve bytes");
    let single = |i: usize| f32::from_le_bytes(bytes[i..i + 4].try_into().expect("four bytes"));
    [single(0), single(4), single(8)]
}
