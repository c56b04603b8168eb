//! What the checks look at, each worked out once.

use super::Needs;
use super::caps::caps;
use crate::geometry::Bounds;
use crate::measure::{PartMeasure, part_measures, vector_area};
use crate::mesh::{FaceId, Mesh, Model, PartId, VertexId};
use crate::orientation::Patches;
use crate::parallel::{chosen, mapped};
use crate::progress::Observer;
use crate::spatial::{Contacts, TriangleHierarchy, faces_not_in, has_most_of, height_fields};
use crate::topology::{Edges, Fans, Parts, Rims, fans};
use crate::uv::Layout;
use std::collections::BTreeSet;
use std::sync::OnceLock;

/// A model with its connectivity.
pub struct MeshAnalysis<'m> {
    /// The model.
    pub model: &'m Model,
    /// Its mesh.
    pub mesh: &'m Mesh,
    /// Its edges.
    pub edges: Edges,
    /// Its parts.
    pub parts: Parts,
    /// Its rims.
    pub rims: Rims,
    /// Its patches, and which faces must turn.
    pub patches: Patches,
    /// The fans round every vertex.
    pub fans: Fans,
    /// Every face's area.
    pub areas: Vec<f64>,
    /// The bounds of the vertices that faces use.
    pub bounds: Option<Bounds>,
    /// The diagonal of the bounds of the vertices that faces use; 0 without faces.
    pub diagonal: f64,
    /// The exact-position weld: the first vertex at each vertex's place.
    pub first_at_place: Vec<VertexId>,
    /// Every part's size.
    pub part_measures: Vec<PartMeasure>,
    /// For every face, whether it has no area to speak of.
    empty: Vec<bool>,
    hierarchy: Option<TriangleHierarchy<'m>>,
    contacts: Option<Contacts>,
    caps: OnceLock<Option<Mesh>>,
    /// How it lies in its textures, if it has UVs.
    pub layout: Option<Layout<'m>>,
    /// A mesh, and those of its faces that meet others.
    before: Option<(&'m Mesh, &'m [FaceId])>,
}

/// Faces and parts that meet others.
pub struct Meeting {
    /// For every face, whether it meets another.
    pub faces: Vec<bool>,
    /// Pairs of parts whose faces meet, the lower first.
    pub parts: BTreeSet<(PartId, PartId)>,
}

impl<'m> MeshAnalysis<'m> {
    /// Works out the connectivity of a model.
    pub fn of(model: &'m Model) -> Self {
        let mesh = &model.mesh;
        // What needs no edges is done beside them; what does, afterwards.
        let (edges, (parts, first_at_place, areas, part_measures)) = rayon::join(
            || Edges::of(mesh),
            || {
                let parts = Parts::of(mesh);
                let places = crate::spatial::exact_weld(mesh.positions());
                let areas: Vec<f64> = mapped(mesh.face_count(), 4096, |face| {
                    vector_area(mesh, FaceId::new(face)).length()
                });
                let part_measures = part_measures(mesh, &parts, &areas);
                (parts, places, areas, part_measures)
            },
        );
        let ((patches, bounds), (fans, rims)) = rayon::join(
            || (Patches::of(mesh, &edges), crate::measure::bounds(mesh)),
            || (fans(mesh, &edges), Rims::of(mesh, &edges)),
        );
        let diagonal = bounds.map_or(0.0, |b| b.diagonal());
        let least = super::checks::least_area(diagonal);
        let empty = mapped(mesh.face_count(), 4096, |face| {
            areas[face] <= least || mesh.is_collapsed(FaceId::new(face))
        });
        Self {
            model,
            mesh,
            edges,
            rims,
            patches,
            fans,
            bounds,
            diagonal,
            first_at_place,
            part_measures,
            parts,
            areas,
            empty,
            hierarchy: None,
            contacts: None,
            caps: OnceLock::new(),
            layout: Layout::of(model),
            before: None,
        }
    }

