//! The border of a region: loops, put together by what they go round.

use super::LeftBecause;
use crate::fill::over::{Loop, Opening};
use crate::mesh::{EdgeId, FaceId, Mesh, VertexId};
use crate::topology::{Edges, UnionFind};
use rustc_hash::{FxHashMap, FxHashSet};

/// Why a region can't be cut out as it is.
pub(super) enum Unfit {
    /// Its border is not simple at these vertices.
    NotSimpleAt(Vec<VertexId>),
    /// It won't be, however far it grows.
    For(LeftBecause),
}

impl Unfit {
    pub fn reason(&self) -> LeftBecause {
        match self {
            Unfit::NotSimpleAt(_) => LeftBecause::NoSimpleBorder,
            Unfit::For(reason) => *reason,
        }
    }
}

/// A step along a border, in the direction in which new faces run it.
struct Step {
    edge: EdgeId,
    from: VertexId,
    to: VertexId,
    /// The face outside; none where the edge is open anyhow.
    outside: Option<FaceId>,
}

/// What is to be closed once some faces are cut out, and how many open edges within them the new
/// faces span over.
///
/// # Errors
/// Where the border isn't simple, and why it can't be.
pub(super) fn openings(
    mesh: &Mesh,
    edges: &Edges,
    faces: &[FaceId],
    inside: impl Fn(FaceId) -> bool,
) -> Result<(Vec<Opening>, usize), Unfit> {
    let own = edges_of(mesh, edges, faces);
    let steps = steps(mesh, edges, &own, &inside)?;
    let loops = loops(&steps)?;
    // Which of the faces hang together by edges: one surface closes each such piece.
    let number: FxHashMap<FaceId, u32> = faces.iter().copied().zip(0..).collect();
    let mut pieces = UnionFind::new(faces.len());
    for &edge in &own {
        let mut sides = edges.sides(edge).iter().filter(|side| inside(side.face));
        if let Some(first) = sides.next() {
            sides.for_each(|side| {
                pieces.join(number[&first.face], number[&side.face]);
            });
        }
    }
    let mut piece = |face: FaceId| pieces.find(number[&face]);
    let mut of_piece: FxHashMap<u32, Vec<Loop>> = FxHashMap::default();
    let mut spanned = 0;
    for steps in loops {
        let side = edges
            .sides(steps[0].edge)
            .iter()
            .find(|side| inside(side.face));
        let piece = piece(side.expect("borders go along the region").face);
        match bordering(&steps) {
            Some(border) => of_piece.entry(piece).or_default().push(border),
            None => spanned += steps.len(),
        }
    }
    let all: FxHashSet<u32> = faces.iter().map(|&face| piece(face)).collect();
    let lone = |root: &u32| !of_piece.contains_key(root);
    let has_sides = |face: &FaceId| !mesh.is_collapsed(*face);
    if faces
        .iter()
        .filter(|face| has_sides(face))
        .any(|&face| lone(&piece(face)))
    {
        return Err(Unfit::For(LeftBecause::NothingSoundRound));
    }
    let mut roots: Vec<u32> = all.into_iter().filter(|root| !lone(root)).collect();
    roots.sort_unstable();
    let between = |root: &u32| Opening::between(mesh, of_piece[root].clone());
    let openings: Option<Vec<Opening>> = roots.iter().map(between).collect();
    let openings = openings.ok_or(Unfit::For(LeftBecause::FacesOpposed))?;
    Ok((openings, spanned))
}

fn edges_of(mesh: &Mesh, edges: &Edges, faces: &[FaceId]) -> Vec<EdgeId> {
    let corners = faces.iter().flat_map(|&face| mesh.face_range(face));
    let mut own: Vec<EdgeId> = corners
        .filter_map(|corner| edges.at_corner(corner))
        .collect();
    own.sort_unstable();
    own.dedup();
    own
}

