//! `hurmo mend` and `hurmo fill` beyond the plain cases, by what is in the files that they write.

use crate::common::{Bench, CUBE, count, error_of};

fn text_of(bench: &Bench, line: &str, code: i32) -> String {
    let output = bench.hurmo(line).code(code).get_output().stdout.clone();
    String::from_utf8(output).unwrap()
}

/// A cube as another's text goes on: its vertices are numbered behind eight, and moved along x.
fn moved(cube: &str, along: f64) -> String {
    cube.lines()
        .map(|line| match line.split_once(' ') {
            Some(("v", rest)) => {
                let (x, yz) = rest.split_once(' ').unwrap();
                format!("v {} {yz}\n", x.parse::<f64>().unwrap() + along)
            }
            Some(("f", rest)) => {
                let corners = rest.split(' ').map(|c| c.parse::<u32>().unwrap() + 8);
                let corners: Vec<String> = corners.map(|c| c.to_string()).collect();
                format!("f {}\n", corners.join(" "))
            }
            _ => format!("{line}\n"),
        })
        .collect()
}

#[test]
fn t_junctions_are_stitched_unless_open_edges_are_kept() {
    let bench = Bench::new();
    // A strip of one quad beside a strip of two, which share vertices 2 and 3.
    bench.file(
        "strips.obj",
        "v 0 0 0\nv 2 0 0\nv 2 2 0\nv 0 2 0\nv 2 1 0\nv 3 0 0\nv 3 1 0\nv 3 2 0\n\
         f 1 2 3 4\nf 2 6 7 5\nf 5 7 8 3\n",
    );
    let words = text_of(&bench, "mend strips.obj -o out.obj", 0);
    assert!(words.contains("1 T-junction stitched"), "{words}");
    let after = bench.audit("out.obj");
    assert_eq!(
        (after["mesh"]["parts"].as_u64(), count(&after, "open-edges")),
        (Some(1), 7)
    );
    assert_eq!(after["mesh"]["area"], 6.0);
    let words = text_of(&bench, "mend strips.obj -o kept.obj --keep open-edges", 0);
    assert!(words.contains("nothing to do"), "{words}");
    bench.file("brief.toml", "[mend]\nkeep = [\"open-edges\"]\n");
    let words = text_of(&bench, "mend strips.obj -o briefed.obj --for brief.toml", 0);
    assert!(words.contains("nothing to do"), "{words}");
}

#[test]
fn boxes_side_by_side_are_left_two_and_told() {
    let bench = Bench::new();
    let beside = moved(CUBE, 1.0);
    bench.file("boxes.obj", format!("{CUBE}{beside}"));
    let words = text_of(&bench, "mend boxes.obj -o out.obj", 0);
    assert!(
        words.contains("4 vertices moved apart by a hair, where closed surfaces touch"),
        "{words}"
    );
    let after = bench.audit("out.obj");
    assert_eq!(
        (
            after["mesh"]["watertight"].as_bool(),
            count(&after, "nonmanifold-edges")
        ),
        (Some(true), 0)
    );
    assert_eq!(count(&after, "duplicate-vertices"), 0);
    // For an engine, too: a weld would tie the boxes together.
    bench
        .hurmo("mend boxes.obj -o engine.obj --for engine --clear duplicate-vertices")
        .code(0);
    let after = bench.audit("engine.obj");
    assert_eq!(after["mesh"]["vertices"], 16);
    assert_eq!(count(&after, "nonmanifold-edges"), 0);
    // Who wants them tied says so.
    bench.hurmo("mend boxes.obj -o tied.obj --near 0 --clear duplicate-vertices");
    assert_eq!(bench.audit("tied.obj")["mesh"]["vertices"], 12);
}

