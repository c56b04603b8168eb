//! How even triangles were and are, and how far the surface went.

use super::Table;
use crate::out::{count, measure, percent};
use hurmo_core::measure::{self, Evenness};
use hurmo_pipeline::record::Rebuilt;

/// The figures, set in.
pub fn rebuilt_text(rebuilt: &Rebuilt) -> String {
    let mut table = Table::new(&["", ">before", ">after"]);
    let mut row = |what: &str, figure: &dyn Fn(&Evenness) -> String| {
        table.row([what.into(), figure(&rebuilt.before), figure(&rebuilt.after)]);
    };
    row("shortest, mean, longest edge", &|even| {
        let edges = [even.shortest_edge, even.mean_edge, even.longest_edge];
        edges.map(measure).join("  ")
    });
    row("edges differ from their mean by", &|even| {
        percent(even.edge_spread)
    });
    row("smallest angle", &|even| degrees(even.smallest_angle));
    row("smallest angle of a triangle, mean", &|even| {
        degrees(even.mean_smallest_angle)
    });
    row("angles from 35° to 85°", &|even| {
        percent(even.even_angles)
    });
    row("angles under 15°", &|even| count(even.narrow_angles));
    row("vertices with six neighbours", &|even| {
        percent(even.six_neighbours)
    });
    if let Some([before, after]) = rebuilt.volume {
        let change = match rebuilt.volume_change() {
            Some(percent) => format!(" ({percent:+.3}%)"),
            None => String::new(),
        };
        let after = format!("{}{change}", measure(after));
        table.row(["volume".into(), measure(before), after]);
    }
    let off = |way: measure::Deviation| format!("{} ({} rms)", measure(way.max), measure(way.rms));
    table.row([
        "largest distance to the other model".into(),
        off(rebuilt.deviation.old_from_new),
        off(rebuilt.deviation.new_from_old),
    ]);
    let lines = table.text();
    lines
        .lines()
        .map(|line| format!("          {line}\n"))
        .collect()
}

fn degrees(angle: f64) -> String {
    format!("{angle:.1}°")
}
