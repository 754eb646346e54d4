"""Database engines behind one small protocol, and the worker processes that run untrusted SQL."""
