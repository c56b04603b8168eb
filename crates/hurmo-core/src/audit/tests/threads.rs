//! An audit ends, whatever takes up what on however many threads.
//!
//! A thread that waits for others of its pool takes up other work meanwhile. Should that work ask for
//! something that the waiting one holds, neither goes on.

use super::add;
use crate::audit::{MeshAnalysis, Needs, nested};
use crate::mesh::{Mesh, Model};
use crate::shapes;
use glam::DVec3;
use std::sync::mpsc;
use std::time::Duration;

/// Runs on more threads than there are processors; fails where that doesn't end.
fn ends(work: impl FnOnce() + Send + 'static) {
    let (done, has_ended) = mpsc::channel();
    std::thread::spawn(move || {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(8);
        pool.build().expect("threads").install(work);
        let _ = done.send(());
    });
    // A hundred times as long as it takes.
    let ended = has_ended.recv_timeout(Duration::from_secs(300));
    assert!(ended.is_ok(), "it failed, or waits for itself");
}

/// Balls that lie in each other three deep, and all in one, large enough that each is looked at in
/// pieces.
#[test]
fn what_lies_in_each_other_is_found_on_many_threads() {
    let mut mesh = Mesh::default();
    for (x, y) in (0..9).map(|i| (f64::from(i % 3), f64::from(i / 3))) {
        for radius in [0.4, 0.3, 0.2] {
            let ball = shapes::sphere(radius, 4);
            add(&mut mesh, &ball, |p| p + DVec3::new(x, y, 0.0));
        }
    }
    let all = shapes::sphere(4.0, 5);
    add(&mut mesh, &all, |p| p + DVec3::new(1.0, 1.0, 0.0));
    ends(move || {
        let model = Model::from(mesh);
        let mut analysis = MeshAnalysis::of(&model);
        analysis.prepare(Needs::TriangleHierarchy, &());
        for _ in 0..30 {
            assert_eq!(nested(&analysis).len(), 27);
        }
    });
}

#[test]
fn several_checks_ask_for_the_caps_at_once() {
    let ball = Model::from(shapes::sphere(1.0, 5));
    let (open, _) = ball.without_faces(|face| face.index() % 4_001 == 0);
    ends(move || {
        for _ in 0..30 {
            let analysis = MeshAnalysis::of(&open);
            let count = || analysis.caps().map(Mesh::face_count);
            let both = || rayon::join(count, count);
            let (one, other) = rayon::join(both, both);
            assert_eq!(one, other);
            assert!(one.0.is_some_and(|caps| caps > 0));
        }
    });
}