#[test]
fn what_is_taken_apart_stays_apart_in_a_second_mend() {
    let bench = Bench::new();
    // Two cubes that share an edge.
    bench.file(
        "pair.obj",
        format!("{CUBE}v 2 1 0\nv 2 2 0\nv 1 2 0\nv 2 1 1\nv 2 2 1\nv 1 2 1\n"),
    );
    let text = std::fs::read_to_string(bench.path("pair.obj")).unwrap();
    let at = |x: f64, y: f64, z: f64| {
        let mut number = 0;
        for line in text.lines().filter_map(|line| line.strip_prefix("v ")) {
            number += 1;
            let p: Vec<f64> = line.split(' ').map(|n| n.parse().unwrap()).collect();
            if p == [x, y, z] {
                return number;
            }
        }
        panic!("no vertex at {x} {y} {z}");
    };
    let mut faces = String::new();
    for quad in [
        [(1., 1., 0.), (1., 2., 0.), (2., 2., 0.), (2., 1., 0.)],
        [(1., 1., 1.), (2., 1., 1.), (2., 2., 1.), (1., 2., 1.)],
        [(1., 1., 0.), (2., 1., 0.), (2., 1., 1.), (1., 1., 1.)],
        [(2., 1., 0.), (2., 2., 0.), (2., 2., 1.), (2., 1., 1.)],
        [(2., 2., 0.), (1., 2., 0.), (1., 2., 1.), (2., 2., 1.)],
        [(1., 2., 0.), (1., 1., 0.), (1., 1., 1.), (1., 2., 1.)],
    ] {
        let [a, b, c, d] = quad.map(|(x, y, z)| at(x, y, z));
        faces += &format!("f {a} {b} {c} {d}\n");
    }
    bench.file("pair.obj", text.clone() + &faces);
    assert_eq!(count(&bench.audit("pair.obj"), "nonmanifold-edges"), 1);
    bench
        .hurmo("mend pair.obj -o apart.obj --clear nonmanifold-edges")
        .code(0);
    let apart = bench.audit("apart.obj");
    assert_eq!(
        (
            apart["mesh"]["parts"].as_u64(),
            apart["mesh"]["watertight"].as_bool()
        ),
        (Some(2), Some(true))
    );
    let words = text_of(&bench, "mend apart.obj -o again.obj --near 0", 0);
    assert!(words.contains("nothing to do"), "{words}");
}

#[test]
fn sheets_get_walls_and_rims_get_bands() {
    let bench = Bench::new();
    let open = CUBE.replace("f 4 1 5 8\n", "").replace("f 2 3 7 6\n", "");
    bench.file("open.obj", open);
    let words = text_of(
        &bench,
        "mend open.obj -o walled.obj --unit mm --thicken 0.1mm",
        0,
    );
    assert!(
        words.contains("1 sheet given a wall of 0.1 with 12 faces: P1"),
        "{words}"
    );
    let walled = bench.audit("walled.obj");
    assert_eq!(walled["mesh"]["watertight"], true);
    let volume = walled["mesh"]["volume"].as_f64().unwrap();
    assert!((volume - (1.0 - 0.8 * 0.8)).abs() < 1e-3, "{volume}");
    bench.hurmo("mend open.obj -o no.obj --thicken 0").code(2);

    // Two cubes, open towards each other.
    let (left, right) = (
        CUBE.replace("f 2 3 7 6\n", ""),
        CUBE.replace("f 4 1 5 8\n", ""),
    );
    bench.file("two.obj", left + &moved(&right, 3.0));
    let words = text_of(&bench, "fill two.obj -o one.obj --bridge R1,R2", 0);
    assert!(
        words.contains("R1 and R2 joined with 8 faces: quads in 2 rows"),
        "{words}"
    );
    let one = bench.audit("one.obj");
    assert_eq!(
        (
            one["mesh"]["parts"].as_u64(),
            one["mesh"]["watertight"].as_bool()
        ),
        (Some(1), Some(true))
    );
    assert!((one["mesh"]["volume"].as_f64().unwrap() - 4.0).abs() < 1e-9);
    for wrong in ["R1", "R1,R1", "R1,R7", "P1,P2"] {
        bench
            .hurmo(&format!("fill two.obj -o no.obj --bridge {wrong}"))
            .code(2);
    }
    assert!(!bench.path("no.obj").exists());
    bench
        .hurmo("fill two.obj -o no.obj --bridge R1,R2 --rim R1")
        .code(2);
}

