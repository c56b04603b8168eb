//! The model that is made of the fragments that stay.

use super::convex::merged;
use super::fragments::All;
use super::rounds::Resolved;
use super::windings::Fate;
use super::{How, Source, Tally};
use crate::attribute_transfer::shares;
use crate::measure::vector_area;
use crate::mesh::{FaceId, Model, Rebuild, VertexId};
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;

pub(super) fn assemble(
    model: &Model,
    all: &All<'_, '_>,
    fates: &[Fate],
    new_points: Vec<DVec3>,
    was_young: &[bool],
    tally: &mut Tally,
) -> Resolved {
    let mesh = &model.mesh;
    let by_face = ByFace::of(mesh.face_count(), all, fates);
    // Later rounds cut what came of merging: they would only cut it again.
    let free = match was_young.is_empty() {
        true => by_face.free_edges(model, all),
        false => FxHashSet::default(),
    };
    let of_corners = &model.attributes;
    let mut assembly = Assembly {
        blends: of_corners.uvs.is_some()
            || of_corners.normals.is_some()
            || of_corners.colors.is_some(),
        model,
        all,
        new_points,
        numbers: FxHashMap::default(),
        rebuild: Rebuild::new(model),
    };
    let (mut is_new, mut sources) = (Vec::new(), Vec::new());
    for face in mesh.face_ids() {
        if !all.fragments.bounds_one(face) {
            assembly.rebuild.keep(face);
            is_new.push(false);
            let how = How::Kept;
            sources.push(Source { face, how });
            continue;
        }
        match by_face.whole(face) {
            Some(Fate::Stays) => assembly.rebuild.keep(face),
            Some(Fate::Turns) => {
                assembly.rebuild.turned(face);
                tally.turned += 1;
            }
            Some(Fate::Goes) => tally.dropped += 1,
            None => {
                assembly.add(face, by_face.fragments(face), &free);
                tally.cut += 1;
            }
        }
        let count = assembly.rebuild.face_count();
        is_new.resize(count, by_face.whole(face).is_none());
        let how = match by_face.whole(face) {
            None => How::Cut,
            Some(Fate::Turns) => How::Turned,
            Some(_) => How::Kept,
        };
        sources.resize(count, Source { face, how });
    }
    let mut result = assembly.rebuild.finish();
    let mut young = was_young.to_vec();
    young.resize(mesh.vertex_count(), false);
    young.resize(result.mesh.vertex_count(), true);
    let mut goes = result.drop_what_lost_its_faces(model).into_iter();
    young.retain(|_| !goes.next().unwrap_or(false));
    Resolved {
        model: result,
        is_new,
        sources,
        young,
    }
}

/// What there is of each face.
struct ByFace {
    begins: Vec<usize>,
    /// Fragments that stay, the triangle that they take their values from, and whether they turn.
    fragments: Vec<(u32, u32, bool)>,
    /// The common fate of faces of which nothing was cut.
    whole: Vec<Option<Fate>>,
}

impl ByFace {
    fn of(faces: usize, all: &All<'_, '_>, fates: &[Fate]) -> Self {
        let face_of = |triangle: u32| all.fragments.hierarchy.face(triangle as usize);
        // Faces whose triangles all lie on one line are of no fragment: they go.
        let mut whole: Vec<Option<Option<Fate>>> = vec![None; faces];
        let mut found: Vec<(u32, u32, u32, bool)> = Vec::new();
        let mut see = |face: FaceId, fate: Option<Fate>| {
            let known = &mut whole[face.index()];
            *known = match *known {
                None => Some(fate),
                Some(known) if known == fate => Some(known),
                Some(_) => Some(None),
            };
        };
        for fragment in 0..all.len() as u32 {
            let is_whole = (fragment as usize) < all.whole();
            if !all.is_there(fragment) {
                for (triangle, _) in all.sources(fragment) {
                    see(face_of(triangle), None);
                }
                continue;
            }
            let fate = fates[fragment as usize];
            let sources = all.sources(fragment);
            // The first that runs as the fragment will; or else the first.
            let runs = |&&(_, turned): &&(u32, bool)| turned == (fate == Fate::Turns);
            let chosen = sources.iter().find(runs).unwrap_or(&sources[0]);
            for source in &sources {
                let turned = source.1 != (fate == Fate::Turns);
                let own = match fate {
                    _ if !is_whole => None,
                    Fate::Goes => Some(Fate::Goes),
                    _ if source != chosen => Some(Fate::Goes),
                    _ if turned => Some(Fate::Turns),
                    _ => Some(Fate::Stays),
                };
                see(face_of(source.0), own);
            }
            if fate != Fate::Goes {
                let turns = fate == Fate::Turns;
                found.push((face_of(chosen.0).0, fragment, chosen.0, turns));
            }
        }
        found.sort_unstable();
        let mut begins = vec![0; faces + 1];
        for &(face, ..) in &found {
            begins[face as usize + 1] += 1;
        }
        for face in 0..faces {
            begins[face + 1] += begins[face];
        }
        Self {
            begins,
            fragments: found
                .into_iter()
                .map(|(_, s, t, turns)| (s, t, turns))
                .collect(),
            whole: whole
                .into_iter()
                .map(|fate| fate.unwrap_or(Some(Fate::Goes)))
                .collect(),
        }
    }

