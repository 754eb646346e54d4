"""Worker processes and their bounds. Nothing here knows an engine."""
