"""Benchmarks: they print tables and are no tests. Absolute times depend on the machine."""
