//! Clean shapes with known area, volume and genus: for tests, benches and the demo models.

mod rough_scan;

pub use rough_scan::rough_scan;

use crate::mesh::{Mesh, VertexId};
use glam::{DVec2, DVec3};
use rustc_hash::FxHashMap;
use std::f64::consts::{PI, TAU};

/// A flat sheet of `across × along` unit quads scaled to the size, facing +z, from the origin.
pub fn grid(across: usize, along: usize, width: f64, depth: f64) -> Mesh {
    let mut mesh = Mesh::default();
    for j in 0..=along {
        for i in 0..=across {
            let x = width * i as f64 / across as f64;
            let y = depth * j as f64 / along as f64;
            mesh.push_vertex(DVec3::new(x, y, 0.0));
        }
    }
    let row = across + 1;
    for j in 0..along {
        for i in 0..across {
            let v = j * row + i;
            mesh.push_face([v, v + 1, v + row + 1, v + row].map(VertexId::new));
        }
    }
    mesh
}

/// A closed box of quads, each side cut into `cuts × cuts`, facing outward.
pub fn cuboid(low: DVec3, high: DVec3, cuts: usize) -> Mesh {
    let mut mesh = Mesh::default();
    let mut known: FxHashMap<[usize; 3], VertexId> = FxHashMap::default();
    let mut vertex = |mesh: &mut Mesh, at: [usize; 3]| {
        *known.entry(at).or_insert_with(|| {
            let share = DVec3::from_array(at.map(|i| i as f64)) / cuts as f64;
            mesh.push_vertex(low + (high - low) * share)
        })
    };
    for axis in 0..3 {
        let (u, v) = ((axis + 1) % 3, (axis + 2) % 3);
        for end in [0, cuts] {
            for j in 0..cuts {
                for i in 0..cuts {
                    let mut quad =
                        [[i, j], [i + 1, j], [i + 1, j + 1], [i, j + 1]].map(|[a, b]| {
                            let mut at = [0; 3];
                            (at[axis], at[u], at[v]) = (end, a, b);
                            vertex(&mut mesh, at)
                        });
                    if end == 0 {
                        quad.reverse();
                    }
                    mesh.push_face(quad);
                }
            }
        }
    }
    mesh
}

/// A closed ring torus of quads about the z axis, facing outward.
pub fn torus(ring_radius: f64, tube_radius: f64, around: usize, across: usize) -> Mesh {
    tube_grid(around, across, |i, j| {
        let (ring, tube) = (TAU * i / around as f64, TAU * j / across as f64);
        let reach = ring_radius + tube_radius * tube.cos();
        DVec3::new(
            reach * ring.cos(),
            reach * ring.sin(),
            tube_radius * tube.sin(),
        )
    })
}

/// A closed tube of quads: position by (step along the closed centre line, step round the
/// tube).
pub fn tube_grid(around: usize, across: usize, position: impl Fn(f64, f64) -> DVec3) -> Mesh {
    let mut mesh = Mesh::default();
    for i in 0..around {
        for j in 0..across {
            mesh.push_vertex(position(i as f64, j as f64));
        }
    }
    let at = |i: usize, j: usize| VertexId::new((i % around) * across + j % across);
    for i in 0..around {
        for j in 0..across {
            mesh.push_face([at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)]);
        }
    }
    mesh
}

