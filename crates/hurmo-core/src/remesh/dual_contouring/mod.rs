//! A new skin: one closed, manifold, outward surface round what a model fills, whatever its faces
//! are like.
//!
//! ```text
//! triangles ─▶ cells of a grid that they reach into ─▶ which corners are inside (winding number)
//!     ─▶ points where edges of the grid are crossed, with the way that the surface faces there
//!     ─▶ cells where an opening is closed, from neighbour to neighbour
//!     ─▶ a vertex for each loop through a cell, on the planes of its points ─▶ triangles
//! ```
//!
//! Inside is what the model winds round more than half a time (Jacobson, Kavan & Sorkine-Hornung
//! 2013; by tree, Barill et al. 2018): crossing parts become one, holes are closed by the smooth
//! surface on which the number passes the half. Vertices are placed by dual contouring (Ju,
//! Losasso, Schaefer & Warren 2002) inside loops as of marching cubes (Lorensen & Cline 1987), one
//! for each loop (Schaefer, Ju & Warren 2007), so that sharp edges and corners come out; see
//! `surface_extraction` for why the skin is manifold and crosses nowhere.
//! Cost: a few microseconds for each cell at the surface, and with audits of the result up to 730
//! bytes (3.6 GB were measured where 5 million cells were reckoned with).
//!
//! ```
//! use hurmo_core::audit::{AuditOptions, SortedAnalysis, audit};
//! use hurmo_core::remesh::dual_contouring::{ReskinOptions, reskin};
//! use hurmo_core::{FaceId, Model, shapes};
//!
//! // A sphere with a hole is closed by its skin.
//! let ball = Model::from(shapes::sphere(1.0, 3));
//! let (torn, _) = ball.without_faces(|face| face == FaceId::new(0));
//! let analysis = SortedAnalysis::of(&torn, &());
//! let skin = reskin(&analysis, &ReskinOptions::of(0.1), &())?;
//! assert!(audit(&skin.model, &AuditOptions::default(), &())?.mesh.watertight);
//! # Ok::<(), hurmo_core::RemeshError>(())
//! ```

mod added;
mod blocks;
mod case_table;
mod crossed_cells;
mod crossing;
mod edge_vertices;
mod encloses;
mod evening;
mod grid;
mod inside_test;
mod near;
mod openings;
mod outside_cells;
mod pieces;
mod relaxation;
mod search;
mod sharp;
mod sharp_recovery;
mod surface_extraction;
mod thickness_probes;
mod triangle_bins;
mod vertex_placement;
mod walls_and_gaps;
mod within;

pub use encloses::encloses_anything;
pub use pieces::Void;
pub use walls_and_gaps::Changed;
pub use within::{Within, reskin_within};

use super::RemeshError;
use crate::attribute_transfer::Carried;
use crate::audit::{MeshAnalysis, SortedAnalysis};
use crate::geometry::Bounds;
use crate::mesh::{Mesh, Model, PartId};
use crate::progress::Observer;
use crate::spatial::{Capped, TriangleHierarchy, Winding};
use added::Added;
use crossed_cells::Crossed;
use crossing::Crossing;
use glam::DVec3;
use grid::{EdgeKey, Grid, cells_round};
use inside_test::{INSIDE, InsideTest, turned};
use pieces::Clean;
use search::SurfaceSearch;
use surface_extraction::{Extracted, extract_surface};
use triangle_bins::Reach;

/// Cells that an area takes, for each that would cover it flat.
const CELLS_FOR_AREA: f64 = 2.5;
/// And triangles.
const TRIANGLES_FOR_AREA: f64 = 6.0;
/// Bytes that a cell at the surface takes, and a triangle of the model, at the most.
const MEMORY_FOR_CELL: f64 = 800.0;
const MEMORY_FOR_TRIANGLE: f64 = 600.0;
/// The most thin places that are reported.
const REPORTED: usize = 1000;
/// Walls and gaps are looked at from places so far apart, in cells.
const SPACING: f64 = 0.5;

