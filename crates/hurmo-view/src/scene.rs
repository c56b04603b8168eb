//! What is drawn: triangles with their colours, and marks on faults.

use crate::color::{self, Color};
use crate::skins::Skin;
use glam::DVec3;
use hurmo_core::audit::{Elements, Finding, Place};
use hurmo_core::geometry::Bounds;
use hurmo_core::mesh::{FaceId, PartId, VertexId};
use hurmo_core::paint::Look;
use hurmo_core::topology::Parts;
use hurmo_core::triangulate::all_triangles;
use hurmo_core::{Mesh, Model};
use rayon::prelude::*;
use std::sync::Arc;

/// How a model is shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Show {
    /// Lit clay.
    Plain,
    /// Lit clay with the edges of its faces.
    Wire,
    /// Seen through, so that buried parts show.
    Through,
    /// Pale, with its faults marked.
    Faults,
    /// Each part in a colour of its own.
    Parts,
    /// Small faces dark blue, large ones dark orange.
    Density,
    /// Fronts pale, backs violet.
    Sides,
    /// As its materials look, and the colours of its vertices: see [`Scene::look`].
    Look,
    /// In the plane of its textures: see [`crate::uv_sheet`].
    Uv,
}

impl Show {
    /// All ways, by name.
    pub const NAMED: [(&'static str, Show); 9] = [
        ("plain", Show::Plain),
        ("wire", Show::Wire),
        ("through", Show::Through),
        ("faults", Show::Faults),
        ("parts", Show::Parts),
        ("density", Show::Density),
        ("sides", Show::Sides),
        ("look", Show::Look),
        ("uv", Show::Uv),
    ];
}

/// What is drawn.
#[derive(Clone)]
pub struct Scene<'m> {
    pub(crate) positions: &'m [DVec3],
    pub(crate) triangles: Vec<[VertexId; 3]>,
    /// By triangle: the face that it was cut from.
    from: Vec<FaceId>,
    /// By triangle: which of its sides are edges of the face, as bits.
    pub(crate) sides: Vec<u8>,
    /// By triangle, where triangles differ.
    pub(crate) colors: Option<Vec<Color>>,
    /// By triangle, where they look like their materials.
    pub(crate) skins: Option<Vec<Skin>>,
    pub(crate) show: Show,
    pub(crate) marks: Arc<Marks>,
    /// The box round all faces; nothing without any.
    pub bounds: Option<Bounds>,
}

/// Faults, in the colours of their checks.
#[derive(Clone, Default)]
pub struct Marks {
    /// Triangles, each with its rank: of marks in one place the higher lies on top.
    pub(crate) faces: Vec<(u32, Color, u32)>,
    pub(crate) lines: Vec<([DVec3; 2], Color)>,
    pub(crate) points: Vec<(DVec3, Color)>,
}

impl<'m> Scene<'m> {
    /// A mesh, shown in some way; faults are marked with [`Scene::mark`].
    pub fn of(mesh: &'m Mesh, show: Show) -> Self {
        let (triangles, from) = all_triangles(mesh);
        let colors = match show {
            Show::Parts => {
                let parts = Parts::of(mesh);
                let part = |face: &FaceId| parts.of_face(mesh, *face).map_or(0, PartId::index);
                Some(from.iter().map(|face| color::of_part(part(face))).collect())
            }
            Show::Density => Some(density(mesh, &from)),
            _ => None,
        };
        Self {
            positions: mesh.positions(),
            sides: real_sides(mesh, &triangles, &from),
            triangles,
            from,
            colors,
            skins: None,
            show,
            marks: Arc::default(),
            bounds: hurmo_core::measure::bounds(mesh),
        }
    }

    /// A model as it looks: with the textures or plain colours of its materials, by tag, and the
    /// colours of its vertices.
    pub fn look(model: &'m Model, looks: &[Option<Look>]) -> Self {
        let mut scene = Self::of(&model.mesh, Show::Look);
        let triangles = scene.triangles.iter().zip(&scene.from);
        let skin = |(&triangle, &face)| Skin::of(model, looks, face, triangle);
        scene.skins = Some(triangles.map(skin).collect());
        scene
    }

