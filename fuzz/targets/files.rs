//! Model files of all formats; the first byte says which.
#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|input: &[u8]| {
    let Some((format, bytes)) = hurmo_fuzz::format_of(input) else {
        return;
    };
    if let Ok(loaded) = hurmo_formats::read_bytes(bytes, Some(format)) {
        hurmo_fuzz::worked_on(&loaded.model);
    }
});
