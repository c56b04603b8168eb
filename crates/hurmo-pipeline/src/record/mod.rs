//! What happened, as plain data that serialises.

mod boolean;
mod comparison;
mod conversion;
mod cut;
mod job;
mod json;
mod ladder;
mod levels;
mod many;
mod model;
mod parts;
mod prepared;
mod rebuilt;
mod rims;
mod run;
mod schema;
mod statement;
mod step;
mod stopped;

pub use boolean::{
    BooleanRecord, CellRecord, EvenedRecord, RoundedRecord, SeamRecord, SolidRecord,
};
pub use comparison::ComparisonDocument;
pub use conversion::{Conversion, lost_by_format};
pub use cut::{CutDocument, PegsRecord, PieceRecord, PlaneRecord};
pub use job::JobReport;
pub use json::json;
pub use ladder::{LadderDocument, Pick, RungDocument, Screen};
pub use levels::LevelReport;
pub use many::{Apart, LineOutcome, Most, PreparedFigures, PreparedLine};
pub use model::{
    AuditDocument, AuditReport, FindingDocument, ModelReport, PlaceDocument, Unreadable,
};
pub use parts::{PartsDocument, PartsNote, lies, surface};
pub use prepared::{Blocks, ModelRecord, OneLedger, StepRecord};
pub use rebuilt::{Before, Rebuilt};
pub use rims::RimsDocument;
pub use run::{FileRecord, RunRecord};
pub use schema::schema_of;
pub use statement::{Statement, Value, shorten};
pub use step::{Moved, StepReport};
pub use stopped::{Grown, Stopped, StoppedBecause};
