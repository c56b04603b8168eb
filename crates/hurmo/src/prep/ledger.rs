//! What was done, so that it can be proved and repeated: documents, and the file that grows by a
//! line for every model.

use crate::report::AuditDocument;
use crate::story::Step;
use anyhow::{Context, Result, bail};
use hurmo_core::audit::MeshFacts;
use hurmo_core::measure::EachWay;
use hurmo_formats::plain;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use sha2::{Digest, Sha256};
use std::fs::{File, OpenOptions};
use std::io::{BufRead, BufReader, Read, Write};
use std::path::{Path, PathBuf};
use std::sync::Mutex;

/// What holds for all models of a run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct RunRecord {
    /// The version of the program.
    pub version: String,
    /// The name of the brief.
    pub brief: String,
    /// The brief, as text.
    pub brief_text: String,
    /// Other options that change what comes out, as they were given.
    pub options: Vec<String>,
}

/// A file, as it was.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct FileRecord {
    /// Its path.
    pub path: PathBuf,
    /// Its size.
    pub bytes: u64,
    /// Its SHA-256 (FIPS 180-4), in hexadecimal digits.
    pub sha256: String,
}

impl FileRecord {
    /// Reads a file through.
    pub fn of(path: &Path) -> Result<Self> {
        let (mut hash, mut bytes) = (Sha256::new(), 0);
        let mut file = plain::open(path).with_context(|| path.display().to_string())?;
        let mut buffer = vec![0; 1 << 20];
        loop {
            let read = file
                .read(&mut buffer)
                .with_context(|| path.display().to_string())?;
            if read == 0 {
                break;
            }
            hash.update(&buffer[..read]);
            bytes += read as u64;
        }
        let digits = hash
            .finalize()
            .iter()
            .map(|byte| format!("{byte:02x}"))
            .collect();
        Ok(Self {
            path: path.to_path_buf(),
            bytes,
            sha256: digits,
        })
    }

    /// Whether the file is still as it was.
    pub fn holds(&self) -> bool {
        Self::of(&self.path).is_ok_and(|now| now == *self)
    }
}

/// How often a check that blocks found something.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Blocks {
    /// The check.
    pub check: &'static str,
    /// How often before the step.
    pub before: usize,
    /// How often after it.
    pub after: usize,
}

impl Blocks {
    /// Whether the step made it more.
    pub fn grew(&self) -> bool {
        self.after > self.before
    }
}

/// A step that was done.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct StepRecord {
    /// Its name.
    pub step: &'static str,
    /// Its options, as the command of that name takes them.
    pub options: Vec<String>,
    /// What it found to work on.
    pub found: Vec<String>,
    /// What it did.
    pub told: Vec<Step>,
    /// Whether its result was kept; else the model stayed as it was before.
    pub kept: bool,
    /// What it made.
    pub mesh: MeshFacts,
    /// What blocked before or after it.
    pub blocks: Vec<Blocks>,
    /// By what all lengths have been multiplied by then.
    pub scaled: f64,
    /// How far what it made and the model that was read lie apart, sampled, in model units.
    pub from_original: Option<EachWay>,
    /// How long it took, with its audit.
    pub seconds: f64,
    /// The most memory that the whole program had meanwhile.
    pub peak_bytes: Option<u64>,
}

/// Why a job ended before its last step.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Stopped {
    /// The step that ended it, from 1.
    pub step: usize,
    /// Why.
    pub why: String,
}

/// A model that was prepared.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct ModelRecord {
    /// The file that was read.
    pub input: FileRecord,
    /// The file that was written; nothing in a dry run.
    pub output: Option<FileRecord>,
    /// The brief that set the levels.
    pub brief: String,
    /// What there was to say of the files.
    pub notes: Vec<String>,
    /// What was done, in order.
    pub steps: Vec<StepRecord>,
    /// Why it ended early.
    pub stopped: Option<Stopped>,
    /// What the steps or the format could not keep.
    pub lost: Vec<String>,
    /// What was asked for and not reached: a budget.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub missed: Vec<String>,
    /// By what all lengths were multiplied.
    pub scaled: f64,
    /// How far the result and the model that was read lie apart, sampled, in units of the result.
    pub from_original: Option<EachWay>,
    /// The audit of the input.
    pub before: AuditDocument,
    /// The audit of the output, read back from the file; in a dry run, of what would be written.
    pub after: AuditDocument,
    /// Whether all was done and nothing blocks the brief.
    pub passes: bool,
    /// How long all of it took.
    pub seconds: f64,
    /// The most memory that the whole program had meanwhile.
    pub peak_bytes: Option<u64>,
}

/// What is written down of a single model.
#[derive(Serialize)]
pub struct OneLedger<'a> {
    /// The run.
    pub run: &'a RunRecord,
    /// The model.
    pub model: &'a ModelRecord,
}

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
    fn the_hash_is_that_of_the_standard() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("abc");
        std::fs::write(&path, "abc").unwrap();
        let record = FileRecord::of(&path).unwrap();
        // The first example of FIPS 180-4.
        let digits = "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad";
        assert_eq!((record.bytes, record.sha256.as_str()), (3, digits));
        assert!(record.holds());
        std::fs::write(&path, "abd").unwrap();
        assert!(!record.holds());
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
