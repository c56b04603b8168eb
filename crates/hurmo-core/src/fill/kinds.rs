//! What kind of opening a rim is.
//!
//! Beside each edge of a rim lies a face, on one side of the edge or another as seen in the
//! plane across the opening. On average it lies opposite the opening (a hole in a skin), on the
//! opening's own side (the border of a sheet), or between (the end of a tube).

use super::border::Border;
use super::reasons::LeftBecause;
use crate::geometry::{Bounds, vector_area_of};
use crate::mesh::{EdgeId, Mesh, PartId, RimId, VertexId};
use crate::spatial::{TJunctions, exact_weld};
use crate::topology::{Edges, Parts, Rims};
use glam::DVec3;
use rustc_hash::FxHashMap;

/// What kind of opening a rim is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
pub enum Kind {
    /// The surface goes on all round it.
    Hole,
    /// The surface runs up to it and ends there.
    OpenEnd,
    /// The surface lies inside it.
    Border,
    /// Its edges lie on other open edges: a weld closes it.
    Seam,
    /// Its edges lie on others that are longer or shorter: a stitch closes it.
    UnevenSeam,
}

impl Kind {
    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Kind::Hole => "hole in a skin",
            Kind::OpenEnd => "open end",
            Kind::Border => "border of a sheet",
            Kind::Seam => "seam: a weld closes it",
            Kind::UnevenSeam => "uneven seam: mend stitches it",
        }
    }

    /// Why a rim of this kind needs no new faces, if it doesn't.
    pub fn needs_no_faces(self) -> Option<LeftBecause> {
        match self {
            Kind::Seam => Some(LeftBecause::Seam),
            Kind::UnevenSeam => Some(LeftBecause::UnevenSeam),
            Kind::Hole | Kind::OpenEnd | Kind::Border => None,
        }
    }
}

/// A rim, as a person would want it described.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct RimFacts {
    /// Its name.
    #[cfg_attr(feature = "schemars", schemars(with = "String"))]
    pub rim: RimId,
    /// The part that it is on.
    #[cfg_attr(feature = "schemars", schemars(with = "Option<String>"))]
    pub part: Option<PartId>,
    /// How many edges.
    pub edges: usize,
    /// How long they are together.
    pub length: f64,
    /// How far it strays from its plane, as a share of its width; 0 is flat.
    pub bend: f64,
    /// What kind of opening it is.
    pub kind: Kind,
    /// The middle.
    #[cfg_attr(feature = "schemars", schemars(with = "[f64; 3]"))]
    pub at: DVec3,
    /// The box round it.
    pub bounds: Bounds,
}

/// From this share of its edges on that lie on others, a rim is a seam.
const SEAM: f64 = 0.9;
/// How far the faces must lean to one side, as a mean cosine.
const LEANING: f64 = 0.5;

/// Describes all rims of a mesh, in the order of their names.
pub fn rims_described(mesh: &Mesh) -> Vec<RimFacts> {
    let edges = Edges::of(mesh);
    let rims = Rims::of(mesh, &edges);
    described(mesh, &edges, &rims, &Parts::of(mesh))
}

pub(super) fn described(mesh: &Mesh, edges: &Edges, rims: &Rims, parts: &Parts) -> Vec<RimFacts> {
    let seams = Seams::of(mesh, edges);
    let describe = |(name, rim): (usize, &crate::topology::Rim)| {
        let points: Vec<DVec3> = rim.vertices.iter().map(|&v| mesh.position(v)).collect();
        let bounds = Bounds::of(points.iter().copied()).unwrap_or(Bounds::NOTHING);
        RimFacts {
            rim: RimId::new(name),
            part: rim.vertices.first().and_then(|&v| parts.of_vertex(v)),
            edges: rim.edges.len(),
            length: rim.length,
            bend: bend(&points),
            kind: match seams.kind(&rim.edges) {
                Some(seam) => seam,
                None => kind(mesh, &Border::of(mesh, edges, rim)),
            },
            at: bounds.middle(),
            bounds,
        }
    };
    rims.closed.iter().enumerate().map(describe).collect()
}

