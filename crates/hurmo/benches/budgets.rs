//! The budgets of the design: the built program on a 2-million-triangle bumpy sphere, whole
//! process from file to result, as ratios to a yardstick taken in the same run.
//!
//! The yardstick is sorting three random `u64` keys per triangle on one thread. Every figure
//! is the median of five runs, each with a yardstick of its own beside it.
//!
//!     cargo bench --bench budgets            all rows
//!     cargo bench --bench budgets -- audit   rows whose name has "audit" in it

#[path = "common/run.rs"]
mod run;
#[path = "../../hurmo-core/benches/common/yardstick.rs"]
mod yardstick;

use glam::{DVec2, DVec3};
use hurmo_core::{Mesh, Model, VertexId, shapes};
use hurmo_formats::WriteOptions;
use run::{is_wanted, median, run};
use std::collections::HashMap;
use std::path::Path;
use yardstick::yardstick;

const TRIANGLES: usize = 2_000_000;
const RUNS: usize = 5;

struct Row {
    name: &'static str,
    arguments: &'static [&'static str],
    /// At most this many yardsticks, and bytes a triangle.
    budget: (f64, f64),
}

/// What an audit leaves out when it does not ask which faces meet.
const NO_CONTACTS: &str = "intersecting-faces,crossing-parts,interior-faces,nested-parts";

