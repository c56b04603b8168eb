//! 3MF (3MF Consortium, core specification 1.3): a zip of parts, one of which is an XML document of
//! objects, what they consist of, and which are to be built.
//!
//! ```text
//! zip ─package─▶ XML ─document─▶ objects, components, items ─read─▶ model, with its scene
//! ```
//!
//! What may be built stands where its item puts it; an object that several items or components name is
//! an instance each. z points up, and the file says its unit.

mod document;
mod package;
mod read;
mod write;

pub(crate) use package::looks_like;
pub(crate) use write::write;

use crate::{ReadError, Remarks};
use hurmo_core::Model;

pub(crate) fn read(bytes: &[u8], remarks: &mut Remarks) -> Result<Model, ReadError> {
    let mut package = package::Package::open(bytes)?;
    let document = package.with_document(document::parse)?;
    read::model(document, remarks)
}
