//! Progress on a terminal, for work that takes over half a second.

use crate::out;
use hurmo_core::progress::Observer;
use hurmo_pipeline::Watcher;
use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use std::io::IsTerminal;
use std::sync::Mutex;
use std::time::{Duration, Instant};

const PATIENCE: Duration = Duration::from_millis(500);

/// Shows the stage that runs, and says what there is to note.
pub struct Terminal {
    bar: ProgressBar,
    shown: bool,
    began: Mutex<Instant>,
    /// Whether only results are wanted.
    quiet: bool,
    /// Whether each stage is named as it begins, with the time since the first.
    verbose: bool,
    first: Instant,
}

impl Terminal {
    /// Progress on standard error, if that is a terminal; or a line a stage, or nothing at all.
    pub fn new(quiet: bool, verbose: bool) -> Self {
        let shown = !quiet && !verbose && std::io::stderr().is_terminal();
        Self {
            bar: ProgressBar::with_draw_target(Some(0), ProgressDrawTarget::hidden()),
            shown,
            began: Mutex::new(Instant::now()),
            quiet,
            verbose,
            first: Instant::now(),
        }
    }

    fn show_if_slow(&self) {
        let waited = self.began.lock().map(|began| began.elapsed());
        if self.shown && self.bar.is_hidden() && waited.is_ok_and(|waited| waited > PATIENCE) {
            self.bar.set_draw_target(ProgressDrawTarget::stderr());
        }
    }
}

impl Observer for Terminal {
    fn begin(&self, what: &str, steps: u64) {
        if self.verbose {
            let since = self.first.elapsed().as_secs_f64();
            out::note(&format!("{since:8.3} s  {what}"));
        }
        self.show_if_slow();
        let form = match steps {
            0 => "  {msg} {elapsed}",
            _ => "  {msg} {bar:30} {pos}/{len} {per_sec} {eta}",
        };
        if let Ok(style) = ProgressStyle::with_template(form) {
            self.bar.set_style(style);
        }
        self.bar.set_length(steps);
        self.bar.set_position(0);
        self.bar.set_message(what.to_string());
    }

    fn at(&self, step: u64) {
        self.show_if_slow();
        self.bar.set_position(step);
    }
}

impl Watcher for Terminal {
    fn note(&self, text: &str) {
        if !self.quiet {
            self.clear();
            out::note(text);
        }
    }

    fn clear(&self) {
        self.bar.finish_and_clear();
        self.bar.set_draw_target(ProgressDrawTarget::hidden());
    }
}
