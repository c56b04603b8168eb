//! What an operation did to a model.

use super::boolean::BooleanRecord;
use super::rebuilt::Rebuilt;
use super::statement::{Statement, Value, shorten};
use crate::said;
use crate::text;
use hurmo_core::fill::LeftBecause;
use hurmo_core::measure::{Deviation, PartMeasure, deviation, deviation_of_new};
use hurmo_core::mesh::RimId;
use hurmo_core::thicken::ThickenOutcome as Thickened;
use hurmo_core::{Mesh, Model, fill, mend};
use schemars::JsonSchema;
use serde::Serialize;

/// Samples on each surface when measuring how far a step moved it.
const SAMPLES: usize = 20_000;

/// One step.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct StepReport {
    /// Its name.
    pub step: &'static str,
    /// What it changed; empty when nothing.
    pub did: Vec<Statement>,
    /// Single things that it did.
    pub single: Vec<Statement>,
    /// What it left, and why.
    pub left: Vec<Statement>,
    /// The largest sampled distance by which it moved the surface, in model units.
    pub moved: Option<f64>,
    /// Of a rebuilding: how even the triangles were and are.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rebuilt: Option<Box<Rebuilt>>,
    /// Of a boolean: the solids, how they lie to each other, and their volumes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub boolean: Option<Box<BooleanRecord>>,
}

/// Which way a step's movement is measured.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Moved {
    /// What is there now, from what was there: for steps that take away.
    NewFromOld,
    /// What was there, from what is there now: for steps that add.
    OldFromNew,
    /// Both.
    Both,
}

impl Moved {
    /// Measures how far a step moved the surface.
    pub fn between(self, before: &Mesh, after: &Mesh) -> Option<f64> {
        let found: Option<Deviation> = match self {
            Moved::NewFromOld => deviation_of_new(after, before, SAMPLES),
            Moved::OldFromNew => deviation_of_new(before, after, SAMPLES),
            Moved::Both => deviation(before, after, SAMPLES),
        };
        found.map(|deviation| deviation.max)
    }
}

impl StepReport {
    /// A step of this name that did nothing.
    pub fn of(step: &'static str) -> Self {
        Self {
            step,
            did: Vec::new(),
            single: Vec::new(),
            left: Vec::new(),
            moved: None,
            rebuilt: None,
            boolean: None,
        }
    }

    /// A mend.
    pub fn mended(before: &Model, outcome: &mend::MendOutcome) -> Self {
        let mut did: Vec<Statement> = outcome.changes.iter().map(changed).collect();
        if !outcome.dropped.is_empty() {
            did.push(parts_dropped(&outcome.dropped));
        }
        let mut single: Vec<Statement> = outcome.removed.iter().map(removed).collect();
        shorten(&mut single, 6);
        Self {
            did,
            single,
            left: {
                let mut left: Vec<Statement> = outcome.left.iter().map(left_by_mending).collect();
                left.extend(perhaps_wanted(&outcome.perhaps_wanted));
                left
            },
            moved: Moved::NewFromOld.between(&before.mesh, &outcome.model.mesh),
            ..Self::of("mend")
        }
    }

    /// A step whose result was thrown away.
    pub fn not_kept(step: &'static str, why: Statement) -> Self {
        Self {
            left: vec![said!("not-kept", "tried and not kept: {why}", why = why)],
            ..Self::of(step)
        }
    }

