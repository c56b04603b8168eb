//! What moves a model that is to stand still.

use super::scene_of;
use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, Needs, Remedy};

pub(in super::super) const UNWANTED_ANIMATION: Check = Check {
    name: "unwanted-animation",
    counts: "animations",
    harm: "a stray key moves, turns or scales the model as soon as it is played",
    remedy: Remedy::ByHand,
    drawing: r"
    frame 0    frame 1
    [    ]     [  ]      who shrank it?",
    levels: Levels::new(Note, Note, Warn, Warn),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let scene = scene_of(analysis);
        let named = scene.animations.iter().map(|name| (name.clone(), None));
        Ok(Found::named(analysis, search.limit, named.collect()))
    },
};
