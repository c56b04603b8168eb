//! Laws that booleans keep: of sets, and of volumes that add up.

use super::*;

/// What a rule fills of any number of meshes.
fn filled(meshes: &[&Mesh], inside: &(dyn Fn(&Windings) -> bool + Sync)) -> BooleanOutcome {
    let mut mesh = Mesh::default();
    let mut of_face = Vec::new();
    for (solid, other) in meshes.iter().enumerate() {
        mesh.append(other);
        of_face.resize(mesh.face_count(), solid);
    }
    let model = Model::from(mesh);
    let solids = Solids {
        count: meshes.len(),
        of: &|face| Some(of_face[face.index()]),
        group: Solids::ONE_GROUP,
        may_meet: MayMeet::Any,
        inside,
        filled: Some(Filled::Positive),
        sheet: None,
        rounding: Rounding::of(&model.mesh, false),
        join_within: 0.0,
    };
    resolve(&model, &solids, &()).unwrap()
}

proptest! {
    #![proptest_config(cases(12))]

    /// A and (B or C) is (A and B) or (A and C); and what is in neither A nor B, within a box round both,
    /// is the box without A and without B.
    #[test]
    fn booleans_are_an_algebra(
        turns in prop::array::uniform2(turn()),
        by in prop::array::uniform2(prop::array::uniform3(-0.8..0.8f64)),
    ) {
        let a = shapes::sphere(1.0, 4);
        let b = moved(&shapes::cuboid(-DVec3::ONE, DVec3::ONE, 2), |p| turns[0] * p * 0.7 + DVec3::from_array(by[0]));
        let c = moved(&shapes::torus(0.8, 0.3, 16, 8), |p| turns[1] * p + DVec3::from_array(by[1]));
        let round = shapes::cuboid(DVec3::splat(-9.0), DVec3::splat(9.0), 1);
        let volume_of = |meshes: &[&Mesh], rule: &(dyn Fn(&Windings) -> bool + Sync)| {
            let made = filled(meshes, rule);
            (volume(&made.model.mesh), made.model.mesh)
        };
        let (at_once, _) = volume_of(&[&a, &b, &c], &|w| w[0] > 0 && (w[1] > 0 || w[2] > 0));
        let (_, either) = volume_of(&[&b, &c], &|w| w[0] > 0 || w[1] > 0);
        let (in_turn, _) = volume_of(&[&a, &either], &|w| w[0] > 0 && w[1] > 0);
        prop_assert!((at_once - in_turn).abs() < 1e-9, "{at_once} for {in_turn}");
        let (_, in_both) = volume_of(&[&a, &b], &|w| w[0] > 0 || w[1] > 0);
        let (neither, _) = volume_of(&[&round, &in_both], &|w| w[0] > 0 && w[1] <= 0);
        let (_, not_a) = volume_of(&[&round, &a], &|w| w[0] > 0 && w[1] <= 0);
        let (_, not_b) = volume_of(&[&round, &b], &|w| w[0] > 0 && w[1] <= 0);
        let (both_not, _) = volume_of(&[&not_a, &not_b], &|w| w[0] > 0 && w[1] > 0);
        prop_assert!((neither - both_not).abs() < 1e-9 * neither, "{neither} for {both_not}");
    }

    /// Cells are all that is filled, and what each solid fills is its cells'.
    #[test]
    fn cells_add_up(turns in prop::array::uniform2(turn()), by in prop::array::uniform2(prop::array::uniform3(-1.0..1.0f64))) {
        let a = shapes::sphere(1.0, 4);
        let other = |i: usize| moved(&shapes::cuboid(-DVec3::ONE, DVec3::ONE, 2), |p| turns[i] * p * 0.8 + DVec3::from_array(by[i]));
        let meshes = [&a, &other(0), &other(1)];
        let union = filled(&meshes, &|w| w.iter().any(|(_, times)| times > 0));
        let relations = union.relations.unwrap();
        for (solid, mesh) in meshes.iter().enumerate() {
            prop_assert!((relations.volume(solid) - volume(mesh)).abs() < 1e-9);
        }
        let all = relations.volume_where(|_| true);
        prop_assert!((all - volume(&union.model.mesh)).abs() < 1e-9);
        for cell in &relations.cells {
            let of = &cell.of;
            let rule = |w: &Windings| (0..3).all(|i| (w[i] > 0) == of.contains(&i));
            let made = filled(&meshes, &rule);
            prop_assert!((volume(&made.model.mesh) - cell.volume).abs() < 1e-9);
        }
    }

    /// Pieces are closed, lie on their side, and fill what the whole does: also where a plane goes through
    /// vertices, along edges, in faces.
    #[test]
    fn cuts_are_closed_and_add_up(
        torus in any::<bool>(),
        whole in any::<bool>(),
        normal in prop::array::uniform3(-2i32..3),
        through in prop::array::uniform3(-4i32..5),
        jitter in prop::array::uniform3(-0.3..0.3f64),
    ) {
        let mesh = match torus {
            true => shapes::torus(3.0, 1.0, 24, 12),
            false => shapes::cuboid(DVec3::splat(-2.0), DVec3::splat(2.0), 4),
        };
        let wanted = DVec3::from_array(normal.map(f64::from));
        let jitter = if whole { DVec3::ZERO } else { DVec3::from_array(jitter) };
        let Some(normal) = (wanted + jitter).try_normalize() else {
            return Ok(());
        };
        let at = normal.dot(DVec3::from_array(through.map(|x| f64::from(x) / 2.0)) + jitter);
        let made = cut(&Model::from(mesh.clone()), &[vec![Plane { normal, at }]], &Default::default(), &()).unwrap();
        let all: f64 = made.pieces.iter().map(|piece| piece.volume.unwrap()).sum();
        let joined: usize = made.pieces.iter().map(|piece| piece.joined).sum();
        // Planes through vertices make no needles, whatever the last bit is.
        prop_assert!(joined == 0 || !whole || torus, "{joined} vertices were joined");
        // What is joined lies within this.
        let within = 1e-5 * bounds(&mesh).unwrap().diagonal();
        let most = if joined > 0 { within * area(&mesh) } else { 1e-7 * all };
        prop_assert!((all - volume(&mesh)).abs() < most, "{all}");
        for piece in &made.pieces {
            prop_assert_eq!(faults(&piece.model), (0, 0));
            let side = if piece.place == [0] { -1.0 } else { 1.0 };
            for p in piece.model.mesh.positions() {
                // Of a model in single precision, the plane is rounded to that.
                prop_assert!(side * (normal.dot(*p) - at) > -2e-6, "{p}");
            }
        }
    }
}

/// A plane within rounding of vertices, so that cuts make needles: no piece crosses itself.
#[test]
fn a_plane_beside_vertices_by_less_than_rounding() {
    let mesh = shapes::torus(3.0, 1.0, 24, 12);
    let plane = Plane {
        normal: DVec3::Y,
        at: -1.5,
    };
    let made = cut(&Model::from(mesh), &[vec![plane]], &Default::default(), &()).unwrap();
    for piece in &made.pieces {
        assert_eq!(faults(&piece.model), (0, 0));
    }
}
