"""Use cases: what the web and the command line both call."""