/// A sphere of `20 · 4^cuts` nearly even triangles about the origin, facing outward.
pub fn sphere(radius: f64, cuts: usize) -> Mesh {
    let golden = (1.0 + 5f64.sqrt()) / 2.0;
    let mut points: Vec<DVec3> = Vec::new();
    for (a, b) in [
        (1.0, golden),
        (-1.0, golden),
        (1.0, -golden),
        (-1.0, -golden),
    ] {
        points.push(DVec3::new(0.0, a, b));
        points.push(DVec3::new(a, b, 0.0));
        points.push(DVec3::new(b, 0.0, a));
    }
    // The twenty faces are the triples at edge distance 2 from one another.
    let near = |a: usize, b: usize| (points[a].distance(points[b]) - 2.0).abs() < 1e-9;
    let mut faces = Vec::new();
    for a in 0..12 {
        for b in a + 1..12 {
            for c in b + 1..12 {
                if near(a, b) && near(b, c) && near(c, a) {
                    let outward = (points[b] - points[a])
                        .cross(points[c] - points[a])
                        .dot(points[a]);
                    let triple = if outward > 0.0 { [a, b, c] } else { [a, c, b] };
                    faces.push(triple.map(|v| v as u32));
                }
            }
        }
    }
    for point in &mut points {
        *point = point.normalize();
    }
    for _ in 0..cuts {
        let mut middle: FxHashMap<(u32, u32), u32> = FxHashMap::default();
        let mut finer = Vec::with_capacity(faces.len() * 4);
        for [a, b, c] in faces {
            let mut between = |a: u32, b: u32| {
                *middle.entry((a.min(b), a.max(b))).or_insert_with(|| {
                    points.push((points[a as usize] + points[b as usize]).normalize());
                    points.len() as u32 - 1
                })
            };
            let (ab, bc, ca) = (between(a, b), between(b, c), between(c, a));
            finer.extend([[a, ab, ca], [b, bc, ab], [c, ca, bc], [ab, bc, ca]]);
        }
        faces = finer;
    }
    let triangles: Vec<_> = faces.iter().map(|face| face.map(VertexId)).collect();
    let positions = points.into_iter().map(|p| p * radius).collect();
    Mesh::from_triangles(positions, &triangles).expect("a sphere of sound triangles")
}

/// A body of revolution about the z axis. `profile` runs from bottom to top as (radius, z);
/// quads between its rings, and an n-gon at each end whose radius isn't 0 if `capped`.
pub fn lathe(profile: &[DVec2], around: usize, capped: bool) -> Mesh {
    let mut mesh = Mesh::default();
    for point in profile {
        for i in 0..around {
            let turn = TAU * i as f64 / around as f64;
            mesh.push_vertex(DVec3::new(
                point.x * turn.cos(),
                point.x * turn.sin(),
                point.y,
            ));
        }
    }
    let at = |ring: usize, i: usize| VertexId::new(ring * around + i % around);
    for ring in 0..profile.len() - 1 {
        for i in 0..around {
            mesh.push_face([
                at(ring, i),
                at(ring, i + 1),
                at(ring + 1, i + 1),
                at(ring + 1, i),
            ]);
        }
    }
    if capped {
        mesh.push_face((0..around).rev().map(|i| at(0, i)));
        mesh.push_face((0..around).map(|i| at(profile.len() - 1, i)));
    }
    mesh
}

/// A sphere of about `triangles` triangles with smooth bumps: a stand-in for a scan, quick to
/// make at any size.
pub fn bumpy_sphere(triangles: usize) -> Mesh {
    let across = ((triangles as f64 / 4.0).sqrt().ceil() as usize).max(4);
    let around = 2 * across;
    let point = |i: usize, j: usize| {
        let (turn, rise) = (
            TAU * (i % around) as f64 / around as f64,
            PI * j as f64 / across as f64,
        );
        let bump = 1.0
            + 0.04 * (7.0 * turn).sin() * (9.0 * rise).sin() * rise.sin()
            + 0.01 * (31.0 * turn).cos() * (37.0 * rise).sin() * rise.sin();
        DVec3::new(
            rise.sin() * turn.cos(),
            rise.sin() * turn.sin(),
            -rise.cos(),
        ) * bump
    };
    let mut positions = vec![point(0, 0)];
    for j in 1..across {
        positions.extend((0..around).map(|i| point(i, j)));
    }
    positions.push(point(0, across));
    let last = positions.len() - 1;
    let at = |i: usize, j: usize| match j {
        0 => VertexId(0),
        _ if j == across => VertexId::new(last),
        _ => VertexId::new(1 + (j - 1) * around + i % around),
    };
    let mut faces = Vec::with_capacity(around * (across - 1) * 2);
    for j in 0..across {
        for i in 0..around {
            let [a, b, c, d] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
            if j > 0 {
                faces.push([a, b, c]);
            }
            if j + 1 < across {
                faces.push([a, c, d]);
            }
        }
    }
    Mesh::from_triangles(positions, &faces).expect("a bumpy sphere of sound triangles")
}
