//! How many random cases tests try.

use proptest::prelude::ProptestConfig;

/// This many cases; or as many as `PROPTEST_CASES` says, for a long run of one test.
pub fn cases(usual: u32) -> ProptestConfig {
    let mut config = ProptestConfig::default();
    if std::env::var_os("PROPTEST_CASES").is_none() {
        config.cases = usual;
    }
    config
}
