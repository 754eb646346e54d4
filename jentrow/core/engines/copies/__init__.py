"""Learners' own copies of a dataset, whatever the engine: a script is done whole, or not at all."""
