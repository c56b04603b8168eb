//! Charts packed into a square, as large as they will go.
//!
//! A chart is the cells of a grid that it and its share of the margin cover. The largest come first, each
//! of their four quarter turns tried, and laid as low as one goes, then as far left, in what others leave
//! free between them too. The scale is found by halving.
//!
//! Cost: for each chart, turn and scale, the rows of the grid from the first that is not full.

use super::AtlasOptions;
use super::flatten::Chart;
use super::raster::{Floor, Mask};
use crate::parallel::chosen;
use glam::DVec2;

/// By what charts are sorted, the largest first, one order after the other tried: their boxes' area,
/// their own, and how long they are.
const ORDERS: [fn(&Chart) -> f64; 3] = [
    |chart| chart.extent().x * chart.extent().y,
    Chart::area,
    |chart| chart.extent().y,
];
/// How often the scale is halved in on.
const HALVINGS: usize = 12;
/// Cells along a side at most; pixels are put together to fewer.
const MOST_CELLS: u32 = 512;
/// Charts as small as this, in cells, are laid as they are.
const SPECK: usize = 8;
/// With more charts than this, those that come later are not looked for a place below the last as large.
const MANY: usize = 2000;

/// Why charts can't be packed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error(
    "{charts} charts do not fit into {size} × {size} pixels with {margin} between them; take more \
     pixels, or a smaller margin"
)]
pub struct PackError {
    /// How many charts.
    pub charts: usize,
    /// Pixels along a side.
    pub size: u32,
    /// Pixels between two of them.
    pub margin: u32,
}

/// Where a chart lies: the corner of its box, in pixels, and how many quarter turns it is turned by.
#[derive(Clone, Copy, Default)]
struct Place {
    corner: DVec2,
    turns: u32,
}

/// Packs charts that stand upright: their places become UVs in the tile. By what lengths were multiplied.
///
/// # Errors
/// When there are too many of them.
pub fn packed(charts: &mut [Chart], options: AtlasOptions) -> Result<f64, PackError> {
    let size = f64::from(options.size);
    let area: f64 = charts.iter().map(Chart::area).sum();
    if area <= 0.0 {
        // Nothing has an extent: all lie in the middle.
        let places = charts.iter_mut().flat_map(|chart| &mut chart.places);
        places.for_each(|place| *place = DVec2::splat(0.5));
        return Ok(1.0);
    }
    let orders = ORDERS.map(|size| {
        let mut order: Vec<usize> = (0..charts.len()).collect();
        let sizes: Vec<f64> = charts.iter().map(size).collect();
        order.sort_by(|&a, &b| sizes[b].total_cmp(&sizes[a]).then(a.cmp(&b)));
        order
    });
    // With this scale they would cover all of it.
    let full = size / area.sqrt();
    let (mut low, mut high) = (0.0, full);
    let mut best: Option<(f64, Vec<Place>)> = None;
    for _ in 0..HALVINGS {
        let scale = (low + high) / 2.0;
        let mut tried = orders.iter();
        match tried.find_map(|order| laid(charts, order, scale, options)) {
            Some(places) => {
                best = Some((scale, places));
                low = scale;
            }
            None => high = scale,
        }
    }
    let (scale, at) = best.ok_or(PackError {
        charts: charts.len(),
        size: options.size,
        margin: options.margin,
    })?;
    for (chart, Place { corner, turns }) in charts.iter_mut().zip(at) {
        let far = chart.extent();
        for place in &mut chart.places {
            *place = (turned(*place, far, turns) * scale + corner) / size;
        }
    }
    Ok(scale / size)
}

/// A place in a box from nought to its far corner, when the box is turned by quarter turns.
fn turned(place: DVec2, far: DVec2, turns: u32) -> DVec2 {
    match turns % 4 {
        0 => place,
        1 => DVec2::new(far.y - place.y, place.x),
        2 => far - place,
        _ => DVec2::new(place.y, far.x - place.x),
    }
}

/// Where charts lie at a scale; none where they don't fit.
fn laid(
    charts: &[Chart],
    order: &[usize],
    scale: f64,
    options: AtlasOptions,
) -> Option<Vec<Place>> {
    let pixels = options.size.div_ceil(MOST_CELLS);
    let cells = (options.size / pixels) as usize;
    let round = options.margin.div_ceil(2 * pixels) as usize;
    let to_cells = scale / f64::from(pixels);
    let mut floor = Floor::new(cells);
    let mut at = vec![Place::default(); charts.len()];
    let mut last = 0;
    for &number in order {
        let chart = &charts[number];
        if chart.triangles.is_empty() {
            // It has no area: any place will do.
            at[number].corner = DVec2::splat(f64::from(options.size / 2));
            continue;
        }
        let far = chart.extent();
        let extra = (2 * round + 1) as f64;
        if far.max_element() * to_cells + extra > cells as f64 {
            return None;
        }
        let is_speck = far.max_element() * to_cells < SPECK as f64;
        let from = if charts.len() > MANY { last } else { 0 };
        let mask = |turns: u32| {
            let places = chart.places.iter();
            let places: Vec<DVec2> = places
                .map(|&place| turned(place, far, turns) * to_cells)
                .collect();
            Mask::of(&places, &chart.triangles, round)
        };
        let tried = chosen(if is_speck { 1 } else { 4 }, 1, |turns| {
            let turns = turns as u32;
            let mask = mask(turns);
            let [x, y] = floor.lowest(&mask, from)?;
            // Low, and flat.
            Some(((2 * y + mask.height(), x, turns), mask, y))
        });
        let ((_, x, turns), mask, y) = tried.into_iter().min_by_key(|(rank, ..)| *rank)?;
        floor.lay(&mask, [x, y]);
        last = y;
        let corner = DVec2::new((x + round) as f64, (y + round) as f64);
        at[number] = Place {
            corner: corner * f64::from(pixels),
            turns,
        };
    }
    Some(at)
}
