//! The JSON Schemas of what `--json` prints, made from the documents' types.

use schemars::JsonSchema;
use schemars::generate::SchemaSettings;

/// The schema of the document of some commands, as JSON.
pub fn schema_of<T: JsonSchema>(commands: &str) -> serde_json::Value {
    let settings = SchemaSettings::draft2020_12().for_serialize();
    let mut schema = settings.into_generator().into_root_schema_for::<T>();
    let title = format!("The JSON document of {commands}");
    schema.insert("title".into(), title.into());
    schema.to_value()
}
