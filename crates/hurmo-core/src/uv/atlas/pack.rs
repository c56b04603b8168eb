//! Charts packed into a square, as large as they will go.
//!
//! Each is turned so that its box is smallest, and stood upright; the tallest come first, each let down
//! where the least of its height stands out above what is there, column by column of pixels, as a
//! falling piece comes to rest on the horizon (Lévy, Petitjean, Ray & Maillot 2002, §4). The scale is
//! found by halving.

use super::Options;
use super::flatten::Chart;
use glam::DVec2;

/// How often the scale is halved in on.
const HALVINGS: usize = 12;

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

/// Packs charts: their places become UVs in the tile. By what lengths were multiplied.
pub fn packed(charts: &mut [Chart], options: Options) -> Result<f64, PackError> {
    charts.iter_mut().for_each(stand_upright);
    let error = PackError {
        charts: charts.len(),
        size: options.size,
        margin: options.margin,
    };
    let size = f64::from(options.size);
    let area: f64 = charts.iter().map(area).sum();
    if area <= 0.0 {
        // Nothing has an extent: all lie in the middle.
        let places = charts.iter_mut().flat_map(|chart| &mut chart.places);
        places.for_each(|place| *place = DVec2::splat(0.5));
        return Ok(1.0);
    }
    let mut order: Vec<usize> = (0..charts.len()).collect();
    let height = |chart: usize| extent(&charts[chart]).y;
    order.sort_by(|&a, &b| height(b).total_cmp(&height(a)).then(a.cmp(&b)));
    // With this scale they would cover all of it.
    let full = size / area.sqrt();
    let (mut low, mut high) = (0.0, full);
    let mut best: Option<(f64, Vec<[u32; 2]>)> = None;
    for _ in 0..HALVINGS {
        let scale = (low + high) / 2.0;
        match laid(charts, &order, scale, options) {
            Some(places) => {
                best = Some((scale, places));
                low = scale;
            }
            None => high = scale,
        }
    }
    let (scale, at) = best.ok_or(error)?;
    for (chart, [left, bottom]) in charts.iter_mut().zip(at) {
        let corner = DVec2::new(f64::from(left), f64::from(bottom));
        for place in &mut chart.places {
            *place = (*place * scale + corner) / size;
        }
    }
    Ok(scale / size)
}

fn area(chart: &Chart) -> f64 {
    let triangles = chart.triangles.iter();
    let twice = triangles.map(|t| {
        let [a, b, c] = t.map(|place| chart.places[place as usize]);
        (b - a).perp_dot(c - a).abs()
    });
    twice.sum::<f64>() / 2.0
}

/// The far corner of a chart's box; the near one is nought.
fn extent(chart: &Chart) -> DVec2 {
    chart.places.iter().copied().fold(DVec2::ZERO, DVec2::max)
}

/// Turns a chart so that its box is smallest and stands upright, and moves it to nought.
fn stand_upright(chart: &mut Chart) {
    let hull = hull(&chart.places);
    let box_along = |along: DVec2| {
        let turned = hull
            .iter()
            .map(|p| DVec2::new(p.dot(along), p.dot(along.perp())));
        turned.fold([DVec2::INFINITY, DVec2::NEG_INFINITY], |[low, high], p| {
            [low.min(p), high.max(p)]
        })
    };
    let sides = (0..hull.len()).map(|i| (hull[(i + 1) % hull.len()] - hull[i]).normalize_or_zero());
    let size = |along: DVec2| {
        let [low, high] = box_along(along);
        let size = high - low;
        size.x * size.y
    };
    let directions = sides.filter(|side| *side != DVec2::ZERO).chain([DVec2::X]);
    let mut best = (f64::INFINITY, DVec2::X);
    for along in directions {
        if size(along) < best.0 {
            best = (size(along), along);
        }
    }
    let mut along = best.1;
    let [low, high] = box_along(along);
    if (high - low).x > (high - low).y {
        along = -along.perp();
    }
    let [low, _] = box_along(along);
    for place in &mut chart.places {
        *place = DVec2::new(place.dot(along), place.dot(along.perp())) - low;
    }
}

/// The convex hull, anticlockwise (Andrew 1979).
fn hull(points: &[DVec2]) -> Vec<DVec2> {
    let mut sorted: Vec<DVec2> = points.to_vec();
    sorted.sort_by(|a, b| a.x.total_cmp(&b.x).then(a.y.total_cmp(&b.y)));
    sorted.dedup();
    if sorted.len() < 3 {
        return sorted;
    }
    let mut hull: Vec<DVec2> = Vec::new();
    let half = |points: &mut dyn Iterator<Item = DVec2>, hull: &mut Vec<DVec2>| {
        let first = hull.len();
        for point in points {
            while hull.len() >= first + 2 {
                let [a, b] = [hull[hull.len() - 2], hull[hull.len() - 1]];
                if (b - a).perp_dot(point - a) > 0.0 {
                    break;
                }
                hull.pop();
            }
            hull.push(point);
        }
        hull.pop();
    };
    half(&mut sorted.iter().copied(), &mut hull);
    half(&mut sorted.iter().rev().copied(), &mut hull);
    hull
}

