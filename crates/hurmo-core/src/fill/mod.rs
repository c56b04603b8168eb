//! fill
