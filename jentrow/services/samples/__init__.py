"""Samples: listed, made, looked at, changed; queries tried on them."""
