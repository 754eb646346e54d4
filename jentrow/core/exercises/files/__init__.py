"""Exercises, sheets and rules as they are written in files and drafts."""
