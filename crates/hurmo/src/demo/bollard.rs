//! The mooring bollard: modelled, with n-gons, doubled faces and faces the wrong way round.

use super::draft::Draft;
use super::{DemoModel, planted};
use glam::{DMat4, DVec2};
use hurmo_core::shapes;

const AROUND: usize = 40;
const DOUBLED: usize = 12;
const TURNED: usize = 30;

pub(super) fn make() -> DemoModel {
    let profile: Vec<DVec2> = [
        (0.42, 0.0),
        (0.42, 0.06),
        (0.3, 0.1),
        (0.24, 0.2),
        (0.22, 0.4),
        (0.22, 0.6),
        (0.26, 0.72),
        (0.36, 0.78),
        (0.38, 0.86),
        (0.3, 0.93),
    ]
    .map(|(r, z)| DVec2::new(r, z))
    .to_vec();
    let mut draft = Draft::default();
    let faces = draft.add(
        &shapes::lathe(&profile, AROUND, true),
        DMat4::IDENTITY,
        "bollard",
        "cast iron",
    );
    let bands = profile.len() - 1;
    assert_eq!(faces.len(), AROUND * bands + 2);
    // Far enough apart that no two of them touch: doubled faces in band 2, turned ones in
    // bands 4 and 6, each with whole bands between.
    draft.double((0..DOUBLED).map(|i| 2 * AROUND + 3 * i));
    let half = TURNED / 2;
    draft.turn((0..half).map(|i| 4 * AROUND + 2 * i));
    draft.turn((0..TURNED - half).map(|i| 6 * AROUND + 2 * i));
    DemoModel {
        file: "bollard.obj",
        what: "a mooring bollard: n-gon caps, doubled faces, faces the wrong way round",
        model: draft.finish(),
        planted: vec![
            planted("nonmanifold-edges", DOUBLED * 4),
            planted("misoriented-edges", TURNED * 4),
            planted("reversed-faces", TURNED),
            planted("lamina-faces", DOUBLED),
            planted("ngons", 2),
            // A doubled face lies on its copy.
            planted("intersecting-faces", 2 * DOUBLED),
            planted("uneven-density", 2 * AROUND),
        ],
        along: &[],
        rims: 0,
        brief: "sculpt",
        prepared: "bollard-sculpt.obj",
        packed: None,
        arguments: &["--remesh", "2%"],
    }
}
