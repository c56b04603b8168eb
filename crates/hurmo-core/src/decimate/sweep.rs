//! A sweep: the edges of a surface by rising cost, collapsed as far as asked.

use super::queue::{Entry, Queue};
use super::reduce::{Reduction, Tried};
use crate::parallel::listed;

/// After this many collapses, whoever watches is asked.
const STEPS: u32 = 4096;

/// An edge that was refused is tried again from this share of the dearest edge's cost on, and up to
/// this many times it.
const NOTHING: f64 = 1e-9;
const BEYOND: f64 = 1e9;

/// What to do next, as whoever watches a sweep says.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Next {
    GoOn,
    Stop,
}

/// This many times the cost at which it was put in line, an edge at a crowd is as cheap as before.
const AS_GOOD: f64 = 1.05;

/// The edges of a surface that wait for their turn.
pub(super) struct Sweep {
    queue: Queue,
    /// By vertex, how many collapses it has in it.
    ages: Vec<u32>,
    /// For a vertex that went, the one that took it in.
    went_to: Vec<u32>,
    /// The least cost at which an edge that was refused is tried again, and the most.
    retries: [f64; 2],
}

impl Sweep {
    /// Over all edges of a surface.
    pub fn new(reduction: &Reduction) -> Self {
        let vertices = reduction.linked.positions.len();
        let queue = Queue::new(all_edges(reduction));
        let dear = queue.cost_of_share(0.999).unwrap_or_default();
        Self {
            retries: [dear * NOTHING, dear * BEYOND].map(|cost| cost.max(f32::MIN_POSITIVE.into())),
            queue,
            ages: vec![0; vertices],
            went_to: (0..vertices as u32).collect(),
        }
    }

    /// What the cheapest edge costs.
    pub fn next_cost(&mut self) -> Option<f64> {
        self.queue.peek().map(|entry| entry.cost())
    }

    /// What so large a share of the edges costs at most.
    pub fn cost_of_share(&self, share: f64) -> Option<f64> {
        self.queue.cost_of_share(share)
    }

    /// Collapses until at most `least` triangles are left, or no edge is that costs at most
    /// `until`; says whether the latter ended it.
    pub fn advance(
        &mut self,
        reduction: &mut Reduction,
        until: f64,
        least: usize,
        mut watch: impl FnMut(&Reduction) -> Next,
    ) -> bool {
        let mut steps = 0u32;
        while reduction.living() > least {
            let Some(entry) = self.queue.pop_up_to(until) else {
                return true;
            };
            let (a, b) = (self.settled(entry.a), self.settled(entry.b));
            let (a, b) = (a.min(b), a.max(b));
            if a == b {
                continue;
            }
            let age = self.ages[a as usize].wrapping_add(self.ages[b as usize]);
            // At a crowd every collapse makes all edges old and dearer, by so little that they are not
            // put in line again each time.
            let most = match [a, b].iter().any(|&v| reduction.linked.is_crowded(v)) {
                true => (AS_GOOD * entry.cost()).max(entry.at_most()),
                false => entry.at_most(),
            };
            if age != entry.age {
                let Some(cost) = reduction.cost(a, b) else {
                    continue;
                };
                if most == entry.at_most() || cost > most {
                    self.queue
                        .push(Entry::new(cost.max(entry.cost()), a, b, age));
                    continue;
                }
            }
            if reduction.is_no_flat(a, b) || reduction.is_done(a, b) {
                continue;
            }
            let (keep, gone, freed) = match reduction.try_collapse(a, b, most) {
                Tried::Done { keep, gone, freed } => (keep, gone, freed),
                Tried::Dearer(cost) => {
                    self.queue.push(Entry::new(cost, a, b, age));
                    continue;
                }
                Tried::Refused => {
                    let drop = reduction.cost_to_drop(a);
                    if drop.is_some_and(|cost| cost <= entry.cost()) {
                        reduction.drop_part(a);
                        continue;
                    }
                    // Tried again when what costs four times as much has gone.
                    let [least, most] = self.retries;
                    let later = (entry.cost() * 4.0).max(least);
                    if later < most {
                        self.queue.push(Entry::new(later, a, b, age));
                    }
                    continue;
                }
            };
            reduction.last_cost = entry.cost();
            self.went_to[gone as usize] = keep;
            self.ages[keep as usize] = age.wrapping_add(1);
            for vertex in freed {
                self.push_edges_of(reduction, vertex, entry.cost());
            }
            steps += 1;
            if steps.is_multiple_of(STEPS) && watch(reduction) == Next::Stop {
                return false;
            }
        }
        false
    }

    /// Puts the edges at a vertex in, at no less than what the sweep has come to.
    fn push_edges_of(&mut self, reduction: &Reduction, vertex: u32, least: f64) {
        let around = reduction.linked.around(vertex);
        let mut others: Vec<u32> = around.flat_map(|(_, [_, x, y])| [x, y]).collect();
        others.sort_unstable();
        others.dedup();
        for other in others {
            let (a, b) = (vertex.min(other), vertex.max(other));
            let age = self.ages[a as usize].wrapping_add(self.ages[b as usize]);
            if let Some(cost) = reduction.cost(a, b) {
                self.queue.push(Entry::new(cost.max(least), a, b, age));
            }
        }
    }

    fn settled(&mut self, mut vertex: u32) -> u32 {
        while self.went_to[vertex as usize] != vertex {
            let next = self.went_to[vertex as usize];
            self.went_to[vertex as usize] = self.went_to[next as usize];
            vertex = next;
        }
        vertex
    }
}

/// Every edge once, with its cost.
fn all_edges(reduction: &Reduction) -> Vec<Entry> {
    let linked = &reduction.linked;
    listed(linked.positions.len(), 1024, |a, edges| {
        let a = a as u32;
        let mut others: Vec<u32> = linked
            .around(a)
            .flat_map(|(_, [_, x, y])| [x, y])
            .filter(|&b| b > a)
            .collect();
        others.sort_unstable();
        others.dedup();
        let costs = others.into_iter();
        edges.extend(costs.filter_map(|b| Some(Entry::new(reduction.cost(a, b)?, a, b, 0))));
    })
}