/// How to make a new skin.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct ReskinOptions {
    /// The length of a cell's edges, in model units.
    pub cell: f64,
    /// Whether sharp edges are rounded off.
    pub rounded: bool,
    /// Whether triangles are made even along the skin.
    pub even: bool,
    /// A skin at this distance round all faces, whichever way they look, instead of round what the
    /// model fills.
    pub offset: Option<f64>,
    /// Gaps up to this width, between faces that look at each other, are filled.
    pub close_gaps: Option<f64>,
    /// Walls are made at least so thick.
    pub min_thickness: Option<f64>,
    /// Whether rooms without a way out are filled; around all faces they always are.
    pub fill_voids: bool,
    /// The most memory that the run may take, in bytes.
    pub memory: f64,
}

impl ReskinOptions {
    /// Cells of this length, in 8 GB at most, and nothing else.
    pub fn of(cell: f64) -> Self {
        Self {
            cell,
            rounded: false,
            even: true,
            offset: None,
            close_gaps: None,
            min_thickness: None,
            fill_voids: false,
            memory: 8e9,
        }
    }
}

/// A new skin.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct ReskinOutcome {
    /// The skin, all triangles.
    pub model: Model,
    /// How many faces the model had.
    pub before: usize,
    /// Places at which a wall or a gap was thinner than a cell and is lost; of very many, some.
    pub thin: Vec<DVec3>,
    /// How many such places there are.
    pub thin_count: usize,
    /// Walls that were made thicker.
    pub thickened: Option<Changed>,
    /// Gaps that were closed.
    pub bridged: Option<Changed>,
    /// Rooms that the skin encloses, or that were filled, the largest first.
    pub voids: Vec<Void>,
    /// Parts of the model that end up inside the skin of others.
    pub buried: Vec<PartId>,
    /// Parts that have no skin: smaller than a cell, or sheets that close in nothing.
    pub lost: Vec<PartId>,
    /// How many small components were left out: pieces of skin thinner than half a cell that reach over a few
    /// cells only, as open sheets and thin walls leave them.
    pub small_components: usize,
    /// How many points of the skin lie on edges of the grid.
    pub points: usize,
    /// How many of these close an opening.
    pub closing: usize,
    /// And where.
    closings: Vec<DVec3>,
    /// Triangles are even along the skin, and no face meets another, also in single precision. Where it was asked
    /// for and is not so, walls are too thin for it.
    pub is_even: bool,
    /// Faces that stayed as cells made them, as thin walls would meet.
    pub held: usize,
}

