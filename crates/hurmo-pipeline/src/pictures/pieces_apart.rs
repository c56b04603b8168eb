//! Pieces of a cut, moved apart.

use crate::text::{count, counted, measure};
use glam::DVec3;
use hurmo_core::Mesh;
use hurmo_core::cut::Piece;
use hurmo_core::measure::bounds;
use hurmo_core::units::Axis;
use hurmo_view::{Legend, LegendLine, Picture, Scene, color};

/// How far pieces go apart, as a share of the way from the middle of all to their own.
const APART: f64 = 0.35;

/// How much darker caps are.
const CAP: f32 = 0.35;

/// Draws pieces, each in a colour of its own, its caps darker, moved away from the middle of all.
/// Nothing where there are none.
pub fn pieces_apart(title: &str, pieces: &[(&str, &Piece)], up: Axis) -> Option<Picture> {
    let middle = |piece: &Piece| bounds(&piece.model.mesh).map(|bounds| bounds.middle());
    let all = pieces
        .iter()
        .filter_map(|(_, piece)| bounds(&piece.model.mesh));
    let all = all.reduce(|mut all, own| {
        all.take_in(own.min);
        all.take_in(own.max);
        all
    })?;
    let mut mesh = Mesh::default();
    let mut colors = Vec::new();
    let mut lines = vec![LegendLine {
        color: None,
        set_in: false,
        words: counted(pieces.len(), "piece"),
        bold: false,
    }];
    for (i, (name, piece)) in pieces.iter().enumerate() {
        let way = middle(piece).map_or(DVec3::ZERO, |own| (own - all.middle()) * APART);
        let mut own = piece.model.mesh.clone();
        own.move_vertices(|_, p| p + way).ok()?;
        mesh.append(&own);
        let plain = color::of_part(i);
        let cap = color::mixed(plain, [0.0; 3], CAP);
        colors.extend(
            piece
                .is_cap
                .iter()
                .map(|&is_cap| if is_cap { cap } else { plain }),
        );
        let volume = match piece.volume {
            Some(volume) => format!(", {} cubic units", measure(volume)),
            None => String::new(),
        };
        lines.push(LegendLine {
            color: Some(plain),
            set_in: true,
            words: format!(
                "{name}: {} faces{volume}",
                count(piece.model.mesh.face_count())
            ),
            bold: false,
        });
    }
    let legend = Legend {
        title: title.to_string(),
        lines,
    };
    let scene = Scene::colored(&mesh, |face| colors[face.index()]);
    Some(hurmo_view::overview(&scene, up, &legend, [1280, 800]))
}
