//! Where to cut so that every piece fits a printer's bed: as few planes as do it, where the section is
//! small and no face lies close along it.
//!
//! Along each axis the number of planes follows from the size; the places are chosen together by
//! dynamic programming over samples of what a cut there costs.

use super::Plane;
use crate::measure::bounds;
use crate::mesh::Model;
use crate::triangulate::all_triangles;
use crate::units::Axis;
use glam::DVec3;

/// A plane across an axis that was chosen.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fit {
    /// The axis.
    pub axis: Axis,
    /// Where along it.
    pub at: f64,
    /// How large the section is there, in square units.
    pub section: f64,
}

/// This many places are tried for each plane.
const TRIED: usize = 64;

/// Faces along a plane that are nearer to it than this share of the bed are in its way.
const CLOSE: f64 = 0.01;

/// By how much more than its own area a face close along a plane costs.
const IN_THE_WAY: f64 = 4.0;

/// When a face lies along a plane: the cosine between their normals.
const ALONG: f64 = 0.9;

/// The planes by which pieces are at most as large as the bed, by axis and rising place. None where the
/// model fits.
pub fn fit(model: &Model, bed: DVec3) -> Vec<Fit> {
    let Some(bounds) = bounds(&model.mesh) else {
        return Vec::new();
    };
    let mut planes = Vec::new();
    for axis in Axis::ALL {
        let index = axis as usize;
        let (low, high) = (bounds.min[index], bounds.max[index]);
        let size = bed[index];
        let pieces = ((high - low) / size * (1.0 - 1e-9)).ceil() as usize;
        if pieces < 2 {
            continue;
        }
        // Where each plane may be: what is below it fits in this many beds, and what is above in the others.
        let ranges: Vec<[f64; 2]> = (1..pieces)
            .map(|i| {
                let least = (high - (pieces - i) as f64 * size).max(low);
                [least, (low + i as f64 * size).min(high).max(least)]
            })
            .collect();
        let places: Vec<f64> = ranges
            .iter()
            .flat_map(|[from, to]| {
                (0..TRIED).map(move |i| from + (to - from) * (i as f64 + 0.5) / TRIED as f64)
            })
            .collect();
        let sections = Sections::at(model, index, &places, CLOSE * size);
        let chosen = cheapest(&places, &sections.cost, size);
        planes.extend(chosen.into_iter().map(|i| Fit {
            axis,
            at: places[i],
            section: sections.area[i],
        }));
    }
    planes
}

impl Fit {
    /// The plane, the axis pointing above.
    pub fn plane(&self) -> Plane {
        let mut normal = DVec3::ZERO;
        normal[self.axis as usize] = 1.0;
        Plane {
            normal,
            at: self.at,
        }
    }
}

/// One place out of each [`TRIED`], no two that follow each other further apart than a size, at the least
/// cost together.
fn cheapest(places: &[f64], cost: &[f64], size: f64) -> Vec<usize> {
    let planes = places.len() / TRIED;
    // By place: the least cost up to it, and the place before.
    let mut best: Vec<(f64, usize)> = cost.iter().map(|&cost| (cost, usize::MAX)).collect();
    for plane in 1..planes {
        let before = (plane - 1) * TRIED..plane * TRIED;
        for i in plane * TRIED..(plane + 1) * TRIED {
            let reach = places[i] - size * (1.0 + 1e-9);
            let near = before
                .clone()
                .filter(|&j| places[j] >= reach && places[j] < places[i]);
            let least = near.min_by(|&a, &b| best[a].0.total_cmp(&best[b].0));
            best[i] = match least {
                Some(least) => (best[least].0 + cost[i], least),
                None => (f64::INFINITY, before.end - 1),
            };
        }
    }
    let last = (planes - 1) * TRIED..planes * TRIED;
    let mut at = last
        .min_by(|&a, &b| best[a].0.total_cmp(&best[b].0))
        .unwrap_or_default();
    let mut chosen = vec![at];
    while best[at].1 != usize::MAX {
        at = best[at].1;
        chosen.push(at);
    }
    chosen.reverse();
    chosen
}

/// What cuts across an axis meet.
struct Sections {
    area: Vec<f64>,
    cost: Vec<f64>,
}