    fn fragments(&self, face: FaceId) -> &[(u32, u32, bool)] {
        &self.fragments[self.begins[face.index()]..self.begins[face.index() + 1]]
    }

    fn whole(&self, face: FaceId) -> Option<Fate> {
        self.whole[face.index()]
    }

    /// Edges within cut polygons, the lower end first, that have nothing but two pieces of one plane at them.
    fn free_edges(&self, model: &Model, all: &All<'_, '_>) -> FxHashSet<[u32; 2]> {
        let mesh = &model.mesh;
        let mut sides: FxHashMap<[u32; 2], Sides> = FxHashMap::default();
        let polygons = mesh.face_ids().filter(|&face| mesh.face(face).len() > 3);
        for face in polygons.filter(|&face| self.whole(face).is_none()) {
            for &(fragment, triangle, turns) in self.fragments(face) {
                for edge in edges(all.corners(fragment)) {
                    let here = sides.entry(edge).or_default();
                    here.within += 1;
                    here.is_flat &= match here.first {
                        None => true,
                        Some(first) => {
                            first.0 == face
                                && first.2 == turns
                                && lie_in_one_plane(all, first.1, triangle)
                        }
                    };
                    here.first.get_or_insert((face, triangle, turns));
                }
            }
        }
        sides.retain(|_, sides| sides.within == 2 && sides.is_flat);
        if sides.is_empty() {
            return FxHashSet::default();
        }
        for &(fragment, ..) in &self.fragments {
            for edge in edges(all.corners(fragment)) {
                if let Some(sides) = sides.get_mut(&edge) {
                    sides.all += 1;
                }
            }
        }
        let free = sides.into_iter().filter(|(_, sides)| sides.all == 2);
        free.map(|(edge, _)| edge).collect()
    }
}

/// What is at an edge.
struct Sides {
    /// Pieces of cut polygons, and of all that stays.
    within: usize,
    all: usize,
    /// Of the first of them: its face, the triangle it was cut from, and whether it turns.
    first: Option<(FaceId, u32, bool)>,
    /// Whether the others are of the same face and plane.
    is_flat: bool,
}

impl Default for Sides {
    fn default() -> Self {
        Self {
            within: 0,
            all: 0,
            first: None,
            is_flat: true,
        }
    }
}

fn edges([a, b, c]: [u32; 3]) -> [[u32; 2]; 3] {
    [[a, b], [b, c], [c, a]].map(|[a, b]| [a.min(b), a.max(b)])
}

/// The sine of the angle up to which triangles of a polygon are one plane.
const ONE_PLANE: f64 = 1e-6;

fn lie_in_one_plane(all: &All<'_, '_>, one: u32, two: u32) -> bool {
    let [one, two] = [one, two].map(|triangle| {
        let [a, b, c] = all.fragments.hierarchy.corners(triangle as usize);
        (b - a).cross(c - a).normalize_or_zero()
    });
    one == two || one.dot(two) > 0.0 && one.cross(two).length() <= ONE_PLANE
}

struct Assembly<'a> {
    model: &'a Model,
    all: &'a All<'a, 'a>,
    /// Whether corners or vertices have values, to be made up for new ones.
    blends: bool,
    new_points: Vec<DVec3>,
    /// New vertices by the numbers of their points.
    numbers: FxHashMap<u32, VertexId>,
    rebuild: Rebuild<'a>,
}

