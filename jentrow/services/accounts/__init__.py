"""Signing in, links that work once, and who may see what."""
