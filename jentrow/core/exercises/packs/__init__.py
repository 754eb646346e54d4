"""Packs: read, written, held against what a course has, and described."""