    /// A mesh with a colour for each face.
    pub fn colored(mesh: &'m Mesh, of_face: impl Fn(FaceId) -> Color) -> Self {
        let mut scene = Self::of(mesh, Show::Plain);
        scene.show = Show::Density;
        scene.colors = Some(scene.from.iter().map(|&face| of_face(face)).collect());
        scene
    }

    /// The box to be shown: round all faces, and marks that lie beside the model, unless those
    /// are so far away that it would shrink to nothing.
    pub(crate) fn shown(&self) -> Option<Bounds> {
        let own = self.bounds?;
        let points = self.marks.points.iter().map(|(at, _)| *at);
        let lines = self.marks.lines.iter().flat_map(|(ends, _)| *ends);
        let all = Bounds::of(points.chain(lines).chain([own.min, own.max]))?;
        Some(if all.diagonal() <= 1.6 * own.diagonal() {
            all
        } else {
            own
        })
    }

    /// Some points that lie as far out as any.
    pub(crate) fn outline(&self, shown: &Bounds) -> Vec<DVec3> {
        let step = (self.triangles.len() / 50_000).max(1);
        let corners = self.triangles.iter().step_by(step).flatten();
        let mut points: Vec<DVec3> = corners.map(|v| self.positions[v.index()]).collect();
        let marks = self.marks.points.iter().map(|(at, _)| *at);
        points.extend(marks.filter(|p| p.cmpge(shown.min).all() && p.cmple(shown.max).all()));
        points
    }

    /// The part of the scene in and round a box: what lies further off is left out, so that
    /// nothing far away stands in the view.
    pub(crate) fn near(&self, shown: &Bounds) -> Scene<'m> {
        let room = shown.size().max_element() / 2.0;
        let (low, high) = (shown.min - room, shown.max + room);
        let reaches = |points: &[DVec3]| {
            let bounds = Bounds::of(points.iter().copied());
            bounds.is_some_and(|b| b.max.cmpge(low).all() && b.min.cmple(high).all())
        };
        let corners = |t: u32| self.triangles[t as usize].map(|v| self.positions[v.index()]);
        let kept: Vec<u32> = (0..self.triangles.len() as u32)
            .into_par_iter()
            .with_min_len(4096)
            .filter(|&t| reaches(&corners(t)))
            .collect();
        let marks = &self.marks;
        // Both lists are in order of triangles.
        let place = |t: u32| kept.binary_search(&t).ok().map(|i| i as u32);
        let faces = marks.faces.iter();
        let lines = marks.lines.iter();
        let points = marks.points.iter();
        Scene {
            positions: self.positions,
            triangles: kept.iter().map(|&t| self.triangles[t as usize]).collect(),
            from: kept.iter().map(|&t| self.from[t as usize]).collect(),
            sides: kept.iter().map(|&t| self.sides[t as usize]).collect(),
            colors: self
                .colors
                .as_ref()
                .map(|colors| kept.iter().map(|&t| colors[t as usize]).collect()),
            skins: self
                .skins
                .as_ref()
                .map(|skins| kept.iter().map(|&t| skins[t as usize].clone()).collect()),
            show: self.show,
            marks: Arc::new(Marks {
                faces: faces
                    .filter_map(|&(t, color, rank)| Some((place(t)?, color, rank)))
                    .collect(),
                lines: lines.filter(|(ends, _)| reaches(ends)).copied().collect(),
                points: points.filter(|(at, _)| reaches(&[*at])).copied().collect(),
            }),
            bounds: self.bounds,
        }
    }

    /// The twelve edges of a box.
    pub fn box_lines(bounds: &Bounds) -> impl Iterator<Item = [DVec3; 2]> + use<> {
        let [low, high] = [bounds.min, bounds.max];
        let corner = move |i: usize| {
            let pick = |axis: usize| {
                if i >> axis & 1 == 0 {
                    low[axis]
                } else {
                    high[axis]
                }
            };
            DVec3::new(pick(0), pick(1), pick(2))
        };
        (0..8).flat_map(move |i| {
            (0..3)
                .filter(move |axis| i >> axis & 1 == 0)
                .map(move |axis| [corner(i), corner(i | 1 << axis)])
        })
    }

    /// Draws lines over it, paler where they are hidden.
    pub fn draw_lines(&mut self, lines: impl Iterator<Item = [DVec3; 2]>, color: Color) {
        let marks = Arc::make_mut(&mut self.marks);
        marks.lines.extend(lines.map(|line| (line, color)));
    }

    /// Draws points over it, paler where they are hidden.
    pub fn draw_points(&mut self, points: impl Iterator<Item = DVec3>, color: Color) {
        let marks = Arc::make_mut(&mut self.marks);
        marks.points.extend(points.map(|at| (at, color)));
    }

    /// The same, with the edges of its faces.
    pub fn with_edges(&self) -> Self {
        Self {
            show: Show::Wire,
            ..self.clone()
        }
    }

    /// The same with other marks.
    pub(crate) fn with_marks(&self, marks: Marks) -> Self {
        Self {
            marks: Arc::new(marks),
            ..self.clone()
        }
    }

    /// Marks all places of some findings; see [`Scene::marks`].
    pub fn mark<'f>(&mut self, mesh: &Mesh, findings: impl Iterator<Item = &'f Finding>) {
        self.marks = Arc::new(self.marks(mesh, findings));
    }

    /// All places of some findings; those named later lie over those named before.
    pub fn marks<'f>(&self, mesh: &Mesh, findings: impl Iterator<Item = &'f Finding>) -> Marks {
        let mut marks = Marks::default();
        let mut of_face: Vec<Option<(Color, u32)>> = vec![None; mesh.face_count()];
        for (rank, finding) in findings.enumerate() {
            let mark = (color::of_check(finding.check), rank as u32);
            for place in &finding.found.places {
                marks.mark_place(mesh, place, mark, &mut of_face);
            }
        }
        for (triangle, face) in self.from.iter().enumerate() {
            if let Some((color, rank)) = of_face[face.index()] {
                marks.faces.push((triangle as u32, color, rank));
            }
        }
        marks
    }
}

