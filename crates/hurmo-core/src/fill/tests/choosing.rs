//! Which rims there are, and which of them are chosen.

use super::*;

#[test]
fn kinds_of_rims_are_told_apart() {
    let sphere = shapes::sphere(1.0, 4);
    let kind = |model: &Model| rims_described(&model.mesh)[0].kind;
    let hole = without(&sphere, |f| sphere.face_middle(f).z > 0.95);
    assert_eq!(kind(&hole), Kind::Hole);
    let bust = without(&sphere, |f| sphere.face_middle(f).z < 0.0);
    assert_eq!(kind(&bust), Kind::OpenEnd);
    let sheet = Model::from(shapes::grid(6, 6, 1.0, 1.0));
    assert_eq!(kind(&sheet), Kind::Border);
    // A strip whose two halves lie against each other unwelded, all round.
    let mut patch = shapes::grid(1, 1, 1.0, 1.0);
    let corners: Vec<VertexId> = patch.face(FaceId(0)).to_vec();
    let again: Vec<VertexId> = corners
        .iter()
        .map(|&v| patch.push_vertex(patch.position(v)))
        .collect();
    patch.push_face(again.into_iter().rev());
    assert_eq!(kind(&Model::from(patch.clone())), Kind::Seam);
    let (outcome, _) = filled(&Model::from(patch));
    assert_eq!((outcome.filled.len(), outcome.left.len()), (0, 2));
}

#[test]
fn rims_are_chosen_by_part_place_size_and_plane() {
    let mut model = Model::default();
    for (at, cut) in [(0.0, 0.9), (10.0, 0.6)] {
        let mut sphere = shapes::sphere(1.0, 4);
        let gone = |f: FaceId, s: &Mesh| s.face_middle(f).z.abs() > cut;
        let open = without(&sphere, |f| gone(f, &sphere));
        sphere = open.mesh;
        sphere.positions_mut().iter_mut().for_each(|p| p.x += at);
        let both = [
            (String::new(), &model.clone()),
            (String::new(), &Model::from(sphere)),
        ];
        model = crate::parts::joined(&both).model;
    }
    let closed = |options: FillOptions| {
        let outcome = fill(&model, &options, &()).unwrap();
        outcome
            .filled
            .iter()
            .map(|f| f.rim.index())
            .collect::<Vec<_>>()
    };
    assert_eq!(closed(FillOptions::default()).len(), 4);
    let leave_longest = 2;
    assert_eq!(
        closed(FillOptions {
            leave_longest,
            ..FillOptions::default()
        }),
        [2, 3]
    );
    let near = FillOptions {
        nearest: Some(DVec3::new(0.0, 0.0, 5.0)),
        ..FillOptions::default()
    };
    let [nearest] = closed(near)[..] else {
        panic!()
    };
    let facts = rims_described(&model.mesh);
    assert!(facts[nearest].at.x.abs() < 1.0 && facts[nearest].at.z > 0.0);
    let part = facts[nearest].part.unwrap().index();
    let parts = vec![part..=part];
    assert_eq!(
        closed(FillOptions {
            parts,
            ..FillOptions::default()
        })
        .len(),
        2
    );
    // The plane through the middle of a sphere that is cut there.
    let half = shapes::sphere(1.0, 4);
    let half = without(&half, |f| half.face_middle(f).x < 0.0);
    let mut flat = half.mesh.clone();
    for point in flat.positions_mut() {
        point.x = if point.x < 0.08 { 0.0 } else { point.x };
    }
    let mirror = Some(Axis::X);
    let outcome = fill(
        &Model::from(flat),
        &FillOptions {
            mirror,
            ..FillOptions::default()
        },
        &(),
    )
    .unwrap();
    assert!(outcome.filled.is_empty());
    assert!(outcome.not_asked > 0);
}
