//! Input on which what is quadratic shows: the same kind at a quarter of its size and at all of it.
//! What is near-linear takes about four times as long; where a stated limit is reached, less.
//!
//!     cargo bench --bench slow_input           all kinds
//!     cargo bench --bench slow_input -- book   one of them

#[path = "common/run.rs"]
mod run;

use run::{is_wanted, median, run};
use std::f64::consts::TAU;
use std::fmt::Write;
use std::path::Path;

const RUNS: usize = 3;

/// A kind of input: its name, how large it is, and how it is made: OBJ, or glTF where the name says.
type Kind = (&'static str, usize, fn(usize) -> String);

const KINDS: &[Kind] = &[
    ("faces round one vertex", 100_000, fan),
    ("book: faces on one edge", 20_000, book),
    ("convex polygon, corners", 100_000, convex),
    ("star-shaped polygon, corners", 100_000, star),
    ("polygon that crosses itself", 100_000, crossing),
    ("equal faces", 50_000, equal),
    ("shells in shells", 3_000, shells),
    ("needles through one point", 3_000, needles),
    ("collinear faces", 5_000, collinear),
    ("faces in one plane", 2_000, in_one_plane),
    ("materials", 100_000, materials),
    ("rim of zigzag corners", 50_000, zigzag),
    ("sheets side by side", 20_000, sheets),
    ("faces of a scene in parts", 125_000, scene),
    ("glTF instances of a cube", 200_000, instances),
];

/// What is done to each.
const COMMANDS: &[&[&str]] = &[
    &["audit"],
    &["mend", "-o", "out.obj", "--force"],
    &["decimate", "--to", "10%", "-o", "out.obj", "--force"],
];

fn main() {
    let folder = tempfile::tempdir().expect("a temporary folder");
    std::fs::write(folder.path().join("cube.bin"), cube()).expect("the cube is written");
    println!("seconds, median of {RUNS} runs, and how many times those at a quarter of the size");
    println!(
        "{:30} {:>8} {:>16} {:>16} {:>16}",
        "input", "size", "audit", "mend", "decimate to 10%"
    );
    for (name, size, make) in KINDS {
        if !is_wanted(name) {
            continue;
        }
        let file = match name.starts_with("glTF") {
            true => "in.gltf",
            false => "in.obj",
        };
        let seconds = |size| seconds(&make(size), file, folder.path());
        let [small, large] = [size / 4, *size].map(seconds);
        let rates = small
            .iter()
            .zip(&large)
            .map(|(small, large)| format!("{large:.2} ({:.1} ×)", large / small));
        let rates: Vec<String> = rates.collect();
        println!(
            "{name:30} {size:>8} {:>16} {:>16} {:>16}",
            rates[0], rates[1], rates[2]
        );
    }
}

fn seconds(text: &str, file: &str, folder: &Path) -> Vec<f64> {
    std::fs::write(folder.join(file), text).expect("the model is written");
    let command = |arguments: &&[&str]| {
        let line = [&arguments[..1], &[file], &arguments[1..]].concat();
        let runs = (0..RUNS).map(|_| run(&line, folder).0.as_secs_f64());
        median(runs.collect())
    };
    COMMANDS.iter().map(command).collect()
}

/// An OBJ file of points and faces, their corners counted from 0.
fn obj(points: &[[f64; 3]], faces: impl Iterator<Item = Vec<usize>>) -> String {
    let mut text = String::new();
    for [x, y, z] in points {
        writeln!(text, "v {x} {y} {z}").expect("text takes all");
    }
    for face in faces {
        text.push('f');
        for corner in face {
            write!(text, " {}", corner + 1).expect("text takes all");
        }
        text.push('\n');
    }
    text
}

/// Numbers from 0 to 1, the same each time.
struct Random(u64);

impl Random {
    fn next(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }
}

fn ring(count: usize, radius: impl Fn(usize) -> f64) -> Vec<[f64; 3]> {
    let point = |i: usize| {
        let turn = TAU * i as f64 / count as f64;
        [radius(i) * turn.cos(), radius(i) * turn.sin(), 0.0]
    };
    (0..count).map(point).collect()
}

fn fan(count: usize) -> String {
    let mut points = ring(count, |_| 1.0);
    points.push([0.0, 0.0, 1.0]);
    obj(&points, (0..count).map(|i| vec![i, (i + 1) % count, count]))
}

fn book(count: usize) -> String {
    let mut points = vec![[0.0, 0.0, -0.5], [0.0, 0.0, 0.5]];
    points.extend(ring(count, |_| 1.0));
    obj(&points, (0..count).map(|i| vec![0, 1, 2 + i]))
}

fn convex(count: usize) -> String {
    obj(&ring(count, |_| 1.0), std::iter::once((0..count).collect()))
}

fn star(count: usize) -> String {
    let mut random = Random(7);
    let radii: Vec<f64> = (0..count).map(|_| 0.2 + 0.8 * random.next()).collect();
    let points = ring(count, |i| radii[i]);
    obj(&points, std::iter::once((0..count).collect()))
}

fn crossing(count: usize) -> String {
    let mut random = Random(9);
    let points: Vec<[f64; 3]> = (0..count)
        .map(|_| [random.next(), random.next(), 0.0])
        .collect();
    obj(&points, std::iter::once((0..count).collect()))
}

fn equal(count: usize) -> String {
    let points = [[0.0, 0.0, 0.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]];
    obj(&points, (0..count).map(|_| vec![0, 1, 2]))
}

fn shells(count: usize) -> String {
    let corners = [
        [1.0, 1.0, 1.0],
        [1.0, -1.0, -1.0],
        [-1.0, 1.0, -1.0],
        [-1.0, -1.0, 1.0],
    ];
    let points: Vec<[f64; 3]> = (1..=count)
        .flat_map(|size| corners.map(|corner| corner.map(|x: f64| x * size as f64)))
        .collect();
    let sides = [[0, 1, 2], [0, 3, 1], [0, 2, 3], [1, 3, 2]];
    let faces = (0..count).flat_map(|i| sides.map(|side| side.map(|v| v + 4 * i).to_vec()));
    obj(&points, faces)
}

fn needles(count: usize) -> String {
    let mut random = Random(11);
    let mut points = Vec::new();
    for _ in 0..count {
        let tip = [0, 1, 2].map(|_| 2.0 * random.next() - 1.0);
        points.push([0.001 - tip[0], -tip[1], -tip[2]]);
        points.push([-0.001 - tip[0], -tip[1], -tip[2]]);
        points.push(tip);
    }
    obj(
        &points,
        (0..count).map(|i| vec![3 * i, 3 * i + 1, 3 * i + 2]),
    )
}

fn collinear(count: usize) -> String {
    let mut random = Random(13);
    let points: Vec<[f64; 3]> = (0..count)
        .map(|_| {
            let along = random.next();
            [along, 2.0 * along, 3.0 * along]
        })
        .collect();
    let mut pick = Random(15);
    let mut corner = || (pick.next() * count as f64) as usize;
    let faces: Vec<Vec<usize>> = (0..count)
        .map(|i| vec![i, (i + 1 + corner()) % count, (i + 2 + corner()) % count])
        .collect();
    obj(&points, faces.into_iter())
}

fn in_one_plane(count: usize) -> String {
    let mut random = Random(17);
    let points: Vec<[f64; 3]> = (0..3 * count)
        .map(|_| [random.next(), random.next(), 0.0])
        .collect();
    obj(
        &points,
        (0..count).map(|i| vec![3 * i, 3 * i + 1, 3 * i + 2]),
    )
}

fn materials(count: usize) -> String {
    let mut text = String::new();
    for i in 0..=count {
        let y = i % 7;
        writeln!(text, "v {i} {y} 0\nv {i} {y} 1").expect("text takes all");
    }
    for i in 0..count {
        let at = 2 * i + 1;
        writeln!(text, "usemtl m{i}\nf {at} {} {}", at + 1, at + 2).expect("text takes all");
    }
    text
}

/// A skirt whose upper rim goes in and out, up and down.
fn zigzag(count: usize) -> String {
    let mut points = ring(count, |i| 1.0 + 0.01 * (i % 2) as f64);
    let heights = points.iter_mut().enumerate();
    heights.for_each(|(i, point)| point[2] = 0.02 * (i % 2) as f64);
    let below = ring(count, |_| 1.5);
    points.extend(below.into_iter().map(|[x, y, _]| [x, y, -1.0]));
    let next = |i: usize| (i + 1) % count;
    let faces = (0..count).map(|i| vec![i, next(i), count + next(i), count + i]);
    obj(&points, faces)
}

/// Squares of two triangles, each a part of its own, like tiles.
fn sheets(count: usize) -> String {
    let across = (count as f64).sqrt().ceil() as usize;
    let mut points = Vec::new();
    for i in 0..count {
        let (x, y) = ((i % across) as f64, (i / across) as f64);
        for (right, up) in [(0.0, 0.0), (0.9, 0.0), (0.9, 0.9), (0.0, 0.9)] {
            points.push([x + right, y + up, 0.0]);
        }
    }
    let faces = (0..count).flat_map(|i| {
        let at = 4 * i;
        [vec![at, at + 1, at + 2], vec![at, at + 2, at + 3]]
    });
    obj(&points, faces)
}

/// Balls and bars, some of them open, many of which touch or cross.
fn scene(faces: usize) -> String {
    const RING: usize = 6;
    let mut random = Random(19);
    let (mut points, mut all) = (Vec::new(), Vec::new());
    while all.len() < faces {
        let base = points.len();
        let at = [0, 1, 2].map(|_| 20.0 * random.next());
        let (radius, length) = (0.1 + 0.3 * random.next(), 0.2 + random.next());
        for z in [0.0, length] {
            let around = ring(RING, |_| radius).into_iter();
            points.extend(around.map(|[x, y, _]| [at[0] + x, at[1] + y, at[2] + z]));
        }
        for i in 0..RING {
            let (low, next) = (base + i, base + (i + 1) % RING);
            all.push(vec![low, next, next + RING]);
            all.push(vec![low, next + RING, low + RING]);
        }
        if random.next() < 0.8 {
            all.push((base..base + RING).rev().collect());
            all.push((base + RING..base + 2 * RING).collect());
        }
    }
    obj(&points, all.into_iter())
}

/// The corners and triangles of a cube, as glTF has them.
fn cube() -> Vec<u8> {
    let corners = (0..8).map(|i| [i & 1, i >> 1 & 1, i >> 2].map(|x| x as f32));
    let mut bytes: Vec<u8> = corners.flatten().flat_map(f32::to_le_bytes).collect();
    let quads: [[u16; 4]; 6] = [
        [0, 2, 3, 1],
        [4, 5, 7, 6],
        [0, 1, 5, 4],
        [2, 6, 7, 3],
        [0, 4, 6, 2],
        [1, 3, 7, 5],
    ];
    let triangles = quads.iter().flat_map(|&[a, b, c, d]| [a, b, c, a, c, d]);
    bytes.extend(triangles.flat_map(u16::to_le_bytes));
    bytes
}

/// The cube, shown again and again side by side.
fn instances(count: usize) -> String {
    let across = (count as f64).sqrt().ceil() as usize;
    let node = |i: usize| {
        let (x, y) = (2 * (i % across), 2 * (i / across));
        format!(r#"{{"mesh":0,"translation":[{x},{y},0]}}"#)
    };
    let nodes: Vec<String> = (0..count).map(node).collect();
    let names: Vec<String> = (0..count).map(|i| i.to_string()).collect();
    let (nodes, names) = (nodes.join(","), names.join(","));
    format!(
        r#"{{"asset":{{"version":"2.0"}},"scene":0,"scenes":[{{"nodes":[{names}]}}],"nodes":[{nodes}],
"meshes":[{{"primitives":[{{"attributes":{{"POSITION":0}},"indices":1}}]}}],
"buffers":[{{"byteLength":168,"uri":"cube.bin"}}],
"bufferViews":[{{"buffer":0,"byteLength":96}},{{"buffer":0,"byteOffset":96,"byteLength":72}}],
"accessors":[{{"bufferView":0,"componentType":5126,"count":8,"type":"VEC3","min":[0,0,0],"max":[1,1,1]}},
{{"bufferView":1,"componentType":5123,"count":36,"type":"SCALAR"}}]}}"#
    )
}
