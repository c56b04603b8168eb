//! How often closed surfaces wind round both sides of a face, by one ray for both.
//!
//! The ray goes up from the triangle's middle along the axis nearest to its normal. Seen along
//! that axis, other triangles lie round the middle, or beside it, by more than the two sides are
//! apart; then both sides see them alike, and differ by the triangle itself. Where one is too
//! near to be sure, there is no answer, and the sides must be asked one by one.
//!
//! Cost: a few comparisons for each triangle shown.

use super::boxes::rounded_outward;
use super::{Bounds32, TriangleHierarchy};
use glam::{DVec2, DVec3, Vec3Swizzles};

/// A ray along an axis, for both sides of a triangle.
#[derive(Clone, Copy)]
pub struct SidesRay {
    /// How coordinates are turned, so that the ray goes along the last.
    axis: usize,
    /// Where the ray starts.
    from: DVec3,
    /// How far the sides may be off it.
    reach: f64,
}

/// A count of what the ray from a triangle's middle goes through.
pub struct SidesTally {
    ray: SidesRay,
    own: usize,
    fronts: i32,
    unsure: bool,
}

impl SidesRay {
    /// A box round both sides.
    pub fn start(&self) -> Bounds32 {
        let back = |p: DVec3| match self.axis {
            0 => p.zxy(),
            1 => p.yzx(),
            _ => p,
        };
        let reach = DVec3::splat(self.reach);
        rounded_outward([back(self.from - reach), back(self.from + reach)])
    }

    /// A box round all of the ray.
    pub fn bounds(&self) -> Bounds32 {
        let [low, mut high] = self.start();
        high[self.axis] = f32::INFINITY;
        [low, high]
    }

    /// Whether the ray passes beside a turned box.
    #[inline]
    fn passes_beside(&self, low: DVec3, high: DVec3) -> bool {
        low.x > self.from.x + self.reach
            || low.y > self.from.y + self.reach
            || high.x < self.from.x - self.reach
            || high.y < self.from.y - self.reach
            || high.z < self.from.z - self.reach
    }

    /// How a triangle lies, seen along the ray.
    #[inline]
    fn seen(&self, [a, b, c]: [DVec3; 3]) -> Seen {
        let from = self.from.truncate();
        let (a, b, c) = (
            a.truncate() - from,
            b.truncate() - from,
            c.truncate() - from,
        );
        let area = (b - a).perp_dot(c - a);
        let sign = area.signum();
        let mut least_sure = true;
        for (p, q) in [(a, b), (b, c), (c, a)] {
            let side = p.perp_dot(q) * sign;
            let doubt = (q - p).abs().element_sum() * self.reach + 1e-12 * spread(p, q);
            if side < -doubt {
                return Seen::Beside;
            }
            least_sure &= side > doubt;
        }
        match least_sure {
            true => Seen::Round(area),
            false => Seen::Unsure,
        }
    }
}

impl SidesTally {
    /// Starts at a triangle of the hierarchy.
    pub fn new(hierarchy: &TriangleHierarchy<'_>, triangle: usize) -> Self {
        let (middle, offset) = hierarchy.middle_and_offset(triangle);
        let axis = offset.abs().max_position();
        let ray = SidesRay {
            axis,
            from: turned(middle, axis),
            reach: 2.0 * offset.length(),
        };
        let own = hierarchy.corners(triangle).map(|p| turned(p, axis));
        Self {
            ray,
            own: triangle,
            // From its front, a ray up goes through a triangle that looks down.
            fronts: if offset[axis] < 0.0 { -1 } else { 0 },
            unsure: !matches!(ray.seen(own), Seen::Round(_)),
        }
    }

    /// The ray.
    pub fn ray(&self) -> SidesRay {
        self.ray
    }

    /// Takes in a triangle of the hierarchy.
    #[inline]
    pub fn add(&mut self, hierarchy: &TriangleHierarchy<'_>, triangle: usize) {
        if triangle != self.own {
            self.add_other(hierarchy.corners(triangle));
        }
    }