const ROWS: &[Row] = &[
    Row {
        name: "audit, no intersections",
        arguments: &["audit", "big.stl", "--skip", NO_CONTACTS],
        budget: (5.0, 200.0),
    },
    Row {
        name: "audit",
        arguments: &["audit", "big.stl"],
        budget: (12.0, 300.0),
    },
    Row {
        name: "audit, contacts of 20,000 parts",
        arguments: &["audit", "soup.stl", "--skip", "interior-faces,nested-parts"],
        budget: (12.0, 300.0),
    },
    Row {
        name: "audit, all of 20,000 parts",
        arguments: &["audit", "soup.stl"],
        budget: (f64::NAN, 300.0),
    },
    Row {
        name: "audit, open, for print",
        arguments: &["audit", "open.stl", "--for", "print", "--unit", "mm"],
        budget: (f64::NAN, f64::NAN),
    },
    Row {
        name: "picture, 871,414",
        arguments: &[
            "picture",
            "pictured.stl",
            "-o",
            "out.png",
            "--show",
            "wire",
            "--force",
        ],
        budget: (f64::NAN, f64::NAN),
    },
    Row {
        name: "mend (binary STL)",
        arguments: &["mend", "big.stl", "-o", "out.stl", "--force"],
        budget: (15.0, 400.0),
    },
    Row {
        name: "mend, spoilt",
        arguments: &["mend", "spoilt.stl", "-o", "out.stl", "--force"],
        budget: (15.0, 400.0),
    },
    Row {
        name: "decimate to 10%",
        arguments: &[
            "decimate", "big.stl", "-o", "out.stl", "--to", "10%", "--force",
        ],
        budget: (15.0, 400.0),
    },
    Row {
        name: "decimate to 10%, a rough scan",
        arguments: &[
            "decimate",
            "rough.stl",
            "-o",
            "out.stl",
            "--to",
            "10%",
            "--force",
        ],
        budget: (f64::NAN, f64::NAN),
    },
    Row {
        name: "print, a rough scan, to 50k",
        arguments: &[
            "prep",
            "rough.stl",
            "-o",
            "out.stl",
            "--for",
            "print",
            "--to",
            "50k",
            "--unit",
            "mm",
            "--force",
        ],
        budget: (f64::NAN, f64::NAN),
    },
    Row {
        name: "remesh, same count",
        arguments: &[
            "remesh",
            "big.stl",
            "-o",
            "out.stl",
            "--into",
            "triangles",
            "--to",
            "2M",
            "--force",
        ],
        budget: (60.0, 600.0),
    },
    Row {
        name: "a rough scan into 20k quads",
        arguments: &[
            "remesh",
            "rough.stl",
            "-o",
            "out.obj",
            "--into",
            "quads",
            "--to",
            "20k",
            "--force",
        ],
        budget: (60.0, 1000.0),
    },
    Row {
        name: "a million into 50k quads",
        arguments: &[
            "remesh",
            "million.stl",
            "-o",
            "out.obj",
            "--into",
            "quads",
            "--to",
            "50k",
            "--force",
        ],
        budget: (60.0, 1000.0),
    },
    Row {
        name: "a solid, 300 cells",
        arguments: &[
            "reskin", "big.stl", "-o", "out.stl", "--cell", "0.3333%", "--force",
        ],
        budget: (25.0, 600.0),
    },
    // Evening may take a third more.
    Row {
        name: "a solid, 300 cells, as they come",
        arguments: &[
            "reskin",
            "big.stl",
            "-o",
            "out.stl",
            "--cell",
            "0.3333%",
            "--keep-cells",
            "--force",
        ],
        budget: (f64::NAN, f64::NAN),
    },
    Row {
        name: "a solid, 600 cells",
        arguments: &[
            "reskin", "big.stl", "-o", "out.stl", "--cell", "0.16667%", "--force",
        ],
        budget: (80.0, 600.0),
    },
    Row {
        name: "bake 2 million's normals for 20k",
        arguments: &[
            "bake",
            "big.stl",
            "low.stl",
            "-o",
            "out.glb",
            "--normal-map",
            "--size",
            "2048",
            "--force",
        ],
        budget: (f64::NAN, f64::NAN),
    },
    Row {
        name: "union of two of a million",
        arguments: &[
            "boolean",
            "million.stl",
            "moved.stl",
            "-o",
            "out.stl",
            "--as",
            "union",
            "--force",
        ],
        budget: (15.0, 400.0),
    },
    Row {
        name: "union of 20,000 parts",
        arguments: &[
            "boolean", "soup.stl", "-o", "out.stl", "--as", "union", "--force",
        ],
        budget: (60.0, f64::NAN),
    },
    // Half as much again as an audit of the million.
    Row {
        name: "a million less a cylinder",
        arguments: &[
            "boolean",
            "million.stl",
            "cylinder.stl",
            "-o",
            "out.stl",
            "--as",
            "difference",
            "--force",
        ],
        budget: (18.0, f64::NAN),
    },
    // Read and written, three yardsticks each.
    Row {
        name: "GLB, in and out",
        arguments: &["convert", "million.glb", "-o", "out.glb", "--force"],
        budget: (6.0, f64::NAN),
    },
    Row {
        name: "GLB, in and out as STL",
        arguments: &["convert", "million.glb", "-o", "out.stl", "--force"],
        budget: (f64::NAN, f64::NAN),
    },
    Row {
        name: "3MF, in and out",
        arguments: &["convert", "million.3mf", "-o", "out.3mf", "--force"],
        budget: (f64::NAN, f64::NAN),
    },
];

fn main() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let mut counts = HashMap::new();
    println!("median of {RUNS} runs");
    println!(
        "{:32} {:>10} {:>8} {:>8} {:>10} {:>8}",
        "work", "yardsticks", "at most", "seconds", "B/triangle", "at most"
    );
    for row in ROWS {
        if !is_wanted(row.name) {
            continue;
        }
        let inputs = row.arguments[1..].iter();
        let inputs = inputs.take_while(|argument| !argument.starts_with('-'));
        let triangles = inputs
            .map(|name| model(name, folder.path(), &mut counts))
            .sum();
        let mut ratios = Vec::new();
        let mut seconds = Vec::new();
        let mut peak = 0;
        for _ in 0..RUNS {
            let yardstick = yardstick(triangles);
            let (time, bytes) = run(row.arguments, folder.path());
            ratios.push(time.as_secs_f64() / yardstick.as_secs_f64());
            seconds.push(time.as_secs_f64());
            peak = peak.max(bytes);
        }
        println!(
            "{:32} {:>10.2} {:>8} {:>8.2} {:>10.0} {:>8}",
            row.name,
            median(ratios),
            row.budget.0,
            median(seconds),
            peak as f64 / triangles as f64,
            row.budget.1
        );
    }
}

