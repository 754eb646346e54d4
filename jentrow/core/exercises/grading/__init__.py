"""The way from an answer to its verdict and mark: measure, run, judge, mark."""
