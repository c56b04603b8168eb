//! What a map that turns triangles over makes too much of: quads that are folded along a diagonal, and pairs
//! of quads round a vertex of two edges. Lines that run to and fro make them; taken out, the lines run straight.

use super::extraction::{Cell, Extracted, Merged, On};
use super::surface::Surface;
use crate::topology::UnionFind;
use rustc_hash::{FxHashMap, FxHashSet};

/// The cosine of 30 degrees: a line that turns by less runs straight on.
const STRAIGHT: f64 = 0.866;

/// Quads as far as they were cleaned, by cells.
pub(super) struct QuadMesh {
    pub quads: Vec<[u32; 4]>,
    pub cells: Vec<Cell>,
    /// Edges of quads along which feature lines run, the lower cell first, sorted.
    pub feature_edges: Vec<[u32; 2]>,
    /// Where feature lines lie on each other.
    pub merged: Vec<Merged>,
}

impl QuadMesh {
    /// Takes out folded quads and vertices of two edges, until there are none.
    pub fn cleaned(extracted: Extracted) -> Self {
        let mut quads = extracted.quads;
        while without_folds(&mut quads) || without_doublets(&mut quads, &extracted.cells) {}
        Self {
            quads,
            cells: extracted.cells,
            feature_edges: extracted.feature_edges,
            merged: extracted.merged,
        }
        .without_unused()
    }

    /// Drops cells that no quad has.
    fn without_unused(mut self) -> Self {
        let mut numbers = vec![u32::MAX; self.cells.len()];
        self.quads
            .iter()
            .flatten()
            .for_each(|&v| numbers[v as usize] = 0);
        let used = numbers.iter_mut().filter(|number| **number == 0);
        (0..).zip(used).for_each(|(count, number)| *number = count);
        let mut kept = numbers.iter().map(|&number| number != u32::MAX);
        self.cells.retain(|_| kept.next().unwrap_or(false));
        let new = |v: u32| numbers[v as usize];
        self.quads.iter_mut().for_each(|quad| *quad = quad.map(new));
        self.feature_edges = (self.feature_edges.iter())
            .map(|edge| edge.map(new))
            .filter(|edge| edge[1] != u32::MAX && edge[0] != u32::MAX)
            .collect();
        self
    }

    /// Where it is no surface, or another one than it should be: cells at which edges have more than two sides
    /// or sides that run the same way, at which several fans meet, or that a quad has twice.
    pub fn faults(&self) -> Vec<u32> {
        let mut faults = Vec::new();
        let mut counts: FxHashMap<[u32; 2], u32> = FxHashMap::default();
        for quad in &self.quads {
            for i in 0..4 {
                let [a, b] = [quad[i], quad[(i + 1) % 4]];
                if a == b || a == quad[(i + 2) % 4] {
                    faults.push(a);
                }
                let count = counts.entry([a, b]).or_insert(0);
                *count += 1;
                if *count > 1 {
                    faults.extend([a, b]);
                }
            }
        }
        // One fan: the quads at a vertex, less the edges that have two sides, leave one end or none.
        let mut balance = vec![0i64; self.cells.len()];
        let mut rims = vec![0i64; self.cells.len()];
        self.quads
            .iter()
            .flatten()
            .for_each(|&v| balance[v as usize] += 1);
        for &[a, b] in counts.keys() {
            match counts.contains_key(&[b, a]) {
                true => balance[a as usize] -= 1,
                false => rims[a as usize] += 1,
            }
        }
        let is_fan = |v: usize| balance[v] == rims[v] && rims[v] <= 1;
        faults.extend(
            (0..self.cells.len())
                .filter(|&v| !is_fan(v))
                .map(|v| v as u32),
        );
        faults.extend(self.more_fans());
        faults.sort_unstable();
        faults.dedup();
        faults
    }

    /// Quads that lie on a feature line with three sides or four, as this runs straight on at the vertices between:
    /// they have no area to speak of.
    pub fn flat(&self) -> Vec<usize> {
        let is_line = |[a, b]: [u32; 2]| {
            let edge = [a.min(b), a.max(b)];
            self.feature_edges.binary_search(&edge).is_ok()
        };
        let is_flat = |quad: &[u32; 4]| {
            let on_line = sides(quad).map(is_line);
            let along = sides(quad).map(|[a, b]| {
                let [from, to] = [a, b].map(|v| self.cells[v as usize].at);
                (to - from).normalize_or_zero()
            });
            let runs_on = |i: usize| {
                let before = (i + 3) % 4;
                on_line[before] && on_line[i] && along[before].dot(along[i]) > STRAIGHT
            };
            (0..4).filter(|&i| runs_on(i)).count() >= 2
        };
        let quads = self.quads.iter().enumerate();
        let flat = quads.filter(|(_, quad)| is_flat(quad));
        flat.map(|(q, _)| q).collect()
    }

    /// Cells on feature lines along which no edge runs.
    pub fn off_lines(&self) -> Vec<u32> {
        let edges: FxHashSet<[u32; 2]> = (self.quads.iter().flat_map(sides))
            .map(|[a, b]| [a.min(b), a.max(b)])
            .collect();
        let lost = self
            .feature_edges
            .iter()
            .filter(|edge| !edges.contains(*edge));
        lost.flatten().copied().collect()
    }

