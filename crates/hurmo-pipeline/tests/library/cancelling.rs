//! A cancelled job ends with `Cancelled`, wherever it is, and writes nothing.

use hurmo_core::mesh::{FaceTags, Tag};
use hurmo_core::progress::{Cancelled, Observer};
use hurmo_core::scene::{Material, Scene};
use hurmo_core::{FaceId, Model, shapes};
use hurmo_formats::WriteOptions;
use hurmo_pipeline::plan::{Plan, Usual};
use hurmo_pipeline::{One, Output, TextureOptions, Watcher, Workspace, brief, prepare};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Says stop once this many stages have begun.
struct Impatient {
    stages: Arc<AtomicUsize>,
    patience: usize,
}

impl Observer for Impatient {
    fn begin(&self, _what: &str, _steps: u64) {
        self.stages.fetch_add(1, Ordering::SeqCst);
    }

    fn cancelled(&self) -> bool {
        self.stages.load(Ordering::SeqCst) > self.patience
    }
}

impl Watcher for Impatient {}

/// Prepares a torn, bumpy ball of brass; how many stages began.
fn prepared(folder: &Path, patience: usize) -> (anyhow::Result<()>, usize) {
    let input = folder.join("ball.obj");
    let mut mesh = shapes::sphere(1.0, 3);
    mesh.move_vertices(|v, place| place * (1.0 + 0.02 * (v.index() as f64).sin()))
        .unwrap();
    let (mut torn, _) = Model::from(mesh).without_faces(|face| face == FaceId::new(3));
    torn.attributes.tags = FaceTags {
        table: vec![Tag {
            material: Some("brass".into()),
            ..Tag::default()
        }],
        of_face: vec![0; torn.mesh.face_count()],
    };
    torn.attributes.scene = Some(Arc::new(Scene {
        materials: vec![Material::named("brass")],
        ..Scene::default()
    }));
    let mut options = WriteOptions::default();
    options.may_overwrite = true;
    hurmo_formats::write(&input, &torn, options).unwrap();
    let stages = Arc::new(AtomicUsize::new(0));
    let workspace = Workspace::new(Box::new(Impatient {
        stages: Arc::clone(&stages),
        patience,
    }));
    let output = Output {
        output: folder.join("out/done.obj"),
        force: true,
        ascii: false,
        textures: TextureOptions::default(),
    };
    let whole = brief::find_whole("print").unwrap();
    let plan = Plan {
        brief: whole.brief,
        steps: whole.steps,
        usual: Usual {
            to: Some("300".parse().unwrap()),
            ..Usual::default()
        },
        goes_on: Default::default(),
        textures: TextureOptions::default(),
    };
    let one = One {
        input: &input,
        output: Some(&output),
        unit: None,
        picture: None,
    };
    let done = prepare(&one, &plan, &workspace).map(|record| assert!(record.passes));
    (done, stages.load(Ordering::SeqCst))
}

fn files_in(folder: &Path) -> usize {
    std::fs::read_dir(folder).unwrap().count()
}

#[test]
fn a_job_that_is_stopped_anywhere_writes_nothing() {
    let folder = tempfile::tempdir().unwrap();
    let out = folder.path().join("out");
    std::fs::create_dir(&out).unwrap();
    let (done, stages) = prepared(folder.path(), usize::MAX);
    done.unwrap();
    assert!(stages > 10, "{stages} stages");
    assert_eq!(files_in(&out), 2, "its material goes with it");
    let mut stopped = 0;
    for patience in 0..stages {
        std::fs::remove_dir_all(&out).unwrap();
        std::fs::create_dir(&out).unwrap();
        let (done, began) = prepared(folder.path(), patience);
        let files = if done.is_ok() { 2 } else { 0 };
        assert_eq!(files_in(&out), files, "stage {patience} of {stages}");
        if let Err(error) = done {
            assert!(error.is::<Cancelled>(), "stage {patience}: {error:#}");
            assert!(began <= stages, "no more is begun than in the whole job");
            stopped += 1;
        }
    }
    assert!(stopped > 10, "{stopped}");
}
