//! The demo's models, reduced: never further off than a textbook's edge collapse.

use hurmo_core::decimate::{DecimateOptions, decimate, textbook};
use hurmo_core::measure::{bounds, deviation};
use hurmo_core::mend::{self, mend};
use hurmo_core::triangulate::all_triangles;
use hurmo_core::{Mesh, Model};

#[test]
fn no_demo_model_lies_further_off_than_by_the_textbook() {
    for demo in hurmo::demo::models() {
        let mut options = mend::MendOptions::default();
        options.clear = mend::safe()
            .chain(["nonmanifold-edges"])
            .map(String::from)
            .collect();
        options.may_open = true;
        let mended = mend(&demo.model, &options, &()).expect("a weld of what is at one place");
        let (triangles, _) = all_triangles(&mended.model.mesh);
        let mesh = Mesh::from_triangles(mended.model.mesh.positions().to_vec(), &triangles);
        let mesh = mesh.expect("triangles of a mesh");
        let diagonal = bounds(&mesh).expect("faces").diagonal();
        let budgets = [24].map(|share| (mesh.face_count() / share).max(96));
        for (to, plain) in budgets.into_iter().zip(textbook(&mesh, &budgets)) {
            let mut options = DecimateOptions::default();
            options.to = Some(to);
            let own = decimate(&Model::from(mesh.clone()), &options, &())
                .unwrap()
                .model
                .mesh;
            let off = |low: &Mesh| deviation(&mesh, low, 20_000).expect("faces").rms;
            let (own, plain) = (off(&own), off(&plain));
            assert!(
                own <= 1.02 * plain + 1e-9 * diagonal,
                "{} to {to}: {own:e}, by the textbook {plain:e}",
                demo.file
            );
        }
    }
}