/// A slab of quads as OBJ, `side` by `side` by one, whose top lacks the squares for which `gone`
/// says so.
fn slab(side: usize, gone: impl Fn(usize, usize) -> bool) -> String {
    let across = side + 1;
    let mut text = String::new();
    for z in 0..2 {
        for y in 0..across {
            for x in 0..across {
                text += &format!("v {x} {y} {z}\n");
            }
        }
    }
    let at = |x: usize, y: usize, z: usize| 1 + z * across * across + y * across + x;
    let mut quad = |[a, b, c, d]: [usize; 4]| text += &format!("f {a} {b} {c} {d}\n");
    for y in 0..side {
        for x in 0..side {
            quad([
                at(x, y, 0),
                at(x, y + 1, 0),
                at(x + 1, y + 1, 0),
                at(x + 1, y, 0),
            ]);
            if !gone(x, y) {
                quad([
                    at(x, y, 1),
                    at(x + 1, y, 1),
                    at(x + 1, y + 1, 1),
                    at(x, y + 1, 1),
                ]);
            }
        }
    }
    for i in 0..side {
        let (j, end) = (i + 1, side);
        quad([at(i, 0, 0), at(j, 0, 0), at(j, 0, 1), at(i, 0, 1)]);
        quad([at(j, end, 0), at(i, end, 0), at(i, end, 1), at(j, end, 1)]);
        quad([at(0, j, 0), at(0, i, 0), at(0, i, 1), at(0, j, 1)]);
        quad([at(end, i, 0), at(end, j, 0), at(end, j, 1), at(end, i, 1)]);
    }
    text
}

#[test]
fn islands_in_a_hole_are_joined_or_dropped_as_asked() {
    let bench = Bench::new();
    let within = |i: usize, least: usize, most: usize| (least..most).contains(&i);
    let ring = |x, y| within(x, 2, 8) && within(y, 2, 8) && !(within(x, 4, 6) && within(y, 4, 6));
    bench.file("slab.obj", slab(10, ring));
    let before = bench.audit("slab.obj");
    assert_eq!(
        (&before["mesh"]["rims"], &before["mesh"]["parts"]),
        (&2.into(), &2.into())
    );

    let words = text_of(
        &bench,
        "fill slab.obj -o joined.obj --rim R1 --islands join",
        0,
    );
    assert!(words.contains("1 island taken in"), "{words}");
    let joined = bench.audit("joined.obj");
    assert_eq!(
        (&joined["mesh"]["watertight"], &joined["mesh"]["parts"]),
        (&true.into(), &1.into())
    );
    assert!((joined["mesh"]["volume"].as_f64().unwrap() - 100.0).abs() < 1e-9);
    assert_eq!(count(&joined, "intersecting-faces"), 0);

    let words = text_of(
        &bench,
        "fill slab.obj -o dropped.obj --rim R1 --islands drop",
        0,
    );
    assert!(words.contains("1 part dropped: P2 (4 faces"), "{words}");
    let dropped = bench.audit("dropped.obj");
    assert_eq!(
        (&dropped["mesh"]["watertight"], &dropped["mesh"]["parts"]),
        (&true.into(), &1.into())
    );
    assert!((dropped["mesh"]["volume"].as_f64().unwrap() - 100.0).abs() < 1e-9);
}

#[test]
fn an_even_rim_is_closed_with_a_grid_of_quads() {
    let bench = Bench::new();
    bench.file(
        "slab.obj",
        slab(10, |x, y| (2..8).contains(&x) && (3..8).contains(&y)),
    );
    let words = text_of(&bench, "fill slab.obj -o grid.obj --surface grid", 0);
    assert!(
        words.contains("R1 (22 edges) grid: 30 faces, 30 square units"),
        "{words}"
    );
    let filled = bench.audit("grid.obj");
    let mesh = &filled["mesh"];
    assert_eq!(
        (&mesh["watertight"], &mesh["triangles"]),
        (&true.into(), &0.into())
    );
    assert_eq!(mesh["quads"], 2 * 10 * 10 + 4 * 10);

    // A corner face in two: the rim is odd, and gets what it can.
    bench.file(
        "odd.obj",
        "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv .5 .5 1\nf 1 2 5\nf 2 3 5\nf 3 4 5\n",
    );
    let words = text_of(&bench, "fill odd.obj -o closed.obj --surface grid", 0);
    assert!(
        words.contains("tight (it has an odd number of edges"),
        "{words}"
    );
}

