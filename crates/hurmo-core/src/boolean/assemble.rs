//! The model that is made of the shards that stay.

use super::rounds::Resolved;
use super::shards::All;
use super::windings::Fate;
use super::{How, Solids, Source, Tally};
use crate::carried::shares;
use crate::mesh::{FaceId, Model, Rebuild, VertexId};
use glam::DVec3;
use rustc_hash::FxHashMap;

pub(super) fn assemble(
    model: &Model,
    all: &All<'_, '_>,
    fates: &[Fate],
    solids: &Solids<'_>,
    new_points: Vec<DVec3>,
    was_young: &[bool],
    tally: &mut Tally,
) -> Resolved {
    let mesh = &model.mesh;
    let by_face = ByFace::of(mesh.face_count(), all, fates);
    let mut assembly = Assembly {
        model,
        all,
        new_points,
        numbers: FxHashMap::default(),
        rebuild: Rebuild::new(model),
    };
    let (mut group, mut is_new, mut sources) = (Vec::new(), Vec::new(), Vec::new());
    for face in mesh.face_ids() {
        if !all.shards.bounds_one(face) {
            assembly.rebuild.keep(face);
            group.push(None);
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
                for &(shard, triangle, turns) in by_face.shards(face) {
                    assembly.add(face, shard, triangle, turns);
                }
                tally.cut += 1;
            }
        }
        let count = assembly.rebuild.face_count();
        group.resize(count, Some((solids.group)(face)));
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
        group,
        is_new,
        sources,
        young,
    }
}

/// What there is of each face.
struct ByFace {
    begins: Vec<usize>,
    /// Shards that stay, the triangle that they take their values from, and whether they turn.
    shards: Vec<(u32, u32, bool)>,
    /// The common fate of faces of which nothing was cut.
    whole: Vec<Option<Fate>>,
}

impl ByFace {
    fn of(faces: usize, all: &All<'_, '_>, fates: &[Fate]) -> Self {
        let face_of = |triangle: u32| all.shards.soup.face(triangle as usize);
        // Faces whose triangles all lie on one line are of no shard: they go.
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
        for shard in 0..all.len() as u32 {
            let is_whole = (shard as usize) < all.whole();
            if !all.is_there(shard) {
                for (triangle, _) in all.sources(shard) {
                    see(face_of(triangle), None);
                }
                continue;
            }
            let fate = fates[shard as usize];
            let sources = all.sources(shard);
            // The first that runs as the shard will; or else the first.
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
                found.push((face_of(chosen.0).0, shard, chosen.0, turns));
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
            shards: found
                .into_iter()
                .map(|(_, s, t, turns)| (s, t, turns))
                .collect(),
            whole: whole
                .into_iter()
                .map(|fate| fate.unwrap_or(Some(Fate::Goes)))
                .collect(),
        }
    }

    fn shards(&self, face: FaceId) -> &[(u32, u32, bool)] {
        &self.shards[self.begins[face.index()]..self.begins[face.index() + 1]]
    }

    fn whole(&self, face: FaceId) -> Option<Fate> {
        self.whole[face.index()]
    }
}

struct Assembly<'a> {
    model: &'a Model,
    all: &'a All<'a, 'a>,
    new_points: Vec<DVec3>,
    /// New vertices by the numbers of their points.
    numbers: FxHashMap<u32, VertexId>,
    rebuild: Rebuild<'a>,
}

impl Assembly<'_> {
    /// Adds a shard as a piece of a face, with values from one of the face's triangles.
    fn add(&mut self, face: FaceId, shard: u32, triangle: u32, turns: bool) {
        let mut ids = self.all.corners(shard);
        if turns {
            ids.swap(1, 2);
        }
        let corners = ids.map(|id| self.corner(face, id, triangle));
        self.rebuild.moved_piece(face, corners.into_iter());
    }

    /// A corner of a piece: one of the face's own, or one made up of those of the triangle.
    fn corner(&mut self, face: FaceId, id: u32, triangle: u32) -> (usize, VertexId) {
        let mesh = &self.model.mesh;
        let at = |id: u32| {
            let own =
                |corner: &usize| self.all.shards.place[mesh.corners()[*corner].index()].0 == id;
            mesh.face_range(face).find(own)
        };
        if let Some(corner) = at(id) {
            return (corner, mesh.corners()[corner]);
        }
        let soup = &self.all.shards.soup;
        let position = self.all.position(id, &self.new_points);
        // Rounding may have moved it out of a thin triangle.
        let shares = shares(soup.corners(triangle as usize), position).map(|x| x.clamp(0.0, 1.0));
        let sum: f64 = shares.iter().sum();
        let shares = shares.map(|share| share / sum);
        let of = soup.vertices(triangle as usize).map(|v| at(v.0));
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
