//! How well a reduction chose: which edges are left that could have gone for less.

use super::DecimateOptions;
use super::reduce::Tried;
use super::regions::REGION;
use super::work::Work;
use crate::mesh::Model;
use std::collections::BTreeSet;

/// So much cheaper than the last collapse an edge must be to count.
const CHEAPER: f64 = 0.98;

/// Of the edges that are left of a model at this many triangles, how many could have been collapsed for
/// less than the last one that was, and how many there are. An edge that was refused waits until what
/// costs four times as much has gone, so these should be hardly any. None where there is nothing to
/// reduce.
pub fn cheaper_left(model: &Model, to: usize) -> (usize, usize) {
    let Ok((_, mut reduction)) = Work::begin(model, to, &DecimateOptions::default(), REGION) else {
        return (0, 0);
    };
    reduction.run(to, &());
    let as_it_is = reduction.clone();
    let linked = &as_it_is.linked;
    let most = CHEAPER * reduction.last_cost;
    let (mut cheaper, mut all) = (0, 0);
    for a in 0..linked.positions.len() as u32 {
        let around = linked.around(a).flat_map(|(_, [_, x, y])| [x, y]);
        let others: BTreeSet<u32> = around.filter(|&b| b > a).collect();
        for b in others {
            all += 1;
            if reduction.cost(a, b).is_none_or(|cost| cost >= most) {
                continue;
            }
            if matches!(reduction.try_collapse(a, b, most), Tried::Done { .. }) {
                cheaper += 1;
                reduction = as_it_is.clone();
            }
        }
    }
    (cheaper, all)
}
