//! The JSON Schema of the audit's document, made from its types.

use super::AuditReport;
use schemars::generate::SchemaSettings;

/// The schema, as JSON.
pub fn audit_schema() -> serde_json::Value {
    let settings = SchemaSettings::draft2020_12().for_serialize();
    let mut schema = settings
        .into_generator()
        .into_root_schema_for::<AuditReport>();
    schema.insert("title".into(), "The JSON document of `hurmo audit`".into());
    schema.to_value()
}
