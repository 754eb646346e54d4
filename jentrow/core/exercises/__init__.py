"""Exercises: what is asked, what is due, and what an answer is worth."""
