//! The report of `hurmo compare`.

use super::{Table, Text, findings_before_and_after, headline_set_in};
use crate::out::{self, measure};
use hurmo_core::compare::{OneWay, Shape};
use hurmo_pipeline::record::ComparisonDocument;

impl Text for ComparisonDocument {
    fn text(&self) -> String {
        let found = &self.comparison;
        let (before, after) = (&self.before, &self.after);
        let mut text = format!(
            "{}\n",
            out::bold(&format!("{} and {}", self.files[0], self.files[1]))
        );
        for (name, audit) in [("before", before), ("after", after)] {
            text += &format!("  {name}\n");
            text += &headline_set_in(&audit.mesh, audit.unit);
        }
        let mut table = Table::new(&[
            "distance",
            ">most",
            ">",
            ">rms",
            ">mean",
            ">half within",
            ">90%",
            ">99%",
            ">turned by",
        ]);
        for (name, way) in [
            ("before to after", &found.from_before),
            ("after to before", &found.from_after),
        ] {
            table.row(row(name, way, found.diagonal));
        }
        text += &format!("\n{}", table.text());
        let most = found.max();
        text += &format!(
            "  most at {}, to {}; nothing lies further off than {}\n",
            out::position(most.at),
            out::position(most.nearest),
            at_most(self),
        );
        text += &format!("\n{}", shapes(self));
        text += &format!("\n{}", findings_before_and_after(before, after));
        if let Some(limit) = self.limit {
            text += &format!("\n  {}\n", verdict(self, limit));
        }
        text
    }
}

fn at_most(document: &ComparisonDocument) -> String {
    let at_most = document.comparison.at_most();
    let share = 100.0 * at_most / document.comparison.diagonal;
    format!("{} ({share:.3}% of the diagonal)", measure(at_most))
}

fn verdict(document: &ComparisonDocument, limit: f64) -> String {
    let most = document.comparison.max().distance;
    if document.passes {
        format!(
            "{}: proved",
            out::good(&format!("within {}", measure(limit)))
        )
    } else if most > limit {
        out::bad(&format!(
            "beyond {}: up to {}",
            measure(limit),
            measure(most)
        ))
    } else {
        let words = format!("within {} could not be proved", measure(limit));
        format!(
            "{}: no more than {}",
            out::doubtful(&words),
            at_most(document)
        )
    }
}

fn shapes(document: &ComparisonDocument) -> String {
    let [one, two] = &document.comparison.shapes;
    let mut table = Table::new(&["", ">before", ">after", ""]);
    let change = |was: f64, is: f64| match was != 0.0 {
        true => format!("{:+.2}%", 100.0 * (is - was) / was.abs()),
        false => String::new(),
    };
    type Row = (&'static str, fn(&Shape) -> f64);
    let rows: [Row; 3] = [
        ("area", |shape| shape.area),
        ("volume", |shape| shape.volume),
        ("mean edge", |shape| shape.mean_length),
    ];
    for (name, of) in rows {
        let (was, is) = (of(one), of(two));
        table.row([name.into(), measure(was), measure(is), change(was, is)]);
    }
    let closed = document.before.mesh.watertight && document.after.mesh.watertight;
    let share =
        |part: usize, whole: usize| format!("{:.1}%", 100.0 * part as f64 / whole.max(1) as f64);
    let tenths = |shape: &Shape, range: std::ops::Range<usize>| {
        share(shape.evenness[range].iter().sum(), shape.triangles)
    };
    for (name, range) in [
        ("needles, under 0.3 even", 0..3),
        ("uneven, 0.3 to 0.7", 3..7),
        ("even, over 0.7", 7..10),
    ] {
        table.row([
            name.into(),
            tenths(one, range.clone()),
            tenths(two, range),
            String::new(),
        ]);
    }
    let lengths = |shape: &Shape, range: std::ops::Range<usize>| {
        share(shape.lengths[range].iter().sum(), 3 * shape.triangles)
    };
    for (name, range) in [
        ("edges under half the mean", 0..3),
        ("edges half to twice the mean", 3..5),
        ("edges over twice the mean", 5..8),
    ] {
        table.row([
            name.into(),
            lengths(one, range.clone()),
            lengths(two, range),
            String::new(),
        ]);
    }
    let mut text = table.text();
    if !closed {
        text += "  not watertight both: volumes mean little\n";
    }
    text
}

fn row(name: &str, way: &OneWay, diagonal: f64) -> [String; 9] {
    [
        name.into(),
        measure(way.max.distance),
        format!("{:.3}%", 100.0 * way.max.distance / diagonal),
        measure(way.rms),
        measure(way.mean),
        measure(way.nearer[0]),
        measure(way.nearer[1]),
        measure(way.nearer[2]),
        format!("{:.1}°, 99% under {:.0}°", way.turned[0], way.turned[1]),
    ]
}
