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
//! `weave` for why the skin is manifold and crosses nowhere.
//! Cost: about 200 bytes and a few microseconds for each cell at the surface.

mod closed;
mod crossing;
mod crumbs;
mod grid;
mod loops;
mod place;
mod reach;
mod search;
mod weave;

use super::RemeshError;
use crate::carried::Carried;
use crate::measure::{area, bounds};
use crate::mesh::{FaceId, Mesh, Model, PartId};
use crate::progress::Observer;
use crate::spatial::{Soup, Winding};
use crate::topology::{Edges, Parts, Patches};
use crossing::{Crossing, Ground, INSIDE};
use crumbs::Clean;
use glam::DVec3;
use grid::Grid;
use reach::Reach;
use search::Search;
use weave::{Crossed, weave};

/// The most cells at the surface that one run looks at: more would not fit in memory.
pub const MOST_CELLS: f64 = 4e7;
/// Cells that an area takes, for each that would cover it flat.
const CELLS_FOR_AREA: f64 = 2.5;
/// And triangles.
const TRIANGLES_FOR_AREA: f64 = 6.0;
/// So many thin places are told.
const TOLD: usize = 1000;

/// How to make a new skin.
#[derive(Clone, Debug)]
pub struct Options {
    /// The length of a cell's edges, in model units.
    pub cell: f64,
    /// Whether sharp edges are rounded off.
    pub rounded: bool,
}

/// A new skin.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// The skin, all triangles.
    pub model: Model,
    /// How many faces the model had.
    pub before: usize,
    /// Places at which a wall or a gap was thinner than a cell and is lost; of very many, some.
    pub thin: Vec<DVec3>,
    /// How many such places there are.
    pub thin_count: usize,
    /// Parts of the model that end up inside the skin of others.
    pub buried: Vec<PartId>,
    /// Parts that have no skin: smaller than a cell, or sheets that close in nothing.
    pub lost: Vec<PartId>,
    /// How many crumbs were left out: pieces of skin thinner than half a cell that reach over a few
    /// cells only, as open sheets and thin walls leave them.
    pub crumbs: usize,
    /// How many points of the skin lie on edges of the grid.
    pub points: usize,
    /// How many of these close an opening.
    pub closing: usize,
}

/// Makes a new skin. Faces that look the wrong way are taken as if they didn't: closed patches face
/// outward, open ones as most of their faces. Groups, materials and colours are those of the nearest
/// face.
///
/// # Errors
/// When there is no surface, or cells would be too many to fit.
pub fn solid(
    model: &Model,
    options: &Options,
    observer: &dyn Observer,
) -> Result<Outcome, RemeshError> {
    let mesh = &model.mesh;
    let cell = options.cell;
    let surface = area(mesh);
    let bounds = bounds(mesh).filter(|_| surface > 0.0 && surface.is_finite());
    let bounds = bounds.ok_or(RemeshError::NoSurface)?;
    if !(cell > 0.0 && cell.is_finite()) {
        return Err(RemeshError::NoLength);
    }
    let finest = finest(surface, bounds.size().max_element());
    if cell < finest {
        return Err(RemeshError::TooManyCells { cell, finest });
    }
    let grid = Grid::over(&bounds, cell);
    let patches = Patches::of(mesh, &Edges::of(mesh));
    let faces: Vec<FaceId> = mesh.face_ids().collect();
    let soup = Soup::of(mesh, &faces, |face| patches.reversed[face.index()]);
    let winding = Winding::of(&soup);
    observer.begin("finding cells", 0);
    let reach = Reach::of(&soup, &grid);
    let ground = Ground {
        soup: &soup,
        winding: &winding,
        reach: &reach,
        grid: &grid,
        is_closed: closed::is_closed(&soup, mesh),
    };
    let search = Search::through(&ground, observer);
    observer.begin("weaving", 0);
    let crossed = Crossed {
        grid: &grid,
        edges: &search.edges,
        points: &search.points,
        // Half a search leaves loops open.
        cells: if observer.cancelled() {
            &[]
        } else {
            &search.cells
        },
        is_rounded: options.rounded,
    };
    let (positions, triangles) = weave(&crossed);
    let skin = Mesh::from_triangles(positions, &triangles).expect("finite and sound");
    let clean = Clean::of(Model::from(skin), cell);
    let points = search.points.iter().zip(&clean.went);
    let points: Vec<Crossing> = points
        .filter(|(_, went)| !**went)
        .map(|(p, _)| *p)
        .collect();
    let (buried, lost) = unseen_parts(&ground, mesh, &points);
    let mut outcome = clean.model;
    outcome.unit = model.unit;
    let carries = model.attributes.colors.is_some() || !model.attributes.tags.is_empty();
    if carries && !observer.cancelled() {
        Carried::by(model).give_to(&mut outcome);
    }
    Ok(Outcome {
        model: outcome,
        before: mesh.face_count(),
        crumbs: clean.crumbs,
        points: points.len(),
        closing: points.iter().filter(|p| p.triangle.is_none()).count(),
        thin_count: search.thin.len(),
        thin: search.thin.into_iter().take(TOLD).collect(),
        buried,
        lost,
    })
}

/// The cell that makes about so many triangles of an area.
pub fn cell_for(surface: f64, triangles: f64) -> f64 {
    (TRIANGLES_FOR_AREA * surface / triangles).sqrt()
}

/// The smallest cell that fits, for an area and the longest side of a model.
fn finest(surface: f64, longest: f64) -> f64 {
    let by_area = (CELLS_FOR_AREA * surface / MOST_CELLS).sqrt();
    by_area.max(longest / grid::MOST_ALONG)
}

/// The parts that no point of the skin lies on: those inside others, and those lost.
fn unseen_parts(
    ground: &Ground<'_>,
    mesh: &Mesh,
    points: &[Crossing],
) -> (Vec<PartId>, Vec<PartId>) {
    let parts = Parts::of(mesh);
    let of_triangle = |t: u32| parts.of_face(mesh, ground.soup.face(t as usize));
    let mut is_seen = vec![false; parts.len()];
    for part in points
        .iter()
        .filter_map(|point| of_triangle(point.triangle?))
    {
        is_seen[part.index()] = true;
    }
    let mut first: Vec<Option<u32>> = vec![None; parts.len()];
    for t in 0..ground.soup.len() as u32 {
        if let Some(part) = of_triangle(t) {
            first[part.index()].get_or_insert(t);
        }
    }
    let unseen = (0..parts.len()).filter(|&part| !is_seen[part]);
    unseen.map(PartId::new).partition(|part| {
        first[part.index()].is_some_and(|t| {
            let sides = ground.winding.sides_of(t as usize);
            sides.front > INSIDE && sides.back > INSIDE
        })
    })
}

#[cfg(test)]
mod tests;