    /// A fill.
    pub fn filled(before: &Model, outcome: &fill::FillOutcome) -> Self {
        let mut did = Vec::new();
        if !outcome.dropped.is_empty() {
            did.push(parts_dropped(&outcome.dropped));
        }
        if outcome.trimmed > 0 {
            did.push(said!(
                "border-trimmed",
                "{faces:face} trimmed off borders",
                faces = outcome.trimmed
            ));
        }
        if !outcome.filled.is_empty() {
            did.push(said!(
                "rims-closed",
                "{rims:rim} closed with {faces:face} ({area} square units)",
                rims = outcome.filled.len(),
                faces = outcome.filled.iter().map(|rim| rim.faces).sum::<usize>(),
                area = outcome.filled.iter().map(|rim| rim.area).sum::<f64>(),
            ));
        }
        let mut left: Vec<Statement> = outcome.left.iter().map(rim_left).collect();
        let meets = outcome.filled.iter().filter(|rim| rim.meets_others);
        left.extend(meets.map(|rim| {
            said!(
                "fill-meets-others",
                "{rim} closed, but its faces meet others",
                rim = rim.rim.to_string()
            )
        }));
        shorten(&mut left, 4);
        for (rim, parts) in &outcome.floating {
            let mut names: Vec<String> = parts.iter().map(ToString::to_string).collect();
            text::shorten(&mut names, 4);
            left.push(said!(
                "islands",
                "{rim} has {count:part} in it: {parts: }; --islands join takes in what floats in a rim, \
                 --islands drop drops it",
                rim = rim.to_string(),
                count = parts.len(),
                parts = names,
            ));
        }
        if outcome.broken_chains > 0 {
            left.push(said!(
                "broken-chains",
                "{chains:chain} of open edges left: they end at non-manifold edges",
                chains = outcome.broken_chains
            ));
        }
        if outcome.not_asked > 0 {
            left.push(said!(
                "not-asked-for",
                "{rims:rim} not asked for",
                rims = outcome.not_asked
            ));
        }
        Self {
            did,
            single: {
                let mut rims: Vec<Statement> = outcome.filled.iter().map(rim_closed).collect();
                shorten(&mut rims, 8);
                rims
            },
            left,
            moved: Moved::OldFromNew.between(&before.mesh, &outcome.model.mesh),
            ..Self::of("fill")
        }
    }

    /// A band between two rims.
    pub fn bridged(before: &Model, rims: [usize; 2], bridged: &fill::Bridged) -> Self {
        let [one, two] = rims.map(|rim| RimId::new(rim).to_string());
        let rows = match bridged.rows {
            0 => said!("triangles", "triangles"),
            rows => said!("quads", "quads in {rows:row}", rows = rows),
        };
        let meets = bridged
            .meets_others
            .then(|| said!("band-meets-others", "the band meets other faces, or itself"));
        Self {
            did: vec![said!(
                "rims-joined",
                "{one} and {two} joined with {faces:face}: {of}",
                one = one,
                two = two,
                faces = bridged.faces,
                of = rows,
            )],
            left: meets.into_iter().collect(),
            moved: Moved::OldFromNew.between(&before.mesh, &bridged.model.mesh),
            ..Self::of("fill")
        }
    }

    /// Walls given to sheets.
    pub fn thickened(before: &Model, outcome: &Thickened, thickness: f64) -> Self {
        let mut did = Vec::new();
        if !outcome.thickened.is_empty() {
            let mut names: Vec<_> = outcome.thickened.iter().map(ToString::to_string).collect();
            text::shorten(&mut names, 6);
            did.push(said!(
                "sheets-given-walls",
                "{count:sheet} given a wall of {thickness} with {faces:face}: {parts: }",
                count = outcome.thickened.len(),
                thickness = thickness,
                faces = outcome.faces,
                parts = names,
            ));
        }
        let mut left: Vec<Statement> = outcome
            .left
            .iter()
            .map(|(part, why)| {
                said!(
                    "left-without-wall",
                    "{part} left without a wall: {why}",
                    part = part.to_string(),
                    why = Value::reason(why),
                )
            })
            .collect();
        shorten(&mut left, 4);
        if outcome.crossing > 0 {
            left.push(said!(
                "walls-cross",
                "{faces:face} of the sheets and their walls cross others: the wall is thicker than they bend",
                faces = outcome.crossing
            ));
        }
        Self {
            did,
            left,
            moved: Moved::OldFromNew.between(&before.mesh, &outcome.model.mesh),
            ..Self::of("thicken")
        }
    }

    /// Whether it neither did nor left anything.
    pub fn is_empty(&self) -> bool {
        self.did.is_empty() && self.left.is_empty()
    }
}

/// A change that a mend made.
fn changed(change: &mend::Change) -> Statement {
    said!(
        "mended",
        "{count} {change}",
        count = change.count,
        change = change.agreeing()
    )
}

