"""Marks: which attempts count, what sheets and a course come to, and files of results."""