/// Which open edges lie on others, once all that is at one place is one vertex.
struct Seams {
    /// What each is split into, and how many sides each piece then has.
    pieces: TJunctions,
    sides: FxHashMap<[VertexId; 2], u32>,
    /// How many unsplit edges have these ends.
    whole: FxHashMap<[VertexId; 2], u32>,
}

impl Seams {
    fn of(mesh: &Mesh, edges: &Edges) -> Self {
        let place = exact_weld(mesh.positions());
        let rounding = TJunctions::rounding(mesh);
        let pieces = TJunctions::of(mesh, edges, |vertex| place[vertex.index()], rounding);
        let open = edges.ids().filter(|&edge| edges.sides(edge).len() == 1);
        let open: Vec<EdgeId> = open.collect();
        let sides = pieces.sides_of_pieces(&open);
        let whole = open
            .into_iter()
            .filter(|edge| !pieces.on.contains_key(edge));
        let whole = pieces.sides_of_pieces(&whole.collect::<Vec<_>>());
        Self {
            pieces,
            sides,
            whole,
        }
    }

    /// The kind of a rim of these edges, if it is a seam.
    fn kind(&self, rim: &[EdgeId]) -> Option<Kind> {
        let (mut on_others, mut on_equals) = (0, 0);
        for &edge in rim {
            let lies_on = |sides: &FxHashMap<_, u32>| {
                let mut pieces = self.pieces.pieces(edge);
                pieces.all(|piece| sides.get(&piece).is_some_and(|&sides| sides > 1))
            };
            on_others += usize::from(lies_on(&self.sides));
            on_equals += usize::from(lies_on(&self.whole));
        }
        let enough = SEAM * rim.len() as f64;
        match (on_others as f64 >= enough, on_equals as f64 >= enough) {
            (_, true) => Some(Kind::Seam),
            (true, false) => Some(Kind::UnevenSeam),
            (false, false) => None,
        }
    }
}

/// How far points on a ring stray from its plane, as a share of its width.
pub(super) fn bend(points: &[DVec3]) -> f64 {
    let area = vector_area_of(points.iter().copied());
    let middle = points.iter().sum::<DVec3>() / points.len().max(1) as f64;
    let width = 2.0
        * points
            .iter()
            .map(|p| p.distance(middle))
            .fold(0.0, f64::max);
    let Some(normal) = area.try_normalize().filter(|_| width > 0.0) else {
        return if width > 0.0 { 1.0 } else { 0.0 };
    };
    let heights = points.iter().map(|p| (*p - middle).dot(normal));
    let (low, high) = heights.fold((0.0f64, 0.0f64), |(low, high), h| (low.min(h), high.max(h)));
    (high - low) / width
}

fn kind(mesh: &Mesh, border: &Border) -> Kind {
    let count = border.vertices.len();
    let points: Vec<DVec3> = border.vertices.iter().map(|&v| mesh.position(v)).collect();
    let normal = vector_area_of(points.iter().copied()).normalize_or_zero();
    let (mut leaning, mut length) = (0.0, 0.0);
    for (i, &face) in border.faces.iter().enumerate() {
        let (from, to) = (points[i], points[(i + 1) % count]);
        let along = to - from;
        let into_opening = normal.cross(along).normalize_or_zero();
        let into_face = mesh.face_middle(face) - (from + to) / 2.0;
        let into_face = into_face
            .reject_from(along.normalize_or_zero())
            .normalize_or_zero();
        leaning += into_face.dot(into_opening) * along.length();
        length += along.length();
    }
    match leaning / length.max(f64::MIN_POSITIVE) {
        lean if lean > LEANING => Kind::Border,
        lean if lean < -LEANING => Kind::Hole,
        _ => Kind::OpenEnd,
    }
}