/// Makes a new skin of an analysed model. Faces that look the wrong way are taken as if they didn't:
/// closed patches face outward, open ones as most of their faces. Groups, materials and colours are
/// those of the nearest face.
///
/// # Errors
/// When there is no surface, a length is none, cells would be too many to fit, or the observer says
/// to stop.
pub fn reskin(
    analysis: &SortedAnalysis<'_>,
    options: &ReskinOptions,
    observer: &dyn Observer,
) -> Result<ReskinOutcome, RemeshError> {
    let mesh = analysis.mesh;
    let bounds = checked(analysis, options)?;
    let cell = options.cell;
    let grid = Grid::over(&bounds, cell);
    // Around all faces, what the model fills does not matter.
    let all_faces = options.offset.map(|_| turned(mesh, &analysis.patches));
    let nothing = TriangleHierarchy::of(mesh, &[], |_| false);
    let no_caps = Mesh::default();
    let (filled, caps) = match options.offset {
        Some(_) => (&nothing, Some(&no_caps)),
        None => (analysis.hierarchy(), analysis.caps()),
    };
    let faces = all_faces.as_ref().unwrap_or(filled);
    let caps = caps.map(TriangleHierarchy::whole);
    observer.begin("finding cells", 0);
    let sheets_only = options.offset.is_none()
        && options.min_thickness.is_some()
        && !encloses_anything(analysis, cell);
    let reach = Reach::of(filled, &grid);
    let nothing_reaches = Reach::of(&nothing, &grid);
    let mut inside_test = InsideTest {
        capped: Capped::new(filled, caps.as_ref()),
        reach: &reach,
        grid: &grid,
        added: Vec::new(),
    };
    let spacing = SPACING * cell;
    let mut added = Vec::new();
    added.extend(options.offset.map(|away| Added::around(faces, away)));
    let (thickened, walls) = walls_and_gaps::thickened(&inside_test, options, spacing, sheets_only);
    let (bridged, gaps) = walls_and_gaps::bridged(&inside_test, options, spacing);
    added.extend([walls, gaps].into_iter().flatten());
    let others = added
        .iter()
        .flat_map(|added| added.cells(&grid, [bounds.min, bounds.max]))
        .collect();
    inside_test.added = added;
    if sheets_only {
        // Their walls are all there is.
        inside_test.capped = Capped::new(&nothing, Some(&nothing));
        inside_test.reach = &nothing_reaches;
    }
    let search = SurfaceSearch::through(&inside_test, others, observer);
    // Half a search leaves loops open.
    observer.check()?;
    observer.begin("extracting the surface", 0);
    let crossed = Crossed {
        grid: &grid,
        edges: &search.edges,
        points: &search.points,
        cells: &search.cells,
        is_rounded: options.rounded,
        inside_test: &inside_test,
    };
    let extracted = extract_surface(&crossed);
    finished(
        analysis,
        options,
        (&search, extracted),
        faces,
        [thickened, bridged],
        observer,
    )
}

/// What becomes of an extracted surface: without crumbs, with voids filled if asked for, and with what
/// the model has there. `faces`: those round which it was made.
fn finished(
    analysis: &SortedAnalysis<'_>,
    options: &ReskinOptions,
    (search, extracted): (&SurfaceSearch, Extracted),
    faces: &TriangleHierarchy<'_>,
    [thickened, bridged]: [Option<Changed>; 2],
    observer: &dyn Observer,
) -> Result<ReskinOutcome, RemeshError> {
    let (model, cell) = (analysis.model, options.cell);
    let thin = lost_places(search, &extracted);
    let skin =
        Mesh::from_triangles(extracted.positions, &extracted.triangles).expect("finite and sound");
    let mut closings: Vec<DVec3> = (extracted.closing.iter().zip(skin.positions()))
        .filter_map(|(&closing, &at)| closing.then_some(at))
        .collect();
    let fill_voids = options.fill_voids || options.offset.is_some();
    let clean = Clean::of(Model::from(skin), cell, fill_voids);
    let points = (search.points.iter().zip(&extracted.of_point))
        .filter(|(_, vertex)| !clean.went[vertex.index()])
        .map(|(point, _)| *point);
    let points: Vec<Crossing> = points.collect();
    let (buried, lost) = unseen_parts(faces, analysis, &points);
    let mut outcome = clean.model;
    let evened = match options.even {
        true => evening::evened(&outcome, observer)?,
        false => None,
    };
    let (is_even, held) = (
        evened.is_some(),
        evened.as_ref().map_or(0, |evened| evened.held),
    );
    if let Some(evened) = evened {
        closings = evened.closings(&outcome.mesh, &closings);
        outcome = Model::from(evened.skin);
    }
    outcome.unit = model.unit;
    outcome.up = model.up;
    let carries = model.attributes.colors.is_some() || !model.attributes.tags.is_empty();
    observer.check()?;
    if carries {
        Carried::by(model).give_to(&mut outcome);
    }
    Ok(ReskinOutcome {
        model: outcome,
        before: analysis.mesh.face_count(),
        small_components: clean.small_components,
        voids: clean.voids,
        thickened,
        bridged,
        points: points.len(),
        closing: points.iter().filter(|p| p.face.is_none()).count(),
        closings,
        is_even,
        held,
        thin_count: thin.len(),
        thin: thin.into_iter().take(REPORTED).collect(),
        buried,
        lost,
    })
}

