//! A place from close by, from where it is seen best.

use crate::camera::{Projection, View};
use crate::closeup::{best_view, is_hidden};
use crate::color::FRAME;
use crate::picture::{Frame, Picture};
use crate::scene::{Marks, Scene};
use glam::DVec3;
use hurmo_core::geometry::Bounds;
use hurmo_core::mesh::VertexId;
use hurmo_core::units::Axis;

/// A place to look at closely.
#[derive(Clone, Copy, Debug)]
pub struct Spot {
    /// Its middle.
    pub at: DVec3,
    /// How far it reaches from there.
    pub reach: f64,
}

/// How a place is looked at.
#[derive(Clone, Copy)]
pub(crate) struct Seen {
    shown: Bounds,
    view: View,
    /// Whether something stands before it.
    is_hidden: bool,
}

impl Spot {
    /// The box round it.
    pub fn bounds(&self) -> Bounds {
        let room = DVec3::splat(self.reach);
        Bounds {
            min: self.at - room,
            max: self.at + room,
        }
    }

    /// From where its middle is seen best in a scene; other marks than that don't count.
    pub(crate) fn seen(&self, scene: &Scene<'_>, up: Axis) -> Seen {
        let shown = self.bounds();
        let mut marks = Marks::default();
        marks.points.push((self.at, FRAME));
        let marked = scene.with_marks(marks);
        let near = marked.near(&shown);
        let view = best_view(&near, facing(&near, &shown), &shown, up);
        Seen {
            is_hidden: is_hidden(&marked, &near, view, &shown),
            view,
            shown,
        }
    }
}

impl Seen {
    /// Draws the place; what stands before it is cut away.
    pub fn draw(&self, picture: &mut Picture, scene: &Scene<'_>, frame: Frame) {
        let projection = Projection::fitting(self.view, &self.shown, frame.samples(), 0.0);
        match self.is_hidden {
            true => picture.draw(&scene.near(&self.shown), &projection, frame),
            false => picture.draw(scene, &projection, frame),
        }
    }
}

/// Which way most of what lies in a box faces.
fn facing(scene: &Scene<'_>, shown: &Bounds) -> DVec3 {
    let is_in = |at: DVec3| at.cmpge(shown.min).all() && at.cmple(shown.max).all();
    let corners = |t: &[VertexId; 3]| t.map(|v| scene.positions[v.index()]);
    let triangles = scene.triangles.iter().map(corners);
    let inside = triangles.filter(|[a, b, c]| is_in((a + b + c) / 3.0));
    inside.map(|[a, b, c]| (b - a).cross(c - a)).sum()
}
