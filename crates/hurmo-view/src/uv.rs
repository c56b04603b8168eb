//! The layout of a model in its textures: a tile for each material, islands in pale colours, faults in
//! those of their checks.
//!
//! ```text
//! UVs ─▶ faces in the plane, those at fault on top ─▶ one panel a material, with the tile's frame
//! ```

use crate::camera::{Projection, View};
use crate::color::{self, Color, FAINT_INK, mixed};
use crate::picture::{Frame, Picture};
use crate::scene::{Marks, Scene, Show};
use crate::sheet::{Legend, draw_legend};
use crate::text::Type;
use glam::{DVec2, DVec3};
use hurmo_core::audit::{Elements, Finding};
use hurmo_core::geometry::Bounds;
use hurmo_core::topology::Edges;
use hurmo_core::uv::{Islands, Layout};
use hurmo_core::{FaceId, Mesh, Model, VertexId};
use std::collections::{BTreeMap, HashSet};
use std::sync::Arc;

/// This many materials have a panel; of more, those with most faces.
const PANELS: usize = 9;
/// Of more faces in a panel, their edges would be all that is seen.
const WIRED: usize = 30_000;
/// How far beyond the tile is shown, in tiles.
const BEYOND: f64 = 2.0;
/// How much of an island's colour its faces have.
const PALE: f32 = 0.35;

/// What is wrong with the faces of a model, and with its edges.
struct Faults {
    /// By face, with its rank.
    of_face: Vec<Option<(Color, usize)>>,
    edges: Vec<(HashSet<[VertexId; 2]>, Color)>,
    /// Faces that have no area to be seen by.
    lines: Vec<(FaceId, Color)>,
}

impl Faults {
    fn of(model: &Model, layout: &Layout<'_>, findings: &[&Finding]) -> Self {
        let mut faults = Self {
            of_face: vec![None; model.mesh.face_count()],
            edges: Vec::new(),
            lines: Vec::new(),
        };
        for (rank, finding) in findings.iter().enumerate() {
            let color = color::of_check(finding.check);
            for place in &finding.found.places {
                match &place.elements {
                    Elements::Faces(faces) => {
                        for &face in faces {
                            faults.of_face[face.index()] = Some((color, rank));
                            if layout.area(face).is_some_and(|area| area.abs() < 1e-9) {
                                faults.lines.push((face, color));
                            }
                        }
                    }
                    Elements::Edges(edges) => {
                        let both = edges.iter().flat_map(|&[a, b]| [[a, b], [b, a]]);
                        faults.edges.push((both.collect(), color));
                    }
                    _ => {}
                }
            }
        }
        faults
    }
}

/// A sheet of the layout by one of a model's sets of UVs, from 0, with a legend; the findings are those to be marked, the mildest first. None
/// without UVs.
pub fn uv_sheet(
    model: &Model,
    set: usize,
    findings: &[&Finding],
    legend: &Legend,
    [width, height]: [u32; 2],
) -> Option<Picture> {
    let layout = Layout::of_set(model, set).filter(|layout| !layout.is_empty())?;
    let islands = Islands::of(&layout, &Edges::of(&model.mesh));
    let faults = Faults::of(model, &layout, findings);
    let mut picture = Picture::new(width, height);
    let panels = panels(model, &layout);
    let count = panels.len().min(PANELS) as u32;
    let across = (1..=count).find(|n| n * n >= count).unwrap_or(1);
    let down = count.div_ceil(across);
    let large = width * 66 / 100;
    for (i, (name, faces)) in panels.iter().take(PANELS).enumerate() {
        let (column, row) = (i as u32 % across, i as u32 / across);
        let frame = Frame {
            left: large * column / across,
            top: height * row / down,
            width: large / across,
            height: height / down,
        };
        let panel = Panel::of((model, &layout), faces, &islands, &faults);
        panel.draw(&mut picture, frame);
        let words = match panels.len() {
            1 => name.clone(),
            _ => format!("{name}: {} faces", faces.len()),
        };
        picture.words(
            &words,
            Type::Plain,
            FAINT_INK,
            [frame.left + 8, frame.top + 6],
        );
    }
    let frame = Frame {
        left: large + 8,
        top: 8,
        width: width - large - 16,
        height: height - 16,
    };
    draw_legend(&mut picture, legend, frame);
    Some(picture)
}

/// The faces with UVs by material, the materials with most first.
fn panels(model: &Model, layout: &Layout<'_>) -> Vec<(String, Vec<FaceId>)> {
    let tags = &model.attributes.tags;
    let mut of_material: BTreeMap<&str, Vec<FaceId>> = BTreeMap::new();
    for face in model
        .mesh
        .face_ids()
        .filter(|&face| layout.area(face).is_some())
    {
        let material = tags.of(face).and_then(|tag| tag.material.as_deref());
        of_material
            .entry(material.unwrap_or("no material"))
            .or_default()
            .push(face);
    }
    let panels = of_material
        .into_iter()
        .map(|(name, faces)| (name.to_string(), faces));
    let mut panels: Vec<(String, Vec<FaceId>)> = panels.collect();
    panels.sort_by_key(|(_, faces)| std::cmp::Reverse(faces.len()));
    panels
}

/// Faces in the plane.
struct Panel {
    mesh: Mesh,
    colors: Vec<Color>,
    marks: Marks,
}

