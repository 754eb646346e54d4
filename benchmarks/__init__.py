"""Speed, as ratios measured in one run: ``python -m benchmarks``."""