/// The steps along all of the border.
fn steps(
    mesh: &Mesh,
    edges: &Edges,
    own: &[EdgeId],
    inside: &impl Fn(FaceId) -> bool,
) -> Result<Vec<Step>, Unfit> {
    let mut steps = Vec::new();
    let mut unclean = Vec::new();
    for &edge in own {
        let sides = edges.sides(edge);
        let outer: Vec<_> = sides.iter().filter(|side| !inside(side.face)).collect();
        let (side, outside) = match outer[..] {
            [] if sides.len() == 1 => (&sides[0], None),
            [] => continue,
            [side] => (side, Some(side.face)),
            [one, two] if one.runs_up() != two.runs_up() => continue,
            _ => {
                unclean.extend(edges.ends(edge));
                continue;
            }
        };
        let from = mesh.corners()[side.corner()];
        let to = mesh.corners()[mesh.next_corner(side.face, side.corner())];
        if mesh.position(from) == mesh.position(to) {
            unclean.extend([from, to]);
        }
        // Beside a face outside, new ones run the other way; in place of one, the same.
        let (from, to) = match outside {
            Some(_) => (to, from),
            None => (from, to),
        };
        steps.push(Step {
            edge,
            from,
            to,
            outside,
        });
    }
    match unclean.is_empty() {
        true => Ok(without_loose_ends(steps)),
        false => Err(Unfit::NotSimpleAt(unclean)),
    }
}

/// Of the steps along open edges those that lead from one step to another: those of a fin lead nowhere,
/// and go with it.
fn without_loose_ends(mut steps: Vec<Step>) -> Vec<Step> {
    loop {
        let ends = |of: fn(&Step) -> VertexId, outside: bool| -> FxHashSet<VertexId> {
            let such = steps.iter().filter(|s| !outside || s.outside.is_some());
            such.map(of).collect()
        };
        let [leave, reach] = [ends(|s| s.from, false), ends(|s| s.to, false)];
        let [taken_from, taken_to] = [ends(|s| s.from, true), ends(|s| s.to, true)];
        let before = steps.len();
        steps.retain(|step| {
            let leads = reach.contains(&step.from) && leave.contains(&step.to);
            let is_free = !taken_from.contains(&step.from) && !taken_to.contains(&step.to);
            step.outside.is_some() || leads && is_free
        });
        if steps.len() == before {
            return steps;
        }
    }
}

/// The loops that steps make, if they pass each vertex once.
fn loops(steps: &[Step]) -> Result<Vec<Vec<&Step>>, Unfit> {
    let mut leaves: FxHashMap<VertexId, usize> = FxHashMap::default();
    let mut reached: FxHashSet<VertexId> = FxHashSet::default();
    let mut unclean = Vec::new();
    for (i, step) in steps.iter().enumerate() {
        if leaves.insert(step.from, i).is_some() {
            unclean.push(step.from);
        }
        if !reached.insert(step.to) {
            unclean.push(step.to);
        }
    }
    unclean.extend(leaves.keys().filter(|v| !reached.contains(v)));
    unclean.extend(reached.iter().filter(|v| !leaves.contains_key(v)));
    if !unclean.is_empty() {
        unclean.sort_unstable();
        return Err(Unfit::NotSimpleAt(unclean));
    }
    let mut used = vec![false; steps.len()];
    let mut loops = Vec::new();
    for start in 0..steps.len() {
        let mut walked = Vec::new();
        let mut here = start;
        while !used[here] {
            used[here] = true;
            walked.push(&steps[here]);
            here = leaves[&steps[here].to];
        }
        if !walked.is_empty() {
            loops.push(walked);
        }
    }
    Ok(loops)
}

/// The loop to be closed along some steps; `None` where no face lies outside.
fn bordering(steps: &[&Step]) -> Option<Loop> {
    let start = steps.iter().position(|step| step.outside.is_some())?;
    let mut near = steps[start].outside?;
    let round = (0..steps.len()).map(|i| steps[(start + i) % steps.len()]);
    let (vertices, faces) = round
        .map(|step| {
            near = step.outside.unwrap_or(near);
            (step.from, near)
        })
        .unzip();
    Some(Loop { vertices, faces })
}
