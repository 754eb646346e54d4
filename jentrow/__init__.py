"""Jentrow: sample tables, SQL exercises over them, and answers graded by their result sets."""

__version__ = "0.1.0"