/// Places thinner than a cell that the skin does not reach.
fn lost_places(search: &SurfaceSearch, extracted: &Extracted) -> Vec<DVec3> {
    let is_lost = |edge: EdgeKey| {
        let mut round = cells_round(edge).into_iter();
        !round.any(|cell| extracted.beyond.contains(&cell))
    };
    let lost = search.thin.iter().filter(|(edge, _)| is_lost(*edge));
    lost.map(|(_, at)| *at).collect()
}

/// The bounds of a model for which a skin can be made.
fn checked(analysis: &MeshAnalysis<'_>, options: &ReskinOptions) -> Result<Bounds, RemeshError> {
    let surface: f64 = analysis.areas.iter().sum();
    let bounds = analysis
        .bounds
        .filter(|_| surface > 0.0 && surface.is_finite());
    let bounds = bounds.ok_or(RemeshError::NoSurface)?;
    let lengths = [options.offset, options.close_gaps, options.min_thickness];
    let mut lengths = lengths.into_iter().flatten().chain([options.cell]);
    if !lengths.all(|length| length > 0.0 && length.is_finite()) {
        return Err(RemeshError::NoLength);
    }
    // All round them, faces have two sides.
    let sides = if options.offset.is_some() { 2.0 } else { 1.0 };
    let cells = |cell: f64| sides * CELLS_FOR_AREA * surface / (cell * cell);
    let room = |cell: f64| own_memory(analysis.mesh) + MEMORY_FOR_CELL * cells(cell);
    let longest = bounds.size().max_element();
    let left = (options.memory - own_memory(analysis.mesh)).max(MEMORY_FOR_CELL);
    let by_memory = (sides * CELLS_FOR_AREA * surface * MEMORY_FOR_CELL / left).sqrt();
    let finest = by_memory.max(longest / grid::MOST_ALONG);
    if options.cell < finest {
        return Err(RemeshError::TooManyCells {
            cell: options.cell,
            finest,
            needed: room(options.cell) / 1e9,
            memory: options.memory / 1e9,
        });
    }
    Ok(bounds)
}

/// The cell that makes about this many triangles of an area.
pub fn cell_for(surface: f64, triangles: f64) -> f64 {
    (TRIANGLES_FOR_AREA * surface / triangles).sqrt()
}

/// What the model itself takes, with all that is worked out of it, in bytes.
fn own_memory(mesh: &Mesh) -> f64 {
    let triangles = mesh.corners().len().saturating_sub(2 * mesh.face_count());
    triangles as f64 * MEMORY_FOR_TRIANGLE
}

/// The parts that no point of the skin lies on: those inside others, and those lost.
fn unseen_parts(
    hierarchy: &TriangleHierarchy<'_>,
    analysis: &MeshAnalysis<'_>,
    points: &[Crossing],
) -> (Vec<PartId>, Vec<PartId>) {
    let (mesh, parts) = (analysis.mesh, &analysis.parts);
    let mut is_seen = vec![false; parts.len()];
    let faces = points.iter().filter_map(|point| point.face);
    for part in faces.filter_map(|face| parts.of_face(mesh, face)) {
        is_seen[part.index()] = true;
    }
    if is_seen.iter().all(|&is_seen| is_seen) {
        return (Vec::new(), Vec::new());
    }
    let winding = Winding::of(hierarchy);
    let mut first: Vec<Option<usize>> = vec![None; parts.len()];
    for t in 0..hierarchy.len() {
        if let Some(part) = parts.of_face(mesh, hierarchy.face(t)) {
            first[part.index()].get_or_insert(t);
        }
    }
    let unseen = (0..parts.len()).filter(|&part| !is_seen[part]);
    unseen.map(PartId::new).partition(|part| {
        first[part.index()].is_some_and(|t| {
            let sides = winding.sides_of(t);
            sides.front > INSIDE && sides.back > INSIDE
        })
    })
}

#[cfg(test)]
mod edge_tests;
#[cfg(test)]
mod tests;
#[cfg(test)]
mod wall_tests;
