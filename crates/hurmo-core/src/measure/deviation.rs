//! How far one surface lies from another, measured at samples.
//!
//! Vertices are samples, evenly chosen where there are very many, and so are points spread over the area by
//! a low-discrepancy sequence (Roberts' additive recurrence over the cumulated areas), which
//! need no random numbers. The maximum over samples is a lower bound of the true (Hausdorff)
//! distance; it is said to be sampled wherever it is shown. Cost: a closest-point query a
//! sample.

use crate::mesh::{FaceId, Mesh, VertexId};
use crate::parallel::mapped;
use crate::spatial::{Closest, TriangleHierarchy, TriangleTree, faces_not_in};
use crate::triangulate::{all_triangles, triangles};
use glam::DVec3;

/// Distances from samples on one surface to another surface, in units of length.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct Deviation {
    /// The largest distance found.
    pub max: f64,
    /// The root of the mean square.
    pub rms: f64,
    /// How many samples were taken.
    pub samples: usize,
}

impl Deviation {
    /// The worse of two directions; the mean square over all samples of both.
    pub fn both(self, other: Self) -> Self {
        let samples = self.samples + other.samples;
        let squares =
            self.rms.powi(2) * self.samples as f64 + other.rms.powi(2) * other.samples as f64;
        Self {
            max: self.max.max(other.max),
            rms: (squares / samples.max(1) as f64).sqrt(),
            samples,
        }
    }
}

/// The deviation both ways between two surfaces, from about `samples` points on each.
/// `None` when one of them has no face.
pub fn deviation(a: &Mesh, b: &Mesh, samples: usize) -> Option<Deviation> {
    let there = one_way_deviation(a, b, samples)?;
    Some(there.both(one_way_deviation(b, a, samples)?))
}

/// How far points on those faces of `from` that `to` has not (with their corners at the same
/// places) lie from the surface `to`: nought where there are none. `None` when one has no face.
pub fn deviation_of_new(from: &Mesh, to: &Mesh, samples: usize) -> Option<Deviation> {
    if from.face_count() == 0 || to.face_count() == 0 {
        return None;
    }
    let is_new = faces_not_in(from, to, |_| true);
    if !is_new.contains(&true) {
        return Some(Deviation::default());
    }
    let mut new = Mesh::from_parts(from.positions().to_vec(), vec![], vec![0])
        .expect("positions of a mesh are finite");
    for (_, corners) in from.faces().filter(|(face, _)| is_new[face.index()]) {
        new.push_face(corners.iter().copied());
    }
    one_way_deviation(&new, to, samples)
}

/// How far points on `from` lie from the surface `to`. `None` when one has no face.
pub fn one_way_deviation(from: &Mesh, to: &Mesh, samples: usize) -> Option<Deviation> {
    if from.face_count() == 0 {
        return None;
    }
    let surface = Surface::Tree(tree_of(to)?);
    Some(of_points(&sample_points(from, samples), &surface))
}

/// How far two surfaces lie apart, each way.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct EachWay {
    /// How far what is there now lies from what was: what was added lies far.
    pub new_from_old: Deviation,
    /// How far what was there lies from what is now: what was dropped lies far.
    pub old_from_new: Deviation,
}

/// A surface that others are measured against, made ready once for many of them.
pub struct Reference<'s> {
    surface: Surface<'s>,
    points: Vec<DVec3>,
    samples: usize,
}

/// Where closest points are looked for.
enum Surface<'s> {
    Tree(TriangleTree),
    TriangleHierarchy(&'s TriangleHierarchy<'s>),
}

impl Surface<'_> {
    /// Fewer of the points, evenly chosen, where every query looks at much of the surface.
    fn affordable(&self, points: &[DVec3]) -> Option<Vec<DVec3>> {
        let cost = match self {
            Self::Tree(tree) => tree.mean_cost(points),
            Self::TriangleHierarchy(hierarchy) => hierarchy.mean_cost(points),
        };
        let most = ((MOST_WORK / cost.max(1.0)) as usize).max(FEWEST);
        let thinned = || points.iter().step_by(points.len().div_ceil(most)).copied();
        (points.len() > most).then(|| thinned().collect())
    }

    fn closest_to_each(&self, points: &[DVec3]) -> Vec<Option<Closest>> {
        match self {
            Self::Tree(tree) => tree.closest_to_each(points),
            Self::TriangleHierarchy(hierarchy) => hierarchy.closest_to_each(points),
        }
    }
}

