//! A model: a mesh with its attributes, line elements and unit.

use super::MeshError;
use super::{Attributes, Mesh, Unusable, VertexId};
use crate::units::{Axis, Conversion, Unit};
use glam::{DMat3, DVec3};
use std::sync::Arc;

/// What a file holds.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Model {
    /// Vertices and faces.
    pub mesh: Mesh,
    /// UVs, normals, colours, groups, materials.
    pub attributes: Attributes,
    /// Line elements: chains of vertices that belong to no face.
    pub lines: Vec<Vec<VertexId>>,
    /// What one unit of length is, where that is known.
    pub unit: Option<Unit>,
    /// Which axis points up, where that is known.
    pub up: Option<Axis>,
    /// What the file that it was read from holds that can't be used.
    pub unusable: Unusable,
}

impl From<Mesh> for Model {
    fn from(mesh: Mesh) -> Self {
        Self {
            mesh,
            ..Self::default()
        }
    }
}

impl Model {
    /// Names every vertex anew: `map[v]` is what `v` becomes; vertices mapped to one name are
    /// joined and keep the position and colour of the lowest of them. Names that nothing maps
    /// to must not exist: `count` is one past the highest.
    pub fn rename_vertices(&mut self, map: &[VertexId], count: usize) {
        // Those that can't be used stand where another does: joined or not, they are others now.
        self.unusable = Unusable::default();
        let mut positions = vec![DVec3::ZERO; count];
        let mut colors = self
            .attributes
            .colors
            .as_ref()
            .map(|_| vec![[0.0f32; 4]; count]);
        // Backwards, so that the lowest vertex of those that join is the one that stays.
        for old in (0..map.len()).rev() {
            let new = map[old].index();
            positions[new] = self.mesh.positions()[old];
            if let (Some(to), Some(from)) = (&mut colors, &self.attributes.colors) {
                to[new] = from[old];
            }
        }
        let corners = self.mesh.corners().iter().map(|v| map[v.index()]).collect();
        let starts = self.mesh.starts().to_vec();
        self.mesh = Mesh::from_parts(positions, corners, starts)
            .expect("renaming keeps faces and finite positions");
        self.attributes.colors = colors;
        for line in &mut self.lines {
            for vertex in line {
                *vertex = map[vertex.index()];
            }
        }
    }

    /// Turns and scales everything by the same matrix, the scene's spaces as well as the surface.
    ///
    /// # Errors
    /// When a coordinate would be no usable number; nothing has changed then.
    pub fn convert(&mut self, by: DMat3) -> Result<(), MeshError> {
        self.mesh.move_vertices(|_, position| by * position)?;
        let attributes = &mut self.attributes;
        if let Some(normals) = &mut attributes.normals {
            for normal in &mut normals.values {
                let length = normal.length();
                *normal = (by * *normal).normalize_or_zero() * length;
            }
        }
        if let Some(scene) = &mut attributes.scene {
            Arc::make_mut(scene).convert(by);
        }
        Ok(())
    }

    /// Turns and scales it to the unit and the axes of another, as far as both are known; whether it was
    /// other than so.
    ///
    /// # Errors
    /// When a coordinate would be no usable number.
    pub fn convert_like(&mut self, other: &Model) -> Result<bool, MeshError> {
        let by = self.conversion_to(other.unit, other.up).matrix();
        by.map(|by| self.convert(by)).transpose()?;
        Ok(by.is_some())
    }

    /// How it is scaled and turned to a unit and an axis up, as far as both are known.
    pub fn conversion_to(&self, unit: Option<Unit>, up: Option<Axis>) -> Conversion {
        let units = self.unit.zip(unit).filter(|(own, unit)| own != unit);
        let axes = self.up.zip(up).filter(|(own, up)| own != up);
        Conversion {
            scale: units.map(|(own, unit)| own.per(unit)),
            turn: axes.map(|(own, up)| own.turned_to(up)),
        }
    }

    /// Drops the vertices that neither a face nor a line element uses; returns how many went.
    pub fn drop_unused_vertices(&mut self) -> usize {
        let mut unused = self.mesh.used_vertices();
        unused.iter_mut().for_each(|used| *used = !*used);
        for vertex in self.lines.iter().flatten() {
            unused[vertex.index()] = false;
        }
        self.drop_vertices(&unused)
    }

    /// Drops some vertices, which no face and no line element may use; returns how many went.
    pub fn drop_vertices(&mut self, goes: &[bool]) -> usize {
        let before = goes.len();
        let kept = goes.iter().filter(|&&goes| !goes).count();
        if kept == before {
            return 0;
        }
        let mut new_name = vec![VertexId(u32::MAX); before];
        let mut positions = Vec::with_capacity(kept);
        for (old, _) in goes.iter().enumerate().filter(|(_, goes)| !**goes) {
            new_name[old] = VertexId::new(positions.len());
            positions.push(self.mesh.positions()[old]);
        }
        if let Some(colors) = &mut self.attributes.colors {
            let mut goes = goes.iter();
            colors.retain(|_| !*goes.next().expect("a colour for every vertex"));
        }
        let corners = self
            .mesh
            .corners()
            .iter()
            .map(|v| new_name[v.index()])
            .collect();
        self.mesh = Mesh::from_parts(positions, corners, self.mesh.starts().to_vec())
            .expect("dropping unused vertices keeps every face");
        for vertex in self.lines.iter_mut().flatten() {
            *vertex = new_name[vertex.index()];
        }
        before - kept
    }
}
