//! Scenes that are turned and scaled as wholes.

use super::Scene;
use glam::{DAffine3, DMat3};

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