impl<'s> Reference<'s> {
    /// Makes a surface ready, with about `samples` points on it and on each that is held against
    /// it. `None` when it has no face.
    pub fn new(mesh: &Mesh, samples: usize) -> Option<Self> {
        Some(Self {
            surface: Surface::Tree(tree_of(mesh)?),
            points: sample_points(mesh, samples),
            samples,
        })
    }

    /// The same of a mesh whose faces with an area are sorted already. `None` when it has none.
    pub fn sorted(
        mesh: &Mesh,
        hierarchy: &'s TriangleHierarchy<'s>,
        samples: usize,
    ) -> Option<Self> {
        (!hierarchy.is_empty()).then(|| Self {
            surface: Surface::TriangleHierarchy(hierarchy),
            points: sample_points(mesh, samples),
            samples,
        })
    }

    /// The deviation each way. `None` when the other has no face.
    pub fn deviation(&self, other: &Mesh) -> Option<EachWay> {
        let points = sample_points(other, self.samples);
        Some(EachWay {
            new_from_old: of_points(&points, &self.surface),
            old_from_new: of_points(&self.points, &Surface::Tree(tree_of(other)?)),
        })
    }
}

fn tree_of(mesh: &Mesh) -> Option<TriangleTree> {
    let triangles = triangles(mesh);
    let corners = |t: &[VertexId; 3]| t.map(|vertex| mesh.position(vertex));
    (!triangles.is_empty()).then(|| TriangleTree::new(triangles.len(), |i| corners(&triangles[i])))
}

/// How many triangles may be looked at altogether, and how many points are asked for all the same.
const MOST_WORK: f64 = 5e7;
const FEWEST: usize = 1000;

fn of_points(points: &[DVec3], surface: &Surface<'_>) -> Deviation {
    let affordable = surface.affordable(points);
    let points = affordable.as_deref().unwrap_or(points);
    let found = surface.closest_to_each(points).into_iter().flatten();
    let (mut max, mut sum) = (0.0, 0.0);
    for found in found {
        max = f64::max(max, found.distance_squared);
        sum += found.distance_squared;
    }
    Deviation {
        max: max.sqrt(),
        rms: (sum / points.len().max(1) as f64).sqrt(),
        samples: points.len(),
    }
}

/// Some vertices, and points spread over the area.
fn sample_points(mesh: &Mesh, samples: usize) -> Vec<DVec3> {
    let mut points: Vec<DVec3> = Vec::with_capacity(samples);
    let used = mesh.used_vertices();
    let used_count = used.iter().filter(|&&u| u).count();
    let stride = used_count.div_ceil(samples.div_ceil(2).max(1)).max(1);
    let vertices = mesh
        .positions()
        .iter()
        .zip(&used)
        .filter(|(_, used)| **used);
    points.extend(vertices.step_by(stride).map(|(p, _)| *p));

    let wanted = samples.saturating_sub(points.len());
    points.extend(spread_over(mesh, &triangles(mesh), wanted).map(|(point, _)| point));
    points
}

/// Points spread evenly over the area of a mesh, each with the face that it is on.
pub(crate) fn area_samples(mesh: &Mesh, samples: usize) -> Vec<(DVec3, FaceId)> {
    let (triangles, faces) = all_triangles(mesh);
    let points = spread_over(mesh, &triangles, samples);
    points.map(|(point, t)| (point, faces[t])).collect()
}

