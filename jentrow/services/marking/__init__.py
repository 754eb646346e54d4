"""Marking: outcome groups, decisions, regrading, marks, publishing."""
