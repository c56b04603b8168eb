//! Models to pixels: a camera, a rasteriser in software, words, and sheets.
//!
//! ```text
//! mesh + findings ─▶ Scene (triangles with colours, marks on faults)
//!                      └─ View ─▶ rows of pixels, four samples each ─▶ Picture ─▶ PNG
//!                                                         sheets, legends, close-ups ─┘
//! ```
//!
//! What a mark's surroundings hide shows through them, paler, so that faults inside a model
//! are seen too.

mod beside;
mod camera;
mod closeup;
pub mod color;
mod flow;
mod ladder;
mod pair;
mod picture;
mod raster;
mod scene;
mod sheet;
mod skins;
mod spot;
mod text;
mod uv;

pub use beside::{Beside, side_by_side};
pub use camera::{Projection, View};
pub use closeup::{Closeup, worst_places};
pub use flow::{FlowSheet, flow_sheet};
pub use ladder::{Rung, ladder_sheet};
pub use pair::{Pair, before_beside_after};
pub use picture::{Frame, Picture, PictureError};
pub use scene::{Marks, Scene, Show};
pub use sheet::{Legend, LegendLine, closeups, draw_fitting, overview, single};
pub use spot::Spot;
pub use text::Type;
pub use uv::uv_sheet;
