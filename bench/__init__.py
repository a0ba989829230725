"""Benchmarks: ratios within one run, because machines differ."""
