//! Fine detail brought back: a skin divided, and brought onto the model, level by level.
//!
//! ```text
//! skin ─▶ every triangle in four ─▶ vertices onto the model ─▶ those that would cross go back ─┐
//!           ▲                                                                                  │
//!           └───────────────────────────── next level ◀────────────────────────────────────────┘
//! ```
//!
//! A vertex goes to the closest point of the model, if that lies within reach, looks the same way
//! (or, in a model that faces both ways, just the other), and turns no face by more than 60°
//! against what it was when the level began. What then meets other faces goes back where it
//! came from, and so the skin stays closed, manifold and free of crossings. Cost: a closest point
//! a vertex and step, and a search for contacts a level.

use super::RemeshError;
use crate::attribute_transfer::Carried;
use crate::audit::{MeshAnalysis, Needs};
use crate::mesh::{Mesh, Model, VertexId};
use crate::parallel::{counted, mapped};
use crate::progress::{Failure, Observer};
use crate::spatial::Closest;
use crate::topology::{Edges, LinkedMesh};
use crate::triangulate::quality;
use glam::DVec3;

/// The most triangles that detail is brought back to.
pub const MOST_DETAIL: usize = 60_000_000;
/// Steps a level; in each a vertex goes half the way that is left, in the last all of it.
const STEPS: usize = 3;
/// Cosine of what a face may turn by.
const LEAN: f64 = 0.5;
/// Faces stay at least this even, or half as even as they were.
const EVEN: f64 = 0.1;
/// Cosine of what the model's and the skin's normals may differ by.
const ALONG: f64 = 0.3;
/// What lies nearer to the model than this share of the reach lies on it.
const ON: f64 = 1e-6;
/// What meets is taken back this many times, ever wider; then there is no such level. (Where faces
/// all but touch, even dividing them rounds some across others.)
const TRIES: usize = 6;

/// How much detail.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct DetailOptions {
    /// How many times triangles are divided in four.
    pub levels: usize,
    /// How far a vertex may travel, in model units.
    pub reach: f64,
}

impl DetailOptions {
    /// This many levels, with vertices that travel no farther than this.
    pub const fn of(levels: usize, reach: f64) -> Self {
        Self { levels, reach }
    }
}

/// A skin with detail.
#[derive(Clone, Debug)]
pub struct Detailed {
    /// The skin.
    pub model: Model,
    /// How many levels were done: fewer than asked for where the next would make faces meet.
    pub levels: usize,
    /// How many of its vertices lie on the model.
    pub on_model: usize,
    /// How many stayed off it: too far, or held back lest faces fold over or meet.
    pub held: usize,
}

/// Brings a model's detail back to its skin, a closed surface of triangles. Groups, materials and
/// colours are those of the nearest face.
///
/// # Errors
/// When there would be too many triangles, an option makes no sense, or the observer says to stop.
pub fn bring_back_detail(
    skin: &Model,
    model: &Model,
    options: &DetailOptions,
    observer: &dyn Observer,
) -> Result<Detailed, RemeshError> {
    Failure::unless_length("reach", options.reach)?;
    let count = skin.mesh.face_count() as f64 * 4f64.powi(options.levels as i32);
    if count > MOST_DETAIL as f64 {
        let levels = (MOST_DETAIL as f64 / skin.mesh.face_count() as f64).log(4.0);
        return Err(RemeshError::TooManyLevels {
            levels: options.levels,
            count,
            most: levels.max(0.0) as usize,
        });
    }
    let carried = Carried::by(model);
    let onto = Onto {
        model: &carried,
        reach: options.reach,
    };
    let mut mesh = skin.mesh.clone();
    let mut levels = 0;
    observer.begin("bringing detail back", options.levels as u64);
    for level in 0..options.levels {
        observer.check()?;
        let Some(finer) = onto.level(divided(&mesh)) else {
            break;
        };
        mesh = finer;
        levels = level + 1;
        observer.at(levels as u64);
    }
    let on_model = onto.on_model(&mesh);
    let held = mesh.vertex_count() - on_model;
    let mut detailed = Model::from(mesh);
    detailed.unit = skin.unit;
    detailed.up = skin.up;
    if model.attributes.colors.is_some() || !model.attributes.tags.is_empty() {
        carried.give_to(&mut detailed);
    }
    Ok(Detailed {
        levels,
        on_model,
        held,
        model: detailed,
    })
}