impl Panel {
    fn of(
        (model, layout): (&Model, &Layout<'_>),
        faces: &[FaceId],
        islands: &Islands,
        faults: &Faults,
    ) -> Self {
        let layer = layout.layer;
        let mut panel = Self {
            mesh: Mesh::default(),
            colors: Vec::with_capacity(faces.len()),
            marks: Marks::default(),
        };
        for &face in faces {
            let fault = faults.of_face[face.index()];
            // Faults lie on top, the worst last.
            let lift = fault.map_or(0.0, |(_, rank)| 1e-5 * (rank + 1) as f64);
            let corners: Vec<DVec3> = (model.mesh.face_range(face))
                .filter_map(|corner| layer.at(corner))
                .map(|at| at.extend(lift))
                .collect();
            let vertices: Vec<VertexId> = corners
                .iter()
                .map(|&at| panel.mesh.push_vertex(at))
                .collect();
            panel.mesh.push_face(vertices);
            let island = islands.of_face[face.index()].unwrap_or(0) as usize;
            let pale = mixed(color::CLAY, color::of_part(island), PALE);
            panel.colors.push(fault.map_or(pale, |(color, _)| color));
            let vertices = model.mesh.face(face);
            for i in 0..vertices.len() {
                let next = (i + 1) % vertices.len();
                let line = [corners[i], corners[next]];
                let edge = [vertices[i], vertices[next]];
                let at_fault = faults
                    .edges
                    .iter()
                    .filter(|(edges, _)| edges.contains(&edge));
                panel
                    .marks
                    .lines
                    .extend(at_fault.map(|(_, color)| (line, *color)));
                let is_line = faults.lines.iter().find(|(line, _)| *line == face);
                panel
                    .marks
                    .lines
                    .extend(is_line.map(|(_, color)| (line, *color)));
            }
        }
        panel
            .marks
            .lines
            .extend(tile().map(|line| (line, FAINT_INK)));
        panel
    }

    fn draw(&self, picture: &mut Picture, frame: Frame) {
        let mut scene = Scene::colored(&self.mesh, |face| self.colors[face.index()]);
        if self.mesh.face_count() <= WIRED {
            scene.show = Show::Wire;
        }
        scene.marks = Arc::new(self.marks.clone());
        let (low, high) = (DVec2::splat(-BEYOND), DVec2::splat(1.0 + BEYOND));
        let points = self.mesh.positions().iter();
        let points = points.map(|at| at.truncate().clamp(low, high).extend(0.0));
        let shown = Bounds::of(points.chain([DVec3::ZERO, DVec3::ONE.with_z(0.0)]));
        if let Some(shown) = shown {
            let top = View::new(0.0, 90.0);
            let projection = Projection::fitting(top, &shown, frame.samples(), 0.06);
            picture.draw(&scene, &projection, frame);
        }
    }
}

/// The sides of the tile.
fn tile() -> impl Iterator<Item = [DVec3; 2]> {
    let corners = [DVec3::ZERO, DVec3::X, DVec3::new(1.0, 1.0, 0.0), DVec3::Y];
    (0..4).map(move |i| [corners[i], corners[(i + 1) % 4]])
}

#[cfg(test)]
mod tests {
    use super::*;
    use hurmo_core::audit::{AuditOptions, audit};
    use hurmo_core::mesh::CornerLayer;
    use hurmo_core::shapes;

    #[test]
    fn a_layout_is_drawn_where_it_lies_and_its_faults_over_it() {
        // A sheet over the lower half of the tile, of which a face lies on others.
        let mut model = Model::from(shapes::grid(4, 4, 1.0, 0.5));
        let mesh = &model.mesh;
        let mut values: Vec<DVec2> = mesh
            .corners()
            .iter()
            .map(|&v| mesh.position(v).truncate())
            .collect();
        for corner in mesh.face_range(FaceId(0)) {
            values[corner].x += 0.125;
        }
        model.attributes.uvs = Some(CornerLayer {
            index: (0..values.len() as u32).collect(),
            values,
        });
        let mut options = AuditOptions::default();
        options.places = usize::MAX;
        let found = audit(&model, &options, &()).unwrap();
        let finding = found
            .findings
            .iter()
            .find(|f| f.check == "overlapping-uvs")
            .unwrap();
        assert_eq!(finding.count(), 2);
        let draw = |findings: &[&Finding]| {
            uv_sheet(&model, 0, findings, &Legend::default(), [600, 396]).unwrap()
        };
        // 396 across: the tile's frame is 12 hundredths smaller.
        let pixel = |picture: &Picture, u: f64, v: f64| {
            let at = |share: f64| 396.0 * (0.06 + 0.88 * share);
            picture.pixel(at(u) as u32, 396 - at(v) as u32)
        };
        let near = |a: Color, b: Color| (0..3).all(|i| (a[i] - b[i]).abs() < 0.12);
        let (plain, marked) = (draw(&[]), draw(&[finding]));
        let paper = color::PAPER;
        assert!(near(pixel(&plain, 0.6, 0.75), paper), "nothing is up there");
        assert!(!near(pixel(&plain, 0.62, 0.19), paper));
        let fault = color::of_check("overlapping-uvs");
        let shown = pixel(&marked, 0.3, 0.06);
        assert!(near(shown, fault) || shown[0] > 1.5 * shown[1], "{shown:?}");
        assert_eq!(pixel(&plain, 0.9, 0.45), pixel(&marked, 0.9, 0.45));
        assert!(
            uv_sheet(
                &Model::from(shapes::sphere(1.0, 1)),
                0,
                &[],
                &Legend::default(),
                [64, 64]
            )
            .is_none()
        );
    }
}