#[test]
fn sheets_come_apart_where_sides_pair_off_and_elsewhere_by_name() {
    let bench = Bench::new();
    // Two tetrahedra on one edge; and three sheets on another, far off.
    bench.file(
        "edges.obj",
        "v 0 0 0\nv 0 0 1\nv 1 0 0\nv 1 1 0\nv -1 0 0\nv -1 -1 0\n\
         f 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\nf 1 5 2\nf 1 2 6\nf 1 6 5\nf 2 5 6\n\
         v 9 0 0\nv 9 0 1\nv 10 0 0\nv 9 1 0\nv 8 0 0\nf 7 9 8\nf 7 10 8\nf 7 8 11\n",
    );
    let words = text_of(&bench, "mend edges.obj -o out.obj", 1);
    assert!(words.contains("1 non-manifold edge taken apart"), "{words}");
    assert!(
        words.contains("1 non-manifold edge left: it has an odd number of sides"),
        "{words}"
    );
    // The verdict ends with the command that goes on.
    assert!(
        words.contains("mend out.obj --also nonmanifold-edges"),
        "{words}"
    );
    assert_eq!(count(&bench.audit("out.obj"), "nonmanifold-edges"), 1);
    text_of(
        &bench,
        "mend out.obj -o apart.obj --also nonmanifold-edges",
        0,
    );
    assert_eq!(count(&bench.audit("apart.obj"), "nonmanifold-edges"), 0);
}

#[test]
fn a_model_of_which_nothing_is_left_is_told_before_anything_is_written() {
    let bench = Bench::new();
    bench.file("line.obj", "v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n");
    bench.file("there.obj", CUBE);
    let error = error_of(&bench, "mend line.obj -o there.obj --force");
    assert!(error.contains("no face of the model is left"), "{error}");
    assert_eq!(
        std::fs::read_to_string(bench.path("there.obj")).unwrap(),
        CUBE
    );
    error_of(&bench, "mend line.obj -o new.obj");
    assert!(!bench.path("new.obj").exists());
}

/// A sphere, one of whose vertices has been pushed through the other side.
fn folded() -> hurmo_core::Model {
    let mut mesh = hurmo_core::shapes::sphere(1.0, 4);
    let top = glam::DVec3::Z;
    let below = glam::DVec3::new(0.05, 0.02, -1.3);
    mesh.move_vertices(|_, at| if at.distance(top) < 1e-9 { below } else { at })
        .unwrap();
    mesh.into()
}

#[test]
fn a_fold_is_cut_out_and_closed_anew() {
    let bench = Bench::new();
    let options = hurmo_formats::WriteOptions::default();
    hurmo_formats::write(&bench.path("fold.obj"), &folded(), options).unwrap();
    assert!(count(&bench.audit("fold.obj"), "intersecting-faces") > 0);
    let line = "mend fold.obj -o out.obj --repatch intersecting-faces --for print --unit mm";
    let words = text_of(&bench, line, 0);
    assert!(words.contains("1 place cut out and closed anew"), "{words}");
    let after = bench.audit("out.obj");
    assert_eq!(count(&after, "intersecting-faces"), 0);
    assert_eq!(count(&after, "open-edges"), 0);
    // The same by its place; grown wider, more goes.
    let by_place = "mend fold.obj -o near.obj --repatch 0,0,1,0.2 --grow 2";
    let words = text_of(&bench, by_place, 0);
    assert!(words.contains("1 place cut out and closed anew"), "{words}");
    assert_eq!(count(&bench.audit("near.obj"), "intersecting-faces"), 0);
    // What blocks names the command.
    let words = text_of(
        &bench,
        "mend fold.obj -o as_it_is.obj --for print --unit mm",
        1,
    );
    assert!(words.contains("--repatch intersecting-faces"), "{words}");
}

#[test]
fn places_to_cut_out_must_be_places() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    for (place, why) in [
        ("9,9,9,0.5", "no face lies within 0.5"),
        ("floating-parts", "finds nothing that can be cut out"),
        ("folds", "is no check"),
        ("1,2,3", "is no point with a radius"),
    ] {
        let error = error_of(
            &bench,
            &format!("mend cube.obj -o out.obj --repatch {place}"),
        );
        assert!(error.contains(why), "{error}");
    }
    let error = error_of(&bench, "mend cube.obj -o out.obj --grow 2");
    assert!(error.contains("--repatch"), "{error}");
    assert!(!bench.path("out.obj").exists());
}
