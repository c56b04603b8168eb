//! The list of rims that `hurmo fill` prints.

use super::{Table, Text};
use crate::out::{self, counted, measure};
use hurmo_core::fill::{Kind, Surface};
use hurmo_pipeline::record::RimsDocument;

/// How many rims the list shows.
const MOST: usize = 40;

impl Text for RimsDocument {
    fn text(&self) -> String {
        let name = out::bold(&self.file);
        if self.rims.is_empty() {
            return format!("{name}  no rims: no surface ends anywhere\n");
        }
        let count = |kind: Kind| self.rims.iter().filter(|rim| rim.kind == kind).count();
        let kinds: Vec<String> = [
            (Kind::Hole, "hole"),
            (Kind::OpenEnd, "open end"),
            (Kind::Border, "border"),
            (Kind::Seam, "seam"),
            (Kind::UnevenSeam, "uneven seam"),
        ]
        .into_iter()
        .filter(|(kind, _)| count(*kind) > 0)
        .map(|(kind, noun)| counted(count(kind), noun))
        .collect();
        let rims = counted(self.rims.len(), "rim");
        let mut text = format!("{name}  {rims}: {}\n\n", kinds.join(", "));
        let mut table = Table::new(&[
            "rim", "part", ">edges", ">length", ">bend", "fills", "kind", "at",
        ]);
        for rim in self.rims.iter().take(MOST) {
            table.row([
                rim.rim.to_string(),
                rim.part.map_or("-".into(), |part| part.to_string()),
                out::count(rim.edges),
                measure(rim.length),
                format!("{:.1}%", 100.0 * rim.bend),
                match rim.kind {
                    Kind::Seam | Kind::UnevenSeam => "-".into(),
                    _ => Surface::fitting(rim).name().to_string(),
                },
                rim.kind.words().to_string(),
                out::position(rim.at),
            ]);
        }
        text += &table.text();
        if self.rims.len() > MOST {
            let more = out::count(self.rims.len() - MOST);
            text += &format!("  and {more} shorter ones; --json lists all\n");
        }
        text
    }
}
