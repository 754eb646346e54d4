"""Texts in dialects whose engines cannot run here: translated in steps, refused where they would be."""
