"""Telling queries apart by made-up rows: smallest examples, near misses, blind spots, right by luck."""