    /// The same, with its faces sorted by place.
    pub fn into_sorted(mut self, observer: &dyn Observer) -> SortedAnalysis<'m> {
        self.prepare(Needs::TriangleHierarchy, observer);
        SortedAnalysis(self)
    }

    /// Looks at one of the model's sets of UVs, from 0, where it has been the first.
    pub fn look_at_uv_set(&mut self, set: usize) {
        if set > 0 {
            self.layout = Layout::of_set(self.model, set);
        }
    }

    /// Makes use of what is known of a mesh of which this one's is a successor: which of its
    /// faces meet others, sorted.
    pub fn knowing(mut self, before: &'m Mesh, meeting: &'m [FaceId]) -> Self {
        self.before = Some((before, meeting));
        self
    }

    /// Works out what the dearer checks build on, unless that has been done.
    pub fn prepare(&mut self, needs: Needs, observer: &dyn Observer) {
        if needs >= Needs::TriangleHierarchy && self.hierarchy.is_none() {
            observer.begin("sorting faces by place", 0);
            let faces: Vec<FaceId> = chosen(self.mesh.face_count(), 4096, |face| {
                Some(FaceId::new(face)).filter(|&face| !self.has_no_area(face))
            });
            let hierarchy = TriangleHierarchy::welded(
                self.mesh,
                &faces,
                |face| self.patches.reversed[face.index()],
                |vertex| self.first_at_place[vertex.index()],
            );
            self.hierarchy = Some(hierarchy);
        }
        if needs >= Needs::Contacts && self.contacts.is_none() {
            observer.begin("finding faces that meet", 0);
            let hierarchy = self.hierarchy.as_ref().expect("made above");
            let (mesh, places) = (self.mesh, &self.first_at_place);
            let part = |face| self.parts.of_face(mesh, face);
            let new = self.faces_to_look_at();
            let few = |new: &Vec<bool>| new.iter().filter(|&&new| new).count() * 8 < new.len();
            self.contacts = Some(match new.filter(few) {
                Some(new) => Contacts::of_new(hierarchy, &new, part),
                None => {
                    let empty = |face| self.has_no_area(face);
                    let settled = height_fields(hierarchy, mesh, &self.edges, places, empty);
                    Contacts::of(hierarchy, mesh.face_count(), &settled, part)
                }
            });
        }
    }

    /// For every face, whether it has come since, met another before, or was too small to be
    /// looked at then. No two others meet.
    fn faces_to_look_at(&self) -> Option<Vec<bool>> {
        let (before, meeting) = self
            .before
            .filter(|(before, _)| has_most_of(before, self.mesh))?;
        let diagonal = crate::measure::bounds(before).map_or(0.0, |b| b.diagonal());
        let least = super::checks::least_area(diagonal);
        let met_none = |face: FaceId| meeting.binary_search(&face).is_err();
        let mut new = faces_not_in(self.mesh, before, met_none);
        for (new, &area) in new.iter_mut().zip(&self.areas) {
            *new |= area <= least;
        }
        Some(new)
    }

    /// The faces that have an area, as triangles, each turned as its patch asks. Checks that need it say
    /// so, and are run on what has been prepared.
    pub(crate) fn hierarchy(&self) -> &TriangleHierarchy<'m> {
        self.hierarchy
            .as_ref()
            .expect("the check needs the hierarchy")
    }

    /// Which faces meet, where that has been worked out.
    pub fn contacts(&self) -> Option<&Contacts> {
        self.contacts.as_ref()
    }

    /// Faces and parts that meet others. Unlike [`contacts`](Self::contacts) it knows those of faces without area:
    /// they must be cut, too. `None` where contacts have not been worked out.
    pub fn meeting(&self) -> Option<Meeting> {
        let contacts = self.contacts()?;
        let mut meeting = Meeting {
            faces: mapped(self.mesh.face_count(), 4096, |face| {
                contacts.touches(FaceId::new(face))
            }),
            parts: contacts.parts.clone(),
        };
        if self.empty.iter().any(|&empty| empty) {
            let faces: Vec<FaceId> = self.mesh.face_ids().collect();
            let place = |vertex: VertexId| self.first_at_place[vertex.index()];
            let all = TriangleHierarchy::welded(self.mesh, &faces, |_| false, place);
            let part = |face| self.parts.of_face(self.mesh, face);
            let more = Contacts::of_new(&all, &self.empty, part);
            meeting.parts.extend(&more.parts);
            for (meets, more) in meeting.faces.iter_mut().zip(more.into_touching()) {
                *meets |= more;
            }
        }
        Some(meeting)
    }

    /// What would close the surface, if that is of use.
    pub fn caps(&self) -> Option<&Mesh> {
        if self.caps.get().is_none() {
            // Not under the lock: what works them out waits for other threads, and may take up a
            // check meanwhile that asks for them. Two that come at once find the same.
            let _ = self.caps.set(caps(self));
        }
        self.caps.get()?.as_ref()
    }

    /// Whether a face repeats a vertex or has too little area to count (`docs/checks.md`).
    #[inline]
    pub fn has_no_area(&self, face: FaceId) -> bool {
        self.empty[face.index()]
    }

    /// A part's size.
    pub fn part(&self, part: PartId) -> &PartMeasure {
        &self.part_measures[part.index()]
    }
}

/// An analysis of a model whose faces are sorted by place, too.
pub struct SortedAnalysis<'m>(MeshAnalysis<'m>);

impl<'m> SortedAnalysis<'m> {
    /// Works out the connectivity of a model, and sorts its faces.
    pub fn of(model: &'m Model, observer: &dyn Observer) -> Self {
        MeshAnalysis::of(model).into_sorted(observer)
    }

    /// The faces that have an area, as triangles, each turned as its patch asks.
    pub fn hierarchy(&self) -> &TriangleHierarchy<'m> {
        self.0.hierarchy()
    }
}

impl<'m> std::ops::Deref for SortedAnalysis<'m> {
    type Target = MeshAnalysis<'m>;

    fn deref(&self) -> &MeshAnalysis<'m> {
        &self.0
    }
}
