//! From where a model is seen, and what of it.

use glam::{DMat3, DVec3};
use hurmo_core::geometry::Bounds;
use hurmo_core::units::Axis;

/// A direction to look from, by angles in degrees.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct View {
    /// How far round, from the front, anticlockwise seen from above.
    pub turn: f64,
    /// How far up.
    pub rise: f64,
    /// Which axis of the model points up.
    pub up: Axis,
}

impl View {
    /// From the front, the right and above, with z up.
    pub const THREE_QUARTER: View = View::new(35.0, 25.0);

    /// A direction, with z up.
    pub const fn new(turn: f64, rise: f64) -> Self {
        Self {
            turn,
            rise,
            up: Axis::Z,
        }
    }

    /// The views that have a name.
    pub const NAMED: [(&'static str, View); 7] = [
        ("three-quarter", View::THREE_QUARTER),
        ("front", View::new(0.0, 0.0)),
        ("right", View::new(90.0, 0.0)),
        ("back", View::new(180.0, 0.0)),
        ("left", View::new(270.0, 0.0)),
        ("top", View::new(0.0, 90.0)),
        ("bottom", View::new(0.0, -90.0)),
    ];

    /// The same, with another axis up.
    pub fn with_up(self, up: Axis) -> Self {
        Self { up, ..self }
    }

    /// The view from which a direction points at the eye, as far as up and down allow.
    pub fn facing(direction: DVec3, up: Axis) -> Self {
        let seen = up_to_z(up) * direction;
        let level = seen.truncate().length();
        Self {
            turn: match level > 1e-9 {
                true => seen.x.atan2(-seen.y).to_degrees(),
                false => 0.0,
            },
            rise: seen.z.atan2(level).to_degrees(),
            up,
        }
    }

    /// Rows: right, up, and towards the eye.
    pub fn axes(self) -> DMat3 {
        let (turn, rise) = (self.turn.to_radians(), self.rise.to_radians());
        let right = DVec3::new(turn.cos(), turn.sin(), 0.0);
        let level = DVec3::new(turn.sin(), -turn.cos(), 0.0);
        let eye = level * rise.cos() + DVec3::Z * rise.sin();
        let up = eye.cross(right);
        DMat3::from_cols(right, up, eye).transpose() * up_to_z(self.up)
    }
}

/// The turn that brings an axis to z.
fn up_to_z(up: Axis) -> DMat3 {
    match up {
        Axis::Z => DMat3::IDENTITY,
        Axis::Y => DMat3::from_cols(DVec3::X, DVec3::Z, -DVec3::Y),
        Axis::X => DMat3::from_cols(DVec3::Z, DVec3::Y, -DVec3::X),
    }
}

/// Where points of a model come to lie in a frame: x and y in samples, y down, z towards the
/// eye in model units.
#[derive(Clone, Copy, Debug)]
pub struct Projection {
    axes: DMat3,
    middle: DVec3,
    scale: f64,
    half: [f64; 2],
}

impl Projection {
    /// Shows all of a box, in a frame of this size, but for a margin.
    pub fn fitting(view: View, shown: &Bounds, frame: [f64; 2], margin: f64) -> Self {
        let corner = |i: usize| {
            let pick = |axis: usize| match i >> axis & 1 {
                0 => shown.min[axis],
                _ => shown.max[axis],
            };
            DVec3::new(pick(0), pick(1), pick(2))
        };
        Self::fitting_points(view, (0..8).map(corner), frame, margin)
    }

    /// Shows all of some points, in a frame of this size, but for a margin.
    pub fn fitting_points(
        view: View,
        points: impl IntoIterator<Item = DVec3>,
        [width, height]: [f64; 2],
        margin: f64,
    ) -> Self {
        let axes = view.axes();
        let seen = Bounds::of(points.into_iter().map(|p| axes * p)).unwrap_or(Bounds {
            min: DVec3::ZERO,
            max: DVec3::ONE,
        });
        let size = seen.size().max(DVec3::splat(f64::MIN_POSITIVE));
        let room = 1.0 - 2.0 * margin;
        Self {
            axes,
            middle: seen.middle(),
            scale: (width * room / size.x).min(height * room / size.y),
            half: [width / 2.0, height / 2.0],
        }
    }

    /// Where a point comes to lie.
    #[inline]
    pub fn of(&self, point: DVec3) -> DVec3 {
        let seen = self.axes * point - self.middle;
        DVec3::new(
            self.half[0] + seen.x * self.scale,
            self.half[1] - seen.y * self.scale,
            seen.z,
        )
    }

    /// A direction as the eye sees it: right, up, towards the eye.
    #[inline]
    pub fn direction(&self, direction: DVec3) -> DVec3 {
        self.axes * direction
    }

    /// How many samples a unit of length takes.
    pub fn scale(&self) -> f64 {
        self.scale
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn named_views_look_along_their_axes() {
        let eye = |name: &str, up| {
            let view = View::NAMED.iter().find(|(n, _)| *n == name).unwrap().1;
            view.with_up(up).axes().transpose().z_axis
        };
        assert!(eye("front", Axis::Z).distance(-DVec3::Y) < 1e-12);
        assert!(eye("right", Axis::Z).distance(DVec3::X) < 1e-12);
        assert!(eye("top", Axis::Z).distance(DVec3::Z) < 1e-12);
        assert!(eye("top", Axis::Y).distance(DVec3::Y) < 1e-12);
        assert!(eye("front", Axis::Y).distance(DVec3::Z) < 1e-12);
    }

    #[test]
    fn facing_a_direction_brings_it_to_the_eye() {
        for up in Axis::ALL {
            for direction in [
                DVec3::new(1.0, 2.0, 0.5),
                -DVec3::X,
                DVec3::new(-0.3, 0.1, -0.9),
            ] {
                let eye = View::facing(direction, up).axes().transpose().z_axis;
                assert!(
                    eye.distance(direction.normalize()) < 1e-9,
                    "{up:?} {direction}"
                );
            }
        }
    }
}