impl Marks {
    fn mark_place(
        &mut self,
        mesh: &Mesh,
        place: &Place,
        (color, rank): (Color, u32),
        of_face: &mut [Option<(Color, u32)>],
    ) {
        let at = |v: VertexId| mesh.position(v);
        match &place.elements {
            Elements::Faces(faces) => {
                for face in faces {
                    of_face[face.index()] = Some((color, rank));
                    if mesh.is_collapsed(*face) {
                        self.points.push((mesh.face_middle(*face), color));
                    }
                }
            }
            Elements::Edges(edges) => {
                let lines = edges.iter().map(|edge| (edge.map(at), color));
                self.lines.extend(lines);
            }
            Elements::Vertices(vertices) => {
                self.points.extend(vertices.iter().map(|&v| (at(v), color)));
            }
            // Where two parts meet is marked by their faces; one by itself by its box.
            Elements::Parts(parts) if parts.len() == 1 => {
                self.lines
                    .extend(Scene::box_lines(&place.bounds).map(|line| (line, color)));
            }
            Elements::Parts(_) | Elements::Named(_) | Elements::Model => {}
        }
    }
}

/// By triangle: bit `i` says that the side from corner `i` is an edge of the face.
fn real_sides(mesh: &Mesh, triangles: &[[VertexId; 3]], from: &[FaceId]) -> Vec<u8> {
    let is_edge = |face: FaceId, a: VertexId, b: VertexId| {
        let corners = mesh.face(face);
        corners.len() == 3
            || (0..corners.len()).any(|i| {
                let next = corners[(i + 1) % corners.len()];
                (corners[i], next) == (a, b) || (next, corners[i]) == (a, b)
            })
    };
    let sides = triangles.iter().zip(from).map(|(t, &face)| {
        (0..3)
            .map(|i| u8::from(is_edge(face, t[i], t[(i + 1) % 3])) << i)
            .sum()
    });
    sides.collect()
}

fn density(mesh: &Mesh, from: &[FaceId]) -> Vec<Color> {
    let area = |face: &FaceId| {
        hurmo_core::measure::vector_area(mesh, *face)
            .length()
            .max(f64::MIN_POSITIVE)
            .log2()
    };
    let areas: Vec<f64> = from.iter().map(area).collect();
    let mut sorted = areas.clone();
    let middle = sorted.len() / 2;
    let median = match sorted.is_empty() {
        true => 0.0,
        false => *sorted.select_nth_unstable_by(middle, f64::total_cmp).1,
    };
    // Five doublings either way are the end of the scale.
    areas
        .iter()
        .map(|area| color::of_density(((area - median) / 5.0) as f32))
        .collect()
}