/// Every triangle in four, by the middles of its edges.
fn divided(mesh: &Mesh) -> Mesh {
    let edges = Edges::of(mesh);
    let first = mesh.vertex_count();
    let mut positions = mesh.positions().to_vec();
    positions.extend(edges.ids().map(|edge| {
        let [a, b] = edges.ends(edge).map(|v| mesh.position(v));
        (a + b) / 2.0
    }));
    let mut triangles = Vec::with_capacity(4 * mesh.face_count());
    for (face, corners) in mesh.faces() {
        let middles: Option<Vec<VertexId>> = mesh
            .face_range(face)
            .map(|corner| Some(VertexId::new(first + edges.at_corner(corner)?.index())))
            .collect();
        let (Some(middles), &[a, b, c]) = (middles, corners) else {
            continue;
        };
        let [ab, bc, ca] = [middles[0], middles[1], middles[2]];
        triangles.extend([[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]]);
    }
    Mesh::from_triangles(positions, &triangles).expect("middles of finite places")
}

/// What skins are brought onto.
struct Onto<'a> {
    model: &'a Carried<'a>,
    reach: f64,
}

impl Onto<'_> {
    /// Brings a divided skin onto the model; `None` where faces would meet, whatever is taken back.
    fn level(&self, mesh: Mesh) -> Option<Mesh> {
        let begin = mesh.positions().to_vec();
        let triangles: Vec<[VertexId; 3]> = mesh.faces().map(|(_, f)| [f[0], f[1], f[2]]).collect();
        let mut net = LinkedMesh::new(begin.clone(), &triangles);
        let normals: Vec<DVec3> = triangles
            .iter()
            .map(|t| {
                let [a, b, c] = t.map(|v| begin[v.index()]);
                (b - a).cross(c - a)
            })
            .collect();
        for step in 0..STEPS {
            let share = if step + 1 == STEPS { 1.0 } else { 0.5 };
            let going: Vec<Option<DVec3>> = mapped(begin.len(), 1024, |v| {
                let to = self.place(&net, &normals, begin[v], v as u32)?;
                Some(net.positions[v].lerp(to.point, share))
            });
            for (v, to) in going.into_iter().enumerate() {
                if let Some(to) = to
                    && stays_unfolded(&net, &normals, v as u32, to)
                {
                    net.positions[v] = to;
                }
            }
        }
        self.without_crossings(mesh, &begin, net.positions)
    }

    /// Where on the model a vertex belongs.
    fn place(
        &self,
        net: &LinkedMesh,
        normals: &[DVec3],
        begin: DVec3,
        vertex: u32,
    ) -> Option<Closest> {
        let here = net.positions[vertex as usize];
        let found = self.model.closest_within(here, self.reach)?;
        let own: DVec3 = net.around(vertex).map(|(t, _)| normals[t as usize]).sum();
        let there = self.model.normal(found.triangle);
        let agrees = own.dot(there).abs() >= ALONG * own.length() * there.length();
        (agrees && found.point.distance(begin) <= self.reach).then_some(found)
    }

    fn without_crossings(
        &self,
        mut mesh: Mesh,
        begin: &[DVec3],
        places: Vec<DVec3>,
    ) -> Option<Mesh> {
        mesh.positions_mut().copy_from_slice(&places);
        for time in 0..TRIES {
            let model = Model::from(mesh.clone());
            let mut analysis = MeshAnalysis::of(&model);
            analysis.prepare(Needs::Contacts, &());
            let contacts = analysis.contacts()?;
            let mut meets = mesh
                .face_ids()
                .filter(|face| contacts.touches(*face))
                .peekable();
            if meets.peek().is_none() {
                return Some(mesh);
            }
            let mut goes_back = vec![false; begin.len()];
            for v in meets.flat_map(|face| mesh.face(face)) {
                goes_back[v.index()] = true;
            }
            // What is next to that may meet it then: time by time, wider.
            for _ in 0..time {
                widen(&mesh, &mut goes_back);
            }
            for (v, place) in mesh.positions_mut().iter_mut().enumerate() {
                if goes_back[v] {
                    *place = begin[v];
                }
            }
        }
        None
    }

    /// How many vertices of a skin lie on the model.
    fn on_model(&self, mesh: &Mesh) -> usize {
        let near = ON * self.reach;
        let places = mesh.positions();
        let is_there = |place| self.model.closest_within(place, near).is_some();
        counted(places.len(), 256, |v| usize::from(is_there(places[v])))
    }
}

