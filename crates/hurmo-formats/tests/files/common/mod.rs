//! Files made piece by piece.

use serde_json::{Value, json};

/// A GLB under construction.
pub struct Builder {
    pub json: Value,
    pub bytes: Vec<u8>,
}

impl Builder {
    pub fn new() -> Self {
        Self {
            json: json!({
                "asset": {"version": "2.0"},
                "accessors": [], "bufferViews": [], "meshes": [], "nodes": [],
            }),
            bytes: Vec::new(),
        }
    }

    pub fn push(&mut self, list: &str, value: Value) -> usize {
        let list = self.json[list].as_array_mut().unwrap();
        list.push(value);
        list.len() - 1
    }

    pub fn view(&mut self, bytes: &[u8]) -> usize {
        self.bytes.resize(self.bytes.len().next_multiple_of(4), 0);
        let from = self.bytes.len();
        self.bytes.extend(bytes);
        let view = json!({"buffer": 0, "byteOffset": from, "byteLength": bytes.len()});
        self.push("bufferViews", view)
    }

    /// An accessor of floats, this many a time.
    pub fn floats(&mut self, each: usize, values: &[f32]) -> usize {
        let bytes: Vec<u8> = values.iter().flat_map(|v| v.to_le_bytes()).collect();
        let view = self.view(&bytes);
        let kind = ["", "SCALAR", "VEC2", "VEC3", "VEC4"][each];
        self.push(
            "accessors",
            json!({"bufferView": view, "componentType": 5126, "type": kind, "count": values.len() / each}),
        )
    }

    pub fn indices(&mut self, values: &[u16]) -> usize {
        let bytes: Vec<u8> = values.iter().flat_map(|v| v.to_le_bytes()).collect();
        let view = self.view(&bytes);
        self.push(
            "accessors",
            json!({"bufferView": view, "componentType": 5123, "type": "SCALAR", "count": values.len()}),
        )
    }

    pub fn glb(&self) -> Vec<u8> {
        let mut json = self.json.clone();
        json["buffers"] = json!([{"byteLength": self.bytes.len()}]);
        glb(&json, &self.bytes)
    }
}

/// A GLB of a document and its bytes.
pub fn glb(json: &Value, bytes: &[u8]) -> Vec<u8> {
    let mut json = serde_json::to_vec(json).unwrap();
    json.resize(json.len().next_multiple_of(4), b' ');
    let mut bytes = bytes.to_vec();
    bytes.resize(bytes.len().next_multiple_of(4), 0);
    let four = |number: usize| (number as u32).to_le_bytes();
    let length = 12 + 8 + json.len() + 8 + bytes.len();
    let mut file = b"glTF".to_vec();
    file.extend([four(2), four(length), four(json.len())].concat());
    file.extend(b"JSON");
    file.extend(&json);
    file.extend(four(bytes.len()));
    file.extend(b"BIN\0");
    file.extend(&bytes);
    file
}
