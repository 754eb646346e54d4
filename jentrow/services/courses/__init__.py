"""Courses, who teaches them, and who learns in them."""