/// Makes a bench model, unless it is there; returns how many triangles it has.
fn model(name: &str, folder: &Path, counts: &mut HashMap<String, usize>) -> usize {
    let path = folder.join(name);
    if let Some(&known) = counts.get(name) {
        return known;
    }
    let mesh = match name {
        "soup.stl" => soup(20_000),
        "open.stl" => first_faces(&shapes::bumpy_sphere(1_100_000), 1_000_000),
        "pictured.stl" => first_faces(&shapes::bumpy_sphere(880_000), 871_414),
        "low.stl" => shapes::bumpy_sphere(20_000),
        "rough.stl" => shapes::rough_scan(210),
        "million.glb" | "million.3mf" | "million.stl" => shapes::bumpy_sphere(1_000_000),
        "moved.stl" => moved(
            &shapes::bumpy_sphere(1_000_000),
            DVec3::new(0.5, 0.03, 0.01),
        ),
        "cylinder.stl" => moved(&cylinder(), DVec3::new(0.31, 0.27, -2.0)),
        "spoilt.stl" => spoilt(&shapes::bumpy_sphere(TRIANGLES)),
        _ => shapes::bumpy_sphere(TRIANGLES),
    };
    let model = Model::from(mesh);
    hurmo_formats::write(&path, &model, WriteOptions::default()).expect("the model is written");
    counts.insert(name.to_string(), model.mesh.face_count());
    model.mesh.face_count()
}

/// Small spheres scattered so that most of them cross others.
fn soup(parts: usize) -> Mesh {
    let ball = shapes::sphere(0.02, 1);
    let mut mesh = Mesh::default();
    let mut state = 0x9e37_79b9_7f4a_7c15u64;
    let mut random = || {
        state = state
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1);
        (state >> 33) as f64 / (1u64 << 31) as f64
    };
    for _ in 0..parts {
        let at = DVec3::new(random(), random(), random());
        let base = mesh.vertex_count() as u32;
        ball.positions().iter().for_each(|&p| {
            mesh.push_vertex(p + at);
        });
        for (_, face) in ball.faces() {
            mesh.push_face(face.iter().map(|v| VertexId(v.0 + base)));
        }
    }
    mesh
}

fn moved(mesh: &Mesh, by: DVec3) -> Mesh {
    let mut moved = mesh.clone();
    moved.move_vertices(|_, p| p + by).expect("it stays small");
    moved
}

/// A thin one, as long as the sphere is wide twice over.
fn cylinder() -> Mesh {
    let profile = [(0.02, 0.0), (0.02, 4.0)];
    shapes::lathe(&profile.map(DVec2::from), 64, true)
}

fn first_faces(mesh: &Mesh, count: usize) -> Mesh {
    let mut cut = Mesh::from_parts(mesh.positions().to_vec(), vec![], vec![0]).expect("no faces");
    for (_, face) in mesh.faces().take(count) {
        cut.push_face(face.iter().copied());
    }
    cut
}

/// A mesh with a thousand faces turned, a hundred doubled, and fifty gone.
fn spoilt(mesh: &Mesh) -> Mesh {
    let mut spoilt = first_faces(mesh, 0);
    for (face, corners) in mesh.faces() {
        let nth = |count: usize, place: usize| face.index() % (TRIANGLES / count) == place;
        let corners = corners.iter().copied();
        match nth(1000, 17) {
            true => spoilt.push_face(corners.clone().rev()),
            false if nth(50, 5) => continue,
            false => spoilt.push_face(corners.clone()),
        };
        if nth(100, 333) {
            spoilt.push_face(corners);
        }
    }
    spoilt
}