impl Sections {
    fn at(model: &Model, axis: usize, places: &[f64], close: f64) -> Self {
        let mut order: Vec<usize> = (0..places.len()).collect();
        order.sort_by(|&a, &b| places[a].total_cmp(&places[b]));
        let sorted: Vec<f64> = order.iter().map(|&i| places[i]).collect();
        let between = |low: f64, high: f64| {
            sorted.partition_point(|&p| p < low)..sorted.partition_point(|&p| p < high)
        };
        let (mut area, mut beside) = (vec![0.0; places.len()], vec![0.0; places.len()]);
        let (u, v) = ((axis + 1) % 3, (axis + 2) % 3);
        let (triangles, _) = all_triangles(&model.mesh);
        for triangle in triangles {
            let p = triangle.map(|vertex| model.mesh.position(vertex));
            let normal = (p[1] - p[0]).cross(p[2] - p[0]);
            let heights = p.map(|p| p[axis]);
            let low = heights.into_iter().fold(f64::INFINITY, f64::min);
            let high = heights.into_iter().fold(f64::NEG_INFINITY, f64::max);
            for i in between(low, high) {
                let [a, b] = section(p, axis, sorted[i]);
                // The solid lies to the left of the section's border as the axis is looked along.
                let turn = (b[u] - a[u]) * -normal[v] + (b[v] - a[v]) * normal[u];
                let twice = a[u] * b[v] - a[v] * b[u];
                area[order[i]] += 0.5 * if turn >= 0.0 { twice } else { -twice };
            }
            if normal[axis].abs() > ALONG * normal.length() {
                for i in between(low - close, high + close) {
                    beside[order[i]] += 0.5 * normal.length();
                }
            }
        }
        Self {
            cost: (area.iter().zip(&beside))
                .map(|(area, beside)| area.abs() + IN_THE_WAY * beside)
                .collect(),
            area: area.into_iter().map(f64::abs).collect(),
        }
    }
}

/// Where a plane across an axis meets the sides of a triangle that it goes through.
fn section(p: [DVec3; 3], axis: usize, at: f64) -> [DVec3; 2] {
    let mut ends = [p[0]; 2];
    let mut found = 0;
    for i in 0..3 {
        let (a, b) = (p[i], p[(i + 1) % 3]);
        if (a[axis] <= at) != (b[axis] <= at) && found < 2 {
            ends[found] = a + (b - a) * ((at - a[axis]) / (b[axis] - a[axis]));
            found += 1;
        }
    }
    ends
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::Mesh;
    use crate::shapes;

    #[test]
    fn what_fits_is_not_cut() {
        let cube = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::new(1.0, 2.0, 3.0), 2));
        assert_eq!(fit(&cube, DVec3::new(1.0, 2.0, 3.0)), []);
        let planes = fit(&cube, DVec3::new(1.0, 1.0, 1.0));
        assert_eq!(
            planes.iter().filter(|plane| plane.axis == Axis::Y).count(),
            1
        );
        assert_eq!(
            planes.iter().filter(|plane| plane.axis == Axis::Z).count(),
            2
        );
        // Nothing is left to choose.
        assert!((planes[0].at - 1.0).abs() < 1e-9 && (planes[0].section - 3.0).abs() < 1e-9);
    }

    #[test]
    fn sections_of_a_sphere_are_disks() {
        let sphere = Model::from(shapes::sphere(1.0, 5));
        let places = [-0.9, -0.3, 0.0, 0.55];
        for axis in 0..3 {
            let sections = Sections::at(&sphere, axis, &places, 0.0);
            for (place, area) in places.iter().zip(sections.area) {
                let disk = std::f64::consts::PI * (1.0 - place * place);
                assert!((area - disk).abs() < 0.01 * disk, "{area} for {disk}");
            }
        }
    }

    #[test]
    fn the_cut_goes_through_the_waist_and_not_along_a_floor() {
        // Two blocks with a thin neck between, the upper with a wide floor right above the neck.
        let mut mesh = Mesh::default();
        for (low, high) in [
            (DVec3::new(-2.0, -2.0, 0.0), DVec3::new(2.0, 2.0, 4.0)),
            (DVec3::new(-0.2, -0.2, 4.0), DVec3::new(0.2, 0.2, 5.0)),
            (DVec3::new(-2.0, -2.0, 5.0), DVec3::new(2.0, 2.0, 9.0)),
        ] {
            mesh.append(&shapes::cuboid(low, high, 2));
        }
        let planes = fit(&Model::from(mesh), DVec3::splat(6.0));
        assert_eq!(planes.len(), 1);
        let plane = planes[0];
        assert_eq!(plane.axis, Axis::Z);
        assert!(plane.at > 4.06 && plane.at < 4.94, "{plane:?}");
        assert!((plane.section - 0.16).abs() < 1e-9);
    }
}
