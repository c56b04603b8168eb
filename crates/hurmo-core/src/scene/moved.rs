//! Scenes that are turned, scaled and moved as wholes.

use super::Scene;
use crate::mesh::MeshError;
use crate::mesh::Model;
use crate::units::Axis;
use glam::{DAffine3, DMat3, DVec3};
use std::sync::Arc;

/// Where a model is to have its origin.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Origin {
    /// In the middle of the ground that it stands on.
    Base,
    /// In the middle of its bounds.
    Centre,
}

impl Scene {
    /// Turns and scales all spaces alike, the nodes' own as well as that of the scene: meshes, and
    /// where nodes stand, change by the same matrix, and no node turns or scales what it did not.
    pub fn convert(&mut self, by: DMat3) {
        let by = DAffine3::from_mat3(by);
        let back = by.inverse();
        for node in &mut self.nodes {
            // What is there is not rounded where nothing turns or scales.
            let translation = by.transform_vector3(node.local.translation);
            if node.local.matrix3 != DMat3::IDENTITY {
                node.local = by * node.local * back;
            }
            node.local.translation = translation;
        }
    }
}

impl Model {
    /// Moves everything, so that the point given comes to lie at the origin.
    ///
    /// # Errors
    /// When a coordinate would be no usable number; nothing has moved then.
    pub fn move_to_origin(&mut self, point: DVec3) -> Result<(), MeshError> {
        self.mesh.move_vertices(|_, position| position - point)?;
        if let Some(scene) = &mut self.attributes.scene {
            let scene = Arc::make_mut(scene);
            for root in scene.roots.clone() {
                scene.nodes[root.index()].local.translation -= point;
            }
        }
        Ok(())
    }

    /// The point of the model that is to be its origin; none of one without size.
    pub fn origin(&self, origin: Origin, up: Axis) -> Option<DVec3> {
        let bounds = self.shown_bounds()?;
        let mut point = bounds.middle();
        if origin == Origin::Base {
            point[up as usize] = bounds.min[up as usize];
        }
        Some(point)
    }
}