/// How far up a chart begins and ends in each column of pixels, with its share of the margin round it.
struct Outline {
    bottom: Vec<i64>,
    top: Vec<i64>,
}

impl Outline {
    fn of(chart: &Chart, scale: f64, round: i64) -> Self {
        let width = (extent(chart).x * scale).floor() as i64 + 1 + 2 * round;
        let mut bare = Self {
            bottom: vec![i64::MAX; width as usize],
            top: vec![i64::MIN; width as usize],
        };
        for triangle in &chart.triangles {
            let corners = triangle.map(|place| chart.places[place as usize] * scale);
            for i in 0..3 {
                bare.add(corners[i], corners[(i + 1) % 3], round);
            }
        }
        bare.widened(round)
    }

    fn add(&mut self, a: DVec2, b: DVec2, round: i64) {
        let (a, b) = if a.x <= b.x { (a, b) } else { (b, a) };
        for column in a.x.floor() as i64..=b.x.floor() as i64 {
            // The piece of the line that is in the column.
            let at = |x: f64| match b.x > a.x {
                true => a.y + (b.y - a.y) * ((x - a.x) / (b.x - a.x)).clamp(0.0, 1.0),
                false => a.y,
            };
            let (left, right) = (at(column as f64), at(column as f64 + 1.0));
            let (mut low, mut high) = (left.min(right), left.max(right));
            if a.x == b.x {
                (low, high) = (a.y.min(b.y), a.y.max(b.y));
            }
            let column = (column + round) as usize;
            self.bottom[column] = self.bottom[column].min(low.floor() as i64);
            self.top[column] = self.top[column].max(high.floor() as i64 + 1);
        }
    }

    /// With room on all sides.
    fn widened(&self, round: i64) -> Self {
        let count = self.bottom.len();
        let near = |column: usize| {
            let from = column.saturating_sub(round as usize);
            from..(column + round as usize + 1).min(count)
        };
        let bottom = |column| self.bottom[near(column)].iter().min().copied();
        let top = |column| self.top[near(column)].iter().max().copied();
        Self {
            bottom: (0..count)
                .map(|column| bottom(column).unwrap_or(i64::MAX).saturating_sub(round))
                .collect(),
            top: (0..count)
                .map(|column| top(column).unwrap_or(i64::MIN).saturating_add(round))
                .collect(),
        }
    }
}

/// The corners at which charts come to rest, in pixels; none where they don't fit.
fn laid(charts: &[Chart], order: &[usize], scale: f64, options: Options) -> Option<Vec<[u32; 2]>> {
    let size = i64::from(options.size);
    let round = i64::from(options.margin.div_ceil(2));
    let mut horizon = vec![0i64; options.size as usize];
    let mut at = vec![[0; 2]; charts.len()];
    for &number in order {
        let chart = &charts[number];
        if chart.triangles.is_empty() {
            // It has no area: any place will do.
            at[number] = [options.size / 2; 2];
            continue;
        }
        let far = extent(chart) * scale;
        if far.max_element() + 2.0 * round as f64 + 1.0 > size as f64 {
            return None;
        }
        let outline = Outline::of(chart, scale, round);
        let columns = outline.bottom.len();
        // Where it ends lowest; of those, where the least room is lost below it.
        let mut best: Option<((i64, i64), usize, i64)> = None;
        for left in 0..=options.size as usize - columns {
            let below = &horizon[left..left + columns];
            let rests = below
                .iter()
                .zip(&outline.bottom)
                .map(|(h, b)| h - b)
                .max()?;
            let rests = rests.max(round);
            let ends = outline.top.iter().max()? + rests;
            if best.is_some_and(|((least, _), ..)| ends > least) {
                continue;
            }
            let over = below
                .iter()
                .zip(&outline.bottom)
                .filter(|(_, b)| **b < i64::MAX / 2);
            let lost: i64 = over.map(|(h, b)| rests + b - h).sum();
            if best.is_none_or(|(least, ..)| (ends, lost) < least) {
                best = Some(((ends, lost), left, rests));
            }
        }
        let ((ends, _), left, rests) = best?;
        if ends > size {
            return None;
        }
        for (column, top) in outline.top.iter().enumerate() {
            let height = &mut horizon[left + column];
            *height = (*height).max(top + rests);
        }
        at[number] = [(left as i64 + round) as u32, rests as u32];
    }
    Some(at)
}
