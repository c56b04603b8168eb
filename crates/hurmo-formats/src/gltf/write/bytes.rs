//! The one buffer of a file that is written, with its views and accessors.

use gltf_json::accessor::{FLOAT, UNSIGNED_INT, UNSIGNED_SHORT};
use gltf_json::buffer::{ARRAY_BUFFER, ELEMENT_ARRAY_BUFFER};
use serde_json::{Map, Value, json};

/// Indices from here on take four bytes: the highest of two bytes means something else.
const LARGE: usize = u16::MAX as usize;

/// Bytes, and what is where in them.
#[derive(Default)]
pub struct Buffer {
    pub bytes: Vec<u8>,
    pub views: Vec<Value>,
    pub accessors: Vec<Value>,
    /// Whether there was a position that single precision can't hold.
    pub is_beyond: bool,
}

impl Buffer {
    /// Three floats a vertex, with their bounds.
    pub fn positions(&mut self, values: &[[f32; 3]]) -> usize {
        let (mut low, mut high) = ([f32::INFINITY; 3], [f32::NEG_INFINITY; 3]);
        for value in values {
            for axis in 0..3 {
                low[axis] = low[axis].min(value[axis]);
                high[axis] = high[axis].max(value[axis]);
            }
        }
        let ends = [low, high];
        self.is_beyond |= !ends.as_flattened().iter().all(|end| end.is_finite());
        let accessor = json!({
            "componentType": FLOAT, "type": "VEC3", "count": values.len(), "min": low, "max": high,
        });
        self.vectors(values, accessor)
    }

    /// Floats, this many a vertex.
    pub fn floats<const N: usize>(&mut self, values: &[[f32; N]]) -> usize {
        let kind = format!("VEC{N}");
        let accessor = json!({"componentType": FLOAT, "type": kind, "count": values.len()});
        self.vectors(values, accessor)
    }

    fn vectors<const N: usize>(&mut self, values: &[[f32; N]], accessor: Value) -> usize {
        let from = self.begin();
        self.bytes.reserve(values.len() * N * 4);
        for value in values.as_flattened() {
            self.bytes.extend_from_slice(&value.to_le_bytes());
        }
        self.end(from, Some(ARRAY_BUFFER), accessor)
    }

    /// Shares from 0 to 1, four a vertex, in two bytes each.
    pub fn shares(&mut self, values: impl ExactSizeIterator<Item = [f32; 4]>) -> usize {
        let accessor = json!({
            "componentType": UNSIGNED_SHORT, "type": "VEC4", "count": values.len(),
            "normalized": true,
        });
        let from = self.begin();
        let whole = |share: f32| (share.clamp(0.0, 1.0) * 65535.0).round() as u16;
        for share in values.flatten() {
            self.bytes.extend_from_slice(&whole(share).to_le_bytes());
        }
        self.end(from, Some(ARRAY_BUFFER), accessor)
    }

    /// Indices of this many vertices.
    pub fn indices(&mut self, indices: &[u32], vertices: usize) -> usize {
        let from = self.begin();
        let is_large = vertices > LARGE;
        match is_large {
            true => indices
                .iter()
                .for_each(|i| self.bytes.extend_from_slice(&i.to_le_bytes())),
            false => (indices.iter())
                .for_each(|&i| self.bytes.extend_from_slice(&(i as u16).to_le_bytes())),
        }
        let kind = if is_large {
            UNSIGNED_INT
        } else {
            UNSIGNED_SHORT
        };
        let accessor = json!({"componentType": kind, "type": "SCALAR", "count": indices.len()});
        self.end(from, Some(ELEMENT_ARRAY_BUFFER), accessor)
    }

    /// An accessor of which all but its bytes is known.
    pub fn kept(&mut self, accessor: &Map<String, Value>, bytes: &[u8]) -> usize {
        let from = self.begin();
        self.bytes.extend_from_slice(bytes);
        self.end(from, None, Value::Object(accessor.clone()))
    }

    /// A file within the file; the number of its view.
    pub fn file(&mut self, bytes: &[u8]) -> usize {
        let from = self.begin();
        self.bytes.extend_from_slice(bytes);
        self.view(from, None)
    }

    /// Every view begins at a multiple of four.
    fn begin(&mut self) -> usize {
        self.bytes.resize(self.bytes.len().next_multiple_of(4), 0);
        self.bytes.len()
    }

    fn end(&mut self, from: usize, target: Option<u32>, mut accessor: Value) -> usize {
        accessor["bufferView"] = self.view(from, target).into();
        self.accessors.push(accessor);
        self.accessors.len() - 1
    }

    fn view(&mut self, from: usize, target: Option<u32>) -> usize {
        let length = self.bytes.len() - from;
        let mut view = json!({"buffer": 0, "byteOffset": from, "byteLength": length});
        if let Some(target) = target {
            view["target"] = target.into();
        }
        self.views.push(view);
        self.views.len() - 1
    }
}