impl Assembly<'_> {
    /// Adds fragments as pieces of a face, with values from the face's triangles; those beside free edges as
    /// one.
    fn add(&mut self, face: FaceId, fragments: &[(u32, u32, bool)], free: &FxHashSet<[u32; 2]>) {
        let mesh = &self.model.mesh;
        let most = mesh.face(face).len();
        if most == 3 || free.is_empty() {
            for &(fragment, triangle, turns) in fragments {
                self.piece(face, &self.corners(fragment, turns), |_| triangle);
            }
            return;
        }
        for turns in [false, true] {
            let there = fragments.iter().filter(|fragment| fragment.2 == turns);
            let (mut triangles, mut of) = (Vec::new(), FxHashMap::default());
            for &(fragment, triangle, _) in there {
                let corners = self.corners(fragment, turns);
                for id in corners {
                    of.entry(id).or_insert(triangle);
                }
                triangles.push(corners);
            }
            let area = vector_area(mesh, face);
            let normal = if turns { -area } else { area }.normalize_or_zero();
            let at = |id: u32| self.all.position(id, &self.new_points);
            let polygons = merged(&triangles, most, normal, at, |edge| free.contains(&edge));
            for polygon in polygons {
                self.piece(face, &polygon, |id| of[&id]);
            }
        }
    }

    fn corners(&self, fragment: u32, turns: bool) -> [u32; 3] {
        let [a, b, c] = self.all.corners(fragment);
        if turns { [a, c, b] } else { [a, b, c] }
    }

    /// Adds a piece of a face over these points, with values from the triangle that `of` names.
    fn piece(&mut self, face: FaceId, ids: &[u32], of: impl Fn(u32) -> u32) {
        let corners: SmallVec<[(usize, VertexId); 4]> = ids
            .iter()
            .map(|&id| self.corner(face, id, of(id)))
            .collect();
        self.rebuild.moved_piece(face, corners.into_iter());
    }

    /// A corner of a piece: one of the face's own, or one made up of those of the triangle.
    fn corner(&mut self, face: FaceId, id: u32, triangle: u32) -> (usize, VertexId) {
        let mesh = &self.model.mesh;
        let at = |id: u32| {
            let own =
                |corner: &usize| self.all.fragments.place[mesh.corners()[*corner].index()].0 == id;
            mesh.face_range(face).find(own)
        };
        if let Some(corner) = at(id) {
            return (corner, mesh.corners()[corner]);
        }
        let position = self.all.position(id, &self.new_points);
        if !self.blends {
            let vertex = match (id as usize) < mesh.vertex_count() {
                true => VertexId(id),
                false => self.vertex(id, position, &[]),
            };
            return (mesh.face_range(face).start, vertex);
        }
        let hierarchy = &self.all.fragments.hierarchy;
        // Rounding may have moved it out of a thin triangle.
        let shares =
            shares(hierarchy.corners(triangle as usize), position).map(|x| x.clamp(0.0, 1.0));
        let sum: f64 = shares.iter().sum();
        let shares = shares.map(|share| share / sum);
        let of = hierarchy.vertices(triangle as usize).map(|v| at(v.0));
        let of: Vec<(usize, f64)> = (of.into_iter().flatten()).zip(shares).collect();
        let vertex = match (id as usize) < mesh.vertex_count() {
            true => VertexId(id),
            false => self.vertex(id, position, &of),
        };
        (self.rebuild.blended(of.into_iter()), vertex)
    }

    /// The vertex at a new point, coloured as the face that asks first is there.
    fn vertex(&mut self, id: u32, position: DVec3, of: &[(usize, f64)]) -> VertexId {
        if let Some(&vertex) = self.numbers.get(&id) {
            return vertex;
        }
        let corners = self.model.mesh.corners();
        let color = self.model.attributes.colors.as_ref().map(|colors| {
            let mut mean = [0.0; 4];
            for &(corner, share) in of {
                let color = colors[corners[corner].index()];
                (0..4).for_each(|i| mean[i] += color[i] * share as f32);
            }
            mean
        });
        let like = of
            .first()
            .map_or(VertexId(0), |&(corner, _)| corners[corner]);
        let vertex = self.rebuild.colored_vertex(position, like, color);
        self.numbers.insert(id, vertex);
        vertex
    }
}