/// Points spread evenly over triangles, each with the number of the one that it is on.
fn spread_over<'t>(
    mesh: &'t Mesh,
    triangles: &'t [[VertexId; 3]],
    samples: usize,
) -> impl Iterator<Item = (DVec3, usize)> + 't {
    let corners = |t: usize| triangles[t].map(|vertex| mesh.position(vertex));
    let mut cumulated: Vec<f64> = mapped(triangles.len(), 4096, |t| {
        let [a, b, c] = corners(t);
        (b - a).cross(c - a).length()
    });
    let mut total = 0.0;
    for area in &mut cumulated {
        total += *area;
        *area = total;
    }
    let samples = if cumulated.is_empty() { 0 } else { samples };
    let mut t = 0;
    (0..samples).map(move |i| {
        let at = total * (i as f64 + 0.5) / samples as f64;
        while cumulated[t] < at && t + 1 < cumulated.len() {
            t += 1;
        }
        (point_in(corners(t), i), t)
    })
}

/// A point inside a triangle, another for every `i`.
fn point_in([a, b, c]: [DVec3; 3], i: usize) -> DVec3 {
    // The plastic number's powers: the recurrence that fills a square most evenly.
    const STEP: [f64; 2] = [0.754_877_666_246_692_8, 0.569_840_290_998_053_2];
    let (mut s, mut t) = ((STEP[0] * i as f64).fract(), (STEP[1] * i as f64).fract());
    if s + t > 1.0 {
        (s, t) = (1.0 - s, 1.0 - t);
    }
    a + (b - a) * s + (c - a) * t
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;

    #[test]
    fn parallel_sheets_are_their_distance_apart() {
        let low = shapes::grid(10, 10, 1.0, 1.0);
        let mut high = shapes::grid(3, 3, 1.0, 1.0);
        high.positions_mut().iter_mut().for_each(|p| p.z += 0.25);
        let found = deviation(&low, &high, 2000).unwrap();
        assert!((found.max - 0.25).abs() < 1e-12 && (found.rms - 0.25).abs() < 1e-12);
        assert!(found.samples >= 3000);
    }

    #[test]
    fn a_surface_made_ready_once_gives_the_same_as_one_made_ready_each_time() {
        let sphere = shapes::sphere(1.0, 4);
        let ready = Reference::new(&sphere, 3000).unwrap();
        let hierarchy = TriangleHierarchy::whole(&sphere);
        let sorted = Reference::sorted(&sphere, &hierarchy, 3000).unwrap();
        for other in [shapes::sphere(1.0, 2), shapes::grid(4, 4, 1.0, 1.0)] {
            let each = ready.deviation(&other).unwrap();
            assert_eq!(sorted.deviation(&other).unwrap(), each);
            let both = each.old_from_new.both(each.new_from_old);
            assert_eq!(Some(both), deviation(&sphere, &other, 3000));
        }
        assert!(ready.deviation(&Mesh::default()).is_none());
    }

    #[test]
    fn a_concave_polygon_is_measured_as_what_it_covers() {
        // A wide V, whose fan from the first corner would cover what lies between its arms.
        let corners = [(0., 0.), (4., 3.), (4., 4.), (0., 1.), (-4., 4.), (-4., 3.)];
        let corners = corners.map(|(x, y)| DVec3::new(x, y, 0.0));
        let mut whole = Mesh::from_parts(corners.to_vec(), vec![], vec![0]).unwrap();
        whole.push_face([1, 2, 3, 4, 5, 0].map(VertexId::new));
        let mut arms = Mesh::from_parts(corners.to_vec(), vec![], vec![0]).unwrap();
        arms.push_face([0, 1, 2, 3].map(VertexId::new));
        arms.push_face([0, 3, 4, 5].map(VertexId::new));
        let found = deviation(&whole, &arms, 4000).unwrap();
        assert!(found.max < 1e-12, "{}", found.max);
    }

    #[test]
    fn a_missing_piece_shows_in_one_direction_only() {
        let whole = shapes::grid(10, 10, 1.0, 1.0);
        let mut torn = Mesh::from_parts(whole.positions().to_vec(), vec![], vec![0]).unwrap();
        for (face, vertices) in whole.faces().take(50) {
            let _ = face;
            torn.push_face(vertices.iter().copied());
        }
        let to_torn = one_way_deviation(&whole, &torn, 4000).unwrap();
        let to_whole = one_way_deviation(&torn, &whole, 4000).unwrap();
        assert!((to_torn.max - 0.5).abs() < 0.01, "{}", to_torn.max);
        assert!(to_whole.max < 1e-12);
    }
}
