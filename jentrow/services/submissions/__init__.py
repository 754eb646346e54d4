"""Submissions as an instructor sees them, and taken in from files."""