/// Marks the vertices next to marked ones too.
fn widen(mesh: &Mesh, marked: &mut [bool]) {
    let was = marked.to_vec();
    for (_, corners) in mesh.faces() {
        if corners.iter().any(|v| was[v.index()]) {
            corners.iter().for_each(|v| marked[v.index()] = true);
        }
    }
}

/// Whether no face at a vertex becomes thin, or turns too far from what it was when that moves.
fn stays_unfolded(net: &LinkedMesh, normals: &[DVec3], vertex: u32, to: DVec3) -> bool {
    net.around(vertex).all(|(t, [_, x, y])| {
        let [p, q] = [x, y].map(|v| net.positions[v as usize]);
        let (now, was) = ((p - to).cross(q - to), normals[t as usize]);
        let here = net.positions[vertex as usize];
        now.dot(was) >= LEAN * now.length() * was.length()
            && quality([to, p, q]) >= EVEN.min(0.5 * quality([here, p, q]))
            && now != DVec3::ZERO
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::measure::{deviation, volume};
    use crate::remesh::dual_contouring::{ReskinOptions, reskin};
    use crate::shapes;

    fn skin_of(mesh: &Mesh, cell: f64) -> Model {
        let options = ReskinOptions::of(cell);
        let model = Model::from(mesh.clone());
        let analysis = crate::audit::SortedAnalysis::of(&model, &());
        reskin(&analysis, &options, &()).unwrap().model
    }

    fn detailed(mesh: &Mesh, cell: f64, levels: usize) -> Detailed {
        let options = DetailOptions {
            levels,
            reach: cell,
        };
        let model = Model::from(mesh.clone());
        bring_back_detail(&skin_of(mesh, cell), &model, &options, &()).unwrap()
    }

    #[test]
    fn every_level_comes_nearer_and_stays_sound() {
        let bumpy = shapes::bumpy_sphere(40_000);
        let off = |mesh: &Mesh| deviation(mesh, &bumpy, 20_000).unwrap().rms;
        let mut last = off(&skin_of(&bumpy, 0.15).mesh);
        for levels in 1..=2 {
            let detailed = detailed(&bumpy, 0.15, levels);
            let mesh = &detailed.model.mesh;
            let now = off(mesh);
            assert!(now < 0.7 * last, "{now} after {last}");
            last = now;
            let options = audit::AuditOptions::default();
            let audit = audit(&detailed.model, &options, &()).unwrap();
            assert!(audit.mesh.watertight);
            assert_eq!(audit.count("intersecting-faces"), 0);
            assert_eq!(audit.count("pinched-vertices"), 0);
            // Some are held back: a coarse skin has faces that may not turn that far.
            assert!(detailed.on_model > 3 * detailed.held, "{}", detailed.held);
            assert!((volume(mesh) / volume(&bumpy) - 1.0).abs() < 0.02);
        }
    }

    #[test]
    fn nothing_travels_beyond_its_reach() {
        // The skin of a ball, held against a larger one.
        let skin = skin_of(&shapes::sphere(1.0, 4), 0.2);
        let larger = Model::from(shapes::sphere(1.5, 4));
        let options = DetailOptions {
            levels: 1,
            reach: 0.2,
        };
        let detailed = bring_back_detail(&skin, &larger, &options, &()).unwrap();
        assert_eq!(detailed.on_model, 0);
        assert!((volume(&detailed.model.mesh) - volume(&skin.mesh)).abs() < 1e-9);
        let far = DetailOptions {
            levels: 30,
            reach: 0.2,
        };
        assert!(matches!(
            bring_back_detail(&skin, &larger, &far, &()),
            Err(RemeshError::TooManyLevels { .. })
        ));
    }
}