/// Parts that were dropped, with their sizes.
pub fn parts_dropped(dropped: &[PartMeasure]) -> Statement {
    said!(
        "parts-dropped",
        "{count:part} dropped: {parts}",
        count = dropped.len(),
        parts = sizes(dropped)
    )
}

fn sizes(parts: &[PartMeasure]) -> Vec<Statement> {
    let of = |part: &PartMeasure| {
        said!(
            "part",
            "{part} ({faces:face}, {across} across)",
            part = part.part.to_string(),
            faces = part.faces,
            across = part.bounds.diagonal(),
        )
    };
    let mut list: Vec<Statement> = parts.iter().map(of).collect();
    shorten(&mut list, 3);
    list
}

/// Small parts that were left, and how to drop them.
fn perhaps_wanted(parts: &[PartMeasure]) -> Option<Statement> {
    let names: Vec<String> = parts.iter().map(|part| part.part.to_string()).collect();
    (!parts.is_empty()).then(|| {
        said!(
            "perhaps-wanted",
            "{count:floating part} left, perhaps wanted (closed, within the main part's bounds): {parts}; \
             `hurmo parts --drop {names:,}` drops {them}",
            count = parts.len(),
            parts = sizes(parts),
            names = names,
            them = Value::Grammar(if parts.len() == 1 { "it" } else { "them" }),
        )
    })
}

/// Of which group faces were dropped.
fn removed(removed: &mend::Removed) -> Statement {
    let names: Vec<String> = removed.from.iter().map(|name| text::short(name)).collect();
    said!(
        "faces-dropped",
        "{faces:face} dropped from {from}",
        faces = removed.faces,
        from = names
    )
}

/// A rim that was left open, and why.
fn rim_left(left: &fill::Left) -> Statement {
    said!(
        "rim-left",
        "{rim} ({edges:edge}) left: {why}{way_out}",
        rim = left.rim.to_string(),
        edges = left.edges,
        why = Value::reason(&left.reason),
        way_out = way_out(left.reason),
    )
}

/// A rim that was closed: how, with what, and how far from flat.
fn rim_closed(rim: &fill::Filled) -> Statement {
    said!(
        "rim-closed",
        "{rim} ({edges:edge}) {surface}{plainer}: {faces:face}, {area} square units{rise}{held}{islands}",
        rim = rim.rim.to_string(),
        edges = rim.edges,
        surface = rim.surface.name(),
        plainer =
            (rim.why_plainer).map(|why| said!("plainer", " ({why})", why = Value::reason(&why))),
        faces = rim.faces,
        area = rim.area,
        rise = (rim.rise > 0.0).then(|| said!("rise", ", rises {by}", by = rim.rise)),
        held = rim.held_back.then(|| said!(
            "held-back",
            ", held back in places where it would have met other faces"
        )),
        islands = (rim.islands > 0).then(|| said!(
            "islands",
            ", {count:island} taken in",
            count = rim.islands
        )),
    )
}

/// What a mend left, with the option or command that deals with it.
fn left_by_mending(left: &mend::Change) -> Statement {
    let them = Value::Grammar(if left.count == 1 { "it" } else { "them" });
    let way_out = match left {
        left if left.is(mend::LEFT_APART) => Some(said!("near-0", "; --near 0 does")),
        left if left.is(mend::ODD_SIDES) => Some(said!(
            "also-nonmanifold-edges",
            "; --also nonmanifold-edges does"
        )),
        left if left.is(mend::ONE_SIDED) => Some(said!(
            "cut-one-sided",
            "; --cut-one-sided cuts {them} open",
            them = them.clone()
        )),
        left if left.is(mend::OPENED) => Some(said!(
            "fill",
            "; `hurmo fill` closes {them}",
            them = them.clone()
        )),
        _ => None,
    };
    said!(
        "left",
        "{count} {change}{way_out}",
        count = left.count,
        change = left.agreeing(),
        way_out = way_out,
    )
}

/// The option that closes a rim all the same.
fn way_out(reason: LeftBecause) -> Option<Statement> {
    match reason {
        LeftBecause::Crosses => Some(said!("may-cross", ": --may-cross closes it all the same")),
        LeftBecause::Floats => Some(said!(
            "islands",
            ": --islands says whether that is to be dropped or joined"
        )),
        _ => None,
    }
}
