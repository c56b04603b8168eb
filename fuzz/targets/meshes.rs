//! Small meshes of any connectivity, their vertices on a small grid so that they meet often.
#![no_main]

use glam::DVec3;
use hurmo_core::{Mesh, Model, VertexId};
use libfuzzer_sys::fuzz_target;

/// Coordinates are whole numbers below this, and a fraction now and then.
const GRID: u8 = 6;

fuzz_target!(|input: &[u8]| {
    let Some((&count, rest)) = input.split_first() else {
        return;
    };
    let count = usize::from(count % 24) + 3;
    if rest.len() < 3 * count {
        return;
    }
    let (places, faces) = rest.split_at(3 * count);
    let positions = places.chunks_exact(3).map(|place| {
        let [x, y, z] = [0, 1, 2].map(|axis| {
            let byte = place[axis];
            f64::from(byte % GRID) + if byte >= 250 { 1e-7 * f64::from(byte) } else { 0.0 }
        });
        DVec3::new(x, y, z)
    });
    let (mut corners, mut starts) = (Vec::new(), vec![0]);
    let mut faces = faces.iter();
    while let Some(sides) = faces.next() {
        let sides = 3 + usize::from(sides % 8) / 6;
        let face: Vec<VertexId> = (faces.by_ref().take(sides))
            .map(|&corner| VertexId::new(usize::from(corner) % count))
            .collect();
        corners.extend(face);
        starts.push(corners.len() as u32);
    }
    let mesh = Mesh::from_parts(positions.collect(), corners, starts).expect("made so");
    hurmo_fuzz::worked_on(&Model::from(mesh));
});
