//! The file that grows by a line for every model, so that a run can go on that broke off.

use crate::record::RunRecord;
use anyhow::{Context, Result, bail};
use hurmo_formats::plain;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::fs::{File, OpenOptions};
use std::io::{BufRead, BufReader, Write};
use std::path::{Path, PathBuf};
use std::sync::Mutex;

/// A line of a ledger that grows.
#[derive(Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Line {
    /// The first line.
    Run(RunRecord),
    /// A model is being worked on.
    Begun { input: PathBuf, output: PathBuf },
    /// A model was prepared.
    Model(Value),
    /// A model could not be.
    Failed { input: PathBuf, error: String },
}

/// A ledger that grows by a line, as JSON, for whatever happens.
pub struct Ledger {
    file: Mutex<File>,
}

/// What a ledger says that was begun before.
#[derive(Default)]
pub struct Recorded {
    /// The models that were prepared, as they were written down.
    pub models: Vec<Value>,
    /// The outputs that were worked on.
    pub begun: Vec<PathBuf>,
}

impl Ledger {
    /// Begins a ledger anew.
    pub fn begin(path: &Path, run: &RunRecord) -> Result<Self> {
        let file = File::create(path).with_context(|| path.display().to_string())?;
        let ledger = Self {
            file: Mutex::new(file),
        };
        ledger.write(&Line::Run(run.clone()))?;
        Ok(ledger)
    }

    /// Goes on with a ledger, which must be of the same run.
    ///
    /// # Errors
    /// When it can't be read, or is of another run.
    pub fn resume(path: &Path, run: &RunRecord) -> Result<(Self, Recorded)> {
        let named = || path.display().to_string();
        let file = plain::open(path).with_context(named)?;
        let mut recorded = Recorded::default();
        let mut whole = 0;
        let mut reader = BufReader::new(file);
        for number in 1.. {
            let mut text = Vec::new();
            let read = reader.read_until(b'\n', &mut text).with_context(named)?;
            if !text.ends_with(b"\n") {
                // Nothing, or a line that was being written when the run broke off.
                break;
            }
            let line = serde_json::from_slice::<Line>(&text)
                .with_context(|| format!("{}, line {number}: no ledger of hurmo prep", named()))?;
            match (number, line) {
                (1, Line::Run(then)) if then == *run => {}
                (1, Line::Run(then)) => bail!(
                    "{}: was begun {}; --force begins anew",
                    named(),
                    difference(&then, run)
                ),
                (1, _) => bail!("{}, line 1: no ledger of hurmo prep", named()),
                (_, Line::Model(model)) => recorded.models.push(model),
                (_, Line::Begun { output, .. }) => recorded.begun.push(output),
                (_, Line::Run(_) | Line::Failed { .. }) => {}
            }
            whole += read as u64;
        }
        let file = OpenOptions::new()
            .append(true)
            .open(path)
            .with_context(named)?;
        file.set_len(whole).with_context(named)?;
        let ledger = Self {
            file: Mutex::new(file),
        };
        if whole == 0 {
            ledger.write(&Line::Run(run.clone()))?;
        }
        Ok((ledger, recorded))
    }

    /// A model is about to be worked on.
    pub fn begun(&self, input: &Path, output: &Path) -> Result<()> {
        self.write(&Line::Begun {
            input: input.into(),
            output: output.into(),
        })
    }

    /// A model was prepared.
    pub fn done(&self, model: &Value) -> Result<()> {
        self.write(&Line::Model(model.clone()))
    }

    /// A model could not be prepared.
    pub fn failed(&self, input: &Path, error: &str) -> Result<()> {
        self.write(&Line::Failed {
            input: input.into(),
            error: error.into(),
        })
    }

    fn write(&self, line: &Line) -> Result<()> {
        let mut text = serde_json::to_string(line).expect("ledgers are plain data");
        text.push('\n');
        let mut file = self
            .file
            .lock()
            .unwrap_or_else(|broken| broken.into_inner());
        file.write_all(text.as_bytes()).context("the ledger")?;
        file.sync_data().context("the ledger")
    }
}

/// In what a run differs from the one that a ledger was begun for.
fn difference(then: &RunRecord, now: &RunRecord) -> String {
    if then.version != now.version {
        return format!("by version {}, and this is {}", then.version, now.version);
    }
    if then.brief_text != now.brief_text {
        return format!("for another brief than {} as it is now", now.brief);
    }
    let options = |run: &RunRecord| match run.options.is_empty() {
        true => "no options".to_string(),
        false => run.options.join(" "),
    };
    format!("with {}, and this is with {}", options(then), options(now))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn run() -> RunRecord {
        RunRecord {
            version: "1".into(),
            brief: "print".into(),
            brief_text: "name = \"print\"".into(),
            options: vec!["--to=20k".into()],
        }
    }

    #[test]
    fn a_line_that_was_cut_off_is_as_if_never_written() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("ledger.jsonl");
        let ledger = Ledger::begin(&path, &run()).unwrap();
        ledger
            .begun(Path::new("a.obj"), Path::new("out/a.obj"))
            .unwrap();
        ledger.done(&serde_json::json!({ "n": 1 })).unwrap();
        ledger.done(&serde_json::json!({ "n": 2 })).unwrap();
        drop(ledger);
        let whole = std::fs::read(&path).unwrap();
        for cut in 0..whole.len() {
            std::fs::write(&path, &whole[..cut]).unwrap();
            let (ledger, recorded) = Ledger::resume(&path, &run()).unwrap();
            let lines = whole[..cut].iter().filter(|&&byte| byte == b'\n').count();
            assert_eq!(
                recorded.models.len(),
                lines.saturating_sub(2),
                "cut at {cut}"
            );
            ledger.done(&serde_json::json!({ "n": 3 })).unwrap();
            drop(ledger);
            let (_, recorded) = Ledger::resume(&path, &run()).unwrap();
            assert_eq!(recorded.models.last().unwrap()["n"], 3);
        }
    }

    #[test]
    fn another_run_is_not_gone_on_with() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("ledger.jsonl");
        Ledger::begin(&path, &run()).unwrap();
        let refused = |now: RunRecord| {
            let error = Ledger::resume(&path, &now).err().expect("it differs");
            format!("{error:#}")
        };
        let other = RunRecord {
            options: vec![],
            ..run()
        };
        assert!(refused(other).contains("with --to=20k, and this is with no options"));
        let other = RunRecord {
            version: "2".into(),
            ..run()
        };
        assert!(refused(other).contains("by version 1"));
        std::fs::write(&path, "solid\n").unwrap();
        assert!(refused(run()).contains("line 1: no ledger"));
    }
}
