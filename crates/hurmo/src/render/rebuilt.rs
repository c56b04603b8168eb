//! How even triangles were and are, or how square quads, and how far the surface went.

use super::Table;
use crate::out::{count, measure, percent};
use hurmo_core::measure::{self, Evenness, QuadShape};
use hurmo_pipeline::record::Rebuilt;

/// The figures, set in.
pub fn rebuilt_text(rebuilt: &Rebuilt) -> String {
    let mut table = Table::new(&["", ">before", ">after"]);
    match &rebuilt.quads {
        Some(quads) => quad_rows(&mut table, &rebuilt.before, quads),
        None => triangle_rows(&mut table, rebuilt),
    }
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

fn edges(shortest: f64, mean: f64, longest: f64) -> String {
    [shortest, mean, longest].map(measure).join("  ")
}

fn triangle_rows(table: &mut Table, rebuilt: &Rebuilt) {
    let mut row = |what: &str, figure: &dyn Fn(&Evenness) -> String| {
        table.row([what.into(), figure(&rebuilt.before), figure(&rebuilt.after)]);
    };
    row("shortest, mean, longest edge", &|even| {
        edges(even.shortest_edge, even.mean_edge, even.longest_edge)
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
}

/// What the quads are like that took the place of triangles, or of other faces.
fn quad_rows(table: &mut Table, before: &Evenness, quads: &QuadShape) {
    table.row([
        "shortest, mean, longest edge".into(),
        edges(before.shortest_edge, before.mean_edge, before.longest_edge),
        edges(quads.shortest_edge, quads.mean_edge, quads.longest_edge),
    ]);
    let mut row = |what: &str, figure: String| table.row([what.into(), String::new(), figure]);
    row(
        "edges differ from their mean by",
        percent(quads.edge_spread),
    );
    let [smallest, largest] = [quads.smallest_angle, quads.largest_angle].map(degrees);
    row("smallest, largest angle", format!("{smallest}  {largest}"));
    row("angles from 60° to 120°", percent(quads.square_angles));
    row(
        "angles under 25° or over 160°",
        count(quads.sharp_or_flat_angles),
    );
    row(
        "irregular vertices of 3, 5, other quads",
        [quads.of_three, quads.of_five, quads.of_others]
            .map(count)
            .join("  "),
    );
}

fn degrees(angle: f64) -> String {
    format!("{angle:.1}°")
}
