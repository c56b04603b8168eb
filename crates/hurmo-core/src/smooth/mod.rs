//! Taking noise out of a surface: vertices move, edges and faces stay as they are.
//!
//! ```text
//! soft ─▶ shrink a little, swell a little more, time and again         (Taubin 1995)
//! hard ─▶ even out the faces' normals, but not across edges ─▶ vertices after the normals
//!                              (Zheng, Fu, Au & Tai 2011; Sun, Rosin, Martin & Langbein 2007)
//! ```
//!
//! Vertices on rims move along their rims only; where sheets branch, and on faces that are not
//! to be touched, they stay. Cost: a pass over the edges, or over the pairs of faces at them,
//! a round.
//!
//! ```
//! use hurmo_core::smooth::{Kind, SmoothOptions, smooth};
//! use hurmo_core::{Model, shapes};
//!
//! let ball = Model::from(shapes::sphere(1.0, 3));
//! let calm = smooth(&ball, &SmoothOptions::of(10, Kind::Soft), &())?;
//! assert_eq!(calm.model.mesh.face_count(), ball.mesh.face_count());
//! # Ok::<(), hurmo_core::Failure>(())
//! ```

mod bilateral_normals;
mod taubin;

use crate::mesh::{Mesh, Model};
use crate::progress::{Cancelled, Observer};
use crate::topology::Edges;
use glam::DVec3;

/// What kind of noise is taken out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Kind {
    /// Everything that is rough is smoothed; what is large stays as large as it is.
    Soft,
    /// Faces are evened out, edges between them stay sharp.
    Hard,
}

/// How to smooth.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct SmoothOptions {
    /// How many rounds.
    pub rounds: usize,
    /// What kind.
    pub kind: Kind,
    /// The faces whose vertices may move, by number; all where `None`. Vertices that other faces
    /// have too stay.
    pub faces: Option<Vec<bool>>,
}

impl SmoothOptions {
    /// This many rounds of a kind, over all faces.
    pub const fn of(rounds: usize, kind: Kind) -> Self {
        Self {
            rounds,
            kind,
            faces: None,
        }
    }
}

/// A smoothed model.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct SmoothOutcome {
    /// The model.
    pub model: Model,
    /// How many vertices moved.
    pub moved: usize,
    /// How far the one that moved furthest did.
    pub furthest: f64,
}

/// How a vertex may move.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum May {
    Anywhere,
    AlongRim,
    Stay,
}

/// The vertices next to each.
struct Around {
    starts: Vec<u32>,
    others: Vec<u32>,
}

impl Around {
    fn of(&self, vertex: usize) -> &[u32] {
        &self.others[self.starts[vertex] as usize..self.starts[vertex + 1] as usize]
    }

    /// By pairs, each entered both ways.
    fn by(pairs: &[[u32; 2]], count: usize) -> Self {
        let mut starts = vec![0u32; count + 1];
        for pair in pairs {
            pair.iter().for_each(|&v| starts[v as usize + 1] += 1);
        }
        for i in 0..count {
            starts[i + 1] += starts[i];
        }
        let mut next = starts.clone();
        let mut others = vec![0; pairs.len() * 2];
        for &[a, b] in pairs {
            for (v, other) in [(a, b), (b, a)] {
                others[next[v as usize] as usize] = other;
                next[v as usize] += 1;
            }
        }
        Self { starts, others }
    }
}

/// What of a surface smoothing goes by.
struct Neighbourhood {
    edges: Edges,
    may: Vec<May>,
    /// For every vertex, what it is evened out with: along rims only the next on the rim.
    around: Around,
}

impl Neighbourhood {
    fn of(mesh: &Mesh, faces: Option<&[bool]>) -> Self {
        let edges = Edges::of(mesh);
        let mut may = vec![May::Anywhere; mesh.vertex_count()];
        let mut rims = vec![0u32; mesh.vertex_count()];
        for edge in edges.ids() {
            for end in edges.ends(edge) {
                match edges.sides(edge).len() {
                    1 => rims[end.index()] += 1,
                    2 => {}
                    _ => may[end.index()] = May::Stay,
                }
            }
        }
        for (v, may) in may.iter_mut().enumerate().filter(|(v, _)| rims[*v] > 0) {
            *may = match (*may, rims[v]) {
                (May::Anywhere, 2) => May::AlongRim,
                _ => May::Stay,
            };
        }
        if let Some(faces) = faces {
            let still = mesh.face_ids().filter(|face| !faces[face.index()]);
            for v in still.flat_map(|face| mesh.face(face)) {
                may[v.index()] = May::Stay;
            }
        }
        let pairs = |sides: std::ops::RangeInclusive<usize>| -> Vec<[u32; 2]> {
            let those = edges
                .ids()
                .filter(|&edge| sides.contains(&edges.sides(edge).len()));
            those.map(|edge| edges.ends(edge).map(|v| v.0)).collect()
        };
        let full = Around::by(&pairs(1..=usize::MAX), mesh.vertex_count());
        let around = match may.contains(&May::AlongRim) {
            true => mixed(&Around::by(&pairs(1..=1), mesh.vertex_count()), &full, &may),
            false => full,
        };
        Self { edges, may, around }
    }
}

/// Of two ways to be surrounded, the first for vertices on rims, the second for others.
fn mixed(rims: &Around, full: &Around, may: &[May]) -> Around {
    let mut both = Around {
        starts: vec![0],
        others: Vec::with_capacity(full.others.len()),
    };
    for (v, may) in may.iter().enumerate() {
        let of = if *may == May::AlongRim { rims } else { full };
        both.others.extend_from_slice(of.of(v));
        both.starts.push(both.others.len() as u32);
    }
    both
}

/// Smooths a model. What faces carry stays with their corners.
///
/// # Errors
/// When the observer says to stop.
pub fn smooth(
    model: &Model,
    options: &SmoothOptions,
    observer: &dyn Observer,
) -> Result<SmoothOutcome, Cancelled> {
    let mesh = &model.mesh;
    let neighbourhood = Neighbourhood::of(mesh, options.faces.as_deref());
    observer.begin("smoothing", options.rounds as u64);
    let hard =
        (options.kind == Kind::Hard).then(|| bilateral_normals::Hard::over(mesh, &neighbourhood));
    let mut places = mesh.positions().to_vec();
    for done in 0..options.rounds {
        observer.check()?;
        places = match &hard {
            Some(hard) => hard.round(&places),
            None => taubin::round(&neighbourhood, &places),
        };
        observer.at(done as u64 + 1);
    }
    let ways = || mesh.positions().iter().zip(&places);
    let furthest = ways().map(|(p, q)| p.distance(*q)).fold(0.0, f64::max);
    let moved = ways().filter(|(p, q)| p != q).count();
    let mut new = model.clone();
    new.mesh.positions_mut().copy_from_slice(&places);
    if new.attributes.normals.is_some() && moved > 0 {
        // They spoke of the rough surface.
        new.attributes.normals = None;
    }
    Ok(SmoothOutcome {
        model: new,
        moved,
        furthest,
    })
}

fn mean(of: impl ExactSizeIterator<Item = DVec3>) -> Option<DVec3> {
    let count = of.len();
    (count > 0).then(|| of.sum::<DVec3>() / count as f64)
}

#[cfg(test)]
mod tests;
