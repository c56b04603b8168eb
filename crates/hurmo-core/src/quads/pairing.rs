//! Quads that always come out: even triangles, paired where two make a good quad, then every face divided from
//! the middles of its sides. What it makes is whole and has the topology of the triangles, whatever these are
//! like; but about one vertex in four is irregular.

use glam::DVec3;
use rustc_hash::FxHashMap;

/// Quads, over the vertices of triangles, the middles of their sides, and the middles of faces.
pub(super) struct Divided {
    pub positions: Vec<DVec3>,
    pub quads: Vec<[u32; 4]>,
    /// The vertex in the middle of each side, by the side's ends.
    pub middles: FxHashMap<[u32; 2], u32>,
}

/// Divides faces.
pub(super) fn divided(positions: &[DVec3], faces: &[Vec<u32>]) -> Divided {
    let mut made = Divided {
        positions: positions.to_vec(),
        quads: Vec::with_capacity(4 * faces.len()),
        middles: FxHashMap::default(),
    };
    for face in faces {
        let count = face.len() as f64;
        let middle = face.iter().map(|&v| positions[v as usize]).sum::<DVec3>() / count;
        let own = made.positions.len() as u32;
        made.positions.push(middle);
        for i in 0..face.len() {
            let [before, here, after] =
                [(i + face.len() - 1) % face.len(), i, (i + 1) % face.len()].map(|i| face[i]);
            let [one, other] = [made.middle(here, after), made.middle(before, here)];
            made.quads.push([here, one, own, other]);
        }
    }
    made
}

impl Divided {
    fn middle(&mut self, a: u32, b: u32) -> u32 {
        let positions = &mut self.positions;
        *self.middles.entry([a.min(b), a.max(b)]).or_insert_with(|| {
            positions.push((positions[a as usize] + positions[b as usize]) / 2.0);
            positions.len() as u32 - 1
        })
    }
}

/// Quads of two triangles each, the squarest first, but not across `kept` edges, and the triangles that are left.
pub(super) fn paired(
    positions: &[DVec3],
    triangles: &[[u32; 3]],
    kept: impl Fn([u32; 2]) -> bool,
) -> Vec<Vec<u32>> {
    let mut sides: Vec<([u32; 2], u32, usize)> = Vec::with_capacity(3 * triangles.len());
    for (t, triangle) in triangles.iter().enumerate() {
        for i in 0..3 {
            let [a, b] = [triangle[i], triangle[(i + 1) % 3]];
            sides.push(([a.min(b), a.max(b)], t as u32, i));
        }
    }
    sides.sort_unstable();
    let mut candidates = Vec::new();
    for edge in sides.chunk_by(|a, b| a.0 == b.0) {
        let &[(ends, one, i), (_, other, j)] = edge else {
            continue;
        };
        let (a, b) = (triangles[one as usize], triangles[other as usize]);
        let fits = a[i] == b[(j + 1) % 3];
        if !fits || kept(ends) {
            continue;
        }
        let quad = [a[i], b[(j + 2) % 3], a[(i + 1) % 3], a[(i + 2) % 3]];
        if let Some(cost) = off_square(positions, quad) {
            candidates.push((cost, one, other, quad));
        }
    }
    candidates.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut is_paired = vec![false; triangles.len()];
    let mut faces = Vec::with_capacity(triangles.len());
    for (_, one, other, quad) in candidates {
        if !is_paired[one as usize] && !is_paired[other as usize] {
            is_paired[one as usize] = true;
            is_paired[other as usize] = true;
            faces.push(quad.to_vec());
        }
    }
    let left = triangles
        .iter()
        .zip(&is_paired)
        .filter(|(_, paired)| !**paired);
    faces.extend(left.map(|(triangle, _)| triangle.to_vec()));
    faces
}

/// How far the angles of a quad are from right ones, summed; none of a quad that is hardly convex or bends.
fn off_square(positions: &[DVec3], quad: [u32; 4]) -> Option<f64> {
    let points = quad.map(|v| positions[v as usize]);
    let normal = (points[2] - points[0])
        .cross(points[3] - points[1])
        .normalize_or_zero();
    let mut sum = 0.0;
    for i in 0..4 {
        let [before, here, after] = [points[(i + 3) % 4], points[i], points[(i + 1) % 4]];
        let [to, back] = [after - here, before - here];
        let turned = to.cross(back).dot(normal);
        let angle = turned.atan2(to.dot(back)).to_degrees();
        if !(20.0..160.0).contains(&angle) {
            return None;
        }
        sum += (angle - 90.0).abs();
    }
    Some(sum)
}
