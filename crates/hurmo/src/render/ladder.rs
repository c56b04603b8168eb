//! The report of `hurmo ladder`.

use super::{Table, Text};
use crate::out::{self, measure};
use hurmo_pipeline::record::{LadderDocument, RungDocument};

fn pixels(count: f64) -> String {
    let noun = if count == 1.0 { "pixel" } else { "pixels" };
    format!("{} {noun}", measure(count))
}

impl Text for LadderDocument {
    fn text(&self) -> String {
        let mut text = format!(
            "{}\n  {}, diagonal {}\n\n",
            out::bold(&self.input),
            out::counted(self.triangles, "triangle"),
            measure(self.diagonal)
        );
        let mut heads = vec![
            "rung",
            ">triangles",
            ">size",
            ">off by up to",
            ">",
            ">within",
            ">rms",
            ">turned by",
        ];
        if self.screen.is_some() {
            heads.extend([">from distance", ">on screen"]);
        }
        heads.push("");
        let mut table = Table::new(&heads);
        for rung in &self.rungs {
            table.row(row(self, rung));
        }
        text += &table.text();
        if let Some(screen) = &self.screen {
            text += &format!(
                "\n  from distance: where the rung lies off by no more than {} on a screen {} \
                 pixels high that shows {}°\n",
                pixels(screen.error),
                screen.height,
                screen.field_of_view
            );
        }
        for rung in &self.rungs {
            if let Some(why) = &rung.stopped_by {
                text += &out::wrapped(&format!("{} stopped early: {why}", rung.file));
            }
        }
        if let Some(pick) = &self.pick {
            let within = measure(pick.within);
            text += &match &pick.file {
                Some(file) => format!(
                    "\n  {}: the lowest rung within {within}, proved\n",
                    out::good(file)
                ),
                None => format!(
                    "\n  {}\n",
                    out::bad(&format!("no rung is proved to lie within {within}"))
                ),
            };
        }
        text += &format!("\n  all in one view: {}\n", self.sheet);
        text
    }
}

fn row(ladder: &LadderDocument, rung: &RungDocument) -> Vec<String> {
    let share = |length: f64| format!("{:.3}%", 100.0 * length / ladder.diagonal);
    let mut row = vec![
        out::tail(&rung.file),
        out::count(rung.triangles),
        out::bytes(rung.bytes),
        measure(rung.off),
        share(rung.off),
        measure(rung.within),
        measure(rung.rms),
        format!("{:.1}°", rung.turned),
    ];
    if ladder.screen.is_some() {
        row.push(rung.from_distance.map(measure).unwrap_or_default());
        let share = rung.on_screen.filter(|share| share.is_finite());
        row.push(share.map_or_else(String::new, |share| format!("{:.1}%", 100.0 * share)));
    }
    row.push(match rung.blocks.is_empty() {
        true => String::new(),
        false => out::bad(&format!("blocks: {}", rung.blocks.join(", "))),
    });
    row
}
