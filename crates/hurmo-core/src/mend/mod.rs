//! mend
