"""Benchmarks: `make bench` runs them all, prints one table and writes it to docs/performance.md.

No figure here is asserted anywhere; what tests assert is counts of work. Every figure is a ratio to a baseline run in
turn with it in the same process, or a latency with its median and 95th percentile.
"""