    /// Cells at which quads make more than one fan.
    fn more_fans(&self) -> Vec<u32> {
        let mut next: FxHashMap<(u32, u32), u32> = FxHashMap::default();
        let mut first: FxHashMap<u32, u32> = FxHashMap::default();
        let mut count: FxHashMap<u32, u32> = FxHashMap::default();
        for quad in &self.quads {
            for i in 0..4 {
                let [before, here, after] = [quad[(i + 3) % 4], quad[i], quad[(i + 1) % 4]];
                next.insert((here, after), before);
                first.insert(here, after);
                *count.entry(here).or_insert(0) += 1;
            }
        }
        let is_torn = |here: u32| {
            let (start, mut seen) = (first[&here], 1);
            let mut at = next[&(here, start)];
            while at != start {
                match next.get(&(here, at)) {
                    Some(&on) => at = on,
                    None => break,
                }
                seen += 1;
                if seen > count[&here] {
                    return true;
                }
            }
            // On a rim the walk may have begun in the middle of the fan.
            at == start && seen != count[&here]
        };
        let all = first.keys().copied();
        all.filter(|&v| is_torn(v)).collect()
    }

    /// Vertices less edges plus quads.
    pub fn euler(&self) -> i64 {
        let mut edges: Vec<[u32; 2]> = (self.quads.iter())
            .flat_map(sides)
            .map(|[a, b]| [a.min(b), a.max(b)])
            .collect();
        edges.sort_unstable();
        edges.dedup();
        self.cells.len() as i64 - edges.len() as i64 + self.quads.len() as i64
    }

    /// Whether it is one surface with the topology of another, where it has no faults: the same number of rims, and of
    /// vertices less edges plus faces.
    pub fn is_like(&self, surface: &Surface) -> bool {
        self.euler() == surface.euler()
            && self.rims() == surface.rims().len()
            && self.hangs_together()
    }

    /// Whether each quad is reached from each other one.
    fn hangs_together(&self) -> bool {
        let mut sets = UnionFind::new(self.cells.len());
        for [a, b, c, d] in &self.quads {
            for v in [b, c, d] {
                sets.join(*a, *v);
            }
        }
        let Some(first) = self.quads.first().map(|quad| sets.find(quad[0])) else {
            return false;
        };
        (self.quads.iter()).all(|quad| sets.find(quad[0]) == first)
    }

    /// How many rims there are, of a mesh without faults.
    fn rims(&self) -> usize {
        let all: FxHashSet<[u32; 2]> = self.quads.iter().flat_map(sides).collect();
        let on_rim = all.iter().filter(|[a, b]| !all.contains(&[*b, *a]));
        let mut next: FxHashMap<u32, u32> = on_rim.map(|&[a, b]| (a, b)).collect();
        let mut rims = 0;
        while let Some(&start) = next.keys().next() {
            rims += 1;
            let mut at = start;
            while let Some(on) = next.remove(&at) {
                at = on;
            }
        }
        rims
    }

    /// How many vertices off rims have another number of quads than four.
    pub fn irregular(&self) -> usize {
        let mut valences = vec![0; self.cells.len()];
        self.quads
            .iter()
            .flatten()
            .for_each(|&v| valences[v as usize] += 1);
        let mut is_on_rim = vec![false; self.cells.len()];
        let all: FxHashSet<[u32; 2]> = (self.quads.iter()).flat_map(sides).collect();
        for &[a, b] in all.iter().filter(|[a, b]| !all.contains(&[*b, *a])) {
            is_on_rim[a as usize] = true;
            is_on_rim[b as usize] = true;
        }
        let inner = valences.iter().zip(&is_on_rim).filter(|(_, rim)| !**rim);
        inner.filter(|(valence, _)| **valence != 4).count()
    }
}

/// The sides of a quad, by their ends, counter-clockwise.
pub(super) fn sides(quad: &[u32; 4]) -> [[u32; 2]; 4] {
    [0, 1, 2, 3].map(|i| [quad[i], quad[(i + 1) % 4]])
}

/// Takes out quads whose opposite vertices are one: what lies beside their sides fits together. Says whether
/// there were any.
fn without_folds(quads: &mut Vec<[u32; 4]>) -> bool {
    let before = quads.len();
    quads.retain(|quad| quad[0] != quad[2] && quad[1] != quad[3]);
    quads.len() < before
}

/// Makes one quad of two round a vertex that has no others and is no corner. Says whether there were any.
fn without_doublets(quads: &mut Vec<[u32; 4]>, cells: &[Cell]) -> bool {
    let mut at: FxHashMap<u32, ([u32; 2], u32)> = FxHashMap::default();
    for (q, quad) in quads.iter().enumerate() {
        for &v in quad {
            let (list, count) = at.entry(v).or_insert(([0; 2], 0));
            if *count < 2 {
                list[*count as usize] = q as u32;
            }
            *count += 1;
        }
    }
    let mut pairs: Vec<(u32, [u32; 2])> = (at.iter())
        .filter(|(v, (_, count))| *count == 2 && cells[**v as usize].on != On::Corner)
        .map(|(&v, &(list, _))| (v, list))
        .collect();
    pairs.sort_unstable();
    let mut goes = vec![false; quads.len()];
    let mut any = false;
    for (v, [one, other]) in pairs {
        if one == other || goes[one as usize] || goes[other as usize] {
            continue;
        }
        let from = |q: u32| {
            let quad = quads[q as usize];
            let i = quad.iter().position(|&w| w == v).unwrap_or(0);
            [quad[(i + 1) % 4], quad[(i + 2) % 4], quad[(i + 3) % 4]]
        };
        let ([c, d, a], [a_too, e, c_too]) = (from(one), from(other));
        if a == a_too && c == c_too {
            quads[one as usize] = [a, e, c, d];
            goes[other as usize] = true;
            any = true;
        }
    }
    let mut goes = goes.iter();
    quads.retain(|_| !goes.next().copied().unwrap_or(false));
    any
}
