"""Packs taken in and written, and the demo data."""