    /// Takes in a triangle that is not of the hierarchy.
    #[inline]
    pub fn add_other(&mut self, corners: [DVec3; 3]) {
        if self.unsure {
            return;
        }
        let corners = corners.map(|p| turned(p, self.ray.axis));
        let [a, b, c] = corners;
        if self.ray.passes_beside(a.min(b).min(c), a.max(b).max(c)) {
            return;
        }
        match self.ray.seen(corners) {
            Seen::Beside => {}
            Seen::Unsure => self.unsure = true,
            Seen::Round(area) => {
                let (across, size) = ((b - a).cross(c - a), area.abs());
                let height = across.dot(a - self.ray.from) * area.signum();
                // A step to the side moves the place where the ray meets a slope.
                let doubt = self.ray.reach * (across.abs().element_sum() + size)
                    + 1e-12 * size * self.ray.from.z.abs().max(a.z.abs());
                if height.abs() <= doubt {
                    self.unsure = true;
                } else if height > 0.0 {
                    self.fronts += if area > 0.0 { 1 } else { -1 };
                }
            }
        }
    }

    /// How often all triangles shown wind round the front and the back, if that is sure.
    pub fn result(self) -> Option<[i32; 2]> {
        (!self.unsure).then_some([self.fronts, self.fronts + 1])
    }
}

enum Seen {
    /// All round the ray; twice the area.
    Round(f64),
    Beside,
    Unsure,
}

/// What a difference of products was made of.
fn spread(p: DVec2, q: DVec2) -> f64 {
    (p.x * q.y).abs() + (p.y * q.x).abs()
}

/// Coordinates in the same order, that of `axis` last.
#[inline]
fn turned(p: DVec3, axis: usize) -> DVec3 {
    match axis {
        0 => p.yzx(),
        1 => p.zxy(),
        _ => p,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{Mesh, VertexId};
    use crate::shapes;
    use crate::spatial::times_inside;

    fn several(shapes: &[Mesh]) -> Mesh {
        let mut all = Mesh::default();
        for shape in shapes {
            let base = all.vertex_count() as u32;
            shape.positions().iter().for_each(|&p| {
                all.push_vertex(p);
            });
            for (_, face) in shape.faces() {
                all.push_face(face.iter().map(|v| VertexId(v.0 + base)));
            }
        }
        all
    }

    /// How many of a model's triangles get an answer; each must be that of rays from each side.
    fn answered(mesh: &Mesh) -> f64 {
        let hierarchy = TriangleHierarchy::whole(mesh);
        let mut answered = 0;
        for triangle in 0..hierarchy.len() {
            let mut tally = SidesTally::new(&hierarchy, triangle);
            (0..hierarchy.len()).for_each(|other| tally.add(&hierarchy, other));
            if let Some(sides) = tally.result() {
                let (middle, offset) = hierarchy.middle_and_offset(triangle);
                let ask = |point| times_inside(&hierarchy, point).unwrap();
                let each = [ask(middle + offset), ask(middle - offset)];
                assert_eq!(sides, each, "triangle {triangle}");
                answered += 1;
            }
        }
        f64::from(answered) / hierarchy.len() as f64
    }

    #[test]
    fn both_sides_are_as_rays_from_each_say() {
        let sphere = shapes::sphere(1.0, 3);
        let mut inside_out = shapes::torus(0.9, 0.5, 24, 16);
        inside_out
            .positions_mut()
            .iter_mut()
            .for_each(|p| p.z = -p.z);
        let cube = shapes::cuboid(DVec3::splat(-0.7), DVec3::splat(0.6), 3);
        let far = DVec3::new(0.1, 0.2, 0.3);
        let other = shapes::cuboid(far - 0.5, far + 0.5, 2);
        let share = answered(&several(&[sphere, inside_out, cube, other]));
        assert!(share > 0.9, "{share}");
    }

    #[test]
    fn faces_on_each_other_have_no_answer_and_faces_apart_have() {
        let cube = |at: f64| shapes::cuboid(DVec3::splat(at), DVec3::splat(at + 1.0), 1);
        assert_eq!(answered(&several(&[cube(0.0), cube(0.0)])), 0.0);
        let leaning = |at: f64| {
            let mut cube = cube(at);
            cube.positions_mut()
                .iter_mut()
                .for_each(|p| p.x += 0.3 * p.y);
            cube
        };
        assert!(answered(&leaning(0.0)) > 0.6);
        assert!(answered(&several(&[leaning(0.0), leaning(0.25)])) > 0.6);
    }
}
