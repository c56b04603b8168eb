//! Signals that end the process.

/// Ends the process on SIGINT and SIGTERM: unfinished files go, and what this run made; exit
/// code 130. A caller that has these signals ignored (`nohup`) keeps them so.
pub fn end_cleanly() {
    // Without a handler, the system ends the process, and parts may be left.
    let _ = ctrlc::try_set_handler(|| {
        hurmo_formats::unfinished::remove_all(|| {
            hurmo_pipeline::undo::all();
            crate::out::note("interrupted");
            std::process::exit(130)
        })
    });
}
