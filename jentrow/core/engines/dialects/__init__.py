"""Dialects whose engines cannot run here: their texts are translated, and run on a stand-in."""
