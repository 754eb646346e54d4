"""Exercises and sheets: seen, written, proved, kept in versions."""
