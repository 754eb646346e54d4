"""Rejections of engines in a learner's words: what all engines have in common."""
